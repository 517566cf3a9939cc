"""A part of a ground while stitches are laid on it."""

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.stitches.window import Indices, Mask, Window

_COURSE, _ROW = 16, 13


class Owner(NamedTuple):
    """What laid a tile: the course and its variant, both from 0, and the cell at which it fired."""

    course: int
    variant: int
    row: int
    column: int


def owned_by(owner: int, begun: int) -> Owner | None:
    """What the numbers of a place in `Cloth.owner` and `Cloth.begun` say; None where nothing was laid."""
    if not owner:
        return None
    return Owner((owner >> _COURSE) - 1, owner & ((1 << _COURSE) - 1), begun >> _ROW, begun & ((1 << _ROW) - 1))


@dataclass
class Cloth:
    """A window while it is laid."""

    window: Window
    seed: int
    codes: NDArray[np.int32]
    """(parts, cells) int32"""
    held: Mask
    """(parts, cells) bool: cells of blocks."""
    met: Mask
    """(cells,) bool: where something fired or lies on the stitched layer itself."""
    unsure: Mask
    """(cells,) bool: what may be otherwise for what lies beyond the window."""
    traced: bool = False
    """Whether it is noted what laid each tile."""
    number: int = 0
    """Of the course at hand, from 1."""
    owner: NDArray[np.int32] = field(init=False)
    """(parts, cells) int32: which variant of which course laid what lies there; see `owned_by`."""
    begun: NDArray[np.int32] = field(init=False)
    """(parts, cells) int32: the cell of the ground at which it fired; see `owned_by`."""
    taken: Mask = field(init=False)
    """(parts, cells) bool: laid on by this course."""
    done: Mask = field(init=False)
    """(cells,) bool: where no further stitch of this course fires."""
    fired: NDArray[np.int32] = field(init=False)
    """(cells,) int32: the variant of this course that fired, from 1."""

    def __post_init__(self) -> None:
        self.owner = np.zeros(self.codes.shape if self.traced else (len(self.codes), 0), dtype=np.int32)
        self.begun = self.owner.copy()

    def begin(self) -> None:
        """Makes room for another course."""
        self.number += 1
        self.taken = np.zeros_like(self.held)
        self.done = np.zeros_like(self.met)
        self.fired = np.zeros(self.met.shape, dtype=np.int32)

    def lay(self, part: int, places: Indices, codes: NDArray[np.int32] | int, variant: int, cells: Indices) -> None:
        """Lays codes on places of a part, for a variant that fires at some cells.

        Parameters
        ----------
        places, cells : (n,) intp
        codes : (n,) int32, or one for all
        """
        self.codes[part, places] = codes
        self.taken[part, places] = True
        if part == 0:
            self.done[places] = self.met[places] = True
        if self.traced:
            self.note(part, places, variant, cells)

    def note(self, part: int, places: Indices, variants: NDArray[np.uint16] | int, cells: Indices) -> None:
        """Notes what laid what lies on places of a part.

        Parameters
        ----------
        places, cells : (n,) intp
            Where it lies, and where it fired.
        variants : (n,) uint16, or one for all
        """
        self.owner[part, places] = (self.number << _COURSE) | np.asarray(variants, dtype=np.int32)
        rows, columns = self.places(cells)
        self.begun[part, places] = (rows << _ROW) | columns

    def places(self, cells: Indices) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Rows and columns on the ground of some cells.

        Parameters
        ----------
        cells : (n,) intp

        Returns
        -------
        rows, columns : (n,) int64
        """
        down, right = np.divmod(cells, self.window.rect.width)
        return self.window.rows[down], self.window.columns[right]
