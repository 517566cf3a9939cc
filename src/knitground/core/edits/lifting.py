"""Layers that lie on top of what stands on another: roofs on walls, a second storey."""

from collections import Counter
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.painting import Spot, cell_of
from knitground.core.edits.relaying import last_stroke, where_it_lies
from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.render.upper_face import floor_height, tops
from knitground.core.tiles.tile import NUMBER_MASK

_ROWS = 128
_FARTHEST = 64


class Top(NamedTuple):
    """The upper face of a tile that stands out of its cell, as it is seen over another cell.

    Attributes
    ----------
    layer : Layer
        The one on which it stands.
    height : int
        How far it stands out, in pixels, and its layer lies higher than the one on whose cells it is looked for.
    by : tuple of int
        Rows and columns, of the flat grid, from the cell over which it is seen to the one on which it stands.
    """

    layer: Layer
    height: int
    by: tuple[int, int]


def lift_onto(derived: Derived, ground_id: str, layer_id: str) -> int:
    """Moves a layer up by as much as most tiles of the next layer below stand out of their cells, where both hold some.

    Parameters
    ----------
    derived : Derived
    ground_id, layer_id : str
        An isometric ground, and the layer that is moved.

    Returns
    -------
    height : int
        In pixels, above that other layer.

    Raises
    ------
    BadRequest
        If nothing stands out of its cells below it.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    for below in reversed(ground.layers[: ground.layers.index(ground.layer(layer_id))]):
        height = _height_of(derived, ground, ground.layer(layer_id), below)
        if height:
            change_layer(
                derived.document, ground_id, layer_id, "lay on top",
                offset_x=below.offset_x, offset_y=below.offset_y - height,
            )  # fmt: skip
            return height
    raise BadRequest("Nothing stands out of its cells on the layers below; lay walls there first.")


def stands_inside(derived: Derived, ground_id: str, at: Spot) -> str:
    """The name of a layer inside of whose tiles those of the last stroke stand; empty if none.

    They are hidden by them, or lie on blocks that a floor is made of, which are to be stood on; that counts unless the
    top of something higher was pointed at.

    Parameters
    ----------
    derived : Derived
    ground_id : str
        Where the last stroke was laid, if it was one.
    at : tuple of float
        Where it ended, as flat y and x of the ground.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    if not ground.isometric:
        return ""
    try:
        change = last_stroke(derived.document, ground)
    except BadRequest:
        return ""
    layer = ground.layer(change.layer)
    if not layer.holds_tiles:
        return ""
    atlas, top = derived.atlas(ground), top_below(derived, ground, layer, at)
    on_floor = top is None or top.height < ground.tile_height
    for below in ground.layers[: ground.layers.index(layer)]:
        if below.offset_y != layer.offset_y or not below.visible or not (below.holds_tiles or below.knits):
            continue
        for rect, before, after in change.parts:
            old, new = before.array(), after.array()
            laid = _reach(derived, ground, np.where(old != new, new, 0))
            codes = derived.knitted(ground_id).codes(below.id, rect)
            there = _reach(derived, ground, codes)
            inside = (laid[1] > ground.tile_height // 2) & (there[0] < -ground.overdrawn)
            floors = [code for code in np.unique(codes).tolist() if floor_height(atlas, code)]
            if (inside & np.where(np.isin(codes, floors), on_floor, there[0] <= laid[0])).any():
                return below.name
    return ""


def seen_on_top(derived: Derived, ground_id: str, at: Spot) -> Top | None:
    """What stands further down and was pointed at when the last stroke ended; the stroke lies on the ground behind it.

    Parameters
    ----------
    derived : Derived
    ground_id : str
        Where the last stroke was laid, if it was one.
    at : tuple of float
        Where it ended, as flat y and x of the ground.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    try:
        layer = ground.layer(last_stroke(derived.document, ground).layer)
    except BadRequest:
        return None
    return top_below(derived, ground, layer, at) if ground.isometric and layer.holds_tiles else None


def top_below(derived: Derived, ground: Ground, layer: Layer, at: Spot) -> Top | None:
    """The foremost upper face that is seen at a flat place, of what stands on a layer below that isn't moved aside."""
    for below in reversed(ground.layers[: ground.layers.index(layer)]):
        if below.visible and below.offset_x == layer.offset_x and (below.holds_tiles or below.knits):
            found = _top_at(derived, ground, below, at, round(layer.offset_y - below.offset_y))
            if found is not None:
                return found
    return None


def lifted(document: Document, ground_id: str, layer_id: str, by: int, *, alone: bool) -> str:
    """The layer for what comes to lie on top of what a layer lies on, so many pixels higher; returns its id.

    Parameters
    ----------
    document : Document
    ground_id, layer_id : str
    by : int
        In pixels.
    alone : bool
        Whether nothing else lies on the layer, so that it can be moved itself. If not, it is the next above it that
        lies so much higher, or one that is made.
    """
    ground = by_id(document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    wanted = {**where_it_lies(layer), "offset_y": layer.offset_y - by}
    if alone:
        change_layer(document, ground_id, layer_id, "lay on top", **wanted)
        return layer_id
    for one in ground.layers[ground.layers.index(layer) + 1 :]:
        if one.kind == layer.kind and one.visible and not one.locked and where_it_lies(one) == wanted:
            return one.id
    made = add_layer(document, ground_id, f"{layer.name[:70]} on top", kind=layer.kind, above=layer_id)
    change_layer(document, ground_id, made, "lay on top", stacking=layer.stacking, **wanted)
    return made


def lay_on_top(derived: Derived, ground_id: str, at: Spot) -> tuple[str, int]:
    """Lays the last stroke on top of what was pointed at, on the cells on which that stands.

    Its layer is lifted if nothing else lies there; if not, the stroke goes to another one (`lifted`).

    Parameters
    ----------
    derived : Derived
    ground_id : str
    at : tuple of float
        Where the stroke ended, as flat y and x of the ground.

    Returns
    -------
    layer_id : str
        Where the stroke lies now.
    height : int
        In pixels, above what it lies on.

    Raises
    ------
    BadRequest
        If the last step was no stroke, or nothing that stands was pointed at.
    """
    document = derived.document
    change = last_stroke(document, by_id(document.project.grounds, ground_id))
    top = seen_on_top(derived, ground_id, at)
    if top is None:
        raise BadRequest("The last stroke was laid on nothing that stands; point at the top of a wall to lay on it.")
    laid: Counter[int] = Counter()
    for _, before, after in change.parts:
        laid.update(after.array()[before.array() != after.array()].tolist())
    height = top.height - _overdrawn(derived, by_id(document.project.grounds, ground_id), laid)
    document.undo()
    with document.step("lay on top"):
        plane = document.state.planes[ground_id][change.layer][change.plane]
        onto = lifted(document, ground_id, change.layer, height, alone=not plane.unique().any())
        board = by_id(document.project.grounds, ground_id).board
        plane = document.state.planes[ground_id][onto][change.plane]
        for rect, before, after in change.parts:
            new = after.array()
            rows, columns = np.nonzero(before.array() != new)
            ys, xs = board.flat("cells", rows + rect.top, columns + rect.left)
            ys, xs = ys + top.by[0], xs + top.by[1]
            there = board.there("cells", ys, xs)
            if there.any():
                plane = _with(plane, *board.stored("cells", ys[there], xs[there]), new[rows, columns][there])
        document.put_planes("lay on top", ground_id, {onto: {change.plane: plane}})
    return onto, height


def _with(plane: Plane, rows: NDArray[np.intp], columns: NDArray[np.intp], values: NDArray[np.int32]) -> Plane:
    """A plane with numbers in some cells, one or more."""
    top, left = int(rows.min()), int(columns.min())
    rect = CellRect(top, left, int(rows.max()) + 1 - top, int(columns.max()) + 1 - left)
    laid = plane.read(rect).copy()
    laid[rows - top, columns - left] = values
    return plane.written(rect, laid)


def _top_at(derived: Derived, ground: Ground, layer: Layer, at: Spot, lift: int) -> Top | None:
    """The upper face on a layer that is seen at a flat place over another cell, the foremost; None if there is none.

    The layer lies `lift` pixels higher than the one on whose cells the place is.
    """
    knitted, projection = derived.knitted(ground.id), ground.projection
    x, y = projection.point(*at)
    seen = cell_of(at)
    highest = min(derived.atlas(ground).overhang.top + max(lift, 0), _FARTHEST * ground.tile_height)
    further = (projection.place(x, y + down) for down in range(highest, 0, -max(1, ground.tile_height // 8)))
    for cell in dict.fromkeys(ground.board.cell_at(*place) for place in further):
        if cell is None:
            continue
        height = lift + float(tops(derived.atlas(ground), knitted.codes(layer.id, CellRect(*cell, 1, 1)))[0, 0])
        if not ground.overdrawn < height < np.inf:
            continue
        stands = cell_of(projection.place(x, y + height))
        if stands != seen and ground.board.cell_at(*stands) == cell:
            return Top(layer, int(height), (stands[0] - seen[0], stands[1] - seen[1]))
    return None


def _reach(derived: Derived, ground: Ground, codes: NDArray[np.int32]) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """From where to where the art of tiles reaches, down from the upper borders of their cells; (0, 0) for none."""
    atlas = derived.atlas(ground)
    kinds, at = np.unique(codes, return_inverse=True)
    reach = np.zeros((len(kinds), 2), dtype=np.int32)
    for number, code in enumerate(kinds.tolist()):
        tile = derived.tile(derived.document.palette.ref(code & NUMBER_MASK)) if code > 0 else None
        rows = np.flatnonzero(tile[..., 3].any(axis=1)) if tile is not None else np.zeros(0, dtype=np.intp)
        if rows.size:
            sprites = atlas.ids(np.array([[code]], dtype=np.int32))  # first, as the atlas may grow by it
            top = int(atlas.tops[sprites].item())
            reach[number] = top + rows[0], top + rows[-1] + 1
    found = reach[at.reshape(codes.shape)]
    return found[..., 0], found[..., 1]


def _height_of(derived: Derived, ground: Ground, layer: Layer, below: Layer) -> int:
    """How far most tiles of a layer below stand out of their cells, first of all where the upper one holds some."""
    if not below.holds_tiles and not below.knits:
        return 0
    knitted = derived.knitted(ground.id)
    often: Counter[tuple[bool, int]] = Counter()
    laid: Counter[int] = Counter()
    for rows in ground.board.whole.bands(_ROWS):
        codes, on_top = (knitted.codes(one.id, rows) for one in (below, layer))
        there = -_reach(derived, ground, codes)[0]
        stands = there > ground.overdrawn
        often.update(zip((on_top[stands] > 0).tolist(), there[stands].tolist(), strict=True))
        laid.update(on_top[on_top > 0].tolist())
    if not often:
        return 0
    (_, height), _ = max(often.items(), key=lambda one: (one[0][0], one[1]))
    return height - _overdrawn(derived, ground, laid)


def _overdrawn(derived: Derived, ground: Ground, laid: Counter[int]) -> int:
    """By how much most flat tiles among some reach over their cells, as the face that they come to lie on may do."""
    often: Counter[int] = Counter()
    for code, many in ((code, many) for code, many in laid.items() if code > 0):
        over = -int(_reach(derived, ground, np.array([code], dtype=np.int32))[0][0])
        if 0 <= over <= ground.overdrawn:
            often[over] += many
    return often.most_common(1)[0][0] if often else 0
