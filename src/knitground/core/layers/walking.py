"""The walk layer: cells that block, or on which one may walk, whatever lies there; it lays and shows nothing."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.rect import CellRect
from knitground.core.joins.sets import Terrain
from knitground.core.layers.items import TileItems
from knitground.core.layers.layer import Layer, Place, Planes, PlaneSpec
from knitground.core.layers.source import Sets, Source

MARKS = (Terrain("Blocks", "B", "#c2453a"), Terrain("Free", "F", "#4f9a5b"))
_CELLS = "cells"


@dataclass(frozen=True)
class WalkLayer(Layer):
    """Where a single place differs from what its tiles say."""

    kind: Literal["walk"] = "walk"

    title: ClassVar[str] = "walk layer"
    marks_walking: ClassVar[bool] = True

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "WalkLayer | None":
        return cls(layer_id, name) if set_id is None else None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [("Walk layer", "Walk", None)]

    def on_cells(self) -> "WalkLayer":
        return self

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return {_CELLS: PlaneSpec("cells")}

    @property
    def area_plane(self) -> str:
        return _CELLS

    def terrains(self, sets: Sets) -> tuple[Terrain, ...]:
        return MARKS

    def drawn(self, planes: Planes, codes: Callable[[CellRect], NDArray[np.int32]]) -> TileItems:
        """Nothing.

        Parameters
        ----------
        planes : mapping of name to Plane
        codes : callable
            Not asked; (height, width) int32 of bare cells come instead.
        """
        return TileItems(lambda rect: np.zeros((rect.height, rect.width), dtype=np.int32))

    def why(self, place: Place, source: Source) -> str:
        number = int(place.planes[_CELLS].read(CellRect(place.row, place.column, 1, 1))[0, 0])
        return ("as its tiles say", "blocks, whatever lies there", "free, whatever lies there")[min(number, 2)]
