"""The tiles that break the fewest joins, for cells whose surroundings no tile answers."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.lattice import SIDES
from knitground.core.joins.table import JoinTable

SIDE_STEPS = np.array([(-1, 0), (0, 1), (1, 0), (0, -1)])
"""Rows and columns from a cell to those at its four sides, clockwise from the north."""
_OPPOSITE = np.array([2, 3, 0, 1])
_CHUNK = 256
_BROKEN = 16


class Around(NamedTuple):
    """What lies at the four sides of N cells.

    Attributes
    ----------
    labels : (N, 4, P) uint8
    order : (N, 4) intp
        Which of the N cells each is; -1 where it is none of them.
    there : (N, 4) bool
        Whether there is a cell at all.
    """

    labels: NDArray[np.uint8]
    order: NDArray[np.intp]
    there: NDArray[np.bool_]


def settle(wanted: NDArray[np.uint8], around: Around, colour: NDArray[np.intp], table: JoinTable) -> NDArray[np.uint8]:
    """Labels of the tiles that break the fewest joins, and of those the ones nearest to what is wanted.

    The cells begin with what lies round them, as if cells like them got the same tile; then they look at what their
    neighbours got, like the two colours of a chessboard in turn.

    Parameters
    ----------
    wanted : (N, P) uint8
    around : Around
    colour : (N,) int
        0 or 1.
    table : JoinTable

    Returns
    -------
    labels : (N, P) uint8
    """
    laid = table.combinations[table.combinations.any(axis=1)]
    # What each tile, and what lies beside each cell, shows along the four sides.
    shown = _along_sides(laid, table)
    beside = _along_sides(around.labels, table)[:, np.arange(4), _OPPOSITE]
    tiles = np.zeros(len(wanted), dtype=np.intp)
    changes = sum((wanted[:, place, None] != laid[:, place]).astype(np.intp) for place in range(laid.shape[1]))
    for turn in (None, 0, 1, 0, 1):
        mine = np.flatnonzero(colour == turn) if turn is not None else np.arange(len(wanted))
        if turn is not None:
            beside = np.where(around.order >= 0, shown[tiles[around.order], _OPPOSITE], beside)
        for first in range(0, len(mine), _CHUNK):
            some = mine[first : first + _CHUNK]
            costs = changes[some]
            for side, opposite in enumerate(_OPPOSITE):
                differs = beside[some, side, None] != shown[:, side]
                if turn is None:
                    alike = around.order[some, side, None] >= 0
                    differs = np.where(alike, shown[:, opposite] != shown[:, side], differs)
                costs = costs + _BROKEN * (differs & around.there[some, side, None])
            tiles[some] = costs.argmin(axis=1)
    return laid[tiles]


def _along_sides(labels: NDArray[np.uint8], table: JoinTable) -> NDArray[np.intp]:
    """The labels along each side of cells, given as (..., P), as digits of one number, (..., 4)."""
    sides = np.array(SIDES[table.kind])
    return np.asarray(labels[..., sides] @ table.base ** np.arange(sides.shape[1]))
