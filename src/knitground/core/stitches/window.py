"""The part of a ground on which stitches are laid at a time, and where places by its cells lie in its arrays."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.around import Step
from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect

Indices = NDArray[np.intp]
Mask = NDArray[np.bool_]

OFF_MAP, BEYOND = -1, -2
"""In place of an index: no cell of the ground, and one that the window does not hold."""


@dataclass(frozen=True)
class Window:
    """Rows and columns of a ground; in a direction in which it goes round maybe all of them, or some over a border."""

    board: Board
    rect: CellRect

    @classmethod
    def round(cls, board: Board, rect: CellRect, margin: int) -> "Window":
        """A window that holds a rectangle of cells, and what there is within a margin of it."""
        wide = board.seen_from(board.reach(rect, margin) if margin else rect)
        if wide.height >= board.height:
            wide = wide._replace(top=0, height=board.height)
        if wide.width >= board.width:
            wide = wide._replace(left=0, width=board.width)
        return cls(board, wide)

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.rect.height, self.rect.width

    @property
    def is_whole(self) -> bool:
        """Whether it holds the whole ground."""
        return self.shape == (self.board.height, self.board.width)

    @cached_property
    def rows(self) -> NDArray[np.int64]:
        """The ground's row of each of its rows, (height,) int64."""
        return np.arange(self.rect.top, self.rect.bottom) % self.board.height

    @cached_property
    def columns(self) -> NDArray[np.int64]:
        """The ground's column of each of its columns, (width,) int64."""
        return np.arange(self.rect.left, self.rect.right) % self.board.width

    def part(self, rect: CellRect) -> tuple[slice, slice]:
        """Where it holds a rectangle of cells."""
        down, right = rect.top - self.rect.top, rect.left - self.rect.left
        return slice(down, down + rect.height), slice(right, right + rect.width)

    def covered(self, cells: Indices, steps: Sequence[Step]) -> Indices:
        """The indices of what lies some steps from cells; see `at`.

        Parameters
        ----------
        cells : (n,) intp
        steps : sequence of (down, right)

        Returns
        -------
        places : (n, steps) intp
        """
        found = np.empty((len(cells), len(steps)), dtype=np.intp)
        edge = np.arange(len(cells))
        if self.board.stagger == (1, 1) and len(cells):
            # Far enough from the window's borders it is a sum.
            far_y, far_x = (max(abs(step[axis]) for step in steps) for axis in (0, 1))
            down, right = np.divmod(cells, self.rect.width)
            inner = (down >= far_y) & (down < self.rect.height - far_y)
            inner &= (right >= far_x) & (right < self.rect.width - far_x)
            np.add(cells[:, None], [y * self.rect.width + x for y, x in steps], out=found)
            edge = np.flatnonzero(~inner)
        for place, step in enumerate(steps):
            found[edge, place] = self.at(cells[edge], step)
        return found

    def at(self, cells: NDArray[np.intp], step: Step) -> NDArray[np.intp]:
        """The indices of what lies a step from some cells.

        Parameters
        ----------
        cells : (n,) intp
            Indices into its arrays, row by row.
        step : (int, int)
            Flat rows down and columns right.

        Returns
        -------
        places : (n,) intp
            Indices; OFF_MAP where no cell of the ground lies, BEYOND where one that it does not hold.
        """
        down, right = np.divmod(cells, self.rect.width)
        y, x = self.board.flat("cells", down + self.rect.top, right + self.rect.left)
        rows, columns = self.board.stored("cells", y + step[0], x + step[1])
        down, off_y, out_y = self._along(rows, self.rect.top, self.rect.height, self.board.height, self.board.wraps_y)
        right, off_x, out_x = self._along(
            columns, self.rect.left, self.rect.width, self.board.width, self.board.wraps_x
        )
        places = down * self.rect.width + right
        places[out_y | out_x] = BEYOND
        places[off_y | off_x] = OFF_MAP
        return places.astype(np.intp)

    def rim(self, far: int) -> NDArray[np.bool_]:
        """The cells to which something may reach from beyond it, (height, width) bool.

        Parameters
        ----------
        far : int
            How many cells it reaches.
        """
        found = np.zeros(self.shape, dtype=bool)
        if not far or self.is_whole:
            return found
        # So that on rows that are staggered enough of them are among the cells within reach.
        far *= max(self.board.stagger)
        far += max(self.board.stagger) - 1
        if self.rect.height < self.board.height:
            if self.board.wraps_y or self.rect.top > 0:
                found[:far] = True
            if self.board.wraps_y or self.rect.bottom < self.board.height:
                found[max(0, self.rect.height - far) :] = True
        if self.rect.width < self.board.width:
            if self.board.wraps_x or self.rect.left > 0:
                found[:, :far] = True
            if self.board.wraps_x or self.rect.right < self.board.width:
                found[:, max(0, self.rect.width - far) :] = True
        return found

    def gathered(self, values: NDArray[np.int32], area: CellRect) -> NDArray[np.int32]:
        """A rectangle round it of values that are known only in it; what lies beyond is as at its border.

        Parameters
        ----------
        values : (height, width) int32
        area : CellRect

        Returns
        -------
        found : (area.height, area.width) int32
        """

        def along(first: int, count: int, start: int, size: int, whole: int, wraps: bool) -> NDArray[np.intp]:
            """Where lines from a first one on are known, in one direction.

            Parameters
            ----------
            first, count : int
            start, size : int
                Which lines are known.
            whole : int
            wraps : bool

            Returns
            -------
            places : (count,) intp
            """
            places = np.arange(first, first + count) - start
            return places % whole if wraps and size == whole else np.clip(places, 0, size - 1)

        board = self.board
        rows = along(area.top, area.height, self.rect.top, self.rect.height, board.height, board.wraps_y)
        columns = along(area.left, area.width, self.rect.left, self.rect.width, board.width, board.wraps_x)
        return values[np.ix_(rows, columns)]

    @staticmethod
    def _along(
        places: NDArray[np.intp], start: int, size: int, whole: int, wraps: bool
    ) -> tuple[NDArray[np.intp], NDArray[np.bool_], NDArray[np.bool_]]:
        """Places along one direction in the window, those that are off the map, and those beyond it."""
        off = np.zeros(places.shape, dtype=bool) if wraps else (places < 0) | (places >= whole)
        inside = places - start
        if size == whole:
            return inside % whole, off, np.zeros(places.shape, dtype=bool)
        return inside, off, (inside < 0) | (inside >= size)
