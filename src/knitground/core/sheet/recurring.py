"""How far on a sheet repeats itself: tiles of one terrain hold the same grain, which comes again a pitch further on.

For every distance along an axis it is counted how much of what is drawn shows the same so far on. What is flat and what
goes on in straight lines shows the same at any distance, so a distance counts by how much more comes again there than
at those right beside it.
"""

import numpy as np
from numpy.typing import NDArray

FARTHEST = 264
"""The longest distance that is looked at, in pixels."""
_MOST_PLACES = 2**15
"""How many pixels are looked at: lines that show the most."""
_FEW = 50
"""With so many places to go by, what is seen counts for a half."""
_BESIDE = 2
"""How many distances to either side are compared."""
_MUCH, _NEARLY = 0.15, 0.6
_EVEN, _NOWHERE = np.uint32(1), (np.uint32(0), np.uint32(2))
"""What is set in the number of each patch, and numbers that none has."""
_MIXED = np.array([0x9E3779B1, 0x85EBCA77, 0xC2B2AE3D, 0x27D4EB2F], dtype=np.uint32)


def recurrence(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> NDArray[np.float64]:
    """How much of a picture comes again at each distance to the right, beyond what does at the distances beside.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA.
    art : (H, W) bool

    Returns
    -------
    recurs : (FARTHEST + 1,) float64
        From 0 to 1, by the distance in pixels.
    """
    one = np.ascontiguousarray(colour, dtype=np.uint8).view(np.uint32)[..., 0]
    corners = [part[:, right : part.shape[1] - 1 + right] for part in (one[:-1], one[1:]) for right in (0, 1)]
    held = [part[:, right : part.shape[1] - 1 + right] for part in (art[:-1], art[1:]) for right in (0, 1)]
    whole = held[0] & held[1] & held[2] & held[3]
    drawn = whole & ((corners[3] != corners[2]) | (corners[3] != corners[1]))
    lines = np.argsort(-drawn.sum(axis=1), kind="stable")[: max(1, _MOST_PLACES // art.shape[1])]
    # What lies beside each other comes line by line, so that all that is so far apart is two stretches of memory.
    patches, whole, drawn = (
        np.ascontiguousarray(one.T)
        for one in (_mixed([corner[lines] for corner in corners]), whole[lines], drawn[lines])
    )
    width = len(patches)
    # Nothing that is not drawn is like anything.
    here, there = np.where(drawn, patches | _EVEN, _NOWHERE[0]), np.where(whole, patches | _EVEN, _NOWHERE[1])
    share, many = np.zeros(FARTHEST + _BESIDE + 1), np.zeros(FARTHEST + _BESIDE + 1)
    for distance in range(1, min(len(share), width)):
        many[distance] = count = np.count_nonzero(drawn[:-distance] & whole[distance:])
        if count:
            share[distance] = np.count_nonzero(here[:-distance] == there[distance:]) / count
    around = np.lib.stride_tricks.sliding_window_view(np.pad(share, (_BESIDE, 0)), 2 * _BESIDE + 1)
    beside = np.delete(around, _BESIDE, axis=1).max(axis=1)
    recurs = np.clip(share[: FARTHEST + 1] - beside, 0, 1) * many[: FARTHEST + 1] / (many[: FARTHEST + 1] + _FEW)
    recurs[: _BESIDE + 1] = 0
    return np.asarray(recurs)


def periods(recurs: NDArray[np.float64], least: int) -> list[int]:
    """The shortest distance of those at which nearly as much comes again as at the best, if that is much; else none.

    Parameters
    ----------
    recurs : (D,) float64
        As `recurrence` gives it.
    least : int
        How long a distance is at the least.
    """
    best = float(recurs[least:].max(initial=0.0))
    if best < _MUCH:
        return []
    return [least + int(np.argmax(recurs[least:] >= _NEARLY * best))]


def _mixed(corners: list[NDArray[np.uint32]]) -> NDArray[np.uint32]:
    """One number for what each two by two pixels show."""
    patches = np.zeros_like(corners[0])
    for corner, factor in zip(corners, _MIXED, strict=True):
        patches = (patches ^ corner) * factor
        patches ^= patches >> np.uint32(15)
    return patches
