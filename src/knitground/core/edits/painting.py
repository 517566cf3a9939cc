"""What gestures lay: a stroke, an area, a region, on any kind of layer and any grid.

A gesture is told in flat places (see `knitground.core.grid`), as the pointer moves over the ground. Which places of
which planes it covers, and what it sets there, is decided here and by the layer's kind; tools only draw and pass on.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance
from knitground.core.edits.forms import FORMS, within_reach
from knitground.core.edits.pattern import Pattern
from knitground.core.edits.symmetry import Image, Symmetry
from knitground.core.errors import BadRequest
from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.runs import connected_run
from knitground.core.grid.shapes import Shape, cropped, round_a_box, round_a_cell, walk
from knitground.core.ground.ground import Ground, by_id
from knitground.core.grow.mix import Mix
from knitground.core.grow.thrown import throw_of, thrown
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.document import Document
from knitground.core.project.model import Palette, Project, State
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef, turned_further

Spot = tuple[float, float]
"""A flat place, as the pointer points at it: 2.5 lies in the middle of cell 2."""
Shapes = dict[str, Shape]
NO_LAYER = "This ground has no layer yet; add one with the plus at the right."


Turning = Literal["as it is", "mirrored", "turned"]
"""How tiles are turned by chance as they are laid: not at all, half of them mirrored, or in all eight ways."""
_TURNS: Mapping[Turning, tuple[int, ...]] = {"as it is": (0,), "mirrored": (0, 4), "turned": tuple(range(8))}
_TOGETHER = np.array([[turned_further(one, other) for other in range(8)] for one in range(8)], dtype=np.int32)
_OTHER_THROW = 0x51ED


@dataclass(frozen=True)
class Hand:
    """What is in hand: all that decides what a gesture lays.

    On layers of single tiles `pattern` counts before `mix`, and that before `tile`; `terrain` is the number of the
    terrain, mark or shade on the others. `runs` asks for runs along edges where a layer takes both. `form` is what
    areas are (see `FORMS`); with `alike` a fill goes to all that is alike, wherever it lies. `density` below 1
    scatters: only that share of what a gesture covers is laid, and `throw` decides which. Strokes and areas fall
    once more wherever `symmetry` mirrors them; `turning` says how tiles are turned by chance.
    """

    tile: TileRef | None = None
    orientation: int = 0
    mix: Mix | None = None
    throw: int = 1
    terrain: int = 1
    radius: int = 0
    runs: bool = False
    form: str = "box"
    alike: bool = False
    density: float = 1.0
    pattern: Pattern | None = None
    symmetry: Symmetry | None = None
    turning: Turning = "as it is"

    def turned(self, orientation: int) -> "Hand":
        """The same hand with its tile turned further, as an image of a gesture lays it."""
        if not orientation:
            return self
        return replace(self, orientation=turned_further(self.orientation, orientation))


class Covered(NamedTuple):
    """What a gesture or an image of it covers, by plane, and how tiles are turned there."""

    shapes: Shapes
    turn: int


@dataclass(frozen=True)
class Picked:
    """What lies under the pointer, to be taken in hand; on which layer it lies."""

    layer: str
    tile: TileRef | None = None
    orientation: int = 0
    terrain: int | None = None


def cell_of(at: Spot) -> tuple[int, int]:
    """The flat cell in which a place lies."""
    return math.floor(at[0]), math.floor(at[1])


def spot_on(layer: Layer, hand: Hand, at: Spot) -> tuple[int, int]:
    """The flat place that a gesture falls on: the point that lies nearest where corners are painted, else the cell."""
    if on_points(layer, hand):
        return math.floor(at[0] + 0.5), math.floor(at[1] + 0.5)
    return cell_of(at)


def held(board: Board, layer: Layer, hand: Hand, start: Spot, end: Spot) -> Spot:
    """The second place of an area, moved so that the form in hand is plain: a square, a circle, a straight line."""
    first, last = spot_on(layer, hand, start), spot_on(layer, hand, end)
    if board.in_rows:
        (row, column), (last_row, last_column) = (board.stored("cells", *place) for place in (first, last))
        moved = board.flat("cells", *FORMS[hand.form].holds((row, column), (last_row, last_column)))
    else:
        moved = FORMS[hand.form].holds(first, last)
    return end[0] + moved[0] - last[0], end[1] + moved[1] - last[1]


def on_points(layer: Layer, hand: Hand) -> bool:
    """Whether a gesture falls on the points between cells."""
    return not layer.lays_runs(hand.runs) and layer.specs[layer.area_plane].on == "corners"


def stroke_shapes(
    board: Board, layer: Layer, hand: Hand, start: Spot, end: Spot, *, erase: bool = False
) -> list[Covered]:
    """What a stroke from one place to another covers; once more for each image, and border over which it goes round."""
    return [
        Covered(_stroke_shapes(board, layer, hand, one, other, erase), turn)
        for turn, spots in _images(hand, start, end)
        for one, other in board.rounds(*spots)
    ]


def area_shapes(board: Board, layer: Layer, hand: Hand, start: Spot, end: Spot) -> list[Covered]:
    """What the form in hand covers between two places; where runs are laid, a run once round or straight there."""
    return [
        Covered(_area_shapes(board, layer, hand, one, other), turn)
        for turn, spots in _images(hand, start, end)
        for one, other in board.rounds(*spots)
    ]


def _images(hand: Hand, start: Spot, end: Spot) -> list[Image]:
    return [(0, (start, end))] if hand.symmetry is None else hand.symmetry.images(start, end)


def region_shapes(
    board: Board, layer: Layer, planes: Planes, hand: Hand, at: Spot, within: CellRect | None = None
) -> Shapes:
    """What hangs together with a place and is alike, or all that is alike; nothing off the ground."""
    if layer.lays_runs(hand.runs):
        return connected_run(board, planes, *cell_of(at)) if board.holds(*at) else {}
    on = layer.specs[layer.area_plane].on
    spot = spot_on(layer, hand, at)
    row, column = board.stored(on, *spot)
    height, width = board.shape(on)
    if not (0 <= row < height and 0 <= column < width):
        return {}
    if hand.alike:
        return {layer.area_plane: _alike(planes[layer.area_plane], int(row), int(column), within)}
    return {layer.area_plane: board.flood(planes[layer.area_plane], on, spot, within)}


def _alike(plane: Plane, row: int, column: int, within: CellRect | None) -> Shape:
    """All places of a plane that hold what one holds."""
    whole = CellRect(0, 0, *plane.shape)
    rect = whole if within is None else within.inside(whole)
    return cropped(Shape(rect, plane.read(rect) == plane[row, column]))


def values_of(
    project: Project, palette: Palette, board: Board, layer: Layer, hand: Hand, *, erase: bool,
    within: Shape | None = None,
) -> Callable[[CellRect], Any]:  # fmt: skip
    """What is laid on a rectangle of a plane: tiles or a throw of the mix, a terrain, a mark; or what erasing leaves.

    Blocks of a mix lie whole within a shape of cells if one is given; else they come to light piece by piece.

    Raises
    ------
    BadRequest
        If nothing is chosen to lay.
    """
    if erase:
        return lambda rect: layer.erased(project)
    if not layer.holds_tiles:
        count = len(layer.terrains(project))
        if not count:
            raise BadRequest("This layer's set has no terrain to paint with; add one in its stage.")
        return lambda rect: min(hand.terrain, count)
    if hand.pattern is not None:
        return hand.pattern.over
    if hand.turning != "as it is":
        still = replace(hand, turning="as it is")
        plain = values_of(project, palette, board, layer, still, erase=False, within=within)
        return lambda rect: _turned_by_chance(plain(rect), hand, rect)
    if hand.mix is not None:
        throw, free = throw_of(hand.mix, project, palette.code), None
        if within is not None and throw.blocks:
            free = np.zeros((board.height, board.width), dtype=bool)
            free[within.window.rows, within.window.columns] = within.mask
        return lambda rect: thrown(throw, hand.throw, board, rect, free)
    if hand.tile is None:
        raise BadRequest("No tile is chosen; click one on the sheet, in the Ground stage.")
    code = palette.code(hand.tile, hand.orientation)
    return lambda rect: code


def _turned_by_chance(codes: Any, hand: Hand, rect: CellRect) -> NDArray[np.int32]:
    """Cell codes turned further by chance, place by place; nothing stays nothing."""
    ways = np.array(_TURNS[hand.turning], dtype=np.intp)
    numbers = chance(
        hand.throw ^ _OTHER_THROW, np.arange(rect.top, rect.bottom)[:, None], np.arange(rect.left, rect.right)
    )
    codes = np.broadcast_to(np.asarray(codes, dtype=np.int32), numbers.shape)
    further = ways[(numbers * len(ways)).astype(np.intp)]
    orientation = _TOGETHER[codes >> ORIENTATION_SHIFT & 7, further]
    turned: NDArray[np.int32] = np.where(codes > 0, codes & NUMBER_MASK | orientation << ORIENTATION_SHIFT, codes)
    return turned.astype(np.int32)


def stroke(
    document: Document, ground_id: str, layer_id: str, hand: Hand, start: Spot, end: Spot, *, erase: bool = False
) -> None:
    """Lays a part of a stroke; what leaves the ground where it goes round comes in at the other side."""
    ground, layer = paintable(document, ground_id, layer_id)
    for shapes, turn in stroke_shapes(ground.board, layer, hand, start, end, erase=erase):
        _lay(document, "draw", ground, layer, shapes, hand.turned(turn), erase, whole=False)


def area(
    document: Document, ground_id: str, layer_id: str, hand: Hand, start: Spot, end: Spot, *, erase: bool = False
) -> None:
    """Lays a rectangle between two places, as one step."""
    ground, layer = paintable(document, ground_id, layer_id)
    with document.step("erase area" if erase else "area"):
        for shapes, turn in area_shapes(ground.board, layer, hand, start, end):
            _lay(document, "area", ground, layer, shapes, hand.turned(turn), erase)


def fill(document: Document, ground_id: str, layer_id: str, hand: Hand, at: Spot, *, erase: bool = False) -> None:
    """Lays on all that hangs together with a place, as one step."""
    paintable(document, ground_id, layer_id)
    planes = filled(document.state, document.palette, ground_id, layer_id, hand, at, erase=erase)
    document.put_planes("erase region" if erase else "fill", ground_id, {layer_id: planes})


def fill_shape(
    document: Document, ground_id: str, layer_id: str, hand: Hand, shape: Shape, *, erase: bool = False
) -> None:
    """Lays on some cells, whatever lies there, as one step; on corners on all that lie round them.

    Raises
    ------
    BadRequest
        If the layer takes runs along edges alone, or nothing is chosen to lay.
    """
    ground, layer = paintable(document, ground_id, layer_id)
    if layer.lays_runs(hand.runs):
        raise BadRequest(f"“{layer.name}” is laid in runs along edges, which do not fill cells; draw the runs.")
    on = layer.specs[layer.area_plane].on
    covered = ground.board.round_cells(on, shape)
    _lay(document, "fill selection", ground, layer, {layer.area_plane: covered}, hand, erase)


def filled(
    state: State, palette: Palette, ground_id: str, layer_id: str, hand: Hand, at: Spot, *, erase: bool = False
) -> dict[str, Plane]:
    """A layer's planes after a fill; a pure function of a state, so that it may run beside the interface."""
    ground = by_id(state.project.grounds, ground_id)
    layer, planes = ground.layer(layer_id), state.planes[ground_id][layer_id]
    shapes = region_shapes(ground.board, layer, planes, hand, at)
    within = shapes.get(layer.area_plane) if layer.holds_tiles else None
    values = values_of(state.project, palette, ground.board, layer, hand, erase=erase, within=within)
    return patched(planes, layer.patches(ground.board, planes, shapes, values))


def patched(planes: Planes, patches: Mapping[str, tuple[Shape, NDArray[Any] | int]]) -> dict[str, Plane]:
    """The planes that patches change, as they are after them.

    Parameters
    ----------
    planes : mapping of name to Plane
    patches : mapping of name to (Shape, values)
        Where in a plane, and what: an array as large as the shape's rectangle, or one number for all of it. What is
        below 0 is left as it is.
    """
    found = {}
    for name, (shape, values) in patches.items():
        rect, mask = shape
        if not rect.is_empty and isinstance(values, int) and mask.all():
            found[name] = planes[name].written(rect, values) if values >= 0 else planes[name]
        elif not rect.is_empty:
            laid = mask & (np.asarray(values) >= 0)
            found[name] = planes[name].written(rect, np.where(laid, values, planes[name].read(rect)))
    return found


def pick(document: Document, ground_id: str, layer_id: str, hand: Hand, at: Spot) -> Picked | None:
    """What lies at a place: of a layer of single tiles the uppermost tile of all such layers; None if nothing does."""
    ground = by_id(document.project.grounds, ground_id)
    cell, layer = ground.board.cell_at(*at), ground.layer(layer_id)
    if cell is None:
        return None
    if layer.holds_tiles:
        shown = [one for one in reversed(ground.layers) if one.holds_tiles and one.visible]
        for one in (layer, *shown):
            code = int(document.state.planes[ground_id][one.id][one.area_plane][cell])
            if code:
                return Picked(one.id, document.palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT)
        return None
    planes = document.state.planes[ground_id][layer_id]
    if layer.specs[layer.area_plane].codes:
        # What is laid by others: tiles that are pinned over it lie there, and none do before the first.
        code = int(planes[layer.area_plane][cell]) if layer.area_plane in planes else 0
        tile = document.palette.ref(code & NUMBER_MASK) if code else None
        return Picked(layer_id, tile, code >> ORIENTATION_SHIFT) if code else None
    number = _terrain_at(ground, layer, planes, hand, at)
    return Picked(layer_id, terrain=number) if number else None


def paintable(document: Document, ground_id: str, layer_id: str, *, pins: bool = False) -> tuple[Ground, Layer]:
    """A ground and a layer of it that may be painted on.

    Raises
    ------
    BadRequest
        If there is no such layer, it is locked, or nothing can be painted on it.
    """
    ground = by_id(document.project.grounds, ground_id)
    try:
        layer = ground.layer(layer_id)
    except KeyError:
        raise BadRequest(NO_LAYER) from None
    check_unlocked(layer)
    if layer.refuses and not pins:
        raise BadRequest(f"“{layer.name}” {layer.refuses}.")
    return ground, layer


def check_unlocked(layer: Layer) -> None:
    """Raises BadRequest where a layer is locked."""
    if layer.locked:
        raise BadRequest(
            f"“{layer.name}” is locked; unlock it by a right click on its picture, or choose another layer."
        )


def _lay(
    document: Document, label: str, ground: Ground, layer: Layer, shapes: Shapes, hand: Hand, erase: bool,
    *, whole: bool = True,
) -> None:  # fmt: skip
    """Lays on shapes; blocks of a mix lie whole in them unless it is a part of a stroke."""
    planes = document.state.planes[ground.id][layer.id]
    within = shapes.get(layer.area_plane) if whole and layer.holds_tiles else None
    values = values_of(document.project, document.palette, ground.board, layer, hand, erase=erase, within=within)
    document.put_planes(
        label, ground.id, {layer.id: patched(planes, layer.patches(ground.board, planes, shapes, values))}
    )


def _stroke_shapes(board: Board, layer: Layer, hand: Hand, start: Spot, end: Spot, erase: bool) -> Shapes:
    if layer.lays_runs(hand.runs):
        # With runs a cell is rubbed out whole: all four of its edges.
        return board.edges(round_a_cell(*cell_of(end)) if erase else walk(cell_of(start), cell_of(end)))
    on = layer.specs[layer.area_plane].on
    spots = spot_on(layer, hand, start), spot_on(layer, hand, end)
    shape = board.disc(on, *spots, hand.radius)
    return {layer.area_plane: shape if hand.density >= 1 else _scattered(shape, hand)}


def _scattered(shape: Shape, hand: Hand) -> Shape:
    """The share of a shape that is laid where things are scattered; by place, so that going over it adds nothing."""
    rect = shape.window
    numbers = chance(hand.throw, np.arange(rect.top, rect.bottom)[:, None], np.arange(rect.left, rect.right))
    return Shape(rect, shape.mask & (numbers < hand.density))


def _area_shapes(board: Board, layer: Layer, hand: Hand, start: Spot, end: Spot) -> Shapes:
    if layer.lays_runs(hand.runs):
        make = walk if hand.form == "line" else round_a_box
        return board.edges(make(cell_of(start), cell_of(end)))
    on = layer.specs[layer.area_plane].on
    spots = within_reach(spot_on(layer, hand, start), spot_on(layer, hand, end))
    covers, radius = FORMS[hand.form].covers, hand.radius
    if covers is None:
        return {layer.area_plane: board.disc(on, *spots, radius)}
    return {layer.area_plane: board.between(on, *spots, lambda one, other, all_of: covers(one, other, radius, all_of))}


def _terrain_at(ground: Ground, layer: Layer, planes: Planes, hand: Hand, at: Spot) -> int:
    board = ground.board
    if layer.lays_runs(hand.runs):
        edges = ((*board.stored(on, y, x), on) for on, y, x in round_a_cell(*cell_of(at)))
        return max(int(planes[on][row, column]) for row, column, on in edges)
    on = layer.specs[layer.area_plane].on
    row, column = board.stored(on, *spot_on(layer, hand, at))
    height, width = board.shape(on)
    return int(planes[layer.area_plane][min(max(row, 0), height - 1), min(max(column, 0), width - 1)])
