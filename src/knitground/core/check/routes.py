"""Routes that were walked once and lead elsewhere now."""

import math
from collections.abc import Iterator, Sequence
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.check.reach import MOST_CELLS
from knitground.core.ground.ground import Ground, by_id
from knitground.core.walk.journey import KeptRoute
from knitground.core.walk.motion import Spot

_NEAR = 1.0
"""How many pixels off a route may end and still lead to the same place."""


def _about(facts: Facts) -> Sequence[KeptRoute]:
    small = {one.id for one in facts.grounds if one.height * one.width <= MOST_CELLS}
    return [route for route in facts.routes if route.ground in small]


def _depends(facts: Facts, route: KeptRoute) -> tuple[Any, ...]:
    return route, *facts.blocking_since(by_id(facts.grounds, route.ground))


def _find(facts: Facts, route: KeptRoute) -> Iterator[Finding]:
    ground = by_id(facts.grounds, route.ground)
    journey = facts.walked(ground, route.route)
    if math.dist(journey.end, (route.end_x, route.end_y)) <= _NEAR:
        return
    stop = journey.stopped[-1] if journey.stopped else None
    spot = stop.at if stop is not None else journey.end
    cell = ground.board.cell_at(*(float(n) for n in ground.projection.place(*spot)))
    by = f", last blocked by {facts.blamed(ground, spot)}" if stop is not None else ""
    at = f" at {_at(ground, journey.end)} and not at {_at(ground, Spot(route.end_x, route.end_y))}"
    row, column = cell if cell is not None else (None, None)
    mend = "Open its way again, or record it anew where it is to lead elsewhere."
    says = f"the route “{route.name}” on “{ground.name}” ends{at}{by}"
    yield Finding("route", "ground", says, ground.id, None, row, column, mend=mend)


def _at(ground: Ground, spot: Spot) -> str:
    cell = ground.board.cell_at(*(float(n) for n in ground.projection.place(*spot)))
    return f"column {cell[1]}, row {cell[0]}" if cell is not None else "a place off the ground"


CHECK = DefinitionCheck("routes", _about, _depends, lambda *of: tuple(_find(*of)), at_once=False)
