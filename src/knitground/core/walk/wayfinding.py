"""The way between two places, told to somebody who looks for one."""

from typing import NamedTuple

import numpy as np

from knitground.core.walk.graph import way_between
from knitground.core.walk.motion import Spot
from knitground.core.walk.reach import part_name
from knitground.core.walk.seen import Seen
from knitground.core.walk.survey import Survey


class Found(NamedTuple):
    """What there is between two places.

    Attributes
    ----------
    spots : tuple of Spot
        The corners of the way; none where there is no way.
    cost : float
        What it costs; as much as it is long, in pixels, where no tile is dear.
    says : str
    """

    spots: tuple[Spot, ...]
    cost: float
    says: str


def find_way(derived: Seen, survey: Survey, start: Spot, end: Spot) -> Found:
    """The cheapest way between two places, or why there is none."""
    parts = [survey.reach.part_at(spot) for spot in (start, end)]
    for part, where in zip(parts, ("begins", "ends"), strict=True):
        if part < 0:
            return Found((), np.inf, f"There is no room for a figure where the way {where}; choose a place beside it.")
    way = way_between(derived, survey, start, end)
    if way is None:
        one, other = (part_name(part) for part in parts)
        return Found((), np.inf, f"No way leads there: it begins in part {one} and ends in part {other}.")
    spots, cost = way
    places = np.array(spots)
    pixels = float(np.hypot(*np.diff(places, axis=0).T).sum())
    ground = survey.solids.ground
    cells = max(1, round(pixels / np.sqrt(ground.tile_width * ground.tile_height)))
    says = f"A way of {pixels:.0f} pixels, some {cells} {'cell' if cells == 1 else 'cells'}"
    dear = abs(cost - pixels) > 0.5
    return Found(tuple(spots), cost, f"{says}; it costs {cost:.0f}." if dear else f"{says}.")
