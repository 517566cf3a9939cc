"""Separate things in one row that is all of a picture, as strips of sprites are: each has a cell of its own."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import Axis
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.profile import SMALLEST_TILE, blocks_of
from knitground.core.sheet.strips import Likeness

_FEWEST, _MOST = 3, 512
_GAPS, _MARGINS = range(9), (0, 1, 2)
_HIGHEST, _WIDEST = 2.5, 5.0
"""How many times as high as wide, and as wide as high, a cell is at the most."""
_WAIST, _FLATTEST = 0.3, 2.2
"""What share of an average row goes on through each place where another row of tiles might begin, and how many times
as wide as high these tiles would be at the most."""
_OTHER, _ALIKE = 24, 0.7
"""By how much another colour differs, and by how many halvings frames are more alike than what lies beside them."""
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
    lies = art.shape[1] >= art.shape[0]
    found = _in_row(picture, art) if lies else _in_row(picture.swapaxes(0, 1), art.T)
    if found is None:
        return None
    x, y = found if lies else found[::-1]
    return Cut("", x.tile, y.tile, x.margin, y.margin, x.spacing, y.spacing)


def _in_row(picture: NDArray[np.uint8], art: NDArray[np.bool_]) -> tuple[Axis, Axis] | None:
    """The numbers across and down of things in one row; None where these do not show."""
    height, width = art.shape
    (begins, ends), rows = blocks_of(art.T), blocks_of(art)
    if not _FEWEST <= len(begins) <= _MOST or len(rows[0]) != 1:
        return None
    fits = _fits(begins, ends, width, height)
    if not fits:
        return None
    best = min(fits)[0]
    off, across = min((one for one in fits if one[0] <= best + _AS_EVEN), key=lambda one: one[1][1:])
    if off > _EVEN * across.pitch:
        return None
    if _has_waist(picture, art, len(begins)) and not _are_frames(picture, across.pitch):
        return None
    wide, gaps, (top,), (low,) = ends - begins, begins[1:] - ends[:-1], *rows
    framed = np.ptp(wide) == np.ptp(gaps) == 0 < min(begins[0], width - ends[-1], top, height - low)
    if framed and across.margin and gaps[0] in _GAPS:
        # Full tiles within a frame say all numbers.
        gap = int(gaps[0])
        return Axis(int(wide[0]), int(begins[0]), gap), Axis(int(low - top), int(top), gap)
    return across, Axis(height, 0, 0)


def _fits(begins: NDArray[np.intp], ends: NDArray[np.intp], width: int, height: int) -> list[tuple[float, Axis]]:
    """The numbers by which each thing lies in a cell of its own, and how unevenly they lie there.

    Parameters
    ----------
    begins, ends : (N,) intp
        Where things begin and end across.
    width, height : int
        Of the picture.
    """
    count, middles = len(begins), (begins + ends) / 2
    fits: list[tuple[float, Axis]] = []
    for margin in _MARGINS:
        for gap in _GAPS:
            pitch, over = divmod(width - 2 * margin + gap, count)
            if over or pitch - gap < SMALLEST_TILE or not height / _HIGHEST <= pitch <= _WIDEST * height:
                continue
            cells = margin + pitch * np.arange(count)
            if (begins >= cells).all() and (ends <= cells + pitch - gap).all():
                off = min(float(np.std(places - cells)) for places in (begins, middles, ends))
                fits.append((off, Axis(pitch - gap, margin, gap)))
    return fits


def _are_frames(picture: NDArray[np.uint8], pitch: int) -> bool:
    """Whether all in a row is alike, but nothing below it: a figure may change its colour at its belt."""
    likeness = Likeness.of(picture)
    return likeness.across.get(pitch, 0.0) > _ALIKE and not likeness.down


def _has_waist(picture: NDArray[np.uint8], art: NDArray[np.bool_], count: int) -> bool:
    """Whether less than usual goes on through the places where a second or a third row of so many tiles would begin."""
    through = art[1:] & art[:-1]
    changed = (np.abs(picture[1:].astype(np.int16) - picture[:-1]) > _OTHER).any(axis=2) & through
    rows = np.flatnonzero(art.any(axis=1))
    average, changing = art[rows].sum(axis=1).mean(), changed.sum() / max(1, through.sum())
    for first, high in ((0, len(art)), (int(rows[0]), int(np.ptp(rows)) + 1)):
        for parts in (2, 3):
            if art.shape[1] / count > _FLATTEST * high / parts:
                continue
            for part in range(1, parts):
                at = first + high * part // parts - 1
                goes_on = int(through[at].sum())
                if goes_on < _WAIST * average or changed[at].sum() > max(0.5, 2 * changing) * goes_on:
                    return True
    return False
