"""Planes that nothing was painted on: what they hold is worked out where somebody reads it."""

from collections.abc import Callable

import numpy as np
from numpy.typing import DTypeLike

from knitground.core.grid.plane import Array, Plane
from knitground.core.grid.rect import CellRect


class LivePlane(Plane):
    """A plane that asks for what it holds, rectangle by rectangle."""

    __slots__ = ("_ask",)

    def __init__(self, shape: tuple[int, int], dtype: DTypeLike, ask: Callable[[CellRect], Array]) -> None:
        super().__init__(shape, np.dtype(dtype), ())
        self._ask = ask

    def read(self, rect: CellRect) -> Array:
        """The cells of a rectangle inside the plane, (height, width)."""
        if rect.is_empty:
            return np.zeros((max(0, rect.height), max(0, rect.width)), dtype=self.dtype)
        return self._ask(rect)
