"""Projection: which pixels a cell covers, and in which order cells are drawn.

Pixels count from the left top corner of the smallest rectangle that holds all cells. A cell has a *box*, the rectangle
of the tile's size that its tile fills; on isometric grids the cell itself is the diamond in it.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar, NamedTuple, Self

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect


class PixelRect(NamedTuple):
    """A rectangle of pixels: left, top, width and height."""

    x: int
    y: int
    width: int
    height: int

    @property
    def right(self) -> int:
        """The column behind the last."""
        return self.x + self.width

    @property
    def bottom(self) -> int:
        """The row behind the last."""
        return self.y + self.height

    @property
    def is_empty(self) -> bool:
        """Whether it holds no pixel."""
        return self.width <= 0 or self.height <= 0

    def grown(self, left: int, top: int, right: int, bottom: int) -> "PixelRect":
        """Wider by so many pixels on each side."""
        return PixelRect(self.x - left, self.y - top, self.width + left + right, self.height + top + bottom)

    def inside(self, other: "PixelRect") -> "PixelRect":
        """The part that lies in another one; empty where they don't meet."""
        x, y = min(max(self.x, other.x), other.right), min(max(self.y, other.y), other.bottom)
        right, bottom = max(x, min(self.right, other.right)), max(y, min(self.bottom, other.bottom))
        return PixelRect(x, y, right - x, bottom - y)


class Strip(NamedTuple):
    """Cells whose boxes stand side by side in one row on the screen, `Projection.pitch` apart.

    Attributes
    ----------
    rows, columns : (N,) int
        The cells, from left to right.
    left, top : int
        Where the box of the first one begins.
    phase : int
        Boxes of strips of one phase stand in a grid, `Projection.pitch` apart, and do not overlap.
    """

    rows: NDArray[np.intp]
    columns: NDArray[np.intp]
    left: int
    top: int
    phase: int = 0


@dataclass(frozen=True)
class Projection(ABC):
    """Where the cells of a board lie on the screen, for tiles of a size."""

    board: Board
    tile_width: int
    tile_height: int

    overlapping: ClassVar[bool] = False
    """Whether boxes of cells in neighbouring strips overlap, so that each strip is drawn by itself."""

    straight: ClassVar[bool] = True
    """Whether places lie on the screen as flat ones do, but for turning and squeezing."""

    @property
    @abstractmethod
    def size(self) -> tuple[int, int]:
        """Width and height of the whole ground in pixels."""

    @abstractmethod
    def point(self, y: float, x: float) -> tuple[float, float]:
        """Pixel x and y of a flat place; whole numbers are corners of cells."""

    @abstractmethod
    def place(self, x: Any, y: Any) -> tuple[Any, Any]:
        """Flat y and x of pixels: the inverse of `point`."""

    def half_way(self, x: float, y: float) -> tuple[float, float]:
        """The middle, corner or middle of an edge of a cell that lies nearest to a pixel."""
        flat_y, flat_x = self.place(x, y)
        return self.point(round(flat_y * 2) / 2, round(flat_x * 2) / 2)

    @abstractmethod
    def corner(self, row: int, column: int) -> tuple[int, int]:
        """Pixel x and y of the left top corner of a cell's box."""

    @abstractmethod
    def cells_in(self, area: PixelRect) -> CellRect:
        """A rectangle of cells that holds all whose boxes meet a rectangle of pixels."""

    @abstractmethod
    def strips(self, area: PixelRect) -> Sequence[Strip]:
        """The cells whose boxes meet a rectangle of pixels, strip by strip from the back to the front."""

    @property
    def pitch(self) -> tuple[int, int]:
        """How many pixels lie between boxes of a strip, and between strips of one phase that follow each other."""
        return self.tile_width, self.tile_height

    def phase(self, strip: int) -> int:
        """The phase of a strip of diamonds: those two apart do not overlap, if half a tile is whole pixels."""
        return strip % 2 if self.tile_width % 2 == self.tile_height % 2 == 0 else strip

    @property
    def mirrors(self) -> tuple[float, float]:
        """The sum of a place and its mirror image, left to right and upside down, in tiles as seen on the screen.

        About the middle of the ground, or the nearest place to it that lets cells fall on cells.
        """
        return float(self.board.width), float(self.board.height)

    def reduced(self, level: int) -> Self:
        """The same ground with tiles at 1 / 2**level of their size, but at least one pixel."""
        return replace(self, tile_width=max(1, self.tile_width >> level), tile_height=max(1, self.tile_height >> level))

    def box(self, row: int, column: int) -> PixelRect:
        """The rectangle that the tile of a cell fills."""
        return PixelRect(*self.corner(row, column), self.tile_width, self.tile_height)

    def bounds(self, cells: CellRect) -> PixelRect:
        """The smallest rectangle of pixels that holds the boxes of some cells."""
        rows = {cells.top, min(cells.top + 1, cells.bottom - 1), max(cells.bottom - 2, cells.top), cells.bottom - 1}
        corners = [self.corner(row, column) for row in rows for column in (cells.left, cells.right - 1)]
        x, y = min(corner[0] for corner in corners), min(corner[1] for corner in corners)
        right, bottom = max(corner[0] for corner in corners), max(corner[1] for corner in corners)
        return PixelRect(x, y, right + self.tile_width - x, bottom + self.tile_height - y)

    def outline(self, top: float, left: float, bottom: float, right: float) -> list[tuple[float, float]]:
        """The corners of a flat rectangle in pixels, clockwise from its north-west."""
        return [self.point(y, x) for y, x in ((top, left), (top, right), (bottom, right), (bottom, left))]

    def grid_lines(self, cells: CellRect) -> Iterator[list[tuple[float, float]]]:
        """Lines in pixels that part the cells of a rectangle, and perhaps more of them."""
        flat = self.board.flat_bounds(cells)
        for x in range(flat.left, flat.right + 1):
            yield [self.point(flat.top, x), self.point(flat.bottom, x)]
        for y in range(flat.top, flat.bottom + 1):
            yield [self.point(y, flat.left), self.point(y, flat.right)]

    def ring(self, y: float, x: float, turns: NDArray[np.float64], radius: float) -> list[tuple[float, float]]:
        """Places of a round about a flat one, in pixels.

        Parameters
        ----------
        turns : (N,) float64
            In radians.
        radius : float
            In cells.
        """
        return [self.point(y + radius * float(np.sin(turn)), x + radius * float(np.cos(turn))) for turn in turns]

    def border(self) -> list[tuple[float, float]]:
        """The outline of all cells in pixels, clockwise."""
        return self.outline(0, 0, self.board.height, self.board.width)
