"""How well tiles go on into one another over their borders, told from their pixels alone."""

from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.joins.look import seen_colours
from knitground.core.sheet.cut import TileShape

_ALONG = 0.7
"""Spread in pixels along a border over which colours are averaged: an eye does so with grain."""
_UNSEEN = 0.02
"""Distance of colours below which no eye sees a step."""
_LEAST_ROUGH = 0.004
_NEAR = 4
"""How many columns from a border tell how rough a tile is there."""

Floats = NDArray[np.float64]


class Steps(NamedTuple):
    """How far the colours of K tiles step where the second lies east, or south, of the first: (K, K) float64 each.

    1 is as much as neighbours inside the two tiles differ; 0 what no eye sees.
    """

    east: Floats
    south: Floats


def steps_between(tiles: NDArray[np.uint8], shape: TileShape) -> Steps:
    """Compares the borders of tiles, each with each.

    Parameters
    ----------
    tiles : (K, h, w, 4) uint8
        Straight alpha.
    shape : TileShape

    Returns
    -------
    steps : Steps
    """
    seen = seen_colours(tiles, shape)
    return Steps(_steps(seen), _steps(seen.swapaxes(1, 2)))


def _steps(seen: Floats) -> Floats:
    """The steps from the last columns of tiles to the first of others, (K, K) float64.

    Parameters
    ----------
    seen : (K, h, w, 4) float64
    """
    smooth = scipy.ndimage.gaussian_filter1d(seen, _ALONG, axis=1, mode="nearest")
    last, first = smooth[:, :, -1], smooth[:, :, 0]
    apart = np.stack([np.linalg.norm(one[None] - first, axis=-1).mean(axis=1) for one in last])
    inside = np.linalg.norm(np.diff(smooth, axis=2), axis=-1).mean(axis=1)
    if not inside.size:
        return np.where(apart < _UNSEEN, 0.0, apart / _UNSEEN)
    behind, before = np.median(inside[:, -_NEAR:], axis=1), np.median(inside[:, :_NEAR], axis=1)
    rough = np.maximum(np.maximum(behind[:, None], before), max(float(np.median(inside)), _LEAST_ROUGH))
    return np.where(apart < _UNSEEN, 0.0, apart / rough)
