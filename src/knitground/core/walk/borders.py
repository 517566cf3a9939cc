"""Ways along what blocks: found wherever two places hang together, however narrow it is between them."""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np
import shapely

from knitground.core.walk.motion import SKIN, Spot
from knitground.core.walk.reach import Reach, Room

Node = tuple[float, float]


def along_borders(reach: Reach, start: Spot, end: Spot) -> tuple[list[Spot], float] | None:
    """A way between two places along the borders of the room, and its length; None where they do not hang together.

    It is not the shortest there is, but there is always one: every border hangs together, holes are joined to what lies
    nearest to them, and pieces of two areas meet where they touch.
    """
    # Graphs are slow to import, and this is the last way to be tried.
    import networkx

    part = reach.part_at(start)
    if part < 0 or part != reach.part_at(end):
        return None
    graph: Any = networkx.Graph()
    for key, room in reach.rooms.items():
        mine = np.flatnonzero(reach.parts_in(key) == part)
        for number in mine.tolist():
            _add_piece(graph, room, number, [start, end])
    for key, room in reach.rooms.items():
        for other, far, near, across in (
            ((key[0] + 1, key[1]), "bottom", "top", True), ((key[0], key[1] + 1), "right", "left", False)
        ):  # fmt: skip
            if other in reach.rooms:
                line = room.area.bottom if across else room.area.right
                _join(graph, getattr(room, far), getattr(reach.rooms[other], near), line, across=across)
    if start not in graph or end not in graph or not networkx.has_path(graph, start, end):
        return None
    way = networkx.shortest_path(graph, start, end, weight="length")
    return [Spot(*spot) for spot in way], sum(math.dist(one, other) for one, other in pairwise(way))


def _add_piece(graph: Any, room: Room, number: int, ends: Sequence[Spot]) -> None:
    """The borders of a piece of room as ways, with its holes joined to them, and the ends that lie in it."""
    piece: Any = room.pieces[number]
    rings = [piece.exterior, *piece.interiors]
    for ring in rings:
        for one, other in pairwise(tuple(point) for point in shapely.get_coordinates(ring).tolist()):
            _way(graph, one, other)
    known, waiting = [rings[0]], rings[1:]
    while waiting:
        # The nearest hole is joined first, so that nothing lies between.
        whole = shapely.multilinestrings(known)
        nearest = min(range(len(waiting)), key=lambda place: float(shapely.distance(waiting[place], whole)))
        hole = waiting.pop(nearest)
        bridge = [tuple(point) for point in shapely.get_coordinates(shapely.shortest_line(hole, whole)).tolist()]
        for spot in bridge:
            _tie(graph, spot, rings)
        _way(graph, bridge[0], bridge[-1])
        known.append(hole)
    # Where the piece meets those of other areas.
    for spans, across, line in (
        (room.top, True, room.area.y), (room.bottom, True, room.area.bottom),
        (room.left, False, room.area.x), (room.right, False, room.area.right),
    ):  # fmt: skip
        for _, low, high in spans[spans[:, 0] == number].tolist():
            a, b = ((low, float(line)), (high, float(line))) if across else ((float(line), low), (float(line), high))
            for spot in (a, b):
                _tie(graph, spot, rings)
            _way(graph, a, b)
    for spot in ends:
        if shapely.intersects_xy(piece, *spot):
            lines = shapely.multilinestrings(rings)
            aim = shapely.get_coordinates(shapely.shortest_line(lines, shapely.Point(spot)))[0].tolist()
            _tie(graph, (aim[0], aim[1]), rings)
            _way(graph, spot, (aim[0], aim[1]))
    mine = [spot for spot in ends if shapely.intersects_xy(piece, *spot)]
    if len(mine) == 2 and shapely.covers(piece, shapely.LineString(mine)):
        _way(graph, *mine)


def _tie(graph: Any, spot: Node, rings: Sequence[Any]) -> None:
    """Joins a place on a border to the ends of the edge on which it lies."""
    for ring in rings:
        if shapely.distance(ring, shapely.Point(spot)) > SKIN:
            continue
        for one, other in pairwise(tuple(point) for point in shapely.get_coordinates(ring).tolist()):
            if shapely.distance(shapely.LineString([one, other]), shapely.Point(spot)) <= SKIN:
                _way(graph, spot, one)
                _way(graph, spot, other)


def _join(graph: Any, one: Any, other: Any, line: float, *, across: bool) -> None:
    """Joins the borders of two areas where pieces of both touch, along a line between them."""
    for _, low, high in one.tolist():
        for _, begin, stop in other.tolist():
            if min(high, stop) - max(low, begin) > 2 * SKIN:
                ends = [(value, line) if across else (line, value) for value in (low, high, begin, stop)]
                if all(spot in graph for spot in ends):
                    for spot in ends[2:]:
                        _way(graph, ends[0], spot)


def _way(graph: Any, one: Node, other: Node) -> None:
    if one != other:
        graph.add_edge(tuple(one), tuple(other), length=math.dist(one, other))
