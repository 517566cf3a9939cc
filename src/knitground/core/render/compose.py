"""Laying layers of tiles over one another."""

from collections.abc import Callable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.ground.layers import Ground
from knitground.core.ground.window import Window
from knitground.core.render.atlas import Atlas, Pixels, Reach, straight
from knitground.core.tiles.tile import EMPTY, NUMBER_MASK

MOST_PIXELS = 2**28
_BAND_PIXELS = 2**22

Codes = Callable[[str, Window], NDArray[np.int32]]
"""Gives the cell codes of a window of a layer."""


def compose(layers: Sequence[NDArray[np.int32]], atlas: Atlas, level: int = 0) -> Pixels:
    """Pixels of some layers over one another.

    Parameters
    ----------
    layers : sequence of (H, W) int32
        Cell codes, the lowest layer first; all of one shape.
    atlas : Atlas
    level : int
        Reduces tiles to 1 / 2**level of their size, down to one pixel.

    Returns
    -------
    pixels : (H * tile_height, W * tile_width, 4) uint8
        RGBA, premultiplied alpha.
    """
    return _composed([atlas.slots(codes) for codes in layers], atlas, level)


def compose_whole(
    codes: Codes, layer_ids: Sequence[str], atlas: Atlas, ground: Window, window: Window, level: int = 0
) -> Pixels:
    """Pixels of a window of a ground, with tiles that reach into it from cells beside it.

    Layer by layer, what fits its cell is laid first, then what is larger, row by row from the top. Larger tiles are
    laid in pieces of a cell each, all pieces that lie equally far from their tile's cell at once.

    Parameters
    ----------
    ground : Window
        All cells there are.

    Returns
    -------
    pixels : (height * tile_height, width * tile_width, 4) uint8
        RGBA, premultiplied alpha.
    """
    if not any(atlas.reach) or not layer_ids:
        blank = np.zeros((window.height, window.width), dtype=np.int32)
        return compose([codes(layer_id, window) for layer_id in layer_ids] or [blank], atlas, level)
    around = grown(window, atlas.reach)
    inside = around.clipped(ground.height, ground.width)
    inner = Window(window.top - around.top, window.left - around.left, window.height, window.width)
    laid: list[NDArray[np.intp]] = []
    for layer_id in layer_ids:
        layer = np.zeros((around.height, around.width), dtype=np.int32)
        top, left = inside.top - around.top, inside.left - around.left
        layer[top : top + inside.height, left : left + inside.width] = codes(layer_id, inside)
        large = np.isin(layer & NUMBER_MASK, atlas.large) & (layer > 0)
        laid.append(atlas.slots(np.where(large, EMPTY, layer)[inner.rows, inner.columns]))
        if large.any():
            for down, right, slots in atlas.pieces(np.where(large, layer, EMPTY)):
                shown = inner._replace(top=inner.top - down, left=inner.left - right)
                laid.append(slots[shown.rows, shown.columns])
    return _composed(laid, atlas, level)


def grown(window: Window, reach: Reach) -> Window:
    """A window with all cells from which tiles may reach into it."""
    return Window(
        window.top - reach.bottom, window.left - reach.right,
        window.height + reach.bottom + reach.top, window.width + reach.right + reach.left,
    )  # fmt: skip


def compose_overview(codes: Codes, layer_ids: Sequence[str], atlas: Atlas, window: Window, step: int) -> Pixels:
    """Pixels of a window from afar, one for each step x step cells.

    Each pixel is the average of up to four cells spread over its square, so the cost follows the pixels and not
    the cells.

    Parameters
    ----------
    step : int
        2 or more cells; the window's height and width are rounded up to whole steps.

    Returns
    -------
    pixels : (ceil(height / step), ceil(width / step), 4) uint8
        RGBA, premultiplied alpha.
    """
    half = step // 2
    layers = [codes(layer_id, window)[half // 2 :: half, half // 2 :: half] for layer_id in layer_ids]
    fine = compose(layers, atlas, level=max(atlas.tile_width, atlas.tile_height).bit_length())
    padded = np.pad(fine, ((0, fine.shape[0] % 2), (0, fine.shape[1] % 2), (0, 0)), mode="edge").astype(np.uint16)
    total = padded[::2, ::2] + padded[1::2, ::2] + padded[::2, 1::2] + padded[1::2, 1::2]
    return np.asarray((total + 2) // 4, dtype=np.uint8)


def picture_bands(codes: Codes, ground: Ground, layer_ids: Sequence[str], atlas: Atlas) -> Iterator[tuple[int, Pixels]]:
    """The whole ground in full size, as (first pixel row, straight RGBA pixels) from the top down.

    Gaps stay transparent: their mark is for the eye at work, not for a delivered picture.
    """
    pixels_per_row = ground.width * ground.tile_width * ground.tile_height
    band = max(1, _BAND_PIXELS // pixels_per_row)
    whole = Window(0, 0, ground.height, ground.width)
    for top in range(0, ground.height, band):
        window = Window(top, 0, min(band, ground.height - top), ground.width)
        drawn = compose_whole(
            lambda layer_id, part: np.maximum(codes(layer_id, part), EMPTY), layer_ids, atlas, whole, window
        )
        yield top * ground.tile_height, straight(drawn)


def whole_picture(
    codes: Codes,
    ground: Ground,
    layer_ids: Sequence[str],
    atlas: Atlas,
    progress: Callable[[float], None] = lambda share: None,
) -> Pixels:
    """The whole ground in full size.

    Returns
    -------
    pixels : (height * tile_height, width * tile_width, 4) uint8
        RGBA, straight alpha.

    Raises
    ------
    BadRequest
        If the picture would be too large to hold.
    """
    height, width = ground.height * ground.tile_height, ground.width * ground.tile_width
    if height * width > MOST_PIXELS:
        raise BadRequest(
            f"{ground.name} would be a picture of {width} x {height} pixels, and {MOST_PIXELS >> 20} megapixels is the "
            "most; deliver it as JSON instead, or make the ground smaller."
        )
    picture = np.empty((height, width, 4), dtype=np.uint8)
    for top, pixels in picture_bands(codes, ground, layer_ids, atlas):
        picture[top : top + len(pixels)] = pixels
        progress((top + len(pixels)) / height)
    return picture


def _composed(layers: Sequence[NDArray[np.intp]], atlas: Atlas, level: int) -> Pixels:
    """Pixels of layers of the atlas's slots, (H, W) each, over one another."""
    height, width = layers[0].shape
    tiles = atlas.pixels(level)
    result = tiles[layers[0].ravel()]
    for layer in layers[1:]:
        slots = layer.ravel()
        laid = np.flatnonzero(slots)
        if laid.size:
            result[laid] = _over(tiles[slots[laid]], result[laid])
    down, across = tiles.shape[1:3]
    return result.reshape(height, width, down, across, 4).swapaxes(1, 2).reshape(height * down, width * across, 4)


def _over(above: Pixels, below: Pixels) -> Pixels:
    """Premultiplied `above` laid over `below`; division by 255 as in J. Blinn, "Three wrongs make a right" (1995)."""
    through = below * (np.uint16(255) - above[..., 3:]) + np.uint16(128)
    through += through >> np.uint16(8)
    return np.asarray(above + (through >> np.uint16(8)), dtype=np.uint8)
