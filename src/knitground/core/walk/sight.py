"""What can be seen from a place: all that nothing which stops sight lies before."""

from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

_FARTHER, _FARTHEST = 3.0, 6.0
_THIN = 1e-9


def seen_from(x: float, y: float, far: float, blocks: Any, into: float) -> Any:
    """What of a square round a place is seen from it.

    Parameters
    ----------
    x, y : float
        The place. What encloses it does not count, so that a lamp shines out of its own post.
    far : float
        Half the side of the square.
    blocks : shapely.Geometry
        What stops sight.
    into : float
        How deep it is seen itself where it is reached, so that walls have a bright face.

    Returns
    -------
    seen : shapely.Geometry
    """
    square, place = shapely.box(x - far, y - far, x + far, y + far), shapely.Point(x, y)
    parts = np.asarray(shapely.get_parts(blocks), dtype=object)
    near = parts[shapely.intersects(parts, square) & ~shapely.intersects(parts, place)]
    if not len(near):
        return square
    solid = shapely.intersection(shapely.union_all(near), square)
    shadow = shapely.union_all(_shadows(x, y, far, solid))
    seen = shapely.difference(square, shadow)
    return shapely.union(seen, shapely.intersection(solid, shapely.buffer(seen, into)))


def _shadows(x: float, y: float, far: float, solid: Any) -> NDArray[np.object_]:
    """What lies behind each side of something, as far as matters.

    Parameters
    ----------
    far : float
        Nothing farther off, across or down, has to be covered.
    """
    sides: list[NDArray[np.float64]] = []
    for part in shapely.get_parts(solid):
        for ring in (part.exterior, *part.interiors) if isinstance(part, shapely.Polygon) else ():
            corners = shapely.get_coordinates(ring) - np.array([x, y])
            sides.append(np.stack([corners[:-1], corners[1:]], axis=1))
    both = np.concatenate(sides) if sides else np.zeros((0, 2, 2))
    one, other = both[:, 0], both[:, 1]
    # Sides that are seen from their edge throw nothing that others do not.
    both = both[np.abs(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]) > _THIN]
    ways = both / np.linalg.norm(both, axis=2, keepdims=True)
    middle = ways.sum(axis=1)
    middle /= np.linalg.norm(middle, axis=1, keepdims=True)
    # A side close by may hide nearly half of all: its shadow needs a corner in the middle.
    rings = np.stack(
        [both[:, 0], both[:, 1], ways[:, 1] * _FARTHER * far, middle * _FARTHEST * far, ways[:, 0] * _FARTHER * far],
        axis=1,
    )
    return np.asarray(shapely.polygons(rings + np.array([x, y])), dtype=object)
