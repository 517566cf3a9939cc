"""PNG (ISO/IEC 15948): the visible layers of a ground as one picture."""

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from knitground.core.project.atomic import write_atomically
from knitground.core.project.derived import Derived, visible_layers
from knitground.core.render.compose import whole_picture


def deliver(
    derived: Derived, ground_id: str, path: Path, progress: Callable[[float], None] = lambda share: None
) -> list[Path]:
    """Writes the picture of a ground; returns the files written.

    Raises
    ------
    BadRequest
        If the picture would be too large.
    CannotWrite
        If the file cannot be written.
    """
    knitted = derived.knitted(ground_id)
    ground = knitted.ground
    atlas = derived.atlas(ground.tile_width, ground.tile_height)
    pixels = whole_picture(knitted.codes, ground, visible_layers(ground), atlas, lambda share: progress(share * 0.7))
    write_atomically(path, png_bytes(pixels))
    progress(1.0)
    return [path]


def png_bytes(pixels: NDArray[np.uint8]) -> bytes:
    """A PNG file of (H, W, 4) uint8 pixels with straight alpha; the same pixels always give the same bytes."""
    buffer = io.BytesIO()
    Image.fromarray(pixels).save(buffer, "PNG", compress_level=6)
    return buffer.getvalue()
