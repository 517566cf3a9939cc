"""The mend for the commonest slip: the last stroke was laid on the wrong layer."""

from collections.abc import Collection
from functools import cache, partial
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.layers import add_layer, change_layer, duplicate_layer
from knitground.core.edits.painting import check_unlocked
from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer
from knitground.core.project.delta import PlaneChange
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.render.atlas import Atlas
from knitground.core.render.cell_outline import covers, meet_little
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

Loss = Literal["ground", "beside"]
_CODE_BITS = 32
_FEW_PAIRS = 16
"""In so many ways at most one tile comes in place of another where walls are laid."""
MOST_LOOKED_AT = 2**20
"""How many cells there is time to look at after a stroke."""
_NO_STROKE = "The last step was no stroke on this ground, so there is nothing to move; undo it with Ctrl+Z."


def move_last_stroke(document: Document, ground_id: str, onto: str) -> None:
    """Takes the last stroke off its layer and lays it on another one, as one step.

    Raises
    ------
    BadRequest
        If the last step was no stroke on one layer of the ground, or the other layer can't take it.
    """
    ground = by_id(document.project.grounds, ground_id)
    change = last_stroke(document, ground)
    source, target = ground.layer(change.layer), ground.layer(onto)
    _check(document, source, target, change)
    planes = document.state.planes[ground_id]
    back = change.inverse.applied(planes[source.id][change.plane])
    laid = planes[target.id][target.area_plane]
    for rect, before, after in change.parts:
        old, new = before.array(), after.array()
        laid = laid.written(rect, np.where(old != new, new, laid.read(rect)).astype(laid.dtype))
    assert back is not None  # a stroke changes parts of a plane that stays
    changed: dict[str, dict[str, Plane]] = {source.id: {change.plane: back}, target.id: {target.area_plane: laid}}
    document.put_planes(f"move the stroke to {target.name}", ground_id, changed)


def lay_above(document: Document, ground_id: str, over: str | None = None) -> str:
    """Moves the last stroke to the next layer of single tiles above its own, made where there is none; returns its id.

    A layer that lies elsewhere, as one of roofs does, is none such; where it has to be above yet another, `over` names
    that.

    Raises
    ------
    BadRequest
        If the last step was no stroke on a layer of single tiles.
    """
    ground = by_id(document.project.grounds, ground_id)
    source = ground.layer(last_stroke(document, ground).layer)
    if not source.holds_tiles:
        raise BadRequest(f"“{source.name}” holds no single tiles; what is knit there has its ground with it.")
    lowest = source if over is None else ground.layer(over)
    place = ground.layers.index(lowest)
    above = next((one for one in ground.layers[place + 1 :] if _takes_over(one, source)), None)
    if above is not None:
        move_last_stroke(document, ground_id, above.id)
        return above.id
    # The step that is moved has to stay the last one.
    label = document.undo_label or "draw"
    change = last_stroke(document, ground)
    document.undo()
    with document.step(label):
        made = add_layer(document, ground_id, f"{source.name[:70]} above", above=lowest.id)
        change_layer(document, ground_id, made, label, **where_it_lies(source))
        target = by_id(document.project.grounds, ground_id).layer(made)
        laid = document.state.planes[ground_id][made][target.area_plane]
        for rect, before, after in change.parts:
            old, new = before.array(), after.array()
            laid = laid.written(rect, np.where(old != new, new, laid.read(rect)).astype(laid.dtype))
        document.put_planes(label, ground_id, {made: {target.area_plane: laid}})
    return made


def _takes_over(above: Layer, source: Layer) -> bool:
    """Whether single tiles may lie on another layer right where they did."""
    return above.holds_tiles and above.visible and not above.locked and where_it_lies(above) == where_it_lies(source)


def where_it_lies(layer: Layer) -> dict[str, float]:
    """How far a layer is moved on the screen, and how fast it moves with the view."""
    return {name: getattr(layer, name) for name in ("offset_x", "offset_y", "parallax_x", "parallax_y")}


def part_layer(document: Document, ground_id: str, layer_id: str, tiles: Collection[TileRef]) -> str:
    """Moves some of a layer's single tiles to a new one right above it, stacked by depth, as one step; returns its id.

    Raises
    ------
    BadRequest
        If the layer holds none of them, or is locked.
    """
    layer = by_id(document.project.grounds, ground_id).layer(layer_id)
    check_unlocked(layer)
    plane = document.state.planes[ground_id][layer_id][layer.area_plane]
    numbers = [document.palette.number(ref) for ref in tiles]

    def without(codes: NDArray[np.int32], moved: bool) -> NDArray[np.int32]:
        return np.where(np.isin(codes & NUMBER_MASK, numbers) == moved, codes * 0, codes)

    kept, apart = (plane.mapped(partial(without, moved=moved)) for moved in (True, False))
    if not layer.holds_tiles or kept == plane:
        raise BadRequest(f"Nothing on “{layer.name}” is to be moved.")
    label = "put on a layer of its own"
    with document.step(label):
        made = duplicate_layer(document, ground_id, layer_id, "upright")
        change_layer(document, ground_id, made, label, stacking="depth")
        changed = {layer_id: {layer.area_plane: kept}, made: {layer.area_plane: apart}}
        document.put_planes(label, ground_id, changed)
    return made


def taken_away(derived: Derived, ground_id: str) -> Loss | None:
    """What the last stroke took away that is seldom meant to go.

    Returns
    -------
    loss : "ground", "beside" or None
        "ground" if it put tiles that leave parts of their cells clear in place of such that cover them; "beside" if in
        place of such that lie elsewhere in the cell, as thin walls do on two sides of it.
    """
    document = derived.document
    ground = by_id(document.project.grounds, ground_id)
    change = stroke_at_hand(document, ground)
    if change is None:
        return None
    reached = sum(part.rect.width * part.rect.height for part in change.parts)
    if not ground.layer(change.layer).holds_tiles or reached > MOST_LOOKED_AT:
        return None
    whole = cache(lambda code: code_covers(derived, ground, code))
    beside = False
    for _, before, after in change.parts:
        old, new = before.array(), after.array()
        differs = (old & NUMBER_MASK != new & NUMBER_MASK) & (old > 0) & (new > 0)
        # Many times as quick as to look for different pairs of numbers.
        pairs = np.unique(old[differs].astype(np.int64) << _CODE_BITS | new[differs])
        for pair in pairs.tolist():
            one, other = pair >> _CODE_BITS, pair & ((1 << _CODE_BITS) - 1)
            if whole(one) and not whole(other):
                return "ground"
            # What is strewn over others in many ways is meant to go.
            if not beside and len(pairs) <= _FEW_PAIRS and not whole(other):
                beside = _side_by_side(derived.atlas(ground), one, other)
    return "beside" if beside else None


def _side_by_side(atlas: Atlas, one: int, other: int) -> bool:
    """Whether what two codes lay has room in one cell together."""
    (mine, left, top), (theirs, x, y) = atlas.sprite(one), atlas.sprite(other)
    return meet_little((mine[..., 3], left, top), (theirs[..., 3], x, y))


def code_covers(derived: Derived, ground: Ground, code: int) -> bool:
    """Whether what a code lays leaves no part of its cell clear."""
    atlas = derived.atlas(ground)
    sprite, left, top = atlas.sprite(code)
    return covers(sprite[..., 3], left, top, atlas.outline, (ground.tile_height, ground.tile_width))


def last_stroke(document: Document, ground: Ground) -> PlaneChange:
    """What the last step changed on a ground; raises BadRequest if that was no stroke on one of its layers."""
    steps = document.history.done
    changes = steps[-1].delta.planes if steps else ()
    if len(changes) != 1 or changes[0].ground != ground.id or changes[0].whole or steps[-1].delta.fields:
        raise BadRequest(_NO_STROKE)
    return changes[0]


def stroke_at_hand(document: Document, ground: Ground) -> PlaneChange | None:
    """What the last step changed on a ground; None if that was no stroke there."""
    try:
        return last_stroke(document, ground)
    except BadRequest:
        return None


def _check(document: Document, source: Layer, target: Layer, change: PlaneChange) -> None:
    if source.id == target.id:
        raise BadRequest(f"The last stroke lies on “{target.name}” already; choose the layer that it should lie on.")
    for layer in (source, target):
        check_unlocked(layer)
    mine, other = source.specs[change.plane], target.specs.get(target.area_plane)
    if other is None or (mine.on, mine.codes) != (other.on, other.codes) or not target.takes_areas:
        raise BadRequest(f"“{target.name}” is of another kind than “{source.name}”, so it can't take the stroke.")
    highest = max(int(part.after.array().max(initial=0)) for part in change.parts)
    if not mine.codes and highest > len(target.terrains(document.project)):
        raise BadRequest(f"“{target.name}” has no terrain number {highest}, so it can't take the stroke.")
