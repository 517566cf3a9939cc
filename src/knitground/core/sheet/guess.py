"""Guessing how a sheet is cut, from the sheet alone.

Art goes on from pixel to pixel inside a tile and stops where the next begins, be it at a gutter, at padding or at an
abrupt change. Along each axis this *continuity* is measured between all neighbouring lines of pixels and folded over
every pitch; a pitch, margin and spacing are as likely as continuity falls short at the borders they predict, measured
in standard errors. Spacing must hold no art. Where the picture cannot tell (a tile with padding, or a smaller tile
with spacing), usual sizes and exact fits decide, gently.
"""

from dataclasses import asdict, dataclass

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.axes import Axis, Pair, prior
from knitground.core.sheet.cut import Cut, grid_of
from knitground.core.sheet.doubts import ordered
from knitground.core.sheet.profile import SMALLEST_TILE, Profile, art_of, body_of, profile_of

LARGEST_TILE = 256
LARGEST_SPACING = 8
LARGEST_MARGIN = 16
_KEPT_PER_AXIS = 30
_SHARPNESS = 12
_LONGEST_SIDE = 2048
_MOSTLY, _HARDLY, _LITTLE = 0.5, 0.03, 0.2
_BARE, _HALF_BARE = 0.25, 0.6
_SQUARE, _CERTAIN = 1.4, 0.7


@dataclass(frozen=True)
class Guess:
    """A proposed cut with its confidence in [0, 1], and what speaks for it in words."""

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

    def as_cut(self, name: str) -> Cut:
        """The cut that this guess proposes."""
        numbers = asdict(self)
        for key in ("columns", "rows", "confidence", "reason"):
            del numbers[key]
        return Cut(id=name, **numbers)


def guess_cuts(picture: NDArray[np.uint8], *, most: int = 8) -> list[Guess]:
    """Proposed cuts of a sheet, best first.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    most : int
        How many to return at the most.

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
    colour = picture[:_LONGEST_SIDE, :_LONGEST_SIDE].astype(np.int16)
    art = art_of(colour)
    pairs = _pairs(colour, art, width, height)
    body = body_of(art)
    if body != (height, width):
        # What is written beside or below the art would hide its gutters, so the art is also looked at alone.
        pairs += _pairs(colour[: body[0], : body[1]], art[: body[0], : body[1]], width, height)
    pairs.sort(key=lambda pair: -pair[0])
    best: dict[tuple[int, ...], Pair] = {}
    for pair in pairs:
        best.setdefault((*pair[1][:3], *pair[2][:3]), pair)
    total = sum(score**_SHARPNESS for score, _, _ in best.values()) or 1.0
    ranked = ordered(list(best.values()), width, height)
    return [_as_guess(x, y, picture, score**_SHARPNESS / total) for score, x, y in ranked[:most] if score > 0]


def _pairs(colour: NDArray[np.int16], art: NDArray[np.bool_], width: int, height: int) -> list[Pair]:
    """What both axes of a picture, or of its upper left part, may be, with scores."""
    across = _axis_hypotheses(profile_of(colour, art), width)
    down = _axis_hypotheses(profile_of(colour.swapaxes(0, 1), art.T), height)
    square = _square_of(across, down) or _square_of(down, across)
    return [
        (_pair_score(x, y, art) * (_SQUARE if x.tile == y.tile == square and not x.spacing + y.spacing else 1), x, y)
        for x in across
        for y in down
    ]


def _axis_hypotheses(profile: Profile, length: int) -> list[Axis]:
    """The best few (tile, margin, spacing) along one axis."""
    found = [Axis(min(length, LARGEST_TILE * 4), 0, 0, 0.5)]
    for pitch in range(SMALLEST_TILE, min(len(profile.blank) // 2, LARGEST_TILE + LARGEST_SPACING) + 1):
        found += _at_pitch(profile, pitch, length)
    found.sort(key=lambda axis: -axis.score)
    return found[:_KEPT_PER_AXIS]


def _at_pitch(profile: Profile, pitch: int, length: int) -> list[Axis]:
    """Hypotheses of one pitch, scored by how far continuity falls short at the predicted borders."""
    inner = profile.continuity[1:]
    mean, deviation = float(inner.mean()), float(inner.std()) + 1e-9
    folded, twice = _fold(profile.continuity, pitch), _fold(profile.continuity, 2 * pitch)
    clear, held = _clear(profile, pitch), _fold(profile.filled, 2 * pitch)
    found = []
    most_margin = min(LARGEST_MARGIN, pitch - 1, int(np.argmin(profile.blank)) if not profile.blank.all() else 0)
    for margin in range(most_margin + 1):
        for spacing in range(min(LARGEST_SPACING, pitch - SMALLEST_TILE) + 1):
            if spacing and not clear[(margin - spacing) % pitch]:
                break
            tile = pitch - spacing
            if margin + tile > length:
                continue
            borders = (folded[margin % pitch] + folded[(margin - spacing) % pitch]) / 2
            short = (mean - float(borders)) / deviation * np.sqrt(len(inner) / pitch)
            if short > 0:
                likely = prior(tile, margin, spacing, length) * _padding(clear, margin, spacing)
                # Where only every other border shows, the tiles are twice as large.
                every_other = abs(twice[margin % pitch] - twice[margin % pitch + pitch]) / (mean + 1e-9)
                likely *= 1 - min(0.4, max(0.0, float(every_other) - 0.6 / np.sqrt(len(inner) / pitch)))
                if _every_other_is_bare(held, margin, tile):
                    likely *= _HALF_BARE
                found.append(Axis(tile, margin, spacing, float(short) * likely))
    return found


def _every_other_is_bare(held: NDArray[np.float64], margin: int, tile: int) -> bool:
    """Whether of any two tiles that follow one another one holds no art: then they are halves of a larger one.

    Parameters
    ----------
    held : (2 * pitch,) float64
        How much art there is at each place of two pitches.
    """
    pitch = len(held) // 2
    first, second = (float(np.take(held, np.arange(tile) + margin + start, mode="wrap").sum()) for start in (0, pitch))
    return min(first, second) < 0.01 * max(first, second)


def _clear(profile: Profile, pitch: int) -> NDArray[np.bool_]:
    """Which places of a pitch hold no art, but for a few features that were drawn right over the gutters."""
    empty = _fold(profile.blank, pitch)
    if empty.max() >= _MOSTLY:
        return np.asarray(empty >= max(_MOSTLY, float(empty.max()) - _HARDLY))
    filled = _fold(profile.filled, pitch)
    return np.asarray(filled <= _LITTLE * np.quantile(filled, 0.75))


def _fold(values: NDArray[np.generic], pitch: int) -> NDArray[np.float64]:
    """The average at each place modulo the pitch, the first line of the picture left out: nothing is before it."""
    places = np.arange(1, len(values)) % pitch
    sums = np.bincount(places, weights=values[1:], minlength=pitch)
    return np.asarray(sums / np.maximum(np.bincount(places, minlength=pitch), 1), dtype=np.float64)


def _padding(clear: NDArray[np.bool_], margin: int, spacing: int) -> float:
    """How well the clear lines inside the tile suit it: padding is mostly as wide on both sides."""
    pitch = len(clear)
    if clear.all():
        return 1.0
    before = after = 0
    while clear[(margin + before) % pitch] and before < pitch:
        before += 1
    while clear[(margin - spacing - 1 - after) % pitch] and after < pitch:
        after += 1
    if before == after == 0:
        return 1.2 if spacing else 1.0
    return 1.0 if abs(before - after) <= 1 + (before + after) // 4 else 0.9


def _pair_score(x: Axis, y: Axis, art: NDArray[np.bool_]) -> float:
    """Score of two axes together; tiles are mostly square, or diamonds half as high as wide, and evenly spaced."""
    alike = 1.25 if x.tile == y.tile else 1.1 if x.tile == 2 * y.tile and _diamonds(x, y, art) else 1.0
    alike *= 1.15 if x.spacing == y.spacing else 1.0
    alike *= 1.1 if x.margin == y.margin else 1.0
    return (x.score + y.score) * alike


def _square_of(clear: list[Axis], merged: list[Axis]) -> int | None:
    """The side of square tiles that one axis shows without doubt, where the other shows several at once as one."""
    one, other = clear[0], merged[0]
    if one.spacing or other.spacing or other.tile <= one.tile or other.tile % one.tile:
        return None
    doubts = [axis.score for axis in clear if axis.tile + axis.spacing == other.tile]
    return one.tile if max(doubts, default=0.0) < _CERTAIN * one.score else None


def _diamonds(x: Axis, y: Axis, art: NDArray[np.bool_]) -> bool:
    """Whether the corners of the tiles are nearly bare, and their middles are not."""
    corners, middles = (
        _lines(y, len(art), first, last)[:, None] & _lines(x, art.shape[1], first, last)
        for first, last in ((-0.12, 0.12), (0.38, 0.62))
    )
    shown = float(art[middles].mean()) if middles.any() else 0.0
    return bool(corners.any()) and float(art[corners].mean()) < _BARE * shown


def _lines(axis: Axis, length: int, first: float, last: float) -> NDArray[np.bool_]:
    """Which lines lie in a stretch of a tile, told in shares of it; below 0 also at its other end."""
    place = (np.arange(length) - axis.margin) % (axis.tile + axis.spacing) / axis.tile
    inside = (place >= first) & (place < last)
    return np.asarray(inside | (place >= 1 + first) & (place < 1) if first < 0 else inside)


def _as_guess(x: Axis, y: Axis, picture: NDArray[np.uint8], confidence: float) -> Guess:
    height, width = picture.shape[:2]
    cut = Cut("guess", x.tile, y.tile, x.margin, y.margin, x.spacing, y.spacing)
    grid = grid_of(cut, width, height)
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
        _reason(x, y, picture),
    )


def _reason(x: Axis, y: Axis, picture: NDArray[np.uint8]) -> str:
    """What speaks for a guess, in words."""
    across, down = _axis_reason(x, picture), _axis_reason(y, picture.swapaxes(0, 1))
    return across if across == down else f"{across} across, {down} down"


def _axis_reason(axis: Axis, picture: NDArray[np.uint8]) -> str:
    pitch = axis.tile + axis.spacing
    if not axis.spacing:
        return f"the art breaks off every {pitch} px" if picture.shape[1] >= 2 * pitch else "no repetition shows"
    places = np.arange(picture.shape[1])
    gutter = picture[:, (places >= axis.margin) & ((places - axis.margin) % pitch >= axis.tile)]
    if not gutter.size or not gutter[..., 3].any():
        return f"{axis.spacing} px of clear gutter every {pitch} px"
    one = (gutter == gutter[:1, :1]).all()
    return f"{axis.spacing} px {'lines of one colour' if one else 'between tiles without art'} every {pitch} px"
