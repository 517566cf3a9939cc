"""The inner loops of filling to fit, compiled: domains as bitsets, kept arc-consistent, mended where they run empty.

A cell's *domain* is the set of patterns that it may still hold, as bits of W 64-bit numbers. Bits are looked up eight
or four at once: `table[place, value]` holds what the neighbours in all directions may then be. Cells are opened block
by block and laid, the least open ones first, so that what is worked on stays small whatever the size of the field.

References
----------
A. K. Mackworth, "Consistency in networks of relations", Artificial Intelligence 8 (1977): arc consistency, here with
whole domains as bitsets. P. Merrell and D. Manocha, "Model synthesis", IEEE Transactions on Visualization and Computer
Graphics 17 (2011): what cannot be laid is taken out with its neighbourhood and laid again.
"""

from typing import Any, NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

LEVELS = 64
DONE, MORE, STUCK = 0, 1, 2
CLOSED = -2
BEFORE, AFTER, LEVEL, WAITING, STEP, MARK, TRIES = range(7)
"""What is kept of each cell: its neighbours in the list of its level, and the level, -1 where one pattern is left,
CLOSED in blocks not yet opened; whether it waits in the ring; the last step that changed it; the last region that it
was in; how often it was tried."""
RING, TRAIL, REGION = range(3)
"""Lists of cells: those whose neighbours have to be looked at, those that the step at hand changed, one to mend."""
FIRST, LAST, CHANGED, STEPS, BLOCK, MARKS, BUDGET = range(LEVELS, LEVELS + 7)
"""Behind the heads of the lists of cells by level: the ends of the ring, how many cells the step at hand changed, the
number of steps, of blocks opened and of regions so far, and how many cells may be laid again for this block."""
_SHARPNESS = 6.0
_ONE, _TO_LOG = 1023 << 52, 2.0**-52
_FIRST_RADIUS, _WIDER, _LAST_RADIUS, _ROUND = 2, 12, 40, 4
_PATIENCE = 300_000

Array = NDArray[Any]


class Work(NamedTuple):
    """What is to be laid, and all that is known so far; a run can be interrupted and taken up again.

    Attributes
    ----------
    domain, kept : (N, W) uint64
        What each cell may hold, and what those that the step at hand changed might hold before.
    parts : W numbers
        Only their count matters: of a tuple it is known while compiling, which makes the loops a fourth quicker.
    cells : (N, 8) int32
    lists : (3, N) int32
    heads : (LEVELS + 7,) int64
    beside : (D, N) int32
        The neighbour in each direction, -1 where there is none.
    table : (K / 8, 256, D W) or (K / 4, 16, D W) uint64
        What the neighbours in all directions may be, one after the other, by each eight or four bits of a domain.
    allowed : (D W,) uint64
        Room to work in.
    weighed : (K / 8, 256, 2) float64
        The sum of the weights of an eight's patterns, and of weight times its logarithm.
    """

    domain: Array
    parts: Any
    kept: Array
    cells: Array
    lists: Array
    heads: Array
    beside: Array
    table: Array
    allowed: Array
    weighed: Array


@njit(cache=True, inline="always")
def _number_at(seed: int, row: int, column: int) -> Any:
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


@njit(cache=True, inline="always")
def _level(domain: Array, parts: Any, cell: int, weighed: Array) -> int:
    """How open a cell is: its entropy as the number of a list, -1 where one pattern is left."""
    total, spread, count = 0.0, 0.0, 0
    for word in range(len(parts)):
        bits = domain[cell, word]
        count += (bits != np.uint64(0)) + ((bits & (bits - np.uint64(1))) != np.uint64(0))
        for eight in range(word * 8, min(word * 8 + 8, weighed.shape[0])):
            value = bits & np.uint64(255)
            total += weighed[eight, value, 0]
            spread += weighed[eight, value, 1]
            bits >>= np.uint64(8)
    if count < 2:
        return -1
    # The logarithm to base 2, but for a twelfth: the exponent, and the rest as a straight line.
    log = (np.float64(total).view(np.int64) - _ONE) * _TO_LOG
    return min(LEVELS - 1, max(0, int((log - spread / total) * _SHARPNESS)))


@njit(cache=True, inline="always")
def _place(cell: int, level: int, cells: Array, heads: Array) -> None:
    """Moves an open cell to the list of another level; -1 takes it out of all."""
    old = cells[cell, LEVEL]
    if old == level or old == CLOSED:  # noqa: SIM109 - compiled
        return
    if old >= 0:
        before, after = cells[cell, BEFORE], cells[cell, AFTER]
        if before >= 0:
            cells[before, AFTER] = after
        else:
            heads[old] = after
        if after >= 0:
            cells[after, BEFORE] = before
    cells[cell, LEVEL] = level
    if level >= 0:
        first = heads[level]
        cells[cell, BEFORE], cells[cell, AFTER] = -1, first
        if first >= 0:
            cells[first, BEFORE] = cell
        heads[level] = cell


@njit(cache=True)
def _chosen(domain: Array, parts: Any, cell: int, weighed: Array, number: float) -> int:
    """The pattern of a cell's domain that a number in [0, 1) falls on, by weight."""
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


@njit(cache=True, inline="always")
def _remember(cell: int, domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array) -> None:
    """Keeps what a cell was before the step at hand changed it."""
    if cells[cell, STEP] != heads[STEPS]:
        cells[cell, STEP] = heads[STEPS]
        count = heads[CHANGED]
        lists[TRAIL, count] = cell
        for word in range(len(parts)):
            kept[count, word] = domain[cell, word]
        heads[CHANGED] = count + 1


@njit(cache=True, inline="always")
def _ask(cell: int, cells: Array, lists: Array, heads: Array) -> None:
    """Queues a cell whose neighbours have to be looked at."""
    if not cells[cell, WAITING]:
        cells[cell, WAITING] = 1
        last = heads[LAST]
        lists[RING, last] = cell
        heads[LAST] = last + 1 if last + 1 < lists.shape[1] else 0


@njit(cache=True, inline="always")
def _begin(heads: Array) -> None:
    heads[CHANGED] = 0
    heads[STEPS] += 1


@njit(cache=True)
def _settle(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    allowed: Array, weighed: Array,
) -> int:  # fmt: skip
    """Takes out of domains what no neighbour allows, until nothing changes; a cell that runs empty, or -1."""
    words, ways, empty, bits_at_once = len(parts), beside.shape[0], -1, 8 if table.shape[1] == 256 else 4
    at_once, shift, lots = np.uint64(table.shape[1] - 1), np.uint64(bits_at_once), 64 // bits_at_once
    while heads[FIRST] != heads[LAST] or cells[lists[RING, heads[FIRST]], WAITING]:
        cell = lists[RING, heads[FIRST]]
        heads[FIRST] = heads[FIRST] + 1 if heads[FIRST] + 1 < lists.shape[1] else 0
        cells[cell, WAITING] = 0
        if empty >= 0:
            continue
        allowed[:] = np.uint64(0)
        for word in range(words):
            bits, place = domain[cell, word], word * lots
            while bits:
                value = int(bits & at_once)
                if value:
                    for number in range(ways * words):
                        allowed[number] |= table[place, value, number]
                bits >>= shift
                place += 1
        for way in range(ways):
            other = beside[way, cell]
            # What is laid, and has told its neighbours what it allows, can't be forbidden by them.
            if other < 0 or (cells[other, LEVEL] == -1 and not cells[other, WAITING]):
                continue
            changed, left = False, False
            for part in range(words):
                old = domain[other, part]
                new = old & allowed[way * words + part]
                if new != old:
                    if not changed:
                        changed = True
                        _remember(other, domain, parts, kept, cells, lists, heads)
                    domain[other, part] = new
                left |= new != np.uint64(0)
            if not left:
                empty = other
                break
            if changed:
                _ask(other, cells, lists, heads)
    return empty


@njit(cache=True)
def _take_back(domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array) -> None:
    """Makes all that the step at hand changed as it was."""
    for place in range(heads[CHANGED]):
        cell = lists[TRAIL, place]
        for word in range(len(parts)):
            domain[cell, word] = kept[place, word]


@njit(cache=True, inline="always")
def _keep(domain: Array, parts: Any, cells: Array, lists: Array, heads: Array, weighed: Array) -> None:
    """Lets all that the step at hand changed stay: each cell goes to the list of how open it is now."""
    for place in range(heads[CHANGED]):
        cell = lists[TRAIL, place]
        if cells[cell, LEVEL] != CLOSED:
            _place(cell, _level(domain, parts, cell, weighed), cells, heads)


@njit(cache=True)
def _try(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    allowed: Array, weighed: Array, cell: int, number: float,
) -> int:  # fmt: skip
    """Chooses a pattern for a cell, or takes it out of the cell's domain; a cell at which neither can be, or -1."""
    pattern = _chosen(domain, parts, cell, weighed, number)
    bit = np.uint64(1) << np.uint64(pattern % 64)
    cells[cell, TRIES] += 1
    empty = -1
    for turn in range(2):
        _begin(heads)
        _remember(cell, domain, parts, kept, cells, lists, heads)
        if turn == 0:
            for word in range(len(parts)):
                domain[cell, word] = np.uint64(0)
            domain[cell, pattern // 64] = bit
        else:
            domain[cell, pattern // 64] &= ~bit
        _ask(cell, cells, lists, heads)
        empty = _settle(domain, parts, kept, cells, lists, heads, beside, table, allowed, weighed)
        if empty < 0:
            _keep(domain, parts, cells, lists, heads, weighed)
            return -1
        _take_back(domain, parts, kept, cells, lists, heads)
    return empty


@njit(cache=True)
def _region(centre: int, radius: int, cells: Array, lists: Array, heads: Array, beside: Array) -> int:
    """Cells within some steps of one, written to a list; how many."""
    heads[MARKS] += 1
    mark = heads[MARKS]
    cells[centre, MARK] = mark
    lists[REGION, 0] = centre
    count, begin = 1, 0
    for _ in range(radius):
        last = count
        for place in range(begin, last):
            for way in range(beside.shape[0]):
                other = beside[way, lists[REGION, place]]
                if other >= 0 and cells[other, MARK] != mark:
                    cells[other, MARK] = mark
                    lists[REGION, count] = other
                    count += 1
        begin = last
    return count


@njit(cache=True)
def _mend(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    allowed: Array, weighed: Array, start: Array, empty: int,
) -> bool:  # fmt: skip
    """Takes out what lies round a cell that nothing fits, as far as needed, to be laid again; False if that fails."""
    radius = _FIRST_RADIUS + min(cells[empty, TRIES], _WIDER)
    while radius <= _LAST_RADIUS and heads[BUDGET] > 0:
        inner = _region(empty, radius, cells, lists, heads, beside)
        size = _region(empty, radius + _ROUND, cells, lists, heads, beside)
        heads[BUDGET] -= inner
        _begin(heads)
        for place in range(size):
            cell = lists[REGION, place]
            # What is open round about may be open more widely without what is taken out.
            if place < inner or cells[cell, LEVEL] != -1:
                _remember(cell, domain, parts, kept, cells, lists, heads)
                for word in range(len(parts)):
                    domain[cell, word] = start[cell, word]
                _place(cell, _level(domain, parts, cell, weighed), cells, heads)
            cells[cell, TRIES] += place < inner
            _ask(cell, cells, lists, heads)
            for way in range(beside.shape[0]):
                if beside[way, cell] >= 0:
                    _ask(beside[way, cell], cells, lists, heads)
        if _settle(domain, parts, kept, cells, lists, heads, beside, table, allowed, weighed) < 0:
            _keep(domain, parts, cells, lists, heads, weighed)
            return True
        _take_back(domain, parts, kept, cells, lists, heads)
        _keep(domain, parts, cells, lists, heads, weighed)
        radius += 1
    return False


@njit(cache=True)
def run(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    allowed: Array, weighed: Array, start: Array, places: Array, order: Array, bounds: Array, steps: int, seed: int,
) -> tuple[int, int]:  # fmt: skip
    """Lays up to so many cells; DONE, MORE or STUCK, and the cell at which it is stuck.

    Parameters
    ----------
    domain, kept, cells, lists, heads, beside, table, allowed, weighed
        The fields of `Work`.
    start : (N, W) uint64
        What each cell may hold before anything is chosen.
    places : (N, 2) int32
        Row and column of each cell, for chance.
    order : (N,) int32
        The cells block by block.
    bounds : (B + 1,) int32
        Where each block begins in it.
    steps : int
    seed : int
        Of 32 bits.
    """
    for _ in range(steps):
        lowest = 0
        while lowest < LEVELS and heads[lowest] < 0:
            lowest += 1
        if lowest == LEVELS:
            block = heads[BLOCK]
            if block + 1 == bounds.shape[0]:
                return DONE, -1
            for place in range(bounds[block + 1] - 1, bounds[block] - 1, -1):
                cell = order[place]
                cells[cell, LEVEL] = -1
                _place(cell, _level(domain, parts, cell, weighed), cells, heads)
            heads[BLOCK] += 1
            heads[BUDGET] = _PATIENCE
            continue
        cell = heads[lowest]
        number = _number_at(seed + cells[cell, TRIES] * 7919, places[cell, 0], places[cell, 1])
        empty = _try(domain, parts, kept, cells, lists, heads, beside, table, allowed, weighed, cell, number)
        if empty < 0 or _mend(domain, parts, kept, cells, lists, heads, beside, table, allowed, weighed, start, empty):
            continue
        return STUCK, empty
    return MORE, -1


@njit(cache=True)
def make_ready(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    allowed: Array, weighed: Array, narrowed: Array,
) -> int:  # fmt: skip
    """Makes all domains consistent before anything is chosen; a cell at which demands disagree, or -1. See `Work`.

    Parameters
    ----------
    narrowed : (M,) int
        The cells that may take something from their neighbours.
    """
    _begin(heads)
    for cell in narrowed:
        _ask(cell, cells, lists, heads)
    return int(_settle(domain, parts, kept, cells, lists, heads, beside, table, allowed, weighed))
