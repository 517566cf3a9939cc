"""The upper faces of what stands on an isometric ground: what one stands on, and how high that is."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground, overdrawn
from knitground.core.render.atlas import Atlas
from knitground.core.render.cell_outline import within
from knitground.core.render.scene import Shown

_FACE = 0.8
"""So much of the diamond that a tile begins with is drawn on, if one can stand there."""

_FARTHEST = 16
"""So many cells high is what is looked for at most."""


def upper_face(atlas: Atlas, code: int) -> int:
    """How far a tile stands out of its cell if it is flat on top, so that something can lie there; else 0.

    Parameters
    ----------
    atlas : Atlas
        Of an isometric ground.
    code : int
        As in a cell.

    Returns
    -------
    height : int
        In pixels.
    """
    if code <= 0:
        return 0
    sprite, left, top = atlas.sprite(code)
    rows = np.flatnonzero(sprite[..., 3].any(axis=1))
    height = -top - int(rows[0]) if rows.size else 0
    if height <= overdrawn(atlas.tile_height):
        return 0
    box = np.zeros((atlas.tile_height, atlas.tile_width), dtype=bool)
    drawn = sprite[rows[0] : rows[0] + atlas.tile_height, max(0, -left) :, 3] > 0
    part = box[: drawn.shape[0], max(0, left) :]
    part[:, : drawn.shape[1]] = drawn[:, : part.shape[1]]
    return height if box[within(atlas.outline, *box.shape)].mean() >= _FACE else 0


def floor_height(atlas: Atlas, code: int) -> int:
    """How high a tile is if it is a block that a floor may be made of: flat on top and lower than its cell; else 0."""
    height = upper_face(atlas, code)
    return height if height < atlas.tile_height else 0


def tops(atlas: Atlas, codes: NDArray[np.int32]) -> NDArray[np.float64]:
    """How high tiles are on which one can stand: 0 where they lie flat in their cells; infinity for all else."""
    kinds, which = np.unique(codes, return_inverse=True)
    sprites = atlas.ids(kinds[None])[0]  # first, as the atlas may grow by it
    lies = zip(kinds.tolist(), (atlas.flat[sprites] & (kinds > 0)).tolist(), strict=True)
    heights = [0 if low else upper_face(atlas, code) or np.inf for code, low in lies]
    return np.array(heights, dtype=np.float64)[which].reshape(codes.shape)


def height_at(shown: Shown, atlas: Atlas, x: float, y: float) -> int:
    """How high lies what one stands on at a pixel of a ground: on a quay, on the floor that lies on it, and so on.

    What lies higher than one could have come to stand on it, as a roof does, is overhead.
    """
    ground: Ground = shown.ground
    cell = ground.board.cell_at(*ground.projection.place(x, y)) if ground.isometric else None
    height = 0
    for layer in ground.layers if cell is not None else ():
        there = layer.visible and (layer.holds_tiles or layer.knits) and -layer.offset_y - height <= ground.overdrawn
        if cell is None or not there:
            continue
        top = tops(atlas, shown.codes(layer.id, CellRect(*cell, 1, 1)))[0, 0]
        height = int(max(height, top - layer.offset_y)) if np.isfinite(top) else height
    return height


def seen_at(shown: Shown, atlas: Atlas, x: float, y: float) -> int:
    """How high lies what is seen at a pixel of a ground, if one can stand there: the foremost face that reaches it.

    Its place on the ground is so many pixels further down.
    """
    if not shown.ground.isometric:
        return 0
    highest = min(atlas.overhang.top, _FARTHEST * atlas.tile_height)
    # Only cells that the line down hardly touches are passed by.
    steps = range(0, highest + atlas.tile_height, max(1, atlas.tile_height // 8))
    heights = sorted({height_at(shown, atlas, x, y + far) for far in steps}, reverse=True)
    return next((far for far in heights if height_at(shown, atlas, x, y + far) == far), 0)
