"""The hexagonal grid with pointed tops: rows of hexagons, every other one half a cell to the right.

Flat places are the axial coordinates of the field: cell (row, column) is the flat cell (row, column - row // 2), whose
neighbours lie at (0, ±1), (±1, 0), (1, -1) and (-1, 1). Within a cell a flat place says how far down and across its box
it lies, so that a place falls in the cell that the pointer is over. Things lie on cells alone: there are no corners or
edges to paint on.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.board import Board, On
from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape, cropped, inside_polygon

_BESIDE = np.array([[0, 1, 1], [1, 1, 1], [1, 1, 0]], dtype=bool)
"""Which flat cells round one, and it itself, hang together with it."""
SQUEEZED = 0.75**0.5
"""How far apart rows of regular hexagons lie, in widths of a hexagon."""
_MOST = np.nextafter(1.0, 0.0)
_NUDGE = 1e-5
Spot = tuple[float, float]


@dataclass(frozen=True)
class PointedBoard(Board):
    """Rows of hexagons that stand on a corner, each half a cell beside the one above."""

    painted: ClassVar[frozenset[On]] = frozenset({"cells"})
    in_rows: ClassVar[bool] = True

    def shape(self, on: On) -> tuple[int, int]:
        return self.height, self.width

    def stored(self, on: On, ys: Any, xs: Any) -> tuple[Any, Any]:
        return ys, xs + ys // 2

    def flat(self, on: On, rows: Any, columns: Any) -> tuple[Any, Any]:
        return rows, columns - rows // 2

    def reach(self, rect: CellRect, steps: int) -> CellRect:
        return rect.grown(steps)

    @property
    def spacing(self) -> tuple[float, float]:
        return SQUEEZED**-0.5, SQUEEZED**0.5

    @property
    def stagger(self) -> tuple[int, int]:
        return 2, 1

    @property
    def problem(self) -> str:
        odd = self.wraps_y and self.height % 2
        return "A ground of pointed hexagons goes round up and down only with an even number of rows." if odd else ""

    def disc(self, on: On, start: tuple[int, int], end: tuple[int, int], radius: float) -> Shape:
        steps = max(abs(end[0] - start[0]), abs(end[1] - start[1]), abs(sum(end) - sum(start)), 1)
        # Steps of one cell each, rounded where they lie on the field, so that no gap is left (Patel 2013).
        share = np.linspace(0, 1, steps + 1)
        # Where a step falls between two cells, it goes to the nearer one to the middle: the other may be off the map.
        middle = self.flat("cells", self.height // 2, self.width // 2)
        places = (_between(start, end, share, axis) * (1 - _NUDGE) + middle[axis] * _NUDGE for axis in (0, 1))
        rows, columns = self.stored("cells", *_rounded(*places))
        reach = int(radius) + 1
        rect = self.clip(
            CellRect(int(rows.min()), int(columns.min()), int(np.ptp(rows)) + 1, int(np.ptp(columns)) + 1).grown(reach)
        )
        mask = np.zeros((rect.height, rect.width), dtype=bool)
        for row, column in set(zip(rows.tolist(), columns.tolist(), strict=True)):
            around = CellRect(row, column, 1, 1).grown(reach).inside(rect)
            if around.is_empty:
                continue
            part = mask[around.top - rect.top :, around.left - rect.left :][: around.height, : around.width]
            part |= self._away((row, column), around) <= (radius + 0.4) ** 2
        return cropped(Shape(rect, mask))

    def round_about(self, way: Sequence[Spot]) -> Shape:
        corners = np.array([self._seen(*spot) for spot in way])
        rows, columns = np.mgrid[self.whole.rows, self.whole.columns]
        middles = rows + 2 / 3, columns + rows % 2 / 2 + 0.5
        return cropped(Shape(self.whole, inside_polygon(corners, *middles)))

    def wider(self, mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Cells, and those that lie round them.

        Parameters
        ----------
        mask : (height, width) bool

        Returns
        -------
        mask : (height, width) bool
        """
        found = mask.copy()
        found[:, 1:] |= mask[:, :-1]
        found[:, :-1] |= mask[:, 1:]
        for first in (0, 1):
            # What an even row reaches in those beside it lies left of it, what an odd one reaches right of it.
            for target, source in ((slice(1, None), slice(None, -1)), (slice(None, -1), slice(1, None))):
                rows = np.arange(len(mask))[source] % 2 == first
                reached = mask[source][rows]
                aside = np.zeros_like(reached)
                if first:
                    aside[:, 1:] = reached[:, :-1]
                else:
                    aside[:, :-1] = reached[:, 1:]
                part = found[target]
                part[rows] |= reached | aside
        return found

    def _hanging_together(self, values: NDArray[Any], on: On, rect: CellRect, at: tuple[int, int]) -> NDArray[np.bool_]:
        from scipy import ndimage

        rows, columns = np.mgrid[rect.top : rect.bottom, rect.left : rect.right]
        ys, xs = self.flat(on, rows, columns)
        top, left = int(ys.min()), int(xs.min())
        same = np.zeros((int(ys.max()) - top + 1, int(xs.max()) - left + 1), dtype=bool)
        same[ys - top, xs - left] = values == values[at[0] - rect.top, at[1] - rect.left]
        pieces = ndimage.label(same, _BESIDE)[0][ys - top, xs - left]
        return np.asarray(pieces == pieces[at[0] - rect.top, at[1] - rect.left])

    def _seen(self, y: float, x: float) -> Spot:
        """A flat place in rows and in widths of a cell, as it looks on the screen."""
        row, column = self.stored("cells", int(y // 1), int(x // 1))
        return row + y % 1 * 4 / 3, column + row % 2 / 2 + x % 1

    def _away(self, at: tuple[int, int], rect: CellRect) -> NDArray[np.float64]:
        """The square of how far the cells of a rectangle lie from one, in widths of a cell."""
        rows, columns = np.arange(rect.top, rect.bottom)[:, None], np.arange(rect.left, rect.right)[None, :]
        across = columns + rows % 2 / 2 - (at[1] + at[0] % 2 / 2)
        found: NDArray[np.float64] = across**2 + ((rows - at[0]) * SQUEEZED) ** 2
        return found


@dataclass(frozen=True)
class PointedProjection(Projection):
    """Boxes side by side in rows that lie three quarters of a tile apart; rows further down are drawn later."""

    overlapping: ClassVar[bool] = True
    straight: ClassVar[bool] = False

    @property
    def size(self) -> tuple[int, int]:
        half = self.tile_width // 2 if self.board.height > 1 else 0
        return self.board.width * self.tile_width + half, self._down(self.board.height - 1) + self.tile_height

    @property
    def pitch(self) -> tuple[int, int]:
        return self.tile_width, self._down(self._phases)

    @property
    def mirrors(self) -> tuple[float, float]:
        # Even rows fall on even ones, which stand half a tile beside the odd.
        last = self.board.height - 1 + (self.board.height - 1) % 2
        return float(self.board.width), last * 0.75 + 1

    def point(self, y: float, x: float) -> tuple[float, float]:
        row, column = (int(n) for n in self.board.stored("cells", int(y // 1), int(x // 1)))
        return (column + row % 2 / 2 + x % 1) * self.tile_width, (row * 0.75 + y % 1) * self.tile_height

    def place(self, x: Any, y: Any) -> tuple[Any, Any]:
        width, height = self.tile_width, self.tile_height
        row = np.floor(np.asarray(y, dtype=np.float64) * 4 / (3 * height)).astype(np.intp)
        odd = row & 1
        across = np.asarray(x, dtype=np.float64) / width - odd / 2
        column = np.floor(across).astype(np.intp)
        # The upper quarter of a box belongs to it only between the two slanted sides of the hexagon.
        away = 2 * (across - column) - 1
        above = (np.asarray(y) - row * 0.75 * height) * 4 / height < np.abs(away)
        column = np.where(above, column + np.where(away < 0, odd - 1, odd), column)
        row = np.where(above, row - 1, row)
        down = np.asarray(y) / height - row * 0.75
        aside = np.asarray(x) / width - (row & 1) / 2 - column
        ys, xs = self.board.flat("cells", row, column)
        return ys + np.clip(down, 0, _MOST), xs + np.clip(aside, 0, _MOST)

    def half_way(self, x: float, y: float) -> tuple[float, float]:
        wide, high = self.tile_width / 2, self.tile_height * 0.375
        return round(x / wide) * wide, round((y - self.tile_height / 2) / high) * high + self.tile_height / 2

    def corner(self, row: int, column: int) -> tuple[int, int]:
        return column * self.tile_width + row % 2 * self.tile_width // 2, self._down(row)

    def cells_in(self, area: PixelRect) -> CellRect:
        top = (area.y - self.tile_height) * 4 // (3 * self.tile_height)
        bottom = area.bottom * 4 // (3 * self.tile_height) + 1
        left, right = (area.x - self.tile_width // 2) // self.tile_width - 1, -(-area.right // self.tile_width)
        return self.board.clip(CellRect(top, left, bottom - top, right - left))

    def strips(self, area: PixelRect) -> list[Strip]:
        cells = self.cells_in(area)
        columns = np.arange(cells.left, cells.right)
        return [
            Strip(np.full(len(columns), row), columns, *self.corner(row, cells.left), row % self._phases)
            for row in range(cells.top, cells.bottom)
            if len(columns)
        ]

    def outline(self, top: float, left: float, bottom: float, right: float) -> list[tuple[float, float]]:
        width, height = self.tile_width, self.tile_height
        rows, columns = range(int(top // 1), max(int(top // 1) + 1, int(bottom))), (int(left // 1), int(right) - 1)

        def box(y: int, x: int) -> tuple[int, int]:
            return self.corner(*self.board.stored("cells", y, x))

        def above(y: int, x: int) -> list[tuple[float, float]]:
            at_x, at_y = box(y, x)
            return [(at_x, at_y + height / 4), (at_x + width / 2, at_y)]

        def below(y: int, x: int) -> list[tuple[float, float]]:
            at_x, at_y = box(y, x)
            return [(at_x + width, at_y + height * 0.75), (at_x + width / 2, at_y + height)]

        path = [spot for x in range(columns[0], columns[1] + 1) for spot in above(rows[0], x)]
        for y in rows:
            at_x, at_y = box(y, columns[1])
            path += [(at_x + width, at_y + height / 4), (at_x + width, at_y + height * 0.75)]
        path += [spot for x in range(columns[1], columns[0] - 1, -1) for spot in below(rows[-1], x)]
        for y in reversed(rows):
            at_x, at_y = box(y, columns[0])
            path += [(at_x + width / 2, at_y + height), (at_x, at_y + height * 0.75), (at_x, at_y + height / 4)]
        return path

    def grid_lines(self, cells: CellRect) -> Iterator[list[tuple[float, float]]]:
        quarter, (height, width) = self.tile_height / 4, (self.tile_height, self.tile_width)
        for row in range(cells.top, cells.bottom):
            left, top = self.corner(row, cells.left)
            edge = [
                (left + n * width / 2, top + (0 if n % 2 else quarter))
                for n in range(2 * (cells.right - cells.left) + 1)
            ]
            yield edge
            for x, y in edge[::2]:
                yield [(x, y), (x, y + height / 2)]
        left, top = self.corner(cells.bottom - 1, cells.left)
        yield [
            (left + n * width / 2, top + height - (0 if n % 2 else quarter))
            for n in range(2 * (cells.right - cells.left) + 1)
        ]

    def ring(self, y: float, x: float, turns: NDArray[np.float64], radius: float) -> list[tuple[float, float]]:
        """Points of a round of flat places.

        Parameters
        ----------
        y, x : float
        turns : (N,) float64
            In radians.
        radius : float
        """
        middle_x, middle_y = self.point(y, x)
        across, down = radius * self.tile_width, radius * self.tile_height * 0.75 / SQUEEZED
        return [(middle_x + across * float(np.cos(turn)), middle_y + down * float(np.sin(turn))) for turn in turns]

    def border(self) -> list[tuple[float, float]]:
        width, height, rows, columns = self.tile_width, self.tile_height, self.board.height, self.board.width
        (left, top), (foot, low) = self.corner(0, 0), self.corner(rows - 1, 0)
        path = [(left + n * width / 2, top + (0 if n % 2 else height / 4)) for n in range(2 * columns)]
        sides = [self.corner(row, 0) for row in range(rows)]
        path += [(x + columns * width, y + far) for x, y in sides for far in (height / 4, height * 0.75)]
        path += [
            (foot + n * width / 2, low + height - (0 if n % 2 else height / 4)) for n in range(2 * columns - 1, -1, -1)
        ]
        return path + [(x, y + far) for x, y in reversed(sides) for far in (height * 0.75, height / 4)]

    @property
    def _phases(self) -> int:
        """How many rows later boxes stand whole pixels further down again, and no longer overlap."""
        return 2 if self.tile_height % 2 == 0 else 4

    def _down(self, rows: int) -> int:
        return rows * 3 * self.tile_height // 4


def turned_about(middle: tuple[int, int], spot: Spot) -> Spot:
    """The middle of the flat cell in which a place lies, turned by a sixth about another cell, clockwise."""
    down, across = int(spot[0] // 1) - middle[0], int(spot[1] // 1) - middle[1]
    return middle[0] + across + down + 0.5, middle[1] - down + 0.5


def _between(
    start: tuple[int, int], end: tuple[int, int], share: NDArray[np.float64], axis: int
) -> NDArray[np.float64]:
    # A little beside the straight way, so that it never runs exactly between two cells.
    found: NDArray[np.float64] = start[axis] + (end[axis] - start[axis]) * share + (1e-6, 2e-6)[axis]
    return found


def _rounded(ys: NDArray[np.float64], xs: NDArray[np.float64]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """The flat cells in which places between the middles of cells lie.

    Parameters
    ----------
    ys, xs : (N,) float64
        Whole at the middles of cells.

    Returns
    -------
    rows, columns : (N,) intp
        The third of the coordinates that add up to 0 gives way where rounding breaks that.
    """
    thirds = -ys - xs
    near_y, near_x, near_third = (np.round(one) for one in (ys, xs, thirds))
    off_y, off_x, off_third = np.abs(near_y - ys), np.abs(near_x - xs), np.abs(near_third - thirds)
    y = np.where((off_y > off_x) & (off_y > off_third), -near_x - near_third, near_y)
    x = np.where((off_x >= off_y) & (off_x > off_third), -near_y - near_third, near_x)
    return y.astype(np.intp), x.astype(np.intp)
