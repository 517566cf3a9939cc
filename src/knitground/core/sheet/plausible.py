"""How plausible a cut is: the signs for and against it, each with its weight.

Each sign is a number that a sheet and a cut have; the weights say how much likelier a cut becomes with it. Together
they make a conditional logit model (McFadden 1974): the chance of a cut, among all that are weighed, goes with
the exponential of the weighted sum. The weights were fitted on made-up sheets, kind and unkind (`bench/fit_guess.py`),
and held small, so that no sign decides by itself. Those of measured signs say what pixels tell; those of sizes,
margins and fits are what remains where pixels tell nothing.

References
----------
D. McFadden, "Conditional logit analysis of qualitative choice behavior", Frontiers in Econometrics (1974).
"""

from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import USUAL, VERY_USUAL, Axes, Axis
from knitground.core.sheet.profile import SMALLEST_TILE
from knitground.core.sheet.strips import Likeness

Sizes = Collection[tuple[int, int]]
"""Widths and heights of tiles, in pixels."""

AXIS_WEIGHTS = {
    # How clearly art breaks off at the borders: by itself, against the clearest of the axis, and by what is lacking.
    "shows": 2.819,
    "share_of_clearest": 5.517,
    "behind_clearest": 0.053,
    # How clearly a half, a third, or twice the pitch shows.
    "half_shows": -2.012,
    "third_shows": 0.006,
    "double_shows": -0.298,
    "every_other_only": -1.366,
    "every_other_bare": -5.549,
    "repeats": 0.374,
    "single": -2.490,
    # What lies in the gutters, and how much clear room is inside the tiles.
    "gutter_filled": -1.247,
    "gutter_not_clear": -2.853,
    "padding": 0.200,
    "padding_unspaced": 0.345,
    "padding_uneven": -1.907,
    "gutter_wider": -1.832,
    "begins_inside": -0.825,
    # Set beside the others, with these as they are.
    "drifts": -1.2,
    "fills_alike": 1.5,
    "leaves_out": -1.0,
    "single_leaves_out": -5.0,
    # How much of what is drawn comes again a tile further on, at a part of that, and at another distance.
    "recurs": 2.1,
    "recurs_within": -5.2,
    "recurs_elsewhere": -0.7,
    # Which numbers are usual.
    "very_usual": 0.664,
    "usual": 1.837,
    "small": -2.947,
    "of_16": -0.153,
    "of_8": 1.009,
    "of_4": -1.520,
    "odd": -0.624,
    "odd_unspaced": -0.043,
    "fits_with_margin": 1.104,
    "fits": 0.309,
    "fits_with_gutter": -0.643,
    "much_left": -0.379,
    "some_left": -0.680,
    "no_margin": 1.350,
    "margin_like_spacing": 1.522,
    "wide_margin": 0.042,
    "spacing_1": 1.180,
    "spacing_2": 2.056,
    "spacing_3": 1.955,
    "spacing_more": 2.305,
}
_HIGHEST = 1.5
_HIGHEST_FRAME, _WIDEST_FRAME = 2.5, 7
"""How many times as high as wide, and as wide as high, frames in a row are at the most."""
PARTS = range(2, 9)
"""Into how many a pitch is parted to see whether a part of it shows as well."""
_GUTTERS = 3
"""Between so many columns at least letters would not leave all gutters clear by chance."""
PAIR_WEIGHTS = {
    "square": 2.866,
    "twice_as_wide": 2.152,
    "twice_as_high": 2.279,
    "usual_proportion": 1.817,
    "very_long": 0.294,
    "same_pitch": 1.875,
    "same_spacing": 4.298,
    "same_margin": 5.545,
    "one_unspaced": -1.534,
    "both_fit": 2.210,
    "neither_fits": -0.349,
    "both_usual": -0.596,
    # Fitted beside the others, with these as they are; then the last two were set on sheets that were not made up.
    "plain_in_doubt": 27.363,
    "strip_in_doubt": 16.0,
    "one_row": 4.0,
    "art_alone": 1.595,
    # Fitted beside the others, with these as they are.
    "both_recur": 10.4,
    "both_recur_within": -3.6,
    # Set by hand beside the fitted ones, which know no headings.
    "under_writing": 2.0,
    "writing_high": -8.0,
    "writing_crosses": 5.0,
    "row_above": -0.3,
    "row_keeps_off": -4.0,
    # Set by hand: what else the sheet belongs to, and that all tiles are in one row and alike.
    "known_size": 6.0,
    "row_of_alike": 10.0,
    "grid_of_alike": 6.0,
}


class Head(NamedTuple):
    """Lines above the art that may be writing.

    Attributes
    ----------
    begins, ends : int
        The first line of it, and the first that is looked at as art.
    high : float
        How high the highest line of it is, against the usual block of lines of the art below.
    columns : (W,) bool
        In which columns there is something of it.
    """

    begins: int
    ends: int
    high: float
    columns: NDArray[np.bool_]


class Hints(NamedTuple):
    """What is known of a picture beside its pixels.

    Attributes
    ----------
    sizes : collection of (width, height)
        What tiles are likely to measure: what other sheets of a project are cut in.
    whole : bool
        Whether it is all that a file holds, so that its own size tells something; not so for a part that was cut out.
    likeness : Likeness
        How like itself a whole picture is some pixels further on.
    """

    sizes: Sizes = ()
    whole: bool = True
    likeness: Likeness = Likeness()


NO_HEAD = Head(0, 0, 0.0, np.zeros(0, dtype=np.bool_))


def pair_signs(
    xs: Sequence[Axis],
    ys: Sequence[Axis],
    width: int,
    height: int,
    *,
    clearest: tuple[float, float],
    recurs: tuple[NDArray[np.float64], NDArray[np.float64]],
    art_alone: bool,
    hints: Hints = Hints(),
    head: Head = NO_HEAD,
) -> NDArray[np.float64]:
    """The signs that both axes give together.

    Parameters
    ----------
    xs, ys : sequence of Axis
        N and M of them.
    width, height : int
        Of the picture.
    clearest : two of float
        How far continuity falls short, in standard errors, at the borders of the clearest hypothesis of each axis.
    recurs : two of (D,) float64
        How much comes again at each distance along each axis, as `recurrence` tells it.
    art_alone : bool
        Whether the art was looked at without what is written beside it.
    hints : Hints
    head : Head
        What is written above, and was left out.

    Returns
    -------
    signs : (N, M, len(PAIR_WEIGHTS)) float64
    """
    x, y = np.array(xs).T[:, :, None], np.array(ys).T[:, None]
    wide, high = x[0], y[0]
    fits_x, fits_y = Axes.of(xs).fits(width)[:, None], Axes.of(ys).fits(height)[None]
    usual = np.isin(wide, list(USUAL)) & np.isin(high, list(USUAL))
    columns, rows = Axes.of(xs).repeats(width)[:, None], Axes.of(ys).repeats(height)[None]
    known = np.zeros(usual.shape, dtype=np.bool_)
    for one, other in hints.sizes:
        known |= (wide == one) & (high == other)
    # Tiles of a usual size, or one that is known, and nothing else, and as many as go into the picture.
    plain = ((wide == high) & np.isin(wide, list(VERY_USUAL)) | known) & (x[1] + x[2] + y[1] + y[2] == 0)
    plain = plain & (columns * wide == width) & (rows * high == height) & hints.whole
    # Tiles as high as the picture, or as wide, and nothing else.
    row = (x[1] + x[2] + y[1] + y[2] == 0) & ((columns == 1) != (rows == 1)) & hints.whole
    row = row & (columns * wide == width) & (rows * high == height) & (wide <= 3 * high) & (high <= 3 * wide)
    # One row of tiles, or one column, of which the other axis shows nothing.
    strip = ((columns == 1) & (rows > 2)) / (1 + clearest[0]) + ((rows == 1) & (columns > 2)) / (1 + clearest[1])
    usual_gaps = [(spacing <= 2) & ((margin == 0) | (margin == spacing)) for _, margin, spacing in (x, y)]
    strip = strip * (fits_x & fits_y & usual_gaps[0] & usual_gaps[1] & hints.whole)
    strip = strip * ((high <= 2 * wide) & (wide <= 4 * high))
    usual_proportion = (2 * wide == 3 * high) | (3 * wide == 2 * high) | (3 * wide == 4 * high) | (4 * wide == 3 * high)
    crossed, keeps_off = _crossed(Axes.of(xs), head)
    signs = {
        "square": wide == high,
        "twice_as_wide": wide == 2 * high,
        "twice_as_high": high == 2 * wide,
        "usual_proportion": usual_proportion,
        "very_long": np.minimum(wide, high) * 4 <= np.maximum(wide, high),
        "same_pitch": wide + x[2] == high + y[2],
        "same_spacing": x[2] == y[2],
        # Below a heading the art may begin anywhere.
        "same_margin": (x[1] == y[1]) | (head.ends > 0),
        "one_unspaced": (x[2] == 0) != (y[2] == 0),
        "both_fit": fits_x & fits_y,
        "neither_fits": ~fits_x & ~fits_y,
        "both_usual": usual,
        "plain_in_doubt": plain / (1 + max(clearest)),
        "strip_in_doubt": strip,
        "one_row": row,
        "art_alone": np.full(usual.shape, art_alone),
        "known_size": known,
        **_recurring(x[0] + x[2], y[0] + y[2], recurs),
        "row_of_alike": _row_of_alike(x, y, (width, height), hints.likeness),
        "grid_of_alike": _grid_of_alike(x, y, (width, height), hints.likeness),
        "under_writing": np.full(usual.shape, head.ends > 0),
        # What is taken for writing may be tiles; but tiles are as high as others, and keep off their borders.
        "writing_high": np.full(usual.shape, min(head.high, _HIGHEST)),
        "writing_crosses": np.broadcast_to(crossed[:, None], usual.shape),
        "row_above": np.broadcast_to(_rows_above(y, head), usual.shape),
        "row_keeps_off": keeps_off[:, None] & _rows_above(y, head),
    }
    return np.stack([signs[name] for name in PAIR_WEIGHTS], axis=-1, dtype=np.float64)


def _recurring(
    across: NDArray[np.intp], down: NDArray[np.intp], recurs: tuple[NDArray[np.float64], NDArray[np.float64]]
) -> dict[str, NDArray[np.float64]]:
    """How much comes again a tile further on to the right as well as below, and how much at a part of both."""

    def both(by: int) -> NDArray[np.float64]:
        even = (across % by == 0) & (down % by == 0) & (np.minimum(across, down) >= by * SMALLEST_TILE)
        at = (
            again[np.minimum(pitch // by, len(again) - 1)] for again, pitch in zip(recurs, (across, down), strict=True)
        )
        return np.where(even & (np.maximum(across, down) < by * len(recurs[0])), np.minimum(*at), 0.0)

    return {"both_recur": both(1), "both_recur_within": np.maximum.reduce([both(by) for by in PARTS])}


def _row_of_alike(
    x: NDArray[np.intp], y: NDArray[np.intp], size: tuple[int, int], likeness: Likeness
) -> NDArray[np.float64]:
    """How sharply tiles are alike in one row, or in one column, that takes all of a picture.

    Parameters
    ----------
    x, y : (3, N, 1) and (3, 1, M) intp
        Tiles, margins and spacings.
    size : (int, int)
        Width and height of the picture.
    likeness : Likeness

    Returns
    -------
    sharply : (N, M) float64
    """
    found = np.zeros(np.broadcast(x[0], y[0]).shape)
    for along, across, length, high, alike, others in (
        (x, y, *size, likeness.across, likeness.down),
        (y, x, *size[::-1], likeness.down, likeness.across),
    ):
        sharply = _at(alike, along[0])
        # What is alike the other way, too, is a grid.
        sharply = np.maximum(0.0, sharply - max(others.values(), default=0.0))
        only = (along[1] + along[2] == 0) & (length % along[0] == 0) & (across[0] == high)
        found += sharply * (only & (along[0] * _HIGHEST_FRAME >= high) & (along[0] <= _WIDEST_FRAME * high))
    return found


def _grid_of_alike(
    x: NDArray[np.intp], y: NDArray[np.intp], size: tuple[int, int], likeness: Likeness
) -> NDArray[np.float64]:
    """How sharply tiles are alike both across and down, of those that fill a picture; see `_row_of_alike`."""
    fills = (x[1] + x[2] + y[1] + y[2] == 0) & (size[0] % x[0] == 0) & (size[1] % y[0] == 0)
    return np.asarray(np.minimum(_at(likeness.across, x[0]), _at(likeness.down, y[0])) * fills)


def _at(alike: Mapping[int, float], pitches: NDArray[np.intp]) -> NDArray[np.float64]:
    """What is known of some pitches, 0 where nothing is."""
    return np.array([alike.get(pitch, 0.0) for pitch in pitches.ravel().tolist()]).reshape(pitches.shape)


def _crossed(axes: Axes, head: Head) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """The share of the borders between columns that what is taken for writing goes over, (N,), given axes across.

    And whether it keeps off all gutters, and those are some, as tiles do and letters would not.
    """
    inked = np.flatnonzero(head.columns)
    if not len(inked):
        return np.zeros(len(axes.tile)), np.zeros(len(axes.tile), dtype=np.bool_)
    last, spacing = int(inked[-1]), axes.spacing[:, None]
    # Where tiles begin behind others, as far as the writing reaches.
    begins = (axes.margin + axes.pitch)[:, None] + np.arange(last // int(axes.pitch.min())) * axes.pitch[:, None]
    under = (begins - spacing > inked[0]) & (begins <= last)
    before, begins = np.where(under, begins - spacing, 0), np.where(under, begins, 0)
    sums = np.concatenate([[0], np.cumsum(head.columns)])
    across = np.where(spacing, sums[begins] > sums[before], head.columns[begins] & head.columns[begins - 1])
    many = under.sum(axis=1)
    shares = (across & under).sum(axis=1) / np.maximum(many, 1)
    return shares, (axes.spacing > 0) & (many >= _GUTTERS) & (shares == 0)


def _rows_above(y: NDArray[np.intp], head: Head) -> NDArray[np.bool_]:
    """Whether what is taken for writing may be rows of tiles, given the axes down: it lies within whole ones."""
    pitch, first = y[0] + y[2], y[1] + head.ends
    rows = first // pitch
    return np.asarray((head.ends > 0) & (rows > 0) & (first - rows * pitch <= head.begins))
