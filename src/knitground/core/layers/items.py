"""What layers give the compositor to draw."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.layers.thing import Thing


@dataclass(frozen=True)
class TileItems:
    """A tile in each cell: `codes` gives the cell codes of a rectangle, (height, width) int32."""

    codes: Callable[[CellRect], NDArray[np.int32]]
    verb: ClassVar[Literal["tiles"]] = "tiles"


@dataclass(frozen=True)
class ShadeItems:
    """Colours at the corners of cells, or on cells, to multiply what lies below by.

    `numbers` is the plane of these places; `colours` is (N + 1, 3) float32 in [0, 1], white for number 0.
    """

    numbers: Plane
    colours: NDArray[np.float32]
    on: Literal["corners", "cells"] = "corners"
    verb: ClassVar[Literal["shade"]] = "shade"


@dataclass(frozen=True)
class ThingItems:
    """Things that stand anywhere; `by_foot` says whether those whose feet are further down are drawn later."""

    things: tuple[Thing, ...]
    by_foot: bool
    verb: ClassVar[Literal["things"]] = "things"


DrawItems = TileItems | ShadeItems | ThingItems
