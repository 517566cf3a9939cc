"""Between what is derived and what is laid: pins, layers baked to tiles, and the way back."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.ground.layers import (
    PINS,
    Planes,
    TerrainLayer,
    TileLayer,
    blank_planes,
    next_by_id,
)
from knitground.core.ground.shapes import Shape
from knitground.core.ground.window import Window
from knitground.core.joins.lattice import PLANES, POINTS
from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.joins.turning import orientations, turned_labels
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id, replaced
from knitground.core.tiles.tile import ORIENTATION_SHIFT

_PARITY = {"corners": (0, 0), "across": (0, 1), "along": (1, 0)}


def pin(
    document: Document, ground_id: str, layer_id: str, shape: Shape, codes: NDArray[np.int32] | int, label: str = "pin"
) -> None:
    """Lets tiles stay in some cells of a derived layer through every re-knit; code 0 takes pins out."""
    planes = document.state.planes[ground_id][layer_id]
    fresh = PINS not in planes
    if fresh and isinstance(codes, int) and codes == 0:
        return
    # The plane of pins comes with the first one, in the same step of the history.
    own = fresh and document.gesture is None
    if own:
        document.begin(label)
    if fresh:
        ground = next_by_id(document.project.grounds, ground_id)
        pins = np.zeros((ground.height, ground.width), dtype=np.int32)
        _put_planes(document, label, ground_id, {layer_id: {**planes, PINS: pins}})
    document.paint(label, ground_id, layer_id, PINS, shape, codes)
    if own:
        document.commit()


def pin_seen(derived: Derived, ground_id: str, layer_id: str, shape: Shape) -> None:
    """Pins the tiles of some cells of a derived layer as they are seen now."""
    seen = np.maximum(derived.knitted(ground_id).codes(layer_id, shape.window), 0).copy()
    pin(derived.document, ground_id, layer_id, Shape(shape.window, shape.mask & (seen > 0)), seen, "pin what is seen")


def unpin_all(document: Document, ground_id: str, layer_id: str) -> None:
    """Takes all pins out of a layer."""
    ground = next_by_id(document.project.grounds, ground_id)
    whole = Window(0, 0, ground.height, ground.width)
    pin(document, ground_id, layer_id, Shape(whole, np.ones(whole[2:], dtype=bool)), 0, "unpin all")


def bake_layer(derived: Derived, ground_id: str, layer_id: str) -> None:
    """Turns a derived layer into single tiles, as they lie; it no longer follows its set."""
    document = derived.document
    ground = next_by_id(document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    if isinstance(layer, TileLayer):
        raise BadRequest(f"“{layer.name}” holds single tiles already.")
    codes = derived.knitted(ground_id).codes(layer_id, Window(0, 0, ground.height, ground.width))
    baked = TileLayer(layer.id, layer.name, visible=layer.visible)
    layers = tuple(baked if one.id == layer_id else one for one in ground.layers)
    planes = {**document.state.planes[ground_id], layer_id: {"cells": np.maximum(codes, 0)}}
    grounds = replaced(document.project.grounds, replace(ground, layers=layers))
    document.define(
        f"bake {layer.name}",
        replace(document.project, grounds=grounds),
        planes={**document.state.planes, ground_id: planes},
    )


def read_back(derived: Derived, ground_id: str, layer_id: str, set_id: str) -> str:
    """Reads off laid tiles what could have been painted, as a new terrain layer in place of theirs; returns its id.

    At each corner or edge the terrain that most of the tiles there are labelled with is taken. Where knitting that
    lays another tile than lies there, the tile is pinned.

    Raises
    ------
    BadRequest
        If the layer holds no tile of the set.
    """
    document = derived.document
    ground = next_by_id(document.project.grounds, ground_id)
    join_set, layer = next_by_id(document.project.join_sets, set_id), ground.layer(layer_id)
    if not isinstance(layer, TileLayer):
        raise BadRequest(f"“{layer.name}” keeps what was painted already.")
    cells = np.asarray(document.state.planes[ground_id][layer_id]["cells"], dtype=np.int32)
    lattice = _elected(cells, _labels_by_code(document, join_set, cells), join_set)
    if not lattice.any():
        raise BadRequest(f"“{layer.name}” holds no tile of “{join_set.name}”; choose another set.")
    read = TerrainLayer(fresh_id(layer.name, ground.layers), layer.name, set_id, join_set.kind, visible=layer.visible)
    planes: Planes = blank_planes(read, ground.height, ground.width)
    for name in PLANES[join_set.kind]:
        row, column = _PARITY[name]
        planes[name] = lattice[row::2, column::2].copy()
    layers = tuple(read if one.id == layer_id else one for one in ground.layers)
    others = {name: kept for name, kept in document.state.planes[ground_id].items() if name != layer_id}
    document.begin(f"read {layer.name} back")
    document.define(
        "read back",
        replace(document.project, grounds=replaced(document.project.grounds, replace(ground, layers=layers))),
        planes={**document.state.planes, ground_id: {**others, read.id: planes}},
    )
    whole = Window(0, 0, ground.height, ground.width)
    differs = derived.knitted(ground_id).codes(read.id, whole) != cells
    if (differs & (cells > 0)).any():
        pin(document, ground_id, read.id, Shape(whole, differs & (cells > 0)), cells)
    document.commit()
    return read.id


def _labels_by_code(document: Document, join_set: JoinSet, cells: NDArray[np.int32]) -> dict[int, Labels]:
    """What the tiles that lie in some cells show, by their codes."""
    found = {}
    allowed = set(orientations(join_set))
    for code in np.unique(cells[cells > 0]).tolist():
        labels = join_set.labels.get(document.palette.ref(code & (1 << ORIENTATION_SHIFT) - 1))
        orientation = code >> ORIENTATION_SHIFT
        if labels is not None and orientation in allowed:
            found[code] = turned_labels(labels, join_set.kind, orientation)
    return found


def _elected(cells: NDArray[np.int32], labels: Mapping[int, Labels], join_set: JoinSet) -> NDArray[np.uint8]:
    """The terrain that most tiles show at each point of the doubled lattice, (2 H + 1, 2 W + 1); 0 where none does."""
    size = 2 * cells.shape[0] + 1, 2 * cells.shape[1] + 1
    most, elected = np.zeros(size, dtype=np.uint8), np.zeros(size, dtype=np.uint8)
    spots = {code: np.nonzero(cells == code) for code in labels}
    for terrain in range(1, len(join_set.terrains) + 1):
        votes = np.zeros(size, dtype=np.uint8)
        for code, row in labels.items():
            rows, columns = spots[code]
            for (down, across), label in zip(POINTS[join_set.kind], row, strict=True):
                if label == terrain:
                    np.add.at(votes, (2 * rows + down, 2 * columns + across), 1)
        elected[votes > most] = terrain
        np.maximum(most, votes, out=most)
    return elected


def _put_planes(document: Document, label: str, ground_id: str, changed: Mapping[str, Planes]) -> None:
    planes = {**document.state.planes[ground_id], **changed}
    document.define(label, document.project, planes={**document.state.planes, ground_id: planes})
