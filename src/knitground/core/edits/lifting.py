"""Layers that lie on top of what stands on another: roofs on walls, a second storey."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.layers import change_layer
from knitground.core.edits.relaying import last_stroke
from knitground.core.errors import BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived
from knitground.core.tiles.tile import NUMBER_MASK

_ROWS = 128


def lift_onto(derived: Derived, ground_id: str, layer_id: str) -> int:
    """Moves a layer up by as much as most tiles of the next layer below stand out of their cells.

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
        height = _height_of(derived, ground_id, below)
        if height:
            change_layer(
                derived.document, ground_id, layer_id, "lay on top",
                offset_x=below.offset_x, offset_y=below.offset_y - height,
            )  # fmt: skip
            return height
    raise BadRequest("Nothing stands out of its cells on the layers below; lay walls there first.")


def stands_inside(derived: Derived, ground_id: str) -> str:
    """The name of a layer inside of whose tiles those of the last stroke stand, hidden by them; empty if none.

    Parameters
    ----------
    derived : Derived
    ground_id : str
        Where the last stroke was laid, if it was one.
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
    for below in ground.layers[: ground.layers.index(layer)]:
        if below.offset_y != layer.offset_y or not below.visible or not (below.holds_tiles or below.knits):
            continue
        for rect, before, after in change.parts:
            old, new = before.array(), after.array()
            laid = _reach(derived, ground, np.where(old != new, new, 0))
            there = _reach(derived, ground, derived.knitted(ground_id).codes(below.id, rect))
            on_the_floor = laid[1] > ground.tile_height // 2
            if (on_the_floor & (there[0] <= -ground.tile_height // 4) & (there[0] <= laid[0])).any():
                return below.name
    return ""


def _reach(derived: Derived, ground: Ground, codes: NDArray[np.int32]) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """From where to where the art of tiles reaches, down from the upper borders of their cells; (0, 0) for none."""
    atlas = derived.atlas(ground)
    kinds, at = np.unique(codes, return_inverse=True)
    reach = np.zeros((len(kinds), 2), dtype=np.int32)
    for number, code in enumerate(kinds.tolist()):
        tile = derived.tile(derived.document.palette.ref(code & NUMBER_MASK)) if code > 0 else None
        rows = np.flatnonzero(tile[..., 3].any(axis=1)) if tile is not None else np.zeros(0, dtype=np.intp)
        if rows.size:
            top = int(atlas.tops[atlas.ids(np.array([[code]], dtype=np.int32))[0]].item())
            reach[number] = top + rows[0], top + rows[-1] + 1
    found = reach[at.reshape(codes.shape)]
    return found[..., 0], found[..., 1]


def _height_of(derived: Derived, ground_id: str, layer: Layer) -> int:
    """How far most tiles of a layer that stand out of their cells do so; 0 if none does."""
    if not layer.holds_tiles and not layer.knits:
        return 0
    knitted = derived.knitted(ground_id)
    ground, atlas = knitted.ground, derived.atlas(knitted.ground)
    for top in range(0, ground.height, _ROWS):
        rows = CellRect(top, 0, min(_ROWS, ground.height - top), ground.width)
        codes, counts = np.unique(knitted.codes(layer.id, rows), return_counts=True)
        heights = np.where(codes > 0, -atlas.tops[atlas.ids(codes[np.newaxis])[0]], 0)
        if (heights > 0).any():
            return int(heights[np.argmax(np.where(heights > 0, counts, 0))])
    return 0
