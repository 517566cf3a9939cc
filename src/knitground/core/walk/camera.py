"""What of a ground a game shows: a screen that keeps the figure in the middle, as far as the ground reaches."""

from dataclasses import dataclass
from typing import Annotated

from pydantic import ConfigDict, Field

from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.walk.motion import Spot

LEAST_SIDE, MOST_SIDE = 16, 8192


_Side = Annotated[int, Field(ge=LEAST_SIDE, le=MOST_SIDE)]


@dataclass(frozen=True)
class Screen:
    """Width and height of what a game shows, in pixels of the ground."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    width: _Side
    height: _Side


def screen_of(text: str) -> Screen | None:
    """The screen that a text names, as in "320 x 180"; none where it is empty.

    Raises
    ------
    BadRequest
        If it is no such text, or out of range.
    """
    if not text.strip():
        return None
    parts = text.lower().replace("×", "x").split("x")
    if len(parts) != 2 or not all(part.strip().isdecimal() and len(part.strip()) < 6 for part in parts):
        raise BadRequest(f"“{text.strip()[:40]}” is no size; write pixels of the ground, such as 320 x 180.")
    width, height = (int(part) for part in parts)
    if not all(LEAST_SIDE <= side <= MOST_SIDE for side in (width, height)):
        raise BadRequest(f"{width} x {height} is out of range; give from {LEAST_SIDE} to {MOST_SIDE} pixels a side.")
    return Screen(width, height)


def camera(spot: Spot, size: tuple[int, int], width: float, height: float) -> PixelRect:
    """What of a ground is shown with somebody in the middle; a smaller ground lies in the middle itself.

    Parameters
    ----------
    size : (int, int)
        Of the ground, in pixels.
    width, height : float
        Of what is shown.
    """

    def begin(middle: float, whole: int, part: float) -> int:
        return round(min(max(middle - part / 2, 0), whole - part) if whole > part else (whole - part) / 2)

    return PixelRect(begin(spot.x, size[0], width), begin(spot.y, size[1], height), round(width), round(height))
