"""What of the box of a tile lies in its cell."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid import Outline

Placed = tuple[NDArray[np.uint8], int, int]
"""The alpha of a sprite, and where its left top pixel lies, seen from that of the cell's box."""
_MEETING = 0.3
"""The corner of two thick walls is up to such a part of each."""


def beside(outline: Outline, height: int, width: int) -> NDArray[np.bool_]:
    """The pixels of a box that lie beside its cell, with a pixel of leeway for the steps that artists draw.

    Parameters
    ----------
    outline : Outline
    height, width : int

    Returns
    -------
    outside : (height, width) bool
    """
    return np.asarray(_away(outline, height, width) > 1 + _step(outline, height, width))


def lies_flat(alpha: NDArray[np.uint8], left: int, top: int, outline: Outline, size: tuple[int, int]) -> bool:
    """Whether a sprite shows nothing outside its cell.

    Parameters
    ----------
    alpha : (h, w) uint8
    left, top : int
        Where its left top pixel lies, seen from that of the cell's box.
    outline : Outline
    size : (int, int)
        Height and width of the box.
    """
    rows, columns = np.nonzero(alpha)
    rows, columns = rows + top, columns + left
    inside = (rows >= 0) & (rows < size[0]) & (columns >= 0) & (columns < size[1])
    return bool(inside.all()) and not beside(outline, *size)[rows, columns].any()


def covers(alpha: NDArray[np.uint8], left: int, top: int, outline: Outline, size: tuple[int, int]) -> bool:
    """Whether nothing is seen through a sprite in its cell, but for the steps of its sides.

    Parameters as of `lies_flat`.
    """
    box = np.zeros(size, dtype=bool)
    part = box[max(0, top) : max(0, top + alpha.shape[0]), max(0, left) : max(0, left + alpha.shape[1])]
    part[:] = alpha[max(0, -top) :, max(0, -left) :][: part.shape[0], : part.shape[1]] == 255
    return bool(box[within(outline, *size)].all())


def within(outline: Outline, height: int, width: int) -> NDArray[np.bool_]:
    """The pixels of a box that lie in its cell, (height, width), without the steps of its sides."""
    return np.asarray(_away(outline, height, width) <= 1 - _step(outline, height, width))


def meet_little(one: Placed, other: Placed) -> bool:
    """Whether two sprites of one cell both show nearly whole if they stand there together, as walls on two sides do."""
    (mine, left, top), (theirs, x, y) = one, other
    x, y = x - left, y - top
    under = mine[max(0, y) : max(0, y + theirs.shape[0]), max(0, x) : max(0, x + theirs.shape[1])]
    over = theirs[max(0, -y) :, max(0, -x) :][: under.shape[0], : under.shape[1]]
    shared = np.count_nonzero((under > 0) & (over > 0))
    return bool(shared <= _MEETING * min(np.count_nonzero(mine), np.count_nonzero(theirs)))


def _away(outline: Outline, height: int, width: int) -> NDArray[np.float64]:
    """How far pixels of a box lie from its middle, (height, width); 1 on the sides of its cell."""
    down = np.abs(2 * np.arange(height)[:, None] + 1 - height) / height
    across = np.abs(2 * np.arange(width) + 1 - width) / width
    return {
        "box": np.zeros((height, width)),
        "diamond": down + across,
        # The slanted sides of a hexagon begin a quarter of the box from its pointed ends.
        "pointed": down + across / 2,
        "lying": down / 2 + across,
    }[outline]


def _step(outline: Outline, height: int, width: int) -> float:
    """How far a pixel goes, where the sides of a cell slant."""
    return 2 / (height if outline == "pointed" else width)
