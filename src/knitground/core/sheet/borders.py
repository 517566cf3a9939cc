"""How far pixels go on from one to the next, and how far they fall short of that along the borders of tiles."""

import numpy as np
from numpy.typing import NDArray

_ALIKE = 160.0
"""Colours that differ by so much in all, over their four parts, do not go on."""


def short_of(goes_on: NDArray[np.float32], tile: int, pitch: int, first: int) -> tuple[float, float]:
    """How far continuity falls short along the borders of tiles, and how much there would be by chance, in pixels.

    Parameters
    ----------
    goes_on : (H, W) float32
        How far each pixel goes on from the one at its left.
    tile, pitch : int
        In pixels.
    first : int
        How far the first column lies behind the beginning of a tile.
    """
    sums = goes_on.sum(axis=0, dtype=np.float64)[1:]
    places = (np.arange(1, goes_on.shape[1]) + first) % pitch
    borders = (places == 0) | (places == tile % pitch)
    expected = float(sums.mean()) * int(borders.sum()) if len(sums) else 0.0
    return expected - float(sums[borders].sum()), expected


def goes_on(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> NDArray[np.float32]:
    """How far each pixel goes on from the one at its left, (H, W) from 0 to 1; where there is no art not at all.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
    """
    change = np.abs(np.diff(colour, axis=1)).sum(axis=2, dtype=np.int32)
    alike = np.clip(1 - change / _ALIKE, 0, 1) * (art[:, 1:] & art[:, :-1])
    return np.pad(alike, ((0, 0), (1, 0))).astype(np.float32)
