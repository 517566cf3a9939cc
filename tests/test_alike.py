"""Tiles that look the same, and merging them without a shift on any map."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.edits.merging import merge_twins
from knitground.core.edits.notes import add_tag, notes_of, set_weight
from knitground.core.edits.repacking import move_over, pack_anew
from knitground.core.edits.things import put
from knitground.core.grid.rect import CellRect
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.project.naming import users
from knitground.core.sheet.repack import Gaps
from knitground.core.tiles.alike import inverse, like, twins
from knitground.core.tiles.tile import TileRef, orient, turned_further
from making import SIDE, cell_pixels, make_document, png, poke, tile

ways = st.integers(0, 7)
pictures = hnp.arrays(np.uint8, (4, 4, 4), elements=st.sampled_from([0, 90, 255]))


@given(picture=pictures, one=ways, other=ways)
def test_turning_twice_is_turning_once_further(picture, one, other):
    assert np.array_equal(orient(orient(picture, one), other), orient(picture, turned_further(one, other)))
    assert np.array_equal(orient(orient(picture, one), inverse(one)), picture)


@given(picture=pictures, one=ways, other=ways)
def test_turned_copies_are_found_with_the_turn_that_makes_them(picture, one, other):
    tiles = {tile(0, 0): orient(picture, one), tile(1, 0): orient(picture, other)}
    (group,) = twins(tiles)
    assert group[0].orientation == 0
    seen = np.where(tiles[tile(0, 0)][..., 3:] > 0, tiles[tile(0, 0)], 0)
    turned = orient(seen, group[1].orientation)
    assert np.array_equal(turned, np.where(tiles[tile(1, 0)][..., 3:] > 0, tiles[tile(1, 0)], 0))


@given(first=pictures, second=pictures)
def test_different_tiles_are_no_twins(first, second):
    tiles = {tile(0, 0): first, tile(1, 0): second}
    seen = [np.where(one[..., 3:] > 0, one, 0) for one in (first, second)]
    same = any(np.array_equal(orient(seen[0], way), seen[1]) for way in range(8))
    assert bool(twins(tiles)) == same
    assert len(like(tiles, tile(0, 0))) == (2 if same else 1)


def test_oblong_tiles_are_only_mirrored_or_turned_by_half():
    wide = np.random.Generator(np.random.PCG64(1)).integers(1, 256, (4, 6, 4), dtype=np.uint8)
    tiles = {tile(n, 0): one for n, one in enumerate((wide, wide[:, ::-1], wide[::-1], orient(wide, 1)))}
    (group,) = twins(tiles)
    assert [twin.ref.column for twin in group] == [0, 1, 2]


@pytest.fixture
def document() -> Document:
    return copies()


def copies() -> Document:
    """Cells 0 to 5 of the last row: a tile, its copy, mirrored, turned, another tile, and one more copy."""
    made = make_document()
    pixels = made.state.pictures["art"].pixels.copy()
    first = pixels[3 * SIDE :, :SIDE].copy()
    for column, way in ((1, 0), (2, 4), (3, 1), (5, 0)):
        pixels[3 * SIDE :, column * SIDE : (column + 1) * SIDE] = orient(first, way)
    made.define("redraw", made.project, pictures={"art": Picture(png(pixels), pixels)})
    return made


def lay_all(document: Document) -> np.ndarray:
    """Lays all six tiles in all orientations; returns what it looks like."""
    for column in range(6):
        for way in range(8):
            code = document.palette.code(tile(column, 3), way)
            poke(document, "things", "cells", np.s_[way, column], code)
    return look(document)


def look(document: Document) -> np.ndarray:
    return cell_pixels(Derived(document), CellRect(0, 0, 10, 10))


def merged(document: Document, *, turned: bool = True):
    return merge_twins(document, twins(Derived(document).all_tiles(), turned=turned))


def test_merging_shifts_nothing_on_any_map_and_can_be_undone(document):
    before = lay_all(document)
    result = merged(document)
    assert (result.gone, result.kept) == (4, ())
    assert np.array_equal(look(document), before)
    laid = set(np.unique(np.asarray(document.state.planes["ground"]["things"]["cells"]) & 0xFFFFFF).tolist()) - {0}
    assert {document.palette.ref(number) for number in laid} == {tile(0, 3), tile(4, 3)}
    assert Derived(document).tile(tile(1, 3)) is None
    document.undo()
    assert np.array_equal(look(document), before)
    assert Derived(document).tile(tile(1, 3)) is not None


def test_exact_copies_alone_can_be_merged(document):
    assert merged(document, turned=False).gone == 2


def test_a_turned_copy_that_a_set_names_stays_and_says_why(document):
    areas = document.project.join_sets[0]
    labels = {**areas.labels, tile(2, 3): (1, 2, 1, 2), tile(1, 3): (2, 1, 2, 1)}
    put(document, "x", "join_sets", replace(areas, labels=labels))
    result = merged(document)
    assert result.gone == 3
    assert result.kept[0][0] == tile(2, 3)
    assert "turned copy" in result.kept[0][1]
    assert f"“{areas.name}” would have to be let turn or mirror" in result.kept[0][1]
    assert document.project.join_sets[0].labels[tile(0, 3)] == (2, 1, 2, 1)
    assert tile(1, 3) not in document.project.join_sets[0].labels


def turning(document: Document, labels: dict, **more) -> Document:
    """Lets the set turn its tiles, and label these."""
    areas = document.project.join_sets[0]
    put(document, "x", "join_sets", replace(areas, labels=labels, **more))
    return document


def test_a_set_that_mirrors_or_turns_its_tiles_needs_no_copies_of_that_kind(document):
    mirrored, turned = tile(2, 3), tile(3, 3)
    for label, more in (((1, 2, 1, 1), {"mirrors_x": True}), ((1, 2, 1, 1), {"turns": True})):
        copy, other = (mirrored, turned) if "mirrors_x" in more else (turned, mirrored)
        before = look(turning(document, {copy: label}, **more))
        result = merged(document)
        assert (result.gone, result.kept) == (4, ())
        assert document.project.join_sets[0].labels == {tile(0, 3): (2, 1, 1, 1)}, "as the first is drawn"
        assert np.array_equal(look(document), before)
        document.undo()
        kept = dict(merged(turning(document, {other: label}, **more)).kept)
        assert "would have to be let turn or mirror" in kept[other]
        document.undo()
        document.undo()
        document.undo()


def test_turned_copies_stay_where_a_set_would_lay_another_instead(document):
    both = {"turns": True, "mirrors_x": True}
    # A quarter turn comes before mirroring, and looks otherwise.
    kept = dict(merged(turning(document, {tile(2, 3): (1, 2, 1, 1)}, **both)).kept)
    assert "would lay another in its place" in kept[tile(2, 3)]
    document.undo()
    labels = {tile(0, 3): (2, 1, 1, 1), tile(3, 3): (1, 2, 1, 1), tile(4, 3): (1, 2, 1, 1)}
    kept = dict(merged(turning(document, labels, **both)).kept)
    assert "would lay another in its place" in kept[tile(3, 3)], "what is drawn goes before what is turned"
    set_weight(document, [tile(3, 3)], 2)
    kept = dict(merged(turning(document, {tile(3, 3): (1, 2, 1, 1)}, turns=True)).kept)
    assert "of another weight" in kept[tile(3, 3)]
    labels[tile(3, 3)] = (2, 1, 1, 1)
    assert "labels the two differently" in dict(merged(turning(document, labels, **both)).kept)[tile(3, 3)]


@given(st.data())
@settings(max_examples=25)
def test_merging_never_changes_what_a_set_that_turns_lays(data):
    document = copies()
    rows = data.draw(st.dictionaries(st.sampled_from([0, 2, 3, 4]), st.tuples(*[st.integers(1, 2)] * 4), min_size=1))
    ways = {name: data.draw(st.booleans()) for name in ("turns", "mirrors_x", "mirrors_y")}
    before = look(turning(document, {tile(column, 3): row for column, row in rows.items()}, **ways))
    merged(document)
    assert np.array_equal(look(document), before)


def test_a_mix_takes_a_turned_copy_as_the_first_in_its_orientation(document):
    put(document, "x", "mixes", Mix("m", "M", (MixPart(tile(2, 3), 3), MixPart(tile(4, 3), 1))))
    assert merged(document).kept == ()
    (mix,) = document.project.mixes
    assert [(part.tile, part.orientation) for part in mix.parts] == [(tile(0, 3), 4), (tile(4, 3), 0)]


@pytest.mark.parametrize("turned", [False, True])
def test_packing_anew_leaves_turned_copies_away_where_asked_and_nothing_shifts(document, turned):
    turning(document, {tile(3, 3): (1, 2, 1, 1)}, turns=True, mirrors_x=True)
    before = lay_all(document)
    packed = pack_anew(document, "art", Gaps(1, 2, 1), unique=True, turned=turned)
    assert packed.gone == (4 if turned else 2)
    move_over(document, packed)
    assert np.array_equal(look(document), before)
    assert twins(Derived(document).all_tiles(), turned=turned) == []
    document.undo()
    assert np.array_equal(look(document), before)


def test_copies_that_are_labelled_or_described_otherwise_stay(document):
    areas = document.project.join_sets[0]
    labels = {**areas.labels, tile(0, 3): (1, 2, 1, 2), tile(1, 3): (2, 1, 2, 1)}
    put(document, "x", "join_sets", replace(areas, labels=labels))
    add_tag(document, [tile(0, 3)], "one")
    add_tag(document, [tile(5, 3)], "two")
    reasons = dict(merged(document, turned=False).kept)
    assert "labels the two differently" in reasons[tile(1, 3)]
    assert "described differently" in reasons[tile(5, 3)]


def test_variants_that_merge_keep_their_common_share(document):
    areas = document.project.join_sets[0]
    labels = {**areas.labels, tile(0, 3): (1, 1, 1, 1), tile(1, 3): (1, 1, 1, 1)}
    put(document, "x", "join_sets", replace(areas, labels=labels))
    set_weight(document, [tile(0, 3)], 2)
    set_weight(document, [tile(1, 3)], 3)
    merged(document, turned=False)
    assert notes_of(document, tile(0, 3)).weight == 5


def test_users_are_counted_by_name(document):
    found = users(document.project, [tile(0, 0), tile(0, 2), TileRef("x", "y", 0, 0)])
    assert found == {"join set Areas": 1, "stitches Walls": 1}
