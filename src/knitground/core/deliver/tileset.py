"""A tileset alone: all tiles of the project packed on pictures, and a JSON that tells what each of them is."""

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from knitground.core.deliver.exporter import File, Order, relative_to
from knitground.core.deliver.tile_notes import tile_content
from knitground.core.errors import BadRequest
from knitground.core.grid.plane import distinct
from knitground.core.project.derived import Derived
from knitground.core.project.playing import playing
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.picture import encode_png
from knitground.core.tiles.notes import PLAIN
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

FORMAT = "knitground-tileset"
VERSION = 2


@dataclass(frozen=True)
class TilesetOptions:
    """What can be chosen of a tileset."""

    tiles: Annotated[
        Literal["all", "used"],
        Field(title="Tiles", description="all that are not empty, or those that lie on any ground"),
    ] = "all"
    edge: Annotated[int, Field(title="Edge", description="pixels drawn once more round every tile", ge=0, le=16)] = 0
    side: Annotated[
        int, Field(title="Largest picture", description="sides of a picture in pixels", ge=64, le=16384)
    ] = 2048


def make(order: Order) -> Iterator[File]:
    """The pictures of the tiles of a project, and the JSON of what they are; whatever the ground.

    Raises
    ------
    BadRequest
        If a tile is larger than a picture may be, or there is none.
    """
    said: TilesetOptions = order.options
    derived = order.derived
    refs = _wanted(derived, said.tiles)
    pixels = {ref: found for ref in refs if (found := derived.tile(ref)) is not None}
    if not pixels:
        raise BadRequest("There is no tile to deliver yet; cut a sheet first.")
    spots, sizes = packed_on([(one.shape[1], one.shape[0]) for one in pixels.values()], said.side, said.edge)
    names = [order.name(f"{number}" if len(sizes) > 1 else "", ".png") for number in range(1, len(sizes) + 1)]
    for page, (width, height) in enumerate(sizes):
        picture = np.zeros((height, width, 4), dtype=np.uint8)
        for one, (on, x, y) in zip(pixels.values(), spots, strict=True):
            if on == page:
                _put(picture, one, x, y, said.edge)
        order.progress(0.5 * (page + 1) / len(sizes))
        yield File(names[page], encode_png(picture))
    content = _content(order, list(pixels), list(pixels.values()), spots, names)
    yield File(order.name("", ".json"), _text(content).encode("utf-8", "replace"))


def packed_on(
    sizes: Sequence[tuple[int, int]], side: int, edge: int = 0
) -> tuple[list[tuple[int, int, int]], list[tuple[int, int]]]:
    """Places for rectangles on pictures of at most so many pixels a side: in rows, the highest first.

    Returns
    -------
    places : list of (page, x, y)
        In the order of the sizes, without the edge.
    pages : list of (width, height)

    Raises
    ------
    BadRequest
        If one is larger than a picture.
    """
    largest = max((max(size) + 2 * edge for size in sizes), default=0)
    if largest > side:
        raise BadRequest(f"A tile with its edge takes {largest} pixels, and a picture {side}; allow larger pictures.")
    area = sum((width + 2 * edge) * (height + 2 * edge) for width, height in sizes)
    wide = min(side, max(largest, 1 << max(0, int(area - 1).bit_length() + 1) // 2))
    places, pages = [(0, 0, 0)] * len(sizes), [(0, 0)]
    x = y = row = 0
    for number in sorted(range(len(sizes)), key=lambda one: (-sizes[one][1], -sizes[one][0], one)):
        width, height = (length + 2 * edge for length in sizes[number])
        if x + width > wide:
            x, y, row = 0, y + row, 0
        if y + height > side:
            pages.append((0, 0))
            x = y = row = 0
        places[number] = len(pages) - 1, x + edge, y + edge
        x, row = x + width, max(row, height)
        pages[-1] = max(pages[-1][0], x), max(pages[-1][1], y + row)
    return places, pages


def _wanted(derived: Derived, tiles: str) -> list[TileRef]:
    if tiles == "all":
        return [ref for ref, pixels in derived.all_tiles().items() if pixels[..., 3].any()]
    used: set[TileRef] = set()
    for ground in derived.document.project.grounds:
        knitted = derived.knitted(ground.id)
        for layer in ground.layers:
            used |= set(layer.sprites)
            if layer.knits or layer.holds_tiles:
                codes = distinct([knitted.codes(layer.id, ground.board.whole)])
                used |= {derived.document.palette.ref(code & NUMBER_MASK) for code in codes[codes > 0].tolist()}
    notes = derived.document.project.tiles
    used |= {frame.tile for ref in list(used) if ref in notes for frame in notes[ref].frames}
    return sorted(used)


def _put(picture: Pixels, tile: Pixels, x: int, y: int, edge: int) -> None:
    high, wide = tile.shape[:2]
    padded = np.pad(tile, ((edge, edge), (edge, edge), (0, 0)), mode="edge")
    picture[y - edge : y + high + edge, x - edge : x + wide + edge] = padded


def _content(
    order: Order, refs: Sequence[TileRef], pixels: Sequence[Pixels], spots: Sequence[tuple[int, int, int]],
    names: Sequence[str],
) -> dict[str, Any]:  # fmt: skip
    derived, index = order.derived, {ref: number for number, ref in enumerate(refs)}
    project = derived.document.project
    codes = {ref: derived.code(ref) for ref in refs}
    by_code = {code: index[ref] for ref, code in codes.items()}
    moved = playing(derived)
    tiles = []
    for ref, one, (page, x, y) in zip(refs, pixels, spots, strict=True):
        said: dict[str, Any] = {"name": str(ref), "x": x, "y": y, "width": one.shape[1], "height": one.shape[0]}
        said |= {"image": page} if page else {}
        weight = project.tiles.get(ref, PLAIN).weight
        said |= {"weight": weight} if weight != 1 else {}
        labels = {owner.name: list(owner.labels[ref]) for owner in project.join_sets if ref in owner.labels}
        said |= {"labels": labels} if labels else {}
        content = tile_content(derived, moved, codes[ref], lambda code: by_code.get(code, -1))
        if "frames" in content:
            content["frames"] = [frame for frame in content["frames"] if frame[0] >= 0]
        tiles.append(said | content)
    return {
        "format": FORMAT,
        "version": VERSION,
        "name": project.name,
        "images": [relative_to(order.name("", ".json"), name) for name in names],
        "edge": order.options.edge,
        "pixels_per_unit": order.per_unit,
        "shape_kinds": {kind.id: {"name": kind.name, "colour": kind.colour} for kind in project.shape_kinds},
        "join_sets": [
            {
                "name": owner.name,
                "kind": owner.kind,
                "places": list(owner.places),
                "terrains": [{"name": one.name, "colour": one.colour} for one in owner.terrains],
            }
            for owner in project.join_sets
        ],
        "tiles": tiles,
    }


def _text(content: dict[str, Any]) -> str:
    """JSON with a tile on each line."""
    tiles = ",\n".join(f"  {json.dumps(tile, ensure_ascii=False)}" for tile in content.pop("tiles"))
    head = [f" {json.dumps(name)}: {json.dumps(value, ensure_ascii=False)}" for name, value in content.items()]
    return "{\n" + ",\n".join(head) + f',\n "tiles": [\n{tiles}\n ]\n}}\n'
