"""Guessing how a sheet is cut, from the sheet alone.

Art goes on from pixel to pixel inside a tile and stops where the next begins, be it at a gutter, at padding or at an
abrupt change. Along each axis this *continuity* is measured between all neighbouring lines of pixels and folded over
every pitch (see `folded`). What shows is gathered for both axes (`hypotheses`) and weighed together with how usual the
numbers are (`plausible`); where the pixels cannot tell (a tile with padding, or a smaller tile with spacing), that
decides.
"""

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from hashlib import blake2b
from threading import Lock
from typing import Any, NamedTuple

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.axes import VERY_USUAL, Axis
from knitground.core.sheet.axis_signs import axis_signs
from knitground.core.sheet.cut import Cut, Rect, grid_of
from knitground.core.sheet.filled import Inked
from knitground.core.sheet.folded import Folded
from knitground.core.sheet.hypotheses import companions, hypotheses, plain, sized, whole
from knitground.core.sheet.loose import Spans, things_on
from knitground.core.sheet.plausible import (
    AXIS_WEIGHTS,
    NO_HEAD,
    PAIR_WEIGHTS,
    Head,
    Hints,
    Sizes,
    pair_signs,
)
from knitground.core.sheet.profile import SMALLEST_TILE, art_of, body_of, heads_of, height_against, profile_of
from knitground.core.sheet.reasons import LINES, Along, axis_reason, reason_of
from knitground.core.sheet.recurring import periods, recurrence
from knitground.core.sheet.repeated import without_repeats
from knitground.core.sheet.ringed import ringed
from knitground.core.sheet.ruled import ruled
from knitground.core.sheet.settled import settled
from knitground.core.sheet.strips import Likeness

_LONGEST_SIDE = 2048
_LEAST_CLEAR = 2.5
_MOST, _IN_DOUBT = 200, 0.1
_SURE = 0.6
_WEIGHT, _FORGIVEN, _WORST, _MOST_THINGS = 0.5, 3.0, 20.0, 400
"""How much it weighs that borders run through separate things, and up to which odds that is nothing or no worse."""
_CERTAIN = 4.0
"""By how much a grid that lines or the repeated edges of its tiles show is more likely than any other."""
_TOO_HIGH = 0.9
"""Lines that are as high as the art's, against those, are tiles and no writing."""
_UNLIKE = 0.1
"""The share of sheets that were drawn in none of the ways that the signs speak of (measured on published ones)."""

_REMEMBERED = 256
"""How many pictures' guesses are kept: of a sheet that is looked at in several ways, many parts are the same in all."""

_NUMBERS = ("tile_width", "tile_height", "margin_x", "margin_y", "spacing_x", "spacing_y")

_Likely = tuple[tuple[Axis, Axis], float]
"""A cut along both axes, and how likely it is."""


@dataclass(frozen=True)
class Guess:
    """A proposed cut with its confidence in [0, 1] among others, what speaks for it, and if drawn lines show it."""

    tile_width: int
    tile_height: int
    margin_x: int
    margin_y: int
    spacing_x: int
    spacing_y: int
    columns: int
    rows: int
    confidence: float
    reason: str = ""
    lines: bool = False

    @property
    def sureness(self) -> float:
        """How often one as likely is right, in [0, 1], as told to a user: signs may mean something else on a sheet."""
        return self.confidence * (1.0 if self.lines else 1.0 - _UNLIKE)

    def as_cut(self, name: str) -> Cut:
        """The cut that this guess proposes."""
        return Cut(id=name, **{number: getattr(self, number) for number in _NUMBERS})


def guess_cuts(picture: NDArray[np.uint8], *, most: int = 8, hints: Hints = Hints()) -> list[Guess]:
    """Proposed cuts of a sheet, best first.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    most : int
        How many to return at the most.
    hints : Hints
        What is known beside the pixels.

    Returns
    -------
    guesses : list of Guess
        Empty where the picture shows no repetition.

    Raises
    ------
    BadSheet
        If the picture is smaller than a tile could be.
    """
    height, width = picture.shape[:2]
    if min(width, height) < SMALLEST_TILE:
        raise BadSheet(f"The sheet is {width} x {height} pixels; that is too small to hold tiles.")
    return list(_guessed(picture, most, hints))


def _as_seen(picture: NDArray[np.uint8], most: int, hints: Hints) -> tuple[Any, ...]:
    """What tells a picture and what is known of it from others."""
    pixels = blake2b(np.ascontiguousarray(picture).data, digest_size=16).digest()
    return pixels, picture.shape, most, tuple(hints.sizes), hints.whole


@cached(LRUCache(_REMEMBERED), key=_as_seen, lock=Lock())
def _guessed(picture: NDArray[np.uint8], most: int, hints: Hints) -> tuple[Guess, ...]:
    height, width = picture.shape[:2]
    if hints.whole:
        hints = hints._replace(likeness=Likeness.of(picture))
    weights = np.array(list(AXIS_WEIGHTS.values())), np.array(list(PAIR_WEIGHTS.values()))
    scores: dict[tuple[Axis, Axis], float] = {}
    looks = list(looks_at(picture, hints))
    for look in looks:
        found = (look.across @ weights[0])[:, None] + look.down @ weights[0] + look.both @ weights[1]
        for place in np.argsort(-found, axis=None, kind="stable")[:_MOST].tolist():
            x, y = divmod(place, found.shape[1])
            pair, score = look.pair(x, y), float(found[x, y])
            scores[pair] = max(score, scores.get(pair, score))
    colour = picture[:_LONGEST_SIDE, :_LONGEST_SIDE].astype(np.int16)
    art = art_of(colour)
    against = _Against.of(art)
    for pair, odds in zip(scores, against.weigh(scores), strict=True):
        scores[pair] += odds
    best = sorted(scores, key=lambda pair: -scores[pair])[:_MOST]
    for pair, full in zip(best, Inked(art).fills(best), strict=True):
        scores[pair] += _CERTAIN * full
    lines = ruled(colour, art)
    certain = (lines.across, lines.down) if lines is not None else ringed(colour, art)
    if certain is not None:
        scores[certain] = max(scores.values()) + _CERTAIN
    ranked = sorted(scores, key=lambda pair: (-scores[pair], pair))
    likely = np.exp([scores[pair] - scores[ranked[0]] for pair in ranked])
    likely /= likely.sum()
    ranked_likely = list(zip(ranked, likely.tolist(), strict=True))
    told = _in_doubt(_with_usual(ranked_likely, width, height) if hints.whole else ranked_likely)
    across, down = (
        Along.of(one, recurs) for one, recurs in zip((picture, picture.swapaxes(0, 1)), looks[0].recurs, strict=True)
    )
    reasons = [
        {axis: axis_reason(axis, along) for axis in {pair[number] for pair, _ in told[:most]}}
        for number, along in enumerate((across, down))
    ]
    return tuple(
        _as_guess((x, y), (reasons[0][x], reasons[1][y]), (height, width), share, hints)
        for (x, y), share in told[:most]
    )


def guess_part(part: NDArray[np.uint8], *, most: int = 8, known: Sizes = ()) -> list[Guess]:
    """Proposed cuts of a part of a sheet, best first; how roughly it was drawn round the art must not count as margin.

    Besides the part as it is, what of it is not clear is looked at, and what of it is art; each look counts as much.
    Parameters and errors as of `guess_cuts`.
    """
    part = settled(part)
    height, width = part.shape[:2]
    spans = {(0, height, 0, width)}
    for seen in (part[..., 3] > 0, art_of(part.astype(np.int16))):
        rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
        if len(rows) and min(rows[-1] - rows[0], columns[-1] - columns[0]) >= SMALLEST_TILE:
            spans.add((int(rows[0]), int(rows[-1]) + 1, int(columns[0]), int(columns[-1]) + 1))
    found: dict[Guess, Guess] = {}
    for top, bottom, left, right in sorted(spans):
        for one in guess_cuts(
            np.ascontiguousarray(part[top:bottom, left:right]), most=most, hints=Hints(known, whole=False)
        ):
            here = replace(one, margin_x=one.margin_x + left, margin_y=one.margin_y + top)
            numbers = replace(here, columns=0, rows=0, confidence=0.0, reason="", lines=False)
            before = found[numbers].confidence if numbers in found else 0.0
            found[numbers] = replace(here, confidence=before + here.confidence / len(spans))
    return drawn_once(part, sorted(found.values(), key=lambda one: -one.confidence)[:most])


def drawn_once(picture: NDArray[np.uint8], guesses: list[Guess]) -> list[Guess]:
    """The same guesses, without what repeats the edges of their tiles where that shows; see `repeated`.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    guesses : list of Guess
        Best first; of those that become the same the first stays.
    """
    told: dict[Cut, Guess] = {}
    for guess in guesses:
        cut = without_repeats(picture, guess.as_cut(""))
        wide = (guess.tile_width - cut.tile_width) // 2
        numbers = {name: getattr(cut, name) for name in _NUMBERS}
        reason = f"{guess.reason}; {wide} px at the sides of the tiles repeat their edges" if wide else guess.reason
        told.setdefault(cut, replace(guess, **numbers, reason=reason))
    return list(told.values())


class Look(NamedTuple):
    """All that is weighed of a picture, or of its upper left part.

    Attributes
    ----------
    xs, ys : list of Axis
        N and M of them.
    across : (N, len(AXIS_WEIGHTS)) float64
    down : (M, len(AXIS_WEIGHTS)) float64
    both : (N, M, len(PAIR_WEIGHTS)) float64
        The signs of each, and of each two together.
    recurs : two of (D,) float64
        How much comes again at each distance to the right, and below.
    head : int
        How many lines of the picture are left out at the top.
    """

    xs: list[Axis]
    ys: list[Axis]
    across: NDArray[np.float64]
    down: NDArray[np.float64]
    both: NDArray[np.float64]
    recurs: tuple[NDArray[np.float64], NDArray[np.float64]]
    head: int = 0

    def pair(self, x: int, y: int) -> tuple[Axis, Axis]:
        """One of each, on the whole picture."""
        down = self.ys[y]
        return self.xs[x], down._replace(margin=down.margin + self.head)


def looks_at(picture: NDArray[np.uint8], hints: Hints = Hints()) -> Iterator[Look]:
    """The hypotheses of a picture and their signs; where something is written beside the art, of the art alone too.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    hints : Hints
    """
    colour = picture[:_LONGEST_SIDE, :_LONGEST_SIDE].astype(np.int16)
    art = art_of(colour)
    body = body_of(art)
    yield _look_at(colour, art, picture, hints, art_alone=False)
    if body != art.shape:
        # What is written beside or below the art would hide its gutters.
        part = slice(0, body[0]), slice(0, body[1])
        yield _look_at(colour[part], art[part], picture, hints, art_alone=True)
    for top in heads_of(art[:, : body[1]]):
        if body[0] - top >= SMALLEST_TILE:
            part = slice(top, body[0]), slice(0, body[1])
            high = height_against(art[:, : body[1]], top)
            if high < _TOO_HIGH:
                head = Head(int(np.argmax(art.any(axis=1))), top, high, np.asarray(art[:top].any(axis=0)))
                yield _look_at(colour[part], art[part], picture, hints, art_alone=False, head=head)


def _look_at(
    colour: NDArray[np.int16],
    art: NDArray[np.bool_],
    picture: NDArray[np.uint8],
    hints: Hints,
    *,
    art_alone: bool,
    head: Head = NO_HEAD,
) -> Look:
    height, width = picture.shape[0] - head.ends, picture.shape[1]
    x, y = Folded(profile_of(colour, art), width), Folded(profile_of(colour.swapaxes(0, 1), art.T), height)
    own_x, own_y = hypotheses(x), hypotheses(y)
    recurs = recurrence(colour, art), recurrence(colour.swapaxes(0, 1), art.T)
    again = [side for one in recurs for side in periods(one, SMALLEST_TILE)]
    xs = _weighed(x, own_x, own_y, [*(width for width, _ in hints.sizes), *hints.likeness.across, *again])
    ys = _weighed(y, own_y, own_x, [*(height for _, height in hints.sizes), *hints.likeness.down, *again])
    clearest = _clearest(x, xs), _clearest(y, ys)
    across, down = (
        axis_signs(folded, axes, max(clear, _LEAST_CLEAR), one, whole=hints.whole)
        for folded, axes, clear, one in ((x, xs, clearest[0], recurs[0]), (y, ys, clearest[1], recurs[1]))
    )
    both = pair_signs(
        xs, ys, width, height, clearest=clearest, recurs=recurs, art_alone=art_alone, hints=hints, head=head
    )
    return Look(xs, ys, across, down, both, recurs, head.ends)


def _weighed(folded: Folded, own: list[Axis], others: list[Axis], sides: list[int]) -> list[Axis]:
    """All that is weighed of one axis, given what both show by themselves and sides that tiles are likely to have."""
    likely = *companions(folded, others), *sized(folded, others, sides), *plain(folded), *whole(folded, others)
    return list(dict.fromkeys([*own, *likely]))


def _clearest(folded: Folded, axes: list[Axis]) -> float:
    """How far continuity falls short at the borders of the clearest of some hypotheses, in standard errors."""
    tiles, margins, spacings = np.array([axis for axis in axes if axis.pitch <= folded.lines]).reshape(-1, 3).T
    return max(0.0, float(folded.short(tiles + spacings, margins, spacings).max(initial=0.0)))


def _with_usual(ranked: list[_Likely], width: int, height: int) -> list[_Likely]:
    """The same; where the first is a guess from a usual size, and in doubt, other usual sizes come next."""

    def is_plain(pair: tuple[Axis, Axis]) -> bool:
        side = pair[0].tile
        return pair == (Axis(side, 0, 0),) * 2 and side in VERY_USUAL and width % side == 0 == height % side

    (first, share), *others = ranked
    if share >= _SURE or not is_plain(first):
        return ranked
    usual = [one for one in others if is_plain(one[0])][:2]
    return [ranked[0], *usual, *(one for one in others if one not in usual)]


def _in_doubt(ranked: list[_Likely]) -> list[_Likely]:
    """The same, so that the second and the third differ from those before in what is most in doubt.

    That is how a pitch is split into tile and spacing, and whether it is a multiple of the true one; a margin that is
    hardly in doubt can be seen and dragged right.
    """
    told: list[_Likely] = []
    rest: list[_Likely] = []
    known = set()
    for pair, share in ranked:
        split = tuple((axis.tile, axis.spacing) for axis in pair)
        if len(told) < 3 and (split not in known or share >= _IN_DOUBT):
            told.append((pair, share))
            known.add(split)
        else:
            rest.append((pair, share))
    return told + rest


class _Against(NamedTuple):
    """Where separate things lie along both axes: what speaks against numbers whose borders run through them."""

    across: Spans
    down: Spans

    @classmethod
    def of(cls, art: NDArray[np.bool_]) -> "_Against":
        """Those of a picture; without any where they are too many, as stars are.

        Parameters
        ----------
        art : (H, W) bool
            Where there is art.
        """
        things = things_on(art, Rect(0, 0, art.shape[1], art.shape[0]))
        known = things if len(things) <= _MOST_THINGS else []
        return cls(Spans.across(known), Spans.down(known))

    def weigh(self, pairs: Collection[tuple[Axis, Axis]]) -> list[float]:
        """What is taken off each score: nothing unless things lie worse in these tiles than chance would have them."""
        across, down = (spans.odds_of_each(list({pair[along] for pair in pairs})) for along, spans in enumerate(self))
        return [_WEIGHT * min(max(across[x] + down[y] + _FORGIVEN, -_WORST), 0.0) for x, y in pairs]


def _as_guess(
    pair: tuple[Axis, Axis], reasons: tuple[str, str], size: tuple[int, int], confidence: float, hints: Hints
) -> Guess:
    """The guess of both, given what speaks for each, on a picture of some height and width."""
    x, y = pair
    cut = Cut("guess", x.tile, y.tile, x.margin, y.margin, x.spacing, y.spacing)
    grid = grid_of(cut, *reversed(size))
    reason = reason_of(*reasons)
    if (x.tile, y.tile) in hints.sizes:
        reason += "; other sheets of the project are cut so"
    return Guess(
        x.tile,
        y.tile,
        x.margin,
        y.margin,
        x.spacing,
        y.spacing,
        grid.columns,
        grid.rows,
        round(float(confidence), 4),
        reason,
        all(LINES in reason for reason in reasons),
    )
