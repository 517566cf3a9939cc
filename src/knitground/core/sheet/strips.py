"""How alike a picture is to itself some pixels further on: frames of an animation in one row are, at their width.

What differs between a picture and itself, moved along, dips sharply at the distance of things that are alike. The sums
of squared differences at all distances come from one correlation (Wiener and Khinchin), on some of the lines.
"""

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.profile import SMALLEST_TILE

_LINES = 96
_SHARP, _MOST = 0.85, 3.0
"""What a dip is at the least, against what is beside it, and by how many halvings it counts at the most."""
_BESIDE, _AS_SHARP = 0.25, 0.6
_LONGEST = 512
_LEAST = 1e-6


class Likeness(NamedTuple):
    """By pixels, how sharply a picture is like itself so far on, across and down: in halvings of what differs."""

    across: Mapping[int, float] = {}
    down: Mapping[int, float] = {}

    @classmethod
    def of(cls, picture: NDArray[np.uint8]) -> "Likeness":
        """That of a picture.

        Parameters
        ----------
        picture : (H, W, 4) uint8
            RGBA, straight alpha.
        """
        return cls(_along(picture), _along(picture.swapaxes(0, 1)))


def _along(picture: NDArray[np.uint8]) -> dict[int, float]:
    """The least distances along which lines of a picture are sharply alike, and how sharply."""
    length = picture.shape[1]
    if length < 2 * SMALLEST_TILE:
        return {}
    apart = differences(picture[:: -(-len(picture) // _LINES)])
    sharp: dict[int, float] = {}
    for pitch in range(SMALLEST_TILE, min(length // 2, _LONGEST) + 1):
        reach = max(2, int(pitch * _BESIDE))
        beside = np.concatenate([apart[max(1, pitch - reach) : pitch - 1], apart[pitch + 2 : pitch + reach + 1]])
        if not beside.size or beside.mean() <= _LEAST:
            continue
        halvings = float(np.log2(_SHARP / max(apart[pitch] / beside.mean(), _LEAST)))
        if halvings > 0:
            sharp[pitch] = halvings
    sharp = {
        pitch: much
        for pitch, much in sharp.items()
        if much > sharp.get(pitch - 1, 0.0) and much >= sharp.get(pitch + 1, 0.0)
    }
    return {
        pitch: min(much, _MOST)
        for pitch, much in sharp.items()
        if all(pitch % other or sharp[other] < _AS_SHARP * much for other in sharp if other < pitch)
    }


def differences(lines: NDArray[np.uint8]) -> NDArray[np.float64]:
    """What differs on average between some lines and themselves, by how far these are moved.

    Parameters
    ----------
    lines : (N, W, 4) uint8
        RGBA, straight alpha.

    Returns
    -------
    apart : (W,) float64
        The sum of squares of a pixel, with its alpha multiplied in.
    """
    alpha = lines[..., 3:] / 255
    seen = np.concatenate([lines[..., :3] / 255 * alpha, alpha], axis=2)
    length = seen.shape[1]
    size = 1 << (2 * length - 1).bit_length()
    waves = np.fft.rfft(seen, size, axis=1)
    common = np.fft.irfft((np.abs(waves) ** 2).sum(axis=(0, 2)), size)[:length]
    up_to = np.concatenate([[0.0], np.cumsum((seen**2).sum(axis=(0, 2)))])
    moved = np.arange(length)
    both = up_to[length] - up_to[moved] + up_to[length - moved]
    return np.asarray(np.maximum(both - 2 * common, 0) / (length - moved))
