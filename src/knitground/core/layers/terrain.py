"""The terrain layer: terrains painted on corners or edges, whose tiles are knit from a join set."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import seed_for
from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.joins.knit import knit
from knitground.core.joins.lattice import PLANES, SPOTS
from knitground.core.joins.mend import Mended, codes_of, mend, reach
from knitground.core.joins.places import Places
from knitground.core.joins.sets import JoinKind, JoinSet, Terrain, letters
from knitground.core.joins.table import JoinTable
from knitground.core.layers.full import full_patches
from knitground.core.layers.layer import (
    PINS,
    Laid,
    Layer,
    Patches,
    Place,
    Planes,
    PlaneSpec,
    Values,
    nothing_laid,
)
from knitground.core.layers.laying import is_pinned, pin_said, pinned_over
from knitground.core.layers.source import Sets, Source
from knitground.core.layers.variants import share_of
from knitground.core.tiles.tile import EMPTY, GAP

_SPECS: dict[str, PlaneSpec] = {
    "corners": PlaneSpec("corners", goes_on=True), "across": PlaneSpec("across"), "along": PlaneSpec("along"),
}  # fmt: skip
_PINS = {PINS: PlaneSpec("cells", "int32", codes=True, later=True)}


@dataclass(frozen=True)
class TerrainLayer(Layer):
    """What was painted, in the numbers of the terrains of a join set; its tiles follow.

    With `leaves_ground` no tile lies where its ground, the first terrain, lies alone: what is below shows there.
    """

    join_set: str
    joins: JoinKind
    kind: Literal["terrain"] = "terrain"
    leaves_ground: bool = field(default=False, kw_only=True)

    title: ClassVar[str] = "terrain layer"
    knits: ClassVar[bool] = True
    pinnable: ClassVar[bool] = True
    takes_terrains_of: ClassVar[Literal["join_sets", "stitch_sets", ""]] = "join_sets"

    @classmethod
    def made(cls, layer_id: str, name: str, set_id: str | None, sets: Sets) -> "TerrainLayer | None":
        found = next((one for one in sets.join_sets if one.id == set_id and one.kind != "cell"), None)
        return cls(layer_id, name, found.id, found.kind) if found else None

    @classmethod
    def choices(cls, sets: Sets) -> list[tuple[str, str, str | None]]:
        return [
            (f"Terrain layer knit from “{one.name}”", one.name, one.id) for one in sets.join_sets if one.kind != "cell"
        ]

    @property
    def set_id(self) -> str:
        return self.join_set

    @property
    def specs(self) -> Mapping[str, PlaneSpec]:
        return {name: _SPECS[name] for name in PLANES[self.joins]} | _PINS

    @property
    def area_plane(self) -> str:
        return "across" if self.joins == "edge" else "corners"

    @property
    def takes_areas(self) -> bool:  # type: ignore[override]
        return self.joins != "edge"

    @property
    def takes_runs(self) -> bool:
        return self.joins != "corner"

    def terrains(self, sets: Sets) -> tuple[Terrain, ...]:
        found = _found(self, sets)
        return found.terrains if found else ()

    def erased(self, sets: Sets) -> int:
        found = _found(self, sets)
        return 0 if found is None or found.bare else 1

    def has_ground(self, sets: Sets) -> bool:
        return self.erased(sets) > 0

    def above_others(self, sets: Sets) -> "TerrainLayer":
        return replace(self, leaves_ground=True) if self.has_ground(sets) else self

    def problem(self, sets: Sets) -> str:
        found = _found(self, sets)
        if found is None:
            return f"needs the set '{self.join_set}', which is not there"
        return "" if found.kind == self.joins else f"has {self.joins} joins, its set “{found.name}” has not"

    def blank(self, board: Board, sets: Sets) -> dict[str, Plane]:
        """Covered with the first terrain where its tiles may not border on nothing, so that no gaps show."""
        filling = self.erased(sets)
        return {name: Plane.full(board.shape(_SPECS[name].on), np.uint8, filling) for name in PLANES[self.joins]}

    def patches(self, board: Board, planes: Planes, shapes: Mapping[str, Shape], values: Values) -> Patches:
        if self.joins != "full":
            return super().patches(board, planes, shapes, values)
        terrain = values(CellRect(0, 0, 1, 1))
        return full_patches(board, planes, shapes, int(np.max(terrain)))

    def table(self, source: Source) -> Any:
        found = _found(self, source.sets)
        return None if found is None else source.table(found)

    def lay(self, board: Board, planes: Planes, table: Any, seed: int, rect: CellRect) -> Laid:
        """Tiles as painted; what a set cannot lay is mended (see `mend`), and GAP stays only where that can't be."""
        if table is None:
            return pinned_over(nothing_laid(rect), planes, rect)
        own = seed_for(seed, self.id)
        painted = _painted(board, planes, self.joins, rect)
        codes = knit(painted, table, seed=own, top=rect.top, left=rect.left)
        unmet = np.zeros(codes.shape, dtype=np.uint8)
        mended = None if table.complete else _mended(board, planes, table, rect)
        if mended is not None:
            # Between terrains that never meet lies what leads from one to the other, as it should.
            gaps = codes == GAP
            unmet[gaps] = ~table.stand_apart([place[gaps] for place in painted])
            unmet[mended.rows, mended.columns] |= mended.broken.astype(np.uint8) << np.uint8(1)
            place = mended.rows + rect.top, mended.columns + rect.left
            codes[mended.rows, mended.columns] = codes_of(mended.labels, *place, table, own)
        elif not table.complete:
            unmet[codes == GAP] = 1
        if self.leaves_ground and not table.may_be_bare:
            left = _is_ground(painted, mended)
            codes[left], unmet[left] = EMPTY, 0
        return pinned_over(Laid(codes, unmet), planes, rect)

    def reach(self, board: Board, table: Any, rect: CellRect) -> CellRect:
        wide = isinstance(table, JoinTable) and not table.complete
        return board.reach(rect, 1 + _mending_reach(board) if wide else 1)

    @property
    def unmet_says(self) -> str:
        return "{cells} without a tile for what is painted, and the nearest is laid"

    def why(self, place: Place, source: Source) -> str:
        if is_pinned(place):
            return pin_said(place, source)
        join_set = _found(self, source.sets)
        cell = CellRect(place.row, place.column, 1, 1)
        painted = np.array([one[0, 0] for one in _painted(place.board, place.planes, self.joins, cell)])
        wanted = tuple(painted.tolist())
        if join_set is None or (place.code == EMPTY and not any(wanted)):
            return "bare"
        if place.code == EMPTY:
            return "bare: its ground is left to what lies below"
        mended = None if place.table.complete else _mended(place.board, place.planes, place.table, cell)
        laid = wanted if mended is None or not len(mended.rows) else tuple(mended.labels[0].tolist())
        name = f"{join_set.kind} joins “{join_set.name}”, {letters(join_set, laid)}"
        if place.code == GAP:
            return f"no tile: {name}"
        tile = source.tile_name(place.code)
        if laid == wanted:
            return f"{tile}: {name}, {share_of(source, join_set, laid, place.code)}"
        lays = place.table.lays(painted)
        lacks = "a neighbour has no tile" if lays else f"no tile for {letters(join_set, wanted)}"
        breaks = ", and a join breaks" if mended is not None and mended.broken[0] else ""
        return f"{tile}: {name}; laid instead, as {lacks}{breaks}"


def _is_ground(painted: list[NDArray[np.uint8]], mended: Mended | None) -> NDArray[np.bool_]:
    """Which cells show the first terrain alone, as they are laid."""
    ground: NDArray[np.bool_] = np.all([place == 1 for place in painted], axis=0)
    if mended is not None:
        ground[mended.rows, mended.columns] = (mended.labels == 1).all(axis=1)
    return ground


def _found(layer: TerrainLayer, sets: Sets) -> JoinSet | None:
    return next((one for one in sets.join_sets if one.id == layer.join_set), None)


def _painted(board: Board, planes: Planes, joins: JoinKind, rect: CellRect) -> list[NDArray[np.uint8]]:
    """What is painted at each place of the cells of a rectangle, as `knit` takes it."""
    found: list[NDArray[np.uint8]] = []
    for on in PLANES[joins]:
        steps = [step for name, step in SPOTS[joins] if name == on]
        found += board.around(planes[on], on, steps, rect)  # type: ignore[arg-type]
    order = sorted(range(len(SPOTS[joins])), key=lambda n: PLANES[joins].index(SPOTS[joins][n][0]))
    return [place for _, place in sorted(zip(order, found, strict=True), key=lambda pair: pair[0])]


def _mending_reach(board: Board) -> int:
    """How many cells away what was painted may matter for a tile where a set is incomplete."""
    return reach(board.period, board.apart)


def _mended(board: Board, planes: Planes, table: JoinTable, rect: CellRect) -> Mended | None:
    """The cells of a rectangle that are not laid as painted, counted from its corner; None where there are none."""
    seen = board.seen_from(board.reach(rect, _mending_reach(board)))
    ys, xs, inside = board.flat_window(seen)
    longer_y, longer_x = np.append(ys, ys[-1] + 1), np.append(xs, xs[-1] + 1)
    sizes = {"corners": (longer_y, longer_x), "across": (longer_y, xs), "along": (ys, longer_x)}
    painted = {on: board.flat_patch(planes[on], on, *sizes[on])[0] for on in PLANES[table.kind]}  # type: ignore[arg-type]
    places = Places(
        lambda rows, columns: board.stored("cells", rows + ys[0], columns + xs[0]),
        board.period,
        board.apart,
        board.colours,
    )
    wanted = board.flat_bounds(rect)
    wanted = wanted._replace(top=wanted.top - int(ys[0]), left=wanted.left - int(xs[0]))
    found = mend(painted, table, places, inside=inside, wanted=wanted)
    if found is None:
        return None
    rows, columns = board.stored("cells", found.rows + ys[0], found.columns + xs[0])
    rows, columns = rows - rect.top, columns - rect.left
    mine = (rows >= 0) & (rows < rect.height) & (columns >= 0) & (columns < rect.width)
    return Mended(rows[mine], columns[mine], found.labels[mine], found.broken[mine])
