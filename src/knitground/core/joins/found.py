"""A set of joins that was found on a sheet."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.cells import count_combinations
from knitground.core.joins.look import Floats
from knitground.core.joins.sets import JoinKind

FULL = 0.97
"""From what share of art a tile is full."""
_ROUND = 13
"""How many combinations of its own a block has with its inner corners."""
_NEARLY_ALL = 0.75
"""What share of a set's tiles have to be full for the others to be none of it."""


@dataclass(frozen=True)
class FoundSet:
    """A set that was found.

    Attributes
    ----------
    kind : JoinKind
    cells : (N, 2) intp
        Column and row of each tile.
    labels : (N, P) intp
        A number from 0 for the terrain at each place.
    sure : (N,) float64
        How clearly each tile's labels could be told, from 0 to 1.
    covered : float
        The share of its combinations that some tile shows.
    confidence : float
        How likely it is that these cells are a set.
    hanging : (K, 2, 2) intp
        Cells that hang down from its rim, each with the one above it: they can't be laid by what lies round them.
    instead : (K, P) intp
        The labels of what lies in place of each otherwise.
    faces : (K, 3, 2) intp
        Rows of cells that lie below where the block ends, from above: a left end, what goes on, a right end.
    frames : (M, F, 2) intp
        Cells that other blocks repeat, each with those at its place in them.
    moves : bool
        Whether those are frames more likely than variants: of frames none but the first is among the cells.
    mixed : float
        How far from one another what it takes for one terrain looks, by how far its terrains do: of cells of two sets
        that share a terrain the others of both are taken for one.
    """

    kind: JoinKind
    cells: NDArray[np.intp]
    labels: NDArray[np.intp]
    sure: Floats
    covered: float
    confidence: float
    hanging: NDArray[np.intp] = field(default_factory=lambda: np.zeros((0, 2, 2), np.intp))
    instead: NDArray[np.intp] = field(default_factory=lambda: np.zeros((0, 9), np.intp))
    faces: NDArray[np.intp] = field(default_factory=lambda: np.zeros((0, 3, 2), np.intp))
    frames: NDArray[np.intp] = field(default_factory=lambda: np.zeros((0, 1, 2), np.intp))
    moves: bool = False
    mixed: float = 0.0


def with_own_faces(sets: list[FoundSet]) -> list[FoundSet]:
    """Sets, each with the rows of its faces down to the first of which another set has a tile."""
    return [
        replace(one, faces=one.faces[: _first_shared(one, [other for other in sets if other is not one])])
        for one in sets
    ]


def _first_shared(one: FoundSet, others: list[FoundSet]) -> int:
    taken = {tuple(cell) for other in others for cell in other.cells.tolist()}
    shared = [any(tuple(cell) in taken for cell in row) for row in one.faces.tolist()]
    return shared.index(True) if any(shared) else len(shared)


def without_hollow(one: FoundSet, art: Floats, number: NDArray[np.intp]) -> FoundSet:
    """A set of areas without the tiles that leave much of their cells clear, where nearly all fill theirs.

    Parameters
    ----------
    one : FoundSet
    art : (n,) float64
        How much of each tile of the cut is not clear.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    full = art[number[one.cells[:, 1], one.cells[:, 0]]] >= FULL
    if one.kind == "cell" or full.all() or full.mean() < _NEARLY_ALL:
        return one
    return replace(one, cells=one.cells[full], labels=one.labels[full], sure=one.sure[full])


def covered_by_cells(labels: NDArray[np.intp]) -> float:
    """The share of all combinations of a cell set's labels, (n, 9), that some tile shows."""
    rows = [tuple(row) for row in labels.tolist()]
    return len(set(rows)) / count_combinations(rows, 0)


def lacks_surroundings(one: FoundSet) -> bool:
    """Whether a corner set is one of the outer and inner corners of a terrain, without the other by itself."""
    rows = np.unique(one.labels, axis=0)
    return len(rows) <= _ROUND and (rows == rows[:, :1]).all(axis=1).sum() <= 1


def thin(labels: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Which tiles go on over an edge at neither end of which the ground goes on round the corner, (n,)."""
    corners, edges = labels[:, :4] > 0, labels[:, 4:8] > 0
    return np.asarray((edges & ~corners & ~np.roll(corners, -1, axis=1)).any(axis=1))


def cells_of(sets: list[FoundSet]) -> set[tuple[int, ...]]:
    """All cells that sets have."""
    return {tuple(cell) for one in sets for cell in one.cells.tolist()}


def apart_from(blocks: list[FoundSet], sets: list[FoundSet]) -> list[FoundSet]:
    """The blocks that share no cell with a set."""
    taken = cells_of(sets)
    return [one for one in blocks if not taken & cells_of([one])]


def without_cells(one: FoundSet, others: list[FoundSet]) -> FoundSet:
    """A set without the cells of others."""
    taken = cells_of(others)
    kept = np.array([tuple(cell) not in taken for cell in one.cells.tolist()])
    return replace(one, cells=one.cells[kept], labels=one.labels[kept], sure=one.sure[kept])
