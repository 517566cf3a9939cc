"""The tiles that a cut makes of a picture: which cells are tiles, and their pixels."""

from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut, Rect, grid_of, region_of, slice_tiles, tile_rect


class Slices:
    """Tiles of one cut on one picture, (H, W, 4) uint8 with straight alpha; raises BadSheet where it does not fit.

    `over` are parts of the picture that are cut by numbers of their own: what of this cut lies under them is no tile.
    """

    def __init__(self, picture: NDArray[np.uint8], cut: Cut, over: Sequence[Rect] = ()) -> None:
        self.cut = cut
        self.over = over
        self.picture = picture
        self.grid = grid_of(cut, picture.shape[1], picture.shape[0])

    @cached_property
    def filled(self) -> NDArray[np.bool_]:
        """Which cells hold something that can be seen, (rows, columns) bool."""
        if self.cut.pieces:
            return np.array([[self._fits(cell) and bool(self.cell(cell, 0)[..., 3].any()) for cell in self._numbers]])
        alpha = slice_tiles(self.picture[..., 3:], self.cut)
        return np.asarray(alpha.any(axis=(2, 3, 4)), dtype=bool)

    @cached_property
    def covered(self) -> NDArray[np.bool_]:
        """Which cells other parts lie over, (rows, columns) bool."""
        covered = np.zeros((self.grid.rows, self.grid.columns), dtype=bool)
        for part in self.over:
            covered[self._under(part)] = True
        return covered

    @cached_property
    def held(self) -> NDArray[np.bool_]:
        """Which cells are tiles, (rows, columns) bool: those that hold something, but for what the cut says of some."""
        held = self.filled & ~self.covered
        for cells, value in ((self.cut.left_out, False), (self.cut.taken_in, True)):
            for column, row in cells:
                if row < self.grid.rows and column < self.grid.columns:
                    held[row, column] = value and self._fits(column)
        return held

    def holds(self, column: int, row: int) -> bool:
        """Whether a cell is a tile."""
        return row < self.grid.rows and column < self.grid.columns and bool(self.held[row, column])

    def tile(self, column: int, row: int) -> NDArray[np.uint8] | None:
        """Pixels of a tile, (h, w, 4) uint8; none where the cell is no tile.

        Parameters
        ----------
        column, row : int
            On the cut's grid; of loose pieces, the number of the piece and 0.
        """
        return self.cell(column, row) if self.holds(column, row) else None

    def cell(self, column: int, row: int) -> NDArray[np.uint8]:
        """Pixels of a cell of the grid, whether it is a tile or not.

        Parameters
        ----------
        column, row : int
            On the cut's grid.

        Returns
        -------
        pixels : (h, w, 4) uint8
            Straight alpha.
        """
        x, y, width, height = tile_rect(self.cut, column, row)
        return self.picture[y : y + height, x : x + width]

    def cells(self) -> Iterator[tuple[int, int]]:
        """Columns and rows of all tiles, in reading order."""
        for row, column in np.argwhere(self.held).tolist():
            yield column, row

    def _under(self, part: Rect) -> tuple[slice, slice] | NDArray[np.bool_]:
        """The cells that a part of the picture touches, as an index."""
        if self.cut.pieces:
            return np.array([[piece.touches(part) for piece in self.cut.pieces]])
        first, cut = tile_rect(self.cut, 0, 0), self.cut
        rows = slice(
            max(0, -(-(part.y - first.y - cut.tile_height + 1) // cut.pitch_y)),
            max(0, -(-(part.y + part.height - first.y) // cut.pitch_y)),
        )
        columns = slice(
            max(0, -(-(part.x - first.x - cut.tile_width + 1) // cut.pitch_x)),
            max(0, -(-(part.x + part.width - first.x) // cut.pitch_x)),
        )
        return rows, columns

    @property
    def _numbers(self) -> range:
        return range(self.grid.columns)

    def _fits(self, number: int) -> bool:
        """Whether a loose piece lies on the picture; one that was redrawn smaller may not. Cells of a grid do."""
        if not self.cut.pieces:
            return True
        x, y, width, height = self.cut.pieces[number]
        return bool(x + width <= self.picture.shape[1] and y + height <= self.picture.shape[0])


class LeftOver(NamedTuple):
    """Pixels behind the last tiles that hold something and that no margin or spacing explains."""

    right: int
    bottom: int

    def __str__(self) -> str:
        parts = [f"{self.right} px at the right"] * bool(self.right)
        return " and ".join(parts + [f"{self.bottom} px at the bottom"] * bool(self.bottom))


def left_over(slices: Slices) -> LeftOver:
    """What a cut leaves over; nothing where no art lies beyond its last tiles."""
    cut, grid = slices.cut, slices.grid
    sides = (grid.left_over_x, cut.margin_x, cut.spacing_x), (grid.left_over_y, cut.margin_y, cut.spacing_y)
    if all(left in (0, margin, spacing, margin + spacing) for left, margin, spacing in sides):
        return LeftOver(0, 0)
    height, width = slices.picture.shape[:2]
    x, y, wide, high = region_of(cut, width, height)
    right, bottom = min(x + wide, width), min(y + high, height)
    region = slices.picture[y:bottom, x:right]
    seen = region[..., 3] > 0
    for part in slices.over:
        seen[
            max(0, part.y - y) : max(0, part.y + part.height - y), max(0, part.x - x) : max(0, part.x + part.width - x)
        ] = False
    every, (high, wide) = slice(None), seen.shape
    strips = (every, slice(wide - grid.left_over_x, None)), (slice(high - grid.left_over_y, None), every)
    # What fills the margins, and not the tiles, is no art.
    drawn = (region != region[0, 0]).any(axis=2)
    filled = bool((cut.margin_x or cut.margin_y) and drawn.any())
    art = [bool((seen[strip] & drawn[strip] if filled else seen[strip]).any()) for strip in strips]
    return LeftOver(*(
        left if there and left not in (0, margin, spacing, margin + spacing) else 0
        for there, (left, margin, spacing) in zip(art, sides, strict=True)
    ))  # fmt: skip
