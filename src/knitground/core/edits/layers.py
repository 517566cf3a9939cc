"""Layers of a ground: adding, removing, moving them, and what their headers say."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from itertools import chain, count
from typing import Any

import numpy as np

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import Ground, by_id
from knitground.core.joins.sets import Terrain
from knitground.core.layers import make_layer
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.by_hand import hand_key
from knitground.core.project.document import Document
from knitground.core.project.model import Project, fresh_id, replaced

_LONGEST_PATH = 400
_MOSTLY = 0.5
"""What share of a ground a layer has to hide so that another is not laid below it."""


def add_layer(
    document: Document,
    ground_id: str,
    name: str,
    set_id: str | None = None,
    kind: str | None = None,
    above: str | None = None,
) -> str:
    """Adds a layer; returns its id. Where another has its name, a number comes behind it.

    Parameters
    ----------
    set_id : str, optional
        The set that lays its tiles.
    kind : str, optional
        Of the layer; if not given, the one that lays tiles by the set, or single tiles.
    above : str, optional
        The layer that it lies right above, in the same group; if not given, it lies on top of all, or below all if it
        would hide them.
    """
    ground = by_id(document.project.grounds, ground_id)
    name = _free(name, ground)
    layer_id = fresh_id(name, ground.layers)
    layer = fitted(make_layer(layer_id, name, set_id, document.project, kind), ground)
    if ground.isometric and layer.holds_tiles and any(one.holds_tiles for one in ground.layers):
        # What stands on an isometric ground hides what is behind it, on whichever layer that lies. The lowest is the
        # floor: it hides nothing, least of all the feet of what stands on it.
        layer = replace(layer, stacking="depth")
    planes = document.state.planes[ground_id]
    below = next((one for one in ground.layers if one.id == above), None)
    place = len(ground.layers) if below is None else ground.layers.index(below) + 1
    if layer.has_ground(document.project):
        if any(hides_most(one, planes[one.id], document.project) for one in ground.layers):
            layer = layer.above_others(document.project)
        elif above is None:
            place = 0  # it would hide all that is painted
    layer = layer if below is None else replace(layer, group=below.group)
    layers = *ground.layers[:place], layer, *ground.layers[place:]
    planes = {**planes, layer_id: layer.blank(ground.board, document.project)}
    _put_ground(document, f"add layer {name}", replace(ground, layers=layers), planes)
    return layer_id


def hides_most(layer: Layer, planes: Planes, sets: Project) -> bool:
    """Whether a layer hides most of what lies below it, by its ground or by what is painted."""
    if layer.has_ground(sets):
        return True
    plane = planes.get(layer.area_plane) if layer.holds_tiles or layer.knits else None
    return plane is not None and float((np.asarray(plane) != layer.erased(sets)).mean()) > _MOSTLY


def _free(name: str, ground: Ground) -> str:
    """A name that no layer of a ground has: the one that is wanted, or with a number behind it."""
    taken = {layer.name for layer in ground.layers}
    return next(one for one in chain((name,), (f"{name} {n}" for n in count(2))) if one not in taken)


def tile_layer(document: Document, ground_id: str) -> str:
    """The id of the uppermost layer of a ground on which single tiles can be laid; a new one where there is none."""
    found = _uppermost(document, ground_id, lambda layer: layer.holds_tiles)
    return add_layer(document, ground_id, "Tiles") if found is None else found


def prop_layer(document: Document, ground_id: str) -> str:
    """The id of the uppermost layer of a ground on which things can stand; a new one where there is none."""
    found = _uppermost(document, ground_id, lambda layer: layer.places_things)
    return add_layer(document, ground_id, "Props", kind="props") if found is None else found


def _uppermost(document: Document, ground_id: str, takes: Callable[[Layer], bool]) -> str | None:
    layers = reversed(by_id(document.project.grounds, ground_id).layers)
    return next((layer.id for layer in layers if takes(layer) and layer.visible and not layer.locked), None)


def fitted(layer: Layer, ground: Ground) -> Layer:
    """A new layer as it can be on a ground; raises BadRequest where it can't be there."""
    if "corners" in ground.board.painted:
        return layer
    found = layer.on_cells()
    if found is None:
        raise BadRequest(
            f"A {layer.title} needs corners and edges, which a ground of hexagons can't be painted on yet; add a "
            "layer of tiles, things or shades."
        )
    return found


def remove_layer(document: Document, ground_id: str, layer_id: str) -> None:
    """Takes a layer off a ground."""
    ground = by_id(document.project.grounds, ground_id)
    gone = layer_id, hand_key(layer_id)
    planes = {name: kept for name, kept in document.state.planes[ground_id].items() if name not in gone}
    layers = tuple(layer for layer in ground.layers if layer.id != layer_id)
    _put_ground(document, "remove layer", replace(ground, layers=layers), planes)


def move_layer(document: Document, ground_id: str, layer_id: str, place: int) -> None:
    """Moves a layer to a place in the stack, 0 being the lowest."""
    ground = by_id(document.project.grounds, ground_id)
    layers = [layer for layer in ground.layers if layer.id != layer_id]
    layers.insert(max(0, place), ground.layer(layer_id))
    put(document, "move layer", "grounds", replace(ground, layers=tuple(layers)))


def lay_below(document: Document, ground_id: str, layer_id: str) -> None:
    """Lets a layer be drawn as a whole, below those that are stacked by depth together with it; as one step."""
    ground = by_id(document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    others = [one for one in ground.layers if one.id != layer_id]
    place = low = ground.layers.index(layer)
    while low and (ground.layers[low - 1].stands_in_depth or not ground.layers[low - 1].visible):
        low -= 1
        place = low if ground.layers[low].visible else place
    others.insert(place, replace(layer, stacking="whole"))
    put(document, "lay layer below", "grounds", replace(ground, layers=tuple(others)))


def duplicate_layer(document: Document, ground_id: str, layer_id: str, kind: str = "copy") -> str:
    """Adds a copy of a layer, with all that is painted on it, right above it; returns its id. `kind` ends its name."""
    ground = by_id(document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    name = _free(f"{layer.name[:66]} {kind}", ground)
    made = replace(layer, id=fresh_id(name, ground.layers), name=name)
    layers = list(ground.layers)
    layers.insert(layers.index(layer) + 1, made)
    planes = {**document.state.planes[ground_id], made.id: document.state.planes[ground_id][layer_id]}
    _put_ground(document, f"duplicate {layer.name}", replace(ground, layers=tuple(layers)), planes)
    return made.id


def show_alone(document: Document, ground_id: str, layer_id: str) -> None:
    """Hides all layers but one, or shows all again where it is shown alone already; as one step."""
    ground = by_id(document.project.grounds, ground_id)
    alone = [layer.id for layer in ground.shown()] == [layer_id]
    layers = tuple(replace(layer, visible=alone or layer.id == layer_id) for layer in ground.layers)
    put(document, "show all layers" if alone else "show a layer alone", "grounds", replace(ground, layers=layers))


def show_group(document: Document, ground_id: str, group: str, *, visible: bool) -> None:
    """Shows or hides all layers of a group, as one step.

    Parameters
    ----------
    group : str
        The names of the group and of those round it, the outermost first, with slashes between.
    """
    _change_group(document, ground_id, group, "show or hide group", lambda layer: replace(layer, visible=visible))


def regroup(document: Document, ground_id: str, group: str, wanted: str) -> None:
    """Calls a group otherwise, or with the path of the one round it takes it apart; as one step."""
    if len(wanted) > _LONGEST_PATH:
        raise BadRequest("The name of this group is too long; give a shorter one.")

    def moved(layer: Layer) -> Layer:
        inner = layer.group[len(group) :].lstrip("/")
        return replace(layer, group="/".join(part for part in (wanted, inner) if part)[:_LONGEST_PATH])

    _change_group(document, ground_id, group, "change group", moved)


def _change_group(document: Document, ground_id: str, group: str, label: str, change: Callable[[Layer], Layer]) -> None:
    ground = by_id(document.project.grounds, ground_id)
    layers = tuple(
        change(layer) if layer.group == group or layer.group.startswith(f"{group}/") else layer
        for layer in ground.layers
    )
    put(document, label, "grounds", replace(ground, layers=layers))


def change_layer(document: Document, ground_id: str, layer_id: str, label: str, **changes: Any) -> None:
    """Changes what a layer's header says."""
    ground = by_id(document.project.grounds, ground_id)
    put_layer(document, ground_id, label, replace(ground.layer(layer_id), **changes))


def put_layer(document: Document, ground_id: str, label: str, layer: Layer) -> None:
    """Exchanges a layer's definition for a changed one of the same kind."""
    ground = by_id(document.project.grounds, ground_id)
    put(document, label, "grounds", replace(ground, layers=replaced(ground.layers, layer)))


def put_own_terrain(document: Document, ground_id: str, layer_id: str, number: int, terrain: Terrain | None) -> None:
    """Exchanges, adds (with the next number) or takes out (None) something that a layer itself can be painted with.

    Raises
    ------
    BadRequest
        If the layer has none of its own, or none would be left.
    """
    ground = by_id(document.project.grounds, ground_id)
    layer = ground.layer(layer_id)
    changed = layer.with_terrain(number, terrain)
    if changed is None:
        raise BadRequest(f"“{layer.name}” can't be changed like that; it keeps at least one, and at most 32.")
    if terrain is not None:
        put_layer(document, ground_id, f"change {terrain.name}", changed)
        return
    numbers = [one - (one > number) if one != number else 0 for one in range(34)]
    planes = document.state.planes[ground_id]
    layers = {**planes, layer_id: layer.renumbered(planes[layer_id], numbers)}
    _put_ground(document, "take out", replace(ground, layers=replaced(ground.layers, changed)), layers)


def _put_ground(document: Document, label: str, ground: Ground, planes: Mapping[str, Planes]) -> None:
    grounds = replaced(document.project.grounds, ground)
    document.define(
        label,
        replace(document.project, grounds=grounds),
        planes={**document.state.planes, ground.id: planes},
    )
