"""Hypotheses of how a sheet is cut along one axis, and which sizes of tiles are usual."""

from typing import NamedTuple

VERY_USUAL = frozenset({8, 16, 24, 32, 48, 64, 128})
USUAL = VERY_USUAL | {12, 20, 40, 80, 96, 256}


class Axis(NamedTuple):
    """Tile, margin and spacing along one axis, in pixels."""

    tile: int
    margin: int
    spacing: int

    @property
    def pitch(self) -> int:
        """Pixels from one tile to the next."""
        return self.tile + self.spacing

    def left_over(self, length: int) -> int:
        """Pixels behind the last whole tile, on a picture so many pixels long."""
        return (length - self.margin + self.spacing) % self.pitch

    def fits(self, length: int) -> bool:
        """Whether whole tiles reach to the far edge, or to a margin or a last gutter there."""
        return self.left_over(length) in (0, self.margin, self.spacing, self.margin + self.spacing)

    def repeats(self, length: int) -> int:
        """How many tiles there are."""
        return (length - self.margin + self.spacing) // self.pitch
