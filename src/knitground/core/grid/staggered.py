"""The isometric grid in staggered rows: diamonds that fill a rectangle, every other row half a tile to the right.

Cell (row, column) is the flat cell (row // 2 - column, column + (row + 1) // 2) of a diamond without end. Its four
neighbours lie in the rows above and below it. Corners, and the edges at the outside, need one more column and one or
two more rows; a few entries of those arrays belong to no cell and are never looked at.
"""

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.board import Board, On
from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import flood_label

_BEYOND: dict[On, tuple[int, int]] = {"cells": (0, 0), "corners": (2, 1), "across": (1, 1), "along": (1, 1)}


@dataclass(frozen=True)
class StaggeredBoard(Board):
    """Rows of diamonds, each half a tile beside the one above."""

    def shape(self, on: On) -> tuple[int, int]:
        down, right = _BEYOND[on]
        return self.height + down, self.width + right

    def stored(self, on: On, ys: Any, xs: Any) -> tuple[Any, Any]:
        rows = xs + ys
        odd = rows & 1
        columns = (xs - ys - odd) // 2
        return rows, columns + (odd if on == "corners" else 1 if on == "across" else 0)

    def flat(self, on: On, rows: Any, columns: Any) -> tuple[Any, Any]:
        odd = rows & 1
        columns = columns - (odd if on == "corners" else 1 if on == "across" else 0)
        return rows // 2 - columns, columns + (rows + 1) // 2

    def reach(self, rect: CellRect, steps: int) -> CellRect:
        return CellRect(
            rect.top - 2 * steps, rect.left - steps - 1, rect.height + 4 * steps, rect.width + 2 * steps + 2
        )

    @property
    def spacing(self) -> tuple[float, float]:
        # Two rows, or one column, lie a diagonal of a cell apart.
        return 2**0.5, 0.5**0.5

    @property
    def stagger(self) -> tuple[int, int]:
        return 2, 1

    @property
    def apart(self) -> tuple[int, int]:
        return 5, 3

    @property
    def colours(self) -> tuple[int, int]:
        return 1, 0

    @property
    def problem(self) -> str:
        odd = self.wraps_y and self.height % 2
        return "A staggered ground goes round up and down only with an even number of rows." if odd else ""

    def _hanging_together(self, values: NDArray[Any], on: On, rect: CellRect, at: tuple[int, int]) -> NDArray[np.bool_]:
        # Neighbours are those of the flat grid, so the rectangle is laid out there and taken back.
        rows, columns = np.mgrid[rect.top : rect.bottom, rect.left : rect.right]
        ys, xs = self.flat(on, rows, columns)
        top, left = int(ys.min()), int(xs.min())
        y, x = (int(n) for n in self.flat(on, *at))
        same = np.zeros((int(ys.max()) - top + 1, int(xs.max()) - left + 1), dtype=bool)
        same[ys - top, xs - left] = values == values[at[0] - rect.top, at[1] - rect.left]
        return np.asarray(flood_label(same, y - top, x - left)[ys - top, xs - left])


@dataclass(frozen=True)
class StaggeredProjection(Projection):
    """Each row lies half a tile below the one before; what lies further down is drawn later."""

    overlapping: ClassVar[bool] = True

    @property
    def size(self) -> tuple[int, int]:
        half = self.tile_width // 2 if self.board.height > 1 else 0
        return self.board.width * self.tile_width + half, -(-(self.board.height + 1) * self.tile_height // 2)

    def point(self, y: float, x: float) -> tuple[float, float]:
        return (x - y + 1) * self.tile_width / 2, (x + y) * self.tile_height / 2

    def place(self, x: Any, y: Any) -> tuple[Any, Any]:
        across, down = x * 2 / self.tile_width - 1, y * 2 / self.tile_height
        return (down - across) / 2, (down + across) / 2

    @property
    def mirrors(self) -> tuple[float, float]:
        # Even rows fall on even ones, which stand half a tile beside the odd.
        height = self.board.height
        return float(self.board.width), (height + height % 2) / 2

    def corner(self, row: int, column: int) -> tuple[int, int]:
        return column * self.tile_width + (row % 2) * self.tile_width // 2, row * self.tile_height // 2

    def cells_in(self, area: PixelRect) -> CellRect:
        top = (area.y - self.tile_height) * 2 // self.tile_height
        bottom = area.bottom * 2 // self.tile_height + 1
        left = (area.x - self.tile_width // 2) // self.tile_width
        right = -(-area.right // self.tile_width)
        return self.board.clip(CellRect(top, left, bottom - top, right - left))

    def strips(self, area: PixelRect) -> list[Strip]:
        cells = self.cells_in(area)
        columns = np.arange(cells.left, cells.right)
        return [
            Strip(np.full(len(columns), row), columns, *self.corner(row, cells.left), self.phase(row))
            for row in range(cells.top, cells.bottom)
            if len(columns)
        ]

    def border(self) -> list[tuple[float, float]]:
        wide, high = self.tile_width / 2, self.tile_height / 2
        rows, columns = self.board.height, self.board.width
        shift = (rows - 1) % 2
        top = [(float(n * wide), high if n % 2 == 0 else 0.0) for n in range(2 * columns + 1)]
        right = [(2 * columns * wide + row % 2 * wide, (row + 1) * high) for row in range(1, rows)]
        foot = [
            (n * wide + shift * wide, rows * high if n % 2 == 0 else (rows + 1) * high)
            for n in range(2 * columns, -1, -1)
        ]
        left = [(row % 2 * wide, (row + 1) * high) for row in range(rows - 2, 0, -1)]
        return top + right + foot + left
