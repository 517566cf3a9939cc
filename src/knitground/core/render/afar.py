"""Grounds from afar, where a pixel stands for several cells."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.layers.items import ShadeItems, ThingItems, TileItems
from knitground.core.render.atlas import Overhang
from knitground.core.render.large import large_from_afar
from knitground.core.render.pixels import Pixels, modulated, over
from knitground.core.render.scale import Scale, pixels_per
from knitground.core.render.scene import Drawn, Scene
from knitground.core.render.shading import blended, multiply, tinted
from knitground.core.render.sprites import is_plain, tint_of
from knitground.core.render.things import things_from_afar

_SAMPLES = 2
_MOST_REACH = 8
_NOTHING = np.zeros((0, 0), dtype=np.int32)


def from_afar(scene: Scene, area: PixelRect, scale: Scale) -> Pixels:
    """A part of a scene of which each pixel stands for several cells: the mean of a few places spread over it."""
    across, down = pixels_per(scene.projection, scale)
    samples = (np.arange(_SAMPLES) + 0.5) / _SAMPLES
    xs = ((area.x + np.arange(area.width))[:, None] + samples).ravel() * across
    ys = ((area.y + np.arange(area.height))[:, None] + samples).ravel() * down
    # Of large tiles the middles of cells are looked at: on borders their lowest row would never be met.
    aside = 0.5 / scale.cells if scale.cells % (2 * _SAMPLES) == 0 else 0.0
    result = np.zeros((len(ys), len(xs), 4), dtype=np.uint8)
    if scene.background is not None:
        width, height = scene.projection.size
        there = ((ys >= 0) & (ys < height))[:, None] & ((xs >= 0) & (xs < width))
        result[there] = (*(int(scene.background[at : at + 2], 16) for at in (1, 3, 5)), 255)
    for drawn in scene.layers:
        if drawn.layer.opacity == 0:
            continue
        if isinstance(drawn.items, ThingItems):
            things_from_afar(result, drawn.layer, drawn.items, scene.atlas, xs, ys)
            continue
        flat_y, flat_x = np.broadcast_arrays(
            *scene.projection.place(xs[None, :] - drawn.layer.offset_x, ys[:, None] - drawn.layer.offset_y)
        )
        if isinstance(drawn.items, ShadeItems):
            _shade_from_afar(result, drawn, scene, (flat_y, flat_x), (xs, ys))
        else:
            assert isinstance(drawn.items, TileItems)  # by its verb
            x, y = xs - drawn.layer.offset_x, ys - drawn.layer.offset_y
            cells = _seen(scene, x, y, (aside * across, aside * down))
            codes = drawn.items.codes(cells) if not cells.is_empty else _NOTHING
            if not codes.any():
                continue
            large = scene.atlas.is_large(codes)
            sheet = _dots(codes if large is None else np.where(large, 0, codes), cells, scene, flat_y, flat_x)
            if large is not None:
                alone = np.where(large, codes, 0)
                large_from_afar(sheet, alone, cells, scene, x - aside * across, y - aside * down)
            if not is_plain(drawn.layer):
                sheet = modulated(sheet, drawn.layer.opacity, tint_of(drawn.layer))
            result = over(sheet, result)
    size = area.height, _SAMPLES, area.width, _SAMPLES, 4
    mean = result.reshape(size).sum(axis=(1, 3), dtype=np.uint16)
    return np.asarray((mean + _SAMPLES) // _SAMPLES**2, dtype=np.uint8)


def _seen(scene: Scene, xs: Any, ys: Any, aside: tuple[float, float]) -> CellRect:
    """The cells whose tiles may reach samples, or places a little to the left and above of them."""
    # Each cell more round about costs as much as one that is seen: what reaches in from further off is left out.
    most = _MOST_REACH * scene.projection.tile_width, _MOST_REACH * scene.projection.tile_height
    reach = Overhang(*(min(one, most[number % 2]) for number, one in enumerate(scene.atlas.overhang)))
    if scene.atlas.all_fit:
        aside = (0, 0)
    left, top = int(xs[0] - aside[0]) - reach.right, int(ys[0] - aside[1]) - reach.bottom
    right, bottom = int(xs[-1]) + 1 + reach.left, int(ys[-1]) + 1 + reach.top
    return scene.projection.cells_in(PixelRect(left, top, right - left, bottom - top))


def _dots(codes: NDArray[np.int32], cells: CellRect, scene: Scene, ys: Any, xs: Any) -> Pixels:
    """The mean colours of the tiles of the cells at samples."""
    rows, columns = scene.projection.board.stored("cells", np.floor(ys).astype(np.intp), np.floor(xs).astype(np.intp))
    rows, columns = rows - cells.top, columns - cells.left
    there = (rows >= 0) & (rows < cells.height) & (columns >= 0) & (columns < cells.width)
    picked = codes[np.where(there, rows, 0), np.where(there, columns, 0)]
    # First the sprites, which may come only now, then their colours.
    ids = scene.atlas.ids(np.where(there, picked, 0).astype(np.int32))
    return np.asarray(scene.atlas.means[ids])


def _shade_from_afar(canvas: Pixels, drawn: Drawn, scene: Scene, flat: tuple[Any, Any], at: tuple[Any, Any]) -> None:
    assert isinstance(drawn.items, ShadeItems)  # by its verb
    colours = blended(tinted(drawn.items, drawn.layer), scene.projection, *flat)
    if colours is not None:
        left = scene.lights.left(*at, scene.levels) if scene.lights is not None else None
        multiply(canvas, colours, drawn.layer.opacity, left)
