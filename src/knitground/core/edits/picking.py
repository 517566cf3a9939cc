"""Picking off the ground what one sees, which may stand in another cell than the one pointed at."""

import math
from collections.abc import Sequence

import numpy as np

from knitground.core.edits.painting import Hand, Picked, Spot, pick
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT


def pick_seen(derived: Derived, ground_id: str, layer_id: str, hand: Hand, at: Spot) -> Picked | None:
    """What is seen at a place: of a layer of single tiles the tile in front, of that layer or else of all such layers.

    A tile that is larger than its cell is met wherever it shows, and not in its cell alone.

    Parameters
    ----------
    derived : Derived
    ground_id, layer_id : str
    hand : Hand
    at : (float, float)
        Flat row and column, as the layer shows them.

    Returns
    -------
    picked : Picked or None
        None if nothing lies there.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    if layer.holds_tiles and not derived.atlas(ground).all_fit:
        x, y = ground.projection.point(*at)
        seen = math.floor(x) + layer.offset_x, math.floor(y) + layer.offset_y
        others = [one for one in ground.layers if one.holds_tiles and one.visible]
        for some in ([layer], others):
            found = _in_front(derived, ground, some, seen)
            if found is not None:
                return found
    return pick(derived.document, ground_id, layer_id, hand, at)


def _in_front(derived: Derived, ground: Ground, layers: Sequence[Layer], seen: tuple[int, int]) -> Picked | None:
    """The tile of some layers that is drawn last at a pixel of the ground; None if all are clear there."""
    (x, y), atlas, projection, best = seen, derived.atlas(ground), ground.projection, None
    group, together = -1, False
    for number, layer in enumerate(ground.shown()):
        # Neighbours that are stacked by depth are drawn together, from the back to the front.
        group, together = group if together and layer.stands_in_depth else group + 1, layer.stands_in_depth
        if layer not in layers:
            continue
        pixel = PixelRect(x - layer.offset_x, y - layer.offset_y, 1, 1)
        left, top, right, bottom = atlas.overhang
        cells = projection.cells_in(pixel.grown(right, bottom, left, top))
        if cells.is_empty:
            continue
        codes = derived.document.state.planes[ground.id][layer.id][layer.area_plane].read(cells)
        for row, column in np.argwhere(codes > 0).tolist():
            code = int(codes[row, column])
            sprite, over_x, over_y = atlas.sprite(code)
            box_x, box_y = projection.corner(cells.top + row, cells.left + column)
            across, down = pixel.x - box_x - over_x, pixel.y - box_y - over_y
            if not (0 <= down < sprite.shape[0] and 0 <= across < sprite.shape[1] and sprite[down, across, 3]):
                continue
            order = group, box_y, number, box_x
            if best is None or order >= best[0]:
                best = order, Picked(layer.id, derived.document.palette.ref(code & NUMBER_MASK),
                                     code >> ORIENTATION_SHIFT)  # fmt: skip
    return None if best is None else best[1]
