"""A block as a pattern that is repeated over a ground."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect


@dataclass(frozen=True, eq=False)
class Pattern:
    """Cell codes of flat cells, (h, w) int32, repeated over a ground, so that strokes join; -1 for none."""

    codes: NDArray[np.int32]
    board: Board

    def over(self, rect: CellRect) -> NDArray[np.int32]:
        """The codes of a rectangle of cells, (height, width) int32.

        Parameters
        ----------
        rect : CellRect
        """
        ys, xs = self.board.flat("cells", *np.mgrid[rect.rows, rect.columns])
        height, width = self.codes.shape
        codes: NDArray[np.int32] = self.codes[ys % height, xs % width]
        return codes
