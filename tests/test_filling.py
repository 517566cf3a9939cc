"""Filling to fit: every neighbour agrees, on every grid, and what can't be done is told."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from calling import fails_with_one_sentence, knitground
from knitground.core.edits.filling import Wanted, filled_planes
from knitground.core.edits.layers import change_layer
from knitground.core.edits.pairing import put_pairs, read_off_map
from knitground.core.errors import BadRecipe, Cancelled
from knitground.core.grid.plane import Plane
from knitground.core.grow.agreeing import SIDE_STEPS, allowed, steps_of
from knitground.core.grow.fitting import CannotAgree, Field, Held, Rules, fill, rect_field
from knitground.core.grow.pairs import PairSet
from knitground.core.joins.cells import combinations
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME
from making import CORNERED, cell_set, make_document, plane_of, poke, tile

CORNERS = list(product((1, 2), repeat=4))


def agrees(rules: Rules, patterns: np.ndarray, beside: np.ndarray) -> bool:
    return all(
        rules.allowed[way][patterns[there], patterns[beside[way][there]]].all()
        for way in range(len(beside))
        for there in [beside[way] >= 0]
    )


def random_rules(seed: int, count: int, colours: int) -> Rules:
    """Tiles with random colours at their sides; each in all quarter turns, so that most can be laid."""
    random = np.random.default_rng(seed)
    rows = random.integers(0, colours, (count, 4))
    rows = np.unique(np.concatenate([np.roll(rows, turn, axis=1) for turn in range(4)]), axis=0)
    return Rules(allowed("edge", [tuple(row) for row in rows.tolist()]), random.uniform(0.5, 2, len(rows)))


@settings(deadline=None, max_examples=10)
@given(seed=st.integers(0, 10_000), wraps=st.booleans(), height=st.integers(3, 40), width=st.integers(3, 40))
def test_whatever_is_laid_agrees_with_all_neighbours(seed, wraps, height, width):
    rules, field = random_rules(seed, 12, 3), rect_field(height, width, SIDE_STEPS, wraps=wraps)
    try:
        patterns = fill(rules, field, None, seed)
    except CannotAgree:
        return
    assert agrees(rules, patterns, field.beside)
    assert np.array_equal(patterns, fill(rules, field, None, seed))


@settings(deadline=None, max_examples=6)
@given(seed=st.integers(0, 10_000), wraps=st.booleans(), holes=st.sampled_from([0.0, 0.1, 0.5]))
def test_corners_agree_also_where_cells_beside_them_are_left_out(seed, wraps, holes):
    cells = [(0,) * 9, *combinations([(1,) * 9, (2,) * 9], 0)]
    rules, field = Rules(allowed("cell", cells), np.ones(len(cells))), rect_field(12, 17, steps_of("cell"), wraps=wraps)
    out = np.random.default_rng(seed).random(12 * 17) < holes
    beside = np.where(out[field.beside] | out[None] | (field.beside < 0), -1, field.beside).astype(np.int32)
    patterns = fill(rules, Field(beside, field.places), None, seed)
    assert agrees(rules, patterns, beside)


def test_most_random_sets_can_be_laid():
    laid = 0
    for seed in range(20):
        rules, field = random_rules(seed, 10, 3), rect_field(30, 30, SIDE_STEPS, wraps=True)
        try:
            laid += agrees(rules, fill(rules, field, None, seed), field.beside)
        except CannotAgree:
            continue
    assert laid >= 17


def test_where_all_may_lie_beside_all_they_come_as_weighted():
    weights = np.array([1.0, 2.0, 5.0, 8.0])
    field = rect_field(200, 200, SIDE_STEPS, wraps=False)
    patterns = fill(Rules(np.ones((4, 4, 4), dtype=bool), weights), field, None, 3)
    assert np.abs(np.bincount(patterns) / 40_000 - weights / 16).max() < 0.02


def test_more_patterns_than_a_number_has_bits_are_told_apart():
    labels = list(product((1, 2, 3), repeat=4))
    rules, field = Rules(allowed("corner", labels), np.ones(81)), rect_field(25, 40, SIDE_STEPS, wraps=True)
    patterns = fill(rules, field, None, 8)
    assert agrees(rules, patterns, field.beside)
    assert len(np.unique(patterns)) > 70


def test_given_cells_stay_and_those_that_contradict_are_named():
    rules, field = Rules(allowed("corner", CORNERS), np.ones(16)), rect_field(6, 6, SIDE_STEPS, wraps=False)
    one, two = (np.eye(16, dtype=bool)[[number]] for number in (15, 0))
    assert fill(rules, field, Held(np.array([14]), one), 1)[14] == 15
    with pytest.raises(CannotAgree) as found:
        fill(rules, field, Held(np.array([14, 15]), np.concatenate([one, two])), 1)
    assert found.value.cell in (14, 15)


def test_filling_can_be_stopped():
    def stop(share: float) -> None:
        raise Cancelled

    rules, field = Rules(allowed("corner", CORNERS), np.ones(16)), rect_field(200, 200, SIDE_STEPS, wraps=False)
    with pytest.raises(Cancelled):
        fill(rules, field, None, 1, progress=stop)


@pytest.mark.parametrize("grid", CORNERED)
@pytest.mark.parametrize("name", ["areas", "lines", "beds"])
def test_a_layer_of_tiles_is_filled_so_that_no_seam_is_left(grid, name):
    document = make_document(grid=grid)
    document.define("add set", replace(document.project, join_sets=(*document.project.join_sets, cell_set())))
    derived = Derived(document)
    sets = {one.id: one for one in document.project.join_sets}
    planes = filled_planes(derived, "ground", "things", name, 5)
    document.put_planes("fill", "ground", {"things": planes})
    codes = plane_of(document, "things", "cells")
    shown = {derived.code(one.ref, one.orientation): labels
             for labels, tiles in derived.coverage(sets[name]).tiles.items() for one in tiles}  # fmt: skip
    board = document.project.grounds[0].board
    rules = allowed(sets[name].kind, rows := [sets[name].blank, *shown.values()])
    numbers = {0: 0} | {code: number for number, code in enumerate(shown, start=1)}
    ys, xs = board.flat("cells", *np.indices(codes.shape))
    assert len(rows) > 4
    for way, (down, right) in enumerate(steps_of(sets[name].kind)):
        there = board.there("cells", ys + down, xs + right)
        rows_at, columns_at = board.stored("cells", (ys + down)[there], (xs + right)[there])
        one = [numbers[code] for code in codes[there].tolist()]
        other = [numbers[code] for code in codes[rows_at, columns_at].tolist()]
        assert rules[way][one, other].all()


def test_a_knit_layer_is_painted_so_that_its_tiles_follow_and_join():
    document = make_document()
    derived = Derived(document)
    document.put_planes("fill", "ground", {"areas": filled_planes(derived, "ground", "areas", "areas", 9)})
    laid = derived.knitted("ground").laid("areas", document.project.grounds[0].board.whole)
    assert (laid.codes > 0).all()
    assert not laid.unmet.any()
    assert len(np.unique(laid.codes)) > 10
    assert len(np.unique(plane_of(document, "areas", "corners"))) == 2


def test_only_what_is_wanted_is_filled_and_what_lies_round_it_fits():
    document = make_document()
    derived = Derived(document)
    document.put_planes("fill", "ground", {"things": filled_planes(derived, "ground", "things", "areas", 5)})
    before = plane_of(document, "things", "cells")
    cells = np.zeros(before.shape, dtype=bool)
    cells[4:9, 5:12] = True
    after = np.asarray(filled_planes(derived, "ground", "things", "areas", 6, Wanted(cells))["cells"])
    assert np.array_equal(after[~cells], before[~cells])
    assert (after[cells] != before[cells]).any()
    with pytest.raises(BadRecipe, match="Nothing is free"):
        filled_planes(derived, "ground", "things", "areas", 6, Wanted(held=True))


def test_held_tiles_that_cannot_agree_are_named_with_their_cells():
    document = make_document()
    derived = Derived(document)
    one, other = (derived.code(tile(number, 0)) for number in (0, 15))
    poke(document, "things", "cells", ([5, 5], [5, 6]), [one, other])
    held = Plane.of(plane_of(document, "things", "cells"))
    with pytest.raises(BadRecipe, match=r"column \d+, row \d+.*rub one of these out"):
        filled_planes(derived, "ground", "things", "areas", 1, Wanted(held=True), planes={"cells": held})
    poke(document, "things", "cells", ([5, 5], [5, 6]), [one, 0])
    filled_planes(derived, "ground", "things", "areas", 1, Wanted(held=True))


def test_a_layer_that_is_not_knit_from_the_set_is_refused():
    with pytest.raises(BadRecipe, match="not knit from"):
        filled_planes(Derived(make_document()), "ground", "areas", "lines", 1)


def test_a_locked_layer_and_far_too_many_cells_are_refused():
    document = make_document()
    change_layer(document, "ground", "things", "lock", locked=True)
    with pytest.raises(BadRecipe, match="locked"):
        filled_planes(Derived(document), "ground", "things", "areas", 1)
    field = Field(np.zeros((4, 2**23 + 1), np.int32), np.zeros((2**23 + 1, 2), np.int32))
    with pytest.raises(BadRecipe, match="too many to fill at once"):
        fill(Rules(np.ones((4, 2, 2), dtype=bool), np.ones(2)), field, None, 1)


def test_a_layer_is_filled_on_the_command_line_and_again_the_same(tmp_path):
    codes = []
    for name in ("one", "two"):
        make_document().save(tmp_path / name)
        wanted = ("--ground", "Ground", "--layer", "Things", "--set", "Areas", "--wrap", "--seed", 7)
        result = knitground("fill", tmp_path / name, *wanted)
        assert result.returncode == 0, result.stderr
        assert "filled “Things”" in result.stdout
        codes.append(plane_of(Document.load(tmp_path / name), "things", "cells"))
    assert (codes[0] > 0).all()
    assert np.array_equal(*codes)
    document = Document.load(tmp_path / "one")
    derived, areas = Derived(document), document.project.join_sets[0]
    shown = {derived.code(one.ref, one.orientation): labels
             for labels, tiles in derived.coverage(areas).tiles.items() for one in tiles}  # fmt: skip
    labels = np.array([shown[code] for code in codes[0].ravel().tolist()]).reshape(*codes[0].shape, 4)
    # Corners go round from the north-west: what is east and south of each cell agrees, over the borders too.
    assert (labels[..., [1, 2]] == np.roll(labels, -1, axis=1)[..., [0, 3]]).all()
    assert (labels[..., [3, 2]] == np.roll(labels, -1, axis=0)[..., [0, 1]]).all()


def test_held_tiles_stay_on_the_command_line(tmp_path):
    document = make_document()
    code = document.palette.code(tile(15, 0))
    poke(document, "things", "cells", np.s_[4:6, 4:6], code)
    document.save(tmp_path / "held")
    wanted = ("--layer", "Things", "--set", "Areas", "--keep")
    assert knitground("fill", tmp_path / "held", *wanted).returncode == 0
    after = Document.load(tmp_path / "held")
    laid = plane_of(after, "things", "cells")
    assert (laid[4:6, 4:6] == after.palette.code(tile(15, 0))).all()
    assert (laid > 0).all()
    assert "Nothing is free" in fails_with_one_sentence(knitground("fill", tmp_path / "held", *wanted))


@pytest.mark.parametrize(
    ("wanted", "says"),
    [
        (("--layer", "Things", "--set", "Gone"), "has no join set"),
        (("--layer", "Gone", "--set", "Areas"), "has no layer"),
        (("--layer", "Areas", "--set", "Lines"), "not knit from"),
        (("--layer", "Things"), "--set"),
        (("--layer", "Things", "--set", "Areas", "--seed", -1), "--seed"),
    ],
)
def test_what_cannot_be_filled_is_told_and_nothing_changes(tmp_path, wanted, says):
    make_document().save(tmp_path / "kept")
    before = (tmp_path / "kept" / FILE_NAME).read_bytes()
    assert says in fails_with_one_sentence(knitground("fill", tmp_path / "kept", *wanted))
    assert (tmp_path / "kept" / FILE_NAME).read_bytes() == before


def test_the_command_line_fills_with_pairs_too(tmp_path):
    document = make_document(12, 10)
    code = document.palette.code(tile(1, 1))
    poke(document, "things", "cells", np.s_[:2, :2], code)
    put_pairs(document, "pairs", read_off_map(Derived(document), PairSet("p", "Sheds"), "ground", "things"))
    document.save(tmp_path / "pairs")
    assert knitground("fill", tmp_path / "pairs", "--layer", "Things", "--set", "Sheds").returncode == 0
    assert (plane_of(Document.load(tmp_path / "pairs"), "things", "cells") > 0).any()
