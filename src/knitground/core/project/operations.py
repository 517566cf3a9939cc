"""The things one does to a project, each as one step of its history."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from pathlib import PurePath
from typing import Any

import numpy as np

from knitground.core.errors import BadRequest
from knitground.core.ground.layers import (
    LARGEST_GROUND,
    PINS,
    Ground,
    Planes,
    StitchedLayer,
    TerrainLayer,
    TileLayer,
    blank_planes,
    next_by_id,
)
from knitground.core.joins.sets import MOST_TERRAINS, JoinKind, JoinSet, Labels, Terrain, with_label, with_labels
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, fresh_id, replaced
from knitground.core.sheet.cut import Cut, grid_of
from knitground.core.sheet.guess import guess_cuts
from knitground.core.sheet.isometric import with_shape
from knitground.core.sheet.picture import Sheet, encode_png
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.tile import TileRef

THREADS = ("#9db4d8", "#a5cf4f", "#e8cf9a", "#d98a7a", "#8fd0c4", "#c9a2e0", "#f0b25a", "#8a9a5b")
"""Colours that new terrains get in turn; all stand out on dark and light art."""


def read_sheet(name: str, data: bytes) -> tuple[Picture, Cut]:
    """The picture in the bytes of an image file, as a PNG, and the best guess of its cut; raises BadSheet."""
    picture = read_picture(name, data)
    guesses = guess_cuts(picture.pixels, most=1)
    width, height = picture.size
    cut = guesses[0].as_cut("tiles") if guesses else Cut("tiles", min(16, width), min(16, height))
    return picture, with_shape(picture.pixels, cut)


def read_picture(name: str, data: bytes) -> Picture:
    """The picture in the bytes of an image file, as a PNG; raises BadSheet."""
    picture = Picture.decode(data, name)
    return picture if data.startswith(b"\x89PNG") else Picture(encode_png(picture.pixels), picture.pixels)


def insert_sheet(document: Document, name: str, picture: Picture, cut: Cut) -> str:
    """Adds a picture that is read already; returns the id of its sheet."""
    project = document.project
    sheet_id = fresh_id(PurePath(name).stem, project.sheets)
    sheet = Sheet(sheet_id, f"sheets/{sheet_id}.png", (cut,))
    document.define(
        f"add sheet {sheet_id}",
        replace(project, sheets=(*project.sheets, sheet)),
        pictures={**document.state.pictures, sheet_id: picture},
    )
    return sheet_id


def remove_sheet(document: Document, sheet_id: str) -> None:
    """Takes a sheet out; its tiles stay named in sets and maps, and come back if it is added again."""
    project = document.project
    document.define(
        f"remove sheet {sheet_id}",
        replace(project, sheets=tuple(sheet for sheet in project.sheets if sheet.id != sheet_id)),
        pictures={name: picture for name, picture in document.state.pictures.items() if name != sheet_id},
    )


def set_cut(document: Document, sheet_id: str, cut: Cut) -> None:
    """Changes a cut of a sheet.

    Raises
    ------
    BadSheet
        If it does not fit the picture; nothing is changed then.
    """
    sheet = next_by_id(document.project.sheets, sheet_id)
    grid_of(cut, *document.state.pictures[sheet_id].size)
    put(document, "cut", "sheets", replace(sheet, cuts=replaced(sheet.cuts, cut)))


def add_join_set(document: Document, name: str, kind: JoinKind, terrains: Iterable[str]) -> str:
    """Adds a join set with terrains of these names; returns its id. Lines may end in nothing, areas do not."""
    project = document.project
    set_id = fresh_id(name, project.join_sets)
    made: list[Terrain] = []
    for title in terrains:
        made.append(new_terrain(made, title))
    put(document, f"add {name}", "join_sets", JoinSet(set_id, name, kind, tuple(made), bare=kind != "corner"))
    return set_id


def add_stitch_set(document: Document, name: str, marks: Iterable[str]) -> str:
    """Adds a stitch set with marks of these names; returns its id."""
    set_id = fresh_id(name, document.project.stitch_sets)
    made: list[Terrain] = []
    for title in marks:
        made.append(new_terrain(made, title))
    put(document, f"add {name}", "stitch_sets", StitchSet(set_id, name, tuple(made)))
    return set_id


def new_terrain(others: Iterable[Terrain], name: str) -> Terrain:
    """A terrain with a letter and colour that none of the others has.

    Raises
    ------
    BadRequest
        If there are as many as a set may have.
    """
    known = list(others)
    if len(known) >= MOST_TERRAINS:
        raise BadRequest(f"A set has at most {MOST_TERRAINS} terrains; use another set for more.")
    letters = [terrain.letter for terrain in known]
    wished = [sign.upper() for sign in name if sign.isalpha()] + list("ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789")
    letter = next(sign for sign in wished if sign not in letters)
    return Terrain(name, letter, THREADS[len(known) % len(THREADS)])


def set_labels(document: Document, set_id: str, places: Iterable[tuple[TileRef, int]], terrain: int) -> None:
    """Labels places of tiles with a terrain, or takes the labels away where it is 0."""
    join_set = next_by_id(document.project.join_sets, set_id)
    for ref, place in places:
        join_set = replace(join_set, labels=with_label(join_set, ref, place, terrain))
    put(document, "label", "join_sets", join_set)


def label_tiles(document: Document, set_id: str, labels: Mapping[TileRef, Labels], label: str) -> None:
    """Labels whole tiles anew; only zeros take a tile out of the set."""
    join_set = next_by_id(document.project.join_sets, set_id)
    put(document, label, "join_sets", replace(join_set, labels=with_labels(join_set, labels)))


def put(document: Document, label: str, field: str, thing: object) -> None:
    """Adds a thing to one of the project's lists, or exchanges the one that has its id."""
    changes: dict[str, Any] = {field: replaced(getattr(document.project, field), thing)}
    document.define(label, replace(document.project, **changes))


def add_ground(document: Document, name: str, width: int, height: int, tile: tuple[int, int]) -> str:
    """Adds an empty ground; returns its id. Raises BadRequest if a side is out of range."""
    check_size(width, height)
    ground_id = fresh_id(name, document.project.grounds)
    ground = Ground(ground_id, name, width, height, *tile)
    document.define(
        f"add ground {name}",
        replace(document.project, grounds=(*document.project.grounds, ground)),
        planes={**document.state.planes, ground_id: {}},
    )
    return ground_id


def furnish_ground(document: Document, ground_id: str) -> None:
    """Gives a ground a layer for every set that can lay tiles, and one for single tiles on top."""
    project = document.project
    for join_set in project.join_sets:
        if join_set.labels:
            add_layer(document, ground_id, join_set.name, join_set.id)
    for stitch_set in project.stitch_sets:
        if stitch_set.stitches:
            add_layer(document, ground_id, stitch_set.name, stitch_set.id)
    add_layer(document, ground_id, "Things")


def resize_ground(document: Document, ground_id: str, width: int, height: int) -> None:
    """Changes the size of a ground at its right and bottom; what is new lies bare or goes on as at the border."""
    check_size(width, height)
    ground = next_by_id(document.project.grounds, ground_id)
    changed = replace(ground, width=width, height=height)
    planes = {layer.id: _resized(layer, document.state.planes[ground_id][layer.id], changed) for layer in ground.layers}
    _put_ground(document, "resize ground", changed, planes)


def check_size(width: int, height: int) -> None:
    """Raises BadRequest where a ground cannot have this size."""
    if not (1 <= width <= LARGEST_GROUND and 1 <= height <= LARGEST_GROUND):
        raise BadRequest(
            f"A ground of {width} x {height} cells is out of range; give sides from 1 to {LARGEST_GROUND}."
        )


def add_layer(document: Document, ground_id: str, name: str, set_id: str | None = None) -> str:
    """Adds a layer on top: of tiles, or derived by a join or stitch set; returns its id.

    A terrain layer whose tiles may not border on nothing begins covered with the first terrain, so that the
    first stroke on it shows no gaps.
    """
    project = document.project
    ground = next_by_id(project.grounds, ground_id)
    layer_id = fresh_id(name, ground.layers)
    filling = 0
    layer: TileLayer | TerrainLayer | StitchedLayer = TileLayer(layer_id, name)
    for join_set in project.join_sets:
        if join_set.id == set_id:
            layer = TerrainLayer(layer_id, name, join_set.id, join_set.kind)
            filling = 0 if join_set.bare else 1
    if isinstance(layer, TileLayer) and set_id is not None:
        layer = StitchedLayer(layer_id, name, next_by_id(project.stitch_sets, set_id).id)
    planes = {
        **document.state.planes[ground_id],
        layer_id: blank_planes(layer, ground.height, ground.width, filling=filling),
    }
    _put_ground(document, f"add layer {name}", replace(ground, layers=(*ground.layers, layer)), planes)
    return layer_id


def remove_layer(document: Document, ground_id: str, layer_id: str) -> None:
    """Takes a layer off a ground."""
    ground = next_by_id(document.project.grounds, ground_id)
    planes = {name: kept for name, kept in document.state.planes[ground_id].items() if name != layer_id}
    layers = tuple(layer for layer in ground.layers if layer.id != layer_id)
    _put_ground(document, "remove layer", replace(ground, layers=layers), planes)


def move_layer(document: Document, ground_id: str, layer_id: str, place: int) -> None:
    """Moves a layer to a place in the stack, 0 being the lowest."""
    ground = next_by_id(document.project.grounds, ground_id)
    layers = [layer for layer in ground.layers if layer.id != layer_id]
    layers.insert(max(0, place), ground.layer(layer_id))
    put(document, "move layer", "grounds", replace(ground, layers=tuple(layers)))


def put_layer(document: Document, ground_id: str, label: str, layer: TileLayer | TerrainLayer | StitchedLayer) -> None:
    """Exchanges a layer's definition for a changed one of the same kind."""
    ground = next_by_id(document.project.grounds, ground_id)
    put(document, label, "grounds", replace(ground, layers=replaced(ground.layers, layer)))


def erasing_value(document: Document, layer: TileLayer | TerrainLayer | StitchedLayer) -> int:
    """What erasing leaves on a layer: nothing, or the first terrain where the set cannot border on nothing."""
    if isinstance(layer, TerrainLayer):
        join_set = next_by_id(document.project.join_sets, layer.join_set)
        return 0 if join_set.bare else 1
    return 0


def _put_ground(document: Document, label: str, ground: Ground, planes: Mapping[str, Planes]) -> None:
    grounds = replaced(document.project.grounds, ground)
    document.define(
        label,
        replace(document.project, grounds=grounds),
        planes={**document.state.planes, ground.id: planes},
    )


def _resized(layer: TileLayer | TerrainLayer | StitchedLayer, planes: Planes, ground: Ground) -> Planes:
    resized = blank_planes(layer, ground.height, ground.width)
    if PINS in planes:
        resized[PINS] = np.zeros((ground.height, ground.width), dtype=np.int32)
    for name, old in planes.items():
        new = resized[name]
        height, width = min(old.shape[0], new.shape[0]), min(old.shape[1], new.shape[1])
        new[:height, :width] = old[:height, :width]
        if name == "corners":
            new[height:, :width] = old[height - 1, :width]
            new[:, width:] = new[:, width - 1 : width]
    return resized
