"""Knitting: from painted terrains to tiles.

A tile is a pure function of the terrains round its cell, the table of the set, the seed and its place, so any
window can be knit without its surroundings. Work goes in bands of rows that stay in the processor's
cache, in buffers that are used again; a large window is shared between two threads, as NumPy lets go of the
interpreter lock.
"""

from collections.abc import Callable, Mapping
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


def knit(
    planes: Mapping[str, NDArray[np.uint8]], table: JoinTable, *, seed: int, top: int = 0, left: int = 0
) -> NDArray[np.int32]:
    """Tiles for painted terrains.

    Parameters
    ----------
    planes : mapping of name to uint8 array
        Terrain numbers, 0 for none. For corner sets *corners* (H + 1, W + 1), the terrain at each lattice point; for
        edge sets *across* (H + 1, W), on the north edge of each cell and the south edge of the last row, and
        *along* (H, W + 1), on the west edge of each cell and the east edge of the last column; for full sets all.
    table : JoinTable
    seed : int
        Chooses among variants, together with the place.
    top, left : int
        Place of the window on its ground.

    Returns
    -------
    codes : (H, W) int32
        Cell codes; EMPTY where nothing lies all round, GAP where no tile has these terrains.
    """
    if table.kind == "corner":
        corners = planes["corners"]
        shape = corners.shape[0] - 1, corners.shape[1] - 1
        return _knit(lambda *band: _combine_corners(corners, table.base, *band), shape, table, seed, top, left)
    across, along = planes["across"], planes["along"]
    shape = along.shape[0], across.shape[1]
    if table.kind == "edge":
        return _knit(lambda *band: _combine_edges(across, along, table.base, *band), shape, table, seed, top, left)

    def combine(first: int, last: int, out: NDArray[Any]) -> None:
        assert table.classes is not None  # a full set's
        part = np.empty(out.shape, dtype=np.uint16 if table.base**4 <= 2**16 else np.uint32)
        _combine_corners(planes["corners"], table.base, first, last, part)
        np.take(table.classes[0], part, out=out, mode="clip")
        _combine_edges(across, along, table.base, first, last, part)
        out += np.take(table.classes[1], part, mode="clip")

    return _knit(combine, shape, table, seed, top, left)


def _combine_corners(corners: NDArray[np.uint8], base: int, first: int, last: int, out: NDArray[Any]) -> None:
    """One number for the four corners of each cell of some rows."""
    rows = corners[first : last + 1]
    np.multiply(rows[:-1, :-1], base, out=out, dtype=out.dtype)
    for following in (rows[:-1, 1:], rows[1:, 1:]):
        out += following
        out *= base
    out += rows[1:, :-1]


def _combine_edges(
    across: NDArray[np.uint8], along: NDArray[np.uint8], base: int, first: int, last: int, out: NDArray[Any]
) -> None:
    """One number for the four edges of each cell of some rows."""
    level, upright = across[first : last + 1], along[first:last]
    np.multiply(level[:-1], base, out=out, dtype=out.dtype)
    for following in (upright[:, 1:], level[1:]):
        out += following
        out *= base
    out += upright[:, :-1]


def _knit(
    combine: Combine, shape: tuple[int, int], table: JoinTable, seed: int, top: int, left: int
) -> NDArray[np.int32]:
    """Codes of a window, whose combinations `combine` works out for a band of rows."""
    codes = np.empty(shape, dtype=np.int32)
    columns = np.arange(left, left + shape[1])
    bands = range(0, shape[0], _BAND)
    narrow = np.uint16 if table.classes is None and table.base**4 <= 2**16 else np.uint32

    def work(mine: range) -> None:
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
