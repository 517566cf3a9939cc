"""glTF 2.0 (ISO/IEC 12113) as one binary file: layers as textured quads in depth, things as quads, shapes as lines.

A unit is as large as the delivery says. The map lies in the plane of x and y, its upper left corner at the origin, y
upwards; each layer is a little nearer than the one below. Tiles are not lit, and their pixels stay sharp.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.deliver.exporter import File, Order
from knitground.core.deliver.game_json import JsonOptions, MadeMap, header_of
from knitground.core.deliver.parts import parts_of, together
from knitground.core.deliver.pictures import scene_on
from knitground.core.deliver.placing import Piece, pieces_of
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.layer import Layer
from knitground.core.layers.thing import outline
from knitground.core.render.pixels import Pixels
from knitground.core.sheet.picture import encode_png

_SIDE = 4096
_LUMA = np.array([0.2126, 0.7152, 0.0722])
Floats = NDArray[np.float32]


@dataclass(frozen=True)
class GltfOptions:
    """What can be chosen of glTF."""

    step: Annotated[
        float,
        Field(title="Step", description="how far layers lie apart, in units", ge=0.0001, le=1000, allow_inf_nan=False),
    ] = 0.1


def make(order: Order) -> Iterator[File]:
    """A ground as a binary glTF file."""
    said: GltfOptions = order.options
    scene_on(order)
    made = MadeMap(order._replace(options=JsonOptions(edge=1, side=_SIDE)))
    built = _Built(order, made, said.step)
    yield File(order.name("", ".glb"), built.data())


class _Built:
    """The scene while it is put together."""

    def __init__(self, order: Order, made: MadeMap, step: float) -> None:
        from knitground.core.deliver.glb import Glb  # slow to import

        self._order, self._made, self._step = order, made, step
        self._glb = Glb(made.ground.name, header_of(order.derived, made.ground, order.per_unit))
        self._pages, self._sizes = [], []
        for pixels in made.pictures.drawn():
            self._pages.append(self._glb.material("tiles", encode_png(pixels)))
            self._sizes.append((pixels.shape[1], pixels.shape[0]))

    def data(self) -> bytes:
        """All layers, the shades among them, and what blocks."""
        ground, shown = self._made.ground, self._made.ground.shown()
        shades = iter(
            [part for part in parts_of(self._order, shown) if part.multiplies]
            if any(layer.shades_below for layer in shown)
            else []
        )
        if ground.background is not None:
            self._background(ground.background)
        for number, mine in enumerate(together(shown), start=1):
            if mine[0].shades_below:
                self._shade(mine[0], next(shades), number * self._step)
            else:
                self._layers(mine, number * self._step)
        self._blocking((len(shown) + 1) * self._step)
        return self._glb.written()

    def _layers(self, mine: Sequence[Layer], z: float) -> None:
        pieces = pieces_of(self._made, mine)
        depths = {id(piece): z + 0.9 * self._step * place / max(1, len(pieces)) for place, piece in enumerate(pieces)}
        for layer in mine:
            own = [piece for piece in pieces if piece.layer is layer]
            tiles, sprites = ([one for one in own if (one.thing is None) == plain] for plain in (True, False))
            flat = len(mine) == 1 and not any(self._made.pictures.is_large(self._code(one)) for one in tiles)
            heights = [z if flat else depths[id(one)] for one in tiles]
            written = {one["id"]: one for one in self._made.written_things(layer)} if sprites else {}
            children = [
                self._thing(one, depths[id(one)], written[one.thing.id]) for one in sprites if one.thing is not None
            ]
            children += self._outlines(layer, z)
            self._glb.node(layer.name, self._tiles(layer, tiles, heights), children, _extras(layer))

    def _code(self, piece: Piece) -> int:
        return int(self._made.pictures.used[piece.number - 1])

    def _tiles(self, layer: Layer, tiles: Sequence[Piece], heights: Sequence[float]) -> int | None:
        """The mesh of a layer's tiles: one part for each picture that they are on."""
        parts = []
        for page, material in enumerate(self._pages):
            corners, uvs = [], []
            for piece, z in zip(tiles, heights, strict=True):
                on, (x, y, wide, high) = self._made.pictures.sprite(self._code(piece))
                if on != page:
                    continue
                left, top = self._stands(piece)
                corners.append(self._quad(piece.x + left, piece.y + top, wide, high, z))
                uvs.append(self._uv(page, x, y, wide, high))
            if corners:
                parts.append(self._glb.quads(np.array(corners), np.array(uvs), self._tinted(material, layer)))
        return self._glb.mesh(layer.name, parts) if parts else None

    def _tinted(self, material: int, layer: Layer) -> int:
        """The material with the opacity and tint of a layer."""
        if layer.opacity == 1 and layer.tint == "#ffffff":
            return material
        tint = [_linear(int(layer.tint[at : at + 2], 16) / 255) for at in (1, 3, 5)]
        return self._glb.dressed(material, [*tint, layer.opacity])

    def _stands(self, piece: Piece) -> tuple[int, int]:
        _, left, top = self._made.derived.atlas(self._made.ground).sprite(self._code(piece))
        return left, top

    def _quad(self, x: float, y: float, wide: float, high: float, z: float) -> Floats:
        """The corners of a rectangle of pixels, (4, 3): upper left, upper right, lower right, lower left."""
        size = self._order.per_unit
        left, right, top, bottom = x / size, (x + wide) / size, -y / size, -(y + high) / size
        return np.array([[left, top, z], [right, top, z], [right, bottom, z], [left, bottom, z]], dtype=np.float32)

    def _uv(self, page: int, x: int, y: int, wide: int, high: int) -> Floats:
        width, height = self._sizes[page]
        left, right, top, bottom = x / width, (x + wide) / width, y / height, (y + high) / height
        return np.array([[left, top], [right, top], [right, bottom], [left, bottom]], dtype=np.float32)

    def _thing(self, piece: Piece, z: float, written: dict[str, Any]) -> int:
        """A node for a thing, standing where it stands, with what is written of it."""
        thing, size = piece.thing, self._order.per_unit
        assert thing is not None
        page, (x, y, wide, high) = self._made.pictures.sprite(self._code(piece))
        quad = self._quad(-wide / 2, -high, wide, high, 0.0)
        part = self._glb.quads(quad[None], self._uv(page, x, y, wide, high)[None],
                               self._tinted(self._pages[page], piece.layer))  # fmt: skip
        turn = -math.radians(thing.turn)
        across = -thing.scale if thing.mirrored else thing.scale
        place = {
            "translation": [piece.x / size, -piece.y / size, z],
            "rotation": [0.0, 0.0, math.sin(turn / 2), math.cos(turn / 2)],
            "scale": [across, thing.scale, 1.0],
        }
        return self._glb.child(thing.name or thing.id, self._glb.mesh(thing.name or thing.id, [part]), place, written)

    def _outlines(self, layer: Layer, z: float) -> list[int]:
        """Nodes for things without a picture, as lines."""
        found = []
        for thing in self._made.things[layer.id]:
            if thing.tile is not None:
                continue
            ring = [(x + layer.offset_x, y + layer.offset_y) for x, y in outline(thing)]
            name = thing.name or thing.id
            place = {"translation": [ring[0][0] / self._order.per_unit, -ring[0][1] / self._order.per_unit, z]}
            mesh = None
            if len(ring) > 1:
                moved = [(x - ring[0][0], y - ring[0][1]) for x, y in ring]
                mesh = self._glb.mesh(name, [self._lines([moved], 0.0, closed=thing.form != "line")])
            found.append(self._glb.child(name, mesh, place, {"id": thing.id, "form": thing.form}))
        return found

    def _lines(self, rings: Sequence[Sequence[tuple[float, float]]], z: float, *, closed: bool = True) -> int:
        size = self._order.per_unit
        ends: list[tuple[float, float, float]] = []
        for ring in rings:
            corners = [(x / size, -y / size, z) for x, y in ring]
            pairs = zip(corners, [*corners[1:], *([corners[0]] if closed else [])], strict=False)
            ends += [end for pair in pairs for end in pair]
        return self._glb.lines(np.array(ends, dtype=np.float32))

    def _blocking(self, z: float) -> None:
        """What blocks on the whole ground, as lines."""
        import shapely

        from knitground.core.walk.solid import Solids  # slow to import

        ground = self._made.ground
        union = Solids(self._order.derived, ground.id).union(PixelRect(0, 0, *ground.projection.size))
        rings = [
            [(float(x), float(y)) for x, y in shapely.get_coordinates(ring)[:-1]]
            for part in shapely.get_parts(union)
            if isinstance(part, shapely.Polygon)
            for ring in (part.exterior, *part.interiors)
        ]
        if rings:
            self._glb.node("What blocks", self._glb.mesh("What blocks", [self._lines(rings, z)]), [], {})

    def _background(self, colour: str) -> None:
        width, height = self._made.ground.projection.size
        pixel = np.array([[[*(int(colour[at : at + 2], 16) for at in (1, 3, 5)), 255]]], dtype=np.uint8)
        self._plane("Background", pixel, (0, 0, width, height), 0.0, {})

    def _shade(self, layer: Layer, part: Any, z: float) -> None:
        """A shade as a black plane, as dense as it is dark: glTF can't multiply."""
        dark = np.zeros_like(part.pixels)
        lacks = 1 - (part.pixels[..., :3] / 255.0) @ _LUMA
        dark[..., 3] = np.round(lacks * part.pixels[..., 3]).astype(np.uint8)
        high, wide = dark.shape[:2]
        self._plane(layer.name, dark, (part.x, part.y, wide, high), z, {"shade": True})

    def _plane(self, name: str, pixels: Pixels, place: tuple[int, int, int, int], z: float, extras: Any) -> None:
        material = self._glb.material(name, encode_png(pixels))
        uv = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], dtype=np.float32)
        part = self._glb.quads(self._quad(*place, z)[None], uv[None], material)
        self._glb.node(name, self._glb.mesh(name, [part]), [], extras)


def _linear(level: float) -> float:
    """A level of sRGB as light (IEC 61966-2-1)."""
    return float(level / 12.92 if level <= 0.04045 else ((level + 0.055) / 1.055) ** 2.4)


def _extras(layer: Layer) -> dict[str, Any]:
    return {"kind": layer.kind, "group": layer.group, "stacking": layer.stacking}
