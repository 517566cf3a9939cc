"""The shade layer: colours that what lies below is multiplied by.

They are painted on corners and blended between them, or on cells, each of which takes one whole.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.joins.sets import MOST_TERRAINS, Terrain
from knitground.core.layers.items import ShadeItems
from knitground.core.layers.layer import Layer, Place, Planes, PlaneSpec
from knitground.core.layers.source import Sets, Source

SHADES = (
    Terrain("Dusk", "D", "#7d7fa8"),
    Terrain("Deep shadow", "S", "#4a4a66"),
    Terrain("Warm light", "W", "#ffe2b0"),
)
"""What a new shade layer can be painted with."""


@dataclass(frozen=True)
class ShadeLayer(Layer):
    """A shade at each corner of the cells, or on each cell, or none; it lays no tile."""

    shades: Annotated[tuple[Terrain, ...], Field(min_length=1, max_length=MOST_TERRAINS)] = SHADES
    kind: Literal["shade"] = "shade"
    on: Literal["corners", "cells"] = "corners"

    title: ClassVar[str] = "shade layer"
    shades_below: ClassVar[bool] = True
    owns_terrains: ClassVar[bool] = True

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "ShadeLayer | None":
        return cls(layer_id, name) if set_id is None else None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [("Shade layer", "Shade", None)]

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return {self.on: PlaneSpec(self.on, goes_on=True)}

    @property
    def area_plane(self) -> str:
        return self.on

    def on_cells(self) -> "ShadeLayer":
        return replace(self, on="cells")

    def terrains(self, sets: Sets) -> tuple[Terrain, ...]:
        return self.shades

    def with_terrain(self, number: int, terrain: Terrain | None) -> "ShadeLayer | None":
        shades = list(self.shades)
        shades[number - 1 : number] = [] if terrain is None else [terrain]
        return replace(self, shades=tuple(shades)) if 0 < len(shades) <= MOST_TERRAINS else None

    def reach(self, board: Board, table: Any, rect: CellRect) -> CellRect:
        return board.reach(rect, 1)

    def drawn(self, planes: Planes, codes: Callable[[CellRect], NDArray[np.int32]]) -> ShadeItems:
        """The numbers of its corners, and the colours that they stand for.

        Parameters
        ----------
        planes : mapping of name to Plane
            Its numbers, (height + 1, width + 1) uint8 on a square ground, (height, width) on cells.
        codes : callable
            Not asked: it lays no tiles.
        """
        rows = [(1.0, 1.0, 1.0)]
        rows += [tuple(int(one.colour[at : at + 2], 16) / 255 for at in (1, 3, 5)) for one in self.shades]  # type: ignore[misc]
        return ShadeItems(planes[self.on], np.array(rows, dtype=np.float32), self.on)

    def why(self, place: Place, source: Source) -> str:
        around = ((0, 0), (0, 1), (1, 1), (1, 0)) if self.on == "corners" else ((0, 0),)
        cell = CellRect(place.row, place.column, 1, 1)
        found = place.board.around(place.planes[self.on], self.on, around, cell)
        names = {self.shades[number - 1].name for one in found if (number := int(one[0, 0]))}
        return f"shaded by {' and '.join(sorted(names))}" if names else "not shaded"
