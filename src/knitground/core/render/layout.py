"""Where the cells of an area stand: worked out once, for all layers of a scene and for every frame that needs it."""

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.grid.rect import CellRect


class Layout(NamedTuple):
    """The cells whose boxes meet an area.

    Attributes
    ----------
    cells : CellRect
        A rectangle that holds them all.
    strips : sequence of Strip
        From the back to the front.
    down, across : (N,) int
        Where the cells of all strips, one after another, lie in that rectangle.
    starts : (S + 1,) int
        Where each strip begins among them, and where the last one ends.
    """

    cells: CellRect
    strips: Sequence[Strip]
    down: NDArray[np.intp]
    across: NDArray[np.intp]
    starts: NDArray[np.intp]


class Grid(NamedTuple):
    """Cells whose boxes stand in a grid and do not overlap, as those of every other strip of diamonds may.

    Attributes
    ----------
    mine : (M,) int
        Which of the cells of a layout these are.
    rows, columns : (M,) int
        Where they stand in the grid.
    shape : (int, int)
        Rows and columns of the grid.
    left, top : int
        Where its first box begins.
    """

    mine: NDArray[np.intp]
    rows: NDArray[np.intp]
    columns: NDArray[np.intp]
    shape: tuple[int, int]
    left: int
    top: int


@lru_cache(maxsize=64)
def layout_of(small: Projection, area: PixelRect) -> Layout:
    """The cells whose boxes meet an area of pixels.

    Parameters
    ----------
    small : Projection
        At the scale of the pixels.
    area : PixelRect
    """
    cells, strips = small.cells_in(area), small.strips(area)
    starts = np.cumsum([0, *(len(strip.rows) for strip in strips)])
    nothing = np.zeros(0, dtype=np.intp)
    rows, columns = (np.concatenate([nothing, *(getattr(one, name) for one in strips)]) for name in ("rows", "columns"))
    return Layout(cells, strips, rows - cells.top, columns - cells.left, starts)


@lru_cache(maxsize=64)
def grids_of(small: Projection, area: PixelRect) -> Sequence[Grid]:
    """The cells of a layout in as few grids as hold them.

    Parameters
    ----------
    small : Projection
    area : PixelRect
    """
    layout, found, (across, down) = layout_of(small, area), [], small.pitch
    tops, lefts, phases = (
        np.array([getattr(one, name) for one in layout.strips], dtype=np.intp) for name in ("top", "left", "phase")
    )
    counts = np.diff(layout.starts)
    for phase in np.unique(phases).tolist():
        some = np.flatnonzero(phases == phase)
        top, left = int(tops[some].min()), int(lefts[some].min())
        mine = np.concatenate([np.arange(layout.starts[n], layout.starts[n + 1]) for n in some.tolist()])
        rows = np.repeat((tops[some] - top) // down, counts[some])
        columns = mine - np.repeat(layout.starts[some] - (lefts[some] - left) // across, counts[some])
        found.append(Grid(mine, rows, columns, (int(rows.max()) + 1, int(columns.max()) + 1), left, top))
    return found


def boxes_inside(grid: Grid, small: Projection, room: PixelRect) -> tuple[slice, slice]:
    """The rows and columns of a grid whose boxes lie wholly in a room.

    Parameters
    ----------
    grid : Grid
    small : Projection
    room : PixelRect
    """
    across, down = small.pitch
    spans = (
        (grid.top, down, room.y, room.bottom, grid.shape[0]),
        (grid.left, across, room.x, room.right, grid.shape[1]),
    )
    rows, columns = (
        slice(max(0, -(-(first - start) // side)), max(0, min(count, (last - start) // side)))
        for start, side, first, last, count in spans
    )
    return rows, columns
