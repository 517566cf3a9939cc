"""The neighbourhoods of a plan: which arrangements of marks round a cell there are, and how often."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.around import taken
from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.stitches.charts import Step
from knitground.core.stitches.match import Read
from knitground.core.stitches.rules import NEIGHBOURS

STEPS: tuple[Step, ...] = (*NEIGHBOURS[:4], (0, 0), *NEIGHBOURS[4:])
"""The cells of a neighbourhood in reading order."""
_BITS = 6


class Neighbourhood(NamedTuple):
    """An arrangement of marks.

    Attributes
    ----------
    marks : tuple of nine ints
        In reading order; off the map the plan goes on as at its border.
    cells : int
        In how many cells it occurs.
    untaken : int
        In how many of them no stitch fires.
    row, column : int
        The first of the untaken ones, or of all.
    code : int
        What is laid there.
    """

    marks: tuple[int, ...]
    cells: int
    untaken: int
    row: int
    column: int
    code: int


def neighbourhoods(
    board: Board, plan: Read, codes: NDArray[np.int32], unmet: NDArray[np.uint8], rect: CellRect
) -> list[Neighbourhood]:
    """All different neighbourhoods of cells that bear a mark, those that no stitch takes first, then the frequent.

    Parameters
    ----------
    board : Board
    plan : callable
        Gives the marks of a rectangle, also beyond the borders.
    codes : (H, W) int32
        What is laid on the rectangle.
    unmet : (H, W) uint8
        Where no stitch fires.
    rect : CellRect
    """
    offsets = [offset for step in STEPS for offset in board.offset("cells", step)]
    (top, bottom), (left, right) = ((min(way), max(way)) for way in zip(*offsets, strict=True))
    area = CellRect(rect.top + top, rect.left + left, rect.height + bottom - top, rect.width + right - left)
    block = plan(area)
    key = np.zeros((rect.height, rect.width), dtype=np.int64)
    for step in STEPS:
        key <<= _BITS
        key |= taken(block, board.offset("cells", step), rect, (area.top, area.left))
    cells = np.flatnonzero((key >> (_BITS * 4)) & ((1 << _BITS) - 1))
    # Those that nothing takes come first, so that the first of each kind is one of them.
    cells = np.concatenate([cells[unmet.flat[cells] != 0], cells[unmet.flat[cells] == 0]])
    keys, first, which, counts = np.unique(key.flat[cells], return_index=True, return_inverse=True, return_counts=True)
    untaken = np.bincount(which, weights=unmet.flat[cells] != 0, minlength=len(keys)).astype(int)
    found = []
    for number in np.lexsort((-counts, -(untaken > 0).astype(int))).tolist():
        row, column = divmod(int(cells[first[number]]), rect.width)
        marks = tuple(int(keys[number]) >> _BITS * (8 - place) & ((1 << _BITS) - 1) for place in range(9))
        found.append(
            Neighbourhood(
                marks,
                int(counts[number]),
                int(untaken[number]),
                row + rect.top,
                column + rect.left,
                int(codes[row, column]),
            )
        )
    return found
