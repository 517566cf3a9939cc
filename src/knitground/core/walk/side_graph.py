"""The graph of a ground seen from the side: places to stand, and the directed ways of running, jumping and falling."""

from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.ground.ground import Ground
from knitground.core.walk.leaps import Leaps
from knitground.core.walk.motion import Spot


class SideGraph(NamedTuple):
    """N places and E ways, each in one direction.

    Attributes
    ----------
    cells : (N, 2) int
        Row and column of where a body stands.
    spots : (N, 2) float64
        Where its middle is, in pixels.
    platform, part : (N,) int
        The platform; and which places hang together to and fro, 0 being the largest part.
    ways : (E, 2) int
    ticks : (E,) float64
        How many steps a way takes.
    keys : tuple of str
        What is held on each, as in "NE 46, E 18" with the number of steps; empty where one just runs.
    """

    cells: NDArray[np.intp]
    spots: NDArray[np.float64]
    platform: NDArray[np.intp]
    part: NDArray[np.intp]
    ways: NDArray[np.intp]
    ticks: NDArray[np.float64]
    keys: tuple[str, ...]


def side_graph(leaps: Leaps, ground: Ground, run: float) -> SideGraph:
    """The graph of what hangs together on a ground.

    Parameters
    ----------
    run : float
        How many pixels a body runs in a step.
    """
    middles = (np.arange(ground.width) + 0.5) * ground.tile_width
    places = [one.stands(middles) for one in leaps.platforms]
    first = np.cumsum([0, *(len(some) for some in places)])
    ways: list[tuple[int, int, float, str]] = []
    for number, some in enumerate(places):
        far = np.hypot(*np.diff(some, axis=0).T) / run
        for place, ticks in enumerate(far.tolist(), start=int(first[number])):
            ways += [(place, place + 1, ticks, ""), (place + 1, place, ticks, "")]

    def nearest(platform: int, spot: Spot) -> int:
        return int(first[platform] + np.abs(places[platform][:, 0] - spot.x).argmin())

    for leap in leaps.leaps:
        ends = nearest(leap.start, leap.begin), nearest(leap.end, leap.way[-1])
        ways.append((*ends, float(len(leap.way) - 1), ", ".join(f"{leg.way or '-'} {leg.ticks}" for leg in leap.legs)))
    spots = np.concatenate(places) if places else np.zeros((0, 2))
    platform = np.repeat(np.arange(len(places)), np.diff(first))
    pairs = np.array([way[:2] for way in ways], dtype=np.intp).reshape(-1, 2)
    rows, columns = np.floor(spots.T[::-1] / np.array([[ground.tile_height], [ground.tile_width]])).astype(np.intp)
    cells = np.stack([rows.clip(0, ground.height - 1), columns.clip(0, ground.width - 1)], axis=1)
    parts = _parts(pairs, len(spots))
    return SideGraph(
        cells, spots, platform, parts, pairs, np.array([way[2] for way in ways]), tuple(way[3] for way in ways)
    )


def _parts(ways: NDArray[np.intp], count: int) -> NDArray[np.intp]:
    """Which places hang together to and fro, (N,) int, the largest part being 0."""
    links = scipy.sparse.csr_array((np.ones(len(ways)), (ways[:, 0], ways[:, 1])), shape=(count, count))
    labels = (
        scipy.sparse.csgraph.connected_components(links, directed=True, connection="strong")[1]
        if count
        else np.zeros(0, int)
    )
    order = np.argsort(-np.bincount(labels), kind="stable") if count else np.zeros(0, dtype=np.intp)
    rank = np.empty(len(order), dtype=np.intp)
    rank[order] = np.arange(len(order))
    return np.asarray(rank[labels], dtype=np.intp)
