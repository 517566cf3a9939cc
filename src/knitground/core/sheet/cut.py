"""Where the tiles lie on a sheet.

A cut is six numbers; everything else (how many columns, which pixels are left over, which tile lies under a
point) follows from them and the size of the picture. A tile's column and row never depend on the picture's size.
"""

from dataclasses import dataclass
from typing import Annotated, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from knitground.core.errors import BadSheet

LARGEST_TILE = 4096
LARGEST_OFFSET = 16384

TileSide = Annotated[int, Field(ge=1, le=LARGEST_TILE)]
Offset = Annotated[int, Field(ge=0, le=LARGEST_OFFSET)]


@dataclass(frozen=True)
class Cut:
    """A grid of tiles on a sheet, in pixels of the picture."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    tile_width: TileSide
    tile_height: TileSide
    margin_x: Offset = 0
    margin_y: Offset = 0
    spacing_x: Offset = 0
    spacing_y: Offset = 0

    @property
    def pitch_x(self) -> int:
        """Pixels from one column to the next."""
        return self.tile_width + self.spacing_x

    @property
    def pitch_y(self) -> int:
        """Pixels from one row to the next."""
        return self.tile_height + self.spacing_y


class CutGrid(NamedTuple):
    """What a cut makes of a picture: whole tiles, and pixels to the right and below that belong to none."""

    columns: int
    rows: int
    left_over_x: int
    left_over_y: int


def grid_of(cut: Cut, width: int, height: int) -> CutGrid:
    """Columns, rows and left-over pixels of a cut on a picture.

    Parameters
    ----------
    cut : Cut
    width, height : int
        Of the picture, in pixels.

    Raises
    ------
    BadSheet
        If a number is out of range, or not one tile fits.
    """
    columns, left_x = _fit(width, cut.tile_width, cut.margin_x, cut.spacing_x, "width", "x")
    rows, left_y = _fit(height, cut.tile_height, cut.margin_y, cut.spacing_y, "height", "y")
    return CutGrid(columns, rows, left_x, left_y)


def tile_rect(cut: Cut, column: int, row: int) -> tuple[int, int, int, int]:
    """Left, top, width and height of a tile on the picture, in pixels."""
    left = cut.margin_x + column * cut.pitch_x
    top = cut.margin_y + row * cut.pitch_y
    return left, top, cut.tile_width, cut.tile_height


def tile_at(cut: Cut, grid: CutGrid, x: float, y: float) -> tuple[int, int] | None:
    """Column and row of the tile under a point of the picture; None on margin, spacing or left-overs."""
    column, inside_x = divmod(x - cut.margin_x, cut.pitch_x)
    row, inside_y = divmod(y - cut.margin_y, cut.pitch_y)
    on_tile = inside_x < cut.tile_width and inside_y < cut.tile_height
    if on_tile and 0 <= column < grid.columns and 0 <= row < grid.rows:
        return int(column), int(row)
    return None


def slice_tiles(picture: NDArray[np.uint8], cut: Cut) -> NDArray[np.uint8]:
    """All tiles of a cut, without copying a pixel.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    cut : Cut

    Returns
    -------
    tiles : (rows, columns, tile_height, tile_width, 4) uint8
        A read-only view of `picture`.

    Raises
    ------
    BadSheet
        As `grid_of`.
    """
    grid = grid_of(cut, picture.shape[1], picture.shape[0])
    start = picture[cut.margin_y :, cut.margin_x :]
    line, dot, channel = start.strides
    return np.lib.stride_tricks.as_strided(
        start,
        shape=(grid.rows, grid.columns, cut.tile_height, cut.tile_width, 4),
        strides=(cut.pitch_y * line, cut.pitch_x * dot, line, dot, channel),
        writeable=False,
    )


def _fit(size: int, tile: int, margin: int, spacing: int, side: str, axis: str) -> tuple[int, int]:
    """Whole tiles along one axis and the pixels left over behind the last."""
    if not 1 <= tile <= LARGEST_TILE:
        raise BadSheet(f"The tile {side} is {tile}; give a number from 1 to {LARGEST_TILE}.")
    for name, value in (("margin", margin), ("spacing", spacing)):
        if not 0 <= value <= LARGEST_OFFSET:
            raise BadSheet(f"The {name} {axis} is {value}; give a number from 0 to {LARGEST_OFFSET}.")
    if margin + tile > size:
        raise BadSheet(
            f"A tile {side} of {tile} behind a margin of {margin} does not fit on a sheet {size} pixels "
            f"{'wide' if axis == 'x' else 'high'}; make the tile or the margin smaller."
        )
    count = (size - margin + spacing) // (tile + spacing)
    return count, size - margin - count * (tile + spacing) + spacing
