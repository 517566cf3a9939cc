"""The figure that walks on a ground, seen from above or from the side as the ground says."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Protocol

from knitground.core.ground.ground import Ground
from knitground.core.walk.journey import Journey, Leg, Stopped, Way, speed, step_of
from knitground.core.walk.motion import Spot
from knitground.core.walk.room import USUAL_FOOT, Foot
from knitground.core.walk.seen import Seen
from knitground.core.walk.side import BODY, Moving, SideMover, edges_of, seen_from_side, usual_strength
from knitground.core.walk.solid import Solids
from knitground.core.walk.survey import bounds_of, mover_on


class Going(Protocol):
    """Where a figure is, and what it touched in the last step."""

    @property
    def spot(self) -> Spot: ...

    @property
    def touched(self) -> Spot | None: ...


@dataclass(frozen=True)
class _FromAbove:
    spot: Spot
    touched: Spot | None = None


class Figure:
    """Something that goes a step at a time.

    Attributes
    ----------
    solids : Solids
        What blocks on its ground.
    foot : Foot
        The box by which it is blocked.
    side : bool
        Whether it is seen from the side.
    edges : list of Edge
        On which it can stand from above, if it is.
    strength : Strength
    """

    def __init__(self, derived: Seen, ground: Ground, foot: Foot | None = None, *, side: bool | None = None) -> None:
        self.side = seen_from_side(ground) if side is None else side
        self.foot = foot or (BODY if self.side else USUAL_FOOT)
        self.solids: Solids
        self.solids, self.mover = mover_on(derived, ground.id, self.foot, bounds_of(ground))
        self._length = speed(ground)
        self.edges = edges_of(ground, derived.document.project.thing_kinds) if self.side else []
        self.strength = usual_strength(ground)
        self._from_side = SideMover(self.mover, self.edges, self.strength)

    def begin(self, spot: Spot) -> Going:
        """A figure at a place."""
        return Moving(spot) if self.side else _FromAbove(spot)

    def tick(self, now: Any, way: Way) -> Going:
        """One step on."""
        if self.side:
            then: Moving = self._from_side.tick(now, way)
            home = self._home(then.spot)
            return then if home == then.spot else replace(then, spot=home)
        went = self.mover.walked(now.spot, *step_of(way, self._length))
        return _FromAbove(self._home(went.spot), went.touched)

    def _home(self, spot: Spot) -> Spot:
        """Where somebody comes in who goes out over a border at which the ground goes round."""
        return Spot(*self.solids.round.home(*spot))

    def travel(self, start: Spot, legs: Sequence[Leg]) -> Journey:
        """Where a route leads it, and what it runs into first on each leg."""
        now, stopped = self.begin(start), list[Stopped]()
        for number, leg in enumerate(legs):
            told = False
            for _ in range(leg.ticks):
                now = self.tick(now, leg.way)
                if now.touched is not None and not told:
                    stopped.append(Stopped(number, now.touched))
                    told = True
        return Journey(now.spot, tuple(stopped))
