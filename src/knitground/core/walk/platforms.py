"""Platforms of a ground seen from the side: the lengths of floor on which a body can stand and run to and fro."""

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from knitground.core.walk.motion import SKIN
from knitground.core.walk.room import Foot, borders
from knitground.core.walk.side import FLOOR, Edge

_NEAR = 1e-6
_LEAST = 0.5
_ASIDE = 0.5
Points = NDArray[np.float64]


class Platform(NamedTuple):
    """Where the middle of a body can be that stands on a length of floor.

    Attributes
    ----------
    points : (K, 2) float64
        x and y in pixels, from left to right.
    one_way : bool
        Whether it holds from above alone.
    """

    points: Points
    one_way: bool

    @property
    def left(self) -> float:
        """How far left it begins."""
        return float(self.points[0, 0])

    @property
    def right(self) -> float:
        """How far right it ends."""
        return float(self.points[-1, 0])

    def height_at(self, x: Any) -> Any:
        """How far down the middle of a body is that stands on it, at places across."""
        return np.interp(x, self.points[:, 0], self.points[:, 1])

    def stands(self, middles: NDArray[np.floating[Any]]) -> Points:
        """Places on it to set out from: those at some places across, and at both of its ends; (N, 2) float64.

        Parameters
        ----------
        middles : (M,) float64
        """
        # At its very end a body already falls.
        ends = [self.left + _ASIDE, self.right - _ASIDE] if self.right - self.left > 2 * _ASIDE else []
        xs = np.unique(
            [*middles[(middles >= self.left) & (middles <= self.right)], *ends, (self.left + self.right) / 2]
        )
        return np.stack([xs, self.height_at(xs) - SKIN], axis=1)


def platforms_of(closed: Any, edges: Sequence[Edge], foot: Foot) -> list[Platform]:
    """All platforms.

    Parameters
    ----------
    closed : shapely.Geometry
        The places at which the middle of a body cannot be.
    edges : sequence of Edge
        The one-way edges.
    foot : Foot
        The body.
    """
    return [*_floors(closed), *_one_way(closed, edges, foot)]


def _floors(closed: Any) -> list[Platform]:
    """The borders of what blocks that can be stood on, put together where they meet."""
    sides = borders(closed)
    along = sides[:, 1] - sides[:, 0]
    lengths = np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-12)
    # As in `Mover`, the outside lies on the right of the way along a border.
    up = along[:, 0] / lengths
    mine = sides[(up >= FLOOR) & (lengths > _NEAR)]
    after = {tuple(np.round(side[0], 6)): number for number, side in enumerate(mine)}
    follows = [after.get(tuple(np.round(side[1], 6)), -1) for side in mine]
    begins = sorted(set(range(len(mine))) - set(follows))
    found = []
    for number in begins:
        chain = [mine[number][0]]
        at = number
        while at >= 0:
            chain.append(mine[at][1])
            at = follows[at]
        points = np.array(chain)
        points = points[np.argsort(points[:, 0], kind="stable")]
        if points[-1, 0] - points[0, 0] > _LEAST:
            found.append(Platform(points, False))
    return found


def _one_way(closed: Any, edges: Sequence[Edge], foot: Foot) -> list[Platform]:
    """What of one-way edges is not inside of what blocks."""
    across, down = foot.half
    found = []
    for edge in edges:
        corners = [
            (edge.left - across, edge.left_y - down), (edge.left, edge.left_y - down),
            (edge.right, edge.right_y - down), (edge.right + across, edge.right_y - down),
        ]  # fmt: skip
        for part in shapely.get_parts(shapely.difference(shapely.LineString(corners), closed)):
            points = shapely.get_coordinates(part)
            if len(points) > 1 and points[-1, 0] - points[0, 0] > _LEAST:
                found.append(Platform(points, True))
    return found
