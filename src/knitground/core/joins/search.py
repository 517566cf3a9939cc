"""A wider look round cells for which no single exchange helps: a beam search over the points of 3 x 3 cells."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.lattice import POINTS
from knitground.core.joins.sets import JoinKind
from knitground.core.joins.table import JoinTable

PATCH = 11
"""Points on a side of what the search sees: 5 x 5 cells of the doubled lattice."""
_BEAM = 48
_REMEMBERED = 20_000
_HOLE = 1_000_000
_CHUNK = 64
_CELLS = [(row, column) for row in range(5) for column in range(5)]
_ORDER = 16


Flags = NDArray[np.bool_] | np.bool_


class _Plan(NamedTuple):
    """The order in which points are tried, and the cells that are complete after each, with the points that they have.

    Attributes
    ----------
    points : (N, 2) intp
    cells : (M, 2) intp
        In the order in which they are complete.
    complete : list of list of int
        For each point, places in `cells`.
    parts : list of list of (int, int)
        For each cell, places in `points` and which place of the cell each is.
    """

    points: NDArray[np.intp]
    cells: NDArray[np.intp]
    complete: list[list[int]]
    parts: list[list[tuple[int, int]]]


def answers(table: JoinTable, labels: NDArray[np.uint8], painted: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Which combinations, (..., P), may lie where something was painted: those with a tile, and not nothing at all.

    Parameters
    ----------
    table : JoinTable
    labels, painted : (..., P) uint8
        What would be laid, and what was painted there.

    Returns
    -------
    may : (...) bool
    """
    return may_lie(table, table.halves(labels), painted.any(axis=-1))


def may_lie(table: JoinTable, halves: NDArray[np.int64], painted: Flags) -> NDArray[np.bool_]:
    """The same as `answers`, of combinations as `JoinTable.halves` gives them.

    Parameters
    ----------
    table : JoinTable
    halves : (..., H) int64
    painted : (...) bool
        Where anything was painted at all.

    Returns
    -------
    may : (...) bool
    """
    numbers = table.of_halves(halves)
    found: NDArray[np.bool_] = table.known[numbers]
    if table.may_be_bare:
        found &= (numbers != table.of_halves(np.zeros_like(table.digits[0]))) | ~painted
    return found  # where tiles don't border on nothing, nothing is never tried


def search(
    patches: NDArray[np.uint8], painted: NDArray[np.uint8], there: NDArray[np.bool_], table: JoinTable
) -> tuple[NDArray[np.uint8], NDArray[np.bool_]]:
    """The least change of the inner 3 x 3 cells that leaves the fewest of 5 x 5 without a tile.

    Parameters
    ----------
    patches : (U, 11, 11) uint8
        What lies on the doubled lattice of 5 x 5 cells now.
    painted : (U, 11, 11) uint8
        What was painted there.
    there : (U, 5, 5) bool
        Which of the cells are inside the window.
    table : JoinTable

    Returns
    -------
    found : (U, 11, 11) uint8
    better : (U,) bool
        Whether it leaves fewer cells without a tile than there are now.
    """
    count = len(patches)
    keys = np.concatenate([patches.reshape(count, -1), painted.reshape(count, -1), there.reshape(count, -1)], axis=1)
    names = [key.tobytes() for key in keys]
    known = {name: table.searched.get(name) for name in names}
    new = [number for name, number in {name: n for n, name in enumerate(names)}.items() if known[name] is None]
    for first in range(0, len(new), _CHUNK):
        some = new[first : first + _CHUNK]
        found, better = _search(patches[some], painted[some], there[some], table)
        known |= {names[number]: (found[n], bool(better[n])) for n, number in enumerate(some)}
    # Another thread may be at the same table: it gets whole answers or none.
    if len(table.searched) > _REMEMBERED:
        table.searched.clear()
    table.searched.update({name: answer for name, answer in known.items() if answer is not None})
    answers = [answer for name in names if (answer := known[name]) is not None]
    return np.stack([found for found, _ in answers]), np.array([better for _, better in answers])


def _search(
    patches: NDArray[np.uint8], painted: NDArray[np.uint8], there: NDArray[np.bool_], table: JoinTable
) -> tuple[NDArray[np.uint8], NDArray[np.bool_]]:
    plan, count, each = _plan(table.kind), len(patches), np.arange(len(patches))
    values, digits = np.unique(table.combinations), table.digits
    spots = 2 * plan.cells[:, None] + np.array(POINTS[table.kind])
    wanted = np.asarray(painted[:, spots[..., 0], spots[..., 1]].any(axis=-1))
    exists = there[:, plan.cells[:, 0], plan.cells[:, 1]]
    before = (~may_lie(table, table.halves(patches[:, spots[..., 0], spots[..., 1]]), wanted) & exists).sum(axis=1)
    bare = patches.copy()
    bare[:, plan.points[:, 0], plan.points[:, 1]] = 0
    fixed = table.halves(bare[:, spots[..., 0], spots[..., 1]])
    # The points tried so far, (points, U, beams): what lies beyond them never changes.
    beams, costs = np.zeros((0, count, 1), dtype=np.uint8), np.zeros((count, 1), dtype=np.int64)
    for (row, column), complete in zip(plan.points.tolist(), plan.complete, strict=True):
        tried = np.tile(values, costs.shape[1])
        beams = np.concatenate([np.repeat(beams, len(values), axis=2), np.broadcast_to(tried, (1, count, len(tried)))])
        mine = painted[:, row, column, None].astype(np.int64)
        # Among equals, what lies lower makes room.
        costs = np.repeat(costs, len(values), axis=1) + np.where(tried != mine, 64 + mine, 0)
        for cell in complete:
            halves = fixed[:, None, cell] + sum(
                beams[point, ..., None] * digits[place] for point, place in plan.parts[cell]
            )
            costs += (~may_lie(table, halves, wanted[:, None, cell]) & exists[:, None, cell]) * _HOLE
        if costs.shape[1] > _BEAM:
            # The number of a beam behind its costs: sorting is then stable, and many times as quick.
            ordered = np.sort((costs << _ORDER) | np.arange(costs.shape[1]), axis=1)[:, :_BEAM]
            kept, costs = ordered & ((1 << _ORDER) - 1), ordered >> _ORDER
            beams = beams[:, each[:, None], kept]
    best = costs.argmin(axis=1)
    found = patches.copy()
    found[:, plan.points[:, 0], plan.points[:, 1]] = beams[:, each, best].T
    return found, costs[each, best] // _HOLE < before


@lru_cache
def _plan(kind: JoinKind) -> _Plan:
    points = [
        (row, column)
        for row in range(2, 9)
        for column in range(2, 9)
        if any((row - r) % 2 == 0 and (column - c) % 2 == 0 for r, c in POINTS[kind])
    ]
    order = {point: step for step, point in enumerate(points)}
    parts = {
        (row, column): [
            (order[spot], place)
            for place, (r, c) in enumerate(POINTS[kind])
            if (spot := (2 * row + r, 2 * column + c)) in order
        ]
        for row, column in _CELLS
    }
    last = {cell: max(step for step, _ in mine) for cell, mine in parts.items() if mine}
    cells = sorted(last, key=lambda cell: last[cell])
    complete = [[number for number, cell in enumerate(cells) if last[cell] == step] for step in range(len(points))]
    return _Plan(np.array(points), np.array(cells), complete, [parts[cell] for cell in cells])
