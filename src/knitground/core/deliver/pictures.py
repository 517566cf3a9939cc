"""What all formats that hold pictures share: their scene, their scale, and what lies behind."""

from collections.abc import Sequence
from typing import Annotated

import numpy as np
from pydantic import Field

from knitground.core.deliver.exporter import Order
from knitground.core.errors import BadRequest
from knitground.core.layers.layer import Layer
from knitground.core.render.compositor import MOST_PIXELS, check_size
from knitground.core.render.pixels import Pixels, premultiplied, straight
from knitground.core.render.scene import Scene, without_gaps

LARGEST_SCALE = 8

Scale = Annotated[
    int, Field(title="Scale", description="pixels of the picture for each of the ground's", ge=1, le=LARGEST_SCALE)
]
Background = Annotated[
    str,
    Field(
        title="Background",
        description="“ground” for the ground's own, “clear”, or a colour such as #ff8800",
        pattern=r"^(ground|clear|#[0-9a-f]{6})$",
    ),
]


def scene_on(order: Order, layers: Sequence[Layer] | None = None) -> Scene:
    """The scene of a ground as it is delivered; of some of its layers, without a background, if they are given."""
    # Before the sprites are made ready, which takes long for tiles that are far too large.
    knitted = order.derived.knitted(order.ground_id)
    check_size(knitted.ground.projection, knitted.ground.name)
    return order.derived.scene(knitted, layers, exchange=lambda codes, cells: without_gaps(codes))


def check_scale(order: Order, scale: int) -> None:
    """Raises BadRequest where a picture of a ground would be too large at a scale."""
    ground = order.derived.knitted(order.ground_id).ground
    check_size(ground.projection, ground.name)
    width, height = (side * scale for side in ground.projection.size)
    if width * height > MOST_PIXELS:
        raise BadRequest(
            f"{ground.name} would be a picture of {width} x {height} pixels at scale {scale}, and "
            f"{MOST_PIXELS >> 20} megapixels is the most; choose a smaller scale."
        )


def backed(pixels: Pixels, background: str) -> Pixels:
    """A picture, (H, W, 4) uint8 with straight alpha, over a colour if one is named.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha.
    background : str
        As in the options; what is no colour changes nothing.

    Returns
    -------
    pixels : (H, W, 4) uint8
    """
    if not background.startswith("#"):
        return pixels
    colour = np.array([int(background[at : at + 2], 16) for at in (1, 3, 5)] + [255], dtype=np.uint32)
    above = premultiplied(pixels).astype(np.uint32)
    laid = above + (colour * (255 - above[..., 3:]) + 127) // 255
    return straight(np.minimum(laid, 255).astype(np.uint8))


def enlarged(pixels: Pixels, scale: int) -> Pixels:
    """A picture with each pixel as a square of so many.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
    scale : int

    Returns
    -------
    pixels : (H * scale, W * scale, 4) uint8
    """
    return pixels if scale == 1 else pixels.repeat(scale, axis=0).repeat(scale, axis=1)
