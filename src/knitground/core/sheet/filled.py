"""Tiles that are full to their borders with clear gutters between: what shows so well leaves little doubt of numbers.

What they are likely to be by their sizes alone would take half of a gutter into the tiles, where that makes them 32.
"""

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import Axis

_LEAST, _FEWEST = 0.5, 4


class Inked:
    """How much art there is in any rectangle of a picture.

    Parameters
    ----------
    art : (H, W) bool
        Where there is art.
    """

    def __init__(self, art: NDArray[np.bool_]) -> None:
        self._sums = np.pad(np.cumsum(np.cumsum(art, axis=0, dtype=np.int64), axis=1), ((1, 0), (1, 0)))

    def fills(self, x: Axis, y: Axis) -> bool:
        """Whether half of the tiles that hold anything are full, some at least, and nothing lies in the gutters."""
        if not x.spacing or not y.spacing:
            return False
        columns, rows = (self._begins(axis, length) for axis, length in ((x, 1), (y, 0)))
        held = self._held(rows, columns, y.tile, x.tile)
        if held.sum() != self._sums[-1, -1]:
            return False
        full = int((held == x.tile * y.tile).sum())
        return full >= max(_FEWEST, _LEAST * int((held > 0).sum()))

    def _begins(self, axis: Axis, length: int) -> NDArray[np.intp]:
        lines = self._sums.shape[length] - 1
        return axis.margin + np.arange(max(axis.repeats(lines), 0)) * axis.pitch

    def _held(self, rows: NDArray[np.intp], columns: NDArray[np.intp], high: int, wide: int) -> NDArray[np.int64]:
        corners = self._sums[np.concatenate([rows, rows + high])][:, np.concatenate([columns, columns + wide])]
        before, behind = np.split(corners, 2)
        inside = behind - before
        left, right = np.split(inside, 2, axis=1)
        return np.asarray(right - left)
