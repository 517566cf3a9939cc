"""The signs of how plausible cuts along one axis are, of all that are weighed at once."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import USUAL, VERY_USUAL, Axes, Axis
from knitground.core.sheet.folded import Folded
from knitground.core.sheet.plausible import AXIS_WEIGHTS, PARTS
from knitground.core.sheet.profile import SMALLEST_TILE

_BARE = 2, 3, 4, 5
_MUCH_LEFT, _ROUNDED = 0.1, 1e-6

_Numbers = NDArray[np.intp]
_Signs = dict[str, NDArray[np.float64]]


def axis_signs(
    folded: Folded, axes: Sequence[Axis], clearest: float, recurs: NDArray[np.float64], *, whole: bool = True
) -> NDArray[np.float64]:
    """The signs of hypotheses of one axis.

    Parameters
    ----------
    folded : Folded
    axes : sequence of Axis
        N of them.
    clearest : float
        How far continuity falls short, in standard errors, at the borders of the clearest hypothesis of this axis.
    recurs : (D,) float64
        How much comes again at each distance along the axis, as `recurrence` tells it.
    whole : bool
        Whether it is a whole picture; beside a part of one other things may lie.

    Returns
    -------
    signs : (N, len(AXIS_WEIGHTS)) float64
    """
    every = Axes.of(axes)
    signs = np.zeros((len(axes), len(AXIS_WEIGHTS)))
    told = every.pitch <= folded.lines
    alone = np.where(told, 0.0, 1.0)
    _put(signs, {"single": alone, "shows": alone * np.log1p(0.5), **_sizes(every.tile)})
    _put(signs, _recurring(every.pitch, recurs))
    if whole:
        left = _left_out(folded, every)
        _put(signs, {"leaves_out": left, "single_leaves_out": left * (every.repeats(folded.length) <= 1)})
    if told.any():
        some = Axes(*(numbers[told] for numbers in every))
        shown = {**_shown(folded, some, clearest), **_gutters(folded, some), **_numbers(some, folded.length)}
        shown |= {"drifts": folded.drifts(*some), "fills_alike": folded.fills_alike(*some)}
        within = signs[told]
        _put(within, shown)
        signs[told] = within
    return signs


def _put(signs: NDArray[np.float64], named: _Signs) -> None:
    for place, name in enumerate(AXIS_WEIGHTS):
        if name in named:
            signs[:, place] = named[name]


def _left_out(folded: Folded, axes: Axes) -> NDArray[np.float64]:
    """How much of the art lies before the first tile or behind the last one, from none to much."""
    held = np.concatenate([[0.0], np.cumsum(folded.profile.filled)])
    ends = axes.margin + axes.repeats(folded.length) * axes.pitch - axes.spacing
    last = len(held) - 1
    within = held[np.clip(ends, 0, last)] - held[np.clip(axes.margin, 0, last)]
    return np.asarray(np.minimum(1.0, (1 - within / max(float(held[-1]), 1e-9)) / _MUCH_LEFT))


def _shown(folded: Folded, axes: Axes, clearest: float) -> _Signs:
    """How clearly the borders show, and those of multiples and parts of the pitch."""
    pitch = axes.pitch
    short = folded.short(pitch, axes.margin, axes.spacing)
    shows = np.maximum(short, 0.1)

    def part(by: int) -> NDArray[np.float64]:
        even = (pitch % by == 0) & (pitch // by >= np.maximum(SMALLEST_TILE, axes.spacing + 1))
        shown = np.zeros(len(pitch))
        of_part = folded.short(pitch[even] // by, axes.margin[even], axes.spacing[even])
        shown[even] = np.minimum(np.maximum(of_part, 0) / shows[even], 2)
        return shown

    double, only = np.zeros(len(pitch)), np.zeros(len(pitch))
    twice = 2 * pitch <= folded.lines
    if twice.any():
        once, margin, spacing = pitch[twice], axes.margin[twice], axes.spacing[twice]
        first, fold = folded.folds(2 * once)
        starts = [fold.continuity[first + place % (2 * once)] for place in (margin, margin + once)]
        double[twice] = np.maximum(*(folded.short(2 * once, margin + place, spacing) for place in (0, once)))
        apart = np.abs(starts[0] - starts[1]) / (folded.mean + 1e-9)
        only[twice] = np.clip(apart - 0.6 / np.sqrt(folded.lines / once), 0, 0.6)
    repeats = axes.repeats(folded.length)
    return {
        "shows": np.log1p(np.maximum(short, 0)),
        "share_of_clearest": short / clearest,
        "behind_clearest": np.clip(clearest - short, 0, 6),
        "half_shows": part(2),
        "third_shows": part(3),
        "double_shows": np.clip(double / shows, 0, 2),
        "every_other_only": only,
        "every_other_bare": _every_other_bare(folded, axes),
        "repeats": np.log(np.maximum(repeats, 1)),
        "single": (repeats <= 1).astype(np.float64),
    }


def _recurring(pitch: _Numbers, recurs: NDArray[np.float64]) -> _Signs:
    """How much comes again a tile further on, how much at a part of that, and how much more at the best distance."""
    last = len(recurs) - 1
    own = np.where(pitch <= last, recurs[np.minimum(pitch, last)], 0.0)
    within = np.zeros(len(pitch))
    for by in PARTS:
        even = (pitch % by == 0) & (pitch // by >= SMALLEST_TILE) & (pitch // by <= last)
        within[even] = np.maximum(within[even], recurs[pitch[even] // by])
    best = float(recurs[SMALLEST_TILE:].max(initial=0.0))
    return {"recurs": own, "recurs_within": within, "recurs_elsewhere": best - own}


def _every_other_bare(folded: Folded, axes: Axes) -> NDArray[np.float64]:
    """Whether only each so many-th tile holds anything."""
    bare = np.zeros(len(axes.tile))
    if folded.mostly_bare:
        for by in _BARE:
            told = np.flatnonzero((bare == 0) & (axes.pitch * (by if by == 2 else 2 * by) <= folded.lines))
            bare[told] = _bare(folded, Axes(*(numbers[told] for numbers in axes)), by)
    return bare


def _bare(folded: Folded, axes: Axes, by: int) -> NDArray[np.bool_]:
    """Whether only each so many-th tile holds anything, (N,), where so many pitches go into the picture."""
    turn = by * axes.pitch
    first, fold = folded.folds(turn)
    sums = np.concatenate([[0.0], np.cumsum(fold.held)])
    begins = (axes.margin + axes.pitch * np.arange(by)[:, None]) % turn
    over = np.maximum(begins + axes.tile - turn, 0)
    held = sums[first + begins + axes.tile - over] - sums[first + begins] + sums[first + over] - sums[first]
    held.sort(axis=0)
    return np.asarray(held[-2] + _ROUNDED < 0.01 * held[-1])


def _gutters(folded: Folded, axes: Axes) -> _Signs:
    """What lies in the gutters, and how much clear room there is inside the tiles at their borders."""
    tile, margin, spacing = axes
    pitch = axes.pitch
    first, fold = folded.folds(pitch)
    back = np.arange(int(spacing.max(initial=0)))
    within = back < spacing[:, None]
    lines = first[:, None] + (margin[:, None] - 1 - back) % pitch[:, None]
    filled = np.where(within, fold.full[lines], 0.0).sum(axis=1) / np.maximum(spacing, 1)
    before, after = folded.clear_inside(tile, margin, pitch)
    padding = np.log1p(before + after)
    begins = (spacing > 0) & (before > 0) & (after > 0) & (before + after < tile)
    sides = (fold.full[first + (margin + place) % pitch] for place in (before, tile - 1 - after))
    return {
        "gutter_filled": filled,
        "gutter_not_clear": (within & ~fold.clear[lines]).any(axis=1).astype(np.float64),
        "padding": padding,
        "padding_unspaced": np.where(spacing == 0, padding, 0.0),
        "padding_uneven": np.minimum(1, np.abs(before - after) / (4 + before + after)),
        "gutter_wider": ((spacing > 0) & (before + after > 0)).astype(np.float64),
        # How suddenly art begins and ends behind clear room on both sides: there the tiles begin.
        "begins_inside": np.where(begins, np.minimum(*sides), 0.0),
    }


def _sizes(tile: _Numbers) -> _Signs:
    """How usual the sides of tiles are."""
    told = {
        "very_usual": np.isin(tile, list(VERY_USUAL)),
        "usual": np.isin(tile, list(USUAL)),
        "small": tile < 12,
        "of_16": tile % 16 == 0,
        "of_8": tile % 8 == 0,
        "of_4": tile % 4 == 0,
        "odd": tile % 2 == 1,
    }
    return {name: so.astype(np.float64) for name, so in told.items()}


def _numbers(axes: Axes, length: int) -> _Signs:
    """How usual the numbers are."""
    tile, margin, spacing = axes
    left = axes.left_over(length)
    told = {
        "odd_unspaced": (tile % 2 == 1) & (spacing == 0),
        "fits_with_margin": left == margin,
        "fits": left == 0,
        "fits_with_gutter": (left == spacing) | (left == margin + spacing),
        "much_left": left > tile // 3,
        "some_left": ~axes.fits(length),
        "no_margin": margin == 0,
        "margin_like_spacing": (margin == spacing) & (spacing > 0),
        "wide_margin": margin > np.maximum(4, spacing),
        "spacing_1": spacing == 1,
        "spacing_2": spacing == 2,
        "spacing_3": spacing == 3,
        "spacing_more": spacing >= 4,
    }
    return {name: so.astype(np.float64) for name, so in told.items()}
