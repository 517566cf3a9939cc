"""Draw items to pixels: the one place where layers are laid over one another.

The window, deliveries, thumbnails and the overview all ask for a rectangle of pixels of a scene at a scale. Layers are
drawn one after another, each on a clear sheet of its own that is then laid over the others; neighbouring layers that
are stacked by depth are drawn together, strip by strip from the back to the front.
"""

from collections.abc import Callable, Iterator, Sequence
from functools import cache, partial
from itertools import groupby
from typing import Any

import numpy as np

from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.layers.layer import Layer
from knitground.core.render.afar import from_afar
from knitground.core.render.pixels import Pixels, lay, lay_background, straight
from knitground.core.render.scale import Scale, pixels_per
from knitground.core.render.scene import Drawn, Scene
from knitground.core.render.shading import Colours
from knitground.core.render.sprites import SpriteSheet, is_plain
from knitground.core.render.verbs import verb_of
from knitground.core.render.verbs.verb import View

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
    view = View(scene, small, area, cache(partial(_left, scene, area, scale)))
    for group in _groups(scene.layers):
        _lay_group(canvas, group, view)
    return canvas


def _left(scene: Scene, area: PixelRect, scale: Scale) -> Colours | None:
    """How much of the shade lights leave in an area, (height, width, 3) float32; None where there are none."""
    if scene.lights is None:
        return None
    across, down = pixels_per(scene.projection, scale)
    xs, ys = np.arange(area.x, area.right) + 0.5, np.arange(area.y, area.bottom) + 0.5
    return scene.lights.left(xs * across, ys * down, scene.levels)


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


def _moved(layer: Layer, view: View) -> PixelRect:
    """The part of a layer that shows in a view, given how far the layer is moved."""
    area, small, full = view.area, view.small, view.scene.projection
    across = layer.offset_x * small.tile_width // full.tile_width
    down = layer.offset_y * small.tile_height // full.tile_height
    return area._replace(x=area.x - across, y=area.y - down)


def _lay_group(canvas: Pixels, group: list[Drawn], view: View) -> None:
    if len(group) > 1:
        _draw_together(canvas, group, view)
    elif group[0].layer.opacity > 0:
        verb_of(group[0]).lay(canvas, group[0], view, _moved(group[0].layer, view))


def _draw_together(canvas: Pixels, group: list[Drawn], view: View) -> None:
    """Draws layers cell by cell and thing by thing from the back to the front, and lays the whole over the canvas."""
    sheet = SpriteSheet(view.area, view.small, view.scene.atlas)
    laid: list[tuple[float, int, Callable[[], None]]] = []
    for number, drawn in enumerate(group):
        if drawn.layer.opacity > 0:
            pieces = verb_of(drawn).pieces(sheet, drawn, view, _moved(drawn.layer, view))
            laid += [(top, number, draw) for top, draw in pieces]
    for _, _, draw in sorted(laid, key=lambda one: one[:2]):
        draw()
    if not sheet.empty:
        lay(
            np.ascontiguousarray(sheet.inside(view.area)),
            canvas,
            whole=sheet.whole and all(is_plain(d.layer) for d in group),
        )
