"""The graph of walkable places: cells in whose middle a figure has room, and the straight ways between them."""

import re
from typing import Any, NamedTuple

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.grow.agreeing import CORNER_STEPS, SIDE_STEPS
from knitground.core.grow.places import SIX_SIDES
from knitground.core.tiles.notes import TileNotes
from knitground.core.tiles.tile import NUMBER_MASK
from knitground.core.walk.borders import along_borders
from knitground.core.walk.motion import SKIN, Spot
from knitground.core.walk.reach import Reach
from knitground.core.walk.room import Round
from knitground.core.walk.seen import Seen
from knitground.core.walk.survey import Survey

COST = "cost"
"""The property of a tile that says how many times as dear it is to cross as plain ground."""
MOST_PLACES = 2**20
_COST_TAG = re.compile(rf"{COST}[ :=](\d{{1,6}}(?:\.\d{{1,3}})?)")
_FINEST = 4


class Graph(NamedTuple):
    """N places and E ways, each told from both ends.

    Attributes
    ----------
    cells : (N, 2) int
        Row and column.
    spots : (N, 2) float64
        x and y in pixels.
    part : (N,) int
        Of `Reach`.
    cost : (N,) float64
        What it costs to cross a pixel there.
    ways : (E, 2) int
        From one place to another.
    lengths : (E,) float64
        What the way costs.
    """

    cells: NDArray[np.intp]
    spots: NDArray[np.float64]
    part: NDArray[np.intp]
    cost: NDArray[np.float64]
    ways: NDArray[np.intp]
    lengths: NDArray[np.float64]


def graph_of(derived: Seen, survey: Survey, neighbours: int = 8) -> Graph:
    """The graph of a ground.

    Parameters
    ----------
    neighbours : int
        4 for ways over sides alone, 8 for those over corners, too, where neither side is closed.

    Raises
    ------
    BadRequest
        If the ground has too many cells.
    """
    ground = survey.solids.ground
    board, projection = ground.board, ground.projection
    if board.height * board.width > MOST_PLACES:
        raise BadRequest(f"“{ground.name}” has too many cells for a graph; {MOST_PLACES} are the most.")
    rows, columns = (line.ravel() for line in np.indices((board.height, board.width)))
    ys, xs = board.flat("cells", rows, columns)
    spots = np.array([projection.point(y + 0.5, x + 0.5) for y, x in zip(ys.tolist(), xs.tolist(), strict=True)])
    part = parts_at(survey.reach, spots)
    number = np.full(board.height * board.width, -1)
    there = np.flatnonzero(part >= 0)
    number[there] = np.arange(len(there))
    cost = _costs(derived, survey)[rows, columns]
    steps = list(SIDE_STEPS) if "corners" in board.painted else [*SIDE_STEPS, *SIX_SIDES]
    open_sides: dict[tuple[int, int], NDArray[np.bool_]] = {}
    ways, around = [], survey.reach.around
    for step in steps:
        ends = _beside(board, ys, xs, step, around)
        free = (ends >= 0) & (part >= 0)
        free[free] = part[ends[free]] == part[free]
        free[free] = _straight(survey.reach, spots[free], spots[ends[free]])
        open_sides[step] = free
        ways.append(np.stack([np.flatnonzero(free), ends[free]], axis=1))
    for down, across in CORNER_STEPS if neighbours == 8 and "corners" in board.painted else ():
        ends = _beside(board, ys, xs, (down, across), around)
        free = (ends >= 0) & open_sides[down, 0] & open_sides[0, across]
        free[free] = (part[ends[free]] == part[free]) & _straight(survey.reach, spots[free], spots[ends[free]])
        ways.append(np.stack([np.flatnonzero(free), ends[free]], axis=1))
    found = np.concatenate(ways) if ways else np.zeros((0, 2), dtype=np.intp)
    far = _far(around, spots[found[:, 0]], spots[found[:, 1]])
    lengths = far * (cost[found[:, 0]] + cost[found[:, 1]]) / 2
    cells = np.stack([rows, columns], axis=1)
    return Graph(cells[there], spots[there], part[there], cost[there], number[found], lengths)


def parts_at(reach: Reach, spots: NDArray[np.float64]) -> NDArray[np.intp]:
    """The part at each of some places, (N,) int; -1 where there is no room.

    Parameters
    ----------
    spots : (N, 2) float64
    """
    found = np.full(len(spots), -1, dtype=np.intp)
    keys = np.floor(spots[:, ::-1] / (reach.side[1], reach.side[0])).astype(np.intp)
    for key, room in reach.rooms.items():
        mine = np.flatnonzero((keys == key).all(axis=1))
        for number, piece in enumerate(room.pieces):
            inside = shapely.intersects_xy(piece, spots[mine, 0], spots[mine, 1])
            found[mine[inside]] = reach.parts_in(key)[number]
    return found


def _beside(board: Any, ys: NDArray[Any], xs: NDArray[Any], step: tuple[int, int], around: Round) -> NDArray[np.intp]:
    """The number of the cell a step from each, -1 for none."""
    rows, columns = board.stored("cells", ys + step[0], xs + step[1])
    rows = rows if around.height is None else rows % board.height
    columns = columns if around.width is None else columns % board.width
    there = (rows >= 0) & (rows < board.height) & (columns >= 0) & (columns < board.width)
    return np.where(there, rows * board.width + columns, -1)


def _far(around: Round, starts: NDArray[np.float64], ends: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far places are from others, the shorter way round, (N,) float64."""
    return np.asarray(np.hypot(*(around.nearest(starts, ends) - starts).T))


def _straight(reach: Reach, starts: NDArray[np.float64], ends: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Whether the straight ways between places, the shorter way round, lie in the room, (N,) bool."""
    near = reach.around.nearest(starts, ends)
    over = near != ends
    free = np.zeros(len(starts), dtype=bool)
    here = ~over.any(axis=1)
    free[here] = _straight_here(reach, starts[here], ends[here])
    for axis, period in enumerate(reach.around):
        # What goes over two borders at once, at a corner of the ground, is left out.
        mine = np.flatnonzero(over[:, axis] & ~over[:, 1 - axis])
        if period is None or not mine.size:
            continue
        one, other = starts[mine], near[mine]
        # A skin's width before the border, for the very border belongs to no room for sure.
        border = np.where(other[:, axis] > one[:, axis], period - 4 * SKIN, 4 * SKIN)
        share = (border - one[:, axis]) / (other[:, axis] - one[:, axis])
        middle = one + share[:, None] * (other - one)
        middle[:, axis] = border
        again = middle.copy()
        again[:, axis] = period - border
        free[mine] = _straight_here(reach, one, middle) & _straight_here(reach, again, ends[mine])
    return free


def _straight_here(reach: Reach, starts: NDArray[np.float64], ends: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Whether the straight ways between places on the ground itself lie in the room, (N,) bool."""
    lines: Any = shapely.linestrings(np.stack([starts, ends], axis=1)) if len(starts) else np.zeros(0, dtype=object)
    covered = np.zeros(len(starts))
    lengths: Any = shapely.length(lines)
    low, high = np.minimum(starts, ends), np.maximum(starts, ends)
    for room in reach.rooms.values():
        area = room.area
        near = (low[:, 0] <= area.right) & (high[:, 0] >= area.x) & (low[:, 1] <= area.bottom) & (high[:, 1] >= area.y)
        mine = np.flatnonzero(near)
        for piece in room.inner:
            inside = shapely.covers(piece, lines[mine])
            covered[mine[inside]] = lengths[mine[inside]]
            part = mine[~inside]
            # A way over the border of two areas lies in either by a part.
            crossing = part[~_within(area, low[part], high[part])]
            if crossing.size:
                covered[crossing] += shapely.length(shapely.intersection(piece, lines[crossing]))
    # Over a border of areas a way is told short by a skin's width on either side, and slantwise by some more.
    return np.asarray(covered >= lengths - 16 * SKIN)


def _within(area: Any, low: NDArray[np.float64], high: NDArray[np.float64]) -> NDArray[np.bool_]:
    return np.asarray(
        (low[:, 0] >= area.x) & (high[:, 0] <= area.right) & (low[:, 1] >= area.y) & (high[:, 1] <= area.bottom)
    )


def cost_of(notes: TileNotes) -> float | None:
    """How many times as dear a tile is to cross, by its property or by a tag such as "cost 3"; none where none says."""
    said = notes.properties.get(COST)
    if said is not None and said.kind in ("whole", "number"):
        return float(said.value)
    found = (_COST_TAG.fullmatch(tag) for tag in notes.tags)
    return next((float(match[1]) for match in found if match is not None), None)


def _costs(derived: Seen, survey: Survey) -> NDArray[np.float64]:
    """What it costs to cross a pixel of each cell, (H, W) float64: the dearest of its tiles, 1 where none says."""
    ground, knitted = survey.solids.ground, survey.solids.knitted
    said = {ref: cost for ref, notes in derived.document.project.tiles.items() if (cost := cost_of(notes)) is not None}
    costs = np.ones((ground.height, ground.width))
    if not said:
        return costs
    refs = list(derived.document.palette.refs)
    lookup = np.array([0.0, *(max(said.get(ref, 0.0), 0.0) for ref in refs)])
    laid = np.zeros_like(costs)
    for layer in ground.layers:
        if not layer.places_things and layer.solid != "none":
            codes = np.maximum(knitted.codes(layer.id, ground.board.whole), 0) & NUMBER_MASK
            laid = np.maximum(laid, lookup[codes])
    return np.where(laid > 0, laid, costs)


def way_between(derived: Seen, survey: Survey, start: Spot, end: Spot) -> tuple[list[Spot], float] | None:
    """The cheapest way between two places along the graph, and what it costs; None where there is none.

    Where cells are too coarse for it, places between them are tried, nearer and nearer to one another.
    """
    part = survey.reach.part_at(start)
    if part < 0 or part != survey.reach.part_at(end):
        return None
    for fine in (1, 2, _FINEST):
        found = _way_on(derived, survey, start, end, part, fine)
        if found is not None:
            return found
    return along_borders(survey.reach, start, end)


def _way_on(
    derived: Seen, survey: Survey, start: Spot, end: Spot, part: int, fine: int
) -> tuple[list[Spot], float] | None:
    """The same on a lattice with so many places to a cell, across and down."""
    ground = survey.solids.ground
    step = ground.tile_width / fine, ground.tile_height / fine
    width, height = ground.projection.size
    across, down = int(width / step[0]), int(height / step[1])
    if across * down > MOST_PLACES:
        return None
    around = survey.reach.around
    grid = np.stack(np.meshgrid(np.arange(across), np.arange(down)), axis=-1).reshape(-1, 2)
    spots = np.concatenate([(grid + 0.5) * step, [start, end]])
    mine = parts_at(survey.reach, spots) == part
    mine[-2:] = True
    ones, others = [], []
    for right, below in ((1, 0), (0, 1), (1, 1), (1, -1)):
        x, y = grid[:, 0] + right, grid[:, 1] + below
        x = x if around.width is None else x % across
        y = y if around.height is None else y % down
        there = (x < across) & (y >= 0) & (y < down)
        first = np.flatnonzero(there)
        second = (y * across + x)[there]
        both = mine[first] & mine[second]
        ones.append(first[both])
        others.append(second[both])
    for number in (len(spots) - 2, len(spots) - 1):
        away = np.abs(spots[:-2] - spots[number]) / step
        near = np.flatnonzero((away.max(axis=1) <= 1.5) & mine[:-2])
        ones.append(np.full(len(near), number))
        others.append(near)
    one, other = np.concatenate(ones), np.concatenate(others)
    free = _straight(survey.reach, spots[one], spots[other])
    one, other = one[free], other[free]
    dear = _dear_at(derived, survey, spots)
    far = _far(around, spots[one], spots[other]) * (dear[one] + dear[other]) / 2
    graph = scipy.sparse.csr_array((far, (one, other)), shape=(len(spots), len(spots)))
    costs, before = scipy.sparse.csgraph.dijkstra(
        graph, directed=False, indices=np.array(len(spots) - 2), return_predecessors=True
    )
    if not np.isfinite(costs[-1]):
        return None
    place, found = len(spots) - 1, list[Spot]()
    while place >= 0:
        found.append(Spot(*spots[place].tolist()))
        place = int(before[place])
    return found[::-1], float(costs[-1])


def _dear_at(derived: Seen, survey: Survey, spots: NDArray[np.float64]) -> NDArray[np.float64]:
    """What it costs to cross a pixel at each of some places, (N,) float64."""
    ground, costs = survey.solids.ground, _costs(derived, survey)
    flat_y, flat_x = ground.projection.place(spots[:, 0], spots[:, 1])
    rows, columns = ground.board.stored("cells", np.floor(flat_y).astype(np.intp), np.floor(flat_x).astype(np.intp))
    dear: NDArray[np.float64] = costs[np.clip(rows, 0, ground.height - 1), np.clip(columns, 0, ground.width - 1)]
    return dear
