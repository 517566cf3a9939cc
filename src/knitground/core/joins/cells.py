"""Areas painted by the cell: tiles chosen by what a cell is, and by what lies in the eight cells round it.

Beyond each edge lies the neighbour's terrain, if some tile of this middle shows it there, else the set's ground; a
corner counts only where the cell goes on over both edges beside it. So one terrain on nothing has 47 combinations.
Where no tile shows one, the nearest of the same middle is laid: edges count before corners.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance_bits
from knitground.core.joins.knit import Lookup, look_up
from knitground.core.joins.sets import MIDDLE, Labels, formed
from knitground.core.joins.table import SLOT_BITS, SLOTS, share_slots
from knitground.core.tiles.tile import EMPTY, GAP

STEPS = ((-1, -1), (-1, 1), (1, 1), (1, -1), (-1, 0), (0, 1), (1, 0), (0, -1), (0, 0))
"""Where the flat cell lies that each label speaks of, in the order of the labels."""
_EDGE_COUNTS = 16
_MEETING = {
    True: (((1, 4), (2, 6)), ((0, 4), (3, 6))),
    False: (((3, 7), (2, 5)), ((0, 7), (1, 5))),
}
"""For tiles in one row, and in one column: corners of the first with edges of the second, and the other way round."""


@dataclass(frozen=True, eq=False)
class CellTable:
    """A compiled cell set.

    Attributes
    ----------
    base : int
        Number of terrains + 1.
    beyond : (base * base,) uint8
        What counts beyond an edge or corner, at middle * base + neighbour.
    corners : bool
        Whether corners count.
    numbers : (2, base ** 4) uint16
        The number of each choice of corners, and of edges, among those that some tile shows; 0 for all others.
    pairs : (base * edges,) int64
        The number of each middle with its edges, at middle * edges + number of the edges; 0 for all others.
    starts : (pairs * corners,) int64
        Where the slots of a combination start.
    slots : (M * SLOTS,) int32
        Cell codes.
    combinations : (C, 9) uint8
        The combinations that some tile shows, in order.
    plain : (base * 256,) int64, or None
        Where no tile shows another terrain beside its middle than the ground: where slots start, by the middle and
        eight bits that say over which edges and corners it goes on.
    nearest : dict
        What was found for combinations that no tile shows.
    """

    base: int
    beyond: NDArray[np.uint8]
    corners: bool
    numbers: NDArray[np.uint16]
    pairs: NDArray[np.int64]
    starts: NDArray[np.int64]
    slots: NDArray[np.int32]
    combinations: NDArray[np.uint8]
    plain: NDArray[np.int64] | None
    nearest: dict[Labels, int] = field(default_factory=dict)

    @property
    def complete(self) -> bool:
        """Whether every combination that can be painted has a tile."""
        rows = [tuple(row) for row in self.combinations.tolist()]
        return len(rows) == count_combinations(rows, self.ground)

    @property
    def ground(self) -> int:
        """What counts where nothing is painted."""
        return int(self.beyond[self.base]) if self.base > 1 else 0


def compile_cells(
    labels: Mapping[int, Sequence[int]], weights: Mapping[int, float], terrain_count: int, ground: int = 0
) -> CellTable:
    """The table of a cell set.

    Parameters
    ----------
    labels : mapping of cell code to nine terrain numbers
        As `knitground.core.joins.sets.formed` gives them.
    weights : mapping of cell code to weight
        A code without a weight weighs 1.
    terrain_count : int
    ground : int
        The terrain that nothing counts as round a cell; 0 for none.
    """
    base = terrain_count + 1
    variants: dict[Labels, list[int]] = {}
    for code, row in labels.items():
        if row[MIDDLE] and max(row) < base:
            variants.setdefault(tuple(row), []).append(code)
    rows = np.array(sorted(variants), dtype=np.uint8).reshape(-1, 9)
    beyond = np.full((base, base), ground, dtype=np.uint8)
    for middle, known in known_beside(variants, ground).items():
        beyond[middle, known] = known
    numbers, counts = np.zeros((2, base**4), dtype=np.uint16), []
    for half in (0, 1):
        shown = np.unique(_polynomial(list(rows[:, 4 * half : 4 * half + 4].T), base))
        numbers[half][shown] = np.arange(1, len(shown) + 1)
        counts.append(len(shown) + 1)
    pairs = np.zeros(base * counts[1], dtype=np.int64)
    pair_of = rows[:, MIDDLE].astype(np.int64) * counts[1] + numbers[1][_polynomial(list(rows[:, 4:8].T), base)]
    shown = np.unique(pair_of)
    pairs[shown] = np.arange(1, len(shown) + 1)
    starts = np.full((len(shown) + 1) * counts[0], SLOTS, dtype=np.int64)
    begins: dict[Labels, int] = {}
    places = pairs[pair_of] * counts[0] + numbers[0][_polynomial(list(rows[:, :4].T), base)]
    runs = [np.full(SLOTS, EMPTY, dtype=np.int32), np.full(SLOTS, GAP, dtype=np.int32)]
    for place, row in zip(places.tolist(), sorted(variants), strict=True):
        starts[place] = begins[row] = len(runs) * SLOTS
        runs.append(share_slots(variants[row], [weights.get(code, 1.0) for code in variants[row]]))
    corners = bool(rows[:, :4].any())
    plain = _plain(begins, base, ground, corners=corners)
    return CellTable(base, beyond.ravel(), corners, numbers, pairs, starts, np.concatenate(runs), rows, plain)


def _plain(begins: Mapping[Labels, int], base: int, ground: int, *, corners: bool) -> NDArray[np.int64] | None:
    """What `CellTable.plain` holds, given where the slots of each combination begin."""
    known = known_beside(begins, ground)
    if any(set(beside) - {middle, ground} for middle, beside in known.items()):
        return None
    starts = np.full(base * 256, SLOTS, dtype=np.int64)
    starts[:256] = 0
    for middle, bits in product(known, range(256)):
        on = [middle if bits >> place & 1 else ground for place in range(8)]
        row = formed((*on[4:], *on[:4], middle), ground, corners=corners)
        # A corner without both its edges never has its bit set.
        starts[middle * 256 + bits] = begins.get(row, SLOTS)
    return starts


def knit_cells(
    cells: Sequence[NDArray[np.uint8]], table: CellTable, *, seed: int, top: int = 0, left: int = 0
) -> tuple[NDArray[np.int32], NDArray[np.bool_]]:
    """Tiles for painted cells.

    Parameters
    ----------
    cells : nine (H, W) uint8
        What is painted in the cells at `STEPS` from each cell, 0 for nothing.
    table : CellTable
    seed : int
        Chooses among variants, together with the place.
    top, left : int
        Place of the window on its ground.

    Returns
    -------
    codes : (H, W) int32
        EMPTY where nothing is painted, GAP where the set has no tile of this middle at all.
    near : (H, W) bool
        Where no tile shows just what is painted, and the nearest is laid, if there is one.
    """
    middle = cells[MIDDLE]
    plain = table.plain is not None
    lookup = Lookup(table.plain if plain else table.starts, table.slots, np.dtype(np.uint16 if plain else np.int64))

    def combine(first: int, last: int, out: NDArray[Any]) -> None:
        """Numbers of the combinations of a band of rows.

        Parameters
        ----------
        first, last : int
        out : (last - first, W) of unsigned integers
        """
        band = [part[first:last] for part in cells]
        if plain:
            _goes_on(band, table.corners, out)
        else:
            out[:] = _numbers(seen_labels(band, table), table)

    codes = look_up(combine, (middle.shape[0], middle.shape[1]), lookup, seed=seed, top=top, left=left)
    if not plain:
        codes[middle == 0] = EMPTY
    if table.plain is not None and (table.plain != SLOTS).all():
        return codes, np.zeros(codes.shape, dtype=bool)
    near = codes == GAP
    if near.any():
        rows, columns = np.nonzero(near)
        around = [part[near][None] for part in cells]
        labels = np.stack([part[0] for part in seen_labels(around, table)], axis=-1)
        bits = chance_bits(seed, top + rows, left + columns) >> np.uint32(32 - SLOT_BITS)
        codes[near] = table.slots[_nearest_starts(labels, table) + bits]
    return codes, near


def _goes_on(cells: Sequence[NDArray[np.uint8]], corners: bool, out: NDArray[np.uint16]) -> None:
    """Middles times 256, and a bit for each edge and corner over which the cell goes on."""
    middle = cells[MIDDLE]
    edges = [(beside == middle).view(np.uint8) for beside in cells[4:8]]
    bits = edges[0].copy()
    for place in (1, 2, 3):
        bits |= edges[place] << np.uint8(place)
    for place in range(4 if corners else 0):
        corner = (cells[place] == middle).view(np.uint8)
        corner &= edges[place - 1]
        corner &= edges[place]
        bits |= corner << np.uint8(4 + place)
    np.multiply(middle, 256, out=out, dtype=out.dtype)
    out |= bits


def seen_labels(cells: Sequence[NDArray[np.uint8]], table: CellTable) -> list[NDArray[np.uint8]]:
    """The nine labels that count in each cell, from what is painted there and round it; see `knit_cells`.

    Parameters
    ----------
    cells : nine (H, W) uint8
    table : CellTable

    Returns
    -------
    labels : list of nine (H, W) uint8
    """
    middle = cells[MIDDLE]
    shift = middle.astype(np.uint16) * np.uint16(table.base)
    edges = [np.take(table.beyond, shift + beside, mode="clip") for beside in cells[4:8]]
    if not table.corners:
        nothing = np.zeros_like(middle)
        return [nothing] * 4 + [*edges, middle]
    goes_on = [edge == middle for edge in edges]
    corners = [
        np.take(table.beyond, shift + cells[place], mode="clip") * (goes_on[place - 1] & goes_on[place])
        for place in range(4)
    ]
    return [*corners, *edges, middle]


def known_beside(rows: Mapping[Labels, object] | Sequence[Labels], ground: int) -> dict[int, list[int]]:
    """What may lie round each middle: itself, the ground, and every terrain that some tile shows beside it."""
    known: dict[int, set[int]] = {}
    for row in rows:
        known.setdefault(row[MIDDLE], {row[MIDDLE], ground}).update(row[4:8], filter(None, row[:4]))
    return {middle: sorted(numbers) for middle, numbers in known.items()}


def combinations(rows: Sequence[Labels], ground: int) -> Iterator[Labels]:
    """All combinations that cells can form where a set has these tiles, in order of their middles."""
    corners = any(any(row[:4]) for row in rows)
    for middle, known in sorted(known_beside(rows, ground).items()):
        for edges in product(known, repeat=4):
            free = [corners and edges[place - 1] == edges[place] == middle for place in range(4)]
            for chosen in product(*(known if one else (0,) for one in free)):
                yield (*chosen, *edges, middle)


def count_combinations(rows: Sequence[Labels], ground: int) -> int:
    """How many `combinations` there are, without going through them."""
    corners, total = any(any(row[:4]) for row in rows), 0
    for known in known_beside(rows, ground).values():
        # Round the cell: each edge goes on or not, and a corner is free between two that do.
        others, free = len(known) - 1, len(known) if corners else 1
        steps = np.array([[free, others], [1, others]], dtype=object)
        total += int(np.trace(np.linalg.matrix_power(steps, 4)))
    return total


def is_narrow(labels: Labels, *, corners: bool) -> bool:
    """Whether an area is one cell wide at a cell of it, or its outline comes by there more than once.

    Parameters
    ----------
    labels : nine ints
        As `knitground.core.joins.sets.formed` gives them.
    corners : bool
        Whether corners count.
    """
    goes_on = [edge == labels[MIDDLE] for edge in labels[4:8]]
    if not ((goes_on[0] or goes_on[2]) and (goes_on[1] or goes_on[3])):
        return True
    turns_in = sum(
        corners and goes_on[corner - 1] and goes_on[corner] and labels[corner] != labels[MIDDLE] for corner in range(4)
    )
    return turns_in + (not all(goes_on)) > 1


def may_meet(first: Labels, second: Labels, *, level: bool) -> bool:
    """Whether what the corners of two tiles say lets them lie side by side, where their middles and edges do.

    A corner that counts says what lies beyond an edge of the other tile.

    Parameters
    ----------
    first, second : nine ints
        As `knitground.core.joins.sets.formed` gives them, of a set whose corners count; the first lies to the west or
        north of the second.
    level : bool
        Whether they lie in one row.
    """
    places = _MEETING[level]
    return all(
        not (one[4 + (corner - 1) % 4] == one[4 + corner] == one[MIDDLE]) or one[corner] == other[edge]
        for one, other, pairs in ((first, second, places[0]), (second, first, places[1]))
        for corner, edge in pairs
    )


def proof_cells(rows: Sequence[Labels], ground: int) -> dict[str, NDArray[np.uint8]]:
    """Cells on which every combination stands once in the middle of 3 x 3 of its own, with a bare line between.

    Parameters
    ----------
    rows : sequence of nine ints
        The combinations that some tile shows.
    ground : int

    Returns
    -------
    planes : mapping of "cells" to (H, W) uint8
    """
    every = list(combinations(rows, ground))
    across = max(1, int(np.ceil(np.sqrt(len(every)))))
    cells = np.zeros((4 * -(-len(every) // across), 4 * across), dtype=np.uint8)
    for number, labels in enumerate(every):
        row, column = 4 * (number // across) + 1, 4 * (number % across) + 1
        for (down, right), label in zip(STEPS, labels, strict=True):
            cells[row + down, column + right] = 0 if label == ground and (down or right) else label
    return {"cells": cells}


def _numbers(labels: Sequence[NDArray[np.uint8]], table: CellTable) -> NDArray[np.int64]:
    """The numbers of combinations in `starts`."""
    edges = table.numbers[1][_polynomial(labels[4:8], table.base)]
    pairs = table.pairs[labels[MIDDLE].astype(np.int64) * (len(table.pairs) // table.base) + edges]
    corners = table.numbers[0][_polynomial(labels[:4], table.base)] if table.corners else table.numbers[0][0]
    return np.asarray(pairs * int(table.numbers[0].max() + 1) + corners)


def _nearest_starts(rows: NDArray[np.uint8], table: CellTable) -> NDArray[np.int64]:
    """Where the slots start of the tiles that are nearest to some combinations, (N,)."""
    found, which = np.unique(rows, axis=0, return_inverse=True)
    starts = np.empty(len(found), dtype=np.int64)
    for number, row in enumerate(found):
        key = tuple(row.tolist())
        if key not in table.nearest:
            table.nearest[key] = _nearest_start(row, table)
        starts[number] = table.nearest[key]
    return starts[which.ravel()]


def _nearest_start(row: NDArray[np.uint8], table: CellTable) -> int:
    same = table.combinations[table.combinations[:, MIDDLE] == row[MIDDLE]]
    if not len(same):
        return SLOTS
    differs = same != row
    costs = _EDGE_COUNTS * differs[:, 4:8].sum(axis=1) + differs[:, :4].sum(axis=1)
    return int(table.starts[_numbers(list(same[costs.argmin()][:, None]), table)[0]])


def _polynomial(labels: Sequence[NDArray[np.uint8]], base: int) -> NDArray[np.uint32]:
    """One number for four labels."""
    number = labels[0].astype(np.uint32)
    for following in labels[1:]:
        number *= np.uint32(base)
        number += following
    return number
