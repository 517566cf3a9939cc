"""What is delivered and told is what the schemas say, which are written by hand, by an independent validator."""

import json
from functools import cache
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.deliver import EXPORTERS
from knitground.core.deliver.schema import SCHEMAS
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import poke, tile
from test_live import Follower, followed  # noqa: F401 - a fixture

DEMO = Path(__file__).resolve().parents[1] / "demo" / "apiary"
GROUNDS = ("long-roof", "glasshouse", "chimneys", "terrace", "comb")
CHECKS = {name: jsonschema.Draft202012Validator(schema) for name, schema in SCHEMAS.items()}


@cache
def demo() -> Derived:
    return Derived(Document.load(DEMO))


@cache
def written(ground: str) -> str:
    from knitground.core.deliver.exporter import Order
    from knitground.core.deliver.game_json import JsonOptions, make

    order = Order(demo(), ground, JsonOptions(), lambda part, ending: f"{part or 'map'}{ending}")
    return next(file.data.decode() for file in make(order) if file.name == "map.json")


@pytest.mark.parametrize("name", SCHEMAS)
def test_the_schemas_are_schemas(name):
    jsonschema.Draft202012Validator.check_schema(SCHEMAS[name])


@pytest.mark.parametrize("options", [{}, {"packed": True, "turned": "flags", "edge": 1, "side": 256}])
@pytest.mark.parametrize("ground", GROUNDS)
def test_every_ground_of_the_demo_is_what_the_schema_says(ground, options, tmp_path):
    EXPORTERS["json"].write(demo(), ground, tmp_path / "map.json", options=options)
    CHECKS["map"].validate(json.loads((tmp_path / "map.json").read_text()))


def test_the_tileset_is_what_the_schema_says(tmp_path):
    EXPORTERS["tileset"].write(demo(), "long-roof", tmp_path / "tiles.json")
    CHECKS["tileset"].validate(json.loads((tmp_path / "tiles.json").read_text()))


def test_every_message_is_what_the_schema_says(followed):  # noqa: F811
    document, follower = followed
    poke(document, "areas", "corners", np.s_[3:9, 3:9], 2)
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(6, 3)))
    follower.hub.want(follower.reader, "nowhere")
    follower.listen()
    kinds = {message["type"] for message in follower.heard}
    assert kinds == {"hello", "whole", "cells", "tiles", "said"}
    for message in follower.heard:
        CHECKS["live"].validate(json.loads(json.dumps(message)))
    roof = Follower(type(follower.hub)(demo()))
    for message in roof.listen():
        CHECKS["live"].validate(json.loads(json.dumps(message)))


@given(st.randoms(use_true_random=False))
def test_a_map_that_lacks_something_or_has_too_much_is_refused(chance):
    content = json.loads(written("chimneys"))
    broken = chance.choice(["lacks", "more", "wrong"])
    if broken == "lacks":
        del content[chance.choice(sorted(CHECKS["map"].schema["required"]))]
    elif broken == "more":
        chance.choice([content, content["tileset"], content["layers"][0]])["surplus"] = 1
    else:
        content[chance.choice(["width", "grid", "layers", "tileset", "wraps_x"])] = chance.choice([None, -1, "x", 1.5])
    assert not CHECKS["map"].is_valid(content)


@pytest.mark.parametrize(
    ("name", "file"), [("map", "delivered-map"), ("tileset", "delivered-tileset"), ("live", "live-link")]
)
def test_the_schemas_that_ship_are_current(name, file):
    shipped = json.loads((DEMO.parents[1] / "docs" / f"{file}.schema.json").read_text())
    assert shipped == json.loads(json.dumps(SCHEMAS[name]))
