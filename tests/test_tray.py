"""Swatches: what is kept of blocks and tiles, and how they are arranged and read."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.blocks import lay, lift, put
from knitground.core.edits.grounds import add_ground, furnish_ground
from knitground.core.edits.keeping import (
    block_on,
    keep_block,
    keep_tile,
    place_swatch,
    remove_swatch,
    rename_swatch,
    swatch_picture,
)
from knitground.core.edits.merging import merge_twins
from knitground.core.edits.painting import Hand, area, stroke
from knitground.core.errors import BadProject, BadRequest
from knitground.core.ground.swatch import TRAY_COLUMNS, TRAY_ROWS
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.naming import users
from knitground.core.tiles.alike import Twin
from making import CORNERED, SIDE, make_document, plane_of, tile


def painted(grid: str = "square") -> Document:
    document = make_document(grid=grid)
    y, x = document.project.grounds[0].board.flat("cells", 7, 9)
    area(document, "ground", "areas", Hand(terrain=2), (y - 2, x - 2), (y + 1, x + 1))
    stroke(document, "ground", "things", Hand(tile(3, 3), orientation=5), (y + 0.5, x + 0.5), (y + 0.5, x + 0.5))
    return document


def kept(document: Document) -> tuple[str, tuple[int, int]]:
    """Keeps a block; the id of the swatch, and where the block was."""
    ground = document.project.grounds[0]
    y, x = ground.board.flat("cells", 7, 9)
    shape = ground.board.box("cells", (y - 2, x - 2), (y + 2, x + 2))
    block, at = lift(ground, document.state.planes["ground"], ["areas", "things"], shape)
    return keep_block(document, block, "Yard corner"), at


@pytest.mark.parametrize("grid", CORNERED)
def test_a_kept_block_comes_back_from_the_file_and_lays_the_same(grid, tmp_path):
    document = painted(grid)
    swatch_id, at = kept(document)
    before = {name: plane_of(document, *name) for name in (("areas", "corners"), ("things", "cells"))}
    y, x = document.project.grounds[0].board.flat("cells", 7, 9)
    document.save(tmp_path)
    loaded = Document.load(tmp_path)
    [swatch] = loaded.project.swatches
    assert (swatch.id, swatch.name) == (swatch_id, "Yard corner")
    erased = loaded.project.grounds[0].board.box("cells", (y - 2, x - 2), (y + 2, x + 2))
    loaded.paint("wipe", "ground", "things", "cells", erased, 0)
    ground = loaded.project.grounds[0]
    changed = lay(ground, loaded.state.planes["ground"], block_on(loaded, swatch), at)
    put(loaded, "lay", "ground", changed)
    refs = [loaded.palette.ref(code & 0xFFFFFF) for code in np.unique(plane_of(loaded, "things", "cells")) if code]
    assert refs == [tile(3, 3)]
    assert np.array_equal(plane_of(loaded, "areas", "corners"), before["areas", "corners"])
    assert np.array_equal(plane_of(loaded, "things", "cells") > 0, before["things", "cells"] > 0)


def test_swatches_are_pictured_as_they_would_lie():
    document = painted()
    kept(document)
    keep_tile(document, tile(3, 3), 0)
    derived = Derived(document)
    block, single = document.project.swatches
    assert np.array_equal(swatch_picture(derived, single), derived.tile(tile(3, 3)))
    picture = swatch_picture(derived, block)
    assert picture.shape == (5 * SIDE, 5 * SIDE, 4)
    assert picture[..., 3].any()


@given(moves=st.lists(st.tuples(st.integers(0, 4), st.integers(0, 3), st.integers(0, 2)), max_size=8))
@settings(deadline=None, max_examples=30)
def test_however_the_tray_is_arranged_no_two_lie_on_one_place(moves):
    document = make_document()
    ids = [keep_tile(document, tile(n, 0)) for n in range(5)]
    for number, x, y in moves:
        place_swatch(document, ids[number], x, y)
        assert (document.project.swatches[number].x, document.project.swatches[number].y) == (x, y)
        places = [(one.x, one.y) for one in document.project.swatches]
        assert len(set(places)) == 5


def test_the_tray_is_renamed_emptied_and_undone():
    document = make_document()
    one = keep_tile(document, tile(1, 1))
    rename_swatch(document, one, "  Well ")
    assert document.project.swatches[0].name == "Well"
    with pytest.raises(BadRequest, match="needs a name"):
        rename_swatch(document, one, " ")
    with pytest.raises(BadRequest, match="columns"):
        place_swatch(document, one, TRAY_COLUMNS, 0)
    remove_swatch(document, one)
    assert document.project.swatches == ()
    document.undo()
    assert document.project.swatches[0].name == "Well"


def test_a_full_tray_says_so():
    document = make_document()
    one = keep_tile(document, tile(0, 0))
    first = document.project.swatches[0]
    every = tuple(replace(first, id=f"{x}-{y}", x=x, y=y) for y in range(TRAY_ROWS) for x in range(TRAY_COLUMNS))
    document.define("fill", replace(document.project, swatches=every))
    with pytest.raises(BadRequest, match="full"):
        keep_tile(document, tile(1, 1))
    assert one == first.id


def test_tiles_that_swatches_name_are_known_and_followed():
    document = painted()
    kept(document)
    keep_tile(document, tile(3, 3))
    assert users(document.project, [tile(3, 3)])["swatch Yard corner"] == 1
    merge_twins(document, [[Twin(tile(6, 3), 0), Twin(tile(3, 3), 0)]])
    assert all(tile(6, 3) in swatch.tiles and tile(3, 3) not in swatch.tiles for swatch in document.project.swatches)


def test_a_block_can_be_laid_on_another_ground():
    document = painted()
    kept(document)
    other = add_ground(document, "Other", 12, 12, (SIDE, SIDE))
    furnish_ground(document, other)
    ground = document.project.grounds[1]
    changed = lay(ground, document.state.planes[other], block_on(document, document.project.swatches[0]), (2, 2))
    assert "areas" in changed


@pytest.mark.parametrize(
    "damage",
    [
        lambda one: one.update(tile="art/tiles/1,1"),
        lambda one: one.pop("clip"),
        lambda one: one.update(x=-1),
        lambda one: one["clip"].update(extra=1),
    ],
)
def test_damaged_swatches_are_told(tmp_path, damage):
    document = painted()
    kept(document)
    document.save(tmp_path)
    path = tmp_path / "knitground.json"
    raw = json.loads(path.read_text())
    damage(raw["project"]["swatches"][0])
    path.write_text(json.dumps(raw))
    with pytest.raises(BadProject):
        Document.load(tmp_path)


def test_a_swatch_whose_rows_do_not_fit_together_is_told_when_it_is_taken(tmp_path):
    document = painted()
    kept(document)
    [swatch] = document.project.swatches
    broken = replace(swatch, clip=replace(swatch.clip, cells=("xx", "x")))
    document.define("break", replace(document.project, swatches=(broken,)))
    with pytest.raises(BadRequest, match="can't be read"):
        block_on(document, broken)
    assert swatch_picture(Derived(document), broken) is None
