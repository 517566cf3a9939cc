"""The layers of a ground as pictures of their own, as layered formats hold them.

Laid over one another by their opacities they give the ground. Neighbouring layers that are drawn together by depth
can't be told apart by pictures, and are one part.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import groupby
from typing import NamedTuple

import numpy as np

from knitground.core.deliver.exporter import Order
from knitground.core.deliver.pictures import scene_on
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.layer import Layer
from knitground.core.render.compositor import render
from knitground.core.render.pixels import Pixels, straight


class Part(NamedTuple):
    """A picture of one or more layers.

    Attributes
    ----------
    group : str
        The groups that it lies in, from the outermost, with slashes between.
    opacity : float
    multiplies : bool
        Whether it is a shade over what lies below.
    visible : bool
    x, y : int
        Where the picture begins on the ground.
    pixels : (H, W, 4) uint8
        Straight alpha; without any that are clear round it.
    """

    name: str
    group: str
    opacity: float
    multiplies: bool
    visible: bool
    x: int
    y: int
    pixels: Pixels


def parts_of(order: Order, layers: Sequence[Layer]) -> Iterator[Part]:
    """The parts of a ground, the lowest first; those with nothing on them are empty pictures of one pixel.

    Raises
    ------
    BadRequest
        If the ground is too large a picture.
    """
    ground = order.derived.knitted(order.ground_id).ground
    whole = PixelRect(0, 0, *ground.projection.size)
    below = np.zeros((whole.height, whole.width), dtype=np.uint8)
    for done, mine in enumerate(groups := together(layers)):
        first = mine[0]
        shade = first.shades_below
        plain = [replace(layer, opacity=1.0) if len(mine) == 1 and not shade else layer for layer in mine]
        scene = scene_on(order, plain)
        if shade:
            white = np.full((whole.height, whole.width, 4), 255, dtype=np.uint8)
            pixels = render(scene, whole, below=white)
            # Where nothing lies below there is nothing to be shaded.
            pixels[..., 3] = below
        else:
            pixels = straight(render(scene, whole))
        if first.visible and not shade:
            below = np.maximum(below, pixels[..., 3])
        x, y, cropped = _cropped(pixels)
        opacity = first.opacity if len(mine) == 1 and not shade else 1.0
        name = " + ".join(layer.name for layer in mine)
        yield Part(name, first.group, opacity, shade, first.visible, x, y, cropped)
        order.progress(0.9 * (done + 1) / len(groups))


def together(layers: Sequence[Layer]) -> list[list[Layer]]:
    """Layers in the parts that they are drawn in: neighbours in depth together, others alone."""

    def key(numbered: tuple[int, Layer]) -> object:
        number, layer = numbered
        return ("depth", layer.visible, layer.group) if layer.stands_in_depth else number

    return [[layer for _, layer in some] for _, some in groupby(enumerate(layers), key)]


def _cropped(pixels: Pixels) -> tuple[int, int, Pixels]:
    """What of a picture is not clear, and where that begins."""
    rows, columns = np.flatnonzero(pixels[..., 3].any(axis=1)), np.flatnonzero(pixels[..., 3].any(axis=0))
    if not len(rows):
        return 0, 0, np.zeros((1, 1, 4), dtype=np.uint8)
    top, left = int(rows[0]), int(columns[0])
    return left, top, np.ascontiguousarray(pixels[top : rows[-1] + 1, left : columns[-1] + 1])
