"""The isometric grid in a diamond: the square grid turned by an eighth, so that its north-west corner is on top.

Its cells hang together as those of the square grid do; only the projection is another.
"""

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.grid.rect import CellRect


@dataclass(frozen=True)
class DiamondProjection(Projection):
    """Columns lead right and down, rows left and down, half a tile each; what lies further down is drawn later."""

    overlapping: ClassVar[bool] = True

    @property
    def size(self) -> tuple[int, int]:
        steps = self.board.width + self.board.height
        return -(-steps * self.tile_width // 2), -(-steps * self.tile_height // 2)

    def point(self, y: float, x: float) -> tuple[float, float]:
        return (x - y + self.board.height) * self.tile_width / 2, (x + y) * self.tile_height / 2

    def place(self, x: Any, y: Any) -> tuple[Any, Any]:
        across, down = x * 2 / self.tile_width - self.board.height, y * 2 / self.tile_height
        return (down - across) / 2, (down + across) / 2

    @property
    def mirrors(self) -> tuple[float, float]:
        height, width = self.board.height, self.board.width
        return float((width - height) // 2 + height), float((width + height) // 2)

    def corner(self, row: int, column: int) -> tuple[int, int]:
        return (column - row + self.board.height - 1) * self.tile_width // 2, (column + row) * self.tile_height // 2

    def bounds(self, cells: CellRect) -> PixelRect:
        left, _ = self.corner(cells.bottom - 1, cells.left)
        right, _ = self.corner(cells.top, cells.right - 1)
        _, top = self.corner(cells.top, cells.left)
        _, bottom = self.corner(cells.bottom - 1, cells.right - 1)
        return PixelRect(left, top, right + self.tile_width - left, bottom + self.tile_height - top)

    def cells_in(self, area: PixelRect) -> CellRect:
        found = [
            self.place(x, y)
            for x in (area.x - self.tile_width // 2, area.right + self.tile_width // 2)
            for y in (area.y - self.tile_height // 2, area.bottom + self.tile_height // 2)
        ]
        top, left = (int(np.floor(min(place[axis] for place in found))) - 1 for axis in (0, 1))
        bottom, right = (int(np.ceil(max(place[axis] for place in found))) + 1 for axis in (0, 1))
        return self.board.clip(CellRect(top, left, bottom - top, right - left))

    def strips(self, area: PixelRect) -> list[Strip]:
        found: list[Strip] = []
        height, width = self.board.height, self.board.width
        cells = self.cells_in(area)
        if cells.is_empty:
            return found
        first = max(0, (area.y - self.tile_height) * 2 // self.tile_height)
        last = min(height + width - 2, area.bottom * 2 // self.tile_height)
        for depth in range(first, last + 1):
            # Boxes of one depth stand a whole tile apart; see `corner` for the half steps.
            base = depth - height + 1
            low = (area.x * 2 // self.tile_width + base) // 2 - 1
            high = (area.right * 2 // self.tile_width + base) // 2 + 1
            low = max(low, cells.left, depth - cells.bottom + 1)
            high = min(high, cells.right - 1, depth - cells.top)
            if high >= low:
                columns = np.arange(low, high + 1)
                rows = depth - columns
                found.append(Strip(rows, columns, *self.corner(int(rows[0]), low), self.phase(depth)))
        return found
