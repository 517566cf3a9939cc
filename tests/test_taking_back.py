"""A delivered map comes back as a project with the same cells, the same things and the same properties."""

import json
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from knitground.core.deliver import EXPORTERS
from knitground.core.deliver.taking_back import project_from_map
from knitground.core.errors import KnitGroundError
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from test_readers import unkind

DEMO = Path(__file__).resolve().parents[1] / "demo" / "apiary"
GROUNDS = ("long-roof", "glasshouse", "chimneys", "terrace", "comb")
WAYS = ({}, {"packed": True, "turned": "flags", "edge": 1, "side": 256})


@cache
def demo() -> Derived:
    return Derived(Document.load(DEMO))


def there_and_back(derived: Derived, ground: str, folder: Path, options: dict) -> tuple[dict, dict]:
    """What was delivered, and what is delivered of it once it was taken back and saved; the pictures are the same."""
    EXPORTERS["json"].write(derived, ground, folder / "map.json", options=options)
    EXPORTERS["png"].write(derived, ground, folder / "map.png")
    project_from_map(folder / "map.json").save(folder / "project")
    back = Document.load(folder / "project")
    name = back.project.grounds[0].id
    EXPORTERS["json"].write(Derived(back), name, folder / "again.json")
    EXPORTERS["png"].write(Derived(back), name, folder / "again.png")
    pictures = [np.asarray(Image.open(folder / one)).astype(int) for one in ("map.png", "again.png")]
    assert np.abs(pictures[0] - pictures[1]).max() <= 1
    return tuple(json.loads((folder / one).read_text()) for one in ("map.json", "again.json"))


@pytest.mark.parametrize("options", WAYS, ids=["plain", "packed"])
@pytest.mark.parametrize("ground", GROUNDS)
def test_the_demo_comes_back(ground, options, tmp_path):
    before, after = there_and_back(demo(), ground, tmp_path, options)
    assert [layer["name"] for layer in before["layers"]] == [layer["name"] for layer in after["layers"]]
    for name in ("grid", "width", "height", "wraps_x", "wraps_y", "tags", "properties", "background"):
        assert before.get(name) == after.get(name)
    for one, other in zip(before["layers"], after["layers"], strict=True):
        things = one.get("things", []) if one.get("kind") == "props" else []
        assert [_bare(thing) for thing in things] == [_bare(thing) for thing in other.get("things", [])]
    said = [sorted(json.dumps(_told(tile)) for tile in content["tiles"].values()) for content in (before, after)]
    if not options:
        assert said[0] == said[1]


def _bare(thing: dict) -> dict:
    return {name: value for name, value in thing.items() if name not in ("tile", "picture", "light")}


def _told(tile: dict) -> dict:
    return {name: tile[name] for name in ("tags", "properties", "walkable", "collision", "shapes") if name in tile}


@pytest.mark.parametrize("options", WAYS, ids=["plain", "packed"])
def test_what_is_moved_tinted_turned_and_deep_comes_back(options, document, tmp_path):
    there_and_back(unkind(document), "ground", tmp_path, options)


@cache
def chimneys(folder: Path) -> str:
    EXPORTERS["json"].write(demo(), "chimneys", folder / "map.json")
    return (folder / "map.json").read_text()


@settings(max_examples=80, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(chance=st.randoms(use_true_random=False))
def test_damaged_maps_are_told_in_a_sentence(chance, tmp_path):
    folder = tmp_path
    content = json.loads(chimneys(folder))
    for _ in range(chance.randint(1, 3)):
        _break(content, chance)
    (folder / "bad.json").write_text(json.dumps(content))
    told = ""
    try:
        document = project_from_map(folder / "bad.json")
        Derived(document).knitted(document.project.grounds[0].id)
    except KnitGroundError as problem:
        told = str(problem)
    assert not told or (told.endswith(".") and "\n" not in told)


def _break(content: dict, chance) -> None:
    """Something in it becomes something else, or goes."""
    inside = content
    while True:
        keys = list(inside) if isinstance(inside, dict) else list(range(len(inside)))
        if not keys:
            return
        key = chance.choice(keys)
        if isinstance(inside[key], dict | list) and chance.random() < 0.8:
            inside = inside[key]
            continue
        if chance.random() < 0.3:
            del inside[key]
        else:
            inside[key] = chance.choice(
                [None, -1, 0, 2**40, 1.5, "", "x" * 300, [], {}, [[1]], True, "../../etc/passwd"]
            )
        return


@pytest.mark.parametrize(
    ("text", "says"),
    [("{", "damaged"), ("[]", "no map"), ('{"format": "knitground-map"}', "version"), ("[" * 100_000, "damaged")],
)
def test_what_is_no_map_is_told(text, says, tmp_path):
    (tmp_path / "map.json").write_text(text)
    with pytest.raises(KnitGroundError, match=says):
        project_from_map(tmp_path / "map.json")
