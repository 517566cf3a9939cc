"""Knitting: from painted terrains to tiles.

A tile is a pure function of the four terrains round its cell, the table of the set, the seed and its place, so
any window can be knit without its surroundings. Work goes in bands of rows that stay in the processor's
cache, in buffers that are used again; a large window is shared between two threads, as NumPy lets go of the
interpreter lock.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import fill_chance_bits
from knitground.core.joins.table import SLOT_BITS, SLOTS, JoinTable

_BAND = 32
_THREADED = 1 << 20
_THREADS = 2

Combine = Callable[[int, int, NDArray[Any]], object]


def knit_corners(
    corners: NDArray[np.uint8], table: JoinTable, *, seed: int, top: int = 0, left: int = 0
) -> NDArray[np.int32]:
    """Tiles for a lattice of corner terrains.

    Parameters
    ----------
    corners : (H + 1, W + 1) uint8
        Terrain at each lattice point, 0 for none; numbers from 1 to the set's terrains.
    table : JoinTable
    seed : int
        Chooses among variants, together with the place.
    top, left : int
        Place of the window on its ground.

    Returns
    -------
    codes : (H, W) int32
        Cell codes; EMPTY where all four corners are bare, GAP where no tile has these four corners.
    """

    def combine(first: int, last: int, out: NDArray[Any]) -> None:
        rows = corners[first : last + 1]
        np.multiply(rows[:-1, :-1], table.base, out=out, dtype=out.dtype)
        for following in (rows[:-1, 1:], rows[1:, 1:]):
            out += following
            out *= table.base
        out += rows[1:, :-1]

    return _knit(combine, (corners.shape[0] - 1, corners.shape[1] - 1), table, seed, top, left)


def knit_edges(
    across: NDArray[np.uint8],
    along: NDArray[np.uint8],
    table: JoinTable,
    *,
    seed: int,
    top: int = 0,
    left: int = 0,
) -> NDArray[np.int32]:
    """Tiles for terrains on the edges between cells; the rest as `knit_corners`.

    Parameters
    ----------
    across : (H + 1, W) uint8
        Terrain on the north edge of each cell, and on the south edge of the last row.
    along : (H, W + 1) uint8
        Terrain on the west edge of each cell, and on the east edge of the last column.
    """

    def combine(first: int, last: int, out: NDArray[Any]) -> None:
        level, upright = across[first : last + 1], along[first:last]
        np.multiply(level[:-1], table.base, out=out, dtype=out.dtype)
        for following in (upright[:, 1:], level[1:]):
            out += following
            out *= table.base
        out += upright[:, :-1]

    return _knit(combine, (along.shape[0], across.shape[1]), table, seed, top, left)


def _knit(
    combine: Combine, shape: tuple[int, int], table: JoinTable, seed: int, top: int, left: int
) -> NDArray[np.int32]:
    """Codes of a window, whose combinations `combine` works out for a band of rows."""
    codes = np.empty(shape, dtype=np.int32)
    columns = np.arange(left, left + shape[1])
    bands = range(0, shape[0], _BAND)

    def work(mine: range) -> None:
        narrow = np.uint16 if table.base**4 <= 2**16 else np.uint32
        numbers = np.empty((_BAND, shape[1]), dtype=narrow)
        slots = np.empty((_BAND, shape[1]), dtype=np.int64)
        bits = np.empty((2, _BAND, shape[1]), dtype=np.uint32)
        for first in mine:
            last = min(first + _BAND, shape[0])
            some = slice(0, last - first)
            combine(first, last, numbers[some])
            if table.dense:
                np.multiply(numbers[some], SLOTS, out=slots[some], dtype=slots.dtype)
            else:
                np.take(table.starts, numbers[some], out=slots[some], mode="clip")
            rows = np.arange(top + first, top + last)
            fill_chance_bits(seed, rows, columns, bits[0, some], bits[1, some])
            bits[0, some] >>= np.uint32(32 - SLOT_BITS)
            slots[some] += bits[0, some]
            np.take(table.slots, slots[some], out=codes[first:last], mode="clip")

    if codes.size < _THREADED:
        work(bands)
    else:
        with ThreadPoolExecutor(_THREADS) as pool:
            list(pool.map(work, [bands[share::_THREADS] for share in range(_THREADS)]))
    return codes
