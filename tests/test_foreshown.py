"""Small pictures of what a recipe would make of a ground."""

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest

from knitground.core.edits.foreshown import picture_with, pictures_after, throws, told_after
from knitground.core.edits.growing import After, grow, steps_after
from knitground.core.grid.projection import PixelRect
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.steps import CavesStep, ExampleStep, NoiseStep
from knitground.core.project.derived import Derived
from making import make_document, plane_of, poke


@pytest.mark.parametrize("size", [(40, 30), (20, 44)])
def test_small_pictures_tell_the_ground_after_each_step_and_nothing_is_changed(size):
    document = make_document(*size)
    derived = Derived(document)
    steps = (NoiseStep("areas", 2, scale=6.0, elsewhere=1), CavesStep("areas", 2, elsewhere=1))
    recipe = Recipe("r", "R", "ground", 5, steps)
    before = plane_of(document, "areas", "corners")
    pictures = pictures_after(derived, recipe, steps_after(derived, recipe), 64)
    assert len(pictures) == 3
    assert all(max(picture.shape[:2]) <= 64 for picture in pictures)
    assert not any(np.array_equal(one, other) for one, other in combinations(pictures, 2))
    assert np.array_equal(plane_of(document, "areas", "corners"), before)
    grow(derived, recipe)
    assert np.array_equal(pictures[-1], picture_with(derived, "ground", After(-1, {}), 64))


def test_a_part_of_a_ground_looks_as_it_does_in_the_whole():
    document = make_document(64, 48)
    derived = Derived(document)
    recipe = Recipe("r", "R", "ground", 5, (NoiseStep("areas", 2, scale=6.0, elsewhere=1),))
    after = steps_after(derived, recipe)
    (_, whole), (_, part) = (
        pictures_after(derived, recipe, after, side, part=part)
        for side, part in ((64 * 8, None), (32 * 8, PixelRect(16 * 8, 8 * 8, 32 * 8, 24 * 8)))
    )
    assert np.array_equal(part, whole[64 : 64 + 192, 128 : 128 + 256])


def test_throws_have_seeds_of_their_own_and_the_first_is_the_one_there_is():
    derived = Derived(make_document(30, 20))
    recipe = Recipe("r", "R", "ground", 5, (NoiseStep("areas", 2, scale=6.0, elsewhere=1),))
    found = list(throws(derived, recipe, 4, 48))
    assert found[0][0] == 5
    assert len({seed for seed, _ in found}) == len({picture.tobytes() for _, picture in found}) == 4
    again = list(throws(derived, recipe, 2, 48))
    assert all(np.array_equal(one[1], other[1]) for one, other in zip(found, again, strict=False))


def test_what_of_an_example_was_left_out_or_overused_is_told():
    document = make_document(30, 24)
    piece = np.ones((8, 8), dtype=np.uint8)
    piece[0, 0] = 2
    poke(document, "areas", "corners", np.s_[:8, :8], piece)
    derived = Derived(document)
    recipe = Recipe("r", "R", "ground", 5, (ExampleStep("areas", top=0, left=0, rows=8, columns=8, blocks=1),))
    after = steps_after(derived, recipe)
    told = told_after(derived, recipe, after)
    laid = np.asarray(after[-1].planes["areas"]["corners"])
    first, second = (terrain.name for terrain in document.project.join_sets[0].terrains[:2])
    share = (laid == 2).mean()
    if share == 0:
        assert told[0] == f"Of the piece not used: {second}."
    elif share > 2 / 64:
        assert f"{second} {share:.0%} instead of 2%" in told[0]
    assert first not in told.get(0, "")
    assert told_after(derived, replace(recipe, steps=(NoiseStep("areas"),)), after) == {}
