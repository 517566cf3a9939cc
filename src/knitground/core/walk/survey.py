"""The survey of a ground: what blocks, and what hangs together for a figure, kept area by area as it changes."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

import shapely

from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.ground import Ground
from knitground.core.walk.motion import Mover
from knitground.core.walk.reach import SIDE, Reach, Room, areas_of, joined, room_in
from knitground.core.walk.room import ENDS, Foot, Round
from knitground.core.walk.seen import Seen
from knitground.core.walk.solid import Piece, Solids, round_of

Progress = Callable[[float], None]
Key = tuple[int, int]
LARGEST_FOOT = 1024


@dataclass(frozen=True, eq=False)
class Survey:
    """What is known of a ground for a figure.

    Attributes
    ----------
    solids : Solids
    bounds : shapely.Polygon
        The ground in pixels; the foot stays on it.
    reach : Reach
    size : (int, int)
        Of the ground, in pixels.
    """

    solids: Solids
    bounds: Any
    reach: Reach
    size: tuple[int, int]

    @property
    def foot(self) -> Foot:
        """The foot for which it is made."""
        return self.reach.foot

    def mover(self) -> Mover:
        """Something that moves the figure over the ground."""
        return Mover(lambda area: self.solids.closed(area, self.foot), self.bounds, self.foot)

    def blamed(self, x: float, y: float) -> Piece | None:
        """What a foot touches whose middle is at a place; see the function of this name."""
        return blamed(self.solids, self.foot, x, y)


def blamed(solids: Solids, foot: Foot, x: float, y: float) -> Piece | None:
    """What a foot touches whose middle is at a place, the nearest of it; none where that is the border."""
    across, down = foot.half
    box = shapely.box(x - across, y - down, x + across, y + down)
    area = PixelRect(int(x - across) - 2, int(y - down) - 2, int(2 * across) + 4, int(2 * down) + 4)
    pieces = solids.pieces(area)
    if not pieces:
        return None
    nearest = min(pieces, key=lambda piece: (shapely.distance(piece.shape, box), piece.says))
    return nearest if shapely.distance(nearest.shape, box) < 1.0 else None


def checked_foot(foot: Foot) -> Foot:
    """A foot as it is; raises BadRequest where it is none."""
    if not (0 < foot.width <= LARGEST_FOOT and 0 < foot.height <= LARGEST_FOOT):
        raise BadRequest(f"A figure of {foot.width:g} x {foot.height:g} pixels can't walk; give a foot such as 10x6.")
    return foot


def bounds_of(ground: Ground) -> Any:
    """The ground in pixels, as a polygon; a foot stays on it. Where it goes round it lies beside itself once more."""
    here, around = shapely.Polygon(ground.projection.border()).buffer(0), round_of(ground)
    if around == ENDS:
        return here
    left, top, right, bottom = here.bounds
    across, down = around.width or 0, around.height or 0
    return shapely.box(left - across, top - down, right + across, bottom + down)


def mover_on(derived: Seen, ground_id: str, foot: Foot, bounds: Any) -> tuple[Solids, Mover]:
    """What blocks on a ground as it is now, and something that moves a figure over it."""
    solids = Solids(derived, ground_id)
    return solids, Mover(lambda area: solids.closed(area, foot), bounds, foot)


def surveyed(
    derived: Seen, ground_id: str, foot: Foot, before: Survey | None = None,
    changed: Iterable[PixelRect] = (), *, progress: Progress = lambda share: None,
) -> Survey:  # fmt: skip
    """The survey of a ground.

    Parameters
    ----------
    before : Survey, optional
        An earlier one for the same foot, on a ground of the same size.
    changed : iterable of PixelRect
        Where what blocks may differ from then.

    Raises
    ------
    BadRequest
        If the foot is no foot.
    """
    checked_foot(foot)
    solids = Solids(derived, ground_id)
    projection = solids.ground.projection
    side, size = (SIDE * projection.tile_width, SIDE * projection.tile_height), projection.size
    if before is not None and (before.reach.foot, before.size) != (foot, size):
        before = None
    bounds = before.bounds if before is not None else bounds_of(solids.ground)
    rooms: dict[Key, Room] = dict(before.reach.rooms) if before is not None else {}
    missing = (
        {key: rooms[key].area for key in _touched(changed, foot, side, solids.round) if key in rooms}
        if before is not None
        else areas_of(size, side)
    )
    for number, (key, area) in enumerate(missing.items()):
        rooms[key] = room_in(area, lambda part: solids.closed(part, foot), bounds, foot)
        progress((number + 1) / len(missing))
    reach = joined(rooms, foot, side, before.reach if before is not None else None, solids.round)
    return Survey(solids, bounds, reach, size)


def _touched(changed: Iterable[PixelRect], foot: Foot, side: tuple[int, int], around: Round) -> set[Key]:
    """The areas in which room may differ where something changed, those at the other side of the ground among them."""
    far = int(max(foot)) + 2
    return {
        (row, column)
        for whole in changed
        for across, down in around.shifts()
        for rect in (whole._replace(x=whole.x + across, y=whole.y + down),)
        for row in range((rect.y - far) // side[1], (rect.bottom + far - 1) // side[1] + 1)
        for column in range((rect.x - far) // side[0], (rect.right + far - 1) // side[0] + 1)
    }
