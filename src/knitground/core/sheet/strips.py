"""How alike a picture is to itself some pixels further on: frames of an animation in one row are, at their width.

What differs between a picture and itself, moved along, dips sharply at the distance of things that are alike. The sums
of squared differences at all distances come from one correlation (Wiener and Khinchin), on some of the lines.
"""

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import USUAL
from knitground.core.sheet.profile import SMALLEST_TILE

_LINES = 96
_SHARP, _MOST = 0.85, 3.0
"""What a dip is at the least, against what is beside it, and by how many halvings it counts at the most."""
_BESIDE, _AS_SHARP = 0.25, 0.6
_LONGEST = 512
_LEAST = 1e-6
_PARTS, _BREAKS = 3, 1.5
"""How many tiles a block of them has at the least across and down, and how much more changes at their borders."""


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
        across, down = _along(picture), _along(picture.swapaxes(0, 1))
        return cls(
            {pitch: much for pitch, much in across.items() if not _holds_tiles(picture[:, :pitch])},
            {pitch: much for pitch, much in down.items() if not _holds_tiles(picture[:pitch])},
        )


def _holds_tiles(frame: NDArray[np.uint8]) -> bool:
    """Whether art breaks off inside of a frame at the borders of tiles, across and down: a block of tiles repeats."""
    height, width = frame.shape[:2]
    pixels = frame.astype(np.int16)
    changes = [np.abs(np.diff(pixels, axis=axis)).sum(axis=(1 - axis, 2)) for axis in (1, 0)]
    sides = (side for side in USUAL if not width % side and not height % side and min(width, height) >= _PARTS * side)
    return any(all(_breaks(change, side) for change in changes) for side in sides)


def _breaks(change: NDArray[np.int64], side: int) -> bool:
    """Whether far more changes at every so manieth line than at those beside it."""
    borders = np.arange(side - 1, len(change), side)
    beside = (borders[:, None] + np.array([-2, -1, 1, 2])).clip(0, len(change) - 1)
    return bool((change[borders] > _BREAKS * change[beside].mean(axis=1)).all())


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
