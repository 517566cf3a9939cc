"""Symmetry while drawing: where else a gesture falls, and how what it lays is turned there.

Places are reflected as they are seen on the screen, about the middle of the ground, moved by half a cell where that is
needed to let cells fall on cells. Turning goes by flat places, so that it turns the ground and not the picture: by
quarters, and by sixths where cells are hexagons.
"""

from dataclasses import dataclass, replace
from typing import Literal

from knitground.core.grid.pointed import turned_about
from knitground.core.grid.projection import Projection

Way = Literal["none", "across", "down", "both", "turned", "wrapping"]
WAYS: tuple[Way, ...] = ("none", "across", "down", "both", "turned", "wrapping")
Spot = tuple[float, float]
Image = tuple[int, tuple[Spot, ...]]
"""How tiles are turned in an image of a gesture, and its places there."""

_MIRRORED, _UPSIDE_DOWN, _HALF_TURN = 4, 6, 2


@dataclass(frozen=True)
class Symmetry:
    """A way to repeat gestures on a ground."""

    way: Way
    projection: Projection

    def images(self, *spots: Spot) -> list[Image]:
        """A gesture at some flat places and its images, itself first."""
        if self.way == "turned":
            return self._turned(spots)
        if self.way == "wrapping":
            board = replace(self.projection.board, wraps_x=True, wraps_y=True)
            return [(0, tuple(one)) for one in board.rounds(*spots)]
        found: list[Image] = [(0, spots)]
        # Seen from aside a tile can't be turned upside down.
        upright = self.projection.overlapping
        if self.way in ("across", "both"):
            found.append((_MIRRORED, self._reflected(spots, across=True)))
        if self.way in ("down", "both"):
            found.append((0 if upright else _UPSIDE_DOWN, self._reflected(spots, down=True)))
        if self.way == "both":
            found.append((_MIRRORED if upright else _HALF_TURN, self._reflected(spots, across=True, down=True)))
        return found

    def axes(self) -> list[tuple[tuple[float, float], tuple[float, float]]]:
        """The lines about which gestures are reflected, as pairs of pixels of the ground."""
        (width, height), (across, down) = self.projection.size, self._twice_the_middle()
        lines = []
        if self.way in ("across", "both"):
            lines.append(((across / 2, 0.0), (across / 2, float(height))))
        if self.way in ("down", "both"):
            lines.append(((0.0, down / 2), (float(width), down / 2)))
        if self.way == "turned":
            x, y = self.projection.point(*self._pivot())
            lines += [((x - 12.0, y), (x + 12.0, y)), ((x, y - 12.0), (x, y + 12.0))]
        return lines

    def _twice_the_middle(self) -> tuple[float, float]:
        """The sum of each place and its image, across and down, in pixels."""
        across, down = self.projection.mirrors
        return across * self.projection.tile_width, down * self.projection.tile_height

    def _reflected(self, spots: tuple[Spot, ...], *, across: bool = False, down: bool = False) -> tuple[Spot, ...]:
        wide, high = self._twice_the_middle()
        found = []
        for spot in spots:
            x, y = self.projection.point(*spot)
            back_y, back_x = self.projection.place(wide - x if across else x, high - y if down else y)
            found.append((float(back_y), float(back_x)))
        return tuple(found)

    def _pivot(self) -> Spot:
        """The flat place about which a ground is turned: a corner of cells, or the middle of one."""
        board = self.projection.board
        y, x = board.flat("cells", board.height // 2, board.width // 2)
        if not self.projection.straight:
            return y + 0.5, x + 0.5
        odd = 0.5 if board.height % 2 and board.width % 2 else 0.0
        return float(y) + odd, float(x) + odd

    def _turned(self, spots: tuple[Spot, ...]) -> list[Image]:
        middle_y, middle_x = self._pivot()
        found: list[Image] = []
        if not self.projection.straight:
            for _ in range(6):
                found.append((0, spots))
                spots = tuple(turned_about((int(middle_y // 1), int(middle_x // 1)), spot) for spot in spots)
            return found
        for turn in range(4):
            quarter = 0 if self.projection.overlapping else turn
            found.append((quarter, spots))
            spots = tuple((middle_y + x - middle_x, middle_x - (y - middle_y)) for y, x in spots)
        return found
