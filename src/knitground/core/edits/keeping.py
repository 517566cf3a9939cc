"""The tray: keeping blocks and tiles as swatches, arranging them, and taking them in hand again."""

from collections.abc import Iterable
from dataclasses import replace

from knitground.core.edits.block_things import things_laid, with_things
from knitground.core.edits.blocks import Block, lay
from knitground.core.edits.clipping import block_of, clip_of
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest, KnitGroundError
from knitground.core.ground.ground import LARGEST_GROUND, Ground, by_id
from knitground.core.ground.knitted import Knitted
from knitground.core.ground.swatch import TRAY_COLUMNS, TRAY_ROWS, Swatch
from knitground.core.layers.props import as_props
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id
from knitground.core.render.compositor import render
from knitground.core.render.pixels import Pixels, premultiplied
from knitground.core.tiles.called import called
from knitground.core.tiles.tile import TileRef, orient

_MOST_PICTURED = 64


def keep_block(document: Document, block: Block, name: str = "") -> str:
    """Puts a block on the tray, at the first free place; returns the id of the swatch."""
    return _keep(document, name, clip=clip_of(block, document.palette))


def keep_tile(document: Document, tile: TileRef, orientation: int = 0, name: str = "") -> str:
    """Puts a tile on the tray, at the first free place; returns the id of the swatch."""
    return _keep(document, name or called(document.project.sheets, tile), tile=tile, orientation=orientation)


def place_swatch(document: Document, swatch_id: str, x: int, y: int) -> None:
    """Moves a swatch to a place of the tray; what lies there goes where it was."""
    if not (0 <= x < TRAY_COLUMNS and 0 <= y < TRAY_ROWS):
        raise BadRequest(f"The tray has {TRAY_COLUMNS} columns and {TRAY_ROWS} rows; let go inside it.")
    project = document.project
    moved = by_id(project.swatches, swatch_id)
    swatches = tuple(
        replace(one, x=x, y=y) if one is moved
        else replace(one, x=moved.x, y=moved.y) if (one.x, one.y) == (x, y)
        else one
        for one in project.swatches
    )  # fmt: skip
    document.define(f"move {moved.name}", replace(project, swatches=swatches))


def rename_swatch(document: Document, swatch_id: str, name: str) -> None:
    """Calls a swatch otherwise."""
    name = name.strip()[:80]
    if not name:
        raise BadRequest("A swatch needs a name; write one such as “well with a roof”.")
    put(document, "rename swatch", "swatches", replace(by_id(document.project.swatches, swatch_id), name=name))


def remove_swatch(document: Document, swatch_id: str) -> None:
    """Takes a swatch off the tray, and out of all mixes; what was laid of it stays."""
    project = document.project
    name = by_id(project.swatches, swatch_id).name
    kept = tuple(one for one in project.swatches if one.id != swatch_id)
    mixes = tuple(
        replace(mix, parts=tuple(part for part in mix.parts if part.swatch != swatch_id)) for mix in project.mixes
    )
    document.define(f"remove {name}", replace(project, swatches=kept, mixes=mixes))


def block_on(document: Document, swatch: Swatch) -> Block:
    """The block of a swatch; raises BadRequest where it can't be read, or is a tile."""
    try:
        if swatch.clip is None:
            raise ValueError(swatch.id)
        return block_of(swatch.clip, document.palette, [sheet.id for sheet in document.project.sheets])
    except (ValueError, IndexError, OverflowError):
        raise BadRequest(f"“{swatch.name}” can't be read; take it off the tray and keep it anew.") from None


def swatch_picture(derived: Derived, swatch: Swatch) -> Pixels | None:
    """How a swatch looks, (h, w, 4) uint8 with premultiplied alpha; None where that can't be told."""
    if swatch.tile is not None:
        tile = derived.tile(swatch.tile)
        return None if tile is None else premultiplied(orient(tile, swatch.orientation))
    try:
        block = block_on(derived.document, swatch)
    except KnitGroundError:
        return None
    height, width = block.cells.shape
    for ground in derived.document.project.grounds:
        held = {piece.layer for piece in block.pieces} | {one.layer for one in block.things}
        names = held & {layer.id for layer in ground.layers}
        if names and max(height, width) <= min(_MOST_PICTURED, LARGEST_GROUND):
            return _laid_alone(derived, ground, block, names)
    return None


def _laid_alone(derived: Derived, ground: Ground, block: Block, names: Iterable[str]) -> Pixels | None:
    """A block on a bare ground of its own size."""
    project, (height, width) = derived.document.project, block.cells.shape
    layers = tuple(replace(layer, locked=False, visible=True) for layer in ground.layers if layer.id in names)
    layers = tuple(replace(props, things=()) if (props := as_props(one)) is not None else one for one in layers)
    alone = replace(ground, width=width, height=height, layers=layers, wraps_x=False, wraps_y=False)
    planes = {layer.id: layer.blank(alone.board, project) for layer in layers}
    alone = with_things(alone, things_laid(alone, block.things, (0, 0)))
    try:
        changed = lay(alone, planes, block, (0, 0), layers[0].id)
    except KnitGroundError:
        return None
    planes = {name: {**held, **changed.get(name, {})} for name, held in planes.items()}
    tables = {layer.id: layer.table(derived) for layer in layers if layer.knits}
    scene = derived.scene(Knitted(alone, planes, tables, project.seed))
    return render(scene, alone.projection.bounds(alone.board.whole))


def _keep(document: Document, name: str, **held: object) -> str:
    swatches = document.project.swatches
    taken = {(one.x, one.y) for one in swatches}
    places = ((x, y) for y in range(TRAY_ROWS) for x in range(TRAY_COLUMNS))
    free = next((place for place in places if place not in taken), None)
    if free is None:
        raise BadRequest("The tray is full; take something off it first.")
    name = name or f"Swatch {len(swatches) + 1}"
    swatch = Swatch(fresh_id(name, swatches), name[:80], *free, **held)  # type: ignore[arg-type]
    put(document, f"keep {swatch.name}", "swatches", swatch)
    return swatch.id
