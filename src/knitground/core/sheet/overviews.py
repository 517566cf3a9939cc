"""Pictures among single images that show the others: previews, and sheets of the same tiles."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

_LARGER = 4.0
"""An overview is so many times as large as most images, at the least."""
_LEAST = 3
"""So many others it shows at the least: a hut may be drawn of a wall and a roof that are images, too."""
_PART = 1 / 3
_LOOKED_AT = 36
"""So many of the others are looked for."""
_ENLARGED = (1, 2, 3, 4)
_PATCH = (4, 8)
"""Rows and columns of a piece of an image that is looked for."""
_COLOURS = 2
"""So many colours it holds at the least."""
_PIECES = 20_000
"""So many pieces of an image are weighed, or less than twice as many."""


def overviews(images: Sequence[NDArray[np.uint8]]) -> list[int]:
    """Which of single images are overviews: much larger than most, and showing several of them pixel by pixel.

    Parameters
    ----------
    images : sequence of (h, w, 4) uint8
        RGBA, straight alpha.

    Returns
    -------
    which : list of int
        Places in the sequence. A picture that is opaque to its corners shows `_LEAST` others, one that isn't a third
        of them: what stands in a picture may well be drawn of other images.
    """
    areas = [image.shape[0] * image.shape[1] for image in images]
    if len(images) <= _LEAST:
        return []
    usual = float(np.median(areas))
    large = [at for at, area in enumerate(areas) if area >= _LARGER * usual]
    small = [at for at, area in enumerate(areas) if area < _LARGER * usual]
    step = max(1, len(small) // _LOOKED_AT)
    found = {patches[0].tobytes(): patches for at in small[::step] if (patches := _patches(images[at]))}
    return [at for at in large if _shows_enough(images[at], list(found.values()))]


def _shows_enough(image: NDArray[np.uint8], others: Sequence[Sequence[NDArray[np.uint32]]]) -> bool:
    corners = image[[0, 0, -1, -1], [0, -1, 0, -1], 3]
    least = _LEAST if (corners == 255).all() else max(_LEAST, _PART * len(others))
    pixels = _packed(image)

    def shown(times: int) -> int:
        return sum(any(_is_in(pixels, patch, times) for patch in patches) for patches in others)

    return len(others) >= least and max(map(shown, _ENLARGED)) >= least


def _packed(image: NDArray[np.uint8]) -> NDArray[np.uint32]:
    return np.ascontiguousarray(image).view(np.uint32)[..., 0]


def _patches(image: NDArray[np.uint8]) -> list[NDArray[np.uint32]]:
    """Opaque pieces of an image, (rows, columns) packed: the one with most colours of its upper, middle, lower third.

    What stands before a tile hides a part of it. Pieces that nothing tells from a fill are left out.
    """
    height, width = _PATCH
    if image.shape[0] < height or image.shape[1] < width:
        return []
    views = np.lib.stride_tricks.sliding_window_view(_packed(image), _PATCH)
    opaque = np.lib.stride_tricks.sliding_window_view(image[..., 3] == 255, _PATCH).all((2, 3))
    rows, columns = np.nonzero(opaque)
    if rows.size == 0:
        return []
    few = slice(None, None, 1 + rows.size // _PIECES)
    rows, columns = rows[few], columns[few]
    ordered = np.sort(views[rows, columns].reshape(rows.size, -1), axis=1)
    colours = 1 + (np.diff(ordered, axis=1) != 0).sum(1)
    third = (rows - rows[0]) * 3 // (rows[-1] - rows[0] + 1)
    best = [int(np.where(third == part, colours, 0).argmax()) for part in range(3)]
    return [views[rows[at], columns[at]].copy() for at in best if colours[at] >= _COLOURS]


def _is_in(pixels: NDArray[np.uint32], patch: NDArray[np.uint32], times: int) -> bool:
    height, width = ((side - 1) * times + 1 for side in patch.shape)
    if pixels.shape[0] < height or pixels.shape[1] < width:
        return False
    rows, columns = np.nonzero(pixels[: pixels.shape[0] - height + 1, : pixels.shape[1] - width + 1] == patch[0, 0])
    for (row, column), value in np.ndenumerate(patch):
        stay = pixels[rows + row * times, columns + column * times] == value
        rows, columns = rows[stay], columns[stay]
    return bool(rows.size)
