"""Tiles that are another of their set with something on it: a flower on the grass, a crack in the wall."""

import numpy as np
import scipy
from numpy.typing import NDArray

_SAME, _NEAR, _FAR, _OTHER = 0.55, 6, 48, 0.25
"""What share of the pixels is as on the plainer tile, and how nearly; what share of the rest is how far from all of it.

Colours that are nearly the same are taken for it: of formats that lose a little of each, and of what was painted over.
"""
_LEAST_PATCH, _MOST_PATCH = 0.06, 0.5
"""What share of a tile is of colours far from all of the plainer one, where what lies below was drawn otherwise."""
_LATER = 8
"""To how many tiles that change more one is held."""
_MIDST, _LIKE_LINES = 6, 14
"""What part of a tile its midst is, and how far the colours there are from those of lines at the most."""


def adorned(pixels: NDArray[np.uint8], labels: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Which tiles show something of other colours on what another tile of the same labels shows alone.

    Parameters
    ----------
    pixels : (N, h, w, 4) uint8
        RGBA, straight alpha.
    labels : (N, L) intp
        Tiles that are alike in these are variants of one another.

    Returns
    -------
    adorned : (N,) bool
    """
    found = np.zeros(len(pixels), dtype=bool)
    _, groups = np.unique(labels, axis=0, return_inverse=True)
    for group in np.unique(groups):
        members = np.flatnonzero(groups.ravel() == group)
        # The plainest comes first, and is what the others are held against.
        members = members[np.argsort([change_of(pixels[at]) for at in members], kind="stable")]
        for number, at in enumerate(members[1:], 1):
            plainer = members[:number][~found[members[:number]]]
            found[at] = any(_is_with_more(pixels[at], pixels[other]) for other in plainer)
        # What is of one flat colour changes less than the grain that it lies on; what is left shows no more than it.
        for number, at in enumerate(members):
            later = members[number + 1 : number + 1 + _LATER]
            found[at] = found[at] or any(_is_with_more(pixels[at], pixels[other]) for other in later[~found[later]])
    return found


def stubs(pixels: NDArray[np.uint8], labels: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Which tiles show one terrain at all edges, but in their midst what those show there that lines go through.

    Other tiles of that terrain alone do not show it there.

    Parameters
    ----------
    pixels : (N, h, w, 4) uint8
        RGBA, straight alpha.
    labels : (N, 4) intp
        What each edge shows.

    Returns
    -------
    stubs : (N,) bool
    """
    high, wide = pixels.shape[1:3]
    down, across = max(1, high // _MIDST), max(1, wide // _MIDST)
    middle = pixels[:, (high - down) // 2 : (high + down) // 2 + 1, (wide - across) // 2 : (wide + across) // 2 + 1]
    colours = np.median(middle.reshape(len(pixels), -1, 4), axis=1)
    found = np.zeros(len(pixels), dtype=bool)
    for at in np.flatnonzero((labels == labels[:, :1]).all(axis=1)).tolist():
        apart = np.abs(colours - colours[at]).max(axis=1)
        lines = (labels != labels[at, 0]).sum(axis=1) >= 2
        others = (labels == labels[at]).all(axis=1)
        others[at] = False
        if lines.any() and others.any():
            found[at] = np.median(apart[lines]) <= _LIKE_LINES < np.median(apart[others])
    return found


def change_of(tile: NDArray[np.uint8]) -> int:
    """How much pixels of a tile, (h, w, 4), change from one to the next, all together."""
    seen = tile.astype(np.int32)
    return int(np.abs(np.diff(seen, axis=0)).sum() + np.abs(np.diff(seen, axis=1)).sum())


def _is_with_more(tile: NDArray[np.uint8], plainer: NDArray[np.uint8]) -> bool:
    differs = np.abs(tile.astype(np.int16) - plainer).max(axis=2) > _NEAR
    if not differs.any():
        return False
    colours = np.unique(plainer.reshape(-1, 4), axis=0)
    apart, _ = scipy.spatial.cKDTree(colours).query(tile[differs], p=np.inf)
    far = np.asarray(apart) > _FAR
    if np.mean(differs) <= 1 - _SAME:
        return bool(np.mean(far) >= _OTHER)
    return bool(_LEAST_PATCH <= far.sum() / differs.size <= _MOST_PATCH)
