"""A wider look round cells for which no single exchange helps: a beam search over the points of 3 x 3 cells."""

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
_CHUNK = 32
_CELLS = [(row, column) for row in range(5) for column in range(5)]


class _Plan(NamedTuple):
    """The order in which points are tried, and the cells that are complete after each."""

    points: list[tuple[int, int]]
    complete: list[list[tuple[int, int]]]


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
    found = table.lays(labels)
    if len(table.combinations) and not table.combinations[0].any():
        found &= labels.any(axis=-1) | ~painted.any(axis=-1)
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
    plan, count = _plan(table.kind), len(patches)
    values = np.unique(table.combinations)
    offsets = np.array(POINTS[table.kind])
    beams, costs = patches[:, None].copy(), np.zeros((count, 1), dtype=np.int64)
    cells = np.array([cell for some in plan.complete for cell in some])
    points = 2 * cells[:, None] + offsets
    lays = answers(table, patches[:, points[..., 0], points[..., 1]], painted[:, points[..., 0], points[..., 1]])
    before = (~lays & there[:, cells[:, 0], cells[:, 1]]).sum(axis=1)
    each = np.arange(count)[:, None]
    for (row, column), complete in zip(plan.points, plan.complete, strict=True):
        width = beams.shape[1]
        beams = np.repeat(beams, len(values), axis=1)
        beams[:, :, row, column] = np.tile(values, width)
        mine = painted[:, None, row, column]
        # Among equals, what lies lower makes room.
        changed = np.where(beams[:, :, row, column] != mine, 64 + mine.astype(np.int64), 0)
        costs = np.repeat(costs, len(values), axis=1) + changed
        for cell in complete:
            rows, columns = 2 * cell[0] + offsets[:, 0], 2 * cell[1] + offsets[:, 1]
            exists = there[:, cell[0], cell[1]]
            wanted = painted[:, rows, columns]
            costs += (~answers(table, beams[:, :, rows, columns], wanted[:, None]) & exists[:, None]) * _HOLE
        if costs.shape[1] > _BEAM:
            kept = np.argsort(costs, axis=1, kind="stable")[:, :_BEAM]
            beams, costs = beams[each, kept], costs[each, kept]
    best = costs.argmin(axis=1)
    return beams[each[:, 0], best], costs[each[:, 0], best] // _HOLE < before


def _plan(kind: JoinKind) -> _Plan:
    points = [
        (row, column)
        for row in range(2, 9)
        for column in range(2, 9)
        if any((row - r) % 2 == 0 and (column - c) % 2 == 0 for r, c in POINTS[kind])
    ]
    order = {point: step for step, point in enumerate(points)}
    complete: list[list[tuple[int, int]]] = [[] for _ in points]
    for row, column in _CELLS:
        steps = [order[spot] for r, c in POINTS[kind] if (spot := (2 * row + r, 2 * column + c)) in order]
        if steps:
            complete[max(steps)].append((row, column))
    return _Plan(points, complete)
