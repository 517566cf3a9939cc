"""What a sheet shows along one axis, folded over every pitch: where art breaks off, and where there is none."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import Axis
from knitground.core.sheet.profile import Profile

_LEAST_HELD, _FEWEST, _FLOOR, _MOST_DRIFT, _BARE = 0.05, 3, 0.25, 6.0, 0.4
_MOSTLY, _HARDLY, _LITTLE = 0.5, 0.03, 0.2


class Fold(NamedTuple):
    """A profile folded over a pitch; each field says something for every place of the pitch.

    Attributes
    ----------
    continuity : (pitch,) float64
        How far pixels go on from the line before.
    held : (pitch,) float64
        How much art there is.
    full : (pitch,) float64
        The same as a share of what the fuller places hold, at most 1.
    blank : (pitch,) float64
        The share of lines without any art.
    clear : (pitch,) bool
        Which places hold no art, but for a few features that were drawn right over the gutters.
    """

    continuity: NDArray[np.float64]
    held: NDArray[np.float64]
    full: NDArray[np.float64]
    blank: NDArray[np.float64]
    clear: NDArray[np.bool_]


class Folded:
    """The profile of an axis of a picture, `length` pixels long, which may be longer than what the profile tells."""

    def __init__(self, profile: Profile, length: int) -> None:
        self.profile, self.length = profile, length
        inner = profile.continuity[1:]
        self.lines = len(inner)
        self.mean, self._deviation = float(inner.mean()), float(inner.std()) + 1e-9
        self.mostly_bare = float((profile.filled <= _LEAST_HELD * profile.filled.max()).mean()) >= _BARE
        """Whether so many lines hold hardly anything that tiles may lie far apart."""
        filled = np.concatenate([[0.0], profile.filled])
        self._sums = np.cumsum(filled), np.cumsum(filled * (np.arange(len(filled)) - 0.5))
        self._inked = np.concatenate([[0], np.cumsum(~profile.blank)])
        self._told = np.stack([profile.continuity, profile.filled, profile.blank]).astype(np.float64)
        self._told[:, 0] = 0.0  # nothing is before the first line
        self._drifts: dict[tuple[int, int, int], float] = {}
        self._folds: dict[int, Fold] = {}

    def fills_alike(self, axis: Axis) -> float:
        """The share of tiles that are filled from their first line to their last, with clear spacing on both sides."""
        if not axis.spacing:
            return 0.0
        lines = len(self._inked) - 1
        begins = axis.margin + np.arange(axis.repeats(lines)) * axis.pitch
        ends = begins + axis.tile
        before, behind = np.maximum(begins - axis.spacing, 0), np.minimum(ends + axis.spacing, lines)
        first, last = self._inked[begins + 1] > self._inked[begins], self._inked[ends] > self._inked[ends - 1]
        clear = (self._inked[begins] == self._inked[before]) & (self._inked[behind] == self._inked[ends])
        held = int((self._inked[ends] > self._inked[begins]).sum())
        return float((first & last & clear).sum()) / held if held >= _FEWEST else 0.0

    def drift(self, axis: Axis) -> float:
        """How much better another pitch tells where art lies in each tile, 0 if none does.

        That is a log likelihood ratio: with a wrong pitch the centres of what tiles hold move from one to the next.
        """
        key = axis.margin - (axis.spacing + 1) // 2, axis.pitch, axis.repeats(len(self.profile.filled))
        if key not in self._drifts:
            self._drifts[key] = self._drift(*key)
        return self._drifts[key]

    def _drift(self, first: int, pitch: int, count: int) -> float:
        begins = first + np.arange(count + 1) * pitch
        edges = np.clip(begins, 0, len(self.profile.filled))
        held = np.diff(self._sums[0][edges])
        some = np.flatnonzero(held > _LEAST_HELD * max(float(held.max(initial=0.0)), 1e-9))
        if len(some) < _FEWEST:
            return 0.0
        places = np.diff(self._sums[1][edges])[some] / held[some] - begins[some]
        numbers, apart = some - some.sum() / len(some), places - places.sum() / len(some)
        step = round(float(numbers @ apart / (numbers @ numbers)))
        if not step:
            return 0.0
        moved = apart - step * numbers
        better = (apart @ apart / len(some) + _FLOOR) / (moved @ moved / len(some) + _FLOOR)
        return min(len(some) / 2 * float(np.log(better)), _MOST_DRIFT)

    def at(self, pitch: int) -> Fold:
        """The fold over a pitch."""
        if pitch not in self._folds:
            continuity, held, blank = _fold(self._told, pitch)
            most = max(_upper_quartile(held), 1e-6)
            clear = blank >= max(_MOSTLY, blank.max() - _HARDLY) if blank.max() >= _MOSTLY else held <= _LITTLE * most
            full = np.minimum(held / most, 1)
            self._folds[pitch] = Fold(continuity, held, full, blank, np.asarray(clear))
        return self._folds[pitch]

    def short(self, pitch: int, margins: NDArray[np.intp], spacings: NDArray[np.intp]) -> NDArray[np.float64]:
        """How far continuity falls short at the borders of tiles, in standard errors; broadcasts.

        Parameters
        ----------
        pitch : int
            In pixels.
        margins, spacings : (...) intp
            In pixels; of shapes that broadcast.

        Returns
        -------
        short : (...) float64
        """
        continuity = self.at(pitch).continuity
        borders = (continuity[margins % pitch] + continuity[(margins - spacings) % pitch]) / 2
        return np.asarray((self.mean - borders) / self._deviation * np.sqrt(self.lines / pitch))

    def deepest(self, pitch: int) -> float:
        """How far continuity falls short at most, whatever the margin and the spacing; in standard errors."""
        least = float(self.at(pitch).continuity.min())
        return (self.mean - least) / self._deviation * float(np.sqrt(self.lines / pitch))

    def short_of(self, axis: Axis, *, pitch: int = 0, shifted: int = 0) -> float:
        """The same for one hypothesis, or for one of another pitch with its margin and spacing."""
        margin, spacing = np.array(axis.margin + shifted), np.array(axis.spacing)
        return float(self.short(pitch or axis.pitch, margin, spacing))


def _upper_quartile(values: NDArray[np.float64]) -> float:
    """What three quarters of some values do not exceed, as `numpy.quantile` tells it, in a tenth of the time."""
    place = 0.75 * (len(values) - 1)
    lower = int(place)
    ordered = np.sort(values)
    upper = ordered[min(lower + 1, len(values) - 1)]
    return float(ordered[lower] + (upper - ordered[lower]) * (place - lower))


def _fold(told: NDArray[np.float64], pitch: int) -> NDArray[np.float64]:
    """The averages, (K, pitch), of (K, N) lines at each place modulo the pitch; the first line is left out."""
    lines = told.shape[1]
    rows = -(-lines // pitch)
    padded = np.zeros((len(told), rows * pitch))
    padded[:, :lines] = told
    counts = np.full(pitch, rows)
    counts[lines - (rows - 1) * pitch :] -= 1
    counts[0] -= 1
    return np.asarray(padded.reshape(len(told), rows, pitch).sum(axis=1) / np.maximum(counts, 1))
