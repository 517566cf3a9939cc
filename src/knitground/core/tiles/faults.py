"""What is nearly right of collision shapes: hairline gaps, small steps, points that stick out, slivers."""

from collections.abc import Hashable, Iterator, Mapping, Sequence
from typing import NamedTuple, TypeVar

from knitground.core.tiles.notes import Collision, Point

NEAR = 2.0
"""Up to how many pixels something is taken to be meant otherwise."""
_LEAST_AREA, _LEAST_WIDTH = 4.0, 1.0

Size = tuple[int, int]
T = TypeVar("T", bound=Hashable)
Side = str
OPPOSITE = {"west": "east", "east": "west", "north": "south", "south": "north"}


class Reaches(NamedTuple):
    """Where a shape comes near a border of its tile: which one, from where to where along it, and how far from it."""

    side: Side
    start: float
    end: float
    away: float


def reaches(collision: Collision, size: Size) -> Iterator[Reaches]:
    """The edges of shapes that run along a border of their tile, or up to `NEAR` before it."""
    width, height = size
    if collision == "whole":
        collision = ((Point(0, 0), Point(width, 0), Point(width, height), Point(0, height)),)
    for shape in () if isinstance(collision, str) else collision:
        for one, other in zip(shape, (*shape[1:], shape[0]), strict=True):
            if abs(one.x - other.x) < 1e-6 and one.y != other.y:
                low, high = sorted((one.y, other.y))
                for side, away in (("west", one.x), ("east", width - one.x)):
                    if 0 <= away <= NEAR:
                        yield Reaches(side, low, high, away)
            if abs(one.y - other.y) < 1e-6 and one.x != other.x:
                low, high = sorted((one.x, other.x))
                for side, away in (("north", one.y), ("south", height - one.y)):
                    if 0 <= away <= NEAR:
                        yield Reaches(side, low, high, away)


def gap_between(one: Reaches, other: Reaches) -> float:
    """How many pixels stay open where two tiles lie side by side; 0 where nothing does, or the two do not meet."""
    meets = OPPOSITE[one.side] == other.side and min(one.end, other.end) - max(one.start, other.start) > 0
    return one.away + other.away if meets and one.away + other.away <= NEAR else 0.0


def sticks_out(collision: Collision, size: Size) -> bool:
    """Whether a shape reaches beyond its tile by less than `NEAR`, as by a slip of the hand."""
    return any(
        0 < beyond < NEAR
        for shape in (() if isinstance(collision, str) else collision)
        for point in shape
        for beyond in (-point.x, -point.y, point.x - size[0], point.y - size[1])
    )


def without_slivers(collision: Collision) -> Collision:
    """The shapes that are neither too thin nor too small to be meant."""
    if isinstance(collision, str):
        return collision
    return tuple(shape for shape in collision if not _is_sliver(shape)) or "none"


def _is_sliver(shape: Sequence[Point]) -> bool:
    sides = list(zip(shape, (*shape[1:], shape[0]), strict=True))
    area = abs(sum(a.x * b.y - b.x * a.y for a, b in sides)) / 2
    round_it = sum(((a.x - b.x) ** 2 + (a.y - b.y) ** 2) ** 0.5 for a, b in sides)
    return area < _LEAST_AREA or 2 * area / round_it < _LEAST_WIDTH


def tops(collision: Collision, size: Size) -> dict[Side, float]:
    """How high the ground of a tile is where it meets its neighbours at the west and the east, from the top."""
    found: dict[Side, float] = {}
    for one in reaches(collision, size):
        if one.side in ("west", "east") and one.away <= NEAR:
            found[one.side] = min(found.get(one.side, one.start), one.start)
    return found


def uneven(shapes: Mapping[T, tuple[Collision, Size]]) -> dict[T, dict[Side, float]]:
    """Tiles whose ground is a little higher or lower at a border than that of others: how high most of these are."""
    heights: dict[tuple[Side, float], list[T]] = {}
    for ref, one in shapes.items():
        for side, top in tops(*one).items():
            heights.setdefault((side, top), []).append(ref)
    common: dict[float, int] = {}
    for (_, top), refs in heights.items():
        common[top] = common.get(top, 0) + len(refs)
    found: dict[T, dict[Side, float]] = {}
    for (side, top), refs in heights.items():
        near = [other for other in common if abs(other - top) <= NEAR]
        # Of two that are as common the upper one stays.
        best = min(near, key=lambda other: (-common[other], other))
        if best != top:
            for ref in refs:
                found.setdefault(ref, {})[side] = best
    return found


def levelled(collision: Collision, size: Size, heights: Mapping[Side, float]) -> Collision:
    """Shapes whose ground is brought to some heights where it meets the neighbours at the west and the east."""
    if isinstance(collision, str):
        return collision
    before = tops(collision, size)

    def moved(point: Point) -> Point:
        for side, border in (("west", 0.0), ("east", float(size[0]))):
            if side in heights and abs(point.x - border) <= NEAR and abs(point.y - before[side]) < 1e-6:
                return Point(point.x, heights[side])
        return point

    return tuple(tuple(moved(point) for point in shape) for shape in collision)


def snapped_to_borders(collision: Collision, size: Size) -> Collision:
    """Shapes with the points that lie nearly on a border of their tile brought onto it."""
    if isinstance(collision, str):
        return collision

    def onto(value: float, most: int) -> float:
        if abs(value) <= NEAR:
            return 0.0
        return float(most) if abs(value - most) <= NEAR else value

    moved = []
    for shape in collision:
        points = [Point(onto(point.x, size[0]), onto(point.y, size[1])) for point in shape]
        kept = [point for before, point in zip((points[-1], *points), points, strict=False) if point != before]
        area = sum(a.x * b.y - b.x * a.y for a, b in zip(kept, (*kept[1:], kept[0]), strict=True)) if kept else 0
        # A shape that would come to nothing was meant to be thin.
        moved.append(tuple(kept) if len(kept) >= 3 and area else shape)
    return tuple(moved)
