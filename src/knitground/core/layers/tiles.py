"""The tile layer: tiles laid one by one."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np

from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.layers.layer import Laid, Layer, Place, Planes, PlaneSpec
from knitground.core.layers.source import Sets, Source

CELLS = "cells"


@dataclass(frozen=True)
class TileLayer(Layer):
    """Cells that hold a tile each, or none."""

    kind: Literal["tiles"] = "tiles"

    title: ClassVar[str] = "tile layer"
    holds_tiles: ClassVar[bool] = True

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "TileLayer | None":
        return cls(layer_id, name) if set_id is None else None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [("Tile layer", "Tiles", None)]

    def on_cells(self) -> "TileLayer":
        return self

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return {CELLS: PlaneSpec("cells", "int32", codes=True)}

    @property
    def area_plane(self) -> str:
        return CELLS

    def lay(self, board: Board, planes: Planes, table: Any, seed: int, rect: CellRect) -> Laid:
        codes = planes[CELLS].read(rect)
        return Laid(codes, np.zeros(codes.shape, dtype=np.uint8))

    def reach(self, board: Board, table: Any, rect: CellRect) -> CellRect:
        return rect

    def why(self, place: Place, source: Source) -> str:
        return f"{source.tile_name(place.code)}, laid by hand" if place.code else "bare"
