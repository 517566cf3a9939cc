"""Draw items to pixels: the one place where layers are laid over one another.

The window, deliveries, thumbnails and the overview all ask for a rectangle of pixels of a scene at a scale. Layers are
drawn one after another, each on a clear sheet of its own that is then laid over the others; neighbouring layers that
are stacked by depth are drawn together, strip by strip from the back to the front.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from itertools import groupby
from typing import Any

import numpy as np

from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.grid.square import SquareProjection
from knitground.core.layers.items import ShadeItems, ThingItems, TileItems
from knitground.core.layers.layer import Layer
from knitground.core.layers.thing import Thing
from knitground.core.render.afar import from_afar
from knitground.core.render.atlas import Atlas
from knitground.core.render.layout import grids_of, layout_of
from knitground.core.render.pixels import Pixels, lay, lay_background, modulated, straight
from knitground.core.render.scale import Scale, pixels_per
from knitground.core.render.scene import Drawn, Scene
from knitground.core.render.shading import shade
from knitground.core.render.sprites import SpriteSheet, draw_flat, is_plain, reaching_into, tint_of
from knitground.core.render.things import foot_of, in_full, lay_thing, lay_things, placed, within

MOST_PIXELS = 2**28
_BAND_PIXELS = 2**20
_NOTHING = np.zeros((0, 0), dtype=np.int32)


def render(
    scene: Scene,
    area: PixelRect,
    scale: Scale = Scale(),
    *,
    below: Pixels | None = None,
) -> Pixels:
    """Pixels of a part of a scene.

    Parameters
    ----------
    scene : Scene
    area : PixelRect
        In pixels of the scale.
    scale : Scale
    below : (height, width, 4) uint8, optional
        What lies below the lowest layer; nothing if not given.

    Returns
    -------
    pixels : (height, width, 4) uint8
        RGBA, premultiplied alpha.
    """
    if scale.cells > 1:
        return from_afar(scene, area, scale)
    small = scene.projection.reduced(scale.level)
    canvas = np.zeros((area.height, area.width, 4), dtype=np.uint8) if below is None else below.copy()
    if scene.background is not None:
        lay_background(canvas, scene.background, area, small.size)
    left = None
    if scene.lights is not None and any(isinstance(one.items, ShadeItems) for one in scene.layers):
        across, down = pixels_per(scene.projection, scale)
        xs, ys = np.arange(area.x, area.right) + 0.5, np.arange(area.y, area.bottom) + 0.5
        left = scene.lights.left(xs * across, ys * down, scene.levels)
    for group in _groups(scene.layers):
        layer, items = group[0]
        if isinstance(items, ShadeItems):
            shade(canvas, layer, items, small, _moved(area, layer, scene, small), left)
        else:
            _lay_group(canvas, group, scene, small, area)
    return canvas


def picture(scene: Scene, name: str, progress: Callable[[float], None] = lambda share: None) -> Pixels:
    """The whole of a scene in full size.

    Parameters
    ----------
    name : str
        Of the ground, for messages.
    progress : callable, optional
        Told the share that is done; may raise to stop.

    Returns
    -------
    pixels : (height, width, 4) uint8
        RGBA, straight alpha.

    Raises
    ------
    BadRequest
        If the picture would be too large to hold.
    """
    check_size(scene.projection, name)
    width, height = scene.projection.size
    whole = np.empty((height, width, 4), dtype=np.uint8)
    band = max(1, _BAND_PIXELS // width)
    for top in range(0, height, band):
        part = PixelRect(0, top, width, min(band, height - top))
        whole[top : part.bottom] = straight(render(scene, part))
        progress(part.bottom / height)
    return whole


def check_size(projection: Projection, name: str) -> None:
    """Raises BadRequest where a ground of a name would be too large a picture to hold."""
    width, height = projection.size
    if height * width > MOST_PIXELS:
        raise BadRequest(
            f"{name} would be a picture of {width} x {height} pixels, and {MOST_PIXELS >> 20} megapixels is the "
            "most; deliver it as JSON instead, or make the ground smaller."
        )


def _groups(layers: Sequence[Drawn]) -> Iterator[list[Drawn]]:
    """Layers that are drawn together: neighbours that are stacked by depth, all others alone."""

    def key(numbered: tuple[int, Drawn]) -> Any:
        number, drawn = numbered
        return "depth" if drawn.layer.stands_in_depth else number

    for _, group in groupby(enumerate(layers), key):
        yield [drawn for _, drawn in group]


def _moved(area: PixelRect, layer: Layer, scene: Scene, small: Projection) -> PixelRect:
    """The part of a layer that shows in an area, given how far the layer is moved."""
    across = layer.offset_x * small.tile_width // scene.projection.tile_width
    down = layer.offset_y * small.tile_height // scene.projection.tile_height
    return area._replace(x=area.x - across, y=area.y - down)


def _lay_group(canvas: Pixels, group: list[Drawn], scene: Scene, small: Projection, area: PixelRect) -> None:
    if len(group) > 1:
        _draw_together(canvas, group, scene, small, area)
        return
    layer, items = group[0]
    if layer.opacity == 0:
        return
    if isinstance(items, ThingItems):
        lay_things(canvas, layer, items, scene.atlas, small, _moved(area, layer, scene, small))
        return
    assert isinstance(items, TileItems)  # the other verbs are dealt with before
    sheet, whole = _draw_alone(items, scene.atlas, small, _moved(area, layer, scene, small))
    if sheet is None:
        return
    if not is_plain(layer):
        sheet, whole = modulated(sheet, layer.opacity, tint_of(layer)), layer.opacity == 1 and whole
    lay(sheet, canvas, whole=whole)


def _draw_alone(items: TileItems, atlas: Atlas, small: Projection, area: PixelRect) -> tuple[Pixels | None, bool]:
    """A layer's pixels on a clear sheet, None where there are none; and whether none is half transparent."""
    seen = reaching_into(area, small, atlas)
    cells = small.cells_in(seen)
    codes = items.codes(cells) if not cells.is_empty else _NOTHING
    if not codes.any():
        return None, True
    sheet, ids = SpriteSheet(area, small, atlas), atlas.ids(codes)
    if isinstance(small, SquareProjection):
        inner = small.cells_in(area)
        filling = ids[inner.top - cells.top :, inner.left - cells.left :][: inner.height, : inner.width]
        if not atlas.all_fit:
            filling = np.where(atlas.fits[filling], filling, 0)
        if filling.any():
            sheet.dense(filling, inner.left * small.tile_width, inner.top * small.tile_height)
        # What does not fill its box is left; it may reach in from further off.
        ids = _NOTHING if atlas.all_fit else np.where(atlas.fits[ids], 0, ids)
    if ids.any():
        layout = layout_of(small, seen)
        mine = ids[layout.down, layout.across]
        if (atlas.flat[mine] & atlas.fits[mine]).all():
            draw_flat(sheet, mine, grids_of(small, seen), small)
        else:
            for strip, rows in zip(layout.strips, sheet.rows(mine, layout, None), strict=True):
                sheet.strip(rows, strip)
    return (None if sheet.empty else np.ascontiguousarray(sheet.inside(area))), sheet.whole


def _draw_together(canvas: Pixels, group: list[Drawn], scene: Scene, small: Projection, area: PixelRect) -> None:
    """Draws layers cell by cell and thing by thing from the back to the front, and lays the whole over the canvas."""
    sheet = SpriteSheet(area, small, scene.atlas)
    laid: list[tuple[float, int, Callable[[], None]]] = []
    for number, (layer, items) in enumerate(group):
        if layer.opacity == 0:
            continue
        part = _moved(area, layer, scene, small)
        if isinstance(items, ThingItems):
            laid += [(foot, number, draw) for foot, draw in _things(sheet, layer, items, scene, small, part)]
        else:
            assert isinstance(items, TileItems)  # nothing else is grouped
            laid += [(top, number, draw) for top, draw in _strips(sheet, layer, items, scene, small, part)]
    for _, _, draw in sorted(laid, key=lambda one: one[:2]):
        draw()
    if not sheet.empty:
        lay(
            np.ascontiguousarray(sheet.inside(area)),
            canvas,
            whole=sheet.whole and all(is_plain(d.layer) for d in group),
        )


def _strips(
    sheet: SpriteSheet, layer: Layer, items: TileItems, scene: Scene, small: Projection, part: PixelRect
) -> Iterator[tuple[float, Callable[[], None]]]:
    """The strips of a layer of tiles, each with how far down its boxes begin where the layer is not moved."""
    layout = layout_of(small, reaching_into(part, small, scene.atlas))
    if layout.cells.is_empty:
        return
    ids = scene.atlas.ids(items.codes(layout.cells))[layout.down, layout.across]
    if not ids.any():
        return
    across, down = sheet.of.x - part.x, sheet.of.y - part.y
    for strip, rows in zip(layout.strips, sheet.rows(ids, layout, layer), strict=True):
        if not rows:
            continue
        moved = strip._replace(left=strip.left + across, top=strip.top + down)
        # How far a layer is moved up is how high it lies: what comes before what goes by where its cells are.
        yield strip.top, partial(sheet.strip, rows, moved)


def _things(
    sheet: SpriteSheet, layer: Layer, items: ThingItems, scene: Scene, small: Projection, part: PixelRect
) -> Iterator[tuple[float, Callable[[], None]]]:
    """The sprites of a prop layer, each with how far down the box would begin in which it stands."""
    every = placed(items, scene.atlas)
    room = sheet.area._replace(x=sheet.area.x + part.x - sheet.of.x, y=sheet.area.y + part.y - sheet.of.y)
    last = -math.inf
    for number in within(every, in_full(part, small, scene.atlas)).tolist():
        thing = every.things[number]
        foot = foot_of(thing, scene.atlas, small) - small.tile_height
        # Where the order is by hand, nothing comes before what lies behind it.
        last = foot if items.by_foot else max(last, foot)
        yield last, partial(_draw_thing, sheet, thing, layer, scene, small, room)


def _draw_thing(
    sheet: SpriteSheet, thing: Thing, layer: Layer, scene: Scene, small: Projection, room: PixelRect
) -> None:
    if lay_thing(sheet.pixels, thing, scene.atlas, small, room, layer):
        sheet.empty = sheet.whole = False
