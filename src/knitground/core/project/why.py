"""Why this tile: every cell can say what laid its tile there."""

import numpy as np

from knitground.core.check.findings import letters
from knitground.core.ground.knitted import StitchTable
from knitground.core.ground.layers import StitchedLayer, TerrainLayer, next_by_id
from knitground.core.ground.window import Window
from knitground.core.joins.sets import JoinSet, Labels
from knitground.core.project.derived import Derived
from knitground.core.stitches.match import same_bits, winners
from knitground.core.tiles.tile import GAP, NUMBER_MASK


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
    layer = knitted.ground.layer(layer_id)
    code = int(knitted.codes(layer_id, Window(row, column, 1, 1))[0, 0])
    tile = _tile_name(derived, code)
    if isinstance(layer, TerrainLayer):
        join_set = next_by_id(derived.document.project.join_sets, layer.join_set)
        return _why_joined(derived, join_set, _labels_at(derived, ground_id, layer, row, column), code, tile)
    if isinstance(layer, StitchedLayer):
        return _why_stitched(derived, ground_id, layer, row, column, code, tile)
    return f"{tile}, laid by hand" if code else "bare"


def _labels_at(derived: Derived, ground_id: str, layer: TerrainLayer, row: int, column: int) -> Labels:
    """The four terrains round a cell, in the order of its set's places."""
    planes = derived.document.state.planes[ground_id][layer.id]
    if layer.joins == "corner":
        corners = planes["corners"]
        spots = ((row, column), (row, column + 1), (row + 1, column + 1), (row + 1, column))
        first, second, third, fourth = (int(corners[spot]) for spot in spots)
        return first, second, third, fourth
    across, along = planes["across"], planes["along"]
    return int(across[row, column]), int(along[row, column + 1]), int(across[row + 1, column]), int(along[row, column])


def _why_joined(derived: Derived, join_set: JoinSet, labels: Labels, code: int, tile: str) -> str:
    if not any(labels):
        return "bare"
    combination = f"{join_set.kind} joins “{join_set.name}”, {letters(join_set, labels)}"
    if code == GAP:
        return f"no tile: {combination}"
    usable = derived.usable(join_set.labels)
    variants = [ref for ref, row in join_set.labels.items() if row == labels and ref in usable]
    if len(variants) < 2:
        return f"{tile}: {combination}, the only one"
    notes = derived.document.project.tiles
    weights = [notes[ref].weight if ref in notes else 1.0 for ref in variants]
    chosen = variants.index(derived.document.palette.ref(code & NUMBER_MASK))
    share = weights[chosen] / sum(weights) if sum(weights) else 1 / len(weights)
    return f"{tile}: {combination}, one of {len(variants)}, {share:.0%} by weight"


def _why_stitched(
    derived: Derived, ground_id: str, layer: StitchedLayer, row: int, column: int, code: int, tile: str
) -> str:
    stitch_set = next_by_id(derived.document.project.stitch_sets, layer.stitch_set)
    plan = np.asarray(derived.document.state.planes[ground_id][layer.id]["plan"], dtype=np.uint8)
    mark = int(plan[row, column])
    if not mark:
        return "bare"
    rows = np.clip(np.arange(row - 1, row + 2), 0, plan.shape[0] - 1)
    columns = np.clip(np.arange(column - 1, column + 2), 0, plan.shape[1] - 1)
    table: StitchTable = winners(stitch_set.stitches, len(stitch_set.marks))
    index = int(table[mark, same_bits(plan[rows[:, None], columns])[0, 0]])
    name = f"“{stitch_set.name}”, {stitch_set.marks[mark - 1].name}"
    if code == GAP:
        return f"no tile: no stitch of {name} fits here"
    return f"{tile}: stitch {index + 1} of {name}"


def _tile_name(derived: Derived, code: int) -> str:
    if code <= 0:
        return "no tile"
    ref = derived.document.palette.ref(code & NUMBER_MASK)
    return f"{ref.sheet} {ref.column}, {ref.row}"
