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

from knitground.core.grow.domains import LEVELS, Array, chosen, compiled, inlined, level, looked_up, number_at

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
_FIRST_RADIUS, _WIDER, _LAST_RADIUS, _ROUND = 2, 12, 40, 4
_PATIENCE = 300_000


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
    known : (M, W + D W + 1) uint64
        What was worked out already of some domains, each at the place that its bits lead to: the domain, what the
        neighbours in all directions may be, and one more than its level. Few different ones come up again and again.
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
    known: Array
    weighed: Array


@inlined
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


@inlined
def _remember(cell: int, domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array) -> None:
    """Keeps what a cell was before the step at hand changed it."""
    if cells[cell, STEP] != heads[STEPS]:
        cells[cell, STEP] = heads[STEPS]
        count = heads[CHANGED]
        lists[TRAIL, count] = cell
        for word in range(len(parts)):
            kept[count, word] = domain[cell, word]
        heads[CHANGED] = count + 1


@inlined
def _ask(cell: int, cells: Array, lists: Array, heads: Array) -> None:
    """Queues a cell whose neighbours have to be looked at."""
    if not cells[cell, WAITING]:
        cells[cell, WAITING] = 1
        last = heads[LAST]
        lists[RING, last] = cell
        heads[LAST] = last + 1 if last + 1 < lists.shape[1] else 0


@inlined
def _begin(heads: Array) -> None:
    heads[CHANGED] = 0
    heads[STEPS] += 1


@compiled
def _settle(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    known: Array, weighed: Array,
) -> int:  # fmt: skip
    """Takes out of domains what no neighbour allows, until nothing changes; a cell that runs empty, or -1."""
    words, ways, empty = len(parts), beside.shape[0], -1
    while heads[FIRST] != heads[LAST] or cells[lists[RING, heads[FIRST]], WAITING]:
        cell = lists[RING, heads[FIRST]]
        heads[FIRST] = heads[FIRST] + 1 if heads[FIRST] + 1 < lists.shape[1] else 0
        cells[cell, WAITING] = 0
        if empty >= 0:
            continue
        place = looked_up(domain, parts, cell, known, table, weighed)
        for way in range(ways):
            other = beside[way, cell]
            # What is laid, and has told its neighbours what it allows, can't be forbidden by them.
            if other < 0 or (cells[other, LEVEL] == -1 and not cells[other, WAITING]):
                continue
            changed, left = False, False
            for part in range(words):
                old = domain[other, part]
                new = old & known[place, words + way * words + part]
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


@compiled
def _take_back(domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array) -> None:
    """Makes all that the step at hand changed as it was."""
    for place in range(heads[CHANGED]):
        cell = lists[TRAIL, place]
        for word in range(len(parts)):
            domain[cell, word] = kept[place, word]


@inlined
def _keep(
    domain: Array, parts: Any, cells: Array, lists: Array, heads: Array, known: Array, table: Array, weighed: Array,
) -> None:  # fmt: skip
    """Lets all that the step at hand changed stay: each cell goes to the list of how open it is now."""
    for place in range(heads[CHANGED]):
        cell = lists[TRAIL, place]
        if cells[cell, LEVEL] != CLOSED:
            _place(cell, level(domain, parts, cell, known, table, weighed), cells, heads)


@compiled
def _try(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    known: Array, weighed: Array, cell: int, number: float,
) -> int:  # fmt: skip
    """Chooses a pattern for a cell, or takes it out of the cell's domain; a cell at which neither can be, or -1."""
    pattern = chosen(domain, parts, cell, weighed, number)
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
        empty = _settle(domain, parts, kept, cells, lists, heads, beside, table, known, weighed)
        if empty < 0:
            _keep(domain, parts, cells, lists, heads, known, table, weighed)
            return -1
        _take_back(domain, parts, kept, cells, lists, heads)
    return empty


@compiled
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


@compiled
def _mend(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    known: Array, weighed: Array, start: Array, empty: int,
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
                _place(cell, level(domain, parts, cell, known, table, weighed), cells, heads)
            cells[cell, TRIES] += place < inner
            _ask(cell, cells, lists, heads)
            for way in range(beside.shape[0]):
                if beside[way, cell] >= 0:
                    _ask(beside[way, cell], cells, lists, heads)
        if _settle(domain, parts, kept, cells, lists, heads, beside, table, known, weighed) < 0:
            _keep(domain, parts, cells, lists, heads, known, table, weighed)
            return True
        _take_back(domain, parts, kept, cells, lists, heads)
        _keep(domain, parts, cells, lists, heads, known, table, weighed)
        radius += 1
    return False


@compiled
def run(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    known: Array, weighed: Array, start: Array, places: Array, order: Array, bounds: Array, steps: int, seed: int,
) -> tuple[int, int]:  # fmt: skip
    """Lays up to so many cells; DONE, MORE or STUCK, and the cell at which it is stuck.

    Parameters
    ----------
    domain, kept, cells, lists, heads, beside, table, known, weighed
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
                _place(cell, level(domain, parts, cell, known, table, weighed), cells, heads)
            heads[BLOCK] += 1
            heads[BUDGET] = _PATIENCE
            continue
        cell = heads[lowest]
        number = number_at(seed + cells[cell, TRIES] * 7919, places[cell, 0], places[cell, 1])
        empty = _try(domain, parts, kept, cells, lists, heads, beside, table, known, weighed, cell, number)
        if empty < 0 or _mend(domain, parts, kept, cells, lists, heads, beside, table, known, weighed, start, empty):
            continue
        return STUCK, empty
    return MORE, -1


@compiled
def make_ready(
    domain: Array, parts: Any, kept: Array, cells: Array, lists: Array, heads: Array, beside: Array, table: Array,
    known: Array, weighed: Array, narrowed: Array,
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
    return int(_settle(domain, parts, kept, cells, lists, heads, beside, table, known, weighed))
