"""A checkerboard that was drawn into a sheet, as if what it shows through were clear: where it lies."""

from itertools import combinations
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

CHECKER = "checker"
"""What it is called among keys."""

_SOLID = 0.99
"""What share of a sheet is opaque at least; where something is clear, nothing stands for it."""
_GREY, _COMMON, _PEAKS, _APART, _FURTHEST = 12, 0.02, 6, 8, 128
"""How far the channels of a grey lie apart, how common it is, how many are looked at, how far two lie apart."""
_SMALLEST, _SMALLEST_NEARLY, _LARGEST = 4, 6, 64
"""How wide squares are at least and at most; where colours were kept nearly, smaller ones come about by chance."""
_LINES, _FEWEST = 96, 24
"""How many rows and columns are looked at, and how many borders between squares tell enough."""
_REGULAR, _IN_PLACE, _SOME, _LEAST, _EVEN = 0.5, 0.7, 0.3, 0.03, 0.35
"""What share of borders that would not by chance lies on the raster, of both greys in place, of each side, of all.

Of its length it is one way at least, and less the other: one block of tiles may fill a side. The last is what share of
it the rarer grey is at least.
"""
_NEAR, _SMUDGED, _WIDER = 24, 2, 3
"""How far colours that were kept nearly lie off at most, how far beside a border, and how wide what shows of it is."""


class Checker(NamedTuple):
    """A checkerboard: how wide its squares are, where one of the first of its two greys begins, and whether exactly."""

    side: int
    left: int
    top: int
    greys: tuple[int, int]
    exact: bool

    @property
    def tolerance(self) -> int:
        """How far from its greys what is meant by it lies."""
        return 0 if self.exact else _within(self.greys)

    def plate(self, height: int, width: int) -> NDArray[np.uint8]:
        """How it would look without anything on it, (H, W, 3).

        Parameters
        ----------
        height, width : int
            In pixels.
        """
        odd = (self._squares(width, self.left) + self._squares(height, self.top)[:, None]) & 1
        return np.broadcast_to(np.asarray(self.greys, dtype=np.uint8)[odd][..., None], (height, width, 3))

    def on(self, picture: NDArray[np.uint8], tolerance: int) -> NDArray[np.bool_]:
        """What of a picture, (H, W, 4), surely shows it, (H, W): what is white in a white square alone may be art.

        Parameters
        ----------
        picture : (H, W, 4) uint8
            RGBA, straight alpha.
        tolerance : int
            How far off, from 0 to 255.
        """
        shown = self.may_show(picture, tolerance)
        plate = self.plate(*shown.shape)[..., 0]
        areas, count = scipy.ndimage.label(shown)
        of_both = np.ones(count + 1, dtype=np.bool_)
        for grey in self.greys:
            of_both &= np.bincount(areas[shown & (plate == grey)], minlength=count + 1) > 0
        surely: NDArray[np.bool_] = of_both[areas] & shown
        if self.exact:
            return surely
        # Losses make lines grey where two colours meet in art, across borders between squares, too.
        wide = scipy.ndimage.binary_opening(surely, np.ones((_WIDER, _WIDER), dtype=bool))
        return surely & scipy.ndimage.binary_dilation(wide, np.ones((3, 3), dtype=bool), iterations=_SMUDGED)

    def may_show(self, picture: NDArray[np.uint8], tolerance: int) -> NDArray[np.bool_]:
        """What of a picture, (H, W, 4), is of the greys that the checkerboard has in these places, (H, W).

        Parameters
        ----------
        picture : (H, W, 4) uint8
            RGBA, straight alpha.
        tolerance : int
            How far off, from 0 to 255.
        """
        height, width = picture.shape[:2]
        plate = self.plate(height, width)[..., 0]
        if not tolerance:
            same: NDArray[np.bool_] = picture[..., 0] == plate
            for part in (1, 2):
                same &= picture[..., part] == plate
            return same
        low, high = self._at_borders(plate)
        seen = picture[..., :3].astype(np.int16)
        darkest, brightest = seen.min(axis=-1), seen.max(axis=-1)
        shown: NDArray[np.bool_] = brightest - darkest <= tolerance
        shown &= (darkest >= low.astype(np.int16) - tolerance) & (brightest <= high.astype(np.int16) + tolerance)
        return shown

    def _squares(self, length: int, first: int) -> NDArray[np.intp]:
        return (np.arange(length) - first) // self.side

    def _at_borders(self, plate: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
        """From what to what grey a pixel may be: beside borders between squares anything between both."""
        away = [
            np.abs((np.arange(length) - first + _SMUDGED) % self.side - _SMUDGED + 0.5) < _SMUDGED
            for length, first in zip(plate.shape, (self.top, self.left), strict=True)
        ]
        beside = away[0][:, None] | away[1]
        low, high = sorted(self.greys)
        return (
            np.where(beside, np.uint8(low), plate),
            np.where(beside, np.uint8(high), plate),
        )


class _Levels(NamedTuple):
    """How bright the pixels of lines are, (n, length) int16, and which of them are grey, bool."""

    level: NDArray[np.int16]
    grey: NDArray[np.bool_]


class _Borders(NamedTuple):
    """Before which pixels of lines one grey goes over into the other, and how wide it is between two such places."""

    places: NDArray[np.intp]
    wide: NDArray[np.intp]

    @property
    def side(self) -> int:
        """How wide most squares are; 0 where too few are seen."""
        return int(np.bincount(self.wide).argmax()) if len(self.wide) >= _FEWEST else 0

    def first(self, side: int) -> int | None:
        """Where the first border lies of squares so wide; none where too few are even."""
        counts = np.bincount(self.places % side, minlength=side) if side else np.zeros(1, dtype=np.intp)
        first = int(counts.argmax())
        share = counts[[first - 1, first, (first + 1) % len(counts)]].sum() / max(1, len(self.places))
        by_chance = 3 / max(side, 3)
        regular = share >= by_chance + _REGULAR * (1 - by_chance)
        return first if regular and len(self.places) >= _FEWEST else None


def checker_on(picture: NDArray[np.uint8]) -> Checker | None:
    """The checkerboard on a picture that is drawn in where it means to be clear, if one is.

    It is of two greys, as editors show it, in squares of one size all over the picture. Chess floors are of stronger
    contrast, larger, coloured or in some places only.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    """
    rows, columns = _some(picture), _some(picture.swapaxes(0, 1))
    solid = np.concatenate([rows[..., 3].ravel(), columns[..., 3].ravel()]) == 255
    if solid.mean() < _SOLID:
        return None
    lines = _levels(rows), _levels(columns)
    for greys in _pairs(lines[0]):
        across, down = (_borders(some, greys) for some in lines)
        exact = _is_exact(lines[0], greys)
        # Where little of it shows, borders may be seen one way only, or every other one.
        sides = [one.side // part for part in (1, 2, 3) for one in (across, down) if one.side % part == 0]
        for side in dict.fromkeys(sides):
            left, top = across.first(side), down.first(side)
            if side < (_SMALLEST if exact else _SMALLEST_NEARLY) or left is None or top is None:
                continue
            found = _in_phase(picture, Checker(side, left, top, greys, exact))
            if found is not None and _lies_there(picture, found):
                return found
    return None


def _some(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Whole rows all over a picture."""
    return picture[np.unique(np.linspace(0, len(picture) - 1, min(len(picture), _LINES)).astype(np.intp))]


def _levels(lines: NDArray[np.uint8]) -> _Levels:
    """How bright pixels are, and which of them are grey."""
    red, green, blue = (lines[..., part].astype(np.int16) for part in range(3))
    apart = np.maximum(np.maximum(red, green), blue) - np.minimum(np.minimum(red, green), blue)
    return _Levels(green, apart <= _GREY)


def _pairs(lines: _Levels) -> list[tuple[int, int]]:
    """Two common greys each, the commonest first."""
    level, grey = lines
    counts = np.bincount(level[grey], minlength=256)
    near = np.convolve(counts, np.ones(5), "same")
    peaks: list[int] = []
    for value in np.argsort(-(counts + near / 1024), kind="stable").tolist():
        if near[value] < _COMMON * level.size or len(peaks) == _PEAKS:
            break
        if all(abs(value - other) >= _APART for other in peaks):
            peaks.append(value)
    pairs = [(one, other) for one, other in combinations(peaks, 2) if abs(one - other) <= _FURTHEST]
    return sorted(pairs, key=lambda pair: -min(near[pair[0]], near[pair[1]]))


def _borders(lines: _Levels, greys: tuple[int, int]) -> _Borders:
    """Where one grey goes over into the other along lines, and how far apart two such borders lie."""
    level, grey = lines
    one, other = (grey & (np.abs(level - value) <= _within(greys)) for value in greys)
    label = np.where(one, np.int8(1), np.where(other, np.int8(2), np.int8(0)))
    for _ in range(_SMUDGED):
        label[:, 1:] = np.where(label[:, 1:] == 0, label[:, :-1], label[:, 1:])
    line, place = np.nonzero((label[:, 1:] != label[:, :-1]) & (label[:, 1:] > 0) & (label[:, :-1] > 0))
    wide = np.diff(place)[np.diff(line) == 0]
    return _Borders(place + 1, wide[(wide >= _SMALLEST) & (wide <= _LARGEST)])


def _within(greys: tuple[int, int]) -> int:
    """How far off one of two greys what is nearly of it may lie."""
    return min(_NEAR, (abs(greys[0] - greys[1]) - 1) // 2)


def _is_exact(lines: _Levels, greys: tuple[int, int]) -> bool:
    """Whether colours were kept as they are: hardly anything is nearly of one of the greys."""
    level, grey = lines
    away = np.minimum(*(np.abs(level - value) for value in greys))[grey]
    return bool((away == 0).sum() >= (1 - _COMMON) * (away <= _APART // 2).sum())


def _in_phase(picture: NDArray[np.uint8], checker: Checker) -> Checker | None:
    """The checkerboard, or the other one of the same squares; none where its greys lie anywhere else as well."""
    level, grey = _levels(_some(picture))
    nearly, off = np.zeros(level.shape, dtype=np.bool_), checker.tolerance
    for one in checker.greys:
        nearly |= grey & (np.abs(level - one) <= off)
    for found in (checker, checker._replace(left=checker.left + checker.side)):
        plate = _some(found.plate(*picture.shape[:2]))[..., 0]
        if (nearly & (np.abs(level - plate) <= off)).sum() >= _IN_PLACE * max(1, nearly.sum()):
            return found
    return None


def _lies_there(picture: NDArray[np.uint8], checker: Checker) -> bool:
    """Whether both greys lie side by side, about as often, all over a picture."""
    shown = checker.on(picture, checker.tolerance)
    if shown.mean() < _LEAST:
        return False
    plate = checker.plate(*picture.shape[:2])[..., 0]
    of_first = (shown & (plate == checker.greys[0])).sum() / shown.sum()
    lines = [np.flatnonzero(shown.any(axis=axis)) for axis in (0, 1)]
    less, more = sorted((some[-1] - some[0]) / len(shown[0] if axis == 0 else shown) for axis, some in enumerate(lines))
    return bool(less >= _SOME and more >= _IN_PLACE and min(of_first, 1 - of_first) >= _EVEN)
