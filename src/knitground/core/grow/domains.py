"""What is known of a domain, compiled: how open it is, what it lets its neighbours be, and what chance takes of it.

Few different domains come up again and again while a field is filled, so each is worked out once and looked up from
then on.
"""

from collections.abc import Callable
from typing import Any, TypeVar

import numpy as np
from numba import njit
from numpy.typing import NDArray

LEVELS = 64
_SHARPNESS = 6.0
_ONE, _TO_LOG = 1023 << 52, 2.0**-52
_SPREADING = np.uint64(0x9E3779B97F4A7C15)

Array = NDArray[Any]
_Function = TypeVar("_Function", bound=Callable[..., Any])


# Nothing is allocated in these loops; counting who holds an array would take more than half of the time.
_OPTIONS: dict[str, Any] = {"cache": True, "nogil": True, "_nrt": False}


def compiled(function: _Function) -> _Function:
    """A function as a compiled loop."""
    made: _Function = njit(**_OPTIONS)(function)
    return made


def inlined(function: _Function) -> _Function:
    """A function as a part of the compiled loops that call it."""
    made: _Function = njit(inline="always", **_OPTIONS)(function)
    return made


@inlined
def number_at(seed: int, row: int, column: int) -> Any:
    """A number in [0, 1) for one cell, by the mixing of `knitground.core.chance`."""
    value = np.uint32(np.uint32(row) * np.uint32(0x9E3779B1)) ^ np.uint32(seed)
    for part in range(2):
        if part == 1:
            value = np.uint32(value ^ np.uint32(np.uint32(column) * np.uint32(0x85EBCA77)))
        value = np.uint32(value ^ (value >> np.uint32(16)))
        value = np.uint32(value * np.uint32(0x7FEB352D))
        value = np.uint32(value ^ (value >> np.uint32(15)))
        value = np.uint32(value * np.uint32(0x846CA68B))
        value = np.uint32(value ^ (value >> np.uint32(16)))
    return value / 4294967296.0


@compiled
def _learn(domain: Array, parts: Any, cell: int, place: int, known: Array, table: Array, weighed: Array) -> None:
    """Works out what a domain allows its neighbours and how open it is, to be looked up at its place."""
    words, bits_at_once = len(parts), 8 if table.shape[1] == 256 else 4
    at_once, shift, lots = np.uint64(table.shape[1] - 1), np.uint64(bits_at_once), 64 // bits_at_once
    known[place] = np.uint64(0)
    total, spread, count = 0.0, 0.0, 0
    for word in range(words):
        bits = domain[cell, word]
        known[place, word] = bits
        count += (bits != np.uint64(0)) + ((bits & (bits - np.uint64(1))) != np.uint64(0))
        for lot in range(word * lots, min(word * lots + lots, table.shape[0])):
            value = (bits >> (shift * np.uint64(lot % lots))) & at_once
            if value:
                for number in range(table.shape[2]):
                    known[place, words + number] |= table[lot, value, number]
        for eight in range(word * 8, min(word * 8 + 8, weighed.shape[0])):
            value = (bits >> np.uint64(8 * (eight % 8))) & np.uint64(255)
            total += weighed[eight, value, 0]
            spread += weighed[eight, value, 1]
    if count > 1:
        # The logarithm to base 2, but for a twelfth: the exponent, and the rest as a straight line.
        log = (np.float64(total).view(np.int64) - _ONE) * _TO_LOG
        level = min(LEVELS - 1, max(0, int((log - spread / total) * _SHARPNESS)))
        known[place, known.shape[1] - 1] = np.uint64(level + 1)


@inlined
def looked_up(domain: Array, parts: Any, cell: int, known: Array, table: Array, weighed: Array) -> int:
    """The place at which stands what is known of a cell's domain.

    Parameters
    ----------
    domain : (cells, words) uint64
        Which patterns each cell may still hold, a bit for each.
    parts : tuple
        As long as a domain has words.
    cell : int
    known : (places, N) uint64
        What was worked out for domains: their words, what they allow, how open they are.
    table : (lots, values, M) uint64
        What each lot of bits allows.
    weighed : (eights, 256, 2) float64
        The weights, and weights times their logarithms, of each eight patterns.
    """
    spread, same = np.uint64(0), True
    for word in range(len(parts)):
        spread = (spread ^ domain[cell, word]) * _SPREADING
    place: int = int((spread ^ (spread >> np.uint64(32))) >> np.uint64(20)) & (known.shape[0] - 1)
    for word in range(len(parts)):
        same &= known[place, word] == domain[cell, word]
    if not same:
        _learn(domain, parts, cell, place, known, table, weighed)
    return place


@inlined
def level(domain: Array, parts: Any, cell: int, known: Array, table: Array, weighed: Array) -> int:
    """How open a cell is: its entropy as the number of a list, -1 where one pattern is left.

    Parameters
    ----------
    domain, parts, cell, known, table, weighed
        As for `looked_up`.
    """
    place = looked_up(domain, parts, cell, known, table, weighed)
    return int(known[place, known.shape[1] - 1]) - 1


@compiled
def chosen(domain: Array, parts: Any, cell: int, weighed: Array, number: float) -> int:
    """The pattern of a cell's domain that a number falls on, by weight.

    Parameters
    ----------
    domain, parts, cell, weighed
        As for `looked_up`.
    number : float
        In [0, 1).
    """
    total = 0.0
    for word in range(len(parts)):
        for part in range(min(8, len(weighed) - word * 8)):
            value = int((domain[cell, word] >> np.uint64(8 * part)) & np.uint64(255))
            total += weighed[word * 8 + part, value, 0]
    wanted, last = number * total, -1
    for word in range(len(parts)):
        for part in range(min(8, len(weighed) - word * 8)):
            value = int((domain[cell, word] >> np.uint64(8 * part)) & np.uint64(255))
            eight = word * 8 + part
            if last >= 0 and wanted >= weighed[eight, value, 0]:
                wanted -= weighed[eight, value, 0]
                continue
            for bit in range(8):
                if value >> bit & 1:
                    last = eight * 8 + bit
                    wanted -= weighed[eight, 1 << bit, 0]
                    if wanted < 0.0:
                        return last
    return last
