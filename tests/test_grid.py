"""What lies beside what, and where it is seen, on every grid."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.grid import GRIDS
from knitground.core.grid.board import Board
from knitground.core.grid.plane import BLOCK, Plane
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.joins.lattice import SPOTS
from making import CORNERED

ON = ("cells", "corners", "across", "along")
kinds = pytest.mark.parametrize("kind", list(GRIDS))
sides = st.integers(1, 9)


def board(kind: str, height: int, width: int, **wraps) -> Board:
    return GRIDS[kind].board(height, width, **wraps)


@kinds
@given(height=sides, width=sides)
def test_flat_places_and_rows_and_columns_are_two_names_of_the_same(kind, height, width):
    made = board(kind, height, width)
    for on in ON:
        rows, columns = np.mgrid[0 : made.shape(on)[0], 0 : made.shape(on)[1]]
        again = made.stored(on, *made.flat(on, rows, columns))
        assert np.array_equal(again[0], rows)
        assert np.array_equal(again[1], columns)


@pytest.mark.parametrize("kind", CORNERED)
@given(height=sides, width=sides)
def test_every_cell_has_a_place_for_each_of_its_labels(kind, height, width):
    made = board(kind, height, width)
    for row in range(height):
        for column in range(width):
            y, x = made.flat("cells", row, column)
            for on, (down, right) in SPOTS["full"]:
                at = made.stored(on, y + down, x + right)
                assert CellRect(0, 0, *made.shape(on)).holds(*at)


@kinds
@given(data=st.data(), height=st.integers(2, 9), width=st.integers(2, 9))
def test_what_lies_round_cells_is_read_all_at_once_as_one_by_one(kind, data, height, width):
    wraps = data.draw(st.booleans())
    made = board(kind, height - height % 2, width, wraps_x=wraps, wraps_y=wraps)
    whole = made.whole
    for on in ON:
        values = np.arange(np.prod(made.shape(on)), dtype=np.int64).reshape(made.shape(on))
        steps = [(0, 0), (0, 1), (1, 1), (1, 0)] if on != "cells" else [(-1, 0), (0, 1), (1, 1), (1, -1)]
        found = made.around(values, on, steps, whole)
        for (down, right), array in zip(steps, found, strict=True):
            for row in range(whole.height):
                for column in range(whole.width):
                    y, x = made.flat("cells", row, column)
                    at = [int(n) for n in made.stored(on, y + down, x + right)]
                    if wraps:
                        at = [at[0] % made.height, at[1] % made.width]
                    elif not CellRect(0, 0, *made.shape(on)).holds(*at):
                        continue  # off the map it goes on as at the border
                    assert array[row, column] == values[tuple(at)]


@kinds
@given(data=st.data(), height=sides, width=sides, tile=st.sampled_from([(16, 16), (32, 16), (24, 12), (7, 5), (1, 1)]))
def test_from_cell_to_screen_and_back(kind, data, height, width, tile):
    made = board(kind, height, width)
    projection = GRIDS[kind].projection(made, *tile)
    row, column = data.draw(st.integers(0, height - 1)), data.draw(st.integers(0, width - 1))
    y, x = made.flat("cells", row, column)
    at = projection.point(y + 0.5, x + 0.5)
    assert made.cell_at(*projection.place(*at)) == (row, column)
    assert projection.place(*at) == pytest.approx((y + 0.5, x + 0.5))
    box = projection.box(row, column)
    assert box.x - 1 <= at[0] <= box.right + 1
    assert box.y - 1 <= at[1] <= box.bottom + 1
    assert PixelRect(0, 0, *projection.size).inside(box) == box


@kinds
@given(
    height=sides, width=sides,
    left=st.integers(-40, 200), top=st.integers(-40, 200), wide=st.integers(1, 90), high=st.integers(1, 90),
)  # fmt: skip
def test_strips_hold_every_box_that_is_seen_once_and_go_from_the_back_to_the_front(
    kind, height, width, left, top, wide, high
):
    made = board(kind, height, width)
    projection = GRIDS[kind].projection(made, 32, 16)
    area = PixelRect(left, top, wide, high)
    found = []
    tops = []
    for strip in projection.strips(area):
        tops.append(strip.top)
        for place, cell in enumerate(zip(strip.rows.tolist(), strip.columns.tolist(), strict=True)):
            assert projection.corner(*cell) == (strip.left + projection.pitch[0] * place, strip.top)
            found.append(cell)
    assert tops == sorted(tops)
    assert len(found) == len(set(found))
    seen = {
        (row, column)
        for row in range(height)
        for column in range(width)
        if not projection.box(row, column).inside(area).is_empty
    }
    assert seen <= set(found)
    cells = projection.cells_in(area)
    assert all(cells.holds(*cell) for cell in found)


@kinds
def test_a_stroke_goes_from_cell_to_cell_without_a_hole(kind):
    made = board(kind, 30, 20)
    start, end = made.flat("cells", 3, 2), made.flat("cells", 26, 17)
    shape = made.disc("cells", start, end, 0.3)
    rows, columns = np.nonzero(shape.mask)
    places = {
        tuple(int(n) for n in made.flat("cells", row + shape.window.top, column + shape.window.left))
        for row, column in zip(rows.tolist(), columns.tolist(), strict=True)
    }
    assert {tuple(map(int, start)), tuple(map(int, end))} <= places
    for y, x in places - {tuple(map(int, end))}:
        near = {(y + i, x + j) for i in (-1, 0, 1) for j in (-1, 0, 1)} - {(y, x)}
        assert near & places


@kinds
def test_a_fill_goes_over_sides_and_stops_at_what_is_else(kind):
    made = board(kind, 24, 16)
    cells = np.zeros((24, 16), np.uint8)
    ring = made.box("cells", made.flat("cells", 11, 4), tuple(n + 5 for n in made.flat("cells", 11, 4)))
    inner = made.box(
        "cells", tuple(n + 1 for n in made.flat("cells", 11, 4)), tuple(n + 4 for n in made.flat("cells", 11, 4))
    )
    cells[ring.window.rows, ring.window.columns][ring.mask] = 1
    cells[inner.window.rows, inner.window.columns][inner.mask] = 0
    found = made.flood(cells, "cells", tuple(int(n) + 2 for n in made.flat("cells", 11, 4)))
    assert int(found.mask.sum()) == int(inner.mask.sum())
    assert found.window == inner.window


planes = hnp.arrays(
    np.uint8, st.tuples(st.integers(1, 2 * BLOCK + 9), st.integers(1, BLOCK + 9)), elements=st.integers(0, 2)
)


@given(values=planes, data=st.data())
def test_a_plane_reads_and_is_written_as_an_array(values, data):
    plane = Plane.of(values)
    top, left = data.draw(st.integers(0, values.shape[0] - 1)), data.draw(st.integers(0, values.shape[1] - 1))
    rect = CellRect(
        top, left, data.draw(st.integers(0, values.shape[0] - top)), data.draw(st.integers(0, values.shape[1] - left))
    )
    assert np.array_equal(plane.read(rect), values[rect.rows, rect.columns])
    assert np.array_equal(plane[rect.rows, rect.columns], values[rect.rows, rect.columns])
    written = plane.written(rect, 7)
    expected = values.copy()
    expected[rect.rows, rect.columns] = 7
    assert np.array_equal(written, expected)
    assert np.array_equal(plane, values)
    back = np.array(written)
    for part, before, after in written.changes_from(plane):
        assert np.array_equal(back[part.rows, part.columns], after)
        back[part.rows, part.columns] = before
    assert np.array_equal(back, values)


def test_a_plane_of_one_value_takes_next_to_nothing_and_a_stroke_copies_a_block():
    plane = Plane.full((4096, 4096), np.int32)
    assert plane.nbytes <= BLOCK * BLOCK * 4
    stroke = plane.written(CellRect(1000, 1000, 8, 8), 3)
    assert stroke.nbytes - plane.nbytes <= BLOCK * BLOCK * 4
    assert Plane.of(np.zeros((4096, 4096), np.int32)).nbytes == plane.nbytes
    with pytest.raises(ValueError):
        stroke[1000:1002, 1000:1002][0, 0] = 1
