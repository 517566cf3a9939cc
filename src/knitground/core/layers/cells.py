"""The cell layer: a terrain painted on each cell, whose tiles follow from what the cells round it are."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import seed_for
from knitground.core.grid.board import Board
from knitground.core.grid.bordered import Bordered
from knitground.core.grid.rect import CellRect
from knitground.core.joins.cells import STEPS, CellTable, knit_cells, seen_labels
from knitground.core.joins.sets import MIDDLE, JoinSet, Terrain, letters
from knitground.core.layers.layer import PINS, Laid, Layer, Place, Planes, PlaneSpec, nothing_laid
from knitground.core.layers.laying import is_pinned, pin_said, pinned_over
from knitground.core.layers.source import Sets, Source
from knitground.core.layers.variants import share_of
from knitground.core.tiles.tile import GAP

_SPECS = {"cells": PlaneSpec("cells"), PINS: PlaneSpec("cells", "int32", codes=True, later=True)}


@dataclass(frozen=True)
class CellLayer(Layer):
    """What was painted, in the numbers of the terrains of a cell set; its tiles follow.

    `beyond` says what lies off the map: whatever lies at its border goes on there, or nothing is there.
    """

    join_set: str
    kind: Literal["cells"] = "cells"
    beyond: Literal["same", "nothing"] = field(default="same", kw_only=True)

    title: ClassVar[str] = "cell layer"
    knits: ClassVar[bool] = True
    pinnable: ClassVar[bool] = True
    may_end: ClassVar[bool] = True
    takes_terrains_of: ClassVar[Literal["join_sets", "stitch_sets", ""]] = "join_sets"

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "CellLayer | None":
        found = next((one for one in sets.join_sets if one.id == set_id and one.kind == "cell"), None)
        return cls(layer_id, name, found.id) if found else None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [
            (f"Cell layer knit from “{one.name}”", one.name, one.id) for one in sets.join_sets if one.kind == "cell"
        ]

    @property
    def set_id(self) -> str:
        return self.join_set

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return _SPECS

    @property
    def area_plane(self) -> str:
        return "cells"

    @property
    def goes_on(self) -> bool:
        return self.beyond == "same"

    def terrains(self, sets: Sets) -> tuple[Terrain, ...]:
        found = _found(self, sets)
        return found.terrains if found else ()

    def problem(self, sets: Sets) -> str:
        found = _found(self, sets)
        if found is None:
            return f"needs the set '{self.join_set}', which is not there"
        return "" if found.kind == "cell" else f"is painted by the cell, its set “{found.name}” is not"

    def table(self, source: Source) -> Any:
        found = _found(self, source.sets)
        return None if found is None else source.table(found)

    def lay(self, board: Board, planes: Planes, table: Any, seed: int, rect: CellRect) -> Laid:
        if table is None:
            return pinned_over(nothing_laid(rect), planes, rect)
        cells = self._round(board, planes, rect)
        codes, near = knit_cells(cells, table, seed=seed_for(seed, self.id), top=rect.top, left=rect.left)
        return pinned_over(Laid(codes, near.astype(np.uint8)), planes, rect)

    @property
    def unmet_says(self) -> str:
        return "{cells} without a tile for what is painted, and the nearest is laid"

    def why(self, place: Place, source: Source) -> str:
        if is_pinned(place):
            return pin_said(place, source)
        join_set = _found(self, source.sets)
        cells = self._round(place.board, place.planes, CellRect(place.row, place.column, 1, 1))
        if join_set is None or not cells[MIDDLE][0, 0]:
            return "bare"
        table: CellTable = place.table
        wanted = tuple(int(part[0, 0]) for part in seen_labels(cells, table))
        name = f"cell joins “{join_set.name}”, {letters(join_set, wanted)}"
        if place.code == GAP:
            return f"no tile: {name}"
        tile = source.tile_name(place.code)
        if wanted in source.coverage(join_set).tiles:
            return f"{tile}: {name}, {share_of(source, join_set, wanted, place.code)}"
        return f"{tile}: no tile for {name}; the nearest is laid"

    def _round(self, board: Board, planes: Planes, rect: CellRect) -> list[NDArray[np.uint8]]:
        """What is painted in the cells round those of a rectangle, as `knit_cells` takes it."""
        found: list[NDArray[np.uint8]] = board.around(planes["cells"], "cells", STEPS, rect)
        near = board.reach(rect, 1)
        if self.goes_on or near == board.clip(near):
            return found
        rows, columns = np.mgrid[rect.top : rect.bottom, rect.left : rect.right]
        ys, xs = board.flat("cells", rows, columns)

        def there(down: int, right: int) -> Any:
            places = ys + down, xs + right
            return board.there("cells", *places) | Bordered.there(planes["cells"], *board.stored("cells", *places))

        return [np.where(there(*step), part, np.uint8(0)) for step, part in zip(STEPS, found, strict=True)]


def _found(layer: CellLayer, sets: Sets) -> JoinSet | None:
    return next((one for one in sets.join_sets if one.id == layer.join_set), None)
