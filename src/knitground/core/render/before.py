"""What stands before a figure, and which shade lies on it."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.layers.items import DrawItems, ShadeItems, ThingItems, TileItems
from knitground.core.layers.layer import Layer
from knitground.core.render.compositor import render
from knitground.core.render.pixels import Pixels
from knitground.core.render.scale import Scale
from knitground.core.render.scene import Drawn, Scene


def before(scene: Scene, area: PixelRect, foot: float) -> Pixels:
    """What is drawn over a figure in an area, (h, w, 4) uint8 premultiplied.

    Parameters
    ----------
    scene : Scene
        All that shows of the ground.
    foot : float
        How far down the figure's foot is, in pixels of the ground.
    """
    kept = tuple(drawn for one in scene.layers if (drawn := _before(one, scene, foot)) is not None)
    return render(scene._replace(layers=kept, background=None), area, Scale())


def shade_at(scene: Scene, x: float, y: float) -> tuple[float, float, float]:
    """The colour by which a figure is multiplied that stands at a pixel of the ground."""
    shades = tuple(one for one in scene.layers if isinstance(one.items, ShadeItems))
    if not shades:
        return 1.0, 1.0, 1.0
    spot = PixelRect(int(x), int(y), 1, 1).inside(PixelRect(0, 0, *scene.projection.size))
    if spot.is_empty:
        return 1.0, 1.0, 1.0
    found = render(scene._replace(layers=shades, background="#ffffff"), spot, Scale())[0, 0]
    return tuple(float(part) / 255 for part in found[:3])  # type: ignore[return-value]


def _before(one: Drawn, scene: Scene, foot: float) -> Drawn | None:
    """What of a layer stands before a figure; None where nothing can."""
    layer, items = one
    if isinstance(items, ShadeItems):
        # It lies on what stands before the figure as on all else.
        return one
    if layer.stands == "under":
        return None
    if layer.stands == "over":
        return one
    if isinstance(items, ThingItems):
        things = tuple(thing for thing in items.things if thing.y + _moved_down(layer) > foot)
        return Drawn(layer, replace(items, things=things)) if things else None
    if layer.stands == "foot" or layer.stacking == "depth":
        return Drawn(layer, _lower(items, layer, scene, foot))
    return None


def _moved_down(layer: Layer) -> int:
    """How far feet lie lower on the screen than their cells; what is stacked by depth is only higher or less high."""
    return 0 if layer.stacking == "depth" else layer.offset_y


def _lower(items: TileItems, layer: Layer, scene: Scene, foot: float) -> DrawItems:
    """The tiles of a layer whose foot is lower on the screen than a figure's.

    Where cells have slanted sides, a figure stands on what lies flat in its cell, however far down that reaches.
    """
    projection, atlas = scene.projection, scene.atlas
    lies = atlas.outline != "box" and layer.offset_y >= 0

    def codes(cells: CellRect) -> NDArray[np.int32]:
        """Cell codes of a rectangle.

        Parameters
        ----------
        cells : CellRect

        Returns
        -------
        codes : (height, width) int32
        """
        found = items.codes(cells).copy()
        for row in range(cells.height):
            for column in range(cells.width):
                bottom = projection.corner(cells.top + row, cells.left + column)[1] + projection.tile_height
                if bottom + _moved_down(layer) <= foot:
                    found[row, column] = 0
        if lies:
            found[atlas.flat[atlas.ids(found)]] = 0
        return found

    return TileItems(codes)
