"""The ground under lines that are drawn on it: it shows in all four corners of their tiles, whatever its grain.

Roads, walls and streams that go on over the middles of a tile's sides leave its corners free. So the tiles on one
ground are told by these, and the ground by its colours there; what has none of them is drawn on it.
"""

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.joins.palettes import Palette

_CORNER, _LEAST = 6, 2
"""What part of a tile's side is looked at in each corner, and how many pixels at the least."""
_NEAR, _GRAINED = 14.0, 3.0
"""How far apart the mean colours of one ground lie at most, and by how many times as far as its grain alone may do."""
_OTHER = 0.15
"""What share of its corners may show other colours than the ground on which a tile is drawn."""
_FEW = 3
"""How few tiles of one ground show no line."""
_SPECK = 0.03
"""Up to what share of a tile a patch of other colours belongs to the ground's grain."""


def without_ground(tiles: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Tiles that show one of a few grounds in all their corners, without these; all others are clear.

    Takes and gives (n, h, w, 4) uint8 as `without_plain_ground` does.
    """
    bare = np.zeros_like(tiles)
    if not len(tiles):
        return bare
    corners = _corners(tiles)
    left = (corners[..., 3] == 255).all(axis=(1, 2))
    while len(seed := _largest(corners, np.flatnonzero(left))) > _FEW:
        ground = Palette(corners[seed])
        left[seed] = False
        group = np.union1d(seed, np.flatnonzero(left))
        group = group[ground.lacks(corners[group]).mean(axis=2).max(axis=1) <= _OTHER]
        left[group] = False
        drawn = tiles[group]
        bare[group] = drawn * no_specks(ground.lacks(drawn))[..., None]
    return bare


def _corners(tiles: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What tiles show in each of their corners, (n, 4, p, 4)."""
    count, high, wide = tiles.shape[:3]
    deep = max(_LEAST, min(high, wide) // _CORNER)
    both = [tiles[:, rows, columns] for rows in (slice(deep), slice(-deep, None))
            for columns in (slice(deep), slice(-deep, None))]  # fmt: skip
    return np.stack([one.reshape(count, -1, 4) for one in both], axis=1)


def _largest(corners: NDArray[np.uint8], tiles: NDArray[np.intp]) -> NDArray[np.intp]:
    """The largest group among some tiles that show about the same in each of their corners."""
    if not len(tiles):
        return tiles
    means = corners[tiles, ..., :3].mean(axis=2).reshape(len(tiles), -1)
    grain = corners[tiles, ..., :3].std(axis=2).max(axis=(1, 2))
    usual = np.maximum(_NEAR, _GRAINED * grain / np.sqrt(corners.shape[2]))
    tree = scipy.spatial.cKDTree(means)
    first = int(tree.query_ball_point(means, usual, p=np.inf, return_length=True).argmax())
    return np.asarray(tiles[np.sort(tree.query_ball_point(means[first], usual[first], p=np.inf))])


def no_specks(drawn: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What is drawn on tiles, (n, h, w), but for its smallest patches."""
    whole = np.ones((3, 3, 3), dtype=bool)
    whole[[0, 2]] = False
    patches, count = scipy.ndimage.label(drawn, whole)
    large = np.bincount(patches.ravel(), minlength=count + 1) > _SPECK * drawn[0].size
    large[0] = False
    return np.asarray(large[patches])
