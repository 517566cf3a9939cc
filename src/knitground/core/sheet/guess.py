"""Guessing how a sheet is cut, from the sheet alone.

Art changes abruptly where one tile ends and the next begins. Along each axis the change between neighbouring
pixel lines is folded over every pitch; a pitch, margin and spacing are as likely as the change at the borders
they predict stands out from the rest, measured in standard errors. Spacing must look like spacing: lines of
one colour.
"""

from collections.abc import Iterator
from dataclasses import asdict, dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.cut import Cut, grid_of

SMALLEST_TILE = 6
LARGEST_TILE = 256
LARGEST_SPACING = 8
LARGEST_MARGIN = 16
_KEPT_PER_AXIS = 12
_SHARPNESS = 12
_USUAL = {16: 1.35, 32: 1.3, 24: 1.12, 48: 1.12, 64: 1.15, 128: 1.1}
_LONGEST_SIDE = 2048


@dataclass(frozen=True)
class Guess:
    """A proposed cut with its confidence in [0, 1]."""

    tile_width: int
    tile_height: int
    margin_x: int
    margin_y: int
    spacing_x: int
    spacing_y: int
    columns: int
    rows: int
    confidence: float

    def as_cut(self, name: str) -> Cut:
        """The cut that this guess proposes."""
        numbers = asdict(self)
        for key in ("columns", "rows", "confidence"):
            del numbers[key]
        return Cut(id=name, **numbers)


class _Axis(NamedTuple):
    """A hypothesis along one axis; the score is in standard errors."""

    tile: int
    margin: int
    spacing: int
    score: float


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
    colour = picture.astype(np.int16)
    colour[..., :3] = colour[..., :3] * (colour[..., 3:] > 0)
    across = _axis_hypotheses(colour[:, :_LONGEST_SIDE])
    down = _axis_hypotheses(colour[:_LONGEST_SIDE].swapaxes(0, 1))
    pairs = [(_pair_score(x, y), x, y) for x in across for y in down]
    pairs.sort(key=lambda pair: -pair[0])
    total = sum(score**_SHARPNESS for score, _, _ in pairs) or 1.0
    return [_as_guess(x, y, width, height, score**_SHARPNESS / total) for score, x, y in pairs[:most] if score > 0]


def _axis_hypotheses(colour: NDArray[np.int16]) -> list[_Axis]:
    """The best few (tile, margin, spacing) along the second axis of a picture."""
    change = np.abs(np.diff(colour, axis=1)).sum(axis=2, dtype=np.int32)
    energy = np.concatenate([[0.0], np.minimum(change, 128).mean(axis=0)])
    flat = (colour == colour[:1]).all(axis=(0, 2))
    found = [axis for pitch in _pitches(len(energy)) for axis in _at_pitch(energy, flat, pitch)]
    found.append(_Axis(min(len(energy), LARGEST_TILE * 4), 0, 0, 0.5))
    found.sort(key=lambda axis: -axis.score)
    return found[:_KEPT_PER_AXIS]


def _pitches(length: int) -> range:
    return range(SMALLEST_TILE, min(length // 2, LARGEST_TILE + LARGEST_SPACING) + 1)


def _at_pitch(energy: NDArray[np.float64], flat: NDArray[np.bool_], pitch: int) -> Iterator[_Axis]:
    """Hypotheses of one pitch, scored by how far the predicted borders stand out."""
    length = len(energy)
    mean, deviation = energy[1:].mean(), energy[1:].std() + 1e-6
    sums, counts = _fold(energy, pitch), _fold(np.ones(length), pitch)
    sums[0], counts[0] = sums[0] - energy[0], counts[0] - 1
    flat_share = _fold(flat.astype(np.float64), pitch) / np.maximum(counts, 1)
    for spacing in range(min(LARGEST_SPACING, pitch - SMALLEST_TILE) + 1):
        tile = pitch - spacing
        for margin in range(min(LARGEST_MARGIN, pitch - 1) + 1):
            if margin + tile > length:
                continue
            gutter = (margin + tile + np.arange(spacing)) % pitch
            if spacing and flat_share[gutter].min() < 0.97:
                continue
            if margin and not flat[:margin].all():
                continue
            edges = np.unique([margin % pitch, (margin + tile) % pitch])
            number = counts[edges].sum()
            stands_out = (sums[edges].sum() - mean * number) / (deviation * np.sqrt(max(number, 1)))
            left_over = (length - margin + spacing) % pitch
            score = stands_out * _prior(tile, margin, spacing, left_over)
            if score > 0:
                yield _Axis(tile, margin, spacing, float(score))


def _fold(values: NDArray[np.float64], pitch: int) -> NDArray[np.float64]:
    """Sums of the values at each place modulo the pitch."""
    return np.bincount(np.arange(len(values)) % pitch, weights=values, minlength=pitch).astype(np.float64)


def _prior(tile: int, margin: int, spacing: int, left_over: int) -> float:
    """How much more usual some numbers are than others, gently: round sizes, exact fits."""
    likely = 1.0
    likely *= _USUAL.get(tile, 1.06 if tile % 8 == 0 else 1.0)
    likely *= 1.10 if left_over in (0, margin) else 0.85 if left_over > tile // 3 else 1.0
    likely *= 1.04 if margin in (0, spacing) else 1.0
    return likely


def _pair_score(x: _Axis, y: _Axis) -> float:
    """Score of two axes together; tiles are mostly square and evenly spaced."""
    alike = 1.0
    alike *= 1.15 if x.tile == y.tile else 1.0
    alike *= 1.05 if x.spacing == y.spacing else 1.0
    alike *= 1.05 if x.margin == y.margin else 1.0
    return (x.score + y.score) * alike


def _as_guess(x: _Axis, y: _Axis, width: int, height: int, confidence: float) -> Guess:
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
        round(confidence, 4),
    )
