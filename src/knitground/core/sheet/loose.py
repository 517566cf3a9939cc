"""Things on a sheet that lie in no grid: told by how often the borders of one run through them.

A thing that was drawn into a grid lies in as few tiles as its size needs. One that was put down anywhere needs a tile
more as often as chance has it: a thing of 20 pixels in three of 16 places among tiles of 16 without gutters. How much
likelier all things together are under a grid than without is the *odds* of that grid, a log-likelihood ratio.
"""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.axes import Axis
from knitground.core.sheet.cut import Cut, Rect, tile_rect
from knitground.core.sheet.pieces import GAP, find_shapes

_ASTRAY = 0.1
"""How often art of a grid lies across a border without need, as what hangs out of its tile does."""
_LEAST_CHANCE = 0.02
AGAINST = -4.0
"""Odds at which a grid is not that of some things; of 347 published sheets their own grid has worse for three."""
_WELL, _ENOUGH, SURE, _SHOWS = 10.0, 1.5, 0.6, 0.1
"""Odds that count as much as being quite sure, how much of both is enough, when being sure is, and for few things."""
_CROWDED, _HARDLY = 1.5, 8.0
"""How many times as many things as tiles are too many, and odds that are not enough for a grid then."""
FEWEST, MOST = 3, 60
"""How many things are looked at: two lie anyhow by chance, and more than the last are stones in a texture."""
_FEWER, _FILLED = 0.5, 0.5
"""The share of such odds that is enough for fewer things; how filled gutters are, against tiles, that they go over."""


def things_on(art: NDArray[np.bool_], region: Rect, *, in_rows: bool = False) -> list[Rect]:
    """Separate shapes on a part of a sheet, in reading order; none if they are too many or too large to be tiles.

    Parameters
    ----------
    art : (H, W) bool
        What of the whole sheet is art.
    region : Rect
        The part that is looked at.
    in_rows : bool
        Whether those that nearly touch in even rows, as icons do, are things of their own.
    """
    try:
        found = find_shapes(art[region.slices()], gap=GAP, in_rows=in_rows)
    except BadSheet:
        return []
    return [thing._replace(x=thing.x + region.x, y=thing.y + region.y) for thing in found]


class Spans(NamedTuple):
    """Where things begin along an axis and how long they are, (N, 2) int64; alike ones tell no more than one does."""

    places: NDArray[np.int64]

    @classmethod
    def across(cls, things: Iterable[Rect]) -> "Spans":
        """From left to right."""
        return cls(np.array(sorted({(thing.x, thing.width) for thing in things}), dtype=np.int64).reshape(-1, 2))

    @classmethod
    def down(cls, things: Iterable[Rect]) -> "Spans":
        """From top to bottom."""
        return cls(np.array(sorted({(thing.y, thing.height) for thing in things}), dtype=np.int64).reshape(-1, 2))

    def odds(self, first: int, tile: int, pitch: int) -> float:
        """How much likelier they are among tiles of which the first begins somewhere than anywhere, as a logarithm."""
        return self.odds_of_each([Axis(tile, first, pitch - tile)]).popitem()[1]

    def odds_of_each(self, axes: Sequence[Axis]) -> dict[Axis, float]:
        """The same for each of some tiles with margins and spacings."""
        low, size = self.places.T
        tile, first, spacing = np.array(axes, dtype=np.int64).reshape(-1, 3).T[:, :, None]
        pitch = tile + spacing
        room = (-(-size // pitch) - 1) * pitch + tile
        chance = np.clip((room - size + 1) / pitch, 0.0, 1.0)
        fits = (low - first) % pitch + size <= room
        with np.errstate(divide="ignore"):
            odds = np.where(fits, (1 - _ASTRAY) / np.maximum(chance, _LEAST_CHANCE), _ASTRAY / (1 - chance))
        told = np.log(np.where(chance < 1, odds, 1.0)).sum(axis=1)
        return dict(zip(axes, told.tolist(), strict=True))


def odds_of(things: Sequence[Rect], cut: Cut) -> float:
    """How much likelier the places of things are if they lie in the grid of a cut than anywhere, as a logarithm."""
    return sum(_odds_along(things, cut))


def fits_not(things: Sequence[Rect], cut: Cut, least: float = AGAINST, over: int = 0) -> bool:
    """Whether some things can't well lie in the grid of a cut: its odds are at the least that much against it.

    Each time that one of them goes `over` gutters besides, those are as much worse as art of a grid seldom does that.
    """
    odds = odds_of(things, cut) + over * float(np.log(_ASTRAY))
    return 0 < len(things) <= MOST and odds <= (1.0 if len(things) >= FEWEST else _FEWER) * least


def over_gutters(art: NDArray[np.bool_], things: Iterable[Rect], cut: Cut) -> int:
    """How often some things go over the gutters of a cut, across and down: they fill what lies there in them.

    Parameters
    ----------
    art : (H, W) bool
        What of the whole sheet is art.
    """
    first = tile_rect(cut, 0, 0)
    over = 0
    for thing in things:
        there = art[thing.slices()]
        for axis, low, tile, pitch in (
            (1, thing.x - first.x, cut.tile_width, cut.pitch_x),
            (0, thing.y - first.y, cut.tile_height, cut.pitch_y),
        ):
            lines = there.sum(axis=1 - axis)
            gutter = (low + np.arange(len(lines))) % pitch >= tile
            # What only begins or ends in a gutter does not go over it.
            gutter[: pitch - tile], gutter[len(gutter) - pitch + tile :] = False, False
            over += bool(gutter.any() and lines[gutter].mean() >= _FILLED * lines[~gutter].mean())
    return over


def fits_hardly(things: Sequence[Rect], own: Cut, sure: float) -> bool:
    """Whether little speaks for the numbers that were guessed of things themselves, on the part where they lie.

    Numbers that are fitted to a few things always suit them somewhat, so the odds must be high where other signs are
    weak; `sure` is what those say, 0 to 1. Along an axis with a single tile nothing is told by them.
    """
    if own.region is None:
        many = len(things), len(things)
    else:
        many = -(-own.region.width // own.pitch_x), -(-own.region.height // own.pitch_y)
    if len(things) < FEWEST:  # a whole ground without gutters may be one, and then its borders show at least
        return many[0] * many[1] <= len(things) or sure < _SHOWS
    odds = sum(odds for odds, told in zip(_odds_along(things, own), many, strict=True) if told > 1)
    return sure < SURE and odds / _WELL + sure < _ENOUGH


def lie_crowded(things: Sequence[Rect], cut: Cut) -> bool:
    """Whether far more things lie on a sheet than tiles that they lie in, as if these were far too large."""
    first = tile_rect(cut, 0, 0)
    tiles = {
        (column, row)
        for thing in things
        for column in _from_to(thing.x - first.x, thing.width, cut.pitch_x)
        for row in _from_to(thing.y - first.y, thing.height, cut.pitch_y)
    }
    return len(things) >= _CROWDED * len(tiles)


def lie_anyhow(things: Sequence[Rect], cut: Cut) -> bool:
    """Whether things that are no tiles lie on the part of a grid: not in it at all, or crowded and hardly in it."""
    if not FEWEST <= len(things) <= MOST:
        return False
    return odds_of(things, cut) <= (_HARDLY if lie_crowded(things, cut) else AGAINST)


def _from_to(low: int, size: int, pitch: int) -> range:
    return range(low // pitch, (low + size - 1) // pitch + 1)


def _odds_along(things: Sequence[Rect], cut: Cut) -> tuple[float, float]:
    first = tile_rect(cut, 0, 0)
    across = Spans.across(things).odds(first.x, cut.tile_width, cut.pitch_x)
    return across, Spans.down(things).odds(first.y, cut.tile_height, cut.pitch_y)


def loose_cut(art: NDArray[np.bool_], region: Rect, like: Cut) -> Cut:
    """A cut of what lies on a part of a sheet by its outlines; as a grid it would have the tiles of another."""
    things = tuple(things_on(art, region, in_rows=True))
    return Cut("", like.tile_width, like.tile_height, region=region, pieces=things, gap=GAP, anchor="bottom")
