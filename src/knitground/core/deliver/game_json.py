"""A ground as plain JSON with one tileset picture, for a game to load.

The tileset holds just the tiles that the ground uses, turned ones as tiles of their own, so that a loader needs
nothing but an index: 0 is an empty cell, n the n-th tile of the picture, row by row.
"""

import json
import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.layers import Ground
from knitground.core.ground.window import Window
from knitground.core.project.atomic import write_atomically
from knitground.core.project.derived import Derived, visible_layers
from knitground.core.project.playing import Playing, playing
from knitground.core.render.atlas import Atlas, straight
from knitground.core.render.compose import compose_whole
from knitground.core.sheet.picture import encode_png
from knitground.core.tiles.notes import PLAIN
from knitground.core.tiles.outline import turned
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT

FORMAT = "knitground-map"
VERSION = 2


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
    whole = Window(0, 0, ground.height, ground.width)
    layers = {}
    for done, layer_id in enumerate(visible_layers(ground)):
        layers[layer_id] = np.maximum(knitted.codes(layer_id, whole), 0)
        progress((done + 1) / (len(ground.layers) + 2))
    used = np.unique(np.concatenate([np.unique(codes) for codes in layers.values()] or [np.zeros(1, np.int32)]))
    moved = playing(derived)
    used = np.unique(np.concatenate([used[used > 0], *(moved.all_frames(code) for code in used.tolist() if code > 0)]))
    columns = max(1, math.ceil(math.sqrt(len(used))))
    atlas = derived.atlas(ground.tile_width, ground.tile_height)
    pixels = _tileset_pixels(atlas, used, columns)
    content = _content(ground, layers, used, columns, tileset.name)
    content["tileset"] |= _room(atlas)
    content["tiles"] = _notes(derived, moved, used, atlas)
    write_atomically(tileset, encode_png(pixels))
    write_atomically(path, _text(content).encode())
    progress(1.0)
    return [path, tileset]


def _tileset_pixels(atlas: Atlas, used: NDArray[np.int32], columns: int) -> NDArray[np.uint8]:
    """All tiles side by side, each with the room that the largest needs beyond its cell."""
    rows = max(1, math.ceil(len(used) / columns))
    room = _room(atlas)
    picture = np.zeros((rows * room["cell_height"], columns * room["cell_width"], 4), dtype=np.uint8)
    slots = atlas.slots(used)  # may add turned tiles, so it comes before the pixels
    reach, plain = atlas.reach, straight(atlas.pixels(0)[slots])
    cells = Window(0, 0, 1 + reach.top + reach.bottom, 1 + reach.left + reach.right)
    for number, code in enumerate(used.tolist()):
        tile = plain[number]
        if any(reach):
            tile = straight(_alone(atlas, code, cells))
        row, column = divmod(number, columns)
        top, left = row * room["cell_height"], column * room["cell_width"]
        picture[top : top + tile.shape[0], left : left + tile.shape[1]] = tile
    return picture


def _alone(atlas: Atlas, code: int, cells: Window) -> NDArray[np.uint8]:
    """A tile with room on all sides."""
    codes = np.zeros((cells.height, cells.width), dtype=np.int32)
    codes[atlas.reach.top, atlas.reach.left] = code
    return compose_whole(lambda _, part: codes[part.rows, part.columns], ["alone"], atlas, cells, cells)


def _room(atlas: Atlas) -> dict[str, int]:
    """How large the cells of the tileset picture are, and where in them the map's cell begins."""
    reach = atlas.reach
    return {
        "cell_width": atlas.tile_width * (1 + reach.left + reach.right),
        "cell_height": atlas.tile_height * (1 + reach.top + reach.bottom),
        "origin_x": atlas.tile_width * reach.left,
        "origin_y": atlas.tile_height * reach.top,
    }


def _notes(derived: Derived, moved: Playing, used: NDArray[np.int32], atlas: Atlas) -> dict[str, dict[str, Any]]:
    """What is said of the tiles, by their index; tiles of which nothing is said are left out."""
    index = {code: number for number, code in enumerate(used.tolist(), start=1)}
    said: dict[str, dict[str, Any]] = {}
    for code, number in index.items():
        ref, orientation = derived.document.palette.ref(code & NUMBER_MASK), code >> ORIENTATION_SHIFT
        notes, tile = derived.document.project.tiles.get(ref, PLAIN), derived.tile(ref)
        entry: dict[str, Any] = {"large": True} if code & NUMBER_MASK in atlas.large else {}
        if notes.tags:
            entry["tags"] = list(notes.tags)
        if notes.properties:
            entry["properties"] = {name: one.value for name, one in notes.properties.items()}
        if not notes.walkable:
            entry["walkable"] = False
        if notes.collision != "none" and tile is not None:
            shape = turned(notes.collision, (tile.shape[1], tile.shape[0]), orientation)
            entry["collision"] = (
                shape if isinstance(shape, str) else [[list(point) for point in part] for part in shape]
            )
        if notes.frames:
            codes = moved.all_frames(code).tolist()
            entry["frames"] = [[index[shown], one.ms] for shown, one in zip(codes, notes.frames, strict=True)]
        if entry:
            said[str(number)] = entry
    return said


def _content(
    ground: Ground, layers: dict[str, NDArray[np.int32]], used: NDArray[np.int32], columns: int, image: str
) -> dict[str, Any]:
    indexes = {layer_id: np.where(codes > 0, np.searchsorted(used, codes) + 1, 0) for layer_id, codes in layers.items()}
    return {
        "format": FORMAT,
        "version": VERSION,
        "name": ground.name,
        "width": ground.width,
        "height": ground.height,
        "tile_width": ground.tile_width,
        "tile_height": ground.tile_height,
        "tileset": {"image": image, "columns": columns, "tiles": len(used)},
        "layers": [{"name": ground.layer(layer_id).name, "rows": rows.tolist()} for layer_id, rows in indexes.items()],
    }


def _text(content: dict[str, Any]) -> str:
    """JSON with one map row per line."""
    layers = content.pop("layers")
    head = json.dumps(content, ensure_ascii=False, indent=1)[:-2]
    parts = []
    for layer in layers:
        rows = ",\n   ".join(json.dumps(row, separators=(",", ":")) for row in layer["rows"])
        parts.append(f'  {{"name": {json.dumps(layer["name"], ensure_ascii=False)}, "rows": [\n   {rows}\n  ]}}')
    return head + ',\n "layers": [\n' + ",\n".join(parts) + "\n ]\n}\n"
