from collections import deque

import numpy as np
import pytest
import scipy
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.runs import connected_run
from knitground.core.grid.shapes import Shape, cropped, walk
from knitground.core.grid.square import SquareBoard
from knitground.core.ground.knitted import BLOCK
from knitground.core.layers.terrain import TerrainLayer
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.derived import Derived
from knitground.core.project.model import Project
from making import make_document, poke, rectangle, swept_disc, with_labels_removed

spots = st.tuples(st.integers(-5, 40), st.integers(-5, 40))
windows = st.builds(CellRect, st.integers(-9, 30), st.integers(-9, 30), st.integers(0, 20), st.integers(0, 20))


def cells_of(shape: Shape) -> set[tuple[int, int]]:
    rows, columns = np.nonzero(shape.mask)
    return {(int(r) + shape.window.top, int(c) + shape.window.left) for r, c in zip(rows, columns, strict=True)}


@given(window=windows)
def test_a_clipped_window_lies_inside(window):
    inside = window.clipped(12, 17)
    assert 0 <= inside.top <= inside.bottom <= 12
    assert 0 <= inside.left <= inside.right <= 17
    for row, column in ((0, 0), (11, 16), (5, 5)):
        assert inside.holds(row, column) == window.holds(row, column)


@given(start=spots, end=spots, radius=st.integers(0, 6))
def test_a_stroke_has_no_holes_and_stays_on_the_plane(start, end, radius):
    shape = swept_disc((30, 30), start, end, radius)
    covered = cells_of(shape)
    assert all(0 <= row < 30 and 0 <= column < 30 for row, column in covered)
    for row, column in (start, end):
        if 0 <= row < 30 and 0 <= column < 30:
            assert (row, column) in covered
    steps = max(abs(start[0] - end[0]), abs(start[1] - end[1]), 1)
    for step in range(steps + 1):
        row = round(start[0] + (end[0] - start[0]) * step / steps)
        column = round(start[1] + (end[1] - start[1]) * step / steps)
        near = {(row + i, column + j) for i in (-1, 0, 1) for j in (-1, 0, 1)}
        if 1 <= row < 29 and 1 <= column < 29:
            assert near & covered


@given(start=spots, end=spots, radius=st.integers(0, 3), on=st.sampled_from(["cells", "corners"]))
def test_what_a_quick_stroke_covers_hangs_together_side_by_side(start, end, radius, on):
    _, parts = scipy.ndimage.label(SquareBoard(30, 30).disc(on, start, end, radius).mask)
    assert parts <= 1


@given(centre=st.tuples(st.integers(8, 20), st.integers(8, 20)), radius=st.integers(0, 6))
def test_a_brush_is_round(centre, radius):
    covered = cells_of(swept_disc((30, 30), centre, centre, radius))
    row, column = centre
    assert all((column - c + row, row - r + column) in covered for r, c in covered)
    assert max(abs(r - row) for r, _ in covered) == radius


@given(start=spots, end=spots)
def test_a_rectangle_is_every_cell_between_two(start, end):
    covered = cells_of(rectangle((30, 30), start, end))
    rows = range(max(0, min(start[0], end[0])), min(29, max(start[0], end[0])) + 1)
    columns = range(max(0, min(start[1], end[1])), min(29, max(start[1], end[1])) + 1)
    assert covered == {(row, column) for row in rows for column in columns}


def flood_by_hand(values: np.ndarray, row: int, column: int) -> set[tuple[int, int]]:
    found, waiting = {(row, column)}, deque([(row, column)])
    while waiting:
        r, c = waiting.popleft()
        for near in ((r - 1, c), (r + 1, c), (r, c - 1), (r, c + 1)):
            on = 0 <= near[0] < values.shape[0] and 0 <= near[1] < values.shape[1]
            if on and near not in found and values[near] == values[row, column]:
                found.add(near)
                waiting.append(near)
    return found


@given(
    values=hnp.arrays(np.uint8, (12, 14), elements=st.integers(0, 2)), row=st.integers(0, 11), column=st.integers(0, 13)
)
def test_a_fill_covers_what_hangs_together(values, row, column):
    assert cells_of(SquareBoard(12, 14).flood(values, "cells", (row, column))) == flood_by_hand(values, row, column)


def test_a_fill_within_a_window_stays_there():
    values = np.zeros((300, 300), np.uint8)
    values[100] = 1
    shape = SquareBoard(300, 300).flood(values, "cells", (50, 50), CellRect(20, 10, 200, 220))
    assert cells_of(shape) == {(row, column) for row in range(20, 100) for column in range(10, 230)}


@given(one=windows, other=windows)
def test_the_part_inside_another_window_is_in_both(one, other):
    both = one.inside(other)
    for row in range(-9, 50, 3):
        for column in range(-9, 50, 3):
            assert both.holds(row, column) == (one.holds(row, column) and other.holds(row, column))


def test_a_fill_of_a_winding_region_leaves_the_first_small_search():
    values = np.ones((700, 700), np.uint8)
    values[::2] = 0
    values[::4, 0] = values[2::4, -1] = 1
    values[1::2, 1:-1] = 1
    values[0, :] = 1
    assert cells_of(SquareBoard(700, 700).flood(values, "cells", (350, 300))) == flood_by_hand(values, 350, 300)


@given(start=spots, end=spots)
def test_a_run_is_connected_from_cell_to_cell(start, end):
    row, column = start
    for plane, edge_row, edge_column in walk(start, end):
        if plane == "along":
            assert edge_row == row
            column = edge_column if edge_column > column else edge_column - 1
        else:
            assert edge_column == column
            row = edge_row if edge_row > row else edge_row - 1
    assert (row, column) == end


def test_edges_off_the_ground_are_left_out():
    shapes = SquareBoard(4, 4).edges(walk((-2, 1), (2, 1)) + walk((1, 2), (1, 9)))
    assert cells_of(shapes["across"]) == {(0, 1), (1, 1), (2, 1)}
    assert cells_of(shapes["along"]) == {(1, 3), (1, 4)}


def test_a_connected_run_stops_where_its_terrain_ends():
    across, along = np.zeros((7, 6), np.uint8), np.zeros((6, 7), np.uint8)
    along[2, 1:4] = 1
    across[3:5, 3] = 1
    along[5, 2:4] = 1
    along[2, 5] = 2
    planes = {"across": across, "along": along}
    found = connected_run(SquareBoard(6, 6), planes, 2, 1)
    assert cells_of(found["along"]) == {(2, 1), (2, 2), (2, 3)}
    assert cells_of(found["across"]) == {(3, 3), (4, 3)}
    assert connected_run(SquareBoard(6, 6), planes, 0, 0) == {}


def test_cropping_keeps_the_cells():
    mask = np.zeros((9, 9), bool)
    mask[3, 4] = mask[6, 2] = True
    shape = Shape(CellRect(10, 20, 9, 9), mask)
    assert cropped(shape).window == CellRect(13, 22, 4, 3)
    assert cells_of(cropped(shape)) == cells_of(shape)
    assert cropped(Shape(CellRect(0, 0, 3, 3), np.zeros((3, 3), bool))).window.is_empty


@pytest.mark.parametrize(
    ("layer", "planes"),
    [
        (TileLayer("t", "T"), {"cells": (3, 5)}),
        (TerrainLayer("c", "C", "s", "corner"), {"corners": (4, 6)}),
        (TerrainLayer("e", "E", "s", "edge"), {"across": (4, 5), "along": (3, 6)}),
    ],
)
def test_planes_fit_the_ground(layer, planes):
    made = layer.blank(SquareBoard(3, 5), Project())
    assert {name: plane.shape for name, plane in made.items()} == planes
    assert all(not np.asarray(plane).any() for plane in made.values())


edits = st.lists(
    st.tuples(
        st.sampled_from(["areas", "lines", "walls"]),
        st.tuples(st.integers(-2, 90), st.integers(-2, 90)), st.tuples(st.integers(-2, 90), st.integers(-2, 90)),
        st.integers(0, 3), st.integers(0, 2),
    ), min_size=1, max_size=6,
)  # fmt: skip


def paint(document, layer, start, end, radius, value):
    shapes = document.project.grounds[0], document.state.planes["ground"][layer]
    for plane, array in shapes[1].items():
        most = 1 if layer != "areas" else 2
        document.paint("paint", "ground", layer, plane, swept_disc(array.shape, start, end, radius), min(value, most))


@settings(max_examples=40)
@given(strokes=edits)
def test_knitting_again_after_edits_equals_knitting_from_scratch(strokes):
    document = make_document(BLOCK + 21, BLOCK + 9)
    derived = Derived(document)
    whole = CellRect(0, 0, BLOCK + 9, BLOCK + 21)
    for layer in ("areas", "lines", "walls"):
        derived.knitted("ground").codes(layer, CellRect(3, 5, 30, 30))
    for stroke in strokes:
        paint(document, *stroke)
    for layer in ("areas", "lines", "walls"):
        fresh = Derived(document).knitted("ground").codes(layer, whole)
        assert np.array_equal(derived.knitted("ground").codes(layer, whole), fresh)


@settings(max_examples=25)
@given(strokes=edits)
def test_undo_restores_every_byte_and_redo_brings_them_back(strokes):
    document = make_document(60, 50)

    def content():
        return {
            (layer, name): np.asarray(plane).tobytes()
            for layer, planes in document.state.planes["ground"].items()
            for name, plane in planes.items()
        }

    states = [content()]
    for number, stroke in enumerate(strokes):
        document.begin(f"stroke {number}")
        paint(document, *stroke)
        document.commit()
        if content() != states[-1]:
            states.append(content())
    for before in reversed(states[:-1]):
        document.undo()
        assert content() == before
    assert document.undo() is None
    for after in states[1:]:
        document.redo()
        assert content() == after
    assert document.redo() is None


def test_a_changed_label_reknits_the_whole_ground(document):
    derived = Derived(document)
    poke(document, "areas", "corners", np.s_[:], 2)
    whole = CellRect(0, 0, 15, 20)
    before = derived.knitted("ground").codes("areas", whole).copy()
    with_labels_removed(document, 1)
    assert (before > 0).all()
    after = derived.knitted("ground").codes("areas", whole)
    assert not np.isin(before, after).any()
    assert (after > 0).all()
    document.undo()
    assert np.array_equal(derived.knitted("ground").codes("areas", whole), before)


def test_stitches_see_the_plan_go_on_beyond_the_border(document):
    derived = Derived(document)
    poke(document, "walls", "plan", np.s_[-1, :], 1)
    codes = derived.knitted("ground").codes("walls", CellRect(0, 0, 15, 20))
    top = document.palette.code(document.project.stitch_sets[0].stitches[1].pieces[0].tile)
    assert (codes[-1] == top).all()


def test_the_nearest_that_a_plane_holds_is_as_looking_at_all_cells_tells():
    random = np.random.Generator(np.random.PCG64(8))
    for share in (0.0, 0.00002, 0.001):
        cells = (random.random((300, 420)) < share).astype(np.uint8)
        plane = Plane.of(cells)
        for top, left in random.integers(0, 280, (12, 2)).tolist():
            rect = CellRect(top, left, 15, 9)
            found = plane.nearest(rect)
            if not cells.any() or cells[top : top + 15, left : left + 9].any():
                assert found is None
                continue
            rows, columns = np.nonzero(cells)
            away = np.hypot(rows - (top + 7.5), columns - (left + 4.5))
            assert found is not None
            assert np.hypot(found.top - (top + 7.5), found.left - (left + 4.5)) == away.min()


def test_the_values_of_a_plane_are_told_in_order_however_large_they_are():
    for values in ([[3, 1], [7, 3]], [[1 << 28, 5], [5, 1 << 28]], [[-2, 4], [0, -2]]):
        cells = np.array(values, dtype=np.int32)
        assert np.array_equal(Plane.of(cells).unique(), np.unique(cells))


@given(
    st.tuples(st.integers(1, 300), st.integers(1, 300)),
    st.tuples(st.integers(1, 300), st.integers(1, 300)),
    st.booleans(),
)
@settings(max_examples=60, deadline=None)
def test_a_plane_of_another_size_holds_what_it_held_and_goes_on_as_it_should(before, after, goes_on):
    cells = np.random.Generator(np.random.PCG64(list(before))).integers(0, 4, before).astype(np.uint8)
    old = cells[: after[0], : after[1]]
    pad = ((0, after[0] - old.shape[0]), (0, after[1] - old.shape[1]))
    made = Plane.of(cells).resized(after, goes_on=goes_on)
    assert made == Plane.of(np.pad(old, pad, mode="edge" if goes_on else "constant"))
    assert made.shape == after
    same = Plane.of(cells).resized(before, goes_on=goes_on)
    assert next(same.changes_from(Plane.of(cells)), None) is None
