"""Erasing what stitches lay: where a block or a shifted tile lies, the mark goes by which it is laid."""

from collections.abc import Iterable

import numpy as np

from knitground.core.edits.painting import Covered
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.layers.stitched import PLAN, as_stitched
from knitground.core.project.derived import Derived


def marks_under(derived: Derived, ground_id: str, layer_id: str, covered: Iterable[Covered]) -> list[tuple[int, int]]:
    """The cells at which the stitches fire whose tiles lie in some cells of a stitched layer.

    Parameters
    ----------
    covered : iterable of Covered
        What a gesture covers of the layer's plan.
    """
    knitted = derived.knitted(ground_id)
    layer, table = as_stitched(knitted.ground.layer(layer_id)), knitted.tables.get(layer_id)
    # Where all tiles lie in the cells that lay them, the gesture itself takes the marks away.
    if layer is None or table is None or not table.spread:
        return []
    planes = knitted.seen(layer_id, knitted.planes[layer_id])
    found: set[tuple[int, int]] = set()
    for one in covered:
        shape = one.shapes.get(PLAN)
        if shape is None or shape.window.is_empty:
            continue
        sewn = layer.sewn(knitted.ground.board, planes, table, knitted.seed, shape.window, traced=True)
        for row, column in np.argwhere(shape.mask).tolist():
            owner = sewn.owner_of(0, row, column)
            if owner is not None:
                found.add((owner.row, owner.column))
    return sorted(found)


def unpick(derived: Derived, ground_id: str, layer_id: str, cells: Iterable[tuple[int, int]]) -> None:
    """Takes the marks of some cells out of a plan."""
    for row, column in cells:
        shape = Shape(CellRect(row, column, 1, 1), np.ones((1, 1), dtype=bool))
        derived.document.paint("erase", ground_id, layer_id, PLAN, shape, 0)
