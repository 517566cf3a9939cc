"""The square grid: rows and columns at right angles, and nothing to convert."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.around import Readable, Step
from knitground.core.grid.board import Board, Ints, On
from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape

_BEYOND: dict[On, tuple[int, int]] = {"cells": (0, 0), "corners": (1, 1), "across": (1, 0), "along": (0, 1)}


@dataclass(frozen=True)
class SquareBoard(Board):
    """Flat places are rows and columns as they are."""

    def shape(self, on: On) -> tuple[int, int]:
        down, right = _BEYOND[on]
        return self.height + down, self.width + right

    def stored(self, on: On, ys: Any, xs: Any) -> tuple[Any, Any]:
        return ys, xs

    def flat(self, on: On, rows: Any, columns: Any) -> tuple[Any, Any]:
        return rows, columns

    def reach(self, rect: CellRect, steps: int) -> CellRect:
        return rect.grown(steps)

    def round_cells(self, on: On, shape: Shape) -> Shape:
        (height, width), (down, right) = shape.mask.shape, _BEYOND[on]
        if shape.window.is_empty or not (down or right):
            return shape
        mask = np.zeros((height + down, width + right), dtype=bool)
        for y in range(down + 1):
            for x in range(right + 1):
                mask[y : y + height, x : x + width] |= shape.mask
        return Shape(shape.window._replace(height=height + down, width=width + right), mask)

    def flat_patch(self, values: Readable, on: On, ys: Ints, xs: Ints) -> tuple[NDArray[Any], NDArray[np.bool_]]:
        """What lies on a flat rectangle of places, and which of these there are.

        Parameters
        ----------
        values : (H, W) array or Plane
        on : On
        ys : (h,) int
        xs : (w,) int

        Returns
        -------
        found, there : (h, w) array, (h, w) bool
        """
        rect = CellRect(int(ys[0]), int(xs[0]), len(ys), len(xs))
        rows, columns = np.arange(rect.top, rect.bottom), np.arange(rect.left, rect.right)
        height, width = values.shape[:2]
        down = np.ones(len(ys), dtype=bool) if self.wraps_y else (rows >= 0) & (rows < height)
        right = np.ones(len(xs), dtype=bool) if self.wraps_x else (columns >= 0) & (columns < width)
        there = down[:, None] & right
        found = self.read(values, rect)
        return found if there.all() else np.where(there, found, 0).astype(found.dtype), there

    def from_flat(
        self, on: On, corner: Step, values: NDArray[Any], there: NDArray[np.bool_]
    ) -> tuple[Shape, NDArray[Any]]:
        """A flat rectangle of values as a shape on an array, and the values of the shape's rectangle.

        Parameters
        ----------
        on : On
        corner : (int, int)
        values : (h, w) array
        there : (h, w) bool
            Which of them count.
        """
        inner = CellRect(*corner, *values.shape).clipped(*self.shape(on))
        rows, columns = (
            slice(inner.top - corner[0], inner.bottom - corner[0]),
            slice(inner.left - corner[1], inner.right - corner[1]),
        )
        return Shape(inner, there[rows, columns]), values[rows, columns]

    def _shape(self, on: On, rect: CellRect, mask: NDArray[np.bool_] | None) -> Shape:
        # Flat rectangles are rectangles here, so nothing has to be looked up place by place.
        inner = rect.clipped(*self.shape(on))
        if mask is None:
            return Shape(inner, np.ones((inner.height, inner.width), dtype=bool))
        return Shape(inner, mask[inner.top - rect.top :, inner.left - rect.left :][: inner.height, : inner.width])


@dataclass(frozen=True)
class SquareProjection(Projection):
    """A cell is a rectangle of the tile's size; rows further down are drawn later."""

    @property
    def size(self) -> tuple[int, int]:
        return self.board.width * self.tile_width, self.board.height * self.tile_height

    def point(self, y: float, x: float) -> tuple[float, float]:
        return x * self.tile_width, y * self.tile_height

    def place(self, x: Any, y: Any) -> tuple[Any, Any]:
        return y / self.tile_height, x / self.tile_width

    def corner(self, row: int, column: int) -> tuple[int, int]:
        return column * self.tile_width, row * self.tile_height

    def cells_in(self, area: PixelRect) -> CellRect:
        top, left = area.y // self.tile_height, area.x // self.tile_width
        bottom, right = -(-area.bottom // self.tile_height), -(-area.right // self.tile_width)
        return self.board.clip(CellRect(top, left, bottom - top, right - left))

    def strips(self, area: PixelRect) -> list[Strip]:
        cells = self.cells_in(area)
        columns = np.arange(cells.left, cells.right)
        return [
            Strip(np.full(len(columns), row), columns, cells.left * self.tile_width, row * self.tile_height)
            for row in range(cells.top, cells.bottom)
            if len(columns)
        ]
