"""Shades: multiplying what lies below by colours that are painted on corners and blended between them.

Within a cell the colours of its four corners are blended by fixed shares, the same for every cell of a ground; so all
cells of a view are one product of matrices, laid out as their boxes stand.
"""

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.layers.items import ShadeItems
from knitground.core.layers.layer import Layer
from knitground.core.render.pixels import Pixels
from knitground.core.render.sprites import tint_of

_CORNERS = ((0, 0), (0, 1), (1, 0), (1, 1))
Colours = NDArray[np.float32]


def shade(canvas: Pixels, layer: Layer, items: ShadeItems, small: Projection, area: PixelRect) -> None:
    """Multiplies what lies on a canvas by the colours of a shade layer.

    Parameters
    ----------
    canvas : (height, width, 4) uint8
        The pixels of `area`, premultiplied.
    small : Projection
        At the scale of the pixels.
    """
    cells = small.cells_in(area)
    if cells.is_empty:
        return
    numbers = small.board.around(items.numbers, "corners", _CORNERS, cells)
    if not any(part.any() for part in numbers):
        return
    multiply(canvas, _colours(numbers, (cells.top, cells.left), items, small, area), layer)


def multiply(canvas: Pixels, colours: Colours, layer: Layer) -> None:
    """Multiplies premultiplied pixels by colours, (H, W, 3) in [0, 1], as a layer's tint and opacity say."""
    if tint_of(layer) != (255, 255, 255) or layer.opacity != 1:
        tint = np.array(tint_of(layer), dtype=np.float32) / 255
        colours = np.asarray(1 + (colours * tint - 1) * np.float32(layer.opacity), dtype=np.float32)
    np.multiply(canvas[..., :3], colours, out=colours)
    colours += 0.5
    canvas[..., :3] = colours


def blended(items: ShadeItems, small: Projection, ys: Any, xs: Any) -> Colours | None:
    """Colours of a shade layer at flat places, (H, W, 3), blended between corners; None where there are none."""
    top, left = int(np.floor(ys.min())), int(np.floor(xs.min()))
    bottom, right = int(np.floor(ys.max())) + 2, int(np.floor(xs.max())) + 2
    rows, columns = np.arange(top, bottom + 1), np.arange(left, right + 1)
    numbers, there = small.board.flat_patch(items.numbers, "corners", rows, columns)
    if not numbers.any():
        return None
    corners = items.colours[np.where(there, numbers, 0)]
    y, x = np.floor(ys).astype(np.intp), np.floor(xs).astype(np.intp)
    down, across = (ys - y)[..., None].astype(np.float32), (xs - x)[..., None].astype(np.float32)
    y, x = y - top, x - left
    upper = corners[y, x] * (1 - across) + corners[y, x + 1] * across
    lower = corners[y + 1, x] * (1 - across) + corners[y + 1, x + 1] * across
    return np.asarray(upper * (1 - down) + lower * down, dtype=np.float32)


def _colours(
    numbers: list[NDArray[np.uint8]], first: tuple[int, int], items: ShadeItems, small: Projection, area: PixelRect
) -> Colours:
    """The colours of an area, (height, width, 3), white beside the cells."""
    shares, inside = _shares(small, *first)
    width, height = small.tile_width, small.tile_height
    room = area.grown(width, height, width, height)
    result = np.ones((room.height, room.width, 3), dtype=np.float32)
    strips = small.strips(area)
    rows, columns = (np.concatenate([getattr(one, name) for one in strips]) for name in ("rows", "columns"))
    corners = np.stack([part[rows - first[0], columns - first[1]] for part in numbers])
    # (height, cells, width, 3): the boxes of all strips side by side.
    mixed = np.tensordot(shares, items.colours[corners], axes=(0, 0)).transpose(0, 2, 1, 3)
    done = 0
    for strip in strips:
        count = len(strip.rows)
        here, done = slice(done, done + count), done + count
        x, y = strip.left - room.x, strip.top - room.y
        low, high = max(0, -(x // width)), min(count, (room.width - x) // width)
        if y < 0 or y + height > room.height or high <= low or not corners[:, here].any():
            continue
        x += low * width
        boxes = result[y : y + height, x : x + (high - low) * width].reshape(height, high - low, width, 3)
        np.copyto(boxes, mixed[:, here][:, low:high], where=inside[:, None, :, None])
    return result[area.y - room.y :, area.x - room.x :][: area.height, : area.width].copy()


@lru_cache(maxsize=32)
def _shares(small: Projection, row: int, column: int) -> tuple[Colours, NDArray[np.bool_]]:
    """How much each corner of a cell counts at each pixel of its box, (4, h, w), and which pixels lie in the cell."""
    box = small.box(row, column)
    ys, xs = np.broadcast_arrays(
        *small.place((box.x + np.arange(box.width) + 0.5)[None, :], (box.y + np.arange(box.height) + 0.5)[:, None])
    )
    flat_y, flat_x = small.board.flat("cells", row, column)
    down, across = ys - flat_y, xs - flat_x
    inside = (down >= 0) & (down < 1) & (across >= 0) & (across < 1)
    shares = np.stack([(down if y else 1 - down) * (across if x else 1 - across) for y, x in _CORNERS])
    return shares.astype(np.float32), inside
