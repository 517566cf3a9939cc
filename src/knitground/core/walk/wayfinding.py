"""The way between two places, told to somebody who looks for one."""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.ground.ground import Ground
from knitground.core.walk.graph import way_between
from knitground.core.walk.leaps import Leaps
from knitground.core.walk.motion import TICKS, Spot
from knitground.core.walk.reach import part_name
from knitground.core.walk.seen import Seen
from knitground.core.walk.side import BODY, Strength
from knitground.core.walk.side_graph import side_graph
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
    lines : tuple of tuples of Spot
        The way as it is drawn: where it goes over a border and comes in at the other side, it begins anew.
    """

    spots: tuple[Spot, ...]
    cost: float
    says: str
    lines: tuple[tuple[Spot, ...], ...] = ()


def find_way(derived: Seen, survey: Survey, start: Spot, end: Spot) -> Found:
    """The cheapest way between two places, or why there is none."""
    parts = [survey.reach.part_at(spot) for spot in (start, end)]
    for part, where in zip(parts, ("begins", "ends"), strict=True):
        if part < 0:
            return Found((), np.inf, f"There is no room for a figure where the way {where}; choose a place beside it.")
    way = way_between(derived, survey, start, end)
    if way is None and parts[0] == parts[1]:
        says = "Both places hang together over a border, but by less room than a way could be told in."
        return Found((), np.inf, says)
    if way is None:
        one, other = (part_name(part) for part in parts)
        return Found((), np.inf, f"No way leads there: it begins in part {one} and ends in part {other}.")
    spots, cost = way
    places = np.array(spots)
    near = survey.reach.around.nearest(places[:-1], places[1:])
    pixels = float(np.hypot(*(near - places[:-1]).T).sum())
    ground = survey.solids.ground
    cells = max(1, round(pixels / np.sqrt(ground.tile_width * ground.tile_height)))
    says = f"A way of {pixels:.0f} pixels, some {cells} {'cell' if cells == 1 else 'cells'}"
    dear = abs(cost - pixels) > 0.5
    says = f"{says}; it costs {cost:.0f}." if dear else f"{says}."
    return Found(tuple(spots), cost, says, tuple(_lines(spots, near)))


def find_way_from_side(leaps: Leaps, ground: Ground, strength: Strength, start: Spot, end: Spot) -> Found:
    """The quickest way between what is stood on below two places of a ground seen from the side, or why there is none.

    Its cost is in seconds.
    """
    # One points at what a body stands on, or at its upper half, as well as at where its middle is.
    lift = BODY.height / 2 + ground.tile_height / 2
    ends = [leaps.below(Spot(spot.x, spot.y - lift), ground.projection.size[1]) for spot in (start, end)]
    for platform, where in zip(ends, ("begins", "ends"), strict=True):
        if platform < 0:
            return Found((), np.inf, f"There is nothing to stand on below where the way {where}; choose another place.")
    graph = side_graph(leaps, ground, strength.run)
    first, last = (
        int(np.where(graph.platform == platform, np.abs(graph.spots[:, 0] - spot.x), np.inf).argmin())
        for platform, spot in zip(ends, (start, end), strict=True)
    )
    count = len(graph.spots)
    links = scipy.sparse.csr_array((np.maximum(graph.ticks, 1e-6), tuple(graph.ways.T)), shape=(count, count))
    ticks, before = scipy.sparse.csgraph.dijkstra(links, indices=np.array(first), return_predecessors=True)
    if not np.isfinite(ticks[last]):
        return Found((), np.inf, "No way was found there by running, jumping and falling.")
    places = [last]
    while places[-1] != first:
        places.append(int(before[places[-1]]))
    places.reverse()
    numbers = {(one, other): number for number, (one, other) in enumerate(graph.ways.tolist())}
    runs = len(graph.ways) - len(leaps.leaps)
    spots, flown = [Spot(*graph.spots[first].tolist())], 0
    for pair in pairwise(places):
        leap = numbers[pair] - runs
        flown += leap >= 0
        spots += leaps.leaps[leap].way if leap >= 0 else [Spot(*graph.spots[pair[1]].tolist())]
    seconds = float(ticks[last]) / TICKS
    says = f"A way of {seconds:.1f} seconds with {flown} {'leap' if flown == 1 else 'leaps'}."
    return Found(tuple(spots), seconds, says, (tuple(spots),))


def _lines(spots: Sequence[Spot], near: NDArray[np.float64]) -> Iterator[tuple[Spot, ...]]:
    """A way in pieces, each of which leads a step beyond the border over which it goes.

    Parameters
    ----------
    near : (N - 1, 2) float64
        Where each of the places after the first lies, seen from the one before.
    """
    line = [spots[0]]
    for end, seen in zip(spots[1:], near.tolist(), strict=True):
        line.append(Spot(*seen))
        if line[-1] != end:
            yield tuple(line)
            before = line[-2]
            line = [Spot(before.x + end.x - seen[0], before.y + end.y - seen[1]), end]
    yield tuple(line)
