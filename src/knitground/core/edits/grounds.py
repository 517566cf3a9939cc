"""Grounds: adding them, their size, their grid and their borders."""

from dataclasses import replace
from typing import Literal

from knitground.core.edits.hanging import lay_hanging
from knitground.core.edits.layers import add_layer
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid import GridKind
from knitground.core.ground.beside import maps_beside
from knitground.core.ground.ground import LARGEST_GROUND, Ground, by_id, grid_of_tiles
from knitground.core.project.by_hand import with_hands
from knitground.core.project.document import Document
from knitground.core.project.model import Project, fresh_id, replaced
from knitground.core.tiles.notes import Property
from knitground.core.walk.side import VIEW

FIRST_SIZE = (48, 36)
"""Columns and rows of a ground that nobody gave a size."""


def add_ground(
    document: Document,
    name: str,
    width: int,
    height: int,
    tile: tuple[int, int],
    grid: GridKind = "square",
) -> str:
    """Adds an empty ground; returns its id. Raises BadRequest if a side is out of range."""
    check_size(width, height)
    ground_id = fresh_id(name, document.project.grounds)
    ground = Ground(ground_id, name, width, height, *tile, grid=grid)
    document.define(
        f"add ground {name}",
        replace(document.project, grounds=(*document.project.grounds, ground)),
        planes={**document.state.planes, ground_id: {}},
    )
    return ground_id


def furnish_ground(document: Document, ground_id: str) -> None:
    """Gives a ground a layer for every set that can lay tiles there, and one for single tiles on top."""
    project = document.project
    laying = [(one.name, one.id) for one in project.join_sets if one.labels]
    laying += [(one.name, one.id) for one in project.stitch_sets if one.stitches]
    for name, set_id in laying if "corners" in by_id(project.grounds, ground_id).board.painted else ():
        add_layer(document, ground_id, name, set_id)
    add_layer(document, ground_id, "Tiles")


def paint_with(
    document: Document, ground_id: str | None, set_id: str, things: Literal["join_sets", "stitch_sets"]
) -> tuple[str, str, int]:
    """Sees to it that a ground has a layer for a set, as one step; makes a ground for its tiles where there is none.

    Parameters
    ----------
    ground_id : str, optional
    set_id : str
    things : str
        The list that the set stands in.

    Returns
    -------
    ground_id, layer_id : str
    terrain : int
        The number of the first that shows where it is painted: not what a new layer is covered with.

    Raises
    ------
    BadRequest
        If the set has no tile yet.
    """
    project = document.project
    one = by_id(getattr(project, things), set_id)
    tile = (
        next((ref for piece in one.pieces for ref in piece.refs), None)
        if things == "stitch_sets"
        else next(iter(one.labels), None)
    )
    if tile is None:
        raise BadRequest(f"“{one.name}” has no tile yet; give it one first.")
    with document.step(f"paint with {one.name}"):
        if ground_id is None:
            cut = project.cuts[tile.sheet, tile.cut]
            ground_id = add_ground(document, "Ground 1", *FIRST_SIZE, cut.footprint, grid_of_tiles(cut.shape))
        for layer in reversed(by_id(document.project.grounds, ground_id).layers):
            if layer.set_id == set_id and layer.takes_terrains_of == things:
                break
        else:
            made = add_layer(document, ground_id, one.name, set_id)
            layer = by_id(document.project.grounds, ground_id).layer(made)
            if things == "join_sets":
                lay_hanging(document, ground_id, made)
    erased, count = layer.erased(document.project), len(layer.terrains(document.project))
    return ground_id, layer.id, max(1, min(erased + 1, count))


def is_under_others(document: Document, ground_id: str, layer_id: str) -> bool:
    """Whether a layer is the lowest of several, and would hide the others."""
    layers = by_id(document.project.grounds, ground_id).layers
    return len(layers) > 1 and layers[0].id == layer_id and layers[0].has_ground(document.project)


def is_laid(project: Project, set_id: str, things: Literal["join_sets", "stitch_sets"]) -> bool:
    """Whether a layer of any ground lays a set of joins or stitches."""
    return any(
        layer.set_id == set_id and layer.takes_terrains_of == things
        for ground in project.grounds
        for layer in ground.layers
    )


def resize_ground(document: Document, ground_id: str, width: int, height: int) -> None:
    """Changes the size of a ground at its right and bottom; what is new lies bare or goes on as at the border.

    Raises
    ------
    BadRequest
        If a side is out of range, or the ground could not go round any more as it does.
    """
    check_size(width, height)
    project = document.project
    ground = by_id(project.grounds, ground_id)
    changed = replace(ground, width=width, height=height)
    check_board(changed)
    (x, y), (was_x, was_y) = (one.projection.corner(0, 0) for one in (changed, ground))
    changed = replace(changed, layers=tuple(layer.moved(x - was_x, y - was_y) for layer in changed.layers))
    planes = {
        name: layer.resized(held, changed.board, project)
        for layer, name, held in with_hands(ground.layers, document.state.planes[ground_id])
    }
    document.define(
        "resize ground",
        replace(project, grounds=replaced(project.grounds, changed)),
        planes={**document.state.planes, ground_id: planes},
    )


def move_ground(document: Document, ground_id: str, by: int) -> None:
    """Moves a ground further up or down in the list of grounds."""
    project = document.project
    ground = by_id(project.grounds, ground_id)
    others = [one for one in project.grounds if one is not ground]
    place = min(max(project.grounds.index(ground) + by, 0), len(others))
    others.insert(place, ground)
    document.define(f"move {ground.name}", replace(project, grounds=tuple(others)))


def duplicate_ground(document: Document, ground_id: str) -> str:
    """Adds a copy of a ground, with all that is painted on it, behind it; returns its id."""
    project = document.project
    ground = by_id(project.grounds, ground_id)
    name = f"{ground.name[:75]} copy"
    # The copy lies beside no map: at each border there is room for one.
    made = replace(ground, id=fresh_id(name, project.grounds), name=name, east=None, south=None)
    grounds = list(project.grounds)
    grounds.insert(grounds.index(ground) + 1, made)
    document.define(
        f"duplicate {ground.name}",
        replace(project, grounds=tuple(grounds)),
        planes={**document.state.planes, made.id: document.state.planes[ground_id]},
    )
    return made.id


def remove_ground(document: Document, ground_id: str) -> None:
    """Takes a ground out, with the recipes that grow on it and the routes over it."""
    project = document.project
    document.define(
        f"remove {by_id(project.grounds, ground_id).name}",
        replace(
            project,
            grounds=tuple(
                one.apart_from(ground_id, "east").apart_from(ground_id, "south")
                for one in project.grounds
                if one.id != ground_id
            ),
            recipes=tuple(one for one in project.recipes if one.ground != ground_id),
            routes=tuple(one for one in project.routes if one.ground != ground_id),
        ),
        planes={name: planes for name, planes in document.state.planes.items() if name != ground_id},
    )


def set_view(document: Document, ground_id: str, *, side: bool) -> None:
    """Says that a ground is seen from the side, or from above."""
    ground = by_id(document.project.grounds, ground_id)
    kept = {name: one for name, one in ground.properties.items() if name != VIEW}
    properties = kept | ({VIEW: Property("text", "side")} if side else {})
    put(document, "view of a ground", "grounds", replace(ground, properties=properties))


def set_wraps(document: Document, ground_id: str, *, x: bool | None = None, y: bool | None = None) -> None:
    """Lets a ground go round at its borders, or not; raises BadRequest where it can't."""
    ground = by_id(document.project.grounds, ground_id)
    changed = replace(ground, wraps_x=ground.wraps_x if x is None else x, wraps_y=ground.wraps_y if y is None else y)
    check_board(changed)
    beside = maps_beside(document.project.grounds, ground)
    if beside and (changed.wraps_x or changed.wraps_y):
        raise BadRequest("Other maps lie beside this one, so it can't go round; take them apart first.")
    put(document, "go round", "grounds", changed)


def check_size(width: int, height: int) -> None:
    """Raises BadRequest where a ground cannot have this size."""
    if not (1 <= width <= LARGEST_GROUND and 1 <= height <= LARGEST_GROUND):
        raise BadRequest(
            f"A ground of {width} x {height} cells is out of range; give sides from 1 to {LARGEST_GROUND}."
        )


def check_board(ground: Ground) -> None:
    """Raises BadRequest where a ground of this size can't go round as it does."""
    if ground.board.problem:
        raise BadRequest(ground.board.problem)
