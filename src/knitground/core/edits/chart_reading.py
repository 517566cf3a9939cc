"""Charts read off a ground: this must be like that."""

from collections.abc import Mapping

import numpy as np

from knitground.core.edits.selecting import Selected
from knitground.core.errors import BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.layers.layer import Follows
from knitground.core.layers.laying import painted_bits
from knitground.core.layers.stitched import PLAN, StitchedLayer
from knitground.core.project.derived import Derived
from knitground.core.project.wool import bears
from knitground.core.stitches.charts import ANY, LARGEST_CHART, Chart, chart_of
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.notes import PLAIN
from knitground.core.tiles.tile import NUMBER_MASK


def chart_like(
    derived: Derived, selected: Selected | None, layer: StitchedLayer, stitch_set: StitchSet, of: str = ""
) -> Chart:
    """The chart of a view that asks for just what lies in the selected cells, their middle being its own.

    Parameters
    ----------
    layer : StitchedLayer
        On which the set is laid.
    of : str
        The view, or nothing for the plan.

    Raises
    ------
    BadRequest
        If nothing is selected, or too much, or the view sees no layer.
    """
    if selected is None:
        raise BadRequest("Select the cells on the ground that the chart is to be like first (S).")
    window = selected.shape.window
    height, width = window.height - 1 + window.height % 2, window.width - 1 + window.width % 2
    if max(height, width) > LARGEST_CHART:
        raise BadRequest(f"A chart has at most {LARGEST_CHART} x {LARGEST_CHART} cells; select fewer.")
    rect = window._replace(height=height, width=width)
    words = _words(derived, selected.ground, layer, stitch_set, of, rect)
    mask = selected.shape.mask[:height, :width]
    return chart_of(
        [[word if mask[y, x] else ANY for x, word in enumerate(row)] for y, row in enumerate(words)],
        of,
    )


def _words(
    derived: Derived, ground_id: str, layer: StitchedLayer, stitch_set: StitchSet, of: str, rect: CellRect
) -> list[list[str]]:
    knitted = derived.knitted(ground_id)
    if not of:
        return [[str(mark) for mark in row] for row in knitted.planes[layer.id][PLAN].read(rect).tolist()]
    view, follows = stitch_set.view(of), _follows(derived, ground_id, layer).get(of)
    if view is None or follows is None:
        raise BadRequest(f"“{of}” sees no layer on this ground; charts of it can't be read off.")
    if view.sees == "painted":
        seen = knitted.ground.layer(follows.layer)
        bits = painted_bits(seen, knitted.ground.board, knitted.planes[follows.layer], rect)
        return [[_painted_word(int(one)) for one in row] for row in bits.tolist()]
    codes = np.maximum(knitted.codes(follows.layer, rect), 0) & NUMBER_MASK
    notes, palette = derived.document.project.tiles, derived.document.palette

    def tile_word(number: int) -> str:
        if not number:
            return "0"
        ref = palette.ref(number)
        for place, sign in enumerate(view.signs, start=1):
            if bears(ref, notes.get(ref, PLAIN), sign):
                return str(place)
        return ANY

    return [[tile_word(int(number)) for number in row] for row in codes.tolist()]


def _follows(derived: Derived, ground_id: str, layer: StitchedLayer) -> Mapping[str, Follows]:
    return derived.knitted(ground_id).following.get(layer.id, {})


def _painted_word(bits: int) -> str:
    numbers = [number for number in range(bits.bit_length()) if bits >> number & 1]
    return str(numbers[0]) if len(numbers) == 1 else "/".join(f"{number}~" for number in numbers)
