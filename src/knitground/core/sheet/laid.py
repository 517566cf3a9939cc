"""A grid laid on just the tiles of art that lies somewhere on a sheet."""

from dataclasses import replace
from typing import NamedTuple

from knitground.core.sheet.cut import Cut, Rect, tile_rect

NEAR = 2
"""How many pixels of a tile art may leave bare at its beginning without hiding where that is."""


class Side(NamedTuple):
    """Where art lies that may have a grid of its own, and how far its tiles may reach at the most."""

    art: Rect
    room: Rect

    def with_other(self, other: "Side") -> "Side":
        """Both as one."""
        return Side(self.art.with_other(other.art), self.room.with_other(other.room))


def laid_on(cut: Cut, side: Side, left: int, top: int) -> Cut | None:
    """A cut whose first tile begins at a place, on just the tiles of a side; none if they reach too far."""
    art, room = side
    left, top = _before(left, art.x, room.x, cut.pitch_x), _before(top, art.y, room.y, cut.pitch_y)
    columns = -(-(art.x + art.width - left) // cut.pitch_x)
    rows = -(-(art.y + art.height - top) // cut.pitch_y)
    wide, high = columns * cut.pitch_x - cut.spacing_x, rows * cut.pitch_y - cut.spacing_y
    inside = (
        room.x <= left and room.y <= top and left + wide <= room.x + room.width and top + high <= room.y + room.height
    )
    if not inside or columns < 1 or rows < 1:
        return None
    return replace(cut, margin_x=0, margin_y=0, region=Rect(left, top, wide, high))


def continued(cut: Cut, side: Side) -> Cut | None:
    """A cut whose grid goes on over a side; none if that would reach too far."""
    first, art = tile_rect(cut, 0, 0), side.art
    left, top = art.x - (art.x - first.x) % cut.pitch_x, art.y - (art.y - first.y) % cut.pitch_y
    return laid_on(cut, side, left, top)


def _before(first: int, art: int, room: int, pitch: int) -> int:
    """Where tiles begin so that art which hardly fills the first of them is in it, if there is room for that."""
    while first > art + NEAR and first - pitch >= room:
        first -= pitch
    return first
