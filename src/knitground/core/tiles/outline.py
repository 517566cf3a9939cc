"""Collision shapes: traced from what can be seen of a tile, mirrored, and brought to pixels."""

from collections.abc import Iterable
from typing import TYPE_CHECKING, Any, cast

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.tiles.notes import MOST_POINTS, Collision, Point

if TYPE_CHECKING:
    import shapely

MOST_SHAPES = 64
_LEAST_STRAY = 0.1
_SMALLEST, _LEAST_HOLE = 1.0, 16.0

Shapes = tuple[tuple[Point, ...], ...]


def trace(pixels: NDArray[np.uint8], simplify: float = 0.0) -> Shapes:
    """Polygons round what can be seen of a tile.

    A hole that somebody could stand in stays open: what is round it is cut in two through its middle, as polygons have
    no holes. Smaller ones are filled.

    Parameters
    ----------
    pixels : (h, w, 4) uint8
    simplify : float
        How far, in pixels, the outline may stray from the pixels' edges to have fewer points. At 0 it follows them.

    Returns
    -------
    shapes : tuple of polygons
        On half pixels, the largest first; none where nothing can be seen.

    References
    ----------
    D. Douglas, T. Peucker, "Algorithms for the reduction of the number of points required to represent a digitized
    line or its caricature" (1973), as in shapely, without crossing itself.
    """
    import shapely  # slow to import, and not needed until something is traced

    found = shapely.union_all(_runs(pixels[..., 3] > 0))
    whole = [part for part in shapely.get_parts(found) if part.area >= _SMALLEST]
    parts = [piece for part in whole for piece in _without_holes(part)]
    if len(parts) > MOST_SHAPES:
        parts = [shapely.Polygon(part.exterior) for part in whole]
    traced = []
    for part in sorted(parts, key=lambda one: -one.area)[:MOST_SHAPES]:
        outline = _points(_simplified(part, simplify))
        allowed = max(simplify, 0.25)
        while len(outline) > MOST_POINTS:
            allowed *= 2
            outline = _points(part.simplify(allowed))
        if len(outline) >= 3:
            traced.append(outline)
    return tuple(traced)


def snapped(x: float, y: float, step: float, size: tuple[int, int]) -> Point:
    """The nearest point on a raster of whole or half pixels, held to a tile of this width and height."""
    return Point(
        min(max(round(x / step) * step, 0.0), float(size[0])), min(max(round(y / step) * step, 0.0), float(size[1]))
    )


def mirrored(collision: Collision, size: tuple[int, int], *, across: bool) -> Collision:
    """A collision shape mirrored left to right (`across`) or top to bottom, in a tile of this width and height."""
    if isinstance(collision, str):
        return collision
    width, height = size
    return tuple(
        # The points run the other way then; turned round, they run as before.
        tuple(Point(width - x, y) if across else Point(x, height - y) for x, y in reversed(shape))
        for shape in collision
    )


def turned(collision: Collision, size: tuple[int, int], orientation: int) -> Collision:
    """A collision shape in one of the eight orientations of a tile of this width and height (see `orient`)."""
    result = mirrored(collision, size, across=True) if orientation & 4 else collision
    width, height = size
    for _ in range(orientation & 3):
        if not isinstance(result, str):
            result = tuple(tuple(Point(height - y, x) for x, y in shape) for shape in result)
        width, height = height, width
    return result


def checked(shapes: Iterable[Iterable[Point]]) -> Shapes:
    """Polygons as they may be kept.

    Raises
    ------
    BadRequest
        If one has fewer than three points, no area, or crosses itself.
    """
    import shapely

    kept = []
    for shape in shapes:
        points = tuple(shape)
        if len(points) < 3:
            raise BadRequest("A shape needs three points; click once more before you close it.")
        polygon = shapely.Polygon(points)
        if not polygon.is_valid or not polygon.area:
            raise BadRequest("The outline crosses itself or has no area; move the point so that it does not.")
        kept.append(points)
    return tuple(kept)


def _without_holes(part: "shapely.Polygon") -> "list[shapely.Polygon]":
    """A polygon, cut through the middles of its larger holes until none is left."""
    import shapely

    holes = [ring for ring in part.interiors if shapely.Polygon(ring).area >= _LEAST_HOLE]
    if not holes:
        return [shapely.Polygon(part.exterior)]
    left, top, right, bottom = part.bounds
    # On whole pixels, but in a hole that is one wide.
    first, last = holes[0].bounds[0], holes[0].bounds[2]
    middle = float((first + last) // 2) if last - first > 1 else (first + last) / 2
    open_ = shapely.Polygon(part.exterior, holes)
    halves = (open_ & shapely.box(left, top, middle, bottom), open_ & shapely.box(middle, top, right, bottom))
    pieces = [cast("shapely.Polygon", piece) for half in halves for piece in shapely.get_parts(half)]
    return [one for piece in pieces if piece.area >= _SMALLEST for one in _without_holes(piece)]


def _simplified(part: "shapely.Polygon", allowed: float) -> "shapely.Geometry":
    """A polygon with fewer points that strays no further than allowed; kept sound, a simpler one might stray more."""
    while allowed > _LEAST_STRAY:
        found: Any = part.simplify(allowed)
        if found.exterior.hausdorff_distance(part.exterior) <= allowed:
            return cast("shapely.Geometry", found)
        allowed /= 2
    return part.simplify(0)


def _runs(seen: NDArray[np.bool_]) -> NDArray[np.object_]:
    """A box for each run of pixels that can be seen, line by line."""
    import shapely

    edges = np.diff(np.pad(seen.astype(np.int8), ((0, 0), (1, 1))), axis=1)
    rows, starts = np.nonzero(edges == 1)
    _, ends = np.nonzero(edges == -1)
    return np.asarray(shapely.box(starts, rows, ends, rows + 1), dtype=object)


def _points(polygon: "shapely.Geometry") -> tuple[Point, ...]:
    """The outline of a polygon on half pixels, no point twice in a row; empty where nothing is left of it."""
    import shapely

    if not isinstance(polygon, shapely.Polygon):
        return ()
    rounded = (np.round(np.asarray(polygon.exterior.coords)[:-1] * 2) / 2).tolist()
    points = [Point(x, y) for x, y in rounded]
    kept = tuple(point for before, point in zip(points[-1:] + points, points, strict=False) if point != before)
    return kept if len(kept) >= 3 and shapely.Polygon(kept).area > 0 else ()
