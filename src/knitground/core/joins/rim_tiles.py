"""Telling that tiles with bare sides are of a block: variants of its rims, and thin ones.

A row or a column of ground a tile wide, and ground a tile large, are drawn like the rims of the block on both sides. So
each quarter of a tile is held against the same quarter of the block's tiles that end where it does.
"""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import Floats
from knitground.core.joins.palettes import Palette
from knitground.core.joins.variants import Matched

_COARSE = 3
"""On how many by how many places a quarter is compared: rims and shades count, not single stones."""
_ALIKE, _MUCH_ALIKE = 25.0, 10.0
"""How far quarters may lie apart on the mean, of 255: of thin tiles, and of those that the block has already."""
_OWN = 0.85
"""What share of a tile's art has colours of its block."""


def read_rim_tiles(
    tiles: NDArray[np.uint8],
    rims: NDArray[np.intp],
    mine: NDArray[np.intp],
    labels: NDArray[np.intp],
    among: NDArray[np.intp],
) -> Matched:
    """Which tiles belong to the rims of a block, also those that end on opposite sides as none of its own do.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    rims : (n, 9) intp
        What they show: corners and edges clockwise and the middle, with 1 where the art goes on.
    mine, labels : (m,) intp, (m, 9) intp
        The tiles of the block, and their labels.
    among : (k,) intp
        The tiles to be told.

    Returns
    -------
    found : Matched
        How far they lie apart goes up to 1.
    """
    places = _coarse(tiles)
    ends = rims[among, 4:8] == 0
    thin = (ends[:, 0] & ends[:, 2]) | (ends[:, 1] & ends[:, 3])
    worst = np.where(ends.any(axis=1), 0.0, np.inf)
    worst[rims[among, 8] == 0] = np.inf
    for quarter, (along, across) in enumerate(((0, 3), (0, 1), (2, 1), (2, 3))):
        there = places[:, quarter]
        nearest = np.full(len(among), np.inf)
        for goes_on in ((0, 0), (0, 1), (1, 0), (1, 1)):
            wanted = rims[among][:, (4 + along, 4 + across)] == goes_on
            known = np.column_stack([labels[:, (4 + along, 4 + across)] == goes_on, labels[:, quarter] == min(goes_on)])
            alike, asked = mine[known.all(axis=1)], np.flatnonzero(wanted.all(axis=1))
            if len(alike) and len(asked):
                apart = np.abs(there[among[asked]][:, None] - there[alike][None]).mean(axis=(2, 3))
                nearest[asked] = apart.min(axis=1)
        worst = np.maximum(worst, nearest)
    apart = worst / np.where(thin, _ALIKE, _MUCH_ALIKE)
    asked = np.flatnonzero(apart <= 1)
    apart[asked[_own_colours(tiles[among[asked]], tiles[mine]) < _OWN]] = np.inf
    return Matched(rims[among], np.where(apart <= 1, apart, np.inf))


def _own_colours(tiles: NDArray[np.uint8], block: NDArray[np.uint8]) -> Floats:
    """What share of the art of tiles, (n, h, w, 4), has colours that a block has, too, or nearly; (n,)."""
    lacks = Palette(block).lacks(tiles)
    return np.asarray((~lacks).sum(axis=(1, 2)) / (tiles[..., 3] > 0).sum(axis=(1, 2)))


def _coarse(tiles: NDArray[np.uint8]) -> Floats:
    """The four quarters of tiles clockwise, from afar: (n, 4, places, 4), alpha taken into the colours."""
    seen = tiles.astype(np.float64)
    seen[..., :3] *= seen[..., 3:] / 255
    for axis in (1, 2):
        borders = np.linspace(0, seen.shape[axis], 2 * _COARSE + 1).round().astype(int)
        parts = [seen.take(range(begin, max(begin + 1, end)), axis) for begin, end in pairwise(borders)]
        seen = np.stack([part.mean(axis=axis) for part in parts], axis=axis)
    first, last = slice(0, _COARSE), slice(_COARSE, None)
    quarters = [
        seen[:, rows, columns] for rows, columns in ((first, first), (first, last), (last, last), (last, first))
    ]
    return np.stack([one.reshape(len(tiles), -1, 4) for one in quarters], axis=1)
