"""A tile that walks: the box by which it is blocked, and where that lies in its picture."""

from typing import NamedTuple

from knitground.core.tiles.notes import PLAIN, TileNotes
from knitground.core.walk.room import USUAL_FOOT, Foot


class Dress(NamedTuple):
    """How a tile stands on the ground.

    Attributes
    ----------
    foot : Foot
    x, y : float
        Where the middle of the foot lies in the tile's picture, in pixels from its upper left.
    """

    foot: Foot
    x: float
    y: float


def dress_of(notes: TileNotes | None, size: tuple[int, int]) -> Dress:
    """A tile as a figure: blocked by what of it blocks, or by a small foot at the middle of its lower border."""
    width, height = size
    shape = (notes or PLAIN).collision
    if shape == "whole":
        return Dress(Foot(float(width), float(height)), width / 2, height / 2)
    points = () if isinstance(shape, str) else [point for one in shape for point in one]
    if not points:
        foot = Foot(min(USUAL_FOOT.width, float(width)), min(USUAL_FOOT.height, float(height)))
        return Dress(foot, width / 2, height - foot.height / 2)
    left, right = min(point.x for point in points), max(point.x for point in points)
    top, bottom = min(point.y for point in points), max(point.y for point in points)
    return Dress(Foot(max(right - left, 1.0), max(bottom - top, 1.0)), (left + right) / 2, (top + bottom) / 2)
