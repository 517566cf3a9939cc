"""The mend for the commonest slip: the last stroke was laid on the wrong layer."""

import numpy as np

from knitground.core.edits.painting import check_unlocked
from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer
from knitground.core.project.delta import PlaneChange
from knitground.core.project.document import Document

_NO_STROKE = "The last step was no stroke on this ground, so there is nothing to move; undo it with Ctrl+Z."


def move_last_stroke(document: Document, ground_id: str, onto: str) -> None:
    """Takes the last stroke off its layer and lays it on another one, as one step.

    Raises
    ------
    BadRequest
        If the last step was no stroke on one layer of the ground, or the other layer can't take it.
    """
    ground = by_id(document.project.grounds, ground_id)
    change = _last_stroke(document, ground)
    source, target = ground.layer(change.layer), ground.layer(onto)
    _check(document, source, target, change)
    planes = document.state.planes[ground_id]
    back = change.inverse.applied(planes[source.id][change.plane])
    laid = planes[target.id][target.area_plane]
    for rect, before, after in change.parts:
        old, new = before.array(), after.array()
        laid = laid.written(rect, np.where(old != new, new, laid.read(rect)).astype(laid.dtype))
    assert back is not None  # a stroke changes parts of a plane that stays
    changed: dict[str, dict[str, Plane]] = {source.id: {change.plane: back}, target.id: {target.area_plane: laid}}
    document.put_planes(f"move the stroke to {target.name}", ground_id, changed)


def _last_stroke(document: Document, ground: Ground) -> PlaneChange:
    steps = document.history.done
    changes = steps[-1].delta.planes if steps else ()
    if len(changes) != 1 or changes[0].ground != ground.id or changes[0].whole or steps[-1].delta.fields:
        raise BadRequest(_NO_STROKE)
    return changes[0]


def _check(document: Document, source: Layer, target: Layer, change: PlaneChange) -> None:
    if source.id == target.id:
        raise BadRequest(f"The last stroke lies on “{target.name}” already; choose the layer that it should lie on.")
    for layer in (source, target):
        check_unlocked(layer)
    mine, other = source.specs[change.plane], target.specs[target.area_plane]
    if (mine.on, mine.codes) != (other.on, other.codes) or not target.takes_areas:
        raise BadRequest(f"“{target.name}” is of another kind than “{source.name}”, so it can't take the stroke.")
    highest = max(int(part.after.array().max(initial=0)) for part in change.parts)
    if not mine.codes and highest > len(target.terrains(document.project)):
        raise BadRequest(f"“{target.name}” has no terrain number {highest}, so it can't take the stroke.")
