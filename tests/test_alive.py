"""Recipes that stay alive on their layers: they grow anew from bare, and what was done by hand stays on top."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.alive import changed_by_hand, forget_hands, let_go
from knitground.core.edits.grounds import resize_ground
from knitground.core.edits.growing import grow, grown_planes, remove_recipe
from knitground.core.edits.layers import remove_layer
from knitground.core.edits.painting import Hand, area, stroke
from knitground.core.edits.reframing import reframe_ground, shift_ground
from knitground.core.edits.selecting import boxed
from knitground.core.errors import BadProject, BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.steps import FloodStep, NoiseStep
from knitground.core.project.by_hand import hand_key
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME
from making import make_document, plane_of, tile

CELLS = np.zeros((24, 30), dtype=np.uint8)
CELLS[2:6, 2:9] = 1
NOISE = NoiseStep("walls", 1, scale=7.0, amount=0.5, elsewhere=0)


def alive(*steps, seed: int = 5) -> Recipe:
    return Recipe("r", "Weather", "ground", seed, steps or (NOISE,), alive=True)


def plan(document: Document) -> np.ndarray:
    return plane_of(document, "walls", "plan").copy()


def mask(document: Document) -> np.ndarray:
    return np.asarray(document.state.planes["ground"][hand_key("walls")]["plan"])


def laid_by(recipe: Recipe) -> np.ndarray:
    """What a recipe lays on a bare ground."""
    bare = make_document(30, 24)
    return np.asarray(grown_planes(Derived(bare), recipe)["walls"]["plan"])


@settings(max_examples=25)
@given(
    strokes=st.lists(st.tuples(*[st.integers(0, 23)] * 2, st.integers(0, 2)), min_size=1, max_size=5),
    amounts=st.lists(st.floats(0.1, 0.9), min_size=1, max_size=4),
)
def test_whatever_is_painted_stays_and_all_else_is_as_the_recipe_lays_it(strokes, amounts):
    document = make_document(30, 24)
    derived = Derived(document)
    grow(derived, alive())
    assert np.array_equal(plan(document), laid_by(alive()))
    by_hand = np.zeros((24, 30), dtype=bool)
    for at, amount in zip(range(max(len(strokes), len(amounts))), amounts * 5, strict=False):
        row, column, terrain = strokes[at % len(strokes)]
        before = plan(document)
        hand = Hand(terrain=max(terrain, 1), radius=2)
        stroke(document, "ground", "walls", hand, (row + 0.5, column + 0.5), (row + 0.5, 9.5), erase=not terrain)
        by_hand |= plan(document) != before
        assert np.array_equal(mask(document) > 0, by_hand)
        painted, recipe = plan(document), alive(replace(NOISE, amount=amount))
        grow(derived, recipe)
        assert np.array_equal(plan(document)[by_hand], painted[by_hand])
        assert np.array_equal(plan(document)[~by_hand], laid_by(recipe)[~by_hand])
    assert changed_by_hand(document, alive()) == by_hand.sum()


def test_it_grows_from_bare_each_time_and_steps_see_what_was_done_by_hand():
    document = make_document(30, 24)
    derived = Derived(document)
    spread = NoiseStep("walls", 1, scale=7.0, amount=0.3)
    grow(derived, alive(spread))
    first = plan(document)
    grow(derived, alive(replace(spread, throw=3)))
    assert not np.array_equal(plan(document), first)
    grow(derived, alive(spread))
    assert np.array_equal(plan(document), first), "nothing of the throw in between is left"
    grow(derived, alive(replace(spread, on=False)))
    assert not plan(document).any()
    document.undo()
    assert np.array_equal(plan(document), first)


def test_what_was_there_before_counts_as_done_by_hand_but_not_what_the_recipe_laid_itself():
    document = make_document(30, 24)
    derived = Derived(document)
    area(document, "ground", "walls", Hand(), (2.5, 2.5), (5.5, 8.5))
    grow(derived, alive(replace(NOISE, amount=0.1)))
    assert plan(document)[2:6, 2:9].all()
    assert mask(document).sum() == 4 * 7
    other = make_document(30, 24)
    derived = Derived(other)
    grow(derived, replace(alive(), alive=False))
    grown = plan(other)
    area(other, "ground", "walls", Hand(), (2.5, 2.5), (5.5, 8.5))
    grow(derived, alive(replace(NOISE, amount=0.1)))
    assert np.array_equal(mask(other) > 0, (grown == 0) & (CELLS == 1))
    assert plan(other)[mask(other) > 0].all()
    assert (plan(other) == 1).mean() < 0.25


def test_a_recipe_that_is_let_go_or_taken_out_leaves_what_lies_there():
    for end in (lambda document: let_go(document, document.project.recipes[0]), lambda one: remove_recipe(one, "r")):
        document = make_document(30, 24)
        grow(Derived(document), alive())
        before = plan(document)
        end(document)
        assert np.array_equal(plan(document), before)
        assert hand_key("walls") not in document.state.planes["ground"]
        document.undo()
        assert document.project.recipes[0].alive
        assert hand_key("walls") in document.state.planes["ground"]


def test_it_grows_again_where_the_marks_are_taken_away():
    document = make_document(30, 24)
    derived = Derived(document)
    grow(derived, alive())
    grown = plan(document)
    area(document, "ground", "walls", Hand(), (0.5, 0.5), (9.5, 9.5), erase=True)
    assert not plan(document)[:10, :10].any()
    board = document.project.grounds[0].board
    forget_hands(document, alive(), boxed(board, (0.5, 0.5), (4.5, 9.5)))
    grow(derived, alive())
    assert np.array_equal(plan(document)[:5], grown[:5])
    assert not plan(document)[5:10, :10].any()
    forget_hands(document, alive())
    grow(derived, alive())
    assert np.array_equal(plan(document), grown)
    with pytest.raises(BadRequest, match="Nothing there"):
        forget_hands(document, alive())


def test_marks_are_saved_and_follow_the_ground_where_it_is_framed_anew(tmp_path):
    document = make_document(30, 24)
    derived = Derived(document)
    grow(derived, alive())
    area(document, "ground", "walls", Hand(), (6.5, 6.5), (9.5, 9.5), erase=True)
    document.save(tmp_path / "kept")
    again = Document.load(tmp_path / "kept")
    assert np.array_equal(mask(again), mask(document))
    assert again.project.recipes[0].alive
    shift_ground(document, "ground", 2, 3)
    assert np.array_equal(mask(document), np.roll(mask(again), (2, 3), axis=(0, 1)))
    reframe_ground(document, "ground", CellRect(1, 1, 30, 30))
    assert mask(document).shape == (30, 30)
    assert mask(document).sum() == mask(again).sum()
    resize_ground(document, "ground", 16, 16)
    assert mask(document).shape == (16, 16)
    grow(derived, alive())
    assert mask(document).any()
    assert not plan(document)[mask(document) > 0].any()
    remove_layer(document, "ground", "walls")
    assert hand_key("walls") not in document.state.planes["ground"]
    text = (tmp_path / "kept" / FILE_NAME).read_text()
    (tmp_path / "kept" / FILE_NAME).write_text(
        text.replace('"by hand/walls": {\n', '"by hand/walls": {"across": [],\n')
    )
    with pytest.raises(BadProject, match=r"by hand|rows"):
        Document.load(tmp_path / "kept")


def test_tiles_laid_by_hand_stay_on_a_layer_of_single_tiles():
    document = make_document(30, 24)
    document.define(
        "mix", replace(document.project, mixes=(Mix("m", "M", (MixPart(tile(2, 3)), MixPart(tile(5, 3)))),))
    )
    derived = Derived(document)
    flood = FloodStep("things", mix="m")
    grow(derived, alive(flood))
    area(document, "ground", "things", Hand(tile=tile(7, 1)), (3.5, 3.5), (6.5, 6.5))
    grow(derived, alive(replace(flood, throw=9)))
    codes = plane_of(document, "things", "cells")
    assert (codes == document.palette.code(tile(7, 1))).sum() == 16


def test_two_recipes_keep_no_layer_alive_at_once():
    document = make_document(30, 24)
    derived = Derived(document)
    grow(derived, alive())
    with pytest.raises(BadRequest, match="kept alive by “Weather”"):
        grow(derived, replace(alive(), id="other", name="Other"))
