"""Where the cells of a window lie on their ground, and which of them may be changed at the same time."""

from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

_FEW = 200


class Places(NamedTuple):
    """How the ground numbers the cells of a window, so that chance and turns agree wherever it is looked at from.

    Attributes
    ----------
    of : callable
        Rows and columns on the ground, given rows and columns of the window.
    period : (int or None, int or None)
        Rows and columns after which the ground repeats.
    apart : (int, int)
        Cells this many rows apart, or in one row as many columns, share no neighbour.
    colours : (int, int)
        What a row and a column add to the number whose parity tells neighbours apart, as on a chessboard.
    """

    of: Callable[[NDArray[np.intp], NDArray[np.intp]], tuple[Any, Any]]
    period: tuple[int | None, int | None] = (None, None)
    apart: tuple[int, int] = (3, 3)
    colours: tuple[int, int] = (1, 1)


def turns(period: tuple[int | None, int | None], apart: tuple[int, int]) -> tuple[int, int]:
    """How many turns the rows and the columns of a ground take; see `turn_of`.

    Parameters
    ----------
    period : (int or None, int or None)
        Rows and columns after which the ground repeats.
    apart : (int, int)
        Rows and columns between cells that may have the same turn.
    """
    down, across = (
        step if around is None else step + around % step for around, step in zip(period, apart, strict=True)
    )
    return down, across


def turn_of(places: NDArray[np.intp], around: int | None, step: int) -> NDArray[np.intp]:
    """When rows or columns are looked at: every few at once, and those that are over where a ground wraps alone.

    Parameters
    ----------
    places : (N,) int
        Rows, or columns, of the ground.
    around : int or None
        After how many it repeats.
    step : int
        How far apart those of one turn are.

    Returns
    -------
    turns : (N,) int
    """
    if around is None:
        return places % step
    whole = around - around % step
    return np.where(places < whole, places % step, step + places - whole)


def highest_around(
    lots: NDArray[np.uint32], rows: NDArray[np.intp], columns: NDArray[np.intp], shape: tuple[int, ...]
) -> NDArray[np.bool_]:
    """Which cells drew the highest lot of all within four cells of them.

    Parameters
    ----------
    lots : (N,) uint32
        None of them 0.
    rows, columns : (N,) int
    shape : (int, int)
        Rows and columns of the window.

    Returns
    -------
    highest : (N,) bool
    """
    if len(lots) <= _FEW:
        near = (np.abs(rows[:, None] - rows) <= 4) & (np.abs(columns[:, None] - columns) <= 4)
        few: NDArray[np.bool_] = np.where(near, lots, 0).max(axis=1) == lots
        return few
    drawn = np.zeros((shape[0] + 8, shape[1] + 8), dtype=np.uint32)
    drawn[rows + 4, columns + 4] = lots
    many: NDArray[np.bool_] = _highest_of_nine(_highest_of_nine(drawn).T).T[rows, columns] == lots
    return many


def _highest_of_nine(values: NDArray[np.uint32]) -> NDArray[np.uint32]:
    """The highest of nine rows on end, (H - 8, W); by doubling, which is many times as quick as a filter of SciPy."""
    for step in (1, 2, 4, 1):
        values = np.maximum(values[:-step], values[step:])
    return values
