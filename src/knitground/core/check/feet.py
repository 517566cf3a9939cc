"""Flat tiles of isometric grounds that lie over the feet of what stands on them.

Layers that are stacked by depth are drawn together, cell by cell from the back to the front. What stands in the upper
half of a cell comes before the tile of that cell then: right where the tile is a wall, wrong where it is a floor.
"""

from collections.abc import Iterator, Sequence
from itertools import groupby

import numpy as np

from knitground.core.check.check import DefinitionCheck, Facts, Finding, many
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Thing

HIDDEN = "hidden feet"
FLOOR = "hidden feet on a floor"
"""The same, where all that lies on the layer is flat."""
_ROWS = 128
_INSIDE = 0.5
_MEND = (
    "Let the layer be drawn as a whole, in “Look, place and blocking…”, and lie below what stands; what stands upright "
    "on it goes on a layer of its own."
)


def _about(facts: Facts) -> Sequence[Ground]:
    return [ground for ground in facts.grounds if ground.isometric]


def _find(facts: Facts, ground: Ground) -> Iterator[Finding]:
    for in_depth, group in groupby(ground.shown(), lambda layer: layer.stands_in_depth):
        if in_depth:
            layers = tuple(group)
            for layer in layers:
                if (layer.holds_tiles or layer.knits) and layer.offset_y >= 0 and layer.opacity > 0:
                    yield from _over_feet(facts, ground, layer, layers)


def _over_feet(facts: Facts, ground: Ground, layer: Layer, together: Sequence[Layer]) -> Iterator[Finding]:
    hidden: dict[tuple[int, int], int] = {}
    for props in filter(None, map(as_props, together)):
        for thing in props.things if props.opacity > 0 else ():
            facts.pulse()
            moved = props.offset_x - layer.offset_x, props.offset_y - layer.offset_y
            cell = _cell_over(facts, ground, layer, thing, moved) if thing.tile is not None else None
            if cell is not None:
                hidden[cell] = hidden.get(cell, 0) + 1
    if hidden:
        count, (row, column) = sum(hidden.values()), min(hidden)
        whose = many(count, "thing", "things")
        yield Finding(
            FLOOR if _is_floor(facts, ground, layer) else HIDDEN, "ground",
            f"{ground.name}, {layer.name}: flat tiles lie over the feet of {whose}, first at {column}, {row}",
            ground.id, layer.id, row, column, count=count, mend=_MEND,
        )  # fmt: skip


def _is_floor(facts: Facts, ground: Ground, layer: Layer) -> bool:
    """Whether all tiles of a layer are flat."""
    for cells in ground.board.whole.bands(_ROWS):
        facts.pulse()
        codes = facts.laid(ground.id, layer.id, cells).codes
        if not facts.lies_flat(ground, np.unique(codes[codes > 0])).all():
            return False
    return True


def _cell_over(
    facts: Facts, ground: Ground, layer: Layer, thing: Thing, moved: tuple[int, int]
) -> tuple[int, int] | None:
    """The cell of a layer whose flat tile is drawn over the foot of a thing moved so far, if there is one."""
    x, y = thing.x + moved[0], thing.y + moved[1] - _INSIDE
    cell = ground.board.cell_at(*(float(n) for n in ground.projection.place(x, y)))
    if cell is None or thing.y >= ground.projection.corner(*cell)[1] + ground.tile_height:
        return None
    codes = facts.laid(ground.id, layer.id, CellRect(*cell, 1, 1)).codes
    return cell if codes[0, 0] > 0 and facts.lies_flat(ground, codes).all() else None


CHECK = DefinitionCheck(
    "feet", _about, lambda facts, ground: facts.blocking_since(ground), lambda *of: tuple(_find(*of)), at_once=False
)
