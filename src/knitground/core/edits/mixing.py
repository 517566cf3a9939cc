"""Mixes on grounds: throwing one again where it lies, and layers that lay one where a terrain lies and follow it."""

from collections.abc import Collection, Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import seed_for
from knitground.core.edits.layers import put_layer
from knitground.core.edits.painting import paintable
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground, by_id
from knitground.core.ground.swatch import Swatch
from knitground.core.grow.mix import Mix, MixPart, holds, problem_of_mixes
from knitground.core.grow.thrown import LARGEST_BLOCK, blocks_lying, throw_of, thrown
from knitground.core.layers.layer import Layer
from knitground.core.layers.mixed import MixLayer
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id, replaced
from knitground.core.tiles.notes import PLAIN
from knitground.core.tiles.tile import TileRef


def put_into(document: Document, mix_id: str, part: MixPart) -> int:
    """Adds a part to a mix, as heavy as the others are on the whole; returns its place, also where it was in it before.

    Raises
    ------
    BadRequest
        If the mix would be in itself, or the swatch holds no tiles that a mix can lay.
    """
    project = document.project
    mix = by_id(project.mixes, mix_id)
    there = next((place for place, one in enumerate(mix.parts) if one.same(part)), None)
    if there is not None:
        return there
    if part.mix and holds(part.mix, mix_id, project.mixes):
        name = by_id(project.mixes, part.mix).name
        raise BadRequest(f"“{name}” has “{mix.name}” in it, so it can't be put into it.")
    if part.swatch:
        _check_block(by_id(project.swatches, part.swatch))
    weight = sum(one.weight for one in mix.parts) / max(1, len(mix.parts)) or 1.0
    after = replaced(project.mixes, replace(mix, parts=(*mix.parts, replace(part, weight=round(weight, 3)))))
    if problem_of_mixes(after):
        raise BadRequest(f"“{mix.name}” can't take that: {problem_of_mixes(after)}.")
    document.define("put into mix", replace(project, mixes=after))
    return len(mix.parts)


def mix_of(document: Document, refs: Collection[TileRef]) -> str:
    """Makes a mix of tiles, each as heavy as is said of it; returns its id, or that of a mix of just these.

    Raises
    ------
    BadRequest
        If they are less than two.
    """
    if len(refs) < 2:
        raise BadRequest("A mix needs two tiles or more; choose some with Ctrl, or by a drag.")
    project = document.project
    there = mix_of_just(project.mixes, refs)
    if there is not None:
        return there.id
    parts = tuple(MixPart(ref, project.tiles.get(ref, PLAIN).weight) for ref in sorted(refs))
    names, number = {mix.name for mix in project.mixes}, 1
    while f"Mix {number}" in names:
        number += 1
    mix_id = fresh_id(f"Mix {number}", project.mixes)
    put(document, "add mix", "mixes", Mix(mix_id, f"Mix {number}", parts))
    return mix_id


def mix_of_just(mixes: Iterable[Mix], refs: Collection[TileRef]) -> Mix | None:
    """The first of some mixes that is of just some tiles, as they are drawn; None if none is."""
    wanted = {(ref, 0) for ref in refs}
    return next(
        (
            mix for mix in mixes
            if len(mix.parts) == len(refs) and {(part.tile, part.orientation) for part in mix.parts} == wanted
        ),
        None,
    )  # fmt: skip


def _check_block(swatch: Swatch) -> None:
    cells = swatch.tile_cells
    if not cells and (swatch.clip is None or not swatch.clip.things):
        raise BadRequest(f"“{swatch.name}” holds no single tiles and no things; keep a block that does on the tray.")
    for lines in ([cell.down for cell in cells], [cell.across for cell in cells]):
        if lines and max(lines) - min(lines) >= LARGEST_BLOCK:
            raise BadRequest(f"“{swatch.name}” is too large for a mix: {LARGEST_BLOCK} cells either way at most.")


def rename_mix(document: Document, mix_id: str, name: str) -> None:
    """Calls a mix otherwise."""
    if not name.strip():
        raise BadRequest("A mix needs a name; write one such as “meadow”.")
    put(document, "rename mix", "mixes", replace(by_id(document.project.mixes, mix_id), name=name.strip()[:80]))


def remove_mix(document: Document, mix_id: str) -> None:
    """Takes a mix out; what was laid of it stays.

    Raises
    ------
    BadRequest
        If something else still lays it.
    """
    project = document.project
    mix = by_id(project.mixes, mix_id)
    users = [f"the mix “{one.name}”" for one in project.mixes if any(part.mix == mix_id for part in one.parts)]
    users += [f"the stitches “{one.name}”" for one in project.stitch_sets if mix_id in one.mixes]
    users += [f"the recipe “{one.name}”" for one in project.recipes if mix_id in [step.mix_id for step in one.steps]]
    users += [
        f"the layer “{layer.name}” of “{ground.name}”"
        for ground in project.grounds
        for layer in ground.layers
        if layer.mix_id == mix_id
    ]
    if users:
        raise BadRequest(f"“{mix.name}” is laid by {users[0]}; take it out there first.")
    document.define(f"remove {mix.name}", replace(project, mixes=tuple(one for one in project.mixes if one is not mix)))


def add_living_mix(document: Document, ground_id: str, mix_id: str, on: str = "", terrain: int = 0) -> str:
    """Adds a layer above another one that lays a mix wherever a terrain lies there; returns its id.

    Parameters
    ----------
    on : str
        The layer that it follows; none for all over the ground, and then on top.
    terrain : int
        0 for anything that lies there.

    Raises
    ------
    BadRequest
        If the mix has no tiles.
    """
    project = document.project
    mix, ground = by_id(project.mixes, mix_id), by_id(project.grounds, ground_id)
    if not any(not part.bare and part.weight > 0 for part in mix.parts):
        raise BadRequest(f"“{mix.name}” has no tile to lay; click tiles on the sheet to put them in.")
    layer = MixLayer(fresh_id(mix.name, ground.layers), mix.name, mix.id, on=on, terrain=terrain)
    place = len(ground.layers) if not on else [one.id for one in ground.layers].index(on) + 1
    layers = (*ground.layers[:place], layer, *ground.layers[place:])
    grounds: tuple[Ground, ...] = replaced(project.grounds, replace(ground, layers=layers))
    planes = {**document.state.planes[ground_id], layer.id: layer.blank(ground.board, project)}
    document.define(
        f"living mix {mix.name}", replace(project, grounds=grounds), planes={**document.state.planes, ground_id: planes}
    )
    return layer.id


def throw_living_mix(document: Document, ground_id: str, layer: Layer) -> None:
    """Another throw of a living mix; pins stay.

    Raises
    ------
    BadRequest
        If the layer is none.
    """
    thrown = getattr(layer, "throw", None)
    if thrown is None:
        raise BadRequest(f"“{layer.name}” is no living mix; choose one in the column of layers.")
    again = seed_for(thrown, "throw again") % 1_000_000
    put_layer(document, ground_id, "throw the living mix again", replace(layer, throw=again))  # type: ignore[call-arg]


def throw_again(
    derived: Derived, ground_id: str, layer_id: str, mix_id: str, seed: int,
    within: Shape | None = None, held: Shape | None = None,
) -> None:  # fmt: skip
    """Another throw of a mix wherever it lies on a layer of single tiles, as one step.

    Parameters
    ----------
    within : Shape, optional
        Only in these cells; on all of the ground if not given.
    held : Shape, optional
        Not in these; blocks that reach into them stay.

    Raises
    ------
    BadRequest
        If nothing of the mix lies there, or the layer can't be changed.
    """
    document = derived.document
    ground, layer = paintable(document, ground_id, layer_id)
    mix = by_id(document.project.mixes, mix_id)
    if not layer.holds_tiles:
        raise BadRequest(f"“{layer.name}” does not hold single tiles; choose the layer on which “{mix.name}” lies.")
    throw, board = throw_of(mix, document.project, derived.code), ground.board
    plane = document.state.planes[ground_id][layer_id][layer.area_plane]
    before = np.asarray(plane)
    mine = np.isin(before, [cell.code for piece in throw.pieces for cell in piece if cell.code > 0])
    free = mine & _mask(board, within, outside=False) & ~_mask(board, held, outside=True)
    for rows, columns in blocks_lying(throw, board, before):
        held_fast = ~free[rows, columns].all(axis=1)
        free[rows[held_fast], columns[held_fast]] = False
    if not free.any():
        raise BadRequest(f"There is nothing of “{mix.name}” to throw again; lay some first, or select where it lies.")
    codes = thrown(throw, seed, board, board.whole, free)
    after = np.where(free, np.maximum(codes, 0), before).astype(np.int32)
    document.put_planes(f"throw {mix.name} again", ground_id, {layer_id: {layer.area_plane: Plane.of(after)}})


def _mask(board: Board, shape: Shape | None, *, outside: bool) -> NDArray[np.bool_]:
    """A shape as cells of the ground, (H, W) bool; `outside` says that none is nothing, and else it is everything."""
    found = np.full((board.height, board.width), shape is None and not outside)
    if shape is not None:
        found[shape.window.rows, shape.window.columns] = shape.mask
    return found
