"""Where the tiles lie on a sheet.

A cut is a grid (size, margin, spacing) over a rectangle of the picture, or a list of loose pieces. Everything else
(how many columns, which pixels are left over, which tile lies under a point) follows from it and the size of the
picture. A tile's column and row never depend on the picture's size.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field, model_serializer

from knitground.core.errors import BadSheet
from knitground.core.grid import Outline
from knitground.core.written import only_what_is_said

LARGEST_TILE = 4096
LARGEST_OFFSET = 16384
MOST_PIECES = 4096
_HALF_WAYS = {2: (1, 1), 4: (1, 0), 6: (0, 1)}
"""In which orientations left and right, and top and bottom, change places."""

TileSide = Annotated[int, Field(ge=1, le=LARGEST_TILE)]
Offset = Annotated[int, Field(ge=0, le=LARGEST_OFFSET)]
Length = Annotated[int, Field(ge=1, le=LARGEST_OFFSET)]
Shift = Annotated[int, Field(ge=-LARGEST_TILE, le=LARGEST_TILE)]
TileShape = Literal["square", "isometric", "hex-pointed", "hex-flat"]
OUTLINES: Mapping[TileShape, Outline] = {
    "square": "box",
    "isometric": "diamond",
    "hex-pointed": "pointed",
    "hex-flat": "lying",
}
"""What part of its box a cell is that tiles of a shape stand on."""
Anchor = Literal[
    "top-left", "top", "top-right", "left", "middle", "right", "bottom-left", "bottom", "bottom-right"
]  # fmt: skip


class Rect(NamedTuple):
    """A rectangle of a picture, in pixels."""

    x: Offset
    y: Offset
    width: Length
    height: Length

    def touches(self, other: "Rect") -> bool:
        """Whether the two share a pixel."""
        across = self.x < other.x + other.width and other.x < self.x + self.width
        return across and self.y < other.y + other.height and other.y < self.y + self.height

    def with_other(self, other: "Rect") -> "Rect":
        """The smallest that holds both."""
        left, top = min(self.x, other.x), min(self.y, other.y)
        right = max(self.x + self.width, other.x + other.width)
        bottom = max(self.y + self.height, other.y + other.height)
        return Rect(left, top, right - left, bottom - top)

    def parted(self, at: int, *, down: bool) -> tuple["Rect", "Rect"]:
        """It in two, some pixels from its beginning."""
        x, y, wide, high = self
        if down:
            return Rect(x, y, wide, at), Rect(x, y + at, wide, high - at)
        return Rect(x, y, at, high), Rect(x + at, y, wide - at, high)

    def slices(self) -> tuple[slice, slice]:
        """Its rows and columns."""
        return slice(self.y, self.y + self.height), slice(self.x, self.x + self.width)


class Cell(NamedTuple):
    """A place in the grid of a cut."""

    column: Annotated[int, Field(ge=0, lt=2**16)]
    row: Annotated[int, Field(ge=0, lt=2**16)]


@dataclass(frozen=True)
class Cut:
    """A grid of tiles on a sheet, in pixels of the picture; or, with `pieces`, tiles of their own sizes in one row.

    `region` is the part of the picture that the grid lies on. Cells of `left_out` are no tiles though they hold
    something, those of `taken_in` are though they are empty. `anchor` is the point that a tile of another size than
    the map's cell shares with the cell, moved by the offset. `gap` is how far apart parts of one loose piece may be.
    `foot` is the width and height of the diamond or the hexagon that tiles stand on, if it is another than usual.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    tile_width: TileSide
    tile_height: TileSide
    margin_x: Offset = 0
    margin_y: Offset = 0
    spacing_x: Offset = 0
    spacing_y: Offset = 0
    region: Rect | None = None
    pieces: Annotated[tuple[Rect, ...], Field(max_length=MOST_PIECES)] = ()
    gap: Annotated[int, Field(ge=0, le=256)] = 0
    left_out: tuple[Cell, ...] = ()
    taken_in: tuple[Cell, ...] = ()
    anchor: Anchor | None = None
    offset_x: Shift = 0
    offset_y: Shift = 0
    shape: TileShape = "square"
    foot: tuple[TileSide, TileSide] | None = None

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    @property
    def footprint(self) -> tuple[int, int]:
        """Width and height of the cell that its tiles are drawn for: of isometric ones usually half as high as wide."""
        if self.shape == "isometric":
            return self.foot or (self.tile_width, max(1, self.tile_width // 2))
        return (self.shape != "square" and self.foot) or (self.tile_width, self.tile_height)

    @property
    def outline(self) -> Outline:
        """What part of its box a cell is that its tiles are drawn for."""
        return OUTLINES[self.shape]

    @property
    def is_hexagon(self) -> bool:
        """Whether its tiles are drawn for hexagons."""
        return self.outline in ("pointed", "lying")

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


def region_of(cut: Cut, width: int, height: int) -> Rect:
    """The part of a picture that a cut lies on."""
    return cut.region or Rect(0, 0, width, height)


def parts_over(cut: Cut, cuts: Sequence[Cut]) -> tuple[Rect, ...]:
    """The parts of the picture that other cuts of a sheet take from one: those that are smaller than its own."""
    size = cut.region.width * cut.region.height if cut.region else None
    regions = (other.region for other in cuts if other.id != cut.id and other.region is not None)
    return tuple(part for part in regions if size is None or part.width * part.height < size)


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
    if cut.pieces:
        return CutGrid(len(cut.pieces), 1, 0, 0)
    region = region_of(cut, width, height)
    # A picture that was made smaller may end inside the region; what is left of it counts.
    wide, high = min(region.width, width - region.x), min(region.height, height - region.y)
    if wide < 1 or high < 1:
        place = f"{region.x}, {region.y}"
        raise BadSheet(f"The part at {place} lies beyond the picture of {width} x {height} pixels; move it.")
    columns, left_x = _fit(wide, cut.tile_width, cut.margin_x, cut.spacing_x, "width", "x")
    rows, left_y = _fit(high, cut.tile_height, cut.margin_y, cut.spacing_y, "height", "y")
    return CutGrid(columns, rows, left_x, left_y)


def tile_rect(cut: Cut, column: int, row: int) -> Rect:
    """Where a tile lies on the picture, in pixels."""
    if cut.pieces:
        return cut.pieces[column]
    left, top = (cut.region.x, cut.region.y) if cut.region else (0, 0)
    return Rect(
        left + cut.margin_x + column * cut.pitch_x,
        top + cut.margin_y + row * cut.pitch_y,
        cut.tile_width,
        cut.tile_height,
    )


def tile_rects(cut: Cut, cells: NDArray[np.intp]) -> NDArray[np.intp]:
    """Where some tiles lie on the picture, in pixels.

    Parameters
    ----------
    cells : (N, 2) intp
        Column and row of each.

    Returns
    -------
    rects : (N, 4) intp
        Left, top, width and height.
    """
    if cut.pieces:
        return np.array(cut.pieces, dtype=np.intp)[cells[:, 0]]
    first = np.array(tile_rect(cut, 0, 0), dtype=np.intp)
    return first + np.pad(cells * (cut.pitch_x, cut.pitch_y), ((0, 0), (0, 2)))


def tile_at(cut: Cut, grid: CutGrid, x: float, y: float) -> tuple[int, int] | None:
    """Column and row of the tile under a point of the picture; None on margin, spacing or left-overs."""
    if cut.pieces:
        under = [
            (piece.width * piece.height, number)
            for number, piece in enumerate(cut.pieces)
            if piece.x <= x < piece.x + piece.width and piece.y <= y < piece.y + piece.height
        ]
        return (min(under)[1], 0) if under else None
    left, top, _, _ = tile_rect(cut, 0, 0)
    column, inside_x = divmod(x - left, cut.pitch_x)
    row, inside_y = divmod(y - top, cut.pitch_y)
    on_tile = inside_x < cut.tile_width and inside_y < cut.tile_height
    if on_tile and 0 <= column < grid.columns and 0 <= row < grid.rows:
        return int(column), int(row)
    return None


def tile_size(cut: Cut, column: int, row: int) -> tuple[int, int]:
    """Width and height of a tile, in pixels."""
    rect = tile_rect(cut, column, row)
    return rect.width, rect.height


def stands_at(cut: Cut, tile: tuple[int, int], cell: tuple[int, int], orientation: int = 0) -> tuple[int, int]:
    """Where the left top pixel of a tile comes to lie, seen from that of its cell.

    Parameters
    ----------
    cut : Cut
    tile, cell : (int, int)
        Width and height in pixels. Without an anchor a tile stands in the left bottom corner.
    orientation : int
        How the tile is turned and mirrored; an isometric one turns about the middle of its foot.
    """
    if orientation in _HALF_WAYS and cut.shape == "isometric":
        (left, top), (in_left, in_top, wide, high) = stands_at(cut, tile, cell), foot_in(cut, tile)
        sides, ends = _HALF_WAYS[orientation]
        return left - sides * (tile[0] - 2 * in_left - wide), top - ends * (tile[1] - 2 * in_top - high)
    anchor = cut.anchor or "bottom-left"
    across = 0.0 if "left" in anchor else 1.0 if "right" in anchor else 0.5
    down = 0.0 if "top" in anchor else 1.0 if "bottom" in anchor else 0.5
    return (
        int((cell[0] - tile[0]) * across // 1) + cut.offset_x,
        int((cell[1] - tile[1]) * down // 1) + cut.offset_y,
    )


def foot_in(cut: Cut, tile: tuple[int, int]) -> tuple[int, int, int, int]:
    """Where in a tile the cell lies that it is drawn for: the diamond of an isometric one.

    Parameters
    ----------
    cut : Cut
    tile : (int, int)
        Width and height of the tile in pixels.

    Returns
    -------
    left, top, width, height : int
        It may reach beyond the tile.
    """
    left, top = stands_at(cut, tile, cut.footprint)
    return -left, -top, *cut.footprint


def slice_tiles(picture: NDArray[np.uint8], cut: Cut) -> NDArray[np.uint8]:
    """All cells of a grid, without copying a pixel.

    Parameters
    ----------
    picture : (H, W, C) uint8
        RGBA with straight alpha, or any other number of channels.
    cut : Cut
        One without loose pieces.

    Returns
    -------
    tiles : (rows, columns, tile_height, tile_width, C) uint8
        A read-only view of `picture`.

    Raises
    ------
    BadSheet
        As `grid_of`.
    """
    grid = grid_of(cut, picture.shape[1], picture.shape[0])
    left, top, _, _ = tile_rect(cut, 0, 0)
    start = picture[top:, left:]
    line, dot, channel = start.strides
    return np.lib.stride_tricks.as_strided(
        start,
        shape=(grid.rows, grid.columns, cut.tile_height, cut.tile_width, picture.shape[2]),
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
