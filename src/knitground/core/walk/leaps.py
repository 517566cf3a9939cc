"""From platform to platform: the jumps, runs and falls by which a body gets from one to another.

Which of many jumps may lead somewhere is first told roughly, for all places at once, on the pixels of the ground. What
looks as if it did is then done by the body itself, step by step, so that every way that is told can be gone.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.grid.filled import filled
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.ground import Ground
from knitground.core.walk.figure import Figure
from knitground.core.walk.journey import WAYS, Leg, Way
from knitground.core.walk.motion import Spot
from knitground.core.walk.platforms import Platform, platforms_of
from knitground.core.walk.room import outside_of
from knitground.core.walk.side import FASTEST, Moving, Strength
from knitground.core.walk.survey import bounds_of

MOST_PIXELS = 2**24
"""Of larger grounds nothing is told: it would take minutes."""
_LONGEST = 300
_TRIES = 6
_MEETS, _ROUGHLY = 2.0, 5.0
_SETTLE = 12
_CLIMB = 1.3

Progress = Callable[[float], None]
Points = NDArray[np.float64]


class Leap(NamedTuple):
    """A way from one platform to another, numbered: where it begins, what keys lead there, and the way of the body."""

    start: int
    end: int
    begin: Spot
    legs: tuple[Leg, ...]
    way: tuple[Spot, ...]


@dataclass(frozen=True, eq=False)
class Leaps:
    """What hangs together for a body on a ground seen from the side.

    Attributes
    ----------
    platforms : tuple of Platform
    leaps : tuple of Leap
        One for each pair of platforms between which there is some way at once.
    """

    platforms: tuple[Platform, ...]
    leaps: tuple[Leap, ...]

    def below(self, spot: Spot, reach: float) -> int:
        """The platform on which something stands or hangs that is so many pixels over it at most; -1 for none."""
        best, nearest = -1, reach
        for number, one in enumerate(self.platforms):
            if one.left <= spot.x <= one.right:
                away = float(one.height_at(spot.x)) - spot.y
                if -_ROUGHLY <= away <= nearest:
                    best, nearest = number, away
        return best

    def _links(self) -> "scipy.sparse.csr_array":
        count = len(self.platforms)
        ends = np.array([(leap.start, leap.end) for leap in self.leaps], dtype=np.intp).reshape(-1, 2)
        return scipy.sparse.csr_array((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(count, count))

    def reached(self, start: int) -> frozenset[int]:
        """All platforms that can be got to from one, itself among them."""
        found = scipy.sparse.csgraph.breadth_first_order(self._links(), start, directed=True, return_predecessors=False)
        return frozenset(int(one) for one in found)

    def traps(self, start: int) -> list[Leap]:
        """Ways from where one can still get back to a platform to where one can't; one for each such place."""
        count, groups = scipy.sparse.csgraph.connected_components(self._links(), directed=True, connection="strong")
        there = self.reached(start)
        entered: dict[int, Leap] = {}
        for leap in self.leaps:
            if leap.start in there and groups[leap.start] == groups[start] != groups[leap.end]:
                entered.setdefault(int(groups[leap.end]), leap)
        return [entered[group] for group in range(count) if group in entered]


def leaps_of(figure: Figure, ground: Ground, progress: Progress = lambda share: None) -> Leaps:
    """The platforms of a ground and the ways between them.

    Parameters
    ----------
    figure : Figure
        Seen from the side.

    Raises
    ------
    BadRequest
        If the ground is too large.
    """
    width, height = ground.projection.size
    if width * height > MOST_PIXELS:
        raise BadRequest(
            f"“{ground.name}” is too large for platforms to be told; {MOST_PIXELS >> 20} megapixels are the most."
        )
    area, foot = PixelRect(0, 0, width, height), figure.foot
    closed = figure.solids.closed(area, foot).union(outside_of(bounds_of(ground), area, foot))
    # What bounds the ground has an outer side, too.
    platforms = [one for one in platforms_of(closed, figure.edges, foot) if 0 <= one.points[:, 1].max() <= height]
    rough = _Rough(filled(closed, width, height), platforms, figure.strength)
    middles = (np.arange(ground.width) + 0.5) * ground.tile_width
    starts = [one.stands(middles) for one in platforms]
    whose = np.repeat(np.arange(len(platforms)), [len(some) for some in starts])
    places = np.concatenate(starts) if starts else np.zeros((0, 2))
    hopes: dict[tuple[int, int], list[tuple[int, int, tuple[Leg, ...]]]] = {}
    tries = list(_tries(figure.strength))
    for number, legs in enumerate(tries):
        ends, ticks = rough.flown(places, legs)
        for place in np.flatnonzero((ends >= 0) & (ends != whose)).tolist():
            hopes.setdefault((int(whose[place]), int(ends[place])), []).append((int(ticks[place]), place, legs))
        progress(0.3 * (number + 1) / len(tries))
    found = []
    for number, (pair, some) in enumerate(sorted(hopes.items())):
        leap = next((leap for leap in _done(figure, platforms, pair, places, some)), None)
        if leap is not None:
            found.append(leap)
        progress(0.3 + 0.7 * (number + 1) / len(hopes))
    return Leaps(tuple(platforms), tuple(found))


def _tries(strength: Strength) -> Iterator[tuple[Leg, ...]]:
    """What is tried from every place: jumps of several lengths, straight up or aside, at once or late; runs; drops."""
    top = strength.rise

    def legs(*some: tuple[Way, int]) -> tuple[Leg, ...]:
        return tuple(Leg(way=way, ticks=ticks) for way, ticks in some if ticks > 0)

    yield legs(("N", top), ("", _LONGEST))
    yield legs(("S", top // 3), ("", _LONGEST))
    sides: tuple[tuple[Way, Way], ...] = (("NE", "E"), ("NW", "W"))
    for up, aside in sides:
        for held in (top, top // 2, top // 6):
            yield legs((up, held), (aside, _LONGEST))
            yield legs((up, held), (aside, top // 2), ("", _LONGEST))
        for late in (top // 3, 2 * top // 3, top):
            yield legs(("N", late), (up, top - late), (aside, _LONGEST))
        yield legs((aside, _LONGEST))
        for far in (top // 8, top // 3, top):
            yield legs((aside, far), ("", _LONGEST))
        for far in (top // 8, top // 4):
            yield legs((aside, far), (up, top), (aside, _LONGEST))


class _Rough:
    """Flights on the pixels of a ground, for many bodies at once, by the steps of `SideMover` but for slopes."""

    def __init__(self, closed: NDArray[np.bool_], platforms: Sequence[Platform], strength: Strength) -> None:
        self._closed, self._platforms, self._strength = np.pad(closed, 1, constant_values=True), platforms, strength
        edges = np.zeros((closed.shape[0] + 1, closed.shape[1]), dtype=np.int32)
        for one in platforms:
            if one.one_way:
                xs = np.arange(max(0, int(one.left)), min(closed.shape[1], int(one.right) + 1))
                edges[np.clip(np.floor(one.height_at(xs + 0.5)).astype(int), 0, closed.shape[0] - 1) + 1, xs] += 1
        self._edges: NDArray[np.int64] = np.cumsum(edges, axis=0)

    def flown(self, places: Points, legs: Sequence[Leg]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """On which platform bodies land, -1 for none, and after how many steps.

        Parameters
        ----------
        places : (N, 2) float64
        """
        x, y = places.T.copy()
        falls, flies, landed = np.zeros(len(x)), np.zeros(len(x), dtype=bool), np.zeros(len(x), dtype=np.intp)
        tick, jumped, held = 0, False, False
        for leg in legs:
            across, key = WAYS[leg.way]
            for _ in range(leg.ticks):
                going = landed == 0
                if not going.any() or tick >= _LONGEST:
                    break
                tick += 1
                falls += self._strength.gravity
                if key < 0 and not held and not jumped:
                    jumps = ~flies
                    falls[jumps] = self._strength.gravity - self._strength.leap
                    flies |= jumps
                    jumped = True
                elif key >= 0 and held:
                    falls[falls < 0] *= 0.5
                held = key < 0
                aside = x + across * self._strength.run
                blocked = self._at(aside, y)
                if across:
                    # Up slopes, as far as pixels tell.
                    climbs = going & blocked & ~flies & ~self._at(aside, y - _CLIMB)
                    y, blocked = np.where(climbs, y - _CLIMB, y), blocked & ~climbs
                x = np.where(going & ~blocked, aside, x)
                down = y + np.minimum(falls, FASTEST)
                hit = self._at(x, down)
                holds = (falls >= 0) & (hit | ((key <= 0) & self._crossed(x, y, down)))
                landed[going & holds & flies] = tick
                flies |= going & ~holds & (falls > 1.0)
                falls[holds | (hit & (falls < 0))] = 0.0
                y = np.where(going & ~hit & ~holds, down, y)
        # Who only ran stands where it came to.
        landed[(landed == 0) & ~flies] = tick
        return self._platform_at(x, y, landed > 0), landed

    def _at(self, x: Points, y: Points) -> NDArray[np.bool_]:
        """Whether places are closed; beyond the picture they are."""
        rows, columns = (_within(one, -1, size - 2) + 1 for one, size in zip((y, x), self._closed.shape, strict=True))
        return np.asarray(self._closed[rows, columns])

    def _crossed(self, x: Points, y: Points, down: Points) -> NDArray[np.bool_]:
        """Whether a one-way edge lies between two heights."""
        high, wide = self._edges.shape
        columns = _within(x, 0, wide - 1)
        rows, last = (_within(one, 0, high - 2) for one in (y, down))
        return np.asarray(self._edges[last + 1, columns] > self._edges[rows, columns])

    def _platform_at(self, x: Points, y: Points, wanted: NDArray[np.bool_]) -> NDArray[np.intp]:
        found, best = np.full(len(x), -1, dtype=np.intp), np.full(len(x), FASTEST)
        for number, one in enumerate(self._platforms):
            away = np.abs(one.height_at(x) - y)
            mine = wanted & (x >= one.left - 1) & (x <= one.right + 1) & (away < best)
            found[mine], best[mine] = number, away[mine]
        return found


def _within(places: Points, least: int, most: int) -> NDArray[np.intp]:
    """Places as whole pixels, those beyond as the last on that side; `numpy.clip` takes twice as long."""
    return np.asarray(np.minimum(np.maximum(np.floor(places), least), most).astype(np.intp))


def _done(
    figure: Figure, platforms: Sequence[Platform], pair: tuple[int, int], places: Points,
    hopes: Sequence[tuple[int, int, tuple[Leg, ...]]],
) -> Iterator[Leap]:  # fmt: skip
    """What the body itself gets done of what looked as if it led from one platform to another."""
    start, end = pair
    for _, place, legs in sorted(hopes, key=lambda one: one[:2])[:_TRIES]:
        begin = Spot(*places[place].tolist())
        now: Moving = figure.begin(begin)  # type: ignore[assignment]
        for _ in range(_SETTLE):
            now = figure.tick(now, "")  # type: ignore[assignment]
        if not now.stands or abs(now.spot.x - begin.x) > _MEETS:
            continue
        begin, way = now.spot, [now.spot]
        ways = [leg.way for leg in legs for _ in range(leg.ticks)][:_LONGEST]
        left = False
        for tick, key in enumerate(ways, start=1):
            now = figure.tick(now, key)  # type: ignore[assignment]
            way.append(now.spot)
            left |= not now.stands
            if now.stands and _stands_on(platforms[end], now.spot) and not _stands_on(platforms[start], now.spot):
                yield Leap(start, end, begin, _first(legs, tick), tuple(way))
            if now.stands and left:
                break


def _stands_on(platform: Platform, spot: Spot) -> bool:
    across = platform.left - _MEETS <= spot.x <= platform.right + _MEETS
    return across and abs(float(platform.height_at(spot.x)) - spot.y) <= _MEETS


def _first(legs: Sequence[Leg], ticks: int) -> tuple[Leg, ...]:
    """The first so many steps of some legs."""
    found = []
    for leg in legs:
        if ticks <= 0:
            break
        found.append(Leg(way=leg.way, ticks=min(leg.ticks, ticks)))
        ticks -= leg.ticks
    return tuple(found)
