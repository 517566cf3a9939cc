"""Why this tile: every cell can say what laid its tile there."""

import numpy as np

from knitground.core.check.findings import letters
from knitground.core.ground.derive import StitchTable, bordered, mended_in, painted_in
from knitground.core.ground.layers import (
    PINS,
    Ground,
    Planes,
    StitchedLayer,
    TerrainLayer,
    TileLayer,
    next_by_id,
)
from knitground.core.ground.window import Window
from knitground.core.joins.lattice import doubled, labels_of
from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.joins.table import JoinTable
from knitground.core.project.derived import Derived
from knitground.core.stitches.match import same_bits, winners
from knitground.core.tiles.tile import EMPTY, GAP, NUMBER_MASK, ORIENTATION_SHIFT


def why(derived: Derived, ground_id: str, layer_id: str, row: int, column: int) -> str:
    """A sentence about the tile of one cell of a layer.

    Raises
    ------
    IndexError
        If the cell is off the ground.
    """
    knitted = derived.knitted(ground_id)
    if not Window(0, 0, knitted.ground.height, knitted.ground.width).holds(row, column):
        raise IndexError((row, column))
    ground, layer = knitted.ground, knitted.ground.layer(layer_id)
    code = int(knitted.codes(layer_id, Window(row, column, 1, 1))[0, 0])
    tile = _tile_name(derived, code)
    planes = derived.document.state.planes[ground_id][layer_id]
    if isinstance(layer, TileLayer):
        return f"{tile}, laid by hand" if code else "bare"
    if PINS in planes and planes[PINS][row, column]:
        return f"{tile}, pinned by hand"
    if isinstance(layer, TerrainLayer):
        join_set = next_by_id(derived.document.project.join_sets, layer.join_set)
        return _why_joined(derived, join_set, ground, planes, Window(row, column, 1, 1), code)
    return _why_stitched(derived, ground_id, layer, row, column, code, tile)


def _why_joined(derived: Derived, join_set: JoinSet, ground: Ground, planes: Planes, cell: Window, code: int) -> str:
    table: JoinTable = derived.table(join_set)
    painted = labels_of(doubled(painted_in(planes, table, cell, ground)), table.kind)[0, 0]
    mended = mended_in(ground, planes, table, cell)
    laid = tuple((painted if mended is None or not len(mended.rows) else mended.labels[0]).tolist())
    wanted = tuple(painted.tolist())
    if code == EMPTY and not any(wanted):
        return "bare"
    name = f"{join_set.kind} joins “{join_set.name}”, {letters(join_set, laid)}"
    if code == GAP:
        return f"no tile: {name}"
    if laid == wanted:
        return f"{_tile_name(derived, code)}: {name}, {_share(derived, join_set, laid, code)}"
    lacks = "a neighbour has no tile" if table.lays(painted) else f"no tile for {letters(join_set, wanted)}"
    breaks = ", and a join breaks" if mended is not None and mended.broken[0] else ""
    return f"{_tile_name(derived, code)}: {name}; laid instead, as {lacks}{breaks}"


def _share(derived: Derived, join_set: JoinSet, labels: Labels, code: int) -> str:
    """How a tile came to be chosen among those of its combination."""
    variants = derived.coverage(join_set).tiles.get(labels, ())
    turned = " by turning" if code >> ORIENTATION_SHIFT else ""
    if len(variants) < 2:
        return f"the only one{turned}"
    notes = derived.document.project.tiles
    weights = [notes[one.ref].weight if one.ref in notes else 1.0 for one in variants]
    codes = [derived.document.palette.code(one.ref, one.orientation) for one in variants]
    chosen = codes.index(code)
    share = weights[chosen] / sum(weights) if sum(weights) else 1 / len(weights)
    return f"one of {len(variants)}, {share:.0%} by weight{turned}"


def _why_stitched(
    derived: Derived, ground_id: str, layer: StitchedLayer, row: int, column: int, code: int, tile: str
) -> str:
    stitch_set = next_by_id(derived.document.project.stitch_sets, layer.stitch_set)
    plan = np.asarray(derived.document.state.planes[ground_id][layer.id]["plan"], dtype=np.uint8)
    mark = int(plan[row, column])
    if not mark:
        return "bare"
    table: StitchTable = winners(stitch_set.stitches, len(stitch_set.marks))
    around = bordered(plan, Window(row, column, 1, 1), derived.knitted(ground_id).ground)
    index = int(table[mark, same_bits(around)[0, 0]])
    name = f"“{stitch_set.name}”, {stitch_set.marks[mark - 1].name}"
    if code == GAP:
        return f"no tile: no stitch of {name} fits here"
    return f"{tile}: stitch {index + 1} of {name}"


def _tile_name(derived: Derived, code: int) -> str:
    if code <= 0:
        return "no tile"
    ref = derived.document.palette.ref(code & NUMBER_MASK)
    return f"{ref.sheet} {ref.column}, {ref.row}"
