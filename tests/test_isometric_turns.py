"""Turned and mirrored isometric tiles: what they show, where they stand, and what is made of them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.grounds import add_ground
from knitground.core.edits.importing import add_collection
from knitground.core.edits.layers import add_layer
from knitground.core.edits.made_tiles import add_made_tiles, lent_by
from knitground.core.edits.sets import add_join_set, label_tiles
from knitground.core.edits.sheets import set_cut
from knitground.core.grid.projection import PixelRect
from knitground.core.joins.feet import grounds_of
from knitground.core.joins.make import make_missing
from knitground.core.joins.turning import turned_labels
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef, orient
from making import add_sheet, png, poke, together
from test_footing import block, grid_of_tiles

WIDE, HIGH = 64, 32
ROOM = (5, 20, 9, 7)
"""Clear pixels at the left of a diamond, above, at its right and below."""


def painted(numbers: tuple[int, ...], *, edges: bool = False) -> np.ndarray:
    """A diamond each quarter of which, to its corners or its edges, has the colour of a number."""
    rows, columns = np.mgrid[:HIGH, :WIDE]
    x, y = (columns + 0.5) / WIDE - 0.5, (rows + 0.5) / HIGH - 0.5
    east, south = x + y, y - x
    if edges:
        place = np.where(np.abs(south) > np.abs(east), np.where(south < 0, 0, 2), np.where(east > 0, 1, 3))
    else:
        place = np.where(south < 0, np.where(east < 0, 0, 1), np.where(east < 0, 3, 2))
    tile = np.zeros((HIGH, WIDE, 4), np.uint8)
    tile[..., 0] = tile[..., 2] = np.array(numbers)[place] * 60
    # What lies on a border of quarters belongs to either.
    tile[(np.abs(east) < 0.02) | (np.abs(south) < 0.02) | (np.abs(np.abs(east) - np.abs(south)) < 0.02), 0] = 7
    tile[(np.abs(east) <= 0.5) & (np.abs(south) <= 0.5), 3] = 255
    tile[tile[..., 3] == 0] = 0
    return tile


@given(st.tuples(*[st.integers(1, 4)] * 4), st.sampled_from([0, 2, 4, 6]), st.booleans())
def test_a_turned_diamond_shows_what_its_labels_become(numbers, orientation, edges):
    kind = "edge" if edges else "corner"
    labels = turned_labels(numbers, kind, orientation, isometric=True)
    np.testing.assert_array_equal(orient(painted(numbers, edges=edges), orientation), painted(labels, edges=edges))


def terraces(count: int) -> tuple[Document, str, list[TileRef]]:
    """A project with so many of the 16 tiles of a corner set, padded unevenly."""
    left, above, right, below = ROOM
    document, tiles, rows = Document(), [], []
    for number in range(count):
        rows.append(tuple(1 + (number >> place & 1) for place in range(4)))
        tiles.append(np.pad(painted(rows[-1]), ((above, below), (left, right), (0, 0))))
    add_sheet(document, "floor.png", png(grid_of_tiles(tiles, 4)))
    cut = document.project.sheets[0].cuts[0].id
    width, height = left + WIDE + right, above + HIGH + below
    standing = Cut(cut, width, height, shape="isometric", anchor="bottom", offset_x=2, offset_y=below, foot=(64, 32))
    set_cut(document, "floor", standing)
    refs = [TileRef("floor", cut, number % 4, number // 4) for number in range(count)]
    set_id = add_join_set(document, "Terraces", "corner", ["Moss", "Slate"])
    label_tiles(document, set_id, dict(zip(refs, rows, strict=True)), "label")
    return document, set_id, refs


@pytest.mark.parametrize("orientation", [0, 2, 4, 6])
def test_a_padded_floor_fills_its_cell_however_it_is_turned(orientation):
    document, _, refs = terraces(8)
    ground = add_ground(document, "Yard", 6, 6, (WIDE, HIGH), "diamond")
    layer = add_layer(document, ground, "Floor")
    poke(document, layer, "cells", np.s_[:], document.palette.code(refs[3], orientation), ground)
    drawn = Derived(document).pixels(ground, PixelRect(WIDE * 2, HIGH * 2, WIDE * 2, HIGH * 2))
    assert (drawn[..., 3] > 0).mean() > 0.97
    # All cells look alike: one is drawn as its tile alone is.
    np.testing.assert_array_equal(drawn[:HIGH, :WIDE], drawn[HIGH:, WIDE:])


def test_missing_isometric_tiles_are_made_of_those_that_show_them_turned_and_fit_their_cells():
    document, set_id, _ = terraces(14)
    (join_set,) = document.project.join_sets
    derived = Derived(document)
    drawn = lent_by(derived, join_set)
    assert {pixels.shape for pixels in drawn.values()} == {(HIGH, WIDE, 4)}
    made = make_missing(join_set, derived.coverage(join_set), drawn, isometric=True)
    assert [one.labels for one in made if one.way == "turned"] == [(1, 2, 2, 2)]
    np.testing.assert_array_equal(made[0].pixels, painted((1, 2, 2, 2)))
    (first, *_) = add_made_tiles(document, set_id, made)
    cut = document.project.cuts[first.sheet, first.cut]
    assert (cut.shape, cut.footprint) == ("isometric", (WIDE, HIGH))


def test_walls_of_several_heights_lend_tiles_that_are_as_high_as_the_highest():
    document, set_id = Document(), "walls"
    rows = {"a": (1, 1, 1, 1), "b": (2, 2, 2, 2), "c": (2, 1, 1, 1)}
    ups = {"a": 0, "b": 20, "c": 8}
    add_collection(document, "yard", together({f"{one}.png": block(64, 32, ups[one]) for one in rows}))
    set_id = add_join_set(document, "Walls", "corner", ["Moss", "Slate"])
    label_tiles(document, set_id, {TileRef("yard", one, 0, 0): row for one, row in rows.items()}, "label")
    (join_set,), derived = document.project.join_sets, Derived(document)
    made = make_missing(join_set, derived.coverage(join_set), lent_by(derived, join_set), isometric=True)
    refs = add_made_tiles(document, set_id, made)
    assert refs
    assert {document.project.cuts[ref.sheet, ref.cut].tile_height for ref in refs} == {52}


def test_a_mirrored_set_lays_what_joins():
    document, _, refs = terraces(16)
    (join_set,) = document.project.join_sets
    fewer = replace(
        join_set, mirrors_x=True, labels={ref: join_set.labels[ref] for ref in refs if refs.index(ref) != 2}
    )
    document.define("mirror", replace(document.project, join_sets=(fewer,)))
    tiles = Derived(document).coverage(fewer).tiles
    lacking = join_set.labels[refs[2]]
    # North-east alone is what south-west alone shows mirrored.
    (laid,) = tiles[lacking]
    assert (fewer.labels[laid.ref], laid.orientation) == ((1, 1, 1, 2), 4)


def test_a_wrong_label_on_a_flat_isometric_tile_is_told_as_a_seam_and_right_ones_are_not():
    document, set_id, refs = terraces(16)
    (join_set,) = document.project.join_sets
    assert not Derived(document).seams(join_set)()
    label_tiles(document, set_id, {refs[1]: (2, 1, 1, 2)}, "label")
    seams = Derived(document).seams(document.project.join_sets[0])()
    assert seams
    assert all(refs[1] in (seam.first, seam.second) for seam in seams)
    told = [one for one in all_findings(Derived(document)) if one.kind == "seam" and one.tiles]
    assert told
    for one in told:
        assert ("lies up and left of" if one.index else "lies up and right of") in one.sentence


def test_what_stands_up_from_isometric_tiles_is_not_looked_at_for_seams():
    document, _, refs = terraces(16)
    (join_set,) = document.project.join_sets
    drawn = dict(Derived(document).drawn(join_set))
    assert set(grounds_of(drawn, document.project.cuts)) == set(refs)
    drawn[refs[0]] = np.array(drawn[refs[0]])
    drawn[refs[0]][5:30, 30:40] = 255
    assert not grounds_of(drawn, document.project.cuts)
