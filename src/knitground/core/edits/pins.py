"""Between what is derived and what is laid: pins, layers baked to tiles, and the way back."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.layers import fitted
from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground, by_id
from knitground.core.joins.lattice import SPOTS
from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.joins.turning import is_isometric, orientations, turned_labels
from knitground.core.layers import make_layer
from knitground.core.layers.layer import PINS, Layer, Planes
from knitground.core.layers.laying import pinned
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id, replaced
from knitground.core.tiles.tile import ORIENTATION_SHIFT


def pin(
    document: Document, ground_id: str, layer_id: str, shape: Shape, codes: NDArray[np.int32] | int, label: str = "pin"
) -> None:
    """Lets tiles stay in some cells of a derived layer through every re-knit; code 0 takes pins out.

    Parameters
    ----------
    shape : Shape
        The cells.
    codes : (H, W) int32, or int
        Cell codes, as large as the shape's rectangle; or one for all.
    label : str
        What undo calls it.
    """
    ground = by_id(document.project.grounds, ground_id)
    planes = document.state.planes[ground_id][layer_id]
    after = pinned(ground.layer(layer_id), planes, ground.board, shape, codes)
    if after is not None:
        document.put_planes(label, ground_id, {layer_id: {PINS: after}})


def pin_seen(derived: Derived, ground_id: str, layer_id: str, shape: Shape) -> None:
    """Pins the tiles of some cells of a derived layer as they are seen now."""
    seen = np.maximum(derived.knitted(ground_id).codes(layer_id, shape.window), 0)
    pin(derived.document, ground_id, layer_id, Shape(shape.window, shape.mask & (seen > 0)), seen, "pin what is seen")


def unpin_all(document: Document, ground_id: str, layer_id: str) -> None:
    """Takes all pins out of a layer."""
    whole = by_id(document.project.grounds, ground_id).board.whole
    pin(document, ground_id, layer_id, Shape(whole, np.ones(whole[2:], dtype=bool)), 0, "unpin all")


def bake_layer(derived: Derived, ground_id: str, layer_id: str) -> None:
    """Turns a derived layer into single tiles, as they lie; it no longer follows its set."""
    document = derived.document
    ground = by_id(document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    if not layer.knits:
        raise BadRequest(f"“{layer.name}” holds single tiles already.")
    codes = derived.knitted(ground_id).codes(layer_id, ground.board.whole)
    baked = _with_header(make_layer(layer.id, layer.name, None, document.project), layer)
    planes = {layer_id: {baked.area_plane: Plane.of(np.maximum(codes, 0))}}
    _exchange(document, f"bake {layer.name}", ground, layer, baked, planes)


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
    ground = by_id(document.project.grounds, ground_id)
    join_set, layer = by_id(document.project.join_sets, set_id), ground.layer(layer_id)
    if not layer.holds_tiles:
        raise BadRequest(f"“{layer.name}” keeps what was painted already.")
    cells = np.asarray(document.state.planes[ground_id][layer_id][layer.area_plane], dtype=np.int32)
    elected = _elected(ground, cells, _labels_by_code(document, join_set, cells), join_set)
    if not any(plane.any() for plane in elected.values()):
        raise BadRequest(f"“{layer.name}” holds no tile of “{join_set.name}”; choose another set.")
    made = fitted(make_layer(fresh_id(layer.name, ground.layers), layer.name, set_id, document.project), ground)
    read = _with_header(made, layer)
    with document.step(f"read {layer.name} back"):
        planes = {read.id: {name: Plane.of(plane) for name, plane in elected.items()}}
        _exchange(document, "read back", ground, layer, read, planes)
        whole = ground.board.whole
        differs = (derived.knitted(ground_id).codes(read.id, whole) != cells) & (cells > 0)
        if differs.any():
            pin(document, ground_id, read.id, Shape(whole, differs), cells)
    return read.id


def _with_header(layer: Layer, other: Layer) -> Layer:
    """A layer with the header of another one."""
    names = (
        "visible", "locked", "opacity", "tint", "offset_x", "offset_y", "parallax_x", "parallax_y", "stacking", "group",
    )  # fmt: skip
    return replace(layer, **{name: getattr(other, name) for name in names})


def _exchange(
    document: Document, label: str, ground: Ground, old: Layer, new: Layer, planes: Mapping[str, Planes]
) -> None:
    """Puts a layer in the place of another one."""
    layers = tuple(new if one.id == old.id else one for one in ground.layers)
    others = {name: kept for name, kept in document.state.planes[ground.id].items() if name != old.id}
    document.define(
        label,
        replace(document.project, grounds=replaced(document.project.grounds, replace(ground, layers=layers))),
        planes={**document.state.planes, ground.id: {**others, **planes}},
    )


def _labels_by_code(document: Document, join_set: JoinSet, cells: NDArray[np.int32]) -> dict[int, Labels]:
    """What the tiles that lie in some cells show, by their codes."""
    found = {}
    allowed, isometric = set(orientations(join_set)), is_isometric(join_set, document.project.cuts)
    for code in np.unique(cells[cells > 0]).tolist():
        labels = join_set.labels.get(document.palette.ref(code & (1 << ORIENTATION_SHIFT) - 1))
        orientation = code >> ORIENTATION_SHIFT
        if labels is not None and orientation in allowed:
            found[code] = turned_labels(labels, join_set.kind, orientation, isometric=isometric)
    return found


def _elected(
    ground: Ground, cells: NDArray[np.int32], labels: Mapping[int, Labels], join_set: JoinSet
) -> dict[str, NDArray[np.uint8]]:
    """The terrain that most tiles show at each place, by plane; 0 where none does."""
    spots = {code: np.nonzero(cells == code) for code in labels}
    board = ground.board
    elected: dict[str, NDArray[np.uint8]] = {}
    for on in dict.fromkeys(on for on, _ in SPOTS[join_set.kind]):
        size = board.shape(on)
        most, elected[on] = np.zeros(size, dtype=np.uint8), np.zeros(size, dtype=np.uint8)
        for terrain in range(1, len(join_set.terrains) + 1):
            votes = np.zeros(size, dtype=np.uint8)
            for code, row in labels.items():
                ys, xs = board.flat("cells", *spots[code])
                held = SPOTS[join_set.kind]
                for (place, (down, right)), label in zip(held, row[-len(held) :], strict=True):
                    if place == on and label == terrain:
                        np.add.at(votes, board.stored(on, ys + down, xs + right), 1)
            elected[on][votes > most] = terrain
            np.maximum(most, votes, out=most)
    return elected


def pins_in(planes: Planes, rect: CellRect) -> NDArray[np.intp]:
    """Rows and columns of the pins in a rectangle of cells, (N, 2).

    Parameters
    ----------
    planes : mapping of name to Plane
        Of one layer.
    rect : CellRect
    """
    if PINS not in planes:
        return np.zeros((0, 2), dtype=np.intp)
    return np.asarray(np.argwhere(planes[PINS].read(rect)) + np.array([rect.top, rect.left]))
