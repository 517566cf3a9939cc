"""Shades: they colour what lies below."""

from collections.abc import Iterator
from typing import cast

from knitground.core.grid.projection import PixelRect
from knitground.core.layers.items import ShadeItems
from knitground.core.render.pixels import Pixels
from knitground.core.render.scene import Drawn, Scene
from knitground.core.render.shading import blended, multiply, shade, tinted
from knitground.core.render.sprites import SpriteSheet
from knitground.core.render.verbs.verb import Piece, Samples, View


class Shades:
    """How they become pixels."""

    shades = True

    def lay(self, canvas: Pixels, drawn: Drawn, view: View, part: PixelRect) -> None:
        shade(canvas, drawn.layer, _items(drawn), view.small, part, view.left())

    def pieces(self, sheet: SpriteSheet, drawn: Drawn, view: View, part: PixelRect) -> Iterator[Piece]:
        # What shades all below has no place among what stands in depth (`Layer.stands_in_depth`).
        return iter(())

    def lay_from_afar(self, canvas: Pixels, drawn: Drawn, samples: Samples) -> None:
        scene = samples.scene
        colours = blended(tinted(_items(drawn), drawn.layer), scene.projection, *samples.flat(drawn))
        if colours is not None:
            left = scene.lights.left(samples.xs, samples.ys, scene.levels) if scene.lights is not None else None
            multiply(canvas, colours, drawn.layer.opacity, left)

    def before(self, drawn: Drawn, scene: Scene, foot: float, height: int) -> Drawn | None:
        # It lies on what stands before the figure as on all else.
        return drawn


def _items(drawn: Drawn) -> ShadeItems:
    return cast(ShadeItems, drawn.items)
