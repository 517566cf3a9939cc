"""How a figure moves seen from the side: it runs, jumps and falls, climbs slopes, and stands on one-way edges.

Steps are of 1/120 s, and the same keys always lead to the same place. A jump that is asked for a little before the
figure lands, or a little after it ran over an edge, counts.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import NamedTuple

from knitground.core.ground.ground import Ground
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import ThingKind, outline, properties_of
from knitground.core.walk.journey import WAYS, Way
from knitground.core.walk.motion import SKIN, TICKS, Mover, Spot
from knitground.core.walk.room import Foot

BODY = Foot(10.0, 14.0)
ONE_WAY = "one-way"
"""The yes-or-no property by which a line can be stood on from above, and passed from below."""
VIEW = "view"
"""The property of a ground that says that it is seen from the "side"."""
_SOON = TICKS // 10
"""For how many steps a jump still counts."""
FLOOR = 0.6
"""How much a normal has to point up for what it belongs to be stood on: slopes up to about 53 degrees."""
FASTEST = 12.0
"""How many pixels a step it falls at the most."""


class Edge(NamedTuple):
    """A one-way edge, from left to right, in pixels."""

    left: float
    left_y: float
    right: float
    right_y: float

    def height_at(self, x: float) -> float:
        """How far down it is at a place across."""
        share = min(max((x - self.left) / max(self.right - self.left, 1e-9), 0.0), 1.0)
        return self.left_y + (self.right_y - self.left_y) * share


@dataclass(frozen=True)
class Strength:
    """What a figure can do: pixels a step, and how high, in pixels, and how long, in steps, it jumps to the top."""

    run: float
    jump: float
    rise: int

    @property
    def gravity(self) -> float:
        """By how many pixels a step it falls faster with every step."""
        return 2 * self.jump / self.rise**2

    @property
    def leap(self) -> float:
        """How many pixels a step it rises at first."""
        return self.gravity * self.rise


@dataclass(frozen=True)
class Moving:
    """A figure on its way: the middle of its body, how fast it rises or falls, and what it may still do."""

    spot: Spot
    falls: float = 0.0
    stands: bool = False
    since_ground: int = _SOON + 1
    since_jump: int = _SOON + 1
    jumps: bool = False
    touched: Spot | None = None


def usual_strength(ground: Ground) -> Strength:
    """Six cells a second, two cells and a bit high."""
    cell = max(ground.tile_width, ground.tile_height)
    return Strength(6.0 * cell / TICKS, 2.4 * cell, round(0.38 * TICKS))


def seen_from_side(ground: Ground) -> bool:
    """Whether a ground is one to run and jump on."""
    said = ground.properties.get(VIEW)
    return said is not None and str(said.value).lower() == "side"


def edges_of(ground: Ground, kinds: Iterable[ThingKind]) -> list[Edge]:
    """The one-way edges on the prop layers of a ground."""
    kinds, found = tuple(kinds), list[Edge]()
    for layer in ground.layers:
        props = as_props(layer)
        for thing in props.things if props is not None and layer.solid != "none" else ():
            said = properties_of(thing, kinds).get(ONE_WAY)
            if thing.form == "line" and said is not None and said.value is True:
                points = outline(thing)
                for one, other in pairwise(points):
                    (left, left_y), (right, right_y) = sorted((one, other))
                    if right > left:
                        found.append(Edge(left, left_y, right, right_y))
    return found


class SideMover:
    """Moves a body over a ground seen from the side."""

    def __init__(self, mover: Mover, edges: Sequence[Edge], strength: Strength) -> None:
        self._mover, self._edges, self._strength = mover, edges, strength

    def tick(self, now: Moving, way: Way) -> Moving:
        """One step on: keys lead left or right, N jumps, S drops through one-way edges."""
        across, key = WAYS[way]
        wants = key < 0
        since_jump = 0 if wants and not now.jumps else now.since_jump + 1
        since_ground = 0 if now.stands else now.since_ground + 1
        falls, stands = now.falls + self._strength.gravity, now.stands
        leaps = since_jump <= _SOON and since_ground <= _SOON
        if leaps:
            falls, stands = self._strength.gravity - self._strength.leap, False
            since_jump = since_ground = _SOON + 1
        elif falls < 0 and not wants and now.jumps:
            # Who lets go of the key early jumps less high.
            falls *= 0.5
        spot, touched = self._run(now.spot, across * self._strength.run, stands)
        spot, falls, stands, hit = self._fall(spot, min(falls, FASTEST), key > 0, stands and not leaps)
        return replace(
            now, spot=spot, falls=falls, stands=stands, since_ground=since_ground, since_jump=since_jump,
            jumps=wants, touched=touched or hit,
        )  # fmt: skip

    def _run(self, spot: Spot, across: float, stands: bool) -> tuple[Spot, Spot | None]:
        """Sideways, up slopes where it stands; what is too steep ends it."""
        left, place = across, spot
        for _ in range(3):
            went = self._mover.straight(place, left, 0.0)
            place = went.spot
            if went.normal is None or not stands:
                break
            left *= 1 - went.share
            nx, ny = went.normal
            if -ny < FLOOR:
                return place, Spot(place.x + (1 if across > 0 else -1), place.y)
            # As far along the slope as it would have gone on level ground.
            climbed = self._mover.straight(place, 0.0, -abs(left * nx / ny) - 2 * SKIN)
            place = climbed.spot
        blocked = across and went.normal is not None
        return place, Spot(place.x + (1 if across > 0 else -1), place.y) if blocked and place.x == spot.x else None

    def _fall(self, spot: Spot, falls: float, drops: bool, stood: bool) -> tuple[Spot, float, bool, Spot | None]:
        """Up or down, onto floors and one-way edges; who stood follows slopes down."""
        reach = max(falls, self._strength.run * 1.4 + 0.5) if stood and falls >= 0 else falls
        edge = None if drops or falls < 0 else self._edge_below(spot, reach)
        foot = spot.y + self._mover.foot.height / 2
        if edge is not None:
            level = self._mover.straight(spot, 0.0, edge.height_at(spot.x) - foot - SKIN)
            return level.spot, 0.0, True, None
        went = self._mover.straight(spot, 0.0, reach)
        if went.normal is None:
            if reach != falls:
                went = self._mover.straight(spot, 0.0, falls)
            return went.spot, falls, False, None
        if falls < 0:
            return went.spot, 0.0, False, Spot(went.spot.x, went.spot.y - 1)
        if -went.normal[1] >= FLOOR:
            return went.spot, 0.0, True, None
        # It slips down what is too steep to be stood on.
        slid = self._mover.moved(spot, 0.0, falls)
        return slid.spot, min(falls, 1.0), False, None

    def _edge_below(self, spot: Spot, reach: float) -> Edge | None:
        """The highest one-way edge that a body falls onto within so many pixels."""
        half_wide, half_high = self._mover.foot.half
        foot = spot.y + half_high
        below = [
            edge
            for edge in self._edges
            if edge.left - half_wide < spot.x < edge.right + half_wide
            and foot - 2 * SKIN - 0.01 <= edge.height_at(spot.x) <= foot + reach
        ]
        return min(below, key=lambda edge: edge.height_at(spot.x), default=None)
