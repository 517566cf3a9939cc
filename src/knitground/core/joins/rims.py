"""Reading labels for cell sets off art on clear ground: where it runs to a side of its tile, it goes on there.

Such tiles are mostly pieces of one drawn block. What rims it, moss or snow on top and ragged sides, may leave most of a
tile clear; but only where the block ends does the art draw back from the tile's side, by a pixel or two.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import Floats

_SOLID, _LEAST_ART, _LEAST_CLEAR = 128, 0.04, 0.01
_ALONG, _IN_DOUBT, _WHOLE = 0.77, 0.2, 0.95
"""From what share of the art on a side goes on there, how far from it that is sure, and what leaves no doubt."""
_DEEP, _CORNER = 16, 8
"""What part of a tile's side is looked at along it, and at a corner."""


class Rims(NamedTuple):
    """What was read: labels, (n, 9) with 1 where the art goes on and 0 elsewhere, and how clear each tile is, (n,)."""

    labels: NDArray[np.intp]
    sure: Floats


def read_rims(tiles: NDArray[np.uint8]) -> Rims | None:
    """Labels for a cell set, corners and edges clockwise and the middle; None where no area stands on clear ground.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Square ones, straight alpha.
    """
    solid = tiles[..., 3] >= _SOLID
    held = solid.mean(axis=(1, 2)) >= _LEAST_ART
    if not held.any() or (~solid[held]).mean() < _LEAST_CLEAR:
        return None
    sides = np.stack([_share_along(np.rot90(solid, turns, axes=(1, 2))) for turns in range(4)], axis=1)
    goes_on = sides >= _ALONG
    if not goes_on.all(axis=1).any():
        return None  # lines, or things by themselves
    corners = np.stack([_at_corner(np.rot90(solid, turns, axes=(1, 2))) for turns in range(4)], axis=1)
    corners &= goes_on & np.roll(goes_on, 1, axis=1)
    sure = np.clip(np.abs(sides - _ALONG) / _IN_DOUBT, 0, 1).min(axis=1)
    labels = np.concatenate([corners, goes_on, held[:, None]], axis=1).astype(np.intp)
    # Where no block ends there is nothing to tell from it.
    return None if labels.all() else Rims(labels, sure)


def _share_along(solid: NDArray[np.bool_]) -> Floats:
    """How much of what a tile's art is wide goes on over its first row, (n,); 0 where there is none."""
    deep, wide = max(1, solid.shape[1] // _DEEP), solid.shape[2]
    # Of what lies low at the far side there is as much to go on as of what fills the tile.
    behind = solid.mean(axis=1) >= _LEAST_ART
    along = solid[:, :deep].mean(axis=1) * behind
    # Nooks at the corners say nothing of a side that is whole between them.
    between = np.asarray(along[:, wide // 4 : wide - wide // 4].mean(axis=1))
    share = along.sum(axis=1) / np.maximum(behind.sum(axis=1), 1)
    return np.where(between >= _WHOLE, between, share)


def _at_corner(solid: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Whether the first corner of a tile is filled, (n,)."""
    high, wide = max(1, solid.shape[1] // _CORNER), max(1, solid.shape[2] // _CORNER)
    filled: NDArray[np.bool_] = solid[:, :high, :wide].mean(axis=(1, 2)) >= 0.5
    return filled
