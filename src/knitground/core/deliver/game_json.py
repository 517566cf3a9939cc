"""A ground as plain JSON with one tileset picture, for a game to load.

The tileset holds just the tiles that the ground uses, turned ones as tiles of their own, so that a loader needs
nothing but an index: 0 is an empty cell, n the n-th tile of the picture, row by row.
"""

import json
import math
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.deliver.things import thing_content
from knitground.core.errors import BadRequest
from knitground.core.ground.beside import at_borders
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Thing
from knitground.core.project.atomic import write_atomically
from knitground.core.project.derived import Derived
from knitground.core.project.playing import Playing, playing
from knitground.core.project.things_laid import things_laid
from knitground.core.render.atlas import Atlas
from knitground.core.render.compositor import MOST_PIXELS
from knitground.core.render.lights import lamp_name
from knitground.core.render.pixels import straight
from knitground.core.sheet.picture import encode_png
from knitground.core.tiles.notes import PLAIN, Collision
from knitground.core.tiles.outline import turned
from knitground.core.tiles.shape_kinds import FEET
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT

FORMAT = "knitground-map"
VERSION = 7
_HEADER = (
    "opacity", "tint", "offset_x", "offset_y", "parallax_x", "parallax_y", "stacking", "group",
)  # fmt: skip


def deliver(
    derived: Derived,
    ground_id: str,
    path: Path,
    progress: Callable[[float], None] = lambda share: None,
    tileset: Path | None = None,
) -> list[Path]:
    """Writes the JSON of a ground and its tileset picture; returns the files written.

    Parameters
    ----------
    path : Path
        Of the JSON file.
    tileset : Path, optional
        Of the picture, in the same folder; else named after the JSON file with ``-tileset.png``.

    Raises
    ------
    CannotWrite
        If a file cannot be written.
    """
    tileset = tileset or path.with_name(f"{path.stem}-tileset.png")
    knitted = derived.knitted(ground_id)
    ground = knitted.ground
    layers = {}
    shown = ground.shown()
    for done, layer in enumerate(shown):
        if layer.knits or layer.holds_tiles:
            layers[layer.id] = np.maximum(knitted.codes(layer.id, ground.board.whole), 0)
        progress((done + 1) / (len(shown) + 2))
    things = {layer.id: _things_on(derived, ground_id, layer) for layer in shown}
    refs = {one.tile for some in things.values() for one in some if one.tile is not None}
    sprites = np.array([0, *(derived.code(ref) for ref in sorted(refs))], dtype=np.int32)
    used = np.unique(np.concatenate([sprites, *(np.unique(codes) for codes in layers.values())]))
    moved = playing(derived)
    used = _with_frames(used[used > 0], moved)
    columns = max(1, math.ceil(math.sqrt(len(used))))
    atlas = derived.atlas(ground)
    pixels = _tileset_pixels(atlas, used, columns)
    content = _content(derived, ground, layers, things, used, columns, tileset.name)
    content["tileset"] |= _room(atlas, used)
    content["tiles"] = _notes(derived, moved, used, atlas)
    write_atomically(tileset, encode_png(pixels))
    write_atomically(path, _text(content).encode("utf-8", "replace"))
    progress(1.0)
    return [path, tileset]


def _with_frames(used: NDArray[np.int32], moved: Playing) -> NDArray[np.int32]:
    """Cell codes together with those of their frames; a frame may be animated itself."""
    while True:
        more = [moved.all_frames(code) for code in used.tolist()]
        grown = np.unique(np.concatenate([used, *more])).astype(np.int32)
        if len(grown) == len(used):
            return grown
        used = grown


def _tileset_pixels(atlas: Atlas, used: NDArray[np.int32], columns: int) -> NDArray[np.uint8]:
    """All tiles side by side, each with the room that the largest needs beyond its cell."""
    rows = max(1, math.ceil(len(used) / columns))
    room = _room(atlas, used)
    height, width = rows * room["cell_height"], columns * room["cell_width"]
    if height * width > MOST_PIXELS:
        raise BadRequest(
            f"The tileset would be a picture of {width} x {height} pixels, and {MOST_PIXELS >> 20} megapixels is the "
            "most; lay fewer large tiles, or cut their sheet smaller."
        )
    picture = np.zeros((height, width, 4), dtype=np.uint8)
    for number, code in enumerate(used.tolist()):
        sprite, left, top = atlas.sprite(code)
        row, column = divmod(number, columns)
        y, x = row * room["cell_height"] + room["origin_y"] + top, column * room["cell_width"] + room["origin_x"] + left
        picture[y : y + sprite.shape[0], x : x + sprite.shape[1]] = straight(sprite)
    return picture


def _room(atlas: Atlas, used: NDArray[np.int32]) -> dict[str, int]:
    """How large the cells of the tileset picture are, and where in them the map's cell begins."""
    left = top = right = bottom = 0
    for code in used.tolist():
        sprite, x, y = atlas.sprite(code)
        left, top = max(left, -x), max(top, -y)
        right = max(right, x + sprite.shape[1] - atlas.tile_width)
        bottom = max(bottom, y + sprite.shape[0] - atlas.tile_height)
    return {
        "cell_width": atlas.tile_width + left + right,
        "cell_height": atlas.tile_height + top + bottom,
        "origin_x": left,
        "origin_y": top,
    }


def _notes(derived: Derived, moved: Playing, used: NDArray[np.int32], atlas: Atlas) -> dict[str, dict[str, Any]]:
    """What is said of the tiles, by their index; tiles of which nothing is said are left out."""
    index = {code: number for number, code in enumerate(used.tolist(), start=1)}
    said: dict[str, dict[str, Any]] = {}
    for code, number in index.items():
        ref, orientation = derived.document.palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT
        notes, tile = derived.document.project.tiles.get(ref, PLAIN), derived.tile(ref)
        sprite, left, top = atlas.sprite(code)
        inside = left >= 0 and top >= 0 and left + sprite.shape[1] <= atlas.tile_width
        large = not (inside and top + sprite.shape[0] <= atlas.tile_height)
        entry: dict[str, Any] = {"large": True} if large else {}
        if notes.tags:
            entry["tags"] = list(notes.tags)
        if notes.properties:
            entry["properties"] = {name: one.value for name, one in notes.properties.items()}
        if not notes.walkable:
            entry["walkable"] = False
        if tile is not None:
            shapes = {
                kind: _written_shape(turned(shape, (tile.shape[1], tile.shape[0]), orientation))
                for kind, shape in notes.all_shapes().items()
            }
            if FEET in shapes:
                entry["collision"] = shapes.pop(FEET)
            if shapes:
                entry["shapes"] = shapes
        if notes.frames:
            codes = moved.all_frames(code).tolist()
            entry["frames"] = [[index[shown], one.ms] for shown, one in zip(codes, notes.frames, strict=True)]
        if entry:
            said[str(number)] = entry
    return said


def _written_shape(shape: Collision) -> Any:
    return shape if isinstance(shape, str) else [[list(point) for point in part] for part in shape]


def _content(
    derived: Derived, ground: Ground, layers: dict[str, NDArray[np.int32]], things: Mapping[str, Sequence[Thing]],
    used: NDArray[np.int32], columns: int, image: str,
) -> dict[str, Any]:  # fmt: skip
    written = {name: _things(derived, ground, name, some, used, columns) for name, some in things.items()}
    return {
        "format": FORMAT,
        "version": VERSION,
        "name": ground.name,
        "grid": ground.grid,
        "width": ground.width,
        "height": ground.height,
        "tile_width": ground.tile_width,
        "tile_height": ground.tile_height,
        "wraps_x": ground.wraps_x,
        "wraps_y": ground.wraps_y,
        **_said_of(ground),
        **_beside(derived.document.project.grounds, ground),
        **_kinds_of_shapes(derived),
        "tileset": {"image": image, "columns": columns, "tiles": len(used)},
        "layers": [
            _layer(derived, ground, layer, layers.get(layer.id), written[layer.id], used) for layer in ground.shown()
        ],
    }


def _kinds_of_shapes(derived: Derived) -> dict[str, Any]:
    """What the kinds of shapes beside those that stop feet are called, where a tile has some."""
    project = derived.document.project
    used = {kind for notes in project.tiles.values() for kind in notes.shapes}
    kinds = {kind.id: {"name": kind.name, "colour": kind.colour} for kind in project.shape_kinds if kind.id in used}
    return {"shape_kinds": kinds} if kinds else {}


def _said_of(ground: Ground) -> dict[str, Any]:
    """The background, tags and properties of a ground, where there are any."""
    said: dict[str, Any] = {} if ground.background is None else {"background": ground.background}
    if ground.tags:
        said["tags"] = list(ground.tags)
    if ground.properties:
        said["properties"] = {name: one.value for name, one in ground.properties.items()}
    return said


def _beside(grounds: Sequence[Ground], ground: Ground) -> dict[str, Any]:
    """The maps at the borders of a ground, where there are any."""
    names = {one.id: one.name for one in grounds}
    there = at_borders(grounds, ground).items()
    found = {border: {"name": names[one.ground], "shift": one.shift} for border, one in there}
    return {"neighbours": found} if found else {}


def _layer(
    derived: Derived,
    ground: Ground,
    layer: Layer,
    codes: NDArray[np.int32] | None,
    things: list[dict[str, Any]],
    used: NDArray[np.int32],
) -> dict[str, Any]:
    """A layer: what its header says beyond the usual, and its rows of tiles; or of numbers, with what they mean."""
    plain = type(layer).__dataclass_fields__
    said = {name: getattr(layer, name) for name in _HEADER if getattr(layer, name) != plain[name].default}
    content: dict[str, Any] = {"name": layer.name, **said}
    if codes is not None:
        if things:
            content["things"] = things
        return content | {"rows": np.where(codes > 0, np.searchsorted(used, codes) + 1, 0).tolist()}
    content["kind"] = layer.kind
    if layer.places_things:
        return content | {"rows": things}
    if layer.area_plane != "corners":
        content["on"] = layer.area_plane
    content["colours"] = [one.colour for one in layer.terrains(derived.sets)]
    plane = derived.knitted(ground.id).planes[layer.id][layer.area_plane]
    return content | {"rows": np.asarray(plane).tolist()}


def _things_on(derived: Derived, ground_id: str, layer: Layer) -> Sequence[Thing]:
    """The things on a layer: those that were placed, and those that stitches lay."""
    props = as_props(layer)
    return things_laid(derived, ground_id, layer) if props is None else props.in_order


def _things(
    derived: Derived, ground: Ground, layer_id: str, things: Sequence[Thing], used: NDArray[np.int32], columns: int
) -> list[dict[str, Any]]:
    """Things as they are written."""
    kinds, atlas = derived.sets.thing_kinds, derived.atlas(ground)
    refs = dict.fromkeys(one.tile for one in things if one.tile is not None)
    shown = {ref: _shown(atlas, used, columns, derived.code(ref)) for ref in refs}
    written = [thing_content(one, kinds, shown.get(one.tile) if one.tile else None) for one in things]
    lights = derived.lights(ground)
    for one, content in zip(things, written, strict=True):
        reached = lights.covered(lamp_name(layer_id, one.id)) if lights is not None and one.light is not None else None
        if reached is not None:
            content["light"]["lit"] = [[list(corner) for corner in ring] for ring in reached]
    return written


def _shown(atlas: Atlas, used: NDArray[np.int32], columns: int, code: int) -> tuple[int, list[int]]:
    """The number of a tile in the tileset, and where it lies in that picture: x, y, width and height."""
    number, room = int(np.searchsorted(used, code)), _room(atlas, used)
    sprite, left, top = atlas.sprite(code)
    row, column = divmod(number, columns)
    x, y = column * room["cell_width"] + room["origin_x"] + left, row * room["cell_height"] + room["origin_y"] + top
    return number + 1, [x, y, sprite.shape[1], sprite.shape[0]]


def _text(content: dict[str, Any]) -> str:
    """JSON with one map row per line."""
    layers = content.pop("layers")
    head = json.dumps(content, ensure_ascii=False, indent=1)[:-2]
    parts = []
    for layer in layers:
        rows = ",\n   ".join(json.dumps(row, separators=(",", ":")) for row in layer["rows"])
        named = json.dumps({name: value for name, value in layer.items() if name != "rows"}, ensure_ascii=False)
        held = "things" if layer.get("kind") == "props" else "rows"
        parts.append(f'  {named[:-1]}, "{held}": [\n   {rows}\n  ]}}')
    return head + ',\n "layers": [\n' + ",\n".join(parts) + "\n ]\n}\n"
