"""Never a hole: the nearest painting that a set can knit, where it has no tile for what was painted.

Four steps, each of which only looks a few cells far, so that a window can be worked out from its surroundings:

1. Terrains that no tile shows side by side get those between them, found as the shortest way in the graph of
   terrains that meet; the terrain with the lower number makes room.
2. Each cell without a tile takes the combination that leaves the fewest of its neighbours without one and changes
   the least of what was painted, if that makes the total fewer. Cells three apart don't touch, so nine
   passes go over all; where a ground goes round, some more for what is left over.
3. Where no exchange of one cell helps, all points of the 3 x 3 cells round it are searched for the least change.
4. What still has no tile gets the one that breaks the fewest joins.
"""

from collections.abc import Mapping
from itertools import product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance_bits
from knitground.core.joins.distinct import distinct
from knitground.core.joins.lattice import POINTS, SIDES, doubled
from knitground.core.joins.places import Places, highest_around, turn_of, turns
from knitground.core.joins.search import PATCH, answers, search
from knitground.core.joins.table import SLOT_BITS, JoinTable

_SEARCHES = 4
_MOST_STEPS = 5
_MOST_CANDIDATES = 96
_CHUNK = 256
_EDGE = 2
_NO_WAY = 99
_SIDE_STEPS = ((-1, 0), (0, 1), (1, 0), (0, -1))
_NEIGHBOURS = np.array([(r, c) for r in (-1, 0, 1) for c in (-1, 0, 1) if r or c])


class Mended(NamedTuple):
    """Cells that are not laid as painted: their places, the labels of what is laid, and where joins stay broken."""

    rows: NDArray[np.intp]
    columns: NDArray[np.intp]
    labels: NDArray[np.uint8]
    broken: NDArray[np.bool_]


def reach(period: tuple[int | None, int | None] = (None, None), apart: tuple[int, int] = (3, 3)) -> int:
    """How many cells away what was painted may matter for a tile; see `Places`.

    Parameters
    ----------
    period : (int or None, int or None)
    apart : (int, int)
    """
    down, across = turns(period, apart)
    return _MOST_STEPS + 2 * down * across + 8 * _SEARCHES + 6


def mend(
    planes: Mapping[str, NDArray[np.uint8]],
    table: JoinTable,
    places: Places | None = None,
    *,
    inside: NDArray[np.bool_] | None = None,
) -> Mended | None:
    """What is laid instead, where a set has no tile for what was painted.

    Parameters
    ----------
    planes : mapping of name to uint8 array
        As `doubled` takes them.
    table : JoinTable
    places : Places, optional
        Where the window lies; from the ground's corner on if not given. Cells within `reach` of the window's border
        agree with the whole only if that is the border of the ground.
    inside : (H, W) bool, optional
        Which of the cells there are; all if not given.

    Returns
    -------
    mended : Mended, or None
        None where there is nothing to mend, or no tile to mend it with.
    """
    if table.complete or not table.combinations.any():
        return None
    painted = doubled(planes)
    missing = _missing(painted, table)
    inside = np.ones(missing.shape, dtype=bool) if inside is None else inside
    missing &= inside
    if not missing.any():
        return None
    work = _Work(painted, table, missing, inside, places or Places(lambda rows, columns: (rows, columns)))
    work.step_between()
    work.exchange()
    for number in range(_SEARCHES):
        work.search(number)
    return work.result()


def codes_of(
    labels: NDArray[np.uint8], rows: NDArray[np.intp], columns: NDArray[np.intp], table: JoinTable, seed: int
) -> NDArray[np.int32]:
    """Cell codes of single cells whose labels are known to have a tile; see `knit`.

    Parameters
    ----------
    labels : (N, P) uint8
    rows, columns : (N,) int
        Places of the cells on the ground, for their share of chance.
    table : JoinTable
    seed : int

    Returns
    -------
    codes : (N,) int32
    """
    bits = chance_bits(seed, rows, columns) >> np.uint32(32 - SLOT_BITS)
    return table.slots[table.starts[table.numbers(labels)] + bits]


class _Work:
    """A window while it is mended; its arrays have two more cells on each side."""

    def __init__(
        self,
        painted: NDArray[np.uint8],
        table: JoinTable,
        missing: NDArray[np.bool_],
        inside: NDArray[np.bool_],
        places: Places,
    ) -> None:
        self.painted = np.pad(painted, 2 * _EDGE)
        self.lattice = self.painted.copy()
        self.table = table
        self.missing = np.pad(missing, _EDGE)
        self.inside = np.pad(inside, _EDGE)
        self.points = np.array(POINTS[table.kind])
        self.places = places

    def place(self, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Rows and columns on the ground of cells counted as in the padded arrays, the same for those that repeat.

        Parameters
        ----------
        rows, columns : (N,) int

        Returns
        -------
        rows, columns : (N,) int
        """
        found = self.places.of(rows - _EDGE, columns - _EDGE)
        down, across = (
            place if around is None else place % around for place, around in zip(found, self.places.period, strict=True)
        )
        return down, across

    def labels(self, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> NDArray[np.uint8]:
        """Labels of cells, (..., P); the cells count as in the padded arrays.

        Parameters
        ----------
        rows, columns : (...) int

        Returns
        -------
        labels : (..., P) uint8
        """
        places = 2 * rows[..., None] + self.points[:, 0], 2 * columns[..., None] + self.points[:, 1]
        labels: NDArray[np.uint8] = self.lattice[places]
        return labels

    def lays(self, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> NDArray[np.bool_]:
        """Which cells have a tile as the lattice lies now.

        Parameters
        ----------
        rows, columns : (...) int
            As in the padded arrays.

        Returns
        -------
        lays : (...) bool
        """
        points = 2 * rows[..., None] + self.points[:, 0], 2 * columns[..., None] + self.points[:, 1]
        return answers(self.table, self.lattice[points], self.painted[points])

    def step_between(self) -> None:
        """Puts terrains that meet between those that don't, one ring of points at a time."""
        if self.table.kind == "edge":
            return
        distance, towards = _ways(self.table)
        if not ((distance > 1) & (distance < _NO_WAY)).any():
            return
        for _ in range(_MOST_STEPS):
            rows, columns = _spots(self.missing)
            touched = np.zeros(self.lattice.shape, dtype=bool)
            for row, column in POINTS["corner"]:
                touched[2 * rows + row, 2 * columns + column] = True
            spots = np.stack(_spots(touched), axis=1)
            mine = self.lattice[spots[:, 0], spots[:, 1]]
            around = np.stack([self._point(spots, 2 * r, 2 * c, mine) for r, c in _NEIGHBOURS], axis=1)
            apart = distance[around, mine[:, None]]
            # The lower number yields, to the farthest of the terrains that it cannot meet.
            yields = np.where((apart > 1) & (apart < _NO_WAY) & (mine[:, None] < around), apart, 0)
            strongest = yields.argmax(axis=1)
            other = np.take_along_axis(around, strongest[:, None], axis=1)[:, 0]
            new = np.where(yields.max(axis=1) > 0, towards[other, mine], mine)
            changed = new != mine
            if not changed.any():
                return
            self.lattice[spots[changed, 0], spots[changed, 1]] = new[changed]
            self._look_again(spots[changed])

    def exchange(self) -> None:
        """Gives cells without a tile another combination, where that leaves fewer without one."""
        period, apart = self.places.period, self.places.apart
        for turn in product(*(range(count) for count in turns(period, apart))):
            rows, columns = _spots(self.missing)
            place = self.place(rows, columns)
            down, across = (turn_of(place[axis], period[axis], apart[axis]) for axis in (0, 1))
            mine = (down == turn[0]) & (across == turn[1])
            if mine.any():
                self._exchange(rows[mine], columns[mine])

    def search(self, number: int) -> None:
        """Searches round some of the cells without a tile, so far apart that they don't disturb one another."""
        rows, columns = _spots(self.missing)
        if not len(rows):
            return
        lots = chance_bits(number, *self.place(rows, columns)) | np.uint32(1)
        highest = highest_around(lots, rows, columns, self.missing.shape)
        rows, columns = rows[highest], columns[highest]
        span, near = np.arange(-4, PATCH - 4), np.arange(-2, 3)
        points = (2 * rows[:, None] + span)[:, :, None], (2 * columns[:, None] + span)[:, None, :]
        cells = (rows[:, None] + near)[:, :, None], (columns[:, None] + near)[:, None, :]
        found, better = search(self.lattice[points], self.painted[points], self.inside[cells], self.table)
        self.lattice[points] = np.where(better[:, None, None], found, self.lattice[points])
        self.missing[cells] = ~self.lays(*np.broadcast_arrays(*cells)) & self.inside[cells]

    def result(self) -> Mended:
        """The cells that are laid otherwise than painted."""
        # A point lies in up to four cells, so all that touch a changed one are looked at.
        moved = np.stack(_spots(self.lattice != self.painted), axis=1)
        touched = self.missing.copy()
        for shift in ((0, 0), (0, -1), (-1, 0), (-1, -1)):
            spots = np.maximum(moved // 2 + np.where(moved % 2 == 0, shift, 0), 0)
            touched[np.minimum(spots[:, 0], touched.shape[0] - 1), np.minimum(spots[:, 1], touched.shape[1] - 1)] = True
        touched &= self.inside
        rows, columns = _spots(touched)
        labels, broken = self.labels(rows, columns), self.missing[rows, columns]
        if broken.any():
            labels[broken] = self._settle(rows[broken], columns[broken])
        return Mended(rows - _EDGE, columns - _EDGE, labels, broken)

    def _settle(self, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> NDArray[np.uint8]:
        """Labels of the tiles that break the fewest joins, for the cells that keep none.

        They begin with what lies round them, as if cells like them got the same tile; then they look at what their
        neighbours got, like the two colours of a chessboard in turn.
        """
        laid = self.table.combinations[self.table.combinations.any(axis=1)]
        wanted = self.labels(rows, columns)
        tiles = wanted.copy()
        order = np.full(self.missing.shape, -1, dtype=np.intp)
        order[rows, columns] = np.arange(len(rows))
        colour = np.dot(self.places.colours, self.place(rows, columns)) % 2
        for turn in (None, 0, 1, 0, 1):
            mine = np.flatnonzero(colour == turn) if turn is not None else np.arange(len(rows))
            before = tiles.copy()
            for first in range(0, len(mine), _CHUNK):
                some = mine[first : first + _CHUNK]
                costs = sum((wanted[some, None, p] != laid[:, p]).astype(np.intp) for p in range(laid.shape[1]))
                for side, (down, across) in enumerate(_SIDE_STEPS):
                    there = self.inside[rows[some] + down, columns[some] + across]
                    beside = self.labels(rows[some] + down, columns[some] + across)
                    other = order[rows[some] + down, columns[some] + across]
                    theirs, own = SIDES[self.table.kind][(side + 2) % 4], SIDES[self.table.kind][side]
                    if turn is not None:
                        beside[other >= 0] = before[other[other >= 0]]
                    shown = _one_number(laid[:, own], self.table.base)
                    differs = _one_number(beside[:, theirs], self.table.base)[:, None] != shown
                    if turn is None:
                        differs[other >= 0] = _one_number(laid[:, theirs], self.table.base) != shown
                    costs = costs + 16 * (differs & there[:, None])
                tiles[some] = laid[np.argmin(costs, axis=1)]
        return tiles

    def _point(self, spots: NDArray[np.intp], down: int, across: int, instead: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """Values of points at a distance; `instead` where those lie outside the window."""
        rows, columns = spots[:, 0] + down, spots[:, 1] + across
        height, width = self.lattice.shape
        edge = 2 * _EDGE
        outside = (rows < edge) | (columns < edge) | (rows >= height - edge) | (columns >= width - edge)
        found = self.lattice[np.clip(rows, 0, height - 1), np.clip(columns, 0, width - 1)]
        return np.where(outside, instead, found)

    def _look_again(self, spots: NDArray[np.intp]) -> None:
        """Finds out anew which of the cells round some corner points have no tile."""
        cells = (spots[:, None, :] // 2 + np.array([(0, 0), (0, -1), (-1, 0), (-1, -1)])).reshape(-1, 2)
        cells = cells[self.inside[cells[:, 0], cells[:, 1]]]
        rows, columns = cells[:, 0], cells[:, 1]
        self.missing[rows, columns] = ~self.lays(rows, columns)

    def _exchange(self, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> None:
        span = np.arange(-2, 5)
        points = (2 * rows[:, None] + span)[:, :, None], (2 * columns[:, None] + span)[:, None, :]
        patches, intent = self.lattice[points].reshape(len(rows), -1), self.painted[points].reshape(len(rows), -1)
        near = rows[:, None] + _NEIGHBOURS[:, 0], columns[:, None] + _NEIGHBOURS[:, 1]
        key = np.concatenate([patches, intent, self.inside[near]], axis=1)
        key, which = distinct(key)
        chosen = np.concatenate([self._choose(key[first : first + _CHUNK]) for first in range(0, len(key), _CHUNK)])
        chosen = chosen[which]
        moved = np.flatnonzero(chosen >= 0)
        labels = self.table.combinations[chosen[moved]]
        rows, columns = rows[moved], columns[moved]
        self.lattice[2 * rows[:, None] + self.points[:, 0], 2 * columns[:, None] + self.points[:, 1]] = labels
        self.missing[rows, columns] = ~self.lays(rows, columns)
        near = rows[:, None] + _NEIGHBOURS[:, 0], columns[:, None] + _NEIGHBOURS[:, 1]
        self.missing[near] = ~self.lays(*near) & self.inside[near]

    def _choose(self, keys: NDArray[np.uint8]) -> NDArray[np.intp]:
        """For each surrounding the combination to lay, or -1 where none is better than what there is.

        Parameters
        ----------
        keys : (U, 49 + 49 + 8) uint8
            The 7 x 7 points round the cell, what was painted there, and which neighbours there are.
        """
        points, combinations = self.points, self.table.combinations
        patches, there = keys[:, :49].reshape(-1, 7, 7), keys[:, -8:].astype(bool)
        painted = keys[:, 49:-8].reshape(-1, 7, 7)
        intent = painted[:, 2 + points[:, 0], 2 + points[:, 1]]
        changed = intent[:, None, :] != combinations[None]
        changes = changed.sum(axis=2)
        candidates = np.argsort(changes, axis=1, kind="stable")[:, :_MOST_CANDIDATES]
        cells = _NEIGHBOURS[:, None, :] * 2 + 2 + points
        around = patches[:, cells[..., 0], cells[..., 1]]
        wanted = painted[:, cells[..., 0], cells[..., 1]]
        before = (~answers(self.table, around, wanted) & there).sum(axis=1) + 1
        tried = np.repeat(patches[:, None], candidates.shape[1], axis=1)
        tried[:, :, 2 + points[:, 0], 2 + points[:, 1]] = combinations[candidates]
        tried_around = tried[:, :, cells[..., 0], cells[..., 1]]
        after = (~answers(self.table, tried_around, wanted[:, None]) & there[:, None]).sum(axis=2)
        after += ~answers(self.table, combinations[candidates], intent[:, None])
        # Among equals, what lies lower makes room.
        moved = np.where(changed, intent[:, None, :], 0).sum(axis=2, dtype=np.intp)
        costs = (after * 16 + np.take_along_axis(changes, candidates, axis=1)) * 512
        costs += np.take_along_axis(moved, candidates, axis=1)
        best = costs.argmin(axis=1)
        better = np.take_along_axis(after, best[:, None], axis=1)[:, 0] < before
        return np.where(better, np.take_along_axis(candidates, best[:, None], axis=1)[:, 0], -1)


def _one_number(labels: NDArray[np.uint8], base: int) -> NDArray[np.intp]:
    """The labels along a side as digits of one number, (N,) intp."""
    return np.asarray(labels @ base ** np.arange(labels.shape[1]))


def _spots(mask: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Rows and columns of what is set; on flags this is many times as quick as `numpy.nonzero`."""
    rows, columns = np.divmod(np.flatnonzero(mask), mask.shape[1])
    return rows, columns


def _missing(lattice: NDArray[np.uint8], table: JoinTable, band: int = 256) -> NDArray[np.bool_]:
    """Which cells of a (2 h + 1, 2 w + 1) lattice have no tile, (h, w) bool."""
    height, width = lattice.shape[0] // 2, lattice.shape[1] // 2
    missing = np.empty((height, width), dtype=bool)
    for first in range(0, height, band):
        last = min(first + band, height)
        labels = [
            lattice[2 * first + row : 2 * last + row - 1 : 2, column : column + 2 * width - 1 : 2]
            for row, column in POINTS[table.kind]
        ]
        missing[first:last] = ~table.lays(np.stack(labels, axis=-1))
    return missing


def _ways(table: JoinTable) -> tuple[NDArray[np.intp], NDArray[np.uint8]]:
    """Steps between terrains over tiles that show both, and the first terrain on the way from one to another.

    Returns
    -------
    distance : (base, base) int
        `_NO_WAY` where there is none.
    towards : (base, base) uint8
        Of several ways as short, the one over the lowest number.
    """
    from scipy.sparse.csgraph import shortest_path

    meets = np.zeros((table.base, table.base), dtype=bool)
    for side in SIDES[table.kind]:
        meets[table.combinations[:, side[0]], table.combinations[:, side[-1]]] = True
    steps = shortest_path(meets, directed=False, unweighted=True)
    distance = np.minimum(np.nan_to_num(steps, posinf=_NO_WAY), _NO_WAY).astype(np.intp)
    # From a terrain, the first that meets it and is one step nearer.
    nearer = (distance[:, :, None] == 1) & (distance[None] == distance[:, None] - 1)
    own = np.arange(table.base)[:, None]
    return distance, np.where(nearer.any(axis=1), nearer.argmax(axis=1), own).astype(np.uint8)
