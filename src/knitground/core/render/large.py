"""Tiles that are much larger than their cells, from afar: a dot in their cell would make woods of lawns.

Where a pixel stands for several cells, it is the mean of a few samples (`knitground.core.render.afar`). Each sample
asks the cells round about whether a large tile of theirs reaches it, from the back to the front.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.layers.items import TileItems
from knitground.core.render.atlas import Atlas
from knitground.core.render.pixels import Pixels, over
from knitground.core.render.scene import Scene

_MOST_AROUND = 256
"""Cells round about that are asked at the most; what reaches further is cut off there."""


def large_from_afar(sheet: Pixels, items: TileItems, scene: Scene, xs: Any, ys: Any) -> None:
    """Lays the large tiles of a layer over samples of its others.

    Parameters
    ----------
    sheet : (H, W, 4) uint8
        Premultiplied alpha; changed in place.
    items : TileItems
        What the layer holds.
    scene : Scene
    xs : (W,) float64
        Where the samples lie, in pixels of the layer in full size.
    ys : (H,) float64
    """
    atlas, projection = scene.atlas, scene.projection
    if atlas.all_fit:
        return
    reach, board = atlas.overhang, projection.board
    left, top = int(xs.min()) - reach.right, int(ys.min()) - reach.bottom
    right, bottom = int(xs.max()) + 1 + reach.left, int(ys.max()) + 1 + reach.top
    cells = projection.cells_in(PixelRect(left, top, right - left, bottom - top))
    if cells.is_empty or not (found := atlas.large[atlas.ids(codes := items.codes(cells))]).any():
        return
    flat_y, flat_x = (
        np.floor(flat).astype(np.intp) for flat in np.broadcast_arrays(*projection.place(xs[None, :], ys[:, None]))
    )
    for step_y, step_x in _steps(projection, atlas):
        rows, columns = board.stored("cells", flat_y + step_y, flat_x + step_x)
        at = rows - cells.top, columns - cells.left
        there = (at[0] >= 0) & (at[0] < cells.height) & (at[1] >= 0) & (at[1] < cells.width)
        there[there] = found[at[0][there], at[1][there]]
        if not there.any():
            continue
        ids = atlas.ids(codes[at[0][there], at[1][there]][None])[0]
        box_x, box_y = projection.corner(rows[there], columns[there])
        sample_y, sample_x = np.nonzero(there)
        colours = atlas.part_of(ids, ys[sample_y] - box_y, xs[sample_x] - box_x)
        sheet[there] = over(colours, sheet[there])


def _steps(projection: Projection, atlas: Atlas) -> NDArray[np.intp]:
    """From a sample's cell to all whose tiles may reach the sample, in flat places, from the back to the front."""
    wide, high = atlas.tile_width, atlas.tile_height
    reach = atlas.overhang
    size = 1 + max((reach.left + reach.right) // wide, (reach.top + reach.bottom) * 2 // high)
    around = np.arange(-size, size + 1)
    steps = np.stack([one.ravel() for one in np.meshgrid(around, around, indexing="ij")], axis=1)
    # Cells stand in a lattice: wherever one begins, the same step leads as far on the screen.
    rows, columns = projection.board.stored("cells", 2 * size + steps[:, 0], 2 * size + steps[:, 1])
    own = projection.corner(*projection.board.stored("cells", np.intp(2 * size), np.intp(2 * size)))
    across, down = (np.asarray(one) - mine for one, mine in zip(projection.corner(rows, columns), own, strict=True))
    near = (across > -wide - reach.right - 1) & (across < wide + reach.left + 1)
    near &= (down > -high - reach.bottom - 1) & (down < high + reach.top + 1)
    order = np.lexsort((across[near], down[near]))
    return np.asarray(steps[near][order][-_MOST_AROUND:], dtype=np.intp)
