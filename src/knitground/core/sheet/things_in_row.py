"""Separate things in one row that is all of a picture, as strips of sprites are: each has a cell of its own."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut
from knitground.core.sheet.profile import SMALLEST_TILE

_FEWEST, _MOST = 3, 512
_GAPS, _MARGINS = range(9), (0, 1, 2)
_HIGHEST, _WIDEST = 2.5, 5.0
"""How many times as high as wide, and as wide as high, a cell is at the most."""
_WAIST = 0.3
"""What share of an average row goes on through each place where another row of tiles might begin."""
_OTHER = 24
"""By how much another colour differs."""
_EVEN, _AS_EVEN = 0.12, 0.5
"""By what share of a cell things may stand beside one another's places, and by how many pixels that may differ."""


def row_of_things(picture: NDArray[np.uint8], art: NDArray[np.bool_]) -> Cut | None:
    """The cut of a picture that is one row, or one column, of separate things; None where it is none.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    art : (H, W) bool
        What of it is art.
    """
    height, width = art.shape
    if width >= height:
        found = _along(picture, art)
        return None if found is None else Cut("", found[0], height, found[1], 0, found[2], 0)
    found = _along(picture.swapaxes(0, 1), art.T)
    return None if found is None else Cut("", width, found[0], 0, found[1], 0, found[2])


def _along(picture: NDArray[np.uint8], art: NDArray[np.bool_]) -> tuple[int, int, int] | None:
    """Tile, margin and spacing across of things in one row; None where these do not show."""
    height, width = art.shape
    begins, ends = _runs(art.any(axis=0))
    count = len(begins)
    if not _FEWEST <= count <= _MOST or len(_runs(art.any(axis=1))[0]) != 1 or _has_waist(picture, art):
        return None
    middles = (begins + ends) / 2
    fits: list[tuple[float, int, int, int]] = []
    for margin in _MARGINS:
        for gap in _GAPS:
            pitch, over = divmod(width - 2 * margin + gap, count)
            if over or pitch - gap < SMALLEST_TILE or not height / _HIGHEST <= pitch <= _WIDEST * height:
                continue
            cells = margin + pitch * np.arange(count)
            if (begins >= cells).all() and (ends <= cells + pitch - gap).all():
                off = min(float(np.std(places - cells)) for places in (begins, middles, ends))
                fits.append((off, margin, gap, pitch))
    if not fits:
        return None
    best = min(fits)[0]
    off, margin, gap, pitch = min((one for one in fits if one[0] <= best + _AS_EVEN), key=lambda one: one[1:])
    return (pitch - gap, margin, gap) if off <= _EVEN * pitch else None


def _runs(shown: Any) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Where stretches begin and end that show something, of (N,) bool."""
    steps = np.diff(np.concatenate([[False], shown, [False]]).astype(np.int8))
    return np.flatnonzero(steps == 1), np.flatnonzero(steps == -1)


def _has_waist(picture: NDArray[np.uint8], art: NDArray[np.bool_]) -> bool:
    """Whether less than usual goes on through the places where a second or a third row of tiles would begin."""
    through = art[1:] & art[:-1]
    changed = (np.abs(picture[1:].astype(np.int16) - picture[:-1]) > _OTHER).any(axis=2) & through
    rows = np.flatnonzero(art.any(axis=1))
    average, changing = art[rows].sum(axis=1).mean(), changed.sum() / max(1, through.sum())
    for first, count in ((0, len(art)), (int(rows[0]), int(np.ptp(rows)) + 1)):
        for parts in (2, 3):
            for part in range(1, parts):
                at = first + count * part // parts - 1
                goes_on = int(through[at].sum())
                if goes_on < _WAIST * average or changed[at].sum() > max(0.5, 2 * changing) * goes_on:
                    return True
    return False
