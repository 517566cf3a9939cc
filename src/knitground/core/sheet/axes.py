"""Hypotheses of how a sheet is cut along one axis, and which sizes of tiles are usual."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

VERY_USUAL = frozenset({8, 16, 24, 32, 48, 64, 128})
USUAL = VERY_USUAL | {12, 20, 40, 80, 96, 256}


class Axis(NamedTuple):
    """Tile, margin and spacing along one axis, in pixels."""

    tile: int
    margin: int
    spacing: int

    @property
    def pitch(self) -> int:
        """Pixels from one tile to the next."""
        return self.tile + self.spacing

    def repeats(self, length: int) -> int:
        """How many tiles there are."""
        return (length - self.margin + self.spacing) // self.pitch


class Axes(NamedTuple):
    """Many hypotheses along one axis, as (N,) numbers of pixels each."""

    tile: NDArray[np.intp]
    margin: NDArray[np.intp]
    spacing: NDArray[np.intp]

    @classmethod
    def of(cls, axes: Sequence[Axis]) -> "Axes":
        """Those of N hypotheses."""
        return cls(*np.array(axes, dtype=np.intp).reshape(-1, 3).T)

    @property
    def pitch(self) -> NDArray[np.intp]:
        """From one tile to the next."""
        return self.tile + self.spacing

    def left_over(self, length: int) -> NDArray[np.intp]:
        """Pixels behind the last whole tile, on a picture so many pixels long.

        Parameters
        ----------
        length : int
        """
        return np.asarray((length - self.margin + self.spacing) % self.pitch)

    def fits(self, length: int) -> NDArray[np.bool_]:
        """Whether whole tiles reach to the far edge, or to a margin or a last gutter there.

        Parameters
        ----------
        length : int
            Of the picture along the axis, in pixels.
        """
        left = self.left_over(length)
        ends = left == self.margin, left == self.spacing, left == self.margin + self.spacing
        return np.asarray((left == 0) | np.logical_or.reduce(ends))

    def repeats(self, length: int) -> NDArray[np.intp]:
        """How many tiles there are.

        Parameters
        ----------
        length : int
            Of the picture along the axis, in pixels.
        """
        return np.asarray((length - self.margin + self.spacing) // self.pitch)
