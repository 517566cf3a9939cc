"""Regions of steps: tags, tiles, marks, selected cells; and recipes taken over to other grounds."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from knitground.core.edits.grounds import duplicate_ground
from knitground.core.edits.growing import grow, grown_planes
from knitground.core.edits.layers import remove_layer
from knitground.core.edits.merging import moved_in
from knitground.core.edits.recipes import on_ground
from knitground.core.edits.removing import remove_mark, remove_terrain
from knitground.core.errors import BadRecipe
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.grow.places import places_of
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.region import Spot, Where, cells_said, mask_of, runs_of
from knitground.core.grow.steps import FloodStep, NoiseStep, PathStep, RunStep, ScatterStep
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.notes import TileNotes
from making import make_document, plane_of, tile

FLOOD = FloodStep("things", mix="m")


def with_mix(width: int = 30, height: int = 20) -> Document:
    document = make_document(width, height)
    document.define("mix", replace(document.project, mixes=(Mix("m", "M", (MixPart(tile(2, 3)),)),)))
    return document


def grown(document: Document, *steps) -> np.ndarray:
    planes = grown_planes(Derived(document), Recipe("r", "R", "ground", 5, steps))
    return np.asarray(planes["things"]["cells"])


@given(arrays(bool, st.tuples(st.integers(1, 9), st.integers(1, 9))), st.integers(0, 4), st.integers(0, 4))
def test_selected_cells_are_kept_as_they_are(mask, top, left):
    height, width = mask.shape
    runs = runs_of(Shape(CellRect(top, left, height, width), mask))
    whole = mask_of(runs, 14, 14)
    assert np.array_equal(whole[top : top + height, left : left + width], mask)
    assert whole.sum() == mask.sum()
    assert cells_said(runs).startswith(f"{mask.sum()} cell")
    # On a smaller ground what is off it counts for nothing.
    assert np.array_equal(mask_of(runs, 5, 5), whole[:5, :5])


def test_a_step_lays_in_its_selected_cells_alone_and_where_something_lies_besides():
    document = with_mix()
    mask = np.random.default_rng(3).random((6, 8)) < 0.5
    cells = runs_of(Shape(CellRect(2, 5, 6, 8), mask))
    found = grown(document, replace(FLOOD, cells=cells)) > 0
    assert np.array_equal(found[2:8, 5:13], mask)
    assert found.sum() == mask.sum()
    wall = NoiseStep("walls", 1, scale=8.0, amount=0.5, elsewhere=0)
    planes = grown_planes(Derived(document), Recipe("r", "R", "ground", 5, (wall,)))["walls"]
    there = np.asarray(planes["plan"]) == 1
    both = grown(document, wall, replace(FLOOD, cells=cells, where=Where("walls", 1))) > 0
    assert np.array_equal(both, found & there)


def test_a_region_asks_for_tiles_and_tags_that_a_knit_layer_shows():
    document = with_mix()
    notes = {tile(column, row): TileNotes(tags=("wet",)) for column in range(8) for row in (0, 1)}
    document.define("tags", replace(document.project, tiles=notes))
    paint = NoiseStep("areas", 2, scale=6.0, elsewhere=1)
    derived = Derived(document)
    grow(derived, Recipe("p", "P", "ground", 7, (paint,)))
    codes = derived.knitted("ground").codes("areas", CellRect(0, 0, 20, 30))
    refs = document.palette.refs
    wet = np.isin(codes, [number for number, ref in enumerate(refs, 1) if ref in notes])
    assert 0 < wet.sum() < wet.size
    for outside in (False, True):
        found = grown(document, replace(FLOOD, where=Where("areas", tag="wet", outside=outside))) > 0
        assert np.array_equal(found, wet != outside)
    shown = refs[int(codes[0, 0]) - 1]
    found = grown(document, replace(FLOOD, where=Where("areas", tile=shown))) > 0
    assert np.array_equal(found, codes == codes[0, 0])
    # The region is as the steps before have it, not as the ground was.
    repainted = grown(document, NoiseStep("areas", 1, amount=1.0), replace(FLOOD, where=Where("areas", tile=shown)))
    assert not np.array_equal(repainted > 0, found)


def test_over_what_is_bare_leaves_tiles_as_they_are():
    document = with_mix()
    first = grown(document, replace(FLOOD, amount=0.4))
    document.define(
        "mixes", replace(document.project, mixes=(*document.project.mixes, Mix("n", "N", (MixPart(tile(5, 3)),))))
    )
    both = grown(document, replace(FLOOD, amount=0.4), FloodStep("things", mix="n", over=0))
    assert np.array_equal(both[first > 0], first[first > 0])
    assert (both > 0).all()


def test_regions_follow_terrains_that_are_taken_out_and_tiles_that_are_merged():
    document = with_mix()
    steps = (replace(FLOOD, where=Where("areas", 2)), replace(FLOOD, where=Where("areas", tile=tile(1, 1))))
    document.define("recipe", replace(document.project, recipes=(Recipe("r", "R", "ground", 1, steps),)))
    moved = moved_in(document.project, {tile(1, 1): (tile(2, 2), 0)})
    assert moved.recipes[0].steps[1].where.tile == tile(2, 2)
    remove_terrain(document, document.project.grounds[0].layer("areas").set_id, 1)
    assert document.project.recipes[0].steps[0].where.terrain == 1


def test_regions_follow_marks_that_are_taken_out():
    document = with_mix()
    steps = (NoiseStep("walls", 3, elsewhere=1), replace(FLOOD, where=Where("walls", 3)))
    document.define("recipe", replace(document.project, recipes=(Recipe("r", "R", "ground", 1, steps),)))
    remove_mark(document, document.project.grounds[0].layer("walls").set_id, 2)
    first, last = document.project.recipes[0].steps
    assert (first.terrain, first.elsewhere, last.where.terrain) == (2, 1, 2)


def test_a_recipe_runs_on_another_ground_by_layers_that_are_like_its_own():
    document = with_mix(24, 18)
    steps = (NoiseStep("areas", 2, scale=6.0, elsewhere=1), replace(FLOOD, where=Where("areas", 2)))
    document.define("recipe", replace(document.project, recipes=(Recipe("r", "R", "ground", 9, steps),)))
    other = duplicate_ground(document, "ground")
    there = next(one for one in document.project.grounds if one.id == other)
    recipe = on_ground(document.project, document.project.recipes[0], there)
    assert recipe.ground == other
    assert recipe.id not in [one.id for one in document.project.recipes]
    derived = Derived(document)
    grow(derived, document.project.recipes[0])
    grow(derived, recipe)
    assert np.array_equal(plane_of(document, "things", "cells"), plane_of(document, "things", "cells", other))
    remove_layer(document, other, "things")
    there = next(one for one in document.project.grounds if one.id == other)
    with pytest.raises(BadRecipe, match="has no layer like"):
        on_ground(document.project, document.project.recipes[0], there)


@pytest.mark.parametrize("wraps", [False, True])
def test_a_way_joins_all_its_places_and_a_single_one_to_the_border(wraps):
    document = make_document(40, 30)
    ground = replace(document.project.grounds[0], wraps_x=wraps, wraps_y=wraps)
    document.define("round", replace(document.project, grounds=(ground,)))
    places = places_of(ground.board, "cells")
    spots = (Spot(4, 5), Spot(25, 8), Spot(15, 33), Spot(200, 3))
    step = PathStep("walls", 2, width=1, winding=0.8, spots=spots)
    way = planned(document, step)
    assert places.parts(way)[0] == 1
    assert all(way[spot.row, spot.column] for spot in spots[:3])
    assert way.sum() < 200
    alone = planned(document, replace(step, spots=spots[:1]))
    assert places.parts(alone)[0] == 1
    assert alone[4, 5]
    assert alone[:, 0].any()


def planned(document: Document, step) -> np.ndarray:
    planes = grown_planes(Derived(document), Recipe("r", "R", "ground", 5, (step,)))
    return np.asarray(planes["walls"]["plan"]) == 2


@pytest.mark.parametrize(
    "step",
    [FLOOD, ScatterStep("things", mix="m", apart=1.5), ScatterStep("things", mix="m", apart=1.0, spread="by chance")],
)
def test_what_is_denser_towards_a_place_fades_out_from_it(step):
    document = with_mix(60, 60)
    found = grown(document, replace(step, spots=(Spot(20, 20), Spot(50, 10)), fades=6.0)) > 0
    everywhere = grown(document, step) > 0
    rows, columns = np.mgrid[:60, :60]
    away = np.minimum(np.hypot(rows - 20, columns - 20), np.hypot(rows - 50, columns - 10))
    near, between, far = away < 4, (away > 6) & (away < 10), away > 20
    shares = [found[where].mean() / everywhere[where].mean() for where in (near, between, far)]
    assert shares[0] > 0.75
    assert 0.25 < shares[1] < 0.75
    assert shares[2] < 0.02


def test_running_a_set_lays_the_tiles_that_another_layer_shows_as_of_then():
    document = with_mix()
    paint = NoiseStep("areas", 2, scale=6.0, elsewhere=1)
    found = grown(document, paint, RunStep("things", reads="areas"), NoiseStep("areas", 1, amount=1.0))
    derived = Derived(document)
    grow(derived, Recipe("p", "P", "ground", 5, (paint,)))
    assert np.array_equal(found, derived.knitted("ground").codes("areas", CellRect(0, 0, 20, 30)))
    assert len(np.unique(found)) > 3
