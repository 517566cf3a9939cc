"""With which frame an animation begins where tiles do not move all alike: told by where a cell lies, or by a name.

What is drawn here, written into pictures and drawn by games is the same, so this is part of what is delivered.
"""

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.rect import CellRect

_BITS = 0xFFFFFFFF


def phases_of_cells(cells: CellRect) -> NDArray[np.int64]:
    """A number for each cell that tells nothing but it apart: a mix of its row and column by multiplying and shifting.

    Parameters
    ----------
    cells : CellRect

    Returns
    -------
    phases : (height, width) int64
        From 0 to 2^24 - 1; an animation of n frames begins with the frame of this number modulo n.
    """
    rows = np.arange(cells.top, cells.bottom, dtype=np.int64)[:, None] * 0x9E3779B1 & _BITS
    columns = np.arange(cells.left, cells.right, dtype=np.int64)[None, :] * 0x85EBCA6B & _BITS
    mixed = rows ^ columns
    mixed ^= mixed >> 15
    mixed = mixed * 0x2C1B3C6D & _BITS
    mixed ^= mixed >> 13
    return np.asarray(mixed >> 8, dtype=np.int64)


def phase_of_thing(thing_id: str) -> int:
    """The same for a thing: the sum of the code points of its id, so that those numbered on begin one after another."""
    return sum(map(ord, thing_id))
