"""OpenRaster (.ora): layers and groups of a ground, as paint programs open them.

References
----------
OpenRaster, baseline 0.0.6: a zip file whose first entry is `mimetype`, stored; `stack.xml` with the uppermost layer
first; PNG data; a merged picture, and a thumbnail of at most 256 pixels a side.
"""

import io
import xml.etree.ElementTree as ET
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from PIL import Image
from pydantic import Field

from knitground.core.deliver.exporter import File, Order
from knitground.core.deliver.parts import Part, parts_of
from knitground.core.deliver.pictures import scene_on
from knitground.core.render.compositor import picture
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.picture import encode_png

MIMETYPE = "image/openraster"
_THUMBNAIL = 256
_WHEN = (1980, 1, 1, 0, 0, 0)
"""Of every entry, so that the same ground gives the same bytes."""


@dataclass(frozen=True)
class OraOptions:
    """What can be chosen of OpenRaster."""

    hidden: Annotated[
        bool, Field(title="Hidden layers", description="they go along, hidden there as they are here")
    ] = True


def make(order: Order) -> Iterator[File]:
    """The layers of a ground as an OpenRaster file."""
    said: OraOptions = order.options
    ground = order.derived.knitted(order.ground_id).ground
    layers = ground.layers if said.hidden else ground.shown()
    parts = list(parts_of(order, layers))
    merged = picture(scene_on(order), ground.name)
    width, height = ground.projection.size
    if ground.background is not None:
        colour = Image.new("RGBA", (width, height), ground.background)
        parts.insert(0, Part("Background", "", 1.0, False, True, 0, 0, _array(colour)))
    yield File(order.name("", ".ora"), _zipped(parts, merged, (width, height)))


def _array(image: Image.Image) -> Pixels:
    return np.array(image, dtype=np.uint8)


def _zipped(parts: Sequence[Part], merged: Pixels, size: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:

        def put(name: str, data: bytes, how: int = zipfile.ZIP_STORED) -> None:
            entry = zipfile.ZipInfo(name, _WHEN)
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, data, how)

        put("mimetype", MIMETYPE.encode())
        put("stack.xml", _stack(parts, size), zipfile.ZIP_DEFLATED)
        for number, part in enumerate(parts):
            put(_data_name(number), encode_png(part.pixels))
        put("mergedimage.png", encode_png(merged))
        small = Image.fromarray(merged)
        small.thumbnail((_THUMBNAIL, _THUMBNAIL), Image.Resampling.BOX)
        put("Thumbnails/thumbnail.png", encode_png(_array(small)))
    return out.getvalue()


def _stack(parts: Sequence[Part], size: tuple[int, int]) -> bytes:
    """What lies over what, the uppermost first; neighbours of a group share its stack."""
    image = ET.Element("image", {"version": "0.0.6", "w": str(size[0]), "h": str(size[1])})
    root = ET.SubElement(image, "stack")
    open_stacks: list[tuple[str, ET.Element]] = []
    for number, part in reversed(list(enumerate(parts))):
        path = [name for name in part.group.split("/") if name]
        shared = 0
        while shared < min(len(path), len(open_stacks)) and open_stacks[shared][0] == path[shared]:
            shared += 1
        open_stacks = open_stacks[:shared]
        for name in path[shared:]:
            above = open_stacks[-1][1] if open_stacks else root
            open_stacks.append((name, ET.SubElement(above, "stack", {"name": _sayable(name)})))
        inside = open_stacks[-1][1] if open_stacks else root
        said = {
            "name": _sayable(part.name),
            "src": _data_name(number),
            "x": str(part.x),
            "y": str(part.y),
            "opacity": f"{part.opacity:g}",
            "visibility": "visible" if part.visible else "hidden",
            "composite-op": "svg:multiply" if part.multiplies else "svg:src-over",
        }
        ET.SubElement(inside, "layer", said)
    written: bytes = ET.tostring(image, encoding="UTF-8", xml_declaration=True)
    return written


def _data_name(number: int) -> str:
    return f"data/layer{number}.png"


def _sayable(text: str) -> str:
    """A name without what XML can't hold."""
    return (
        "".join(letter for letter in text if letter >= " " and letter not in "\ufffe\uffff")
        .encode("utf-8", "replace")
        .decode()
    )
