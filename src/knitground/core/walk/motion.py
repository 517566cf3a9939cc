"""How a figure moves from above: it slides along what blocks it, and never ends inside of it."""

from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect
from knitground.core.walk.room import Foot, borders, outside_of

TICKS = 120
"""Steps a second."""
SKIN = 1e-3
"""How far off what it touches a figure stays, in pixels."""
_TURNS = 4
_CLOSE = 1.0
_NUDGE = 4.0
"""How far beside its way a figure looks for a gap when it runs into a corner, in pixels."""
_AROUND = 96
"""How many pixels round a figure are worked out at once."""

Points = NDArray[np.float64]


class Spot(NamedTuple):
    """Where the middle of a foot is, in pixels of the ground."""

    x: float
    y: float


class Moved(NamedTuple):
    """Where a figure came to be, and where it touched something on the way, if it did."""

    spot: Spot
    touched: Spot | None


class Straight(NamedTuple):
    """Where a straight way led: the place, how much of the way was free, and the normal of what ended it, if it was."""

    spot: Spot
    share: float
    normal: tuple[float, float] | None


class _Near(NamedTuple):
    """What is known of the surroundings of a figure: the area, what is closed there, and its edges with normals."""

    area: PixelRect
    closed: Any
    starts: Points
    along: Points
    normals: Points
    low: Points
    high: Points


class Mover:
    """Moves a foot over a ground, given what blocks on it.

    Parameters
    ----------
    closed : callable
        Gives the places in an area at which the middle of the foot cannot be, as a shape.
    bounds : shapely.Polygon
        The ground; the foot stays on it.
    foot : Foot
    """

    def __init__(self, closed: Callable[[PixelRect], Any], bounds: Any, foot: Foot) -> None:
        self._closed, self._bounds, self.foot = closed, bounds, foot
        self._near: _Near | None = None

    def forget(self) -> None:
        """What is known of the surroundings may not be true any more."""
        self._near = None

    def fits(self, spot: Spot) -> bool:
        """Whether a foot can be at a place: it may touch what blocks, but not lie on it."""
        return not shapely.contains_xy(self._around(spot).closed, *spot)

    def nearest(self, spot: Spot) -> Spot:
        """The place nearest to one at which the foot has room, as far as the surroundings tell."""
        if self.fits(spot):
            return spot
        near = self._around(spot)
        area = near.area
        room = shapely.difference(shapely.box(area.x, area.y, area.right, area.bottom), near.closed)
        if room.is_empty:
            return spot
        inside = shapely.buffer(room, -2 * SKIN)
        aim = inside if not inside.is_empty else room
        place = shapely.get_coordinates(shapely.shortest_line(aim, shapely.Point(spot)))[0]
        return Spot(float(place[0]), float(place[1]))

    def moved(self, spot: Spot, across: float, down: float) -> Moved:
        """A foot moved so many pixels, as far as it goes; what is left of the way it slides along what it touches.

        Parameters
        ----------
        across, down : float
            Shorter than the foot is wide and high, so that nothing is jumped over; longer ways go in steps.
        """
        if not across and not down:
            return Moved(spot, None)
        near = self._around(spot)
        place, way = np.array(spot), np.array([across, down])
        touched: Spot | None = None
        for _ in range(_TURNS):
            if np.hypot(*way) < 1e-9:
                break
            share, normal = _first_hit(near, place, way)
            place = place + way * share
            if normal is None:
                break
            touched = touched or Spot(*(place - normal * 0.5).tolist())
            way = way * (1 - share)
            way = way - normal * float(way @ normal)
        found = Spot(*place.tolist())
        if shapely.contains_xy(near.closed, *found):
            return Moved(spot, touched or found)
        return Moved(found, touched)

    def straight(self, spot: Spot, across: float, down: float) -> Straight:
        """A foot moved straight on until it touches something; as `moved`, without sliding."""
        if not across and not down:
            return Straight(spot, 1.0, None)
        near = self._around(spot)
        way = np.array([across, down])
        share, normal = _first_hit(near, np.array(spot), way)
        found = Spot(spot.x + across * share, spot.y + down * share)
        if shapely.contains_xy(near.closed, *found):
            return Straight(spot, 0.0, (-float(np.sign(across)), -float(np.sign(down))))
        return Straight(found, share, None if normal is None else (float(normal[0]), float(normal[1])))

    def walked(self, spot: Spot, across: float, down: float) -> Moved:
        """As `moved`; where the way straight on is closed by the corner of something, a little beside it is tried."""
        went = self.moved(spot, across, down)
        length = float(np.hypot(across, down))
        if (
            went.touched is None
            or (across and down)
            or np.hypot(went.spot.x - spot.x, went.spot.y - spot.y) > length / 2
        ):
            return went
        for side in (1, -1):
            for far in np.arange(1.0, _NUDGE + 0.5):
                aside = (0.0, side * far) if across else (side * far, 0.0)
                beside = self.moved(spot, *aside)
                if beside.touched is not None:
                    break
                if self.moved(beside.spot, across, down).touched is None:
                    step = min(length, far)
                    toward = self.moved(spot, aside[0] / far * step, aside[1] / far * step)
                    return Moved(toward.spot, None)
        return went

    def _around(self, spot: Spot) -> _Near:
        """What blocks round a place, from what is known or worked out anew."""
        near, margin = self._near, max(self.foot) + 16
        if near is not None:
            inside = near.area.grown(*[-int(margin)] * 4)
            if inside.x <= spot.x <= inside.right and inside.y <= spot.y <= inside.bottom:
                return near
        far = int(_AROUND + 2 * margin)
        area = PixelRect(int(spot.x) - far, int(spot.y) - far, 2 * far, 2 * far)
        closed = shapely.union(self._closed(area), outside_of(self._bounds, area, self.foot))
        edges = borders(closed)
        along = edges[:, 1] - edges[:, 0]
        lengths = np.hypot(along[:, 0], along[:, 1])
        kept = lengths > 1e-9
        edges, along, lengths = edges[kept], along[kept], lengths[kept]
        # Rings run anticlockwise about what is closed, in x to the right and y upwards; so the outside is on the right.
        normals = np.stack([along[:, 1], -along[:, 0]], axis=1) / lengths[:, None]
        self._near = _Near(area, closed, edges[:, 0], along, normals, edges.min(axis=1), edges.max(axis=1))
        shapely.prepare(closed)
        return self._near


def _first_hit(near: _Near, place: Points, way: Points) -> tuple[float, Points | None]:
    """How much of a way is free, and the normal of what ends it; none where nothing does."""
    # Only edges near the way can end it.
    low, high = np.minimum(place, place + way) - _CLOSE, np.maximum(place, place + way) + _CLOSE
    (left, top), (right, bottom) = low.tolist(), high.tolist()
    across = (near.high[:, 0] >= left) & (near.low[:, 0] <= right)
    close = np.flatnonzero(across & (near.high[:, 1] >= top) & (near.low[:, 1] <= bottom))
    into = near.normals[close] @ way
    facing = close[into < -1e-12]
    into = into[into < -1e-12]
    if not facing.size:
        return 1.0, None
    starts, along, normals = near.starts[facing], near.along[facing], near.normals[facing]
    away = ((place - starts) * normals).sum(axis=1)
    share = (SKIN - away) / into
    # Where on its line the foot would be as it touches it.
    meets = place + np.maximum(share, 0)[:, None] * way
    lengths = (along * along).sum(axis=1)
    spot = ((meets - starts) * along).sum(axis=1) / lengths
    slack = SKIN / np.sqrt(lengths)
    ahead = (away > -SKIN) & (share <= 1) & (spot > -slack) & (spot < 1 + slack)
    if not ahead.any():
        return 1.0, None
    shares = np.where(ahead, np.maximum(share, 0.0), 2.0)
    first = int(shares.argmin())
    return float(min(shares[first], 1.0)), normals[first]
