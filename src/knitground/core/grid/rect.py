"""Rectangles of cells."""

from collections.abc import Iterator
from typing import NamedTuple


class CellRect(NamedTuple):
    """A rectangle of cells: first row, first column, height and width."""

    top: int
    left: int
    height: int
    width: int

    @property
    def bottom(self) -> int:
        """The row behind the last."""
        return self.top + self.height

    @property
    def right(self) -> int:
        """The column behind the last."""
        return self.left + self.width

    @property
    def rows(self) -> slice:
        """As an index of rows."""
        return slice(self.top, self.bottom)

    @property
    def columns(self) -> slice:
        """As an index of columns."""
        return slice(self.left, self.right)

    @property
    def is_empty(self) -> bool:
        """Whether it holds no cell."""
        return self.height <= 0 or self.width <= 0

    def clipped(self, height: int, width: int) -> "CellRect":
        """The part inside a ground of this size; empty where they don't meet."""
        top, left = min(max(self.top, 0), height), min(max(self.left, 0), width)
        bottom, right = min(max(self.bottom, top), height), min(max(self.right, left), width)
        return CellRect(top, left, bottom - top, right - left)

    def inside(self, other: "CellRect") -> "CellRect":
        """The part that lies in another window; empty where they don't meet."""
        moved = self._replace(top=self.top - other.top, left=self.left - other.left).clipped(other.height, other.width)
        return moved._replace(top=moved.top + other.top, left=moved.left + other.left)

    def grown(self, cells: int) -> "CellRect":
        """Wider by some cells on all four sides."""
        return CellRect(self.top - cells, self.left - cells, self.height + 2 * cells, self.width + 2 * cells)

    def bands(self, rows: int) -> Iterator["CellRect"]:
        """The parts that hold so many rows each, the last one maybe fewer, from the top."""
        for top in range(self.top, self.bottom, rows):
            yield self._replace(top=top, height=min(rows, self.bottom - top))

    def holds(self, row: int, column: int) -> bool:
        """Whether a cell lies inside."""
        return self.top <= row < self.bottom and self.left <= column < self.right
