"""Telling isometric tiles from square ones: their foot is a diamond half as high as wide."""

from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.bared import bared
from knitground.core.sheet.cut import Cut, TileShape, foot_in, slice_tiles
from knitground.core.sheet.profile import art_of
from knitground.core.sheet.settled import settled

_SMALLEST = 8
_SPILLED = 0.01
_FILLED = 0.85
_MOST_TILES, _MOST_PIXELS = 512, 2**23


def shape_of(picture: NDArray[np.uint8], cut: Cut) -> TileShape:
    """What shape the tiles of a grid have: isometric if nothing at their foot lies beside its diamond.

    Parameters
    ----------
    picture : (H, W, 4) uint8
    cut : Cut
    """
    high = cut.tile_width // 2
    if cut.pieces or cut.tile_width < _SMALLEST or cut.tile_height < high:
        return "square"
    try:
        alpha = slice_tiles(picture[..., 3:], cut)[..., 0] > 0
    except BadSheet:
        return "square"
    feet = alpha[:, :, cut.tile_height - high :].reshape(-1, high, cut.tile_width)[:_MOST_TILES]
    feet = feet[feet.any(axis=(1, 2))]
    return _shape_of_feet(feet) if len(feet) > 1 else "square"


def fills_diamond(alpha: NDArray[np.uint8]) -> bool:
    """Whether a single image as wide as its art stands on a diamond half as high as it is wide.

    Parameters
    ----------
    alpha : (h, w) uint8
    """
    height, width = alpha.shape
    high = width // 2
    if width < _SMALLEST or height < high:
        return False
    return _shape_of_feet(alpha[None, height - high :] > 0) == "isometric"


class UsualFoot(NamedTuple):
    """What most of some tiles stand on: a shape, and its width and height."""

    shape: TileShape
    cell: tuple[int, int]

    @property
    def says(self) -> str:
        """It in words, to go on after "on"."""
        what = {"hex-pointed": "hexagons with pointed tops", "hex-flat": "hexagons with flat tops"}
        return f"{what.get(self.shape, 'isometric cells')} of {self.cell[0]} x {self.cell[1]} px"


def usual_foot(cuts: Iterable[Cut]) -> UsualFoot | None:
    """What those of some cuts stand on that aren't square: most of those that tell it, if any do; None if none is.

    These are cuts with a foot of their own, and flat ones: what is as high as its foot, give or take a pixel.
    """
    cuts = [cut for cut in cuts if cut.shape != "square"]
    if not cuts:
        return None
    shape = Counter(cut.shape for cut in cuts).most_common(1)[0][0]
    cuts = [cut for cut in cuts if cut.shape == shape]
    told = [cut for cut in cuts if cut.foot is not None or abs(cut.tile_height - cut.footprint[1]) <= 1]
    return UsualFoot(shape, Counter(cut.footprint for cut in told or cuts).most_common(1)[0][0])


def on_foot(tile: NDArray[np.uint8], cut: Cut) -> NDArray[np.uint8]:
    """What of an isometric tile stands on its diamond: the columns of that, down to its lower corner.

    Parameters
    ----------
    tile : (h, w, 4) uint8
    cut : Cut

    Returns
    -------
    tile : (h', w', 4) uint8
        As it is where the cut is not of isometric tiles, or its diamond lies mostly elsewhere. What lies beyond the
        tile is clear.
    """
    if cut.shape != "isometric":
        return tile
    high, wide = tile.shape[:2]
    left, top, width, height = foot_in(cut, (wide, high))
    low, right = top + height, left + width
    below, before, behind = max(0, low - high), max(0, -left), max(0, right - wide)
    if 2 * below > high or 2 * (before + behind) > wide or low < 1:
        return tile
    return np.pad(tile[:low, max(0, left) : max(0, right)], ((0, below), (before, behind), (0, 0)))


def _shape_of_feet(feet: NDArray[np.bool_]) -> TileShape:
    """What shape the lowest parts of some tiles tell, (N, high, width), half as high as wide."""
    high, width = feet.shape[1:]
    rows, columns = np.mgrid[0:high, 0:width] + 0.5
    # One pixel of leeway: artists draw the steps of a diamond in several ways.
    away = np.abs(rows - high / 2) / (high / 2) + np.abs(columns - width / 2) / (width / 2)
    # Only the lower half tells: walls and blocks rise over the upper one.
    lower = rows > high / 2
    beside, within = lower & (away > 1 + 2 / high), lower & (away < 1)
    spilled = feet[:, beside].mean()
    filled = np.median(feet[:, within].mean(axis=1))
    return "isometric" if spilled < _SPILLED and filled > _FILLED else "square"


def usual_extent(tiles: Iterable[NDArray[np.uint8]]) -> tuple[int, int] | None:
    """The width and height that the opaque art of most tiles takes; None where none shows anything.

    Parameters
    ----------
    tiles : iterable of (h, w, 4) uint8
    """
    sizes: Counter[tuple[int, int]] = Counter()
    for tile in tiles:
        solid = tile[..., 3] > 127
        columns, rows = np.flatnonzero(solid.any(axis=0)), np.flatnonzero(solid.any(axis=1))
        if rows.size:
            sizes[int(columns[-1] - columns[0]) + 1, int(rows[-1] - rows[0]) + 1] += 1
    return sizes.most_common(1)[0][0] if sizes else None


def without_ground(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A picture with what is no art made clear, so that shapes show, unless it has clear pixels or is very large.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        Straight alpha.
    """
    if picture.shape[0] * picture.shape[1] > _MOST_PIXELS or not picture[..., 3].all():
        return picture
    picture = bared(picture)
    return np.where(art_of(settled(picture).astype(np.int16))[..., None], picture, 0).astype(np.uint8)
