"""What blocks of a tile's picture where all of it does."""

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.grid import GRIDS
from knitground.core.sheet.cut import Cut, stands_at
from knitground.core.walk.whole import whole_of

ANCHORS = ("", "bottom-left", "bottom", "top", "centre", "right")


@given(
    st.sampled_from(sorted(GRIDS)), st.sampled_from(ANCHORS[:3]), st.tuples(st.integers(2, 64), st.integers(2, 64)),
    st.integers(0, 40), st.integers(0, 40),
)  # fmt: skip
def test_of_what_rises_above_its_cell_the_cell_blocks(grid, anchor, cell, wider, higher):
    size = cell[0] + wider, cell[1] + higher
    cut = Cut("main", *size, anchor=anchor or None)
    whole = shapely.Polygon(whole_of(cut, size, cell, GRIDS[grid].outline))
    kind = GRIDS[grid]
    border = shapely.Polygon(kind.projection(kind.board(1, 1), *cell).outline(0, 0, 1, 1))
    left, top = stands_at(cut, size, cell)
    assert whole.area == pytest.approx(border.area)
    assert shapely.affinity.translate(whole, left, top).symmetric_difference(border).area == pytest.approx(0, abs=1e-6)
    assert shapely.box(0, 0, *size).buffer(1e-6).contains(whole)
    assert whole.bounds[3] == size[1]


def test_of_what_does_not_cover_its_cell_the_lowest_part_blocks():
    cut = Cut("main", 18, 40, anchor="bottom")
    assert shapely.Polygon(whole_of(cut, (18, 40), (56, 28), "diamond")).equals(shapely.box(0, 12, 18, 40))
    assert shapely.Polygon(whole_of(cut, (18, 12), (56, 28), "diamond")).equals(shapely.box(0, 0, 18, 12))
