"""The layer that shows what stitches lay elsewhere than on their own layer, such as the tops of walls."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

import numpy as np

from knitground.core.grid.board import Board
from knitground.core.grid.live import LivePlane
from knitground.core.grid.rect import CellRect
from knitground.core.layers.layer import (
    PINS,
    Follows,
    Laid,
    Layer,
    Others,
    Place,
    Planes,
    PlaneSpec,
    nothing_laid,
)
from knitground.core.layers.laying import is_pinned, pin_said, pinned_over
from knitground.core.layers.source import Sets, Source

_LAID = "laid"


@dataclass(frozen=True)
class OntoLayer(Layer):
    """A part of a stitch set as the stitched layer `laid_by` lays it; if that names none, the lowest of the set."""

    stitch_set: str
    part: str
    kind: Literal["onto"] = "onto"
    laid_by: str = field(default="", kw_only=True)

    title: ClassVar[str] = "layer that stitches lay"
    knits: ClassVar[bool] = True
    pinnable: ClassVar[bool] = True
    takes_areas: ClassVar[bool] = False

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "OntoLayer | None":
        for one in sets.stitch_sets:
            for part in one.parts:
                if set_id == _both(one.id, part):
                    return cls(layer_id, name, one.id, part)
        return None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [
            (f"“{part}” of the stitches “{one.name}”", part, _both(one.id, part))
            for one in sets.stitch_sets
            for part in one.parts
        ]

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return {PINS: PlaneSpec("cells", "int32", codes=True, later=True)}

    @property
    def area_plane(self) -> str:
        return PINS

    @property
    def stitched_by(self) -> str:
        return self.stitch_set

    @property
    def refuses(self) -> str:
        return "shows what stitches lay: paint their plan, or pin a tile (N)"

    @property
    def shown_part(self) -> str:
        return self.part

    def problem(self, sets: Sets) -> str:
        found = next((one for one in sets.stitch_sets if one.id == self.stitch_set), None)
        if found is None:
            return f"needs the stitch set '{self.stitch_set}', which is not there"
        return "" if self.part in found.parts else f"shows “{self.part}” of “{found.name}”, which has no such part"

    def follows(self, layers: Sequence[Layer], table: Any) -> Mapping[str, Follows]:
        for one in layers:
            mine = one.id == self.laid_by if self.laid_by else one.set_id == self.stitch_set
            if mine and one.takes_terrains_of == "stitch_sets" and one.set_id == self.stitch_set:
                return {_LAID: Follows(one.id, True)}
        return {}

    def table(self, source: Source) -> Any:
        found = next((one for one in source.sets.stitch_sets if one.id == self.stitch_set), None)
        return None if found is None or self.part not in found.parts else found.parts.index(self.part)

    def with_others(self, planes: Planes, others: Others, follows: Mapping[str, Follows]) -> Planes:
        if _LAID not in follows:
            return planes
        laid_by = follows[_LAID].layer

        def read(rect: CellRect) -> Any:
            return others.laid(laid_by, rect).more

        return {**planes, _LAID: LivePlane(others.board.shape("cells"), np.int32, read)}

    def lay(self, board: Board, planes: Planes, table: Any, seed: int, rect: CellRect) -> Laid:
        more = planes[_LAID].read(rect) if _LAID in planes and table is not None and not rect.is_empty else None
        laid = nothing_laid(rect)
        if more is not None:
            laid = laid._replace(codes=more[table])
        return pinned_over(laid, planes, rect)

    def reach(self, board: Board, table: Any, rect: CellRect) -> CellRect:
        return rect

    def why(self, place: Place, source: Source) -> str:
        if is_pinned(place):
            return pin_said(place, source)
        return f"{source.tile_name(place.code)}: laid as “{self.part}”" if place.code else "bare"


def _both(set_id: str, part: str) -> str:
    """How a part of a set is named where a layer is asked for by its set."""
    return f"{set_id}\n{part}"
