"""What layers give the compositor to draw."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect


@dataclass(frozen=True)
class TileItems:
    """A tile in each cell: `codes` gives the cell codes of a rectangle, (height, width) int32."""

    codes: Callable[[CellRect], NDArray[np.int32]]
    verb: ClassVar[Literal["tiles"]] = "tiles"


@dataclass(frozen=True)
class ShadeItems:
    """Colours at the corners of cells, to multiply what lies below by.

    `numbers` is the corner plane; `colours` is (N + 1, 3) float32 in [0, 1], white for number 0.
    """

    numbers: Plane
    colours: NDArray[np.float32]
    verb: ClassVar[Literal["shade"]] = "shade"


DrawItems = TileItems | ShadeItems
