"""How closely a ground is looked at."""

from typing import NamedTuple

from knitground.core.grid.projection import Projection


class Scale(NamedTuple):
    """How closely a ground is looked at.

    Attributes
    ----------
    level : int
        Tiles are 1 / 2**level of their size, but at least one pixel.
    cells : int
        Above 1: a pixel stands for so many cells on a side.
    """

    level: int = 0
    cells: int = 1


def smallest_level(projection: Projection) -> int:
    """The level at which the shorter side of a tile is about one pixel large; two where cells overlap.

    Overlapping cells are drawn one row after another, which at a pixel for a row would cost more than it shows.
    """
    side = min(projection.tile_width, projection.tile_height)
    return max(0, side.bit_length() - (2 if projection.overlapping else 1))


def pixels_per(projection: Projection, scale: Scale) -> tuple[float, float]:
    """How many pixels of the ground, across and down, one pixel stands for."""
    small = projection.reduced(scale.level)
    return (
        projection.tile_width / small.tile_width * scale.cells,
        projection.tile_height / small.tile_height * scale.cells,
    )
