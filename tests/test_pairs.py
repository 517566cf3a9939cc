"""Pair sets: made by hand, read off maps and off pixels, kept, merged, and filled with so that all agree."""

from contextlib import suppress
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from knitground.core.edits.filling import Wanted, filled_planes
from knitground.core.edits.growing import grow
from knitground.core.edits.merging import moved_in
from knitground.core.edits.pairing import (
    add_pair_set,
    put_pairs,
    read_off_map,
    read_off_pixels,
    remove_pair_set,
    with_tiles,
)
from knitground.core.edits.selecting import boxed
from knitground.core.errors import BadRecipe, BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.grow.agreeing import allowed
from knitground.core.grow.pairs import SIDES, PairSet, PairTile
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.steps import FitStep, NoiseStep
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import DEMO, make_document, plane_of, poke, tile

TILES = [tile(column, 1) for column in range(5)]


def paired(document: Document, *pairs: tuple[int, str, int], bare: bool = False) -> PairSet:
    """A set of five tiles with some pairs, kept with the document."""
    found = with_tiles(PairSet("p", "P"), [*TILES, *([None] if bare else [])])
    for one, side, other in pairs:
        found = found.with_pair(one, side, other, True)
    put_pairs(document, "pairs", found)
    return found


def agrees(document: Document, pair_set: PairSet, codes: np.ndarray, wraps: bool = False) -> None:
    """Every two neighbours are a pair of the set."""
    code = {document.palette.code(one.tile, one.orientation): n for n, one in enumerate(pair_set.tiles)}
    numbers = np.vectorize(code.__getitem__)(codes)
    may = pair_set.allowed
    rows = (numbers, np.roll(numbers, -1, axis=1)), (numbers, np.roll(numbers, -1, axis=0))
    for way, (one, other) in zip((1, 2), rows, strict=True):
        there = may[way][one, other]
        if not wraps:
            there = there[:, :-1] if way == 1 else there[:-1]
        assert there.all()


@given(arrays(bool, (5, 5)), arrays(bool, (5, 5)), st.integers(0, 4), st.integers(0, 4))
def test_what_is_said_of_a_side_is_said_of_the_other_one_too(east, south, one, other):
    pair_set = with_tiles(PairSet("p", "P"), TILES).with_pairs(east, south)
    may = pair_set.allowed
    assert np.array_equal(may[0], may[2].T)
    assert np.array_equal(may[1], may[3].T)
    assert pair_set.pairs == east.sum() + south.sum()
    for way, side in enumerate(SIDES):
        flipped = pair_set.with_pair(one, side, other, not may[way][one, other])
        assert flipped.allowed[way][one, other] != may[way][one, other]
        assert flipped.allowed[(way + 2) % 4][other, one] == flipped.allowed[way][one, other]
        assert abs(flipped.pairs - pair_set.pairs) == 1
    kept = [n for n in range(5) if n != one]
    assert np.array_equal(pair_set.without(one).allowed, may[:, kept][:, :, kept])


@settings(max_examples=20)
@given(seed=st.integers(0, 2**20), wraps=st.booleans())
def test_filling_with_pairs_lets_only_pairs_lie_side_by_side(seed, wraps):
    document = make_document(18, 14)
    rng = np.random.default_rng(seed)
    pair_set = paired(document)
    pair_set = pair_set.with_pairs(rng.random((5, 5)) < 0.5, rng.random((5, 5)) < 0.5)
    put_pairs(document, "pairs", pair_set)
    with suppress(BadRecipe):
        planes = filled_planes(Derived(document), "ground", "things", "p", seed, Wanted(wraps=wraps))
        agrees(document, pair_set, np.asarray(planes["cells"]), wraps)


def test_held_tiles_stay_and_what_cannot_agree_is_told_by_its_tiles():
    document = make_document(12, 9)
    chain = [(n, side, (n + 1) % 5) for n in range(5) for side in ("east", "south")]
    pair_set = paired(document, *chain)
    code = document.palette.code(TILES[3])
    poke(document, "things", "cells", np.s_[4, 5], code)
    derived = Derived(document)
    codes = np.asarray(filled_planes(derived, "ground", "things", "p", 1, Wanted(held=True))["cells"])
    assert codes[4, 5] == code
    agrees(document, pair_set, codes)
    poke(document, "things", "cells", np.s_[4, 7], document.palette.code(TILES[4]))
    with pytest.raises(
        BadRecipe, match=r"No tile of “P” agrees .*art 3, 1 at column 5, row 4; art 4, 1 at column 7, row 4"
    ):
        filled_planes(derived, "ground", "things", "p", 1, Wanted(held=True))
    with pytest.raises(BadRecipe, match="single tiles"):
        filled_planes(derived, "ground", "areas", "p", 1)


def test_bare_cells_may_be_a_part_of_it():
    document = make_document(20, 20)
    both = [(one, side, other) for one in (0, 5) for other in (0, 5) for side in ("east", "south")]
    paired(document, *both, bare=True)
    codes = np.asarray(filled_planes(Derived(document), "ground", "things", "p", 3)["cells"])
    assert 0.3 < (codes == 0).mean() < 0.7
    assert set(np.unique(codes).tolist()) == {0, document.palette.code(TILES[0])}


@pytest.mark.parametrize("grid", ["square", "diamond", "staggered"])
def test_pairs_are_read_off_a_map_and_more_of_it_is_laid(grid):
    document = make_document(24, 18, grid)
    ground = document.project.grounds[0]
    derived = Derived(document)
    grow(derived, Recipe("p", "P", "ground", 7, (NoiseStep("areas", 2, scale=7.0, elsewhere=1),)))
    pair_set = read_off_map(derived, PairSet("p", "P"), "ground", "areas")
    put_pairs(document, "pairs", pair_set)
    shown = derived.knitted("ground").codes("areas", ground.board.whole)
    assert {document.palette.code(one.tile, one.orientation) for one in pair_set.tiles} == set(
        np.unique(shown).tolist()
    )
    planes = filled_planes(derived, "ground", "things", "p", 5)
    laid = np.asarray(planes["cells"])
    assert set(np.unique(laid).tolist()) <= set(np.unique(shown).tolist())
    again = read_off_map(derived, PairSet("q", "Q"), "ground", "areas", boxed(ground.board, (2.5, 2.5), (6.5, 7.5)))
    assert again.pairs < pair_set.pairs
    if grid == "square":
        agrees(document, pair_set, laid)
    # What was read before stays, and what the map shows besides is added.
    more = read_off_map(derived, again, "ground", "areas")
    assert more.pairs == pair_set.pairs
    with pytest.raises(BadRequest, match="No tile lies"):
        read_off_map(derived, again, "ground", "things")


@pytest.mark.parametrize(
    ("set_id", "found", "right"), [("gutters", 0.95, 0.95), ("walks", 0.8, 0.95), ("cover", 0.8, 0.8)]
)
def test_pairs_are_read_off_pixels_as_the_labels_say(set_id, found, right):
    derived = Derived(Document.load(DEMO))
    join_set = by_id(derived.document.project.join_sets, set_id)
    refs = list(join_set.labels)
    pair_set = read_off_pixels(derived, with_tiles(PairSet("p", "P"), refs))
    labelled = allowed(join_set.kind, [join_set.labels[ref] for ref in refs])[1:3]
    both = (pair_set.allowed[1:3] & labelled).sum()
    assert both / labelled.sum() > found
    assert both / pair_set.pairs > right
    strict = read_off_pixels(derived, pair_set, 0.0)
    assert strict.pairs <= pair_set.pairs < read_off_pixels(derived, pair_set, 50.0).pairs
    with pytest.raises(BadRequest, match="no tiles"):
        read_off_pixels(derived, PairSet("p", "P"))


def test_pairs_are_named_kept_merged_and_not_taken_out_while_they_are_laid(tmp_path):
    document = make_document()
    made = add_pair_set(document, document.project.join_sets[0].name)
    assert made not in [one.id for one in document.project.join_sets]
    pair_set = paired(document, (0, "east", 1), (1, "east", 2), (2, "south", 0))
    merged = next(one for one in moved_in(document.project, {tile(1, 1): (tile(0, 1), 0)}).pair_sets if one.id == "p")
    assert merged.tiles == tuple(PairTile(tile(column, 1)) for column in (0, 2, 3, 4))
    assert merged.allowed[1][0, 0]
    assert merged.allowed[1][0, 1]
    steps = (FitStep("things", join_set="p"),)
    document.define("recipe", replace(document.project, recipes=(Recipe("r", "R", "ground", 1, steps),)))
    with pytest.raises(BadRequest, match="laid by the recipe"):
        remove_pair_set(document, "p")
    document.save(tmp_path / "kept")
    assert pair_set in Document.load(tmp_path / "kept").project.pair_sets
    remove_pair_set(document, made)
    assert [one.id for one in document.project.pair_sets] == ["p"]
    assert plane_of(document, "things", "cells").sum() == 0
