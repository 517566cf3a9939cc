"""PNG (ISO/IEC 15948): the visible layers of a ground as one picture, or as several."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from knitground.core.deliver.exporter import File, Order
from knitground.core.deliver.pictures import Background, Scale, backed, check_scale, enlarged, scene_on
from knitground.core.layers.layer import Layer
from knitground.core.render.compositor import picture
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.picture import encode_png


@dataclass(frozen=True)
class PngOptions:
    """What can be chosen of pictures."""

    shows: Annotated[
        Literal["whole", "layers", "groups", "pages"],
        Field(title="Shows", description="one picture, one for each layer, one for each group, or cut in pages"),
    ] = "whole"
    scale: Scale = 1
    background: Background = "ground"
    page: Annotated[
        int, Field(title="Page", description="sides of a page in pixels, where cut in pages", ge=16, le=16384)
    ] = 1024


def make(order: Order) -> Iterator[File]:
    """The picture of a ground, or pictures of its parts.

    Raises
    ------
    BadRequest
        If a picture would be too large.
    """
    said: PngOptions = order.options
    check_scale(order, said.scale)
    if said.shows in ("layers", "groups"):
        parts = _parts(order, said.shows)
        for done, (name, layers) in enumerate(parts):
            pixels = _picture(order, said, layers, (done / len(parts), 1 / len(parts)))
            yield File(order.name(name, ".png"), encode_png(pixels))
        return
    pixels = _picture(order, said, None, (0.0, 0.7))
    if said.shows == "whole":
        yield File(order.name("", ".png"), encode_png(pixels))
        return
    down, across = (range(0, side, said.page) for side in pixels.shape[:2])
    for row, top in enumerate(down):
        for column, left in enumerate(across):
            page = pixels[top : top + said.page, left : left + said.page]
            yield File(order.name(f"{column} {row}", ".png"), encode_png(page))
        order.progress(0.7 + 0.3 * (row + 1) / len(down))


def _parts(order: Order, shows: str) -> list[tuple[str, list[Layer]]]:
    """The layers that go into each picture, and its name; of groups the outermost counts, the rest are on their own."""
    shown = order.derived.knitted(order.ground_id).ground.shown()
    if shows == "layers":
        return [(layer.name, [layer]) for layer in shown]
    parts: dict[str, list[Layer]] = {}
    for layer in shown:
        parts.setdefault(layer.group.split("/")[0] or layer.name, []).append(layer)
    return list(parts.items())


def _picture(order: Order, said: PngOptions, layers: list[Layer] | None, share: tuple[float, float]) -> Pixels:
    scene = scene_on(order, layers)
    if said.background == "clear":
        scene = scene._replace(background=None)
    name = order.derived.knitted(order.ground_id).ground.name
    pixels = picture(scene, name, lambda done: order.progress(share[0] + share[1] * done))
    return enlarged(backed(pixels, said.background), said.scale)
