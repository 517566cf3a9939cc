"""Deliveries that a project keeps: what they write, where to, and what they leave alone."""

import base64
import json
import zlib
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from knitground.core.deliver import EXPORTERS
from knitground.core.deliver.naming import checked_pattern, namer
from knitground.core.deliver.run import files_of, is_outside, look, run, summary
from knitground.core.edits.delivering import add_delivery, change_delivery, remove_delivery, set_option
from knitground.core.edits.grounds import add_ground
from knitground.core.edits.layers import add_layer
from knitground.core.errors import BadRequest
from knitground.core.project.delivery import Delivery
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.tile import cell_code
from making import SIDE, poke, tile


@pytest.fixture
def kept(document, tmp_path):
    document.save(tmp_path / "project")
    return document


def went(document: Document, **said) -> list:
    delivery = Delivery("d", "Game", said.pop("format", "json"), **said)
    return run(Derived(document), delivery, document.folder)


def test_a_run_writes_what_a_look_told_and_nothing_twice(kept):
    delivery = Delivery("d", "Game", "json")
    planned = look(Derived(kept), delivery, kept.folder)
    assert all(one.changed for one in planned)
    assert not (kept.folder / "delivered").exists()
    done = run(Derived(kept), delivery, kept.folder)
    assert done == planned
    assert all(one.path.stat().st_size == one.size for one in done)
    times = [one.path.stat().st_mtime_ns for one in done]
    again = run(Derived(kept), delivery, kept.folder)
    assert not any(one.changed for one in again)
    assert [one.path.stat().st_mtime_ns for one in again] == times
    assert summary(again) == "nothing to write; 2 as before"


def test_only_what_changed_is_written_again(kept):
    went(kept)
    poke(kept, "things", "cells", np.s_[0, 0], 0)
    poke(kept, "things", "cells", np.s_[3, 3], kept.palette.code(tile(6, 3)))
    went(kept)
    poke(kept, "things", "cells", np.s_[3, 4], kept.palette.code(tile(6, 3)))
    assert [one.path.suffix for one in went(kept) if one.changed] == [".json"], "the same tiles are in use"


@pytest.mark.parametrize("kind", EXPORTERS)
def test_every_format_can_be_kept_and_gives_the_same_bytes(kept, kind):
    options = {"seconds": 0.2} if kind in ("gif", "apng", "webp") else {}
    went(kept, format=kind, options=options)
    assert not any(one.changed for one in went(kept, format=kind, options=options))


def test_layers_that_are_named_are_the_only_ones(kept):
    went(kept, layers=("Things", "Walls"))
    content = json.loads((kept.folder / "delivered" / "ground.json").read_text())
    assert [layer["name"] for layer in content["layers"]] == ["Walls", "Things"]
    with pytest.raises(BadRequest, match="no layers to deliver"):
        went(kept, layers=("Cellar",))


def test_a_picture_is_found_from_where_the_json_lies(kept):
    went(kept, pattern="{part}/maps/{ground}")
    path = kept.folder / "delivered" / "ground" / "maps" / "ground.json"
    assert (path.parent / json.loads(path.read_text())["tileset"]["image"]).resolve().is_file()


@pytest.mark.parametrize("folder", ["", " ", "a\x00b"])
def test_a_delivery_without_a_folder_is_told(kept, folder):
    with pytest.raises(BadRequest, match="no folder"):
        went(kept, folder=folder)


@pytest.mark.parametrize("pattern", ["../{ground}", "/etc/{ground}", "a//b", "{ground", "{nobody}", "", "a\\b", "{0}",
                                     "{ground.__class__}", "./x", "{ground!r}{part[0]}"])  # fmt: skip
def test_patterns_that_lead_out_or_to_nothing_are_refused(kept, pattern):
    with pytest.raises(BadRequest):
        went(kept, pattern=pattern)
    assert not (kept.folder / "delivered").exists()


@given(st.lists(st.tuples(st.text(max_size=12), st.text(max_size=12)), min_size=1, max_size=6))
def test_names_stay_inside_and_never_meet(tmp_path_factory, grounds):
    folder, taken, found = Path("/somewhere/chosen"), set(), []
    for ground, part in grounds:
        name = namer(checked_pattern("{ground}"), {"project": "x", "ground": ground}, taken)
        found += [name("", ".json"), name(part or "more", ".png")]
    assert len({one.lower() for one in found}) == len(found)
    for one in found:
        path = folder / one
        assert path.parent == folder
        assert not path.name.startswith(".")


def test_a_link_that_leads_out_is_not_followed(kept, tmp_path):
    outside = tmp_path / "outside"
    outside.mkdir()
    (kept.folder / "delivered").mkdir()
    (kept.folder / "delivered" / "maps").symlink_to(outside)
    with pytest.raises(BadRequest, match="leads out of the chosen folder"):
        went(kept, pattern="maps/{ground}")
    (kept.folder / "delivered" / "ground.json").symlink_to(outside / "x.json")
    with pytest.raises(BadRequest, match="leads out"):
        went(kept)
    assert not list(outside.iterdir())


def test_the_projects_own_files_are_left_alone(kept):
    before = (kept.folder / "knitground.json").read_bytes()
    with pytest.raises(BadRequest, match="the project's own files"):
        went(kept, folder=".", pattern="knitground")
    assert (kept.folder / "knitground.json").read_bytes() == before


def test_what_lies_outside_the_project_is_known(kept, tmp_path):
    delivery = Delivery("d", "Game", "json")
    assert not is_outside(delivery, kept.folder)
    assert is_outside(replace(delivery, folder="../elsewhere"), kept.folder)
    assert is_outside(replace(delivery, folder=str(tmp_path)), kept.folder)


def test_formats_and_options_that_there_are_not_are_told_and_do_no_harm(kept):
    with pytest.raises(BadRequest, match="there is not"):
        went(kept, format="clay")
    with pytest.raises(BadRequest, match="from 0 to 16"):
        went(kept, options={"edge": 99})
    kept.define("x", replace(kept.project, deliveries=(Delivery("d", "Clay", "clay", options={"wet": True}),)))
    kept.save()
    assert Document.load(kept.folder).project.deliveries == kept.project.deliveries


def test_deliveries_are_edited_step_by_step_and_filed(kept):
    made = add_delivery(kept, "Game", "png")
    change_delivery(kept, made, when="save", unit=32.0, unit_of="cells", grounds=("ground",))
    set_option(kept, made, "scale", 2, 1)
    assert kept.project.deliveries[0].options == {"scale": 2}
    set_option(kept, made, "scale", 1, 1)
    assert kept.project.deliveries[0].options == {}
    kept.save()
    assert Document.load(kept.folder).project.deliveries == kept.project.deliveries
    remove_delivery(kept, made)
    kept.undo()
    assert kept.project.deliveries[0].id == made


def test_a_ground_that_is_gone_is_no_reason_to_deliver_all(kept):
    with pytest.raises(BadRequest, match="no ground to deliver"):
        went(kept, grounds=("elsewhere",))


@pytest.mark.parametrize(("unit", "unit_of", "expected"), [(16.0, "pixels", 16.0), (2.0, "cells", SIDE / 2)])
def test_a_unit_is_told(kept, unit, unit_of, expected):
    went(kept, unit=unit, unit_of=unit_of)
    content = json.loads((kept.folder / "delivered" / "ground.json").read_text())
    assert content["pixels_per_unit"] == expected


def test_turned_tiles_as_flags_and_several_pictures_with_edges(kept):
    code = kept.palette.code(tile(6, 3))
    poke(kept, "things", "cells", np.s_[0, :8], [cell_code(code, turn) for turn in range(8)])
    went(kept, options={"turned": "flags", "edge": 2, "side": 64}, layers=("Things", "Areas"))
    folder = kept.folder / "delivered"
    content = json.loads((folder / "ground.json").read_text())
    row = content["layers"][1]["rows"][0][:8]
    assert [number >> 24 for number in row] == list(range(8))
    assert len({number & 0xFFFFFF for number in row}) == 1
    tiles = content["tileset"]
    each = tiles["columns"] * tiles["rows"]
    assert len(tiles.get("images", [tiles["image"]])) == -(-tiles["tiles"] // each)
    page, place = divmod((row[0] & 0xFFFFFF) - 1, each)
    picture = np.asarray(Image.open(folder / tiles.get("images", [tiles["image"]])[page]))
    assert max(picture.shape) <= 64
    down, across = divmod(place, tiles["columns"])
    y, x = down * (SIDE + 4), across * (SIDE + 4)
    art = Derived(kept).tile(tile(6, 3))
    assert np.array_equal(picture[y + 2 : y + 2 + SIDE, x + 2 : x + 2 + SIDE], art)
    assert np.array_equal(picture[y : y + 2, x + 2 : x + 2 + SIDE], np.stack([art[0], art[0]])), "the edge above"


def test_packed_rows_hold_what_rows_hold(kept):
    went(kept)
    plain = json.loads((kept.folder / "delivered" / "ground.json").read_text())
    went(kept, options={"packed": True})
    content = json.loads((kept.folder / "delivered" / "ground.json").read_text())
    for layer, other in zip(content["layers"], plain["layers"], strict=True):
        numbers = np.frombuffer(zlib.decompress(base64.b64decode(layer["packed"])), "<u4")
        assert numbers.reshape(15, 20).tolist() == other["rows"]


def test_progress_of_a_run_never_goes_back_and_no_halves_are_left(kept):
    shares = []
    run(Derived(kept), Delivery("d", "Game", "json"), kept.folder, shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    assert not list((kept.folder / "delivered").glob(".knitground-*"))
    assert {file.name for file in files_of(Derived(kept), Delivery("d", "Game", "json"))} == {
        "ground.json", "ground-tileset.png",
    }  # fmt: skip


def test_a_large_ground_takes_the_most_of_what_is_told_of_the_progress(kept):
    for name, side in (("Large", 60), ("Small", 2)):
        add_layer(kept, add_ground(kept, name, side, side, (SIDE, SIDE)), "Areas", "areas")
    told: list[float] = []
    for _ in files_of(Derived(kept), Delivery("d", "Game", "csv"), told.append):
        pass
    assert told == sorted(told)
    assert told[-1] == 1.0
    cells = [ground.width * ground.height for ground in kept.project.grounds]
    assert any(abs(share - sum(cells[:2]) / sum(cells)) < 0.01 for share in told)
    assert sum(cells[:2]) / sum(cells) > 0.9
