"""The living mix: a layer that lays a mix by chance wherever a terrain lies on another one, and follows it."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.chance import seed_for
from knitground.core.grid.board import Board
from knitground.core.grid.live import LivePlane
from knitground.core.grid.rect import CellRect
from knitground.core.grow.mix import Mix
from knitground.core.grow.thrown import throw_of, thrown
from knitground.core.joins.sets import MOST_TERRAINS
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
from knitground.core.layers.laying import is_pinned, pin_said, pinned_over, seen_live
from knitground.core.layers.source import Sets, Source
from knitground.core.tiles.tile import ORIENTATION_SHIFT

_BELOW, _TILES = "below", "tiles"


@dataclass(frozen=True)
class MixLayer(Layer):
    """A throw of a mix: all over the ground, or only on cells that are wholly of terrain `terrain` on layer `on`.

    Terrain 0 is anything that lies there. Pins stay where they are.
    """

    mix: str
    kind: Literal["mix"] = "mix"
    on: str = field(default="", kw_only=True)
    terrain: Annotated[int, Field(ge=0, le=MOST_TERRAINS)] = field(default=0, kw_only=True)
    throw: Annotated[int, Field(ge=0, le=2**31 - 1)] = field(default=0, kw_only=True)

    title: ClassVar[str] = "living mix"
    knits: ClassVar[bool] = True
    pinnable: ClassVar[bool] = True
    takes_areas: ClassVar[bool] = False

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "MixLayer | None":
        return cls(layer_id, name, set_id) if set_id is not None and _found(set_id, sets) is not None else None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [(f"Living mix “{one.name}”, all over", one.name, one.id) for one in sets.mixes]

    def on_cells(self) -> "MixLayer":
        return self

    @property
    def mix_id(self) -> str:
        return self.mix

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return {PINS: PlaneSpec("cells", "int32", codes=True, later=True)}

    @property
    def area_plane(self) -> str:
        return PINS

    @property
    def refuses(self) -> str:
        return "is laid by a mix: weigh the mix, or pin a tile (N)"

    def problem(self, sets: Sets) -> str:
        return "" if _found(self.mix, sets) is not None else f"needs the mix '{self.mix}', which is not there"

    def with_numbers(self, layers: Collection[str], numbers: Sequence[int]) -> "MixLayer":
        return replace(self, terrain=numbers[self.terrain]) if self.on in layers and self.terrain else self

    def table(self, source: Source) -> Any:
        """What the mix throws; None where there is nothing to lay."""
        mix = _found(self.mix, source.sets)
        throw = throw_of(mix, source.sets, source.code) if mix is not None else None
        return throw if throw is not None and throw.pieces else None

    def follows(self, layers: Sequence[Layer], table: Any) -> Mapping[str, Follows]:
        for one in layers:
            if one.id == self.on and one.id != self.id:
                tiles = one.holds_tiles or not one.takes_terrains_of
                return {_TILES if tiles else _BELOW: Follows(one.id, tiles)}
        return {}

    def with_others(self, planes: Planes, others: Others, follows: Mapping[str, Follows]) -> Planes:
        return {**planes, **{name: seen_live(others, one) for name, one in follows.items()}}

    def lay(self, board: Board, planes: Planes, table: Any, seed: int, rect: CellRect) -> Laid:
        laid = nothing_laid(rect)
        if table is None or rect.is_empty:
            return pinned_over(laid, planes, rect)
        own = seed_for(seed, self.id + (f" throw {self.throw}" if self.throw else ""))
        free = LivePlane(board.shape("cells"), np.bool_, lambda part: self._there(planes, part))
        codes = thrown(table, own, board, rect, free)
        return pinned_over(laid._replace(codes=np.maximum(codes, 0)), planes, rect)

    def _there(self, planes: Planes, rect: CellRect) -> NDArray[np.bool_]:
        """Where the mix is laid, (height, width) bool."""
        if _TILES in planes:
            return np.asarray(planes[_TILES].read(rect) > 0)
        if _BELOW not in planes:
            return np.full((rect.height, rect.width), not self.on)
        bits = planes[_BELOW].read(rect)
        wanted = np.uint64(1) << np.uint64(self.terrain)
        return np.asarray(bits == wanted if self.terrain else bits > np.uint64(1))

    def reach(self, board: Board, table: Any, rect: CellRect) -> CellRect:
        blocks = table.blocks if table is not None else ()
        far = max((max(map(abs, cell[:2])) for number in blocks for cell in table.pieces[number]), default=0)
        return board.reach(rect, 1 + 4 * far)

    def why(self, place: Place, source: Source) -> str:
        if is_pinned(place):
            return pin_said(place, source)
        mix = _found(self.mix, source.sets)
        if mix is None or place.table is None:
            return "bare"
        falls = [
            weight for piece, weight in zip(*place.table, strict=True) if place.code in {one.code for one in piece}
        ]
        share = sum(falls) / sum(place.table.weights)
        turned = ", turned" if place.code >> ORIENTATION_SHIFT else ""
        name = source.tile_name(place.code) if place.code else "bare"
        return f"{name}{turned}: mix “{mix.name}”, {share:.0%} by weight" if share else name


def _found(mix_id: str, sets: Sets) -> Mix | None:
    return next((one for one in sets.mixes if one.id == mix_id), None)
