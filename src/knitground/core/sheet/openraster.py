"""Reading OpenRaster: the layers of a paint program's file as pictures of their own.

References
----------
OpenRaster, baseline 0.0.6.
"""

import io
import xml.etree.ElementTree as ET
import zipfile
import zlib
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet, readable
from knitground.core.sheet.picture import LARGEST_SIDE, MOST_PIXELS, decode_picture

_LARGEST_STACK = 2**20
_LARGEST_ENTRY = 2**28
_MOST_LAYERS = 200
_DEEPEST = 50


class PaintedLayer(NamedTuple):
    """A layer with its groups before its name, and its pixels on the whole canvas, (H, W, 4) uint8, straight alpha."""

    name: str
    visible: bool
    opacity: float
    pixels: NDArray[np.uint8]


def is_openraster(data: bytes) -> bool:
    """Whether the bytes of a file are OpenRaster."""
    return data[:2] == b"PK" and b"image/openraster" in data[:100]


def read_layers(data: bytes, name: str) -> list[PaintedLayer]:
    """The layers of an OpenRaster file, the lowest first; those without a picture are left out.

    Parameters
    ----------
    data : bytes
    name : str
        What to call it in messages.

    Raises
    ------
    BadSheet
        If it is none, damaged or too large.
    """
    name = readable(name)
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            image = ET.fromstring(_entry(archive, "stack.xml", _LARGEST_STACK, name))
            width, height = int(image.get("w", "0")), int(image.get("h", "0"))
            stack = image.find("stack")
            if image.tag != "image" or stack is None or not (0 < width <= LARGEST_SIDE and 0 < height <= LARGEST_SIDE):
                raise BadSheet(f"{name} is no OpenRaster picture of a size up to {LARGEST_SIDE} a side.")
            found = list(_layers(stack, "", True, 1.0))
            if len(found) > _MOST_LAYERS or len(found) * width * height > 8 * MOST_PIXELS:
                raise BadSheet(f"{name} has {len(found)} layers of {width} x {height}, which is too much; merge some.")
            return [_read(archive, layer, (width, height), name) for layer in reversed(found)]
    except BadSheet:
        raise
    except (zipfile.BadZipFile, zlib.error, ET.ParseError, KeyError, ValueError, OSError, NotImplementedError,
            RuntimeError, EOFError) as problem:  # fmt: skip
        raise BadSheet(f"{name} is damaged or no OpenRaster ({readable(problem)}); save it again.") from None


class _Found(NamedTuple):
    name: str
    visible: bool
    opacity: float
    source: str
    x: int
    y: int


def _layers(stack: ET.Element, path: str, visible: bool, opacity: float, deep: int = 0) -> Iterator[_Found]:
    """The layers of a stack, the uppermost first."""
    if deep > _DEEPEST:
        raise ValueError("its groups lie too deep in one another")
    for one in stack:
        name = f"{path}{one.get('name') or 'Layer'}"
        shows = visible and one.get("visibility", "visible") != "hidden"
        dense = opacity * min(max(float(one.get("opacity", "1")), 0.0), 1.0)
        if one.tag == "stack":
            yield from _layers(one, f"{name}/", shows, dense, deep + 1)
        elif one.tag == "layer" and one.get("src"):
            x, y = (int(float(one.get(axis, "0"))) for axis in ("x", "y"))
            yield _Found(name, shows, dense, one.get("src", ""), x, y)


def _read(archive: zipfile.ZipFile, layer: _Found, size: tuple[int, int], name: str) -> PaintedLayer:
    pixels = decode_picture(_entry(archive, layer.source, _LARGEST_ENTRY, name), f"{layer.name} of {name}")
    width, height = size
    canvas = np.zeros((height, width, 4), dtype=np.uint8)
    top, left = max(0, layer.y), max(0, layer.x)
    part = pixels[max(0, -layer.y) :, max(0, -layer.x) :][: max(0, height - top), : max(0, width - left)]
    canvas[top : top + part.shape[0], left : left + part.shape[1]] = part
    return PaintedLayer(layer.name, layer.visible, layer.opacity, canvas)


def _entry(archive: zipfile.ZipFile, entry: str, most: int, name: str) -> bytes:
    """An entry of the archive, as large as it says and no larger than it may be."""
    with archive.open(entry) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise BadSheet(f"{name} holds {readable(entry)}, which is larger than {most >> 20} MiB; save it smaller.")
    return data
