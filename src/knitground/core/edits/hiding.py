"""The mend for a ground that is filled last: what was laid all over hides what was painted on the layers below it."""

from knitground.core.edits.layers import hides_most, move_layer
from knitground.core.edits.relaying import MOST_LOOKED_AT, code_covers, last_stroke
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.derived import Derived
from knitground.core.project.model import Project

_HALF = 0.5
"""What share of a ground a stroke has to reach."""
_MOST_TILES = 256
"""Of how many different tiles it is looked at whether they cover their cells."""


def hides_below(derived: Derived, ground_id: str) -> bool:
    """Whether the last stroke laid tiles over most of a ground that hide what is painted on lower layers."""
    document = derived.document
    ground = by_id(document.project.grounds, ground_id)
    try:
        change = last_stroke(document, ground)
    except BadRequest:
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
