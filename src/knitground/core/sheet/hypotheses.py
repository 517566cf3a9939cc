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
    found: list[tuple[float, Axis]] = []
    leading: list[tuple[float, int]] = []
    at_most = {pitch: folded.deepest(pitch) * _MOST_USUAL for pitch in _pitches(folded)}
    for pitch, at_pitch in _at_pitches(folded, sorted(at_most, key=lambda one: -at_most[one])):
        # What comes from here on can't be among the best any more.
        enough = len(found) == _KEPT and len(leading) == _SPLIT_PITCHES
        if enough and at_most[pitch] < min(found[-1][0], -leading[-1][0]):
            break
        found = sorted(found + at_pitch, key=lambda one: (-one[0], one[1]))[:_KEPT]
        leading = sorted(leading + [(-score, pitch) for score, _ in at_pitch[:1]])[:_SPLIT_PITCHES]
    axes = [axis for _, axis in found]
    for _, pitch in leading:
        for spacing in range(5):
            if pitch - spacing >= SMALLEST_TILE:
                axes += [Axis(pitch - spacing, margin, spacing) for margin in (0, spacing, 1)]
    framed = [one for pitch in _pitches(folded) for one in _framed(folded, pitch)]
    tiles, margins, spacings = np.array(framed, dtype=np.intp).reshape(-1, 3).T
    clearest = np.argsort(-folded.short(tiles + spacings, margins, spacings), kind="stable")[:_FRAMED]
    return _possible(folded, axes + [framed[number] for number in clearest.tolist()])


def _pitches(folded: Folded) -> range:
    return range(SMALLEST_TILE, min((folded.lines + 1) // 2, LARGEST_TILE + _LARGEST_SPACING) + 1)


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


def _framed(folded: Folded, pitch: int) -> list[Axis]:
    """Tiles as wide as what all of them show together, if all that is clear between is narrow enough for a gutter."""
    clear = folded.at(pitch).clear
    if clear.all() or not clear.any():
        return []
    twice = np.concatenate([clear, clear])
    ends = np.flatnonzero(twice[:pitch] & ~twice[1 : pitch + 1])
    before = np.maximum.accumulate(np.where(twice, 0, np.arange(2 * pitch)))
    wide = ends + pitch - before[ends + pitch]
    widest = int(np.argmax(wide))
    margin = int(ends[widest] + 1) % pitch
    spacing = int(wide[widest])
    return [Axis(pitch - spacing, margin, spacing)] if spacing <= min(_WIDEST_CLEAR, pitch - SMALLEST_TILE) else []


def _at_pitches(folded: Folded, pitches: list[int]) -> Iterator[tuple[int, list[tuple[float, Axis]]]]:
    """The likeliest of each pitch with a first, rough score, the best first; a few pitches are looked at together."""
    for begin in range(0, len(pitches), _TOGETHER):
        some = pitches[begin : begin + _TOGETHER]
        yield from zip(some, _likeliest(folded, np.array(some)), strict=True)


def _likeliest(folded: Folded, pitches: NDArray[np.intp]) -> Iterator[list[tuple[float, Axis]]]:
    rough = _rough(folded, pitches[:, None, None])
    order = np.argsort(-rough.reshape(len(pitches), -1), axis=1, kind="stable")[:, :_OF_ONE_PITCH]
    for pitch, scores, places in zip(pitches.tolist(), rough, order.tolist(), strict=True):
        likely = [divmod(place, rough.shape[2]) for place in places]
        yield [
            (float(scores[margin, spacing]), Axis(pitch - spacing, margin, spacing))
            for margin, spacing in likely
            if scores[margin, spacing] > 0
        ]


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
