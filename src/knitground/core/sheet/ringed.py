"""Where tiles lie whose edges are drawn more than once, told by the lines of pixels that are as the next.

No other art has them, if it was not drawn small and enlarged: they come in pairs, one at each side of a tile, all
equally wide. Where tiles touch, nothing else says which of the lines between them belong to which.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import Axis
from knitground.core.sheet.profile import SMALLEST_TILE

_SAMPLE = 256
_FEWEST_PIXELS = 6
_EQUAL, _ELSEWHERE = 0.995, 0.6
_WIDEST, _LEAST_RUNS = 8, 4
_FITS = 0.95


class _Runs(NamedTuple):
    """Where so many lines in a row are as the next, and how wide such runs are."""

    starts: NDArray[np.intp]
    width: int


def ringed(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> tuple[Axis, Axis] | None:
    """How tiles lie along both axes, with what repeats their edges; none where no edges are repeated.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
        Where there is art.
    """
    across = _axis(colour, art)
    down = _axis(colour.swapaxes(0, 1), art.T) if across else None
    if across is None or down is None or across[1] != down[1]:
        return None
    return across[0], down[0]


def _axis(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> tuple[Axis, int] | None:
    equal = _equal(colour, art)
    same = equal >= _EQUAL
    runs = _runs(same)
    known = np.isfinite(equal)
    elsewhere = equal[known & ~same]
    if runs is None or not elsewhere.size or elsewhere.mean() > _ELSEWHERE:
        return None
    axis = _fitted(runs, colour.shape[1])
    if axis is None:
        return None
    wanted = _lines_of(axis, runs.width, len(equal))
    if wanted[same].mean() < _FITS or same[wanted & known].mean() < _FITS:
        return None
    return axis, runs.width


def _equal(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> NDArray[np.float64]:
    """The share of pixels that are as the next, for each column but the last; NaN where too few of them can tell.

    Those can't that are as the one below: on plain ground all are alike.
    """
    rows = np.unique(np.linspace(0, len(colour) - 2, min(_SAMPLE, len(colour) - 1)).astype(np.intp))
    tells = art[rows] & (colour[rows] != colour[rows + 1]).any(axis=2)
    count = (tells[:, :-1] | tells[:, 1:]).sum(axis=0)
    like = (tells[:, :-1] & (colour[rows][:, :-1] == colour[rows][:, 1:]).all(axis=2)).sum(axis=0)
    return np.where(count >= _FEWEST_PIXELS, like / np.maximum(count, 1), np.nan)


def _runs(same: NDArray[np.bool_]) -> _Runs | None:
    """Runs of lines that are as the next, if nearly all are equally wide."""
    change = np.flatnonzero(np.diff(np.concatenate([[False], same, [False]])))
    starts, widths = change[::2], np.diff(change)[::2]
    if len(starts) < _LEAST_RUNS:
        return None
    width = int(np.bincount(widths).argmax())
    usual = widths == width
    if width > _WIDEST or usual.mean() < _FITS:
        return None
    return _Runs(starts[usual], width)


def _fitted(runs: _Runs, length: int) -> Axis | None:
    """The grid in which a run begins and a run ends every tile; between tiles is less room than in them."""
    starts, width = runs
    steps = np.diff(starts)
    pitch = int(np.bincount(starts[2:] - starts[:-2]).argmax())
    gap = int(np.bincount(steps[steps <= pitch // 2]).argmax()) if (steps <= pitch // 2).any() else 0
    spacing = gap - 1 - width
    if spacing < 0 or pitch - spacing < SMALLEST_TILE + 2 * width:
        return None
    # A run that follows close behind another begins a tile.
    begins = starts[1:][steps == gap] % pitch
    margin = int(np.bincount(begins).argmax())
    return Axis(pitch - spacing, margin, spacing) if margin + pitch <= length else None


def _lines_of(axis: Axis, width: int, lines: int) -> NDArray[np.bool_]:
    """Which lines are as the next in such a grid."""
    place = np.arange(lines)
    inside = (place - axis.margin) % axis.pitch
    last = axis.tile - 1
    return (place >= axis.margin) & ((inside < width) | ((inside >= last - width) & (inside < last)))
