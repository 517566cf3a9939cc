"""Topology: how the cells of a ground hang together, and where arrays hold what lies on them.

What is painted lies on one of four kinds of places: on *cells*, on *corners* (points where cells meet), *across* (on
the north edge of each cell) or *along* (on the west edge of each cell). A board says how large the array of each kind
is and turns flat places into rows and columns of it; all else follows from that.
"""

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.around import Offset, Readable, Step, gathered, places_on, taken
from knitground.core.grid.bordered import Bordered
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape, cropped, flood_label, inside_polygon, leaves, swept_disc_mask

On = Literal["cells", "corners", "across", "along"]
Edge = tuple[On, int, int]
Ints = NDArray[np.intp]
Mask = NDArray[np.bool_]

_FIRST_SEARCH = 64
ROUND: dict[On, tuple[Step, ...]] = {
    "cells": ((0, 0),), "across": ((0, 0), (1, 0)), "along": ((0, 0), (0, 1)),
    "corners": ((0, 0), (0, 1), (1, 1), (1, 0)),
}  # fmt: skip
"""Where the places of each kind lie round a cell."""


@dataclass(frozen=True)
class Board(ABC):
    """The cells of a ground: how many, and whether they go round at the borders."""

    height: int
    width: int
    wraps_y: bool = False
    wraps_x: bool = False

    painted: ClassVar[frozenset[On]] = frozenset({"cells", "corners", "across", "along"})
    """The kinds of places that can be painted on."""
    in_rows: ClassVar[bool] = False
    """Whether boxes and rounds are drawn over rows and columns, which look straighter than flat places."""

    @abstractmethod
    def shape(self, on: On) -> tuple[int, int]:
        """Rows and columns of an array that holds something on each of these places."""

    @abstractmethod
    def stored(self, on: On, ys: Any, xs: Any) -> tuple[Any, Any]:
        """Rows and columns at which arrays hold flat places (numbers, or arrays of one shape)."""

    @abstractmethod
    def flat(self, on: On, rows: Any, columns: Any) -> tuple[Any, Any]:
        """The flat places that rows and columns of an array stand for: the inverse of `stored`."""

    @abstractmethod
    def reach(self, rect: CellRect, steps: int) -> CellRect:
        """All cells that lie within some steps of a rectangle of cells, or of what lies on places by them."""

    @property
    def spacing(self) -> tuple[float, float]:
        """Rows and columns of arrays per cell, as it looks on the screen."""
        return 1.0, 1.0

    @property
    def stagger(self) -> tuple[int, int]:
        """Rows and columns after which cells lie in line again, so that all else moves by as many."""
        return 1, 1

    @property
    def problem(self) -> str:
        """Why a ground of this size can't go round as it should; nothing if it can."""
        return ""

    @cached_property
    def whole(self) -> CellRect:
        """All cells."""
        return CellRect(0, 0, self.height, self.width)

    @property
    def period(self) -> tuple[int | None, int | None]:
        """Rows and columns after which the ground repeats; None where it does not."""
        return self.height if self.wraps_y else None, self.width if self.wraps_x else None

    @property
    def apart(self) -> tuple[int, int]:
        """Cells this many rows apart, or in one row as many columns, share no neighbour, not even over a corner."""
        return 3, 3

    @property
    def colours(self) -> tuple[int, int]:
        """What a row and a column add to the number whose parity tells neighbours apart, as on a chessboard."""
        return 1, 1

    def clip(self, rect: CellRect) -> CellRect:
        """The cells of a rectangle that there are."""
        return rect.clipped(self.height, self.width)

    def parts(self, rect: CellRect) -> tuple[CellRect, ...]:
        """The parts of a rectangle on the ground; what reaches over a border comes in at the other where it wraps."""
        found = []
        for down in (-self.height, 0, self.height) if self.wraps_y else (0,):
            for across in (-self.width, 0, self.width) if self.wraps_x else (0,):
                part = self.clip(rect._replace(top=rect.top + down, left=rect.left + across))
                if not part.is_empty:
                    found.append(part)
        return tuple(found)

    def seen_from(self, rect: CellRect) -> CellRect:
        """A rectangle that reaches over the borders only where the ground wraps."""
        inside = self.clip(rect)
        if self.wraps_y:
            inside = inside._replace(top=rect.top, height=rect.height)
        if self.wraps_x:
            inside = inside._replace(left=rect.left, width=rect.width)
        return inside

    def read(self, values: Readable, rect: CellRect) -> NDArray[Any]:
        """A rectangle of an array, which goes on round where the ground wraps and else as at the border.

        Parameters
        ----------
        values : array or Plane
            As the board stores what lies on cells, (height, width).
        rect : CellRect
            May reach over the borders.

        Returns
        -------
        part : (rect.height, rect.width) array
            Of the dtype of `values`.
        """
        height, width = values.shape[:2]
        # Where a ground goes round, the first line of an array stands for the last one too.
        most_y, most_x = self.period[0] or height, self.period[1] or width
        if rect.top >= 0 and rect.left >= 0 and rect.bottom <= most_y and rect.right <= most_x:
            return np.asarray(values[rect.rows, rect.columns])
        beyond = values if isinstance(values, Bordered) else None
        rows = places_on(rect.top, rect.bottom, height, self.period[0])
        columns = places_on(rect.left, rect.right, width, self.period[1])
        found = gathered(values, rows, columns)
        return found if beyond is None else beyond.filled(found, rect)

    def around(self, values: Readable, on: On, steps: Sequence[Step], rect: CellRect) -> list[NDArray[Any]]:
        """What lies by each cell of a rectangle.

        Parameters
        ----------
        values : array or Plane
            As large as `shape` says for `on`.
        steps : sequence of (down, right)
            From a flat cell to the flat place that is looked at.
        rect : CellRect

        Returns
        -------
        found : list of (height, width) arrays
            One for each step; some share memory with `values`.
        """
        offsets = [self.offset(on, step) for step in steps]
        downs = [offset[parity][0] for offset in offsets for parity in (0, 1)]
        rights = [offset[parity][1] for offset in offsets for parity in (0, 1)]
        top, left = rect.top + min(downs), rect.left + min(rights)
        seen = CellRect(top, left, rect.bottom + max(downs) - top, rect.right + max(rights) - left)
        block = self.read(values, seen)
        return [taken(block, offset, rect, (seen.top, seen.left)) for offset in offsets]

    def disc(self, on: On, start: Step, end: Step, radius: float) -> Shape:
        """What a disc covers on its way from one flat place to another."""
        hangs = on in ("cells", "corners")
        rect, mask = swept_disc_mask(start, end, radius, self._flat_area(on), side_by_side=hangs)
        return self._shape(on, rect, mask)

    def box(self, on: On, start: Step, end: Step) -> Shape:
        """All flat places between two opposite ones, both included."""
        (y, x), (last_y, last_x) = start, end
        rect = CellRect(min(y, last_y), min(x, last_x), abs(y - last_y) + 1, abs(x - last_x) + 1)
        return self._shape(on, rect.inside(self._flat_area(on)), None)

    def between(
        self, on: On, start: Step, end: Step, covers: Callable[[Step, Step, CellRect], tuple[CellRect, Mask]]
    ) -> Shape:
        """What a form between two flat places covers; told the places and what holds all of them, it gives its own."""
        if self.in_rows:
            (row, column), (last_row, last_column) = (self.stored(on, *place) for place in (start, end))
            return Shape(*covers((int(row), int(column)), (int(last_row), int(last_column)), self.whole))
        return self._shape(on, *covers(start, end, self._flat_area(on)))

    def round_about(self, way: Sequence[tuple[float, float]]) -> Shape:
        """The cells whose middles lie inside a closed line of flat places, by the even-odd rule."""
        corners = np.array(way)
        low, high = np.floor(corners.min(axis=0)).astype(int), np.ceil(corners.max(axis=0)).astype(int)
        rect = CellRect(*low.tolist(), *(high - low).tolist()).inside(self._flat_area("cells"))
        y, x = np.mgrid[rect.rows, rect.columns] + 0.5
        return cropped(self._shape("cells", rect, inside_polygon(corners, y, x)))

    def wider(self, mask: Mask) -> Mask:
        """Cells, (height, width) bool, and those that lie round them.

        Parameters
        ----------
        mask : (height, width) bool
        """
        from scipy import ndimage

        return np.asarray(ndimage.binary_dilation(mask, np.ones((3, 3), dtype=bool)))

    def round_cells(self, on: On, shape: Shape) -> Shape:
        """The corners or edges that lie round some cells, or the cells themselves."""
        if on == "cells" or shape.window.is_empty:
            return shape
        rows, columns = np.nonzero(shape.mask)
        ys, xs = self.flat("cells", rows + shape.window.top, columns + shape.window.left)
        down, right = np.array(ROUND[on]).T[..., None]
        return self._fromplaces_on(on, (ys + down).ravel(), (xs + right).ravel())

    def edges(self, edges: Sequence[Edge]) -> dict[str, Shape]:
        """Edges, each by the flat cell to whose north or west it lies, as one shape for each array that holds some."""
        shapes = {}
        for on in ("across", "along"):
            mine = [(y, x) for kind, y, x in edges if kind == on]
            if mine:
                shape = self._fromplaces_on(on, *np.array(mine, dtype=np.intp).T)
                if not shape.window.is_empty:
                    shapes[on] = shape
        return shapes

    def flood(self, values: Readable, on: On, at: Step, within: CellRect | None = None) -> Shape:
        """The places that hang together with a flat one, side by side, and hold the same value.

        The search begins in a small rectangle and widens only while the region reaches its border, so that the cost
        follows the region and not the ground.

        Parameters
        ----------
        within : CellRect, optional
            Rows and columns of the array to look at; what hangs together only through others is left out.
        """
        row, column = (int(number) for number in self.stored(on, *at))
        area = CellRect(0, 0, *self.shape(on))
        area = area if within is None else within.inside(area)
        reach = _FIRST_SEARCH
        while True:
            rect = CellRect(row - reach, column - reach, 2 * reach + 1, 2 * reach + 1).inside(area)
            mask = self._hanging_together(np.asarray(values[rect.rows, rect.columns]), on, rect, (row, column))
            if not leaves(mask, rect, area):
                return cropped(Shape(rect, mask))
            reach *= 4

    def rounds(self, *spots: tuple[float, float]) -> list[tuple[tuple[float, float], ...]]:
        """Flat places once more beyond each border at which the ground wraps, so that strokes go on there."""
        zero = self.flat("cells", 0, 0)
        shifts = []
        for down in (0, -self.height, self.height) if self.wraps_y else (0,):
            for across in (0, -self.width, self.width) if self.wraps_x else (0,):
                y, x = self.flat("cells", down, across)
                shifts.append((float(y - zero[0]), float(x - zero[1])))
        return [tuple((y + down, x + right) for y, x in spots) for down, right in shifts]

    def there(self, on: On, ys: Any, xs: Any) -> Any:
        """Which flat places there are on the ground, (...) bool; all in a direction in which it goes round.

        Parameters
        ----------
        ys, xs : (...) int
        """
        (rows, columns), (height, width) = self.stored(on, ys, xs), self.shape(on)
        down = True if self.wraps_y else (rows >= 0) & (rows < height)
        return down & (True if self.wraps_x else (columns >= 0) & (columns < width))

    def holds(self, y: float, x: float) -> bool:
        """Whether a flat place lies in a cell of the ground."""
        return self.cell_at(y, x) is not None

    def cell_at(self, y: float, x: float) -> tuple[int, int] | None:
        """Row and column of the cell in which a flat place lies; None off the ground."""
        row, column = (int(n) for n in self.stored("cells", int(y // 1), int(x // 1)))
        return (row, column) if self.whole.holds(row, column) else None

    def flat_patch(self, values: Readable, on: On, ys: Ints, xs: Ints) -> tuple[NDArray[Any], NDArray[np.bool_]]:
        """What lies on a flat rectangle of places, and which of these there are.

        Parameters
        ----------
        ys : (h,) int
        xs : (w,) int
            Consecutive flat rows and columns.

        Returns
        -------
        found : (h, w) array
            0 off the ground.
        there : (h, w) bool
        """
        rows, columns = self.stored(on, *np.broadcast_arrays(ys[:, None], xs))
        if self.wraps_y:
            rows = rows % self.height
        if self.wraps_x:
            columns = columns % self.width
        height, width = values.shape[:2]
        there = (rows >= 0) & (rows < height) & (columns >= 0) & (columns < width)
        rows, columns = np.where(there, rows, 0), np.where(there, columns, 0)
        top, left = int(rows.min()), int(columns.min())
        part = np.asarray(values[top : int(rows.max()) + 1, left : int(columns.max()) + 1])
        return np.where(there, part[rows - top, columns - left], 0).astype(part.dtype), there

    def flat_bounds(self, rect: CellRect) -> CellRect:
        """The smallest flat rectangle that holds all cells of a rectangle of rows and columns."""
        rows = [rect.top, min(rect.top + 1, rect.bottom - 1), rect.bottom - 1, max(rect.bottom - 2, rect.top)]
        places = [self.flat("cells", row, column) for row in rows for column in (rect.left, rect.right - 1)]
        top, left = (min(int(place[axis]) for place in places) for axis in (0, 1))
        bottom, right = (max(int(place[axis]) for place in places) + 1 for axis in (0, 1))
        return CellRect(top, left, bottom - top, right - left)

    def flat_window(self, rect: CellRect) -> tuple[Ints, Ints, NDArray[np.bool_]]:
        """The flat rows and columns that hold a rectangle of cells, and which of the flat cells are among them.

        The rectangle may reach over the borders where the ground wraps.

        Parameters
        ----------
        rect : CellRect

        Returns
        -------
        ys, xs : (h,) and (w,) int
            Flat rows and columns, one after the other.
        inside : (h, w) bool
            Which of them are cells of the rectangle.
        """
        bounds = self.flat_bounds(rect)
        ys, xs = np.arange(bounds.top, bounds.bottom), np.arange(bounds.left, bounds.right)
        rows, columns = self.stored("cells", *np.broadcast_arrays(ys[:, None], xs))
        inside = (rows >= rect.top) & (rows < rect.bottom) & (columns >= rect.left) & (columns < rect.right)
        return ys, xs, inside

    def from_flat(
        self, on: On, corner: Step, values: NDArray[Any], there: NDArray[np.bool_]
    ) -> tuple[Shape, NDArray[Any]]:
        """A flat rectangle of values as a shape on an array, and the values of the shape's rectangle.

        Parameters
        ----------
        corner : (int, int)
            The first flat row and column.
        values : (h, w) array
        there : (h, w) bool
            Which of them count.
        """
        ys, xs = np.nonzero(there)
        shape = self._fromplaces_on(on, ys + corner[0], xs + corner[1])
        rows, columns = self.stored(on, ys + corner[0], xs + corner[1])
        found = np.zeros(shape.mask.shape, dtype=values.dtype)
        inside = shape.window
        mine = (rows >= inside.top) & (rows < inside.bottom) & (columns >= inside.left) & (columns < inside.right)
        found[rows[mine] - inside.top, columns[mine] - inside.left] = values[there][mine]
        return shape, found

    def _hanging_together(self, values: NDArray[Any], on: On, rect: CellRect, at: Step) -> NDArray[np.bool_]:
        """Which places of a rectangle of an array hang together with one of them."""
        return flood_label(values == values[at[0] - rect.top, at[1] - rect.left], at[0] - rect.top, at[1] - rect.left)

    def _flat_area(self, on: On) -> CellRect:
        """A flat rectangle that holds all places there are, so that a drag far off costs nothing."""
        return self.flat_bounds(CellRect(0, 0, *self.shape(on))).grown(1)

    def _shape(self, on: On, rect: CellRect, mask: NDArray[np.bool_] | None) -> Shape:
        """The shape on an array of a flat rectangle, or of what is set in it."""
        ys, xs = np.nonzero(np.ones((rect.height, rect.width), dtype=bool) if mask is None else mask)
        return self._fromplaces_on(on, ys + rect.top, xs + rect.left)

    def _fromplaces_on(self, on: On, ys: Ints, xs: Ints) -> Shape:
        rows, columns = self.stored(on, ys, xs)
        height, width = self.shape(on)
        there = (rows >= 0) & (rows < height) & (columns >= 0) & (columns < width)
        rows, columns = rows[there], columns[there]
        if not rows.size:
            return Shape(CellRect(0, 0, 0, 0), np.zeros((0, 0), dtype=bool))
        top, left = int(rows.min()), int(columns.min())
        rect = CellRect(top, left, int(rows.max()) - top + 1, int(columns.max()) - left + 1)
        mask = np.zeros((rect.height, rect.width), dtype=bool)
        mask[rows - top, columns - left] = True
        return Shape(rect, mask)

    def offset(self, on: On, step: Step) -> Offset:
        """Rows and columns of arrays from a cell to the flat place that lies a step from it."""
        found = []
        for row in (0, 1):
            y, x = self.flat("cells", row, 0)
            down, right = self.stored(on, y + step[0], x + step[1])
            found.append((int(down) - row, int(right)))
        return Offset(*found)
