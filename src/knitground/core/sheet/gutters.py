"""What fills the gutters of a sheet: a key that means nothing is there, if tiles stand on it, too."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.bared import is_hazy
from knitground.core.sheet.checkered import CHECKER, checker_on
from knitground.core.sheet.cut import Cut, grid_of, tile_rects
from knitground.core.sheet.settled import settled

_NEARLY_ALL = 0.95
_LOOKED_AT = 768


class Corner(NamedTuple):
    """What is looked at of a sheet, (h, w, 4), and whether a checkerboard is drawn in there, or a haze lies on it."""

    seen: NDArray[np.uint8]
    checkered: bool
    hazy: bool


def corner_of(pixels: NDArray[np.uint8]) -> Corner:
    """The corner of a sheet; where colours were kept nearly its ground is made even.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha.
    """
    corner = pixels[:_LOOKED_AT, :_LOOKED_AT]
    return Corner(settled(corner), checker_on(corner) is not None, is_hazy(corner))


def gutter_key(pixels: NDArray[np.uint8], cuts: Sequence[Cut], corner: Corner | None = None) -> str | None:
    """The one opaque colour between and round the tiles of a sheet, if a tile has it at all its corners; else None.

    Where a checkerboard is drawn in, it is that, whatever the cuts are.

    Lines that are ruled between tiles are of one colour, too, but no tile stands on them.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha.
    cuts : sequence of Cut
        All that the sheet has.
    corner : Corner, optional
        `corner_of` the pixels, for who asks often: while a cut is dragged this is asked again and again.
    """
    height, width = pixels.shape[:2]
    # What is true of a corner is true of the sheet.
    seen, checkered, _ = corner_of(pixels) if corner is None else corner
    if checkered:
        return CHECKER
    beside, corners = np.ones(seen.shape[:2], dtype=bool), [np.zeros((0, 4, 4), np.uint8)]
    for cut in cuts:
        try:
            columns, rows, _, _ = grid_of(cut, width, height)
        except BadSheet:
            return None
        cells = np.stack(np.meshgrid(np.arange(columns), np.arange(rows)), axis=-1).reshape(-1, 2)
        for x, y, wide, high in tile_rects(cut, cells).tolist():
            beside[y : y + high, x : x + wide] = False
            tile = seen[y : y + high, x : x + wide]
            if tile.shape[:2] == (high, wide):
                corners.append(tile[[[0, 0, -1, -1]], [[0, -1, 0, -1]]])
    found = seen[beside]
    if not len(found):
        return None
    # Captions and other art may lie across gutters.
    colours, counts = np.unique(np.ascontiguousarray(found).view(np.uint32), return_counts=True)
    most = colours[counts.argmax() : counts.argmax() + 1].view(np.uint8)
    red, green, blue, alpha = (int(part) for part in most)
    stands = (np.concatenate(corners) == most).all(axis=(1, 2)).any()
    if alpha < 255 or counts.max() / len(found) < _NEARLY_ALL or not stands:
        return None
    return f"#{red:02x}{green:02x}{blue:02x}"
