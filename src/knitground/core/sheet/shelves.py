"""Rectangles of different sizes put side by side in rows, in their order."""

import math
from collections.abc import Sequence

from knitground.core.sheet.cut import Rect


def shelved(
    sizes: Sequence[tuple[int, int]], *, apart: int = 0, width: int | None = None
) -> tuple[list[Rect], tuple[int, int]]:
    """Where to put rectangles so that the whole is about as wide as high.

    Parameters
    ----------
    sizes : sequence of (int, int)
        Width and height of each.
    apart : int
        Pixels between any two.
    width : int, optional
        Of the whole; found out if not given.

    Returns
    -------
    places : list of Rect
        In the order of `sizes`.
    size : (int, int)
        Width and height of the whole.
    """
    if not sizes:
        return [], (0, 0)
    area = sum((wide + apart) * (high + apart) for wide, high in sizes)
    room = width or max(max(wide for wide, _ in sizes), math.ceil(1.1 * math.sqrt(area)))
    places: list[Rect] = []
    left, top, shelf = 0, 0, 0
    for wide, high in sizes:
        if left and left + wide > room:
            left, top, shelf = 0, top + shelf + apart, 0
        places.append(Rect(left, top, wide, high))
        left, shelf = left + wide + apart, max(shelf, high)
    return places, (max(place.x + place.width for place in places), top + shelf)
