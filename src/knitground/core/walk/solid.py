"""What blocks on a ground: the collision shapes of tiles and things over all layers that count, as one."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.affinity import translate

from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.blocking import BlockRules
from knitground.core.layers.layer import Layer
from knitground.core.layers.laying import painted_bits
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Corner, Thing, outline, properties_of, reach
from knitground.core.sheet.cut import stands_at, tile_size
from knitground.core.tiles.called import called
from knitground.core.tiles.notes import PLAIN
from knitground.core.tiles.outline import turned
from knitground.core.tiles.shape_kinds import FEET, SIGHT
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef
from knitground.core.walk.room import Foot, Round, grown
from knitground.core.walk.seen import Seen

FREE, BLOCKED = 2, 1
"""What a walk layer holds: cells that block, and cells on which one may walk whatever lies there."""

Points = NDArray[np.float64]
Polygons = NDArray[np.object_]


class Piece(NamedTuple):
    """Something that blocks, and what it is.

    Attributes
    ----------
    shape : shapely.Polygon
        In pixels of the ground.
    layer : str
        The name of the layer on which it is.
    says : str
        What it is, as in "roofs 3, 2, shape 1".
    """

    shape: Any
    layer: str
    says: str


@dataclass(frozen=True, eq=False)
class _OfCode:
    """The shapes that a cell code has on a ground, seen from the left top pixel of its cell's box."""

    polygons: tuple[Points, ...]
    says: tuple[str, ...]
    whole: bool = False


class Solids:
    """What blocks on a ground, worked out for as much of it as is asked for.

    Made for one moment of a document: after a change another one is made, which takes over what did not change.
    Of what stops something else than feet only shapes count, and no rules, marks or tiles that can't be walked on.
    """

    def __init__(self, derived: Seen, ground_id: str, kind: str = FEET) -> None:
        self._derived, self.kind = derived, kind
        self.knitted: Knitted = derived.knitted(ground_id)
        self.ground: Ground = self.knitted.ground
        self._rules: BlockRules = derived.document.project.blocks
        self._codes: dict[tuple[int, bool], _OfCode] = {}
        self._grown: dict[tuple[int, Foot], list[Any]] = {}
        self._sizes: dict[TileRef | None, tuple[int, int]] = {}
        self._cell = np.array(_cell_outline(self.ground), dtype=np.float64)
        self.overhang = self._overhang()
        self.round = round_of(self.ground)

    def union(self, area: PixelRect) -> Any:
        """All that blocks in an area, as one shape of as few polygons as there can be; it may reach beyond.

        Returns
        -------
        shape : shapely.Geometry
        """
        return shapely.union_all(np.array([piece.shape for piece in self.pieces(area)], dtype=object))

    def closed(self, area: PixelRect, foot: Foot) -> Any:
        """All places in an area at which the middle of a foot cannot be; see `knitground.core.walk.room.grown`.

        What lies beyond a border at which the ground goes round counts as it lies at the other side.
        """
        found = [
            translate(part, across, down)
            for across, down in self.round.shifts()
            if not (part := self._closed_here(area._replace(x=area.x - across, y=area.y - down), foot)).is_empty
        ]
        return found[0] if len(found) == 1 else shapely.union_all(np.array(found, dtype=object))

    def _closed_here(self, area: PixelRect, foot: Foot) -> Any:
        far = int(max(foot)) + 1
        wide = area.grown(far, far, far, far)
        cells = self.ground.board.clip(self.ground.projection.cells_in(self._wider(wide)))
        if cells.is_empty:
            return shapely.Polygon()
        if self._free(cells) is not None:
            return grown(self.union(wide), foot)
        found: list[Any] = []
        for layer in self.ground.layers:
            if self._left_out(layer):
                continue
            if layer.places_things:
                found += [grown(piece.shape, foot) for piece in self._of_things(layer, wide)]
            else:
                for of, places in self._placed(layer, cells):
                    found += self._grown_at(of, places, foot)
        return shapely.union_all(np.array(found, dtype=object))

    def _grown_at(self, of: _OfCode, places: NDArray[np.intp], foot: Foot) -> list[Any]:
        """The shapes of a code at some cells, each grown by a foot; cells side by side in a row as one."""
        if of.whole and self.ground.outline == "box":
            return _rows(places, self.ground, foot)
        key = id(of), foot
        if key not in self._grown:
            self._grown[key] = [grown(shapely.Polygon(polygon), foot) for polygon in of.polygons]
        corners = self._corners(places)
        found: list[Any] = []
        for shape in self._grown[key]:
            # Only its outer border counts: a foot that has no way in needs no room.
            for part in shapely.get_parts(shape):
                if part.interiors:
                    found += [translate(part, x, y) for x, y in corners.tolist()]
                else:
                    ring = shapely.get_coordinates(part.exterior)
                    found += _polygons(ring[None] + corners[:, None])
        return found

    def _corners(self, places: NDArray[np.intp]) -> Points:
        """Where the boxes of some cells begin, (N, 2) float64."""
        corner = self.ground.projection.corner
        return np.array([corner(row, column) for row, column in places.tolist()], dtype=float).reshape(-1, 2)

    def pieces(self, area: PixelRect) -> list[Piece]:
        """What blocks in an area, piece by piece; those that reach into it are among them."""
        return [
            piece._replace(shape=translate(piece.shape, across, down)) if across or down else piece
            for across, down in self.round.shifts()
            for piece in self._pieces_here(area._replace(x=area.x - across, y=area.y - down))
        ]

    def _pieces_here(self, area: PixelRect) -> list[Piece]:
        cells = self.ground.board.clip(self.ground.projection.cells_in(self._wider(area)))
        if cells.is_empty:
            return []
        free = self._free(cells)
        found = [piece for layer in self.ground.layers for piece in self._of_layer(layer, cells, area)]
        if free is not None:
            found = [piece._replace(shape=shapely.difference(piece.shape, free)) for piece in found]
        return [piece for piece in found if not piece.shape.is_empty and piece.shape.area > 0]

    def _wider(self, area: PixelRect) -> PixelRect:
        left, top, right, bottom = self.overhang
        return area.grown(right, bottom, left, top)

    def _overhang(self) -> tuple[int, int, int, int]:
        """How far shapes of tiles may reach beyond their cells."""
        across = down = 0
        size = self.ground.tile_width, self.ground.tile_height
        for ref, notes in self._derived.document.project.tiles.items():
            if notes.shape(self.kind) != "none":
                drawn = self._derived.tile(ref)
                if drawn is not None:
                    longest = max(drawn.shape[:2])
                    across, down = max(across, longest - size[0]), max(down, longest - size[1])
        far = max(0, across), max(0, down)
        return far[0], far[1], far[0], far[1]

    def _of_layer(self, layer: Layer, cells: CellRect, area: PixelRect) -> Iterator[Piece]:
        if self._left_out(layer):
            return
        if layer.places_things:
            yield from self._of_things(layer, area)
            return
        for of, places in self._placed(layer, cells):
            corners = self._corners(places)
            for polygon, says in zip(of.polygons, of.says, strict=True):
                for shape in _polygons(polygon[None] + corners[:, None]):
                    yield Piece(shape, layer.name, says)

    def _placed(self, layer: Layer, cells: CellRect) -> Iterator[tuple[_OfCode, NDArray[np.intp]]]:
        """What blocks on a layer of tiles or marks, and the rows and columns, (N, 2), of the cells where it does."""
        start = np.array([cells.top, cells.left])
        for of, mine in self._blocking(layer, cells):
            if of.polygons and mine.any():
                yield of, np.argwhere(mine) + start

    def _blocking(self, layer: Layer, cells: CellRect) -> Iterator[tuple[_OfCode, NDArray[np.bool_]]]:
        if layer.marks_walking:
            if self.kind != FEET:
                return
            marks = self.knitted.planes[layer.id][layer.area_plane].read(cells)
            yield _OfCode((self._cell,), ("a mark",), True), marks == BLOCKED
            return
        codes = np.maximum(self.knitted.codes(layer.id, cells), 0)
        closed = self._closed_terrains(layer, cells)
        whole = self._wholly(layer)
        for code in np.unique(codes).tolist():
            mine = codes == code
            if closed is not None:
                yield self._whole(code), mine & closed
                mine &= ~closed
            if code:
                yield self._whole(code) if whole else self._of_code(code), mine

    def _left_out(self, layer: Layer) -> bool:
        """Whether nothing of a layer counts."""
        return self.kind == FEET and layer.solid == "none"

    def _wholly(self, layer: Layer) -> bool:
        """Whether all that lies on a layer counts, whatever its shapes say."""
        return layer.stops_sight if self.kind == SIGHT else self.kind == FEET and layer.solid == "whole"

    def _of_code(self, code: int) -> _OfCode:
        """What blocks of a tile, as it is described."""
        if (code, False) not in self._codes:
            self._codes[code, False] = self._described(code)
        return self._codes[code, False]

    def _whole(self, code: int) -> _OfCode:
        """The whole cell of a tile."""
        if (code, True) not in self._codes:
            says = self._derived.tile_name(code) if code else "the terrain"
            self._codes[code, True] = _OfCode((self._cell,), (says,), True)
        return self._codes[code, True]

    def _described(self, code: int) -> _OfCode:
        project, ref = self._derived.document.project, self._derived.document.palette.ref(code & NUMBER_MASK)
        notes, name = project.tiles.get(ref, PLAIN), self._derived.tile_name(code)
        collision = notes.shape(self.kind)
        said = self.kind == FEET and (self._rules.hold(notes) or (collision == "none" and not notes.walkable))
        if collision == "whole" or said:
            return _OfCode((self._cell,), (name,), True)
        cut = project.cuts.get((ref.sheet, ref.cut))
        if cut is None or isinstance(collision, str):
            return _OfCode((), ())
        orientation = code >> ORIENTATION_SHIFT
        size = tile_size(cut, ref.column, ref.row)
        seen = size[::-1] if orientation & 1 else size
        left, top = stands_at(cut, seen, (self.ground.tile_width, self.ground.tile_height), orientation)
        shapes = turned(collision, size, orientation)
        polygons = tuple(np.array(shape, dtype=np.float64) + np.array([left, top]) for shape in shapes)
        return _OfCode(polygons, tuple(f"{name}, shape {number}" for number in range(1, len(polygons) + 1)))

    def _closed_terrains(self, layer: Layer, cells: CellRect) -> NDArray[np.bool_] | None:
        """The cells that are wholly of a terrain that blocks, (height, width) bool; none where there is no such."""
        numbers = [one.number for one in self._rules.terrains if one.of == layer.set_id]
        if not numbers or not layer.takes_terrains_of or self.kind != FEET:
            return None
        planes = self.knitted.planes[layer.id]
        bits = painted_bits(layer, self.ground.board, planes, cells)
        closed = np.uint64(sum(1 << number for number in numbers))
        return np.asarray((bits > 0) & (bits & ~closed == 0))

    def _free(self, cells: CellRect) -> Any:
        """The cells on which one may walk whatever lies there, as one shape; none where there are none."""
        found = []
        for layer in self.ground.layers if self.kind == FEET else ():
            if layer.marks_walking and layer.solid != "none":
                marks = self.knitted.planes[layer.id][layer.area_plane].read(cells)
                corners = self._corners(np.argwhere(marks == FREE) + np.array([cells.top, cells.left]))
                found += _polygons(self._cell[None] + corners[:, None])
        return shapely.union_all(np.array(found, dtype=object)) if found else None

    def _of_things(self, layer: Layer, area: PixelRect) -> Iterator[Piece]:
        props = as_props(layer)
        kinds = self._derived.document.project.thing_kinds
        for thing in props.things if props is not None else ():
            far = reach(thing, self._size(thing.tile)) + 1
            if not (area.x - far <= thing.x <= area.right + far and area.y - far <= thing.y <= area.bottom + far):
                continue
            name = thing.name or (self._name(thing.tile) if thing.tile is not None else f"a {thing.form}")
            for number, polygon in enumerate(self._polygons(thing, kinds), start=1):
                shape = shapely.Polygon(polygon)
                yield Piece(shape if shape.is_valid else shape.buffer(0), layer.name, f"{name}, shape {number}")

    def _polygons(self, thing: Thing, kinds: Sequence[Any]) -> list[Sequence[tuple[float, float]]]:
        """The shapes of a thing on the ground: those of its sprite, or its own if it is an area that blocks."""
        said = properties_of(thing, kinds).get(BLOCKS if self.kind == FEET else f"{BLOCKS} {self.kind}")
        if said is not None and said.value is False:
            return []
        if thing.form != "sprite":
            blocks = said is not None and said.value is True
            return [outline(thing)] if blocks and thing.form in ("box", "round", "polygon") else []
        notes = self._derived.document.project.tiles.get(thing.tile, PLAIN) if thing.tile is not None else PLAIN
        wide, high = self._size(thing.tile)
        collision = notes.shape(self.kind)
        if isinstance(collision, str):
            closed = self.kind == FEET and not notes.walkable
            blocks = collision == "whole" or closed or (said is not None and said.value is True)
            # A sprite that is taller than a cell stands on the ground with its lowest part alone.
            size = wide, min(high, self.ground.tile_height)
            return [outline(thing, size)] if blocks and wide and high else []
        # A sprite stands with the middle of its lower border where it lies.
        found: list[Sequence[tuple[float, float]]] = []
        for shape in collision:
            points = tuple(Corner(x - wide / 2, y - high) for x, y in shape)
            found.append(outline(replace(thing, form="polygon", tile=None, points=points)))
        return found

    def _size(self, ref: TileRef | None) -> tuple[int, int]:
        if ref not in self._sizes:
            drawn = self._derived.tile(ref) if ref is not None else None
            self._sizes[ref] = (drawn.shape[1], drawn.shape[0]) if drawn is not None else (0, 0)
        return self._sizes[ref]

    def _name(self, ref: TileRef) -> str:
        return called(self._derived.document.project.sheets, ref)


BLOCKS = "blocks"
"""The yes-or-no property by which a thing, or its kind, blocks or does not; of other kinds of shapes with their id
after it, as in "blocks sight"."""

Progress = Callable[[float], None]


def round_of(ground: Ground) -> Round:
    """At which borders somebody who walks comes in at the other side: where a square ground goes round."""
    width, height = ground.projection.size
    square = ground.grid == "square"
    return Round(width if square and ground.wraps_x else None, height if square and ground.wraps_y else None)


def _cell_outline(ground: Ground) -> list[tuple[float, float]]:
    """The corners of a cell, seen from the left top pixel of its box."""
    projection = ground.projection
    left, top = projection.corner(0, 0)
    y, x = (int(n) for n in ground.board.flat("cells", 0, 0))
    return [(corner[0] - left, corner[1] - top) for corner in projection.outline(y, x, y + 1, x + 1)]


def _rows(places: NDArray[np.intp], ground: Ground, foot: Foot) -> list[Any]:
    """Cells of a square ground as boxes grown by a foot, those side by side in a row as one.

    Parameters
    ----------
    places : (N, 2) int
        Row by row.
    """
    across, down = foot.half
    rows, columns = places[:, 0], places[:, 1]
    begins = np.flatnonzero(np.append(True, (np.diff(rows) != 0) | (np.diff(columns) != 1)))
    ends = np.append(begins[1:], len(places)) - 1
    left, right = columns[begins] * ground.tile_width, (columns[ends] + 1) * ground.tile_width
    top = rows[begins] * ground.tile_height
    found: list[Any] = shapely.box(left - across, top - down, right + across, top + ground.tile_height + down).tolist()
    return found


def _polygons(rings: Points) -> list[Any]:
    """Polygons of rings, (N, K, 2)."""
    made: Any = shapely.polygons(rings)
    found: list[Any] = made.tolist()
    return found
