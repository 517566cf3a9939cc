"""Rectangles of different sizes put side by side in rows, in their order."""

import math
from collections.abc import Sequence

from knitground.core.sheet.cut import Rect


def shelved(
    sizes: Sequence[tuple[int, int]], *, apart: int = 0, wide: float = 1.0
) -> tuple[list[Rect], tuple[int, int]]:
    """Where to put rectangles so that the whole is about so many times as wide as high.

    Parameters
    ----------
    sizes : sequence of (int, int)
        Width and height of each.
    apart : int
        Pixels between any two.
    wide : float
        How many times.

    Returns
    -------
    places : list of Rect
        In the order of `sizes`.
    size : (int, int)
        Width and height of the whole.
    """
    if not sizes:
        return [], (0, 0)
    area = sum((width + apart) * (height + apart) for width, height in sizes)
    room = max(max(width for width, _ in sizes), math.ceil(1.1 * math.sqrt(area * wide)))
    places: list[Rect] = []
    left, top, shelf = 0, 0, 0
    for width, height in sizes:
        if left and left + width > room:
            left, top, shelf = 0, top + shelf + apart, 0
        places.append(Rect(left, top, width, height))
        left, shelf = left + width + apart, max(shelf, height)
    return places, (max(place.x + place.width for place in places), top + shelf)
