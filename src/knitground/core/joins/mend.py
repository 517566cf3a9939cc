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
from knitground.core.grid.rect import CellRect
from knitground.core.joins.distinct import distinct
from knitground.core.joins.lattice import POINTS, doubled
from knitground.core.joins.places import Places, highest_around, turn_of, turns
from knitground.core.joins.search import PATCH, answers, may_lie, search
from knitground.core.joins.settle import SIDE_STEPS, Around, settle
from knitground.core.joins.table import SLOT_BITS, JoinTable
from knitground.core.joins.ways import NO_WAY, ways_between

_SEARCHES = 4
_MOST_STEPS = 5
_MOST_CANDIDATES = 96
_CHUNK = 256
_EDGE = 2
_NEIGHBOURS = np.array([(r, c) for r in (-1, 0, 1) for c in (-1, 0, 1) if r or c])
_SEEN = np.array([(r, c) for r in range(-4, PATCH - 4) for c in range(-4, PATCH - 4)])
_SEVEN = np.array([(r, c) for r in range(-2, 5) for c in range(-2, 5)])
_BY_EXCHANGE, _BY_SEARCH, _BY_SETTLING = 2, 8, 6
"""How many cells away what lies may matter for what a step does."""


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
    return _MOST_STEPS + _BY_EXCHANGE * down * across + _BY_SEARCH * _SEARCHES + _BY_SETTLING


def mend(
    planes: Mapping[str, NDArray[np.uint8]],
    table: JoinTable,
    places: Places | None = None,
    *,
    inside: NDArray[np.bool_] | None = None,
    wanted: CellRect | None = None,
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
    wanted : CellRect, optional
        The cells of the window that are asked for; all if not given. The others matter only as their surroundings.

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
    whole = CellRect(0, 0, *missing.shape)
    places = places or Places(lambda rows, columns: (rows, columns))
    work = _Work(painted, table, missing, inside, places, wanted or whole)
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
        wanted: CellRect,
    ) -> None:
        self.painted = np.pad(painted, 2 * _EDGE)
        self.lattice = self.painted.copy()
        self.table = table
        self.missing = np.pad(missing, _EDGE)
        self.inside = np.pad(inside, _EDGE)
        self.points = np.array(POINTS[table.kind])
        self.places = places
        # What each place of a cell adds to the halves of the cells round it, (P, 8, H).
        cells = _NEIGHBOURS[:, None, :] * 2 + self.points
        self.shared = (cells == self.points[:, None, None]).all(axis=-1) @ table.digits
        self.adds = np.tensordot(table.combinations, self.shared, axes=1)
        self.wanted = wanted._replace(top=wanted.top + _EDGE, left=wanted.left + _EDGE)
        self.matters = reach(places.period, places.apart)
        """How many cells round those that are asked for matter for what is left to do."""

    def near(self, far: int) -> tuple[slice, slice]:
        """Rows and columns of the padded arrays within some cells of those that are asked for."""
        top, left, height, width = self.wanted
        return slice(max(0, top - far), top + height + far), slice(max(0, left - far), left + width + far)

    def without_tile(self) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Rows and columns, (N,) each, of the cells without a tile that matter yet."""
        rows, columns = self.near(self.matters)
        down, across = _spots(self.missing[rows, columns])
        return down + rows.start, across + columns.start

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
        return self._at(self.lattice, rows, columns, self.points)

    def _at(
        self, lattice: NDArray[np.uint8], rows: NDArray[np.intp], columns: NDArray[np.intp], points: NDArray[np.intp]
    ) -> NDArray[np.uint8]:
        """What lies at some points, (P, 2), of cells, (...): (..., P)."""
        # One index into all of it is found in half the time of one for each axis.
        step = lattice.shape[1]
        found: NDArray[np.uint8] = lattice.reshape(-1)[
            (2 * (rows * step + columns))[..., None] + (points[:, 0] * step + points[:, 1])
        ]
        return found

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
        halves = self.table.halves(self.labels(rows, columns))
        return may_lie(self.table, halves, self._at(self.painted, rows, columns, self.points).any(axis=-1))

    def step_between(self) -> None:
        """Puts terrains that meet between those that don't, one ring of points at a time."""
        if self.table.kind == "edge":
            return
        distance, towards = ways_between(self.table)
        if not ((distance > 1) & (distance < NO_WAY)).any():
            return
        for _ in range(_MOST_STEPS):
            rows, columns = self.without_tile()
            corners = [
                (2 * rows + row) * self.lattice.shape[1] + 2 * columns + column for row, column in POINTS["corner"]
            ]
            spots = np.stack(np.divmod(np.unique(np.concatenate(corners)), self.lattice.shape[1]), axis=1)
            mine = self.lattice[spots[:, 0], spots[:, 1]]
            around = np.stack([self._point(spots, 2 * r, 2 * c, mine) for r, c in _NEIGHBOURS], axis=1)
            apart = distance[around, mine[:, None]]
            # The lower number yields, to the farthest of the terrains that it cannot meet.
            yields = np.where((apart > 1) & (apart < NO_WAY) & (mine[:, None] < around), apart, 0)
            strongest = yields.argmax(axis=1)
            other = np.take_along_axis(around, strongest[:, None], axis=1)[:, 0]
            new = np.where(yields.max(axis=1) > 0, towards[other, mine], mine)
            changed = new != mine
            if not changed.any():
                return
            self.lattice[spots[changed, 0], spots[changed, 1]] = new[changed]
            self._look_again(spots[changed])
            self.matters -= 1

    def exchange(self) -> None:
        """Gives cells without a tile another combination, where that leaves fewer without one."""
        period, apart = self.places.period, self.places.apart
        for turn in product(*(range(count) for count in turns(period, apart))):
            rows, columns = self.without_tile()
            self.matters -= _BY_EXCHANGE
            place = self.place(rows, columns)
            down, across = (turn_of(place[axis], period[axis], apart[axis]) for axis in (0, 1))
            mine = (down == turn[0]) & (across == turn[1])
            if mine.any():
                self._exchange(rows[mine], columns[mine])

    def search(self, number: int) -> None:
        """Searches round some of the cells without a tile, so far apart that they don't disturb one another."""
        rows, columns = self.without_tile()
        self.matters -= _BY_SEARCH
        if not len(rows):
            return
        lots = chance_bits(number, *self.place(rows, columns)) | np.uint32(1)
        top, left = rows.min(), columns.min()
        highest = highest_around(lots, rows - top, columns - left, (rows.max() - top + 1, columns.max() - left + 1))
        rows, columns = rows[highest], columns[highest]
        near = np.arange(-2, 3)
        cells = (rows[:, None] + near)[:, :, None], (columns[:, None] + near)[:, None, :]
        laid, painted = (
            self._at(on, rows, columns, _SEEN).reshape(-1, PATCH, PATCH) for on in (self.lattice, self.painted)
        )
        found, better = search(laid, painted, self.inside[cells], self.table)
        rows, columns, cells = rows[better], columns[better], (cells[0][better], cells[1][better])
        span = np.arange(-4, PATCH - 4)
        self.lattice[(2 * rows[:, None] + span)[:, :, None], (2 * columns[:, None] + span)[:, None, :]] = found[better]
        self.missing[cells] = ~self.lays(*np.broadcast_arrays(*cells)) & self.inside[cells]

    def result(self) -> Mended:
        """The cells that are laid otherwise than painted."""
        top, left, height, width = self.wanted
        points = slice(2 * top, 2 * (top + height) + 1), slice(2 * left, 2 * (left + width) + 1)
        moved = self.lattice[points] != self.painted[points]
        touched = self.missing[self.near(0)].copy()
        for row, column in POINTS[self.table.kind]:
            touched |= moved[row : row + 2 * height - 1 : 2, column : column + 2 * width - 1 : 2]
        rows, columns = _spots(touched & self.inside[self.near(0)])
        rows, columns = rows + top, columns + left
        labels, broken = self.labels(rows, columns), self.missing[rows, columns]
        if broken.any():
            self.matters = _BY_SETTLING
            around, beside = self.without_tile()
            settled = np.zeros((*self.missing.shape, labels.shape[1]), dtype=np.uint8)
            settled[around, beside] = self._settle(around, beside)
            labels[broken] = settled[rows[broken], columns[broken]]
        return Mended(rows - _EDGE, columns - _EDGE, labels, broken)

    def _settle(self, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> NDArray[np.uint8]:
        """Labels of the tiles that break the fewest joins, for the cells that keep none."""
        order = np.full(self.missing.shape, -1, dtype=np.intp)
        order[rows, columns] = np.arange(len(rows))
        near = rows[:, None] + SIDE_STEPS[:, 0], columns[:, None] + SIDE_STEPS[:, 1]
        around = Around(self.labels(*near), order[near], self.inside[near])
        colour = np.dot(self.places.colours, self.place(rows, columns)) % 2
        return settle(self.labels(rows, columns), around, colour, self.table)

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
        patches, intent = (self._at(lattice, rows, columns, _SEVEN) for lattice in (self.lattice, self.painted))
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
        points, table, combinations = self.points, self.table, self.table.combinations
        patches, there = keys[:, :49].reshape(-1, 7, 7), keys[:, -8:].astype(bool)
        painted = keys[:, 49:-8].reshape(-1, 7, 7)
        intent = painted[:, 2 + points[:, 0], 2 + points[:, 1]]
        changes, moved = np.zeros((2, len(keys), len(combinations)), dtype=np.intp)
        for place in range(len(points)):
            mine = intent[:, place, None]
            changed = mine != combinations[:, place]
            changes += changed
            moved += changed * mine
        candidates = np.broadcast_to(np.arange(len(combinations)), changes.shape)
        if len(combinations) > _MOST_CANDIDATES:
            candidates = np.argsort(changes, axis=1, kind="stable")[:, :_MOST_CANDIDATES]
        cells = _NEIGHBOURS[:, None, :] * 2 + 2 + points
        around = table.halves(patches[:, cells[..., 0], cells[..., 1]])
        wanted = np.asarray(painted[:, cells[..., 0], cells[..., 1]].any(axis=-1))
        before = (~may_lie(table, around, wanted) & there).sum(axis=1) + 1
        own = patches[:, 2 + points[:, 0], 2 + points[:, 1]]
        around = around - np.tensordot(own, self.shared, axes=1)
        tried = around[:, None] + self.adds[candidates]
        after = (~may_lie(table, tried, wanted[:, None]) & there[:, None]).sum(axis=2)
        after += ~answers(table, combinations[candidates], intent[:, None])
        # Among equals, what lies lower makes room.
        costs = (after * 16 + np.take_along_axis(changes, candidates, axis=1)) * 512
        costs += np.take_along_axis(moved, candidates, axis=1)
        best = costs.argmin(axis=1)
        better = np.take_along_axis(after, best[:, None], axis=1)[:, 0] < before
        return np.where(better, np.take_along_axis(candidates, best[:, None], axis=1)[:, 0], -1)


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
        missing[first:last] = ~table.lays_at(labels)
    return missing
