"""What fills the gutters of a sheet: a colour that means nothing is there, if tiles stand on it, too."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.cut import Cut, tile_rect
from knitground.core.sheet.slices import Slices

_NEARLY_ALL = 0.95
_LOOKED_AT = 768


def gutter_colour(pixels: NDArray[np.uint8], cut: Cut) -> str | None:
    """The one opaque colour between and round the tiles of a cut, if a tile has it at all its corners; else None.

    Lines that are ruled between tiles are of one colour, too, but no tile stands on them.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha.
    cut : Cut
    """
    # While a cut is dragged this is asked again and again; what is true of a corner is true of the sheet.
    pixels = pixels[:_LOOKED_AT, :_LOOKED_AT]
    try:
        slices = Slices(pixels, cut, ())
    except BadSheet:
        return None
    beside, corners = np.ones(pixels.shape[:2], dtype=bool), []
    for column, row in slices.cells():
        x, y, width, height = tile_rect(cut, column, row)
        beside[y : y + height, x : x + width] = False
        corners.append(pixels[[y, y, y + height - 1, y + height - 1], [x, x + width - 1, x, x + width - 1]])
    found = pixels[beside]
    if not len(found) or not corners:
        return None
    # Captions and other art may lie across gutters.
    colours, counts = np.unique(np.ascontiguousarray(found).view(np.uint32), return_counts=True)
    most = colours[counts.argmax() : counts.argmax() + 1].view(np.uint8)
    red, green, blue, alpha = (int(part) for part in most)
    share = counts.max() / len(found)
    stands = any((corner == most).all() for corner in corners)
    if alpha < 255 or share < _NEARLY_ALL or not stands:
        return None
    return f"#{red:02x}{green:02x}{blue:02x}"
