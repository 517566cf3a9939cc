"""More of a drawn map: a picture cut in tiles is the example, and a picture comes out."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRecipe
from knitground.core.grow.fitting import MOST_CELLS, Progress
from knitground.core.grow.learning import Example, Used, more_or_advice, turns_of, usage
from knitground.core.tiles.alike import different
from knitground.core.tiles.tile import orient, orientations_of

MOST_PIXELS = 2**28


class InTiles(NamedTuple):
    """A picture as codes of different tiles.

    Attributes
    ----------
    codes : (H, W) int32
    tiles : (C, h, w, 4) uint8
    turned : (8, C) int32
        The code of each tile in each orientation, -1 in those that were not asked for.
    """

    codes: NDArray[np.int32]
    tiles: NDArray[np.uint8]
    turned: NDArray[np.int32]


class More(NamedTuple):
    """What was made, and how it used the example.

    Attributes
    ----------
    pixels : (H, W, 4) uint8
    tiles : int
        How many different ones the example has.
    usage : list of Used
        The tiles that came much more or less often than in it.
    places : (C, 2) int64
        Row and column at which each tile first lies in the example.
    """

    pixels: NDArray[np.uint8]
    tiles: int
    usage: list[Used]
    places: NDArray[np.int64]


def in_tiles(picture: NDArray[np.uint8], width: int, height: int, *, turns: bool = False) -> InTiles:
    """Cuts a picture in tiles of one size and tells the different ones apart.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        Straight alpha.
    width, height : int
        Of a tile, in pixels.
    turns : bool
        Whether turned and mirrored tiles are told too; such as are not square are not turned by a quarter.

    Raises
    ------
    BadRecipe
        If the picture is no whole number of tiles wide and high.
    """
    rows, columns = picture.shape[0] // height, picture.shape[1] // width
    if not rows * columns or picture.shape[:2] != (rows * height, columns * width):
        raise BadRecipe(
            f"The picture is {picture.shape[1]} x {picture.shape[0]} pixels, which is no whole number of tiles of "
            f"{width} x {height}; crop it, or give another --tile."
        )
    found, which = different(picture, width, height)
    tiles = list(found)
    looks = {tile.tobytes(): number for number, tile in enumerate(tiles)}

    def code(tile: NDArray[np.uint8]) -> int:
        """The code of a tile, a new one for one that was not seen before.

        Parameters
        ----------
        tile : (height, width, 4) uint8
        """
        look = tile.tobytes()
        if look not in looks:
            looks[look] = len(tiles)
            tiles.append(tile)
        return looks[look]

    orientations = orientations_of(width, height) if turns else (0,)
    turned = np.full((8, len(found)), -1, dtype=np.int32)
    for number, tile in enumerate(found):
        for orientation in orientations:
            turned[orientation, number] = code(np.ascontiguousarray(orient(tile, orientation)))
    return InTiles(which.astype(np.int32), np.array(tiles), turned)


def more_of_picture(
    picture: NDArray[np.uint8], tile: tuple[int, int], columns: int, rows: int, seed: int, *, size: int = 1,
    turns: bool = False, wraps: bool = False, progress: Progress = lambda share: None,
) -> More:  # fmt: skip
    """A larger picture of which every two tiles side by side, or every block of tiles, lies so in the example.

    Parameters
    ----------
    picture : (H, W, 4) uint8
    tile : (int, int)
        Width and height of a tile, in pixels.
    columns, rows : int
        Of what is made, in tiles.
    seed : int
    size : int
        1 for tiles side by side, 2 or 3 for blocks of so many rows and columns.
    turns, wraps : bool
        Whether the example also counts turned and mirrored; whether what is made goes on at its other side.

    Raises
    ------
    BadRecipe
        If the example or what is asked for is too large or too small, or if no way was found.
    """
    if columns * rows > MOST_CELLS or columns * rows * tile[0] * tile[1] > MOST_PIXELS:
        raise BadRecipe(f"{columns} x {rows} tiles are too many for one picture; ask for fewer.")
    cut = in_tiles(picture, *tile, turns=turns)

    def turned() -> list[Example]:
        return list(turns_of(*in_tiles(picture, *tile, turns=True)[::2]))

    examples = list(turns_of(cut.codes, cut.turned)) if turns else [cut.codes]
    made = more_or_advice(
        examples, size, rows, columns, seed, wraps=wraps, turned=None if turns else turned, progress=progress
    )
    pixels = cut.tiles[made].swapaxes(1, 2).reshape(rows * tile[1], columns * tile[0], 4)
    # The codes of the example come before those of tiles that are only seen turned.
    first = np.unique(cut.codes, return_index=True)[1]
    places = np.stack(np.divmod(first, cut.codes.shape[1]), axis=1)
    return More(np.ascontiguousarray(pixels), len(first), usage(cut.codes, made), places)
