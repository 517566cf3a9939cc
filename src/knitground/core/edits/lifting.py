"""Layers that lie on top of what stands on another: roofs on walls, a second storey."""

import numpy as np

from knitground.core.edits.layers import change_layer
from knitground.core.errors import BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import by_id
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived

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
