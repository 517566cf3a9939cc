"""Room: where the middle of a figure's foot can be, given what blocks and how large the foot is.

References
----------
T. Lozano-Pérez, "Spatial planning: a configuration space approach", IEEE Transactions on Computers C-32 (1983): what
blocks is grown by the figure, so that the figure becomes a point.
"""

from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect

Points = NDArray[np.float64]


class Round(NamedTuple):
    """How wide and high a ground is at whose borders it goes on at the other side; None where it ends there."""

    width: int | None
    height: int | None

    def shifts(self) -> list[tuple[int, int]]:
        """Where the ground lies once more, itself first."""
        across = (0,) if self.width is None else (0, -self.width, self.width)
        down = (0,) if self.height is None else (0, -self.height, self.height)
        return [(x, y) for y in down for x in across]

    def home(self, x: float, y: float) -> tuple[float, float]:
        """A place as it lies on the ground itself."""
        return x if self.width is None else x % self.width, y if self.height is None else y % self.height

    def nearest(self, starts: Points, ends: Points) -> Points:
        """Places as they lie nearest to others, beyond the border if that is nearer; (N, 2) float64.

        Parameters
        ----------
        starts, ends : (N, 2) float64
        """
        found = ends.copy()
        for axis, period in enumerate(self):
            if period is not None:
                found[:, axis] -= np.round((ends[:, axis] - starts[:, axis]) / period) * period
        return found


ENDS = Round(None, None)


class Foot(NamedTuple):
    """Width and height, in pixels, of the box on which a figure stands."""

    width: float
    height: float

    @property
    def half(self) -> tuple[float, float]:
        """Half of both."""
        return self.width / 2, self.height / 2


USUAL_FOOT = Foot(10.0, 6.0)


def grown(shape: Any, foot: Foot) -> Any:
    """All places at which the middle of a foot cannot be without lying on a shape (its Minkowski sum with the foot).

    Parameters
    ----------
    shape : shapely.Geometry
        Of polygons; lines and points in it count for nothing.
    foot : Foot

    Returns
    -------
    grown : shapely.Geometry
        Its border belongs to the room: there the foot touches the shape.
    """
    polygons = [part for part in shapely.get_parts(shape) if isinstance(part, shapely.Polygon) and part.area > 0]
    if not polygons:
        return shapely.Polygon()
    across, down = foot.half
    box = np.array([(-across, -down), (across, -down), (across, down), (-across, down)])
    edges = np.concatenate([_edges(ring) for part in polygons for ring in (part.exterior, *part.interiors)])
    corners = (edges[:, :, None, :] + box[None, None]).reshape(len(edges), 8, 2)
    swept = shapely.convex_hull(shapely.multipoints(corners))
    return shapely.union_all(np.concatenate([np.array(polygons, dtype=object), swept]))


def outside_of(bounds: Any, area: PixelRect, foot: Foot) -> Any:
    """All places in an area at which a foot would reach beyond some bounds."""
    far = int(max(foot)) + 2
    box = shapely.box(area.x - far, area.y - far, area.right + far, area.bottom + far)
    if shapely.contains(bounds, box):
        return shapely.Polygon()
    return grown(shapely.difference(shapely.buffer(box, 8, join_style="mitre"), bounds), foot)


def borders(shape: Any) -> Points:
    """The edges of a shape, (N, 2, 2): from x, y to x, y, with the inside always on the same hand.

    Parameters
    ----------
    shape : shapely.Geometry
        Of polygons.
    """
    found = [np.zeros((0, 2, 2))]
    for part in shapely.get_parts(shape):
        if isinstance(part, shapely.Polygon) and not part.is_empty:
            whole = shapely.orient_polygons(part) if hasattr(shapely, "orient_polygons") else _oriented(part)
            found += [_edges(ring) for ring in (whole.exterior, *whole.interiors)]
    return np.concatenate(found)


def _oriented(part: Any) -> Any:
    from shapely.geometry.polygon import orient

    return orient(part)


def _edges(ring: Any) -> Points:
    points = shapely.get_coordinates(ring)
    return np.stack([points[:-1], points[1:]], axis=1)
