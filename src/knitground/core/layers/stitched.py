"""The stitched layer: a plan of marks, whose tiles are laid by a stitch set."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.joins.sets import Terrain
from knitground.core.layers.layer import (
    PINS,
    Laid,
    Layer,
    Place,
    Planes,
    PlaneSpec,
    Sets,
    Source,
    nothing_laid,
    pinned_over,
)  # fmt: skip
from knitground.core.stitches.match import same_bits, stitch_cells, winners
from knitground.core.stitches.rules import NEIGHBOURS, StitchSet
from knitground.core.tiles.tile import GAP

PLAN = "plan"


@dataclass(frozen=True)
class StitchedLayer(Layer):
    """A mark in each cell, or none; the first stitch of the set that fits lays the tile."""

    stitch_set: str
    kind: Literal["stitched"] = "stitched"

    title: ClassVar[str] = "stitched layer"
    knits: ClassVar[bool] = True
    pinnable: ClassVar[bool] = True
    takes_terrains_of: ClassVar[Literal["join_sets", "stitch_sets", ""]] = "stitch_sets"

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "StitchedLayer | None":
        known = any(one.id == set_id for one in sets.stitch_sets)
        return cls(layer_id, name, set_id) if known and set_id is not None else None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [(f"Stitched layer of “{one.name}”", one.name, one.id) for one in sets.stitch_sets]

    @property
    def set_id(self) -> str:
        return self.stitch_set

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return {PLAN: PlaneSpec("cells"), PINS: PlaneSpec("cells", "int32", codes=True, later=True)}

    @property
    def area_plane(self) -> str:
        return PLAN

    def terrains(self, sets: Sets) -> tuple[Terrain, ...]:
        found = _found(self, sets)
        return found.marks if found else ()

    def problem(self, sets: Sets) -> str:
        return "" if _found(self, sets) else f"needs the set '{self.stitch_set}', which is not there"

    def table(self, source: Source) -> Any:
        found = _found(self, source.sets)
        return None if found is None else source.table(found)

    def lay(self, board: Board, planes: Planes, table: Any, seed: int, rect: CellRect) -> Laid:
        if table is None:
            return pinned_over(nothing_laid(rect), planes, rect)
        codes = stitch_cells(*_seen(board, planes, rect), table)
        return pinned_over(Laid(codes, (codes == GAP).astype(np.uint8)), planes, rect)

    @property
    def unmet_says(self) -> str:
        return "{cells} without a stitch"

    def why(self, place: Place, source: Source) -> str:
        if PINS in place.planes and place.planes[PINS][place.row, place.column]:
            return f"{source.tile_name(place.code)}, pinned by hand"
        found = _found(self, source.sets)
        mark = int(place.planes[PLAN][place.row, place.column])
        if not mark or found is None:
            return "bare"
        centre, around = _seen(place.board, place.planes, CellRect(place.row, place.column, 1, 1))
        index = int(winners(found.stitches, len(found.marks))[mark, same_bits(centre, around)[0, 0]])
        name = f"“{found.name}”, {found.marks[mark - 1].name}"
        if place.code == GAP:
            return f"no tile: no stitch of {name} fits here"
        return f"{source.tile_name(place.code)}: stitch {index + 1} of {name}"


def _found(layer: StitchedLayer, sets: Sets) -> StitchSet | None:
    return next((one for one in sets.stitch_sets if one.id == layer.stitch_set), None)


def _seen(board: Board, planes: Planes, rect: CellRect) -> tuple[NDArray[np.uint8], list[NDArray[np.uint8]]]:
    """The marks of cells and those of their eight neighbours; off the map the plan goes on as at the border."""
    centre, *around = board.around(planes[PLAN], "cells", [(0, 0), *NEIGHBOURS], rect)
    return centre, around
