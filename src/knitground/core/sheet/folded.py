"""What a sheet shows along one axis, folded over every pitch: where art breaks off, and where there is none."""

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

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
        self._begins = np.full(self.lines + 1, -1)
        none, flags = np.zeros(0), np.zeros(0, dtype=np.bool_)
        self._folds = Fold(none, none, none, none, flags)

    def fills_alike(
        self, tiles: NDArray[np.intp], margins: NDArray[np.intp], spacings: NDArray[np.intp]
    ) -> NDArray[np.float64]:
        """The share of tiles that are filled from their first line to their last, with clear spacing on both sides.

        Parameters
        ----------
        tiles, margins, spacings : (N,) intp
            Of each hypothesis, in pixels.

        Returns
        -------
        shares : (N,) float64
            0 where there is no spacing.
        """
        alike, spaced = np.zeros(len(tiles)), np.flatnonzero(spacings)
        if not len(spaced):
            return alike
        lines = len(self._inked) - 1
        tile, margin, spacing = (numbers[spaced, None] for numbers in (tiles, margins, spacings))
        repeats = (lines - margin + spacing) // (tile + spacing)
        numbers = np.arange(max(int(repeats.max()), 0))
        there = numbers < repeats
        begins = np.where(there, margin + numbers * (tile + spacing), 0)
        ends = np.where(there, begins + tile, 1)
        before, behind = np.maximum(begins - spacing, 0), np.minimum(ends + spacing, lines)
        first, last = self._inked[begins + 1] > self._inked[begins], self._inked[ends] > self._inked[ends - 1]
        clear = (self._inked[begins] == self._inked[before]) & (self._inked[behind] == self._inked[ends])
        held = (there & (self._inked[ends] > self._inked[begins])).sum(axis=1)
        filled = (there & first & last & clear).sum(axis=1)
        alike[spaced] = np.where(held >= _FEWEST, filled / np.maximum(held, 1), 0.0)
        return alike

    def drifts(
        self, tiles: NDArray[np.intp], margins: NDArray[np.intp], spacings: NDArray[np.intp]
    ) -> NDArray[np.float64]:
        """How much better another pitch tells where art lies in each tile, 0 if none does.

        That is a log likelihood ratio: with a wrong pitch the centres of what tiles hold move from one to the next.
        Parameters as of `fills_alike`; returns (N,) float64.
        """
        lines, pitches = len(self.profile.filled), tiles + spacings
        told = np.stack([margins - (spacings + 1) // 2, pitches, (lines - margins + spacings) // pitches], axis=1)
        keys, places = np.unique(told, axis=0, return_inverse=True)
        return self._drift(*keys.T)[places.reshape(-1)]

    def _drift(self, first: NDArray[np.intp], pitch: NDArray[np.intp], count: NDArray[np.intp]) -> NDArray[np.float64]:
        number = np.arange(max(int(count.max()), 0) + 1)
        begins = first[:, None] + number * pitch[:, None]
        edges = np.clip(begins, 0, len(self.profile.filled))
        begins, number = begins[:, :-1], number[:-1]
        held = np.where(number < count[:, None], np.diff(self._sums[0][edges], axis=1), 0.0)
        some = held > _LEAST_HELD * np.maximum(held.max(axis=1, initial=0.0), 1e-9)[:, None]
        many = np.maximum(some.sum(axis=1), 1)

        def from_mean(values: NDArray[Any]) -> NDArray[np.float64]:
            known = np.where(some, values, 0)
            return np.where(some, known - (known.sum(axis=1) / many)[:, None], 0.0)

        centres = np.diff(self._sums[1][edges], axis=1) / np.where(some, held, 1.0) - begins
        numbers, apart = from_mean(np.broadcast_to(number, some.shape)), from_mean(centres)
        spread = (numbers * numbers).sum(axis=1)
        step = np.round((numbers * apart).sum(axis=1) / np.where(spread, spread, 1.0))
        moved = apart - step[:, None] * numbers
        left, still = ((one * one).sum(axis=1) / many + _FLOOR for one in (apart, moved))
        drifted = np.minimum(many / 2 * np.log(left / still), _MOST_DRIFT)
        return np.asarray(np.where((step != 0) & (many >= _FEWEST), drifted, 0.0))

    def at(self, pitch: int) -> Fold:
        """The fold over a pitch."""
        begins, folds = self.folds(np.array([pitch]))
        begin = int(begins[0])
        here = slice(begin, begin + pitch)
        return Fold(folds.continuity[here], folds.held[here], folds.full[here], folds.blank[here], folds.clear[here])

    def folds(self, pitches: NDArray[np.intp]) -> tuple[NDArray[np.intp], Fold]:
        """The folds over several pitches, among others, and where in them that of each pitch begins.

        Parameters
        ----------
        pitches : (N,) intp
            In pixels, in any order and as often as one likes; none is longer than the profile.

        Returns
        -------
        begins : (N,) intp
        folds : Fold
        """
        begins = self._begins[pitches]
        if (begins < 0).any():
            new = np.unique(pitches[begins < 0])
            self._begins[new] = len(self._folds.held) + np.cumsum(new) - new
            self._folds = _joined(self._folds, _folded(self._told, new))
            begins = self._begins[pitches]
        return begins, self._folds

    def short(
        self, pitches: NDArray[np.intp], margins: NDArray[np.intp], spacings: NDArray[np.intp]
    ) -> NDArray[np.float64]:
        """How far continuity falls short at the borders of tiles, in standard errors; broadcasts.

        Parameters
        ----------
        pitches, margins, spacings : (...) intp
            In pixels; of shapes that broadcast.

        Returns
        -------
        short : (...) float64
        """
        if not pitches.size:
            return np.zeros(pitches.shape)
        begins, fold = self.folds(pitches.ravel())
        begins = begins.reshape(pitches.shape)
        before, behind = (fold.continuity[begins + place % pitches] for place in (margins, margins - spacings))
        return np.asarray((self.mean - (before + behind) / 2) / self._deviation * np.sqrt(self.lines / pitches))

    def clear_inside(
        self, tiles: NDArray[np.intp], margins: NDArray[np.intp], pitches: NDArray[np.intp]
    ) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """How many lines are clear inside the tiles at their begin, and at their end; 0 where all of a pitch is.

        Parameters
        ----------
        tiles, margins, pitches : (N,) intp
            Of each hypothesis, in pixels.

        Returns
        -------
        before, after : (N,) intp
            As long as the tile where nothing but the gutter holds anything.
        """
        begins, fold = self.folds(pitches)
        place = np.arange(int(tiles.max()))
        first = [fold.clear[begins[:, None] + (margins[:, None] + place) % pitches[:, None]]]
        first += [fold.clear[begins[:, None] + (margins[:, None] + tiles[:, None] - 1 - place) % pitches[:, None]]]
        within = place < tiles[:, None]
        ends = np.stack([begins, begins + pitches], axis=1)
        bare = np.logical_and.reduceat(np.append(fold.clear, False), ends.ravel())[::2]
        told = (np.where((within & ~clear).any(axis=1), np.argmin(clear | ~within, axis=1), tiles) for clear in first)
        before, after = (np.where(bare, 0, lines) for lines in told)
        return before, after

    def deepest(self, pitches: NDArray[np.intp]) -> NDArray[np.float64]:
        """How far continuity falls short at most, whatever the margin and the spacing; in standard errors.

        Parameters
        ----------
        pitches : (N,) intp

        Returns
        -------
        short : (N,) float64
        """
        begins, folds = self.folds(pitches)
        ends = np.stack([begins, begins + pitches], axis=1)
        # Of every other stretch, from one end to the next, nothing is wanted.
        least = np.minimum.reduceat(np.append(folds.continuity, np.inf), ends.ravel())[::2]
        return np.asarray((self.mean - least) / self._deviation * np.sqrt(self.lines / pitches))


def _joined(first: Fold, second: Fold) -> Fold:
    return Fold(
        np.concatenate([first.continuity, second.continuity]),
        np.concatenate([first.held, second.held]),
        np.concatenate([first.full, second.full]),
        np.concatenate([first.blank, second.blank]),
        np.concatenate([first.clear, second.clear]),
    )


def _folded(told: NDArray[np.float64], pitches: NDArray[np.intp]) -> Fold:
    """The folds over some pitches, one behind the other.

    Parameters
    ----------
    told : (3, N) float64
        Continuity, what is filled and what is blank, by lines; the first line is left out.
    pitches : (P,) intp
        Ascending, each but once.
    """
    begins = np.cumsum(pitches) - pitches
    bins = (begins[:, None] + np.arange(told.shape[1]) % pitches[:, None]).ravel()
    counts = np.bincount(bins, minlength=int(pitches.sum()))
    counts[begins] -= 1
    counts = np.maximum(counts, 1)
    continuity, held, blank = (
        np.bincount(bins, np.broadcast_to(one, (len(pitches), len(one))).ravel(), len(counts)) / counts for one in told
    )
    most = np.repeat(np.maximum(_upper_quartiles(held, pitches), 1e-6), pitches)
    barest = np.repeat(np.maximum.reduceat(blank, begins), pitches)
    clear = np.where(barest >= _MOSTLY, blank >= np.maximum(_MOSTLY, barest - _HARDLY), held <= _LITTLE * most)
    return Fold(continuity, held, np.minimum(held / most, 1), blank, clear)


def _upper_quartiles(values: NDArray[np.float64], sizes: NDArray[np.intp]) -> NDArray[np.float64]:
    """What three quarters of the values of each stretch do not exceed, (P,), as `numpy.quantile` tells it.

    Parameters
    ----------
    values : (sum of sizes,) float64
        One stretch behind the other.
    sizes : (P,) intp
    """
    places = np.arange(int(sizes.max()))
    ordered = np.full((len(sizes), len(places)), np.inf)
    ordered[places < sizes[:, None]] = values
    ordered.sort(axis=1)
    place = 0.75 * (sizes - 1)
    lower = place.astype(np.intp)
    one, other = (
        np.take_along_axis(ordered, at[:, None], axis=1)[:, 0] for at in (lower, np.minimum(lower + 1, sizes - 1))
    )
    return np.asarray(one + (other - one) * (place - lower))
