"""What hangs together on a ground for a figure of some size, worked out area by area.

Two places are in one part if the figure's foot can be brought from one to the other. That is told by the room itself,
not by a grid laid over it, so that it agrees with walking to the last pixel.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from string import ascii_uppercase
from typing import Any, NamedTuple

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect
from knitground.core.walk.motion import SKIN, Spot
from knitground.core.walk.room import ENDS, Foot, Round, outside_of

SIDE = 16
"""How many cells an area is wide and high."""
_LEAST = 1e-4
"""Room of less than so many square pixels is none."""

Progress = Callable[[float], None]
Key = tuple[int, int]
Spans = NDArray[np.float64]


class Room(NamedTuple):
    """The room in an area: its pieces that hang together inside it, and where they meet its right and lower border.

    Attributes
    ----------
    pieces, inner : (P,) object
        Polygons; and the same without what lies within a skin's width of their borders.
    left, top, right, bottom : (N, 3) float64
        Where pieces touch each border of the area: the piece, from where, and to where along it.
    """

    area: PixelRect
    pieces: NDArray[np.object_]
    inner: NDArray[np.object_]
    left: Spans
    top: Spans
    right: Spans
    bottom: Spans


def part_name(part: int) -> str:
    """What a part is called: a letter, or a number behind the letters."""
    return ascii_uppercase[part] if part < len(ascii_uppercase) else str(part + 1)


@dataclass(frozen=True, eq=False)
class Reach:
    """The room of a ground, and the part of each of its pieces.

    Attributes
    ----------
    rooms : mapping of (row, column) of an area to Room
    parts : (N,) int
        The part of each piece of all areas, one after the other, the largest part being 0.
    first : (A,) int
        Where the pieces of each area begin among them.
    sizes : (parts,) float64
        In square pixels.
    links : (L, 4) int32
        Pieces of areas side by side that hang together: the number of an area, its piece, and the same of the other.
    areas : mapping of (row, column) of an area to (P,) float64
        How large its pieces are, in square pixels.
    places : mapping of (row, column) of an area to int
        The numbers of the areas.
    around : Round
        At which borders one comes in at the other side.
    """

    foot: Foot
    side: tuple[int, int]
    rooms: dict[Key, Room]
    parts: NDArray[np.intp]
    first: NDArray[np.intp]
    sizes: NDArray[np.float64]
    links: NDArray[np.int32]
    areas: dict[Key, NDArray[np.float64]]
    places: dict[Key, int]
    around: Round

    def parts_in(self, key: Key) -> NDArray[np.intp]:
        """The part of each piece of an area, (P,) int.

        Parameters
        ----------
        key : Key
            Of the area.

        Returns
        -------
        parts : (P,) intp
        """
        first = int(self.first[self.places[key]])
        return self.parts[first : first + len(self.rooms[key].pieces)]

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
        return int(self.parts_in(key)[hit[0]]) if hit.size else -1


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


def room_in(area: PixelRect, closed: Callable[[PixelRect], Any], bounds: Any, foot: Foot) -> Room:
    """The room for a foot in an area.

    Parameters
    ----------
    closed : callable
        Gives the places in an area at which the middle of the foot cannot be, as a shape.
    bounds : shapely.Polygon
        The ground; the foot stays on it.
    """
    taken = shapely.union(closed(area), outside_of(bounds, area, foot))
    room = shapely.difference(shapely.box(area.x, area.y, area.right, area.bottom), taken)
    found = [one for one in shapely.get_parts(room) if isinstance(one, shapely.Polygon) and one.area > _LEAST]
    pieces = np.empty(len(found), dtype=object)
    pieces[:] = found
    inner = shapely.buffer(pieces, -2 * SKIN, join_style="mitre")
    shapely.prepare(pieces)
    shapely.prepare(inner)
    lines = [
        ((area.x, area.y), (area.x, area.bottom)), ((area.x, area.y), (area.right, area.y)),
        ((area.right, area.y), (area.right, area.bottom)), ((area.x, area.bottom), (area.right, area.bottom)),
    ]  # fmt: skip
    return Room(area, pieces, inner, *(_spans(pieces, line, 1 - number % 2) for number, line in enumerate(lines)))


def joined(
    rooms: dict[Key, Room], foot: Foot, side: tuple[int, int], before: Reach | None = None, around: Round = ENDS
) -> Reach:
    """Puts the rooms of areas together.

    Parameters
    ----------
    side : (int, int)
        How wide and high an area is.
    before : Reach, optional
        An earlier one of the same areas, of which what holds of rooms that stayed the same is taken over.
    around : Round
        Where the first areas lie beside the last.
    """
    keys = list(rooms)
    place = before.places if before is not None else {key: number for number, key in enumerate(keys)}
    changed = keys if before is None else [key for key in keys if rooms[key] is not before.rooms[key]]
    known = before.links if before is not None else np.zeros((0, 4), dtype=np.int32)
    links = _links(rooms, place, changed, known, around)
    areas = dict(before.areas) if before is not None else {}
    areas |= {key: np.asarray(shapely.area(rooms[key].pieces), dtype=np.float64) for key in changed}
    counts = np.fromiter((len(room.pieces) for room in rooms.values()), dtype=np.intp, count=len(rooms))
    first = np.cumsum(counts) - counts
    count = int(counts.sum())
    one, two = first[links[:, 0]] + links[:, 1], first[links[:, 2]] + links[:, 3]
    graph = scipy.sparse.csr_array((np.ones(len(one), dtype=np.int8), (one, two)), shape=(count, count))
    labels = (
        scipy.sparse.csgraph.connected_components(graph, directed=False)[1] if count else np.zeros(0, dtype=np.intp)
    )
    sizes = np.bincount(labels, weights=np.concatenate([areas[key] for key in keys])).astype(np.float64)
    order = np.argsort(-sizes, kind="stable")
    rank = np.empty(len(order), dtype=np.intp)
    rank[order] = np.arange(len(order))
    return Reach(foot, side, rooms, rank[labels], first, sizes[order], links, areas, place, around)


def _links(
    rooms: dict[Key, Room], place: dict[Key, int], changed: Sequence[Key], known: NDArray[np.int32], around: Round
) -> NDArray[np.int32]:
    """Which pieces of areas side by side hang together: (L, 4) int32, the areas and pieces by their numbers.

    Parameters
    ----------
    changed : sequence of (int, int)
        The areas whose room is another than in what is known.
    known : (L, 4) int32
    """
    rows, columns = (1 + max((key[axis] for key in rooms), default=0) for axis in (0, 1))

    def home(row: int, column: int) -> Key:
        return (
            row % rows if around.height is not None else row,
            column % columns if around.width is not None else column,
        )

    pairs = {
        (home(row - down, column - across), home(row - down + below, column - across + 1 - below), below)
        for row, column in changed
        for below, down, across in ((1, 0, 0), (1, 1, 0), (0, 0, 0), (0, 0, 1))
    }
    found = []
    for one, other, below in sorted(pair for pair in pairs if pair[0] in rooms and pair[1] in rooms):
        ends = (rooms[one].bottom, rooms[other].top) if below else (rooms[one].right, rooms[other].left)
        a, b = _meeting(*ends)
        found.append(np.stack([np.full(len(a), place[one]), a, np.full(len(a), place[other]), b], axis=1))
    renewed = np.zeros(len(rooms), dtype=bool)
    renewed[[place[key] for key in changed]] = True
    kept = known[~(renewed[known[:, 0]] | renewed[known[:, 2]])]
    return np.concatenate([kept, *found]).astype(np.int32)


def _meeting(one: Spans, other: Spans) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """The pieces of two areas that touch along their common border for more than a skin's width, pair by pair."""
    low = np.maximum(one[:, None, 1], other[None, :, 1])
    high = np.minimum(one[:, None, 2], other[None, :, 2])
    a, b = np.nonzero(high - low > 2 * SKIN)
    return one[a, 0].astype(np.intp), other[b, 0].astype(np.intp)


def _spans(pieces: NDArray[np.object_], line: Sequence[tuple[float, float]], axis: int) -> Spans:
    """Where pieces touch a line that runs down (axis 1) or across (axis 0): piece, from, to."""
    parts, numbers = shapely.get_parts(shapely.intersection(pieces, shapely.LineString(line)), return_index=True)
    kept = shapely.length(parts) > 0
    parts, numbers = parts[kept], numbers[kept]
    bounds = shapely.bounds(parts).reshape(-1, 4)
    return np.stack([numbers.astype(np.float64), bounds[:, axis], bounds[:, axis + 2]], axis=1)
