"""Whether a ground is as empty as a new one."""

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.ground.knitted import Knitted

_CORNERS = 4
"""Blocks of a plane that was never painted on are the same one but at the right, the bottom and the corner."""


def is_bare(knitted: Knitted) -> bool:
    """Whether nothing was painted or placed on a ground yet, and none of its layers covers it by itself.

    It takes no longer on a large ground: what was painted once and erased again counts as painted.
    """
    first = CellRect(0, 0, 1, 1)
    return not any(
        layer.sprites
        or not all(_is_even(plane) for plane in knitted.planes_of(layer.id).values())
        or knitted.codes(layer.id, first).any()
        for layer in knitted.ground.shown()
    )


def _is_even(plane: Plane) -> bool:
    """Whether a plane holds one value only, as far as its blocks tell without much ado."""
    if not 0 < plane.block_count <= _CORNERS:
        return False  # painted on, or worked out where somebody looks
    low, high = plane.extent()
    return low == high
