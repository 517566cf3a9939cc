"""Knitting: from painted terrains to tiles.

A tile is a pure function of the terrains round its cell, the table of the set, the seed and its place, so any
window can be knit without its surroundings. Work goes in bands of rows that stay in the processor's
cache, in buffers that are used again; a large window is shared between two threads, as NumPy lets go of the
interpreter lock.
"""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import fill_chance_bits
from knitground.core.joins.table import SLOT_BITS, SLOTS, JoinTable, as_number

_BAND = 32
_THREADED = 1 << 20
_THREADS = 2

Combine = Callable[[int, int, NDArray[Any]], object]


class Lookup(NamedTuple):
    """What combinations of a set lay.

    Attributes
    ----------
    starts : (N,) int64, or None
        Where the slots of each combination start; None if every combination has slots of its own, in order.
    slots : (M * SLOTS,) int32
        Cell codes.
    numbers : dtype
        Of the numbers of combinations.
    """

    starts: NDArray[np.int64] | None
    slots: NDArray[np.int32]
    numbers: np.dtype[Any]


def knit(
    labels: Sequence[NDArray[np.uint8]], table: JoinTable, *, seed: int, top: int = 0, left: int = 0
) -> NDArray[np.int32]:
    """Tiles for painted terrains.

    Parameters
    ----------
    labels : sequence of P (H, W) uint8
        The terrain at each place of each cell, 0 for none, in the order of the set's places: four corners, or four
        edges, or both. Views of one array do (see `places_round`).
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
    shape = labels[0].shape[0], labels[0].shape[1]
    narrow = np.uint16 if table.classes is None and table.base**4 <= 2**16 else np.uint32
    lookup = Lookup(None if table.dense else table.starts, table.slots, np.dtype(narrow))
    if table.classes is None:
        return look_up(lambda *band: _combine(labels, table.base, *band), shape, lookup, seed=seed, top=top, left=left)
    corners, edges = table.classes

    def combine(first: int, last: int, out: NDArray[Any]) -> None:
        """Numbers of the combinations of a band of rows.

        Parameters
        ----------
        first, last : int
        out : (last - first, W) of unsigned integers
        """
        part = np.empty(out.shape, dtype=np.uint16 if table.base**4 <= 2**16 else np.uint32)
        _combine(labels[:4], table.base, first, last, part)
        np.take(corners, part, out=out, mode="clip")
        _combine(labels[4:], table.base, first, last, part)
        out += np.take(edges, part, mode="clip")

    return look_up(combine, shape, lookup, seed=seed, top=top, left=left)


def look_up(
    combine: Combine, shape: tuple[int, int], lookup: Lookup, *, seed: int, top: int = 0, left: int = 0
) -> NDArray[np.int32]:
    """Cell codes of a window by the numbers of its combinations, and by chance among variants.

    Parameters
    ----------
    combine : callable
        Given the first row of a band, the one after its last, and an array of the lookup's dtype, writes the numbers
        of its cells' combinations there.
    shape : (int, int)
    lookup : Lookup
    seed, top, left : int
        As `knit` takes them.

    Returns
    -------
    codes : (H, W) int32
    """
    codes = np.empty(shape, dtype=np.int32)
    columns = np.arange(left, left + shape[1])
    bands = range(0, shape[0], _BAND)

    def work(mine: range) -> None:
        numbers = np.empty((_BAND, shape[1]), dtype=lookup.numbers)
        slots = np.empty((_BAND, shape[1]), dtype=np.int64)
        bits = np.empty((2, _BAND, shape[1]), dtype=np.uint32)
        for first in mine:
            last = min(first + _BAND, shape[0])
            some = slice(0, last - first)
            combine(first, last, numbers[some])
            if lookup.starts is None:
                np.multiply(numbers[some], SLOTS, out=slots[some], dtype=slots.dtype)
            else:
                np.take(lookup.starts, numbers[some], out=slots[some], mode="clip")
            rows = np.arange(top + first, top + last)
            fill_chance_bits(seed, rows, columns, bits[0, some], bits[1, some])
            bits[0, some] >>= np.uint32(32 - SLOT_BITS)
            slots[some] += bits[0, some]
            np.take(lookup.slots, slots[some], out=codes[first:last], mode="clip")

    if codes.size < _THREADED:
        work(bands)
    else:
        with ThreadPoolExecutor(_THREADS) as pool:
            list(pool.map(work, [bands[share::_THREADS] for share in range(_THREADS)]))
    return codes


def _combine(labels: Sequence[NDArray[np.uint8]], base: int, first: int, last: int, out: NDArray[Any]) -> None:
    """One number for four labels of each cell of some rows."""
    as_number([place[first:last] for place in labels], base, out)
