"""Tiles that are full to their borders with clear gutters between: what shows so well leaves little doubt of numbers.

What they are likely to be by their sizes alone would take half of a gutter into the tiles, where that makes them 32.
"""

from collections.abc import Collection

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

    def fills(self, pairs: Collection[tuple[Axis, Axis]]) -> list[bool]:
        """Whether half of the tiles that hold anything are full, some at least, and nothing lies in the gutters.

        Parameters
        ----------
        pairs : collection of (Axis, Axis)
            Across and down.

        Returns
        -------
        fill : list of bool
            For each pair.
        """
        within_x, within_y = (
            {axis for axis in {pair[along] for pair in pairs} if axis.spacing and self._holds_all(axis, 1 - along)}
            for along in (0, 1)
        )
        return [x in within_x and y in within_y and self._are_full(x, y) for x, y in pairs]

    def _are_full(self, x: Axis, y: Axis) -> bool:
        columns, rows = (self._begins(axis, length) for axis, length in ((x, 1), (y, 0)))
        held = self._held(rows, columns, y.tile, x.tile)
        full = int((held == x.tile * y.tile).sum())
        return full >= max(_FEWEST, _LEAST * int((held > 0).sum()))

    def _holds_all(self, axis: Axis, length: int) -> bool:
        """Whether all art lies in the tiles along one axis."""
        begins = self._begins(axis, length)
        sums = self._sums[-1] if length else self._sums[:, -1]
        return bool((sums[begins + axis.tile] - sums[begins]).sum() == sums[-1])

    def _begins(self, axis: Axis, length: int) -> NDArray[np.intp]:
        lines = self._sums.shape[length] - 1
        return axis.margin + np.arange(max(axis.repeats(lines), 0)) * axis.pitch

    def _held(self, rows: NDArray[np.intp], columns: NDArray[np.intp], high: int, wide: int) -> NDArray[np.int64]:
        corners = self._sums[np.concatenate([rows, rows + high])][:, np.concatenate([columns, columns + wide])]
        inside = corners[len(rows) :] - corners[: len(rows)]
        return np.asarray(inside[:, len(columns) :] - inside[:, : len(columns)])
