"""Areas painted by the cell: what a cell is, and where it goes on."""

import json
from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.edits.growing import grow
from knitground.core.edits.layers import add_layer
from knitground.core.edits.pins import bake_layer, read_back
from knitground.core.edits.removing import remove_terrain
from knitground.core.errors import BadProject
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.steps import NoiseStep
from knitground.core.joins.beyond import told_narrow
from knitground.core.joins.cells import (
    STEPS,
    combinations,
    compile_cells,
    count_combinations,
    is_narrow,
    knit_cells,
    proof_cells,
)
from knitground.core.joins.coverage import coverage
from knitground.core.joins.make import make_missing
from knitground.core.joins.sets import JoinSet, Terrain, formed
from knitground.core.joins.turning import turned_labels
from knitground.core.layers.cells import CellLayer
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME
from knitground.core.tiles.tile import EMPTY, GAP
from making import CORNERED, cell_set, make_document, plane_of, poke, tile

LONE = (0, 0, 0, 0, 0, 0, 0, 0, 1)
FULL = (1,) * 9
BLOB = list(combinations([LONE, FULL], 0))
"""One terrain on nothing: 47."""


def laid(cells: np.ndarray, table, **options) -> np.ndarray:
    """What is laid on a small ground off whose border there is nothing."""
    padded = np.pad(cells.astype(np.uint8), 1)
    height, width = cells.shape
    around = [padded[1 + down : 1 + down + height, 1 + right : 1 + right + width] for down, right in STEPS]
    return knit_cells(around, table, seed=1, **options)


def plain_labels(cells: np.ndarray, row: int, column: int, known: dict[int, set[int]], ground: int) -> tuple[int, ...]:
    """What counts round a cell, said as plainly as can be."""

    def beyond(down: int, right: int) -> int:
        y, x = row + down, column + right
        inside = 0 <= y < cells.shape[0] and 0 <= x < cells.shape[1]
        there = int(cells[y, x]) if inside else 0
        return there if there in known.get(middle, set()) else ground

    middle = int(cells[row, column])
    north, east, south, west = beyond(-1, 0), beyond(0, 1), beyond(1, 0), beyond(0, -1)
    corner = {(-1, -1): (north, west), (-1, 1): (north, east), (1, 1): (south, east), (1, -1): (south, west)}
    corners = [beyond(*step) if sides == (middle, middle) else 0 for step, sides in corner.items()]
    return (*corners, north, east, south, west, middle)


def test_one_terrain_on_nothing_has_47_combinations_and_16_without_corners():
    assert len(BLOB) == len(set(BLOB)) == count_combinations(BLOB, 0) == 47
    edges = [(0, 0, 0, 0, *row, 1) for row in product((0, 1), repeat=4)]
    assert list(combinations(edges, 0)) == edges
    assert count_combinations(edges, 0) == 16


@given(
    rows=st.lists(st.tuples(*[st.integers(0, 2)] * 8, st.integers(1, 2)), min_size=1, max_size=9),
    ground=st.integers(0, 2),
)
@settings(max_examples=60, deadline=None)
def test_combinations_are_counted_without_going_through_them(rows, ground):
    corners = any(any(row[:4]) for row in rows)
    rows = [formed(row, ground, corners=corners) for row in rows]
    assert len(list(combinations(rows, ground))) == count_combinations(rows, ground)


@given(
    cells=hnp.arrays(np.uint8, hnp.array_shapes(min_dims=2, max_dims=2, max_side=9), elements=st.integers(0, 3)),
    ground=st.sampled_from([0, 3]),
)
@settings(max_examples=80, deadline=None)
def test_the_tile_that_is_laid_carries_what_lies_round_its_cell(cells, ground):
    known = {1: {1, 2, ground}, 2: {2, ground}, 3: {3, ground}}
    rows = {
        formed((0, 0, 0, 0, *edges, middle), ground) for middle in known for edges in [(m,) * 4 for m in known[middle]]
    }
    rows |= {plain_labels(cells, *spot, known, ground) for spot in np.ndindex(cells.shape) if cells[spot]}
    rows.add((1, 1, 1, 1, 1, 1, 1, 1, 1))
    labels = dict(enumerate(sorted(rows), start=1))
    codes, near = laid(cells, compile_cells(labels, {}, 3, ground))
    for spot in np.ndindex(cells.shape):
        if cells[spot]:
            assert labels[int(codes[spot])] == plain_labels(cells, *spot, known, ground)
        else:
            assert codes[spot] == EMPTY
    assert not near.any()


def test_a_lone_cell_a_line_and_an_area_get_their_tiles():
    labels = dict(enumerate(BLOB, start=1))
    cells = np.zeros((9, 12), np.uint8)
    cells[1, 1], cells[1, 4:8], cells[4:8, 3:8] = 1, 1, 1
    cells[5, 5] = 0
    codes, near = laid(cells, compile_cells(labels, {}, 1))
    assert labels[codes[1, 1]] == LONE
    assert [labels[code][4:8] for code in codes[1, 4:8]] == [(0, 1, 0, 0), (0, 1, 0, 1), (0, 1, 0, 1), (0, 0, 0, 1)]
    assert labels[codes[4, 3]] == (0, 0, 1, 0, 0, 1, 1, 0, 1)
    assert labels[codes[6, 6]] == (0, 1, 1, 1, 1, 1, 1, 1, 1)
    assert not near.any()


def test_without_a_tile_the_nearest_is_laid_edges_before_corners():
    table = compile_cells({1: LONE, 2: (0, 0, 0, 0, 1, 1, 1, 1, 1), 3: (0, 0, 1, 0, 0, 1, 1, 0, 1)}, {}, 2)
    codes, near = laid(np.ones((3, 3)), table)
    assert codes[1, 1] == 2
    assert near[1, 1]
    assert codes[0, 0] == 3
    assert not near[0, 0]
    codes, near = laid(np.full((2, 2), 2), table)
    assert (codes == GAP).all()
    assert near.all()


@given(hnp.arrays(bool, (4, 5)))
def test_thirteen_tiles_are_enough_where_corners_lie_two_cells_apart(coarse):
    few = [labels for labels in BLOB if not is_narrow(labels, corners=True)]
    assert len(few) == 13
    _, near = laid(np.kron(coarse, np.ones((2, 2), bool)), compile_cells(dict(enumerate(few)), {}, 1))
    assert not near.any()


def test_a_set_is_told_how_much_of_what_it_lacks_is_narrow():
    few = [labels for labels in BLOB if not is_narrow(labels, corners=True)]

    def told(rows):
        labels = {tile(number, 0): row for number, row in enumerate(rows)}
        return told_narrow(coverage(replace(cell_set(), labels=labels)))

    assert told(few) == "all where an area is one cell wide or turns twice beside a cell"
    assert told(few[:-1]).startswith("34 of these where")
    assert told([labels for labels in BLOB if labels not in few[:2]]) == ""


def test_a_set_without_corner_labels_asks_for_none():
    edges = {number: (0, 0, 0, 0, *row, 1) for number, row in enumerate(product((0, 1), repeat=4), start=1)}
    table = compile_cells(edges, {}, 1)
    assert table.complete
    codes, near = laid(np.ones((5, 5)), table)
    assert not near.any()
    assert edges[codes[2, 2]] == (0, 0, 0, 0, 1, 1, 1, 1, 1)


def test_a_proof_shows_every_combination_just_as_it_is():
    cells = proof_cells([LONE, FULL], 0)["cells"]
    labels = dict(enumerate(BLOB, start=1))
    codes, near = laid(cells, compile_cells(labels, {}, 1))
    assert not near.any()
    assert {labels[code] for code in np.unique(codes[codes > 0]).tolist()} == set(BLOB)


def test_turned_tiles_turn_their_eight_labels_and_keep_their_middle():
    labels = (1, 0, 0, 2, 1, 0, 0, 2, 3)
    assert turned_labels(labels, "cell", 0) == labels
    for orientation in range(8):
        turned = turned_labels(labels, "cell", orientation)
        assert turned[8] == 3
        assert sorted(turned[:4]) == sorted(labels[:4])
        assert turned[:4] == turned_labels(labels[:4], "corner", orientation)


def test_few_drawn_tiles_cover_all_by_turning():
    terrains = (Terrain("Bed", "B", "#80a040"),)
    drawn = {turned: row for row in BLOB for turned in [min(turned_labels(row, "cell", one) for one in range(8))]}
    labels = {tile(number, 0): row for number, row in enumerate(sorted(drawn))}
    join_set = JoinSet("s", "S", "cell", terrains, labels=labels)
    assert coverage(join_set).total == 47
    assert coverage(join_set).present == len(labels) < 20
    turning = coverage(replace(join_set, turns=True, mirrors_x=True))
    assert turning.lacking == 0


@pytest.mark.parametrize("grid", CORNERED)
@pytest.mark.parametrize(("wraps", "beyond"), [(True, "same"), (False, "same"), (False, "nothing")])
def test_painting_bit_by_bit_gives_what_knitting_the_whole_gives(grid, wraps, beyond):
    random = np.random.Generator(np.random.PCG64(3))
    table = compile_cells(dict(enumerate(BLOB, start=1)), {}, 1)
    layer = CellLayer("layer", "Layer", "set", beyond=beyond)
    ground = Ground("g", "G", 33, 28, 8, 8, (layer,), grid, wraps_x=wraps, wraps_y=wraps)
    planes = {"cells": Plane.full(ground.board.shape("cells"), np.uint8)}
    knitted, whole = Knitted(ground, {"layer": planes}, {"layer": table}, 5), CellRect(0, 0, 28, 33)
    before = knitted.codes("layer", whole).copy()
    for number in range(16):
        rect = CellRect(int(random.integers(0, 24)), int(random.integers(0, 28)), 4, 5)
        planes = {"cells": planes["cells"].written(rect, np.full((4, 5), number % 3 != 2, np.uint8))}
        reached = knitted.touched("layer", "cells", rect, planes)
        after = knitted.codes("layer", whole).copy()
        changed = before != after
        for _, window in reached:
            changed[window.rows, window.columns] = False
        assert not changed.any()
        assert np.array_equal(after, layer.lay(ground.board, planes, table, 5, whole).codes)
        before = after


@pytest.mark.parametrize(("beyond", "edges"), [("same", (1, 1, 0, 1)), ("nothing", (0, 1, 0, 1))])
def test_off_the_map_an_area_goes_on_or_ends(beyond, edges):
    labels = dict(enumerate(BLOB, start=1))
    layer = CellLayer("layer", "Layer", "set", beyond=beyond)
    ground = Ground("g", "G", 5, 4, 8, 8, (layer,))
    cells = np.zeros((4, 5), np.uint8)
    cells[0, 1:4] = 1
    codes = layer.lay(
        ground.board, {"cells": Plane.of(cells)}, compile_cells(labels, {}, 1), 1, CellRect(0, 0, 4, 5)
    ).codes
    assert labels[codes[0, 2]][4:8] == edges


def test_a_platform_in_side_view_has_ends_a_middle_and_a_post_of_its_own():
    left, middle, right, alone = ((0, 1, 0, 0), (0, 1, 0, 1), (0, 0, 0, 1), (0, 0, 0, 0))
    top, inner, foot = (0, 0, 1, 0), (1, 0, 1, 0), (1, 0, 0, 0)
    every = (left, middle, right, alone, top, inner, foot)
    labels = {number: (0, 0, 0, 0, *edges, 1) for number, edges in enumerate(every, start=1)}
    cells = np.zeros((7, 9), np.uint8)
    cells[1, 1:6], cells[1:6, 7], cells[4, 2] = 1, 1, 1
    codes, near = laid(cells, compile_cells(labels, {}, 1))
    assert codes[1, 1:6].tolist() == [1, 2, 2, 2, 3]
    assert codes[1:6, 7].tolist() == [5, 6, 6, 6, 7]
    assert codes[4, 2] == 4
    assert not near.any()


def bedded(grid: str = "square") -> tuple[Document, str]:
    """A document with a cell layer of all sixteen edges."""
    document = make_document(grid=grid)
    project = document.project
    document.define("beds", replace(project, join_sets=(*project.join_sets, cell_set())))
    return document, add_layer(document, "ground", "Beds", "beds")


@pytest.mark.parametrize("grid", CORNERED)
def test_a_baked_area_reads_back_as_it_was_painted(grid):
    document, layer_id = bedded(grid)
    random = np.random.Generator(np.random.PCG64(2))
    cells = (random.random((15, 20)) < 0.5).astype(np.uint8)
    document.put_planes("paint", "ground", {layer_id: {"cells": Plane.of(cells)}})
    bake_layer(Derived(document), "ground", layer_id)
    read = read_back(Derived(document), "ground", layer_id, "beds")
    assert document.project.grounds[0].layer(read).kind == "cells"
    assert np.array_equal(plane_of(document, read, "cells"), cells)


def test_a_recipe_grows_areas_of_cells():
    document, layer_id = bedded()
    recipe = Recipe("r", "R", "ground", 5, (NoiseStep(layer_id, 1, scale=5.0, amount=0.4),))
    grow(Derived(document), recipe)
    share = (plane_of(document, layer_id, "cells") == 1).mean()
    assert 0.3 < share < 0.5


def test_a_terrain_is_taken_out_of_a_cell_set_with_what_was_painted_of_it():
    document, layer_id = bedded()
    beds = document.project.join_sets[-1]
    two = replace(beds, terrains=(*beds.terrains, Terrain("Grass", "G", "#40a040")), ground=2)
    document.define("grass", replace(document.project, join_sets=(*document.project.join_sets[:-1], two)))
    poke(document, layer_id, "cells", np.s_[3:6, 3:6], 2)
    remove_terrain(document, "beds", 2)
    assert document.project.join_sets[-1].ground == 0
    assert not plane_of(document, layer_id, "cells").any()


def test_a_file_whose_cell_set_lies_on_a_terrain_that_is_not_there_is_refused(tmp_path):
    document, _ = bedded()
    document.save(tmp_path)
    file = tmp_path / FILE_NAME
    content = json.loads(file.read_text())
    content["project"]["join_sets"][-1]["ground"] = 7
    file.write_text(json.dumps(content))
    with pytest.raises(BadProject, match="ground of “Beds” is a terrain that is not there"):
        Document.load(tmp_path)


def drawn_bed(labels: tuple[int, ...]) -> np.ndarray:
    """A bed with a margin of three pixels where it ends."""
    ys, xs = np.mgrid[:16, :16]
    ends = ys < 3, xs > 12, ys > 12, xs < 3
    there = np.ones((16, 16), bool)
    for place in range(4):
        there &= bool(labels[4 + place]) | ~ends[place]
        there &= bool(labels[place]) | ~(ends[place - 1] & ends[place])
    return np.where(there[..., None], np.array([110, 70, 50, 255]), 0).astype(np.uint8)


def test_five_labelled_tiles_make_the_other_42_just_as_they_would_be_drawn():
    five = [LONE, (0, 0, 0, 0, 0, 1, 0, 1, 1), (0, 0, 0, 0, 1, 0, 1, 0, 1), (0, 0, 0, 0, 1, 1, 1, 1, 1), FULL]
    labels = {tile(number, 0): row for number, row in enumerate(five)}
    join_set = JoinSet("s", "S", "cell", (Terrain("Bed", "B", "#a06040"),), True, labels)
    made = make_missing(join_set, coverage(join_set), {ref: drawn_bed(row) for ref, row in labels.items()})
    assert {one.labels for one in made} == set(BLOB) - set(five)
    for one in made:
        assert np.array_equal(one.pixels, drawn_bed(one.labels))


@pytest.mark.parametrize("ground", [0, 1, 2])
@pytest.mark.parametrize("corners", [True, False])
def test_the_quick_way_for_sets_of_plain_tiles_lays_what_the_other_way_lays(ground, corners):
    random = np.random.Generator(np.random.PCG64(4))
    every = {
        formed(tuple(middle if label else ground for label in row), ground, corners=corners)
        for middle in (1, 2)
        for row in BLOB
    }
    every = [row for row in sorted(every) if row[8] and random.random() < 0.8]
    table = compile_cells(dict(enumerate(every, start=1)), {}, 3, ground)
    assert table.plain is not None
    cells = random.integers(0, 4, (20, 25)).astype(np.uint8)
    quick, slow = laid(cells, table), laid(cells, replace(table, plain=None, nearest={}))
    assert np.array_equal(quick[0], slow[0])
    assert np.array_equal(quick[1], slow[1])
