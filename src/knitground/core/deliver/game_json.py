"""A ground as plain JSON with tileset pictures, for a game to load.

The tileset holds just the tiles that the ground uses, turned ones as tiles of their own, so that a loader needs
nothing but an index: 0 is an empty cell, n the n-th tile of the picture, row by row.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.deliver.exporter import File, Order, relative_to
from knitground.core.deliver.json_text import json_bytes, packed
from knitground.core.deliver.things import thing_content
from knitground.core.deliver.tile_notes import tile_content, with_frames
from knitground.core.deliver.tile_pictures import TilePictures
from knitground.core.grid.plane import BLOCK, distinct
from knitground.core.grid.rect import CellRect
from knitground.core.ground.beside import at_borders
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Thing
from knitground.core.project.derived import Derived
from knitground.core.project.playing import playing
from knitground.core.project.things_laid import things_laid
from knitground.core.render.lights import lamp_name
from knitground.core.sheet.picture import encode_png
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef

FORMAT = "knitground-map"
VERSION = 9
HEADER = (
    "opacity", "tint", "offset_x", "offset_y", "parallax_x", "parallax_y", "stacking", "group", "solid", "stops_sight",
    "stands",
)  # fmt: skip
Codes = NDArray[np.int32]


@dataclass(frozen=True)
class JsonOptions:
    """What can be chosen of the JSON for games."""

    turned: Annotated[
        Literal["tiles", "flags"],
        Field(
            title="Turned tiles",
            description="tiles of their own in the picture, or the tile's number with its turn in the bits above",
        ),
    ] = "tiles"
    packed: Annotated[
        bool, Field(title="Packed rows", description="rows as zlib in base64: small, but not for reading")
    ] = False
    edge: Annotated[
        int, Field(title="Edge", description="pixels drawn once more round every tile of the picture", ge=0, le=16)
    ] = 0
    side: Annotated[
        int,
        Field(title="Largest picture", description="sides of a tileset picture in pixels; 0 for one picture",
              ge=0, le=16384),
    ] = 0  # fmt: skip


_NEARLY, _BAND = 0.95, 256


def make(order: Order) -> Iterator[File]:
    """The tileset pictures of a ground, and its JSON.

    Raises
    ------
    BadRequest
        If a picture would be too large.
    """
    made = MadeMap(order)
    for page, pixels in enumerate(made.pictures.drawn()):
        yield File(made.images[page], encode_png(pixels))
    yield File(order.name("", ".json"), json_bytes(made.content(), made.pulse))


class MadeMap:
    """A ground made ready for games: the tiles it uses by their numbers, its layers by those."""

    def __init__(self, order: Order) -> None:
        self.derived, self._said, self._per_unit = order.derived, order.options, order.per_unit
        self._name = order.name
        self.pulse: Callable[[], None] = lambda: order.progress(_NEARLY)
        knitted = self.derived.knitted(order.ground_id)
        self.ground: Ground = knitted.ground
        self.codes: dict[str, Codes] = {}
        shown = self.ground.shown()
        for done, layer in enumerate(shown):
            if layer.knits or layer.holds_tiles:
                self.codes[layer.id] = codes = np.empty(self.ground.board.whole[2:], dtype=np.int32)
                for rows in self.ground.board.whole.bands(_BAND):
                    np.maximum(knitted.codes(layer.id, rows), 0, out=codes[rows.top : rows.bottom])
                    order.progress((done + rows.bottom / self.ground.height) / (len(shown) + 2))
        self.things = {layer.id: things_on(self.derived, self.ground.id, layer) for layer in shown}
        self.pictures = self._pictured()
        several = self.pictures.pages > 1
        self.images = [
            order.name(f"tileset {page + 1}" if several else "tileset", ".png") for page in range(self.pictures.pages)
        ]

    def _pictured(self) -> TilePictures:
        refs = {one.tile for some in self.things.values() for one in some if one.tile is not None}
        sprites = np.array([0, *(self.derived.code(ref) for ref in sorted(refs))], dtype=np.int32)
        # Tiles that only things and frames show get their numbers here; the sprites follow after.
        self.playing = playing(self.derived)
        atlas = self.derived.atlas(self.ground)
        parts = [codes[row : row + BLOCK] for codes in self.codes.values() for row in range(0, len(codes), BLOCK)]
        laid = distinct([sprites, *parts], self.pulse)
        self._flagged = np.array([], dtype=np.int32)
        if self._said.turned == "flags":
            # Only what fills its cell, turned and as it was drawn, is the same when the whole cell is turned.
            plain = np.union1d(laid[laid > 0], laid[laid > 0] & NUMBER_MASK)
            known = TilePictures(atlas, plain)
            self._flagged = np.array(
                [
                    code
                    for code in laid.tolist()
                    if code > NUMBER_MASK and known.fills_its_cell(code) and known.fills_its_cell(code & NUMBER_MASK)
                ],
                dtype=np.int32,
            )
            laid = np.union1d(np.setdiff1d(laid, self._flagged), self._flagged & NUMBER_MASK)
        used = with_frames(laid[laid > 0].astype(np.int32), self.playing)
        return TilePictures(atlas, used, self._said.edge, self._said.side)

    def numbers(self, codes: Codes) -> NDArray[np.int64]:
        """The numbers of (H, W) cell codes as they stand in rows; 0 for none.

        Parameters
        ----------
        codes : (H, W) int32

        Returns
        -------
        numbers : (H, W) int64
            From 1, with the turn in the bits above where tiles are told by flags.
        """
        plain = np.where(np.isin(codes, self._flagged), codes & NUMBER_MASK, codes)
        found = np.searchsorted(self.pictures.used, plain) + 1
        turns = np.where(plain == codes, 0, codes >> ORIENTATION_SHIFT)
        return np.where(codes > 0, found | turns << ORIENTATION_SHIFT, 0)

    def content(self, *, rows: bool = True) -> dict[str, Any]:
        """All that the JSON holds; without the rows of layers where they come from elsewhere."""
        pictures = self.pictures
        beside = [relative_to(self._name("", ".json"), image) for image in self.images]
        images = {"image": beside[0]} | ({"images": beside} if len(beside) > 1 else {})
        edges = {"edge": pictures.edge} if pictures.edge else {}
        flags = {"turned": "flags"} if self._said.turned == "flags" else {}
        return {
            **header_of(self.derived, self.ground, self._per_unit),
            "tileset": {
                **images, "columns": pictures.columns, "rows": pictures.rows, "tiles": len(pictures.used),
                **pictures.room._asdict(), **edges, **flags,
            },
            "layers": [self.layer(layer) | (self.rows(layer) if rows else {}) for layer in self.ground.shown()],
            "tiles": self.tiles(),
        }  # fmt: skip

    def tiles(self) -> dict[str, dict[str, Any]]:
        """What is said of the tiles, by their number; tiles of which nothing is said are left out."""
        shown = {self.derived.code(one.tile) for some in self.things.values() for one in some if one.tile is not None}
        sprites = set(with_frames(np.array(sorted(shown), dtype=np.int32), self.playing).tolist())
        said = {}
        for number, code in enumerate(self.pictures.used.tolist(), start=1):
            entry: dict[str, Any] = {"large": True} if self.pictures.is_large(code) else {}
            if code in sprites or not self.pictures.fills_its_cell(code):
                page, place = self.pictures.sprite(code)
                entry |= {"picture": place} | ({"image": page} if page else {})
            entry |= tile_content(self.derived, self.playing, code, self.pictures.number)
            if entry:
                said[str(number)] = entry
        return said

    def layer(self, layer: Layer) -> dict[str, Any]:
        """A layer without its rows: its header, and its things."""
        content = layer_header(self.derived, layer, coded=layer.id in self.codes)
        things = self.written_things(layer)
        return content | ({"things": things} if things or layer.places_things else {})

    def held(self, layer: Layer) -> NDArray[np.int64] | None:
        """The numbers that a layer holds, row by row; None if it holds things.

        Parameters
        ----------
        layer : Layer
            One of the ground's.

        Returns
        -------
        numbers : (rows, columns) int64
            Of cells, or of what its area is painted on.
        """
        self.pulse()
        if layer.id in self.codes:
            return self.numbers(self.codes[layer.id])
        if layer.places_things:
            return None
        plane = self.derived.knitted(self.ground.id).planes[layer.id][layer.area_plane]
        # Where a ground goes round, the first line stands for the last one, whatever is kept there.
        return self.ground.board.read(plane, CellRect(0, 0, *plane.shape)).astype(np.int64)

    def rows(self, layer: Layer) -> dict[str, Any]:
        """The rows of a layer as they are written."""
        numbers = self.held(layer)
        if numbers is None:
            return {}
        if self._said.packed:
            return {"columns": numbers.shape[1], "packed": packed(numbers)}
        return {"rows": numbers}

    def written_things(self, layer: Layer) -> list[dict[str, Any]]:
        """The things on a layer as they are written."""

        def seen(ref: TileRef) -> tuple[int, list[int]]:
            code = self.derived.code(ref)
            return self.pictures.number(code), self.pictures.sprite(code)[1]

        return [written_thing(self.derived, self.ground, layer, one, seen) for one in self.things[layer.id]]


def header_of(derived: Derived, ground: Ground, per_unit: float) -> dict[str, Any]:
    """What is said of a map before its tileset, layers and tiles."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "name": ground.name,
        "grid": ground.grid,
        "width": ground.width,
        "height": ground.height,
        "tile_width": ground.tile_width,
        "tile_height": ground.tile_height,
        "picture_width": ground.projection.size[0],
        "picture_height": ground.projection.size[1],
        "pixels_per_unit": per_unit,
        "wraps_x": ground.wraps_x,
        "wraps_y": ground.wraps_y,
        **_said_of(ground),
        **_beside(derived.document.project.grounds, ground),
        **_kinds_of_shapes(derived),
    }


def layer_header(derived: Derived, layer: Layer, *, coded: bool) -> dict[str, Any]:
    """What the header of a layer says beyond the usual, and what its numbers mean where they are no tiles."""
    plain = type(layer).__dataclass_fields__
    content: dict[str, Any] = {"name": layer.name}
    content |= {name: getattr(layer, name) for name in HEADER if getattr(layer, name) != plain[name].default}
    if coded:
        return content
    content["kind"] = layer.kind
    props = as_props(layer)
    if props is not None:
        return content | ({"order": "hand"} if props.order == "hand" else {})
    if layer.area_plane != "corners":
        content["on"] = layer.area_plane
    terrains = layer.terrains(derived.sets)
    return content | {"names": [one.name for one in terrains], "colours": [one.colour for one in terrains]}


def written_thing(
    derived: Derived, ground: Ground, layer: Layer, thing: Thing, seen: Callable[[TileRef], tuple[int, list[int]]]
) -> dict[str, Any]:
    """A thing as it is written, with what its light reaches; `seen` tells the number and place of a tile's picture."""
    lights = derived.lights(ground)
    content = thing_content(thing, derived.sets.thing_kinds, None if thing.tile is None else seen(thing.tile))
    reached = lights.covered(lamp_name(layer.id, thing.id)) if lights is not None and thing.light is not None else None
    if reached is not None:
        content["light"]["lit"] = [[list(corner) for corner in ring] for ring in reached]
    return content


def things_on(derived: Derived, ground_id: str, layer: Layer) -> Sequence[Thing]:
    """The things on a layer: those that were placed, and those that stitches lay."""
    props = as_props(layer)
    return things_laid(derived, ground_id, layer) if props is None else props.in_order


def _kinds_of_shapes(derived: Derived) -> Mapping[str, Any]:
    """What the kinds of shapes beside those that stop feet are called, where a tile has some."""
    project = derived.document.project
    used = {kind for notes in project.tiles.values() for kind in notes.shapes}
    kinds = {kind.id: {"name": kind.name, "colour": kind.colour} for kind in project.shape_kinds if kind.id in used}
    return {"shape_kinds": kinds} if kinds else {}


def _said_of(ground: Ground) -> Mapping[str, Any]:
    """The background, tags and properties of a ground, where there are any."""
    said: dict[str, Any] = {} if ground.background is None else {"background": ground.background}
    if ground.tags:
        said["tags"] = list(ground.tags)
    if ground.properties:
        said["properties"] = {name: one.value for name, one in ground.properties.items()}
    return said


def _beside(grounds: Sequence[Ground], ground: Ground) -> Mapping[str, Any]:
    """The maps at the borders of a ground, where there are any."""
    names = {one.id: one.name for one in grounds}
    there = at_borders(grounds, ground).items()
    found = {border: {"name": names[one.ground], "shift": one.shift} for border, one in there}
    return {"neighbours": found} if found else {}
