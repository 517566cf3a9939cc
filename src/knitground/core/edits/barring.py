"""Letting what stands on a ground block as a whole, where nobody has said yet what does."""

from collections.abc import Callable, Collection

import numpy as np

from knitground.core.edits.notes import notes_of, set_collision
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import by_id
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import properties_of
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.notes import TileNotes
from knitground.core.tiles.shape_kinds import FEET
from knitground.core.tiles.tile import NUMBER_MASK, TileRef
from knitground.core.walk.solid import BLOCKS

_STANDS = 1.5
"""From how many times as high as a cell a tile stands on it: what is lower may be a step, or grass."""
_ROWS = 128
_NEAR = 40
"""How many cells round a place are looked at before somebody asks for all."""


def standing_on(
    derived: Derived,
    ground_id: str,
    cells: CellRect | None = None,
    *,
    progress: Callable[[float], None] = lambda share: None,
) -> list[TileRef]:
    """The tiles and sprites without a shape that stand on a ground and are clearly higher than its cells.

    What lies on layers that were moved up is not among them, as roofs are: one may walk below.

    Parameters
    ----------
    derived : Derived
    ground_id : str
    cells : CellRect, optional
        Where tiles are looked for; all over the ground if not given, as sprites always are.
    progress : callable, optional
        Is told the share that is done, from 0 to 1; may raise to stop.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    found = dict[TileRef, None]()
    for number, layer in enumerate(ground.layers):
        progress(number / len(ground.layers))
        if layer.solid == "shapes" and not layer.marks_walking and layer.offset_y >= 0:
            found |= dict.fromkeys(_on_layer(derived, ground_id, layer, cells or ground.board.whole))
    return [ref for ref in found if _stands(derived, ref, ground.tile_height)]


def stands_unsaid(derived: Derived, ground_id: str, x: float, y: float) -> bool:
    """Whether nothing blocks on a ground, though something stands round a place of it, in pixels."""
    if not _nothing_blocks(derived, ground_id):
        return False
    ground = by_id(derived.document.project.grounds, ground_id)
    far = _NEAR * ground.tile_width
    around = PixelRect(int(x), int(y), 1, 1).grown(far, far, far, far)
    return bool(standing_on(derived, ground_id, ground.board.clip(ground.projection.cells_in(around))))


def let_block(document: Document, standing: Collection[TileRef]) -> int:
    """Lets what stands on a ground block, as one step: tiles by their cells, sprites by their foot; how many do.

    Parameters
    ----------
    document : Document
    standing : collection of TileRef
        As `standing_on` finds them.

    Raises
    ------
    BadRequest
        If nothing stands there that has no shape yet.
    """
    free = [ref for ref in standing if not _is_said(notes_of(document, ref))]
    if not free:
        raise BadRequest(
            "Nothing higher than a cell and a half stands on this ground without a shape; a walk layer bars any cell."
        )
    set_collision(document, dict.fromkeys(free, "whole"))
    return len(free)


def _nothing_blocks(derived: Derived, ground_id: str) -> bool:
    """Whether nobody has said of anything that it blocks: no tile, rule, layer, mark or thing."""
    project = derived.document.project
    ground = by_id(project.grounds, ground_id)
    rules = project.blocks
    things = (thing for layer in ground.layers if (props := as_props(layer)) is not None for thing in props.things)
    return not (
        rules.tags
        or rules.properties
        or rules.terrains
        or any(layer.marks_walking or layer.solid != "shapes" for layer in ground.layers)
        or any(_is_said(notes) for notes in project.tiles.values())
        or any(BLOCKS in properties_of(thing, project.thing_kinds) for thing in things)
    )


def _on_layer(derived: Derived, ground_id: str, layer: Layer, cells: CellRect) -> list[TileRef]:
    """The tiles that lie on a layer, or are the sprites of its things."""
    props = as_props(layer)
    if props is not None:
        return [thing.tile for thing in props.things if thing.tile is not None]
    knitted = derived.knitted(ground_id)
    numbers = np.zeros(1, dtype=np.int64)
    for top in range(cells.top, cells.bottom, _ROWS):
        rows = cells._replace(top=top, height=min(_ROWS, cells.bottom - top))
        codes = knitted.codes(layer.id, rows)
        # Counting is many times as quick as sorting.
        more = np.bincount(np.where(codes > 0, codes & NUMBER_MASK, 0).ravel())
        numbers = np.pad(numbers, (0, max(0, len(more) - len(numbers))))
        numbers[: len(more)] += more
    return [derived.document.palette.ref(number) for number in (np.flatnonzero(numbers[1:]) + 1).tolist()]


def _stands(derived: Derived, ref: TileRef, cell: int) -> bool:
    """Whether a tile is clearly higher than a cell, and nobody has said whether it blocks."""
    drawn = derived.tile(ref)
    if drawn is None or _is_said(notes_of(derived.document, ref)):
        return False
    # Only its art counts: on many sheets floors lie in cells as high as those of walls.
    rows = np.flatnonzero(drawn[..., 3].any(axis=1))
    return len(rows) > 0 and int(rows[-1] - rows[0]) + 1 >= _STANDS * cell


def _is_said(notes: TileNotes) -> bool:
    """Whether a tile has a shape for feet, or can't be walked on."""
    return notes.shape(FEET) != "none" or not notes.walkable
