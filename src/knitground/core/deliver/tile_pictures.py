"""The pictures of the tiles that a delivery uses, in cells of one size; each tile has the room that the largest needs.

With an edge, the outermost pixels of every cell are drawn once more round it, so that neighbours never bleed into one
another where a game samples between pixels.
"""

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.render.atlas import Atlas
from knitground.core.render.compositor import MOST_PIXELS
from knitground.core.render.pixels import Pixels, straight


class Room(NamedTuple):
    """How large the cells of the pictures are, and where in them the map's cell begins."""

    cell_width: int
    cell_height: int
    origin_x: int
    origin_y: int


class TilePictures:
    """Tiles by their cell codes, numbered from 1, on pictures of at most so many pixels a side.

    Parameters
    ----------
    atlas : Atlas
    used : (N,) int32
        Cell codes, sorted.
    edge : int
        Pixels drawn once more round every cell.
    side : int
        The longest side of a picture, where one is not large enough; 0 for one picture of any size.

    Raises
    ------
    BadRequest
        If the pictures would be too large.
    """

    def __init__(self, atlas: Atlas, used: NDArray[np.int32], edge: int = 0, side: int = 0) -> None:
        self._atlas, self.used, self.edge = atlas, used, edge
        self.room = _room(atlas, used)
        wide, high = self.room.cell_width + 2 * edge, self.room.cell_height + 2 * edge
        self.columns = max(1, math.ceil(math.sqrt(len(used))))
        self.rows = max(1, math.ceil(len(used) / self.columns))
        if side and max(self.columns * wide, self.rows * high) > side:
            self.columns, self.rows = max(1, side // wide), max(1, side // high)
        self.pages = max(1, math.ceil(len(used) / (self.columns * self.rows)))
        width, height = self.columns * wide, self.rows * high
        if height * width > MOST_PIXELS or self.pages * height * width > 4 * MOST_PIXELS:
            raise BadRequest(
                f"The tileset would be a picture of {width} x {height} pixels, and {MOST_PIXELS >> 20} megapixels is "
                "the most; lay fewer large tiles, or cut their sheet smaller."
            )

    def number(self, code: int) -> int:
        """The number of a tile, from 1."""
        return int(np.searchsorted(self.used, code)) + 1

    def cell(self, number: int) -> tuple[int, int, int]:
        """The picture on which a tile lies, and where its cell begins there: x and y, without the edge."""
        page, place = divmod(number - 1, self.columns * self.rows)
        row, column = divmod(place, self.columns)
        wide, high = self.room.cell_width + 2 * self.edge, self.room.cell_height + 2 * self.edge
        return page, column * wide + self.edge, row * high + self.edge

    def sprite(self, code: int) -> tuple[int, list[int]]:
        """The picture on which a tile's pixels lie, and where: x, y, width and height."""
        page, x, y = self.cell(self.number(code))
        pixels, left, top = self._atlas.sprite(code)
        return page, [x + self.room.origin_x + left, y + self.room.origin_y + top, pixels.shape[1], pixels.shape[0]]

    def is_large(self, code: int) -> bool:
        """Whether a tile reaches beyond its map's cell."""
        pixels, left, top = self._atlas.sprite(code)
        inside = left >= 0 and top >= 0 and left + pixels.shape[1] <= self._atlas.tile_width
        return not (inside and top + pixels.shape[0] <= self._atlas.tile_height)

    def fills_its_cell(self, code: int) -> bool:
        """Whether a tile takes just the box of its map's cell."""
        pixels, left, top = self._atlas.sprite(code)
        return (left, top, *pixels.shape[:2]) == (0, 0, self._atlas.tile_height, self._atlas.tile_width)

    def drawn(self) -> Iterator[Pixels]:
        """The pictures one after another, (H, W, 4) uint8 with straight alpha.

        Yields
        ------
        picture : (H, W, 4) uint8
            Straight alpha.
        """
        room, edge, each = self.room, self.edge, self.columns * self.rows
        for page in range(self.pages):
            mine = self.used[page * each : (page + 1) * each].tolist()
            rows = self.rows if self.pages > 1 else max(1, math.ceil(len(mine) / self.columns))
            height, width = rows * (room.cell_height + 2 * edge), self.columns * (room.cell_width + 2 * edge)
            picture = np.zeros((height, width, 4), dtype=np.uint8)
            for code in mine:
                _, x, y = self.cell(self.number(code))
                cell = np.zeros((room.cell_height, room.cell_width, 4), dtype=np.uint8)
                sprite, left, top = self._atlas.sprite(code)
                top, left = top + room.origin_y, left + room.origin_x
                cell[top : top + sprite.shape[0], left : left + sprite.shape[1]] = straight(sprite)
                picture[y - edge : y + room.cell_height + edge, x - edge : x + room.cell_width + edge] = np.pad(
                    cell, ((edge, edge), (edge, edge), (0, 0)), mode="edge"
                )
            yield picture


def _room(atlas: Atlas, used: NDArray[np.int32]) -> Room:
    left = top = right = bottom = 0
    for code in used.tolist():
        sprite, x, y = atlas.sprite(code)
        left, top = max(left, -x), max(top, -y)
        right = max(right, x + sprite.shape[1] - atlas.tile_width)
        bottom = max(bottom, y + sprite.shape[0] - atlas.tile_height)
    return Room(atlas.tile_width + left + right, atlas.tile_height + top + bottom, left, top)
