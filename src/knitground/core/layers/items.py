"""What layers give the compositor to draw."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.layers.thing import Thing
from knitground.core.tiles.phases import phase_of_thing
from knitground.core.tiles.tile import TileRef

Frames = Mapping[TileRef, Sequence[TileRef]]
"""The tiles that animated ones look like: one, or one for each beginning (see `phase_of_thing`)."""


@dataclass(frozen=True)
class TileItems:
    """A tile in each cell: `codes` gives the cell codes of a rectangle, (height, width) int32."""

    codes: Callable[[CellRect], NDArray[np.int32]]
    verb: ClassVar[Literal["tiles"]] = "tiles"

    def showing(self, frames: Frames) -> "TileItems":
        """Cells are exchanged code by code."""
        return self


@dataclass(frozen=True)
class ShadeItems:
    """Colours at the corners of cells, or on cells, to multiply what lies below by.

    `numbers` is the plane of these places; `colours` is (N + 1, 3) float32 in [0, 1], white for number 0.
    """

    numbers: Plane
    colours: NDArray[np.float32]
    on: Literal["corners", "cells"] = "corners"
    verb: ClassVar[Literal["shade"]] = "shade"

    def showing(self, frames: Frames) -> "ShadeItems":
        """Nothing of it moves."""
        return self


@dataclass(frozen=True)
class ThingItems:
    """Things that stand anywhere, and the tiles of which each shows one, if any.

    `by_foot` says whether those whose feet are further down are drawn later.
    """

    things: tuple[Thing, ...]
    sprites: tuple[TileRef, ...]
    by_foot: bool
    verb: ClassVar[Literal["things"]] = "things"

    def showing(self, frames: Frames) -> "ThingItems":
        """Things with other tiles in place of some: the frames that animated ones show, say."""
        if frames.keys().isdisjoint(self.sprites):
            return self
        things = (
            replace(one, tile=frames[one.tile][phase_of_thing(one.id) % len(frames[one.tile])])
            if one.tile is not None and one.tile in frames
            else one
            for one in self.things
        )
        shown = (tile for one in self.sprites for tile in frames.get(one, (one,)))
        return replace(self, things=tuple(things), sprites=tuple(dict.fromkeys(shown)))


DrawItems = TileItems | ShadeItems | ThingItems
