"""The stitched layer: a plan of marks, whose tiles are laid by a stitch set."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.chance import seed_for
from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.joins.sets import Terrain
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
from knitground.core.stitches.cloth import Owner
from knitground.core.stitches.compiled import ReadySet
from knitground.core.stitches.lay import Firing, Sewn, firing, sew
from knitground.core.stitches.match import Seen
from knitground.core.stitches.rules import MOST_VIEWS, StitchSet, View
from knitground.core.stitches.why import Hindrance, Spot, hindrances
from knitground.core.tiles.tile import GAP, NUMBER_MASK

PLAN = "plan"
_VIEW = "view "


@dataclass(frozen=True)
class StitchedLayer(Layer):
    """A mark in each cell, or none; the first stitch of a course that fits lays its tiles.

    `sees` names the layer for each view of the set; where it names none, it is the lowest layer of the view's set, or
    the one that bears the view's name.
    """

    stitch_set: str
    kind: Literal["stitched"] = "stitched"
    sees: Annotated[Mapping[str, str], Field(max_length=MOST_VIEWS)] = field(default_factory=dict, kw_only=True)

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
        found = set_of(self, sets)
        return found.marks if found else ()

    def problem(self, sets: Sets) -> str:
        return "" if set_of(self, sets) else f"needs the set '{self.stitch_set}', which is not there"

    def table(self, source: Source) -> Any:
        found = set_of(self, source.sets)
        return None if found is None else source.table(found)

    def follows(self, layers: Sequence[Layer], table: Any) -> Mapping[str, Follows]:
        owner: StitchSet | None = table.owner if table is not None else None
        found = {view.name: seen_by(self, view, layers) for view in (owner.views if owner else ())}
        return {name: one for name, one in found.items() if one is not None}

    def with_others(self, planes: Planes, others: Others, follows: Mapping[str, Follows]) -> Planes:
        found = dict(planes)
        for name, follows_one in follows.items():
            found[_VIEW + name] = seen_live(others, follows_one)
        return found

    def lay(self, board: Board, planes: Planes, table: Any, seed: int, rect: CellRect) -> Laid:
        if table is None:
            return pinned_over(nothing_laid(rect), planes, rect)
        sewn = self.sewn(board, planes, table, seed, rect)
        more = np.concatenate([sewn.codes[1:], sewn.fired])
        return pinned_over(Laid(sewn.codes[0], sewn.unmet.astype(np.uint8), more if len(more) else None), planes, rect)

    def sewn(
        self, board: Board, planes: Planes, table: ReadySet, seed: int, rect: CellRect, *, traced: bool = False
    ) -> Sewn:
        """All that its set lays on a rectangle, and which stitches fire there; if it is traced, also what laid what."""
        spot = self._spot(board, planes, table, seed, rect.top, rect.left)
        return sew(table, board, spot.plan, spot.views, spot.seed, rect, traced=traced)

    def firing(self, board: Board, planes: Planes, table: ReadySet, seed: int, rect: CellRect, number: int) -> Firing:
        """Where one stitch of its set, by its place there, fires on a rectangle, and where others keep it out."""
        spot = self._spot(board, planes, table, seed, rect.top, rect.left)
        return firing(sew(table, board, spot.plan, spot.views, spot.seed, rect, of=number), table, number)

    def hindrances(self, place: Place) -> dict[int, Hindrance | None]:
        """What keeps each stitch of its set from firing in a cell; see `knitground.core.stitches.why`."""
        return hindrances(self._spot(place.board, place.planes, place.table, place.seed, place.row, place.column))

    def _spot(self, board: Board, planes: Planes, table: ReadySet, seed: int, row: int, column: int) -> Spot:
        views = {
            number: _seen(board, planes, view, table, number)
            for number, view in enumerate(table.owner.views)
            if view.sees != "laid"
        }
        own = seed_for(seed, self.id)
        return Spot(table, board, lambda area: board.read(planes[PLAN], area), views, own, row, column)

    def reach(self, board: Board, table: Any, rect: CellRect) -> CellRect:
        return board.reach(rect, 1 if table is None else max(1, table.looks + table.spread))

    def kept(self, sets: Sets) -> int:
        found = set_of(self, sets)
        return len(found.parts) + len(found.courses) if found else 0

    def spread(self, table: Any) -> int:
        return 0 if table is None else int(table.spread)

    @property
    def unmet_says(self) -> str:
        return "{cells} without a stitch"

    def why(self, place: Place, source: Source) -> str:
        if is_pinned(place):
            return pin_said(place, source)
        if place.table is None:
            return "bare"
        owner = place.table.owner
        mark = int(place.planes[PLAN][place.row, place.column])
        name = f"“{owner.name}”" + (f", {owner.marks[mark - 1].name}" if mark else "")
        if place.code == GAP:
            return f"no tile: no stitch of {name} fits here"
        laid = laid_by(self, place)
        if laid is None:
            return f"{source.tile_name(place.code)}: laid otherwise for {name}" if place.code else "bare"
        return f"{source.tile_name(place.code)}: {stitch_said(place, laid)} of {name}{_where(place, laid)}"


def laid_by(layer: StitchedLayer, place: Place, part: int = 0) -> Owner | None:
    """What laid the tile of a cell on a part; None where nothing did."""
    cell = CellRect(place.row, place.column, 1, 1)
    sewn = layer.sewn(place.board, place.planes, place.table, place.seed, cell, traced=True)
    return sewn.owner_of(part, 0, 0)


def stitch_said(place: Place, laid: Owner) -> str:
    """What a stitch that laid something is called in sentences."""
    course = place.table.courses[laid.course]
    variant = course.variants[laid.variant]
    stitch = course.stitches[variant.stitch]
    name = f" “{stitch.name}”" if stitch.name else ""
    turned = ", turned," if variant.orientation else ""
    return f"stitch {course.numbers[variant.stitch] + 1}{name}{turned}"


def _where(place: Place, laid: Owner) -> str:
    here = (laid.row, laid.column) == (place.row, place.column)
    return "" if here else f", which fires at {laid.column}, {laid.row}"


def as_stitched(layer: Layer | None) -> StitchedLayer | None:
    """The layer as a stitched one, if it is one."""
    return layer if isinstance(layer, StitchedLayer) else None


def set_of(layer: StitchedLayer, sets: Sets) -> StitchSet | None:
    """The set that lays a layer's tiles."""
    return next((one for one in sets.stitch_sets if one.id == layer.stitch_set), None)


def seen_by(layer: StitchedLayer, view: View, layers: Sequence[Layer]) -> Follows | None:
    """The layer that a view of a set looks at on a ground; None where there is none, or it looks at what is laid."""
    if view.sees == "laid":
        return None
    tiles = view.sees == "tiles"
    chosen = layer.sees.get(view.name)
    for one in layers:
        by_set = bool(view.of) and one.set_id == view.of
        by_itself = (by_set or one.name == view.name) and one.id != layer.id if tiles else one.set_id == view.of
        if one.id == chosen or (chosen is None and by_itself):
            return Follows(one.id, tiles)
    return None


def fits_view(layer: Layer, view: View) -> bool:
    """Whether a view can see a layer: what its set paints there, or the tiles that lie there."""
    return layer.set_id == view.of if view.sees == "painted" else layer.knits or layer.holds_tiles


def _seen(board: Board, planes: Planes, view: View, table: ReadySet, number: int) -> Seen:
    """A view as charts look at it: nothing anywhere where no layer is there to be seen."""
    told = table.classes[number]
    plane = planes.get(_VIEW + view.name)

    def read(area: CellRect) -> Any:
        if plane is None:
            return np.full((area.height, area.width), view.sees == "painted", dtype=np.uint64)
        found = board.read(plane, area)
        return found if view.sees == "painted" else np.maximum(found, 0) & NUMBER_MASK

    def kinds(values: NDArray[Any]) -> NDArray[Any]:
        """The kinds of what was read.

        Parameters
        ----------
        values : (height, width) of integers
            Tile numbers, or what is painted as bits.

        Returns
        -------
        kinds : (height, width) uint16
        """
        if told.by_number is not None:
            return np.asarray(np.take(told.by_number, values.astype(np.intp), mode="clip"))
        found = np.zeros(values.shape, dtype=np.uint16)
        rest = values.astype(np.uint64)
        for place, name in enumerate(told.named):
            if name >= 0:
                found |= ((rest >> np.uint64(name)) & np.uint64(1)).astype(np.uint16) << np.uint16(place)
                rest &= ~np.uint64(1 << name)
        return np.asarray(found | (rest != 0).astype(np.uint16) << np.uint16(len(told.named)))

    return Seen(read, kinds)
