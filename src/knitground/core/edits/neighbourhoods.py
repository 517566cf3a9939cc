"""The neighbourhoods that all plans of a stitch set hold, and stitches for them."""

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

from knitground.core.edits.stitching import fresh_stitch_id
from knitground.core.layers.stitched import PLAN
from knitground.core.project.derived import Derived
from knitground.core.stitches.charts import SAME, chart_of
from knitground.core.stitches.neighbourhoods import Neighbourhood, neighbourhoods
from knitground.core.stitches.rules import Piece, Stitch, StitchSet
from knitground.core.tiles.tile import TileRef


class Found(NamedTuple):
    """A neighbourhood, and the ground and layer on which its first cell lies."""

    neighbourhood: Neighbourhood
    ground: str
    layer: str


def table_of(
    derived: Derived, stitch_set: StitchSet, progress: Callable[[float], None] = lambda share: None
) -> list[Found]:
    """All different neighbourhoods on all grounds, those that no stitch takes first, then the frequent ones."""
    places = [
        (ground, layer)
        for ground in derived.document.project.grounds
        for layer in ground.layers
        if layer.takes_terrains_of == "stitch_sets" and layer.knits and layer.set_id == stitch_set.id
    ]
    found: dict[tuple[int, ...], Found] = {}
    for done, (ground, layer) in enumerate(places):
        progress(done / len(places))
        knitted, board = derived.knitted(ground.id), ground.board
        if PLAN not in layer.specs:
            continue
        plan = knitted.planes[layer.id][PLAN]
        laid = knitted.laid(layer.id, board.whole)
        here = neighbourhoods(board, partial(board.read, plan), laid.codes, laid.unmet, board.whole)
        for one in here:
            found[one.marks] = _joined(found.get(one.marks), Found(one, ground.id, layer.id))
    return sorted(found.values(), key=lambda one: (one.neighbourhood.untaken == 0, -one.neighbourhood.cells))


def stitch_for(stitch_set: StitchSet, neighbourhood: Neighbourhood, tile: TileRef | None) -> Stitch:
    """A stitch that fits just one neighbourhood."""
    own = neighbourhood.marks[4]
    words = [str(mark) if place == 4 or mark != own else SAME for place, mark in enumerate(neighbourhood.marks)]
    chart = chart_of([words[at : at + 3] for at in (0, 3, 6)])
    return Stitch(fresh_stitch_id(stitch_set), (chart,), () if tile is None else (Piece(tile),))


def _joined(known: Found | None, new: Found) -> Found:
    """The same neighbourhood on two grounds; led to is the place where nothing takes it."""
    if known is None:
        return new
    one, other = known.neighbourhood, new.neighbourhood
    first = known if one.untaken or not other.untaken else new
    both = first.neighbourhood._replace(cells=one.cells + other.cells, untaken=one.untaken + other.untaken)
    return first._replace(neighbourhood=both)
