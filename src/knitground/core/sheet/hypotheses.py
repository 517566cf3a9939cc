"""Which cuts along an axis are worth weighing: those that show, and those that the other axis makes likely."""

from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import USUAL, VERY_USUAL, Axis
from knitground.core.sheet.folded import Folded
from knitground.core.sheet.profile import SMALLEST_TILE

LARGEST_TILE = 256
_LARGEST_SPACING, _LARGEST_MARGIN = 8, 16
_WIDEST_CLEAR = 32
_KEPT, _OF_ONE_PITCH, _SPLIT_PITCHES, _LEADING, _FRAMED, _TOGETHER = 26, 14, 5, 6, 16, 8
_OPEN, _MOSTLY = 0.35, 0.5
_PROPORTIONS = (1, 0.5, 0.75, 2)
_LIKELY = np.array([1 + 0.15 * ((side in USUAL) + (side in VERY_USUAL)) for side in range(max(USUAL) + 2)])
"""How likely sides of tiles are against others, by their length; the last stands for all that are longer."""
_FITS, _FLUSH, _NO_MARGIN, _AS_SPACING = 1.2, 1.15, 1.1, 1.06
_MOST_USUAL = float(_LIKELY.max()) * _FITS * _NO_MARGIN


def hypotheses(folded: Folded) -> list[Axis]:
    """What an axis shows by itself, the clearest first; the likely pitches are split in all usual ways."""
    pitches = _pitches(folded)
    at_most = folded.deepest(pitches) * _MOST_USUAL
    order = np.argsort(-at_most, kind="stable")
    found: list[tuple[float, Axis]] = []
    leading: list[tuple[float, int]] = []
    for begin in range(0, len(order), _TOGETHER):
        some = order[begin : begin + _TOGETHER]
        # What comes from here on can't be among the best any more.
        enough = len(found) == _KEPT and len(leading) == _SPLIT_PITCHES
        if enough and at_most[some[0]] < min(found[-1][0], -leading[-1][0]):
            break
        likely = list(_likeliest(folded, pitches[some]))
        found += [one for at_pitch in likely for one in at_pitch]
        found = sorted(found, key=lambda one: (-one[0], one[1]))[:_KEPT]
        best = [(-at_pitch[0][0], at_pitch[0][1].pitch) for at_pitch in likely if at_pitch]
        leading = sorted(leading + best)[:_SPLIT_PITCHES]
    axes = [axis for _, axis in found]
    for _, pitch in leading:
        for spacing in range(5):
            if pitch - spacing >= SMALLEST_TILE:
                axes += [Axis(pitch - spacing, margin, spacing) for margin in (0, spacing, 1)]
    tiles, margins, spacings = framed = _framed(folded, pitches)
    clearest = np.argsort(-folded.short(tiles + spacings, margins, spacings), kind="stable")[:_FRAMED]
    return _possible(folded, axes + [Axis(*numbers) for numbers in framed[:, clearest].T.tolist()])


def _pitches(folded: Folded) -> NDArray[np.intp]:
    return np.arange(SMALLEST_TILE, min((folded.lines + 1) // 2, LARGEST_TILE + _LARGEST_SPACING) + 1)


def companions(folded: Folded, others: list[Axis]) -> list[Axis]:
    """What suits the best of the other axis in size, margin and spacing: few tiles show little by themselves."""
    axes = [
        Axis(int(other.tile * share), margin, other.spacing)
        for other in others[:_LEADING]
        for share in _PROPORTIONS
        if other.tile * share % 1 == 0 and SMALLEST_TILE <= other.tile * share <= LARGEST_TILE
        for margin in (0, other.margin, other.spacing)
    ]
    return _possible(folded, [axis for axis in axes if axis.pitch <= folded.lines])


def sized(folded: Folded, others: list[Axis], sides: Iterable[int]) -> list[Axis]:
    """Tiles of given sides, with gaps that are usual, and those of the best of the other axis."""
    gaps = [(margin, spacing) for spacing in range(3) for margin in {0, spacing}]
    gaps += [(other.margin, other.spacing) for other in others[:_LEADING]]
    axes = [Axis(side, margin, spacing) for side in dict.fromkeys(sides) for margin, spacing in gaps]
    return _possible(folded, [axis for axis in axes if axis.pitch <= folded.lines])


def plain(folded: Folded) -> list[Axis]:
    """Tiles of very usual sides and nothing else, as many as go into the picture."""
    return [Axis(side, 0, 0) for side in sorted(VERY_USUAL) if folded.length % side == 0 and side <= folded.lines]


def whole(folded: Folded, others: list[Axis]) -> list[Axis]:
    """That there is but one tile, by itself or within margins that suit the best of the other axis."""
    framed = [
        Axis(folded.length - margins, other.margin, other.spacing)
        for other in others[:_LEADING]
        for margins in (other.margin, 2 * other.margin)
        if other.margin and margins + SMALLEST_TILE <= folded.length <= 4 * LARGEST_TILE
    ]
    # As high as the art, wherever that lies.
    shown = np.flatnonzero(folded.profile.filled)
    if shown.size and SMALLEST_TILE <= np.ptp(shown) + 1 <= 4 * LARGEST_TILE:
        framed += [Axis(int(np.ptp(shown)) + 1, int(shown[0]), other.spacing) for other in others[:_LEADING]]
    return [Axis(min(folded.length, 4 * LARGEST_TILE), 0, 0), *dict.fromkeys(framed)]


def _possible(folded: Folded, axes: Iterable[Axis]) -> list[Axis]:
    return [axis for axis in dict.fromkeys(axes) if axis.margin + axis.tile <= folded.length]


def _framed(folded: Folded, pitches: NDArray[np.intp]) -> NDArray[np.intp]:
    """Tiles as wide as what all of them show together, (3, F), if all that is clear between is narrow enough."""
    first, folds = folded.folds(pitches)
    # Each fold twice, one behind the other, so that no stretch is parted.
    begins, twice = np.cumsum(2 * pitches) - 2 * pitches, np.repeat(pitches, 2 * pitches)
    within = np.arange(len(twice)) - np.repeat(begins, 2 * pitches)
    clear = folds.clear[np.repeat(first, 2 * pitches) + within % twice]
    filled = np.maximum.accumulate(np.where(clear, 0, np.arange(len(twice))))
    ends = np.flatnonzero(clear[:-1] & ~clear[1:] & (within[:-1] < twice[:-1]))
    pitch = twice[ends]
    wide = ends + pitch - filled[ends + pitch]
    order = np.lexsort((ends, -wide, pitch))
    widest = order[np.unique(pitch[order], return_index=True)[1]]
    pitch, spacing, margin = pitch[widest], wide[widest], (within[ends[widest]] + 1) % pitch[widest]
    found = np.stack([pitch - spacing, margin, spacing])
    return np.asarray(found[:, spacing <= np.minimum(_WIDEST_CLEAR, pitch - SMALLEST_TILE)])


def _likeliest(folded: Folded, pitches: NDArray[np.intp]) -> Iterator[list[tuple[float, Axis]]]:
    """The likeliest of each pitch with a first, rough score, the best first."""
    rough = _rough(folded, pitches[:, None, None])
    spacings = rough.shape[2]
    rough = rough.reshape(len(pitches), -1)
    order = np.argsort(-rough, axis=1, kind="stable")[:, :_OF_ONE_PITCH]
    scores = np.take_along_axis(rough, order, axis=1).tolist()
    for pitch, some, places in zip(pitches.tolist(), scores, order.tolist(), strict=True):
        likely = [(score, *divmod(place, spacings)) for score, place in zip(some, places, strict=True) if score > 0]
        yield [(score, Axis(pitch - spacing, margin, spacing)) for score, margin, spacing in likely]


def _rough(folded: Folded, pitches: NDArray[np.intp]) -> NDArray[np.float64]:
    """A rough score, (P, M, S), of each of some margins and spacings, given pitches (P, 1, 1); 0 where it can't be."""
    blank = folded.profile.blank
    first = 0 if blank.all() else int(np.argmin(blank))
    margins = np.arange(min(_LARGEST_MARGIN, int(pitches.max()) - 1, first) + 1)[:, None]
    spacings = np.arange(min(_LARGEST_SPACING, int(pitches.max()) - SMALLEST_TILE) + 1)
    begins, fold = folded.folds(pitches.ravel())
    last = begins[:, None, None] + (margins - np.maximum(spacings, 1)) % pitches
    filled = np.cumsum(np.where(spacings, fold.full[last], 0), axis=2) / np.maximum(spacings, 1)
    gutter = np.minimum.accumulate(np.where(spacings, fold.blank[last], 1.0), axis=2)
    clear = np.logical_and.accumulate(np.where(spacings, fold.clear[last], True), axis=2)
    short = folded.short(pitches, margins, spacings)
    may = (clear | (filled <= _OPEN) | (gutter >= _MOSTLY)) & (short > 0)
    may &= (margins < pitches) & (pitches - spacings >= SMALLEST_TILE)
    may &= pitches - spacings + margins <= folded.length
    return np.where(may, short * _usual(pitches, margins, spacings, folded.length) * (1 - filled / 2), 0.0)


def _usual(
    pitches: NDArray[np.intp], margins: NDArray[np.intp], spacings: NDArray[np.intp], length: int
) -> NDArray[np.float64]:
    """How much more usual some numbers are than others: round sizes, exact fits, a margin like the spacing.

    Parameters
    ----------
    pitches, margins, spacings : (...) intp
        Of shapes that broadcast.
    length : int
        Of the picture, in pixels.

    Returns
    -------
    likely : (...) float64
    """
    tiles = pitches - spacings
    likely = _LIKELY[np.clip(tiles, 0, len(_LIKELY) - 1)]
    left = (length - margins + spacings) % pitches
    fits = np.where(left == margins, _FITS, np.where(left == 0, _FLUSH, np.where(left > tiles // 3, 0.85, 1.0)))
    likely = likely * fits
    return np.asarray(likely * np.where(margins == 0, _NO_MARGIN, np.where(margins == spacings, _AS_SPACING, 1.0)))
