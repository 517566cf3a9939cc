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
from knitground.core.render.atlas import Atlas, straight
from knitground.core.sheet.picture import encode_png

FORMAT = "knitground-map"
VERSION = 1


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
    used = used[used > 0]
    columns = max(1, math.ceil(math.sqrt(len(used))))
    pixels = _tileset_pixels(derived.atlas(ground.tile_width, ground.tile_height), used, columns)
    content = _content(ground, layers, used, columns, tileset.name)
    write_atomically(tileset, encode_png(pixels))
    write_atomically(path, _text(content).encode())
    progress(1.0)
    return [path, tileset]


def _tileset_pixels(atlas: Atlas, used: NDArray[np.int32], columns: int) -> NDArray[np.uint8]:
    rows = max(1, math.ceil(len(used) / columns))
    slots = np.zeros(rows * columns, dtype=np.intp)
    slots[: len(used)] = atlas.slots(used)
    tiles = straight(atlas.pixels(0)[slots])
    grid = tiles.reshape(rows, columns, atlas.tile_height, atlas.tile_width, 4).swapaxes(1, 2)
    return grid.reshape(rows * atlas.tile_height, columns * atlas.tile_width, 4)


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
