"""The mends for strokes that hide or are hidden: a floor that is filled last, a tree laid below the grass."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.layers import hides_most, move_layer
from knitground.core.edits.relaying import MOST_LOOKED_AT, code_covers, lay_above, stroke_at_hand, where_it_lies
from knitground.core.errors import BadRequest
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.derived import Derived
from knitground.core.project.model import Project

_HALF, _MOST_HIDDEN = 0.5, 2**16
"""What share of a ground a stroke has to reach to hide most, and how many cells at most to be looked for."""
_MOST_TILES = 256
"""Of how many different tiles it is looked at whether they cover their cells."""


def hides_below(derived: Derived, ground_id: str) -> bool:
    """Whether the last stroke laid tiles over most of a ground that hide what is painted on lower layers."""
    document = derived.document
    ground = by_id(document.project.grounds, ground_id)
    change = stroke_at_hand(document, ground)
    if change is None:
        return False
    cells, reached = ground.width * ground.height, sum(part.rect.width * part.rect.height for part in change.parts)
    if cells > MOST_LOOKED_AT or reached < _HALF * cells:
        return False
    return _place_below(derived, ground_id, change.layer) is not None


def lay_below_hidden(derived: Derived, ground_id: str, layer_id: str) -> None:
    """Moves a layer below those that it hides.

    Raises
    ------
    BadRequest
        If it hides nothing that is painted.
    """
    place = _place_below(derived, ground_id, layer_id)
    if place is None:
        name = by_id(derived.document.project.grounds, ground_id).layer(layer_id).name
        raise BadRequest(f"“{name}” hides nothing that is painted below it.")
    move_layer(derived.document, ground_id, layer_id, place)


def hidden_by(derived: Derived, ground_id: str) -> Layer | None:
    """The uppermost layer that hides what the last stroke laid; None if any of it may be seen."""
    ground = by_id(derived.document.project.grounds, ground_id)
    change = stroke_at_hand(derived.document, ground)
    if change is None:
        return None
    source = ground.layer(change.layer)
    if change.plane != source.area_plane or source.specs[change.plane].on != "cells" or source.stands_in_depth:
        return None
    if sum(part.rect.width * part.rect.height for part in change.parts) > _MOST_HIDDEN:
        return None
    erased, found = source.erased(derived.document.project), set[int]()
    for part in change.parts:
        before, after = part.before.array(), part.after.array()
        hiding = _hiding(derived, ground, source, part.rect)[(before != after) & (after != erased)]
        found |= set(hiding.tolist())
    return ground.layers[max(found)] if found and min(found) >= 0 else None


def _hiding(derived: Derived, ground: Ground, below: Layer, rect: CellRect) -> NDArray[np.intp]:
    """By cell the place of the uppermost layer that hides another there, -1 for none."""
    knitted, hiding = derived.knitted(ground.id), np.full((rect.height, rect.width), -1, dtype=np.intp)
    for place in range(ground.layers.index(below) + 1, len(ground.layers)):
        layer = ground.layers[place]
        solid = layer.visible and layer.opacity >= 1 and not layer.stands_in_depth
        if solid and where_it_lies(layer) == where_it_lies(below):
            codes = knitted.codes(layer.id, rect)
            whole = [code for code in np.unique(codes).tolist() if code > 0 and code_covers(derived, ground, code)]
            hiding[np.isin(codes, whole)] = place
    return hiding


def lay_above_hiding(derived: Derived, ground_id: str) -> str:
    """Moves the last stroke to a layer of single tiles above what hides it; returns its id.

    Raises
    ------
    BadRequest
        If nothing hides it, or it was laid on no layer of single tiles.
    """
    layer = hidden_by(derived, ground_id)
    if layer is None:
        raise BadRequest("Nothing hides what was laid last.")
    return lay_above(derived.document, ground_id, over=layer.id)


def _place_below(derived: Derived, ground_id: str, layer_id: str) -> int | None:
    """How low a layer would have to lie to hide nothing that is painted, 0 being the lowest; None if it hides nothing.

    What hides most of what is below it stays there.
    """
    document = derived.document
    ground, planes = by_id(document.project.grounds, ground_id), document.state.planes[ground_id]
    layer = ground.layer(layer_id)
    whole = layer.holds_tiles and not layer.stands_in_depth and hides_most(layer, planes[layer_id], document.project)
    if not whole:
        return None
    codes = planes[layer_id][layer.area_plane].unique()[:_MOST_TILES].tolist()
    if not all(code_covers(derived, ground, code) for code in codes if code > 0):
        return None
    place, hidden = ground.layers.index(layer), False
    while place and not hides_most(lower := ground.layers[place - 1], planes[lower.id], document.project):
        hidden |= lower.visible and _shows(lower, planes[lower.id], document.project)
        place -= 1
    return place if hidden else None


def _shows(layer: Layer, planes: Planes, sets: Project) -> bool:
    """Whether anything is painted on a layer, or stands there."""
    plane = planes.get(layer.area_plane)
    return bool(layer.sprites) or (plane is not None and any(code != layer.erased(sets) for code in plane.unique()))
