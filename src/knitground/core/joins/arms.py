"""Tiles of a road made of its straight ones: an arm leads from each side to the middle, and what ends there is round.

Of two arms the one lies on top that is deeper in its road: so the rim of neither goes on through the other.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.joins.beside_road import ground_beside
from knitground.core.joins.palettes import Palette
from knitground.core.joins.sets import Labels
from knitground.core.joins.tile_places import places_of

Pixels = NDArray[np.uint8]
_Mask = NDArray[np.bool_]
_Numbers = NDArray[np.float64]
_AXES = ((0, 2), (3, 1))
"""The sides of a straight tile that leads down, and of one that leads across, where it begins first."""
_SAME = 8
"""By how much a channel of the ground may differ where nothing is drawn on it."""
_BORDER = 0.07
"""How near to a side of a tile its border lies."""
_STRAY = 0.04
"""What share of the borders beside a road may look like it."""
_THIN, _BROAD = 0.05, 0.9
"""What share of a tile a road covers, at the least and at the most."""
_SOLID = 128
"""How opaque is what is no shadow."""
_STEPS = 8
"""In how many places along a road its rims are looked for."""
_HARDLY = 1e-6
"""Less than any pixel."""
_INNER = 0.75
"""How much of half its breadth is no rim."""


class _Straight(NamedTuple):
    """A straight tile: what of it is road, on which line its middle lies, and half how broad it is."""

    pixels: Pixels
    road: _Mask
    middle: float
    half: float

    def deep(self, part: _Mask) -> _Numbers:
        """How many pixels deep in a part of the road each pixel lies, up to the tile's sides; shadow hardly does."""
        whole = np.pad(self.road & part, 1, mode="edge")
        deep = np.asarray(scipy.ndimage.distance_transform_edt(whole)[1:-1, 1:-1]) * part
        return np.where(self.pixels[..., 3] >= _SOLID, deep, deep * _HARDLY)


class _Road(NamedTuple):
    """A road on its ground: this, and the straight tile along each axis."""

    ground: Pixels
    straight: tuple[_Straight | None, _Straight | None]


class Arms:
    """The arms of the roads of a set of edges, from which tiles that it lacks are put together.

    Parameters
    ----------
    drawn : mapping of labels to sequences of (h, w, 4) uint8
        The tiles of each combination, all of one size.
    isometric : bool
        Whether they are diamonds.
    """

    def __init__(self, drawn: Mapping[Labels, Sequence[Pixels]], *, isometric: bool) -> None:
        self._drawn = drawn
        self._places = places_of(*next(iter(drawn.values()))[0].shape[:2], isometric=isometric)
        self._roads: dict[tuple[int, int], _Road | None] = {}

    def tile(self, labels: Labels) -> Pixels | None:
        """A tile that leads where a combination says, or None if no straight tiles show how."""
        numbers = set(labels)
        grounds = {0, *(label for known in self._drawn for label in known)} if len(numbers) == 1 else numbers
        for ground in sorted(grounds):
            for number in sorted(numbers - {ground}):
                road = self._road(ground, number) if len(numbers) < 3 else None
                made = self._made(road, [label == number for label in labels]) if road else None
                if made is not None:
                    return made
        return self._plain(*numbers) if len(numbers) == 1 else None

    def _plain(self, ground: int) -> Pixels | None:
        """A ground that no tile shows alone, if one does beside its road."""
        numbers = sorted({label for known in self._drawn for label in known} - {ground})
        roads = [road for number in numbers if (road := self._road(ground, number)) and any(road.straight)]
        return roads[0].ground if roads and (ground,) * 4 not in self._drawn else None

    def _road(self, ground: int, number: int) -> _Road | None:
        if (ground, number) not in self._roads:
            self._roads[ground, number] = self._looked_for(ground, number)
        return self._roads[ground, number]

    def _looked_for(self, ground: int, number: int) -> _Road | None:
        rows = [(number, ground, number, ground), (ground, number, ground, number)]
        lying = [one for row in rows for one in self._drawn.get(row, ())]
        plain = self._plain_tiles(ground, number) if lying else []
        if not plain:
            return None
        below = min(plain, key=lambda one: sum(int(_differs(tile, one).sum()) for tile in lying))
        down, across = (
            next((one for tile in self._drawn.get(row, ()) if (one := self._straight(tile, below, plain, axis))), None)
            for axis, row in enumerate(rows)
        )
        return _Road(below, (down, across))

    def _plain_tiles(self, ground: int, number: int) -> Sequence[Pixels]:
        """What shows a ground alone: tiles, or what those of a road show beside it, or nothing where that counts."""
        if (ground,) * 4 in self._drawn:
            return self._drawn[(ground,) * 4]
        both = np.stack([one for row, tiles in self._drawn.items() if set(row) == {ground, number} for one in tiles])
        shown = ground_beside(both, self._places)
        return [shown] if shown is not None else [] if ground else [np.zeros_like(both[0])]

    def _straight(self, tile: Pixels, below: Pixels, plain: Sequence[Pixels], axis: int) -> _Straight | None:
        """A tile as one that leads along an axis, if it does: it is told by what its ground does not show."""
        solid = tile[..., 3] >= _SOLID
        whole = self._across(_differs(tile, below), solid, axis)
        if whole is None and any(one[..., 3].any() for one in plain):
            whole = self._across(Palette(np.stack(plain)).lacks(tile) & (tile[..., 3] > 0), solid, axis)
        return _Straight(tile, *whole) if whole else None

    def _across(self, drawn: _Mask, solid: _Mask, axis: int) -> tuple[_Mask, float, float] | None:
        """What is drawn, if it goes on from side to side and nothing lies beside; its middle and half its breadth.

        Its shadow counts for none of these.
        """
        along, beside, inside = self._places.at[axis], self._places.at[1 - axis], self._places.inside
        road = scipy.ndimage.binary_fill_holes(drawn) & inside
        border = inside & ((beside < _BORDER) | (beside > 1 - _BORDER))
        stray = road[border].sum() > _STRAY * border.sum()
        if stray or not _THIN <= road[inside].mean() <= _BROAD:
            return None
        step = (along * _STEPS).astype(np.intp)
        rims = [np.quantile(beside[here], (0, 1)) for n in range(_STEPS) if (here := road & solid & (step == n)).any()]
        if len(rims) < _STEPS:
            return None
        low, high = np.median(np.array(rims), axis=0)
        # Rims were measured from the middles of their pixels.
        pixel = 1 / self._places.at.shape[1 if self._places.isometric else 2 - axis]
        return road, float(low + high) / 2, float(high - low + pixel) / 2

    def _made(self, road: _Road, leads: Sequence[bool]) -> Pixels | None:
        """The arms to some sides on the ground."""
        leads_along = [tuple(leads[side] for side in sides) for sides in _AXES]
        if any(any(both) and one is None for both, one in zip(leads_along, road.straight, strict=True)):
            return None
        tile, depth = road.ground.copy(), np.zeros(road.ground.shape[:2])
        middle = [0.5 if one is None else one.middle for one in road.straight[::-1]]
        free = self._places.inside.copy()
        for axis, (both, one) in enumerate(zip(leads_along, road.straight, strict=True)):
            if one is None or not any(both):
                continue
            before = self._places.at[axis] < middle[axis]
            part = (before & both[0]) | (~before & both[1])
            free &= ~part
            deeper = one.deep(part)
            on_top = one.road & part & (deeper > depth)
            tile[on_top], depth[on_top] = one.pixels[on_top], deeper[on_top]
        for axis, both in enumerate(leads_along):
            if any(both) and not all(both):
                self._round_off(tile, road, axis, middle[axis], free, depth > 0)
        return tile

    def _round_off(self, tile: Pixels, road: _Road, axis: int, ends: float, free: _Mask, laid: _Mask) -> None:
        """Puts a round end on an arm where it ends: its pixels go round its middle, in the rows in which they lie.

        The rim at its tip is that of the straight tile along the other axis, which may have another light.
        """
        one, other = road.straight[axis], road.straight[1 - axis]
        if one is None:
            return
        high, wide = tile.shape[:2]
        slant = 1.0 if self._places.isometric else wide / high if axis == 0 else high / wide
        beside, along = self._places.at[1 - axis] - one.middle, (self._places.at[axis] - ends) / slant
        # What lies between two pixels is of the inner one.
        far = np.hypot(beside, along) - _HARDLY
        from_one = self._beside(axis, one.middle + np.where(beside < 0, -far, far))
        end = _held(free & (far <= one.half) & one.road[from_one], laid)
        tile[end] = one.pixels[from_one][end]
        if other is not None:
            scaled = far * (other.half / one.half)
            from_other = self._beside(1 - axis, other.middle + np.where(along < 0, -scaled, scaled))
            rim = end & (np.abs(along) > np.abs(beside)) & (far > _INNER * one.half) & other.road[from_other]
            tile[rim] = other.pixels[from_other][rim]

    def _beside(self, axis: int, beside: _Numbers) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """The pixels as far along an axis as each pixel of a tile, and as far beside it as numbers say."""
        along = self._places.at[axis]
        return self._places.pixels(np.stack((along, beside) if axis == 0 else (beside, along)))


def _held(end: _Mask, laid: _Mask) -> _Mask:
    """What of an end hangs together with what is laid: a stone on its own would be cut off."""
    pieces, count = scipy.ndimage.label(end | laid, np.ones((3, 3), bool))
    return np.asarray(end & (np.bincount(pieces[laid], minlength=count + 1) > 0)[pieces])


def _differs(tile: Pixels, ground: Pixels) -> _Mask:
    """Which pixels of a tile are not as those of its ground, (h, w)."""
    apart = np.abs(tile.astype(np.int16) - ground) > _SAME
    return np.asarray(apart.any(axis=-1) & ((tile[..., 3] > 0) | (ground[..., 3] > 0)))
