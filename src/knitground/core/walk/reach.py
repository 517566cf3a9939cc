"""What hangs together on a ground for a figure of some size, worked out area by area.

Two places are in one part if the figure's foot can be brought from one to the other. That is told by the room itself,
not by a grid laid over it, so that it agrees with walking to the last pixel.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse import csgraph

from knitground.core.grid.projection import PixelRect
from knitground.core.walk.motion import SKIN, Spot
from knitground.core.walk.room import Foot, grown

SIDE = 32
"""How many cells an area is wide and high."""
_LEAST = 1e-4
"""Room of less than so many square pixels is none."""

Progress = Callable[[float], None]
Key = tuple[int, int]


class Room(NamedTuple):
    """The room in an area: its pieces that hang together inside it, and where they meet its right and lower border.

    Attributes
    ----------
    pieces : (P,) object
        Polygons.
    """

    area: PixelRect
    pieces: NDArray[np.object_]


@dataclass(frozen=True, eq=False)
class Reach:
    """The room of a ground, and the part of each of its pieces.

    Attributes
    ----------
    rooms : mapping of (row, column) of an area to Room
    parts : mapping of (row, column) of an area to (P,) int
        The part of each piece, the largest being 0.
    sizes : (parts,) float64
        In square pixels.
    """

    foot: Foot
    side: tuple[int, int]
    rooms: dict[Key, Room]
    parts: dict[Key, NDArray[np.intp]]
    sizes: NDArray[np.float64]

    def part_at(self, spot: Spot) -> int:
        """The part in which a place lies, -1 where the foot has no room."""
        key = int(spot.y // self.side[1]), int(spot.x // self.side[0])
        # A place on the border of areas belongs to whichever has it.
        for down in (0, -1):
            for across in (0, -1):
                near = key[0] + down, key[1] + across
                if near in self.rooms:
                    part = self._in_room(near, spot)
                    if part >= 0:
                        return part
        return -1

    def _in_room(self, key: Key, spot: Spot) -> int:
        room = self.rooms[key]
        if not room.pieces.size:
            return -1
        hit = np.flatnonzero(shapely.intersects_xy(room.pieces, spot.x, spot.y))
        return int(self.parts[key][hit[0]]) if hit.size else -1


def areas_of(size: tuple[int, int], side: tuple[int, int]) -> dict[Key, PixelRect]:
    """The areas of a ground's picture of this width and height."""
    rows, columns = -(-size[1] // side[1]), -(-size[0] // side[0])
    return {
        (row, column): PixelRect(
            column * side[0], row * side[1],
            min(side[0], size[0] - column * side[0]), min(side[1], size[1] - row * side[1]),
        )
        for row in range(rows)
        for column in range(columns)
    }  # fmt: skip


def room_in(area: PixelRect, blocking: Callable[[PixelRect], Any], bounds: Any, foot: Foot) -> Room:
    """The room for a foot in an area.

    Parameters
    ----------
    blocking : callable
        Gives what blocks in an area, as a shape.
    bounds : shapely.Polygon
        The ground; the foot stays on it.
    """
    wide = area.grown(*[int(max(foot)) + 2] * 4)
    box = shapely.box(wide.x, wide.y, wide.right, wide.bottom)
    outside = shapely.difference(shapely.box(wide.x - 8, wide.y - 8, wide.right + 8, wide.bottom + 8), bounds)
    closed = grown(shapely.union_all([shapely.intersection(blocking(wide), box), outside]), foot)
    room = shapely.difference(shapely.box(area.x, area.y, area.right, area.bottom), closed)
    found = [one for one in shapely.get_parts(room) if isinstance(one, shapely.Polygon) and one.area > _LEAST]
    pieces = np.empty(len(found), dtype=object)
    pieces[:] = found
    shapely.prepare(pieces)
    return Room(area, pieces)


def joined(rooms: dict[Key, Room], foot: Foot, side: tuple[int, int]) -> Reach:
    """Puts the rooms of areas together.

    Parameters
    ----------
    side : (int, int)
        How wide and high an area is.
    """
    first, count = {}, 0
    for key, room in rooms.items():
        first[key] = count
        count += len(room.pieces)
    pairs = [
        (first[key] + one, first[other] + two)
        for key, room in rooms.items()
        for other in ((key[0] + 1, key[1]), (key[0], key[1] + 1))
        if other in rooms
        for one, two in _meeting(room, rooms[other], down=other[0] != key[0])
    ]
    ones = np.array([pair[0] for pair in pairs], dtype=np.intp)
    others = np.array([pair[1] for pair in pairs], dtype=np.intp)
    graph = sparse.csr_array((np.ones(len(pairs), dtype=np.int8), (ones, others)), shape=(count, count))
    labels = csgraph.connected_components(graph, directed=False)[1] if count else np.zeros(0, dtype=np.intp)
    pieces = [piece for room in rooms.values() for piece in room.pieces]
    areas = np.asarray(shapely.area(np.array(pieces, dtype=object)), dtype=np.float64)
    sizes = np.bincount(labels, weights=areas).astype(np.float64)
    order = np.argsort(-sizes, kind="stable")
    rank = np.empty(len(order), dtype=np.intp)
    rank[order] = np.arange(len(order))
    parts = {key: rank[labels[first[key] : first[key] + len(room.pieces)]] for key, room in rooms.items()}
    return Reach(foot, side, rooms, parts, sizes[order])


def _meeting(one: Room, other: Room, *, down: bool) -> list[tuple[int, int]]:
    """The pieces of two areas that touch along their common border for more than a skin's width."""
    first = _spans(one, down=down, far=True)
    second = _spans(other, down=down, far=False)
    return [
        (a, b)
        for a, starts, ends in first
        for b, begins, stops in second
        if min(ends, stops) - max(starts, begins) > 2 * SKIN
    ]


def _spans(room: Room, *, down: bool, far: bool) -> list[tuple[int, float, float]]:
    """Where the pieces of an area touch its lower or right border, or its upper or left one: piece, from, to."""
    area = room.area
    if down:
        y = area.bottom if far else area.y
        line = shapely.LineString([(area.x, y), (area.right, y)])
    else:
        x = area.right if far else area.x
        line = shapely.LineString([(x, area.y), (x, area.bottom)])
    found = []
    for number, piece in enumerate(room.pieces):
        for part in shapely.get_parts(shapely.intersection(piece, line)):
            points = shapely.get_coordinates(part)
            if len(points) > 1:
                along = points[:, 0 if down else 1]
                found.append((number, float(along.min()), float(along.max())))
    return found
