"""The plain ground of a sheet on which nothing is clear: what is drawn on it shows as on clear ground without it."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.palettes import Palette

_NEAR = 14.0
"""How far from one another the mean colours of plain tiles lie at most, in each channel."""
_ROUGH = 30.0
"""How far the colours of a plain tile stray from their mean at most."""
_MANY, _PART = 4, 0.12
"""So many plain tiles there are at the least, and such a part of all."""
_SAMPLE = 12
"""So many of them tell the colours of the ground."""
_OTHER = 0.05
"""Up to what share of others' colours they show."""


def without_plain_ground(tiles: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Tiles with their ground made clear, if all are opaque and many of them show nothing else.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.

    Returns
    -------
    tiles : (n, h, w, 4) uint8
        The same array if there is no such ground.
    """
    if not len(tiles) or (tiles[..., 3] < 255).any():
        return tiles
    plain = _plain(tiles)
    if not len(plain):
        return tiles
    ground = Palette(tiles[plain[:: 1 + len(plain) // _SAMPLE]])
    lacks = ground.lacks(tiles)
    shows_it_alone = lacks.mean(axis=(1, 2)) <= _OTHER
    # A ground on which nothing is drawn was told by what is drawn on it.
    if shows_it_alone.sum() < max(_MANY, _PART * len(tiles)) or shows_it_alone.all():
        return tiles
    bare = tiles.copy()
    bare[~lacks] = 0
    return bare


def _plain(tiles: NDArray[np.uint8]) -> NDArray[np.intp]:
    """The largest group of tiles of one colour, evenly grained ones first."""
    means = tiles[..., :3].mean(axis=(1, 2))
    spread = tiles[..., :3].reshape(len(tiles), -1, 3).std(axis=1).max(axis=1)
    order = np.argsort(spread, kind="stable")[: (spread <= _ROUGH).sum()]
    best = np.zeros(0, dtype=np.intp)
    for first in order[: len(order) // 2 + 1].tolist():
        near = np.abs(means - means[first]).max(axis=1) <= _NEAR
        mine = order[(near & (spread <= spread[first] + _NEAR / 2))[order]]
        best = mine if len(mine) > len(best) else best
    return best
