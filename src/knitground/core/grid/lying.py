"""The hexagonal grid with flat tops: columns of hexagons, every other one half a cell further down.

It is the one with pointed tops (see `knitground.core.grid.pointed`) with rows and columns, across and down exchanged.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.around import Readable, Step
from knitground.core.grid.board import Board, On
from knitground.core.grid.pointed import SQUEEZED, PointedBoard, PointedProjection
from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape

Spot = tuple[float, float]


@dataclass(frozen=True)
class LyingBoard(Board):
    """Columns of hexagons that lie on a side, each half a cell below or above the one beside it."""

    painted: ClassVar[frozenset[On]] = frozenset({"cells"})
    in_rows: ClassVar[bool] = True

    @cached_property
    def _other(self) -> PointedBoard:
        """The same field with rows and columns exchanged."""
        return PointedBoard(self.width, self.height, self.wraps_x, self.wraps_y)

    def shape(self, on: On) -> tuple[int, int]:
        return self.height, self.width

    def stored(self, on: On, ys: Any, xs: Any) -> tuple[Any, Any]:
        return ys + xs // 2, xs

    def flat(self, on: On, rows: Any, columns: Any) -> tuple[Any, Any]:
        return rows - columns // 2, columns

    def reach(self, rect: CellRect, steps: int) -> CellRect:
        return rect.grown(steps)

    @property
    def spacing(self) -> tuple[float, float]:
        return SQUEEZED**0.5, SQUEEZED**-0.5

    @property
    def stagger(self) -> tuple[int, int]:
        return 1, 2

    @property
    def problem(self) -> str:
        odd = self.wraps_x and self.width % 2
        return "A ground of flat hexagons goes round left and right only with an even number of columns." if odd else ""

    def around(self, values: Readable, on: On, steps: Sequence[Step], rect: CellRect) -> list[NDArray[Any]]:
        """What lies by each cell of a rectangle; see `Board.around`.

        Parameters
        ----------
        values : (H, W) array or Plane
        on : On
        steps : sequence of (down, right)
        rect : CellRect

        Returns
        -------
        found : list of (height, width) arrays
        """
        # Where a step leads depends on the column here, so each place is looked up.
        rows, columns = np.mgrid[rect.top : rect.bottom, rect.left : rect.right]
        ys, xs = self.flat(on, rows, columns)
        far = 2 * max((abs(n) for step in steps for n in step), default=0) + 1
        seen = rect.grown(far)
        block = self.read(values, seen)
        places = (self.stored(on, ys + down, xs + right) for down, right in steps)
        return [block[row - seen.top, column - seen.left] for row, column in places]

    def flat_bounds(self, rect: CellRect) -> CellRect:
        return _exchanged(self._other.flat_bounds(_exchanged(rect)))

    def disc(self, on: On, start: tuple[int, int], end: tuple[int, int], radius: float) -> Shape:
        return _turned(self._other.disc(on, start[::-1], end[::-1], radius))

    def round_about(self, way: Sequence[Spot]) -> Shape:
        return _turned(self._other.round_about([(x, y) for y, x in way]))

    def wider(self, mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Cells, and those that lie round them.

        Parameters
        ----------
        mask : (height, width) bool

        Returns
        -------
        mask : (height, width) bool
        """
        return self._other.wider(mask.T).T

    def _hanging_together(self, values: NDArray[Any], on: On, rect: CellRect, at: tuple[int, int]) -> NDArray[np.bool_]:
        return self._other._hanging_together(values.T, on, _exchanged(rect), at[::-1]).T


@dataclass(frozen=True)
class LyingProjection(Projection):
    """Boxes one below the other in columns that lie three quarters of a tile apart; what is further down is later."""

    overlapping: ClassVar[bool] = True
    straight: ClassVar[bool] = False

    @cached_property
    def _other(self) -> PointedProjection:
        """The same field with across and down exchanged."""
        board = self.board
        return PointedProjection(
            PointedBoard(board.width, board.height, board.wraps_x, board.wraps_y), self.tile_height, self.tile_width
        )

    @property
    def size(self) -> tuple[int, int]:
        return self._other.size[::-1]

    @property
    def pitch(self) -> tuple[int, int]:
        return self._other.pitch[::-1]

    @property
    def mirrors(self) -> tuple[float, float]:
        return self._other.mirrors[::-1]

    def point(self, y: float, x: float) -> tuple[float, float]:
        return self._other.point(x, y)[::-1]

    def place(self, x: Any, y: Any) -> tuple[Any, Any]:
        return self._other.place(y, x)[::-1]

    def half_way(self, x: float, y: float) -> tuple[float, float]:
        return self._other.half_way(y, x)[::-1]

    def corner(self, row: int, column: int) -> tuple[int, int]:
        return self._other.corner(column, row)[::-1]

    def cells_in(self, area: PixelRect) -> CellRect:
        return _exchanged(self._other.cells_in(PixelRect(area.y, area.x, area.height, area.width)))

    def bounds(self, cells: CellRect) -> PixelRect:
        y, x, height, width = self._other.bounds(_exchanged(cells))
        return PixelRect(x, y, width, height)

    def strips(self, area: PixelRect) -> list[Strip]:
        cells = self.cells_in(area)
        steps = self._other._phases
        found = []
        for row in range(cells.top, cells.bottom):
            # Of a row the even columns stand higher, and so come first.
            for phase in sorted(range(steps), key=lambda phase: phase % 2):
                columns = np.arange(cells.left + (phase - cells.left) % steps, cells.right, steps)
                if len(columns):
                    rows = np.full(len(columns), row)
                    found.append(Strip(rows, columns, *self.corner(row, int(columns[0])), phase))
        return found

    def outline(self, top: float, left: float, bottom: float, right: float) -> list[tuple[float, float]]:
        return [(x, y) for y, x in self._other.outline(left, top, right, bottom)]

    def grid_lines(self, cells: CellRect) -> Iterator[list[tuple[float, float]]]:
        for line in self._other.grid_lines(_exchanged(cells)):
            yield [(x, y) for y, x in line]

    def ring(self, y: float, x: float, turns: NDArray[np.float64], radius: float) -> list[tuple[float, float]]:
        """Points of a round of flat places.

        Parameters
        ----------
        y, x : float
        turns : (N,) float64
            In radians.
        radius : float
        """
        return [(x, y) for y, x in self._other.ring(x, y, turns, radius)]

    def border(self) -> list[tuple[float, float]]:
        return [(x, y) for y, x in self._other.border()]


def _exchanged(rect: CellRect) -> CellRect:
    return CellRect(rect.left, rect.top, rect.width, rect.height)


def _turned(shape: Shape) -> Shape:
    return Shape(_exchanged(shape.window), shape.mask.T)
