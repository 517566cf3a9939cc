"""The places of a plane and how they hang together, whatever the grid: what steps of recipes walk over."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.grid.board import Board, On
from knitground.core.grow.agreeing import CORNER_STEPS, SIDE_STEPS

Mask = NDArray[np.bool_]
SIX_SIDES = ((1, -1), (-1, 1))
"""From a flat cell with six sides over the two that others do not have."""


@dataclass(frozen=True)
class Places:
    """The N places of an array, in rows, and their neighbours.

    Attributes
    ----------
    height, width : int
        Of the array; where a ground goes round, without what it holds once more at its far border.
    sides, corners : (S, N) and (C, N) int32
        The neighbours over each of four or six sides, and over corners alone; -1 for none.
    plain : bool
        Whether neighbours over sides are those in the rows and columns of the array, and no others.
    """

    height: int
    width: int
    sides: NDArray[np.int32]
    corners: NDArray[np.int32]
    plain: bool = True

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.height, self.width

    @cached_property
    def links(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """All pairs of places side by side, told from both: two (L,) int32."""
        way, one = np.nonzero(self.sides >= 0)
        return one.astype(np.int32), self.sides[way, one]

    @property
    def most(self) -> int:
        """How many neighbours a place has, those over corners included."""
        return len(self.sides) + len(self.corners)

    def count(self, mask: Mask, *, beyond: bool = False) -> NDArray[np.uint8]:
        """How many neighbours of each place, those over corners included, are in a mask.

        Parameters
        ----------
        mask : (height, width) bool
        beyond : bool
            Whether what lies off the ground counts.

        Returns
        -------
        count : (height, width) uint8
        """
        padded = np.append(mask.ravel(), beyond)
        count = np.zeros(mask.size, dtype=np.uint8)
        for beside in (*self.sides, *self.corners):
            count += padded[beside]
        return count.reshape(mask.shape)

    def grown(self, mask: Mask, steps: int = 1, *, round_corners: bool = True) -> Mask:
        """A mask and all places within so many steps of it.

        Parameters
        ----------
        mask : (height, width) bool
        """
        found = mask.ravel()
        for step in range(steps):
            padded, wider = np.append(found, False), found.copy()
            # Sides and corners in turn make what is nearly round.
            for beside in (*self.sides, *self.corners) if round_corners and step % 2 == 0 else self.sides:
                wider |= padded[beside]
            found = wider
        return found.reshape(mask.shape)

    def shrunk(self, mask: Mask, steps: int = 1) -> Mask:
        """What is left of a mask without all places within so many steps of its border; the ground's border is none.

        Parameters
        ----------
        mask : (height, width) bool
        """
        return ~self.grown(~mask, steps)

    def parts(self, mask: Mask) -> tuple[int, NDArray[np.int32]]:
        """How many parts of a mask hang together over sides, and which each place is in, from 1; 0 outside.

        Parameters
        ----------
        mask : (height, width) bool
        """
        one, other = self.links
        both = mask.ravel()[one] & mask.ravel()[other]
        number = mask.size
        graph = scipy.sparse.csr_array((both[both].astype(np.int8), (one[both], other[both])), shape=(number, number))
        labels = scipy.sparse.csgraph.connected_components(graph, directed=False)[1]
        found = np.zeros(number, dtype=np.int32)
        found[mask.ravel()] = np.unique(labels[mask.ravel()], return_inverse=True)[1] + 1
        return int(found.max(initial=0)), found.reshape(mask.shape)

    def graph(self, cost: NDArray[np.float64]) -> "scipy.sparse.csr_array":
        """Ways between places side by side; each costs what it costs to enter the place at its end.

        Parameters
        ----------
        cost : (height, width) float64
            Positive.
        """
        one, other = self.links
        number = cost.size
        return scipy.sparse.csr_array((cost.ravel()[other], (one, other)), shape=(number, number))


def places_of(board: Board, on: On) -> Places:
    """The places of the arrays that hold something on cells, or on corners."""
    height, width = board.shape(on)
    height, width = board.period[0] or height, board.period[1] or width
    ys, xs = board.flat(on, *np.indices((height, width)))

    def beside(down: int, right: int) -> NDArray[np.int32]:
        rows, columns = board.stored(on, ys + down, xs + right)
        there = board.there(on, ys + down, xs + right)
        return np.where(there, rows % height * width + columns % width, -1).astype(np.int32).ravel()

    # Where corners can't be painted, cells have six sides, and meet over no corner alone.
    square = "corners" in board.painted
    sides = [beside(*step) for step in (SIDE_STEPS if square else SIDE_STEPS + SIX_SIDES)]
    corners = [beside(*step) for step in (CORNER_STEPS if square else ())]
    around = np.array(corners, dtype=np.int32).reshape(len(corners), ys.size)
    return Places(height, width, np.array(sides), around, square and board.stagger == (1, 1))


def closed(values: NDArray[Any], shape: tuple[int, int]) -> NDArray[Any]:
    """An array as large as a plane: where a ground goes round, its far border once more is what its first lines are.

    Parameters
    ----------
    values : (h, w) array
        Of the places that there are.
    shape : (int, int)
        Of the plane.
    """
    return np.pad(values, ((0, shape[0] - values.shape[0]), (0, shape[1] - values.shape[1])), mode="wrap")


def linked(places: Places, mask: Mask, cost: NDArray[np.float64]) -> Mask:
    """A mask with the cheapest ways between its parts added, so that all of it hangs together.

    Parameters
    ----------
    mask : (height, width) bool
    cost : (height, width) float64
        Positive.

    References
    ----------
    The spanning tree of the parts is found as K. Mehlhorn, "A faster approximation algorithm for the Steiner problem
    in graphs", Information Processing Letters 27 (1988) does: every place belongs to the part that is nearest, and
    only ways between parts whose places touch count.
    """
    count, parts = places.parts(mask)
    if count < 2:
        return mask
    graph = places.graph(np.where(mask, 1e-6, cost))
    starts = np.flatnonzero(mask)
    away, before, source = scipy.sparse.csgraph.dijkstra(graph, indices=starts, min_only=True, return_predecessors=True)
    one, other = places.links
    reached = np.isfinite(away[one]) & np.isfinite(away[other])
    one, other = one[reached], other[reached]
    owner = parts.ravel()
    ends = owner[source[one]] - 1, owner[source[other]] - 1
    apart = ends[0] != ends[1]
    one, other, ends = one[apart], other[apart], (ends[0][apart], ends[1][apart])
    length = away[one] + away[other] + 1e-3
    order = np.lexsort((other, one, length))
    # The shortest way between each two parts comes first, and the others are left out.
    first = np.unique(np.stack(ends)[:, order], axis=1, return_index=True)[1]
    kept = order[first]
    tree = scipy.sparse.csgraph.minimum_spanning_tree(
        scipy.sparse.csr_array((length[kept], (ends[0][kept], ends[1][kept])), shape=(count, count))
    ).tocoo()
    shortest = {(int(ends[0][way]), int(ends[1][way])): (int(one[way]), int(other[way])) for way in kept}
    found = mask.ravel().copy()
    for pair in zip(tree.row.tolist(), tree.col.tolist(), strict=True):
        for place in shortest[pair]:
            while place >= 0 and not found[place]:
                found[place] = True
                place = int(before[place])
    return found.reshape(mask.shape)
