"""Planes that know what lies beyond their borders, on maps beside theirs."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect

Part = tuple[int, int, Plane]
"""How many rows and columns from a plane's first place another one begins, and that plane."""


class Bordered(Plane):
    """A plane, and those that begin so many rows and columns from its first place."""

    __slots__ = ("_beside",)

    def __init__(self, plane: Plane, beside: Sequence[Part]) -> None:
        super().__init__(plane.shape, plane.dtype, plane._blocks)
        self._beside = tuple(beside)

    def filled(self, block: NDArray[Any], rect: CellRect) -> NDArray[Any]:
        """A rectangle that reaches over the borders, with what lies there where a map does.

        Parameters
        ----------
        block : (rect.height, rect.width) array
            The rectangle as it is without other maps; stays as it is.
        rect : CellRect

        Returns
        -------
        block : (rect.height, rect.width) array
            Inside the plane it stays as it was: what lies on the border belongs to the plane itself.
        """
        found = block.copy()
        for down, across, other in self._beside:
            part = CellRect(down, across, *other.shape).inside(rect)
            if not part.is_empty:
                inner = part._replace(top=part.top - rect.top, left=part.left - rect.left)
                found[inner.rows, inner.columns] = other.read(
                    part._replace(top=part.top - down, left=part.left - across)
                )
        own = CellRect(0, 0, *self.shape).inside(rect)
        inner = own._replace(top=own.top - rect.top, left=own.left - rect.left)
        found[inner.rows, inner.columns] = block[inner.rows, inner.columns]
        return found

    @classmethod
    def there(cls, plane: Plane, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> NDArray[np.bool_]:
        """Which places beyond the borders of a plane lie on a map beside it; none where it is an ordinary one.

        Parameters
        ----------
        rows, columns : (...) intp

        Returns
        -------
        there : (...) bool
        """
        found = np.zeros(np.shape(rows), dtype=bool)
        for down, across, other in plane._beside if isinstance(plane, cls) else ():
            height, width = other.shape
            found |= (rows >= down) & (rows < down + height) & (columns >= across) & (columns < across + width)
        return found
