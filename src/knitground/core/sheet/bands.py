"""Clear lines across a sheet, by how they lie among the filled ones: which may part it, and which part one grid."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.laid import Side

FEW_BANDS = 3
"""With fewer there is no usual one to go by."""
_BLOCK = 2.5


class Gap(NamedTuple):
    """Clear lines: how many against usual ones, or alone among a few; how many pixels; behind which line, which way."""

    wider: float
    width: int
    at: int
    down: bool
    alone: bool


class Band(NamedTuple):
    """A gap with what lies on its two sides."""

    gap: Gap
    sides: tuple[Side, Side]


def are_even(places: NDArray[np.intp], widths: NDArray[np.intp]) -> bool:
    """Whether gaps are equally wide and far apart, three or more, as those between the tiles of a grid are.

    Parameters
    ----------
    places, widths : (N,) intp
        The filled lines before them, and how many lines each is wide.
    """
    return len(places) >= FEW_BANDS and len(set(widths.tolist())) == 1 == len(set(np.diff(places).tolist()))


def beside_a_block(clear: NDArray[np.intp], filled: int) -> NDArray[np.bool_]:
    """Of gaps, those beside what goes on far longer without one than is usual, (N,) bool: tiles that touch.

    Parameters
    ----------
    clear : (N,) intp
        How many filled lines lie before each gap, but for one.
    filled : int
        How many there are.
    """
    long = np.diff(np.concatenate([[-1], clear, [filled - 1]]))
    block = long >= _BLOCK * np.median(long)
    return np.asarray(block[:-1] | block[1:])
