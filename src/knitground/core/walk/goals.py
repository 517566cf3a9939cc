"""Where figures come in, and where they want to go: points on prop layers, told by their kind or by a tag."""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import numpy as np

from knitground.core.grid.shapes import inside_polygon
from knitground.core.ground.ground import Ground
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Thing, ThingKind, outline, properties_of
from knitground.core.tiles.notes import Property
from knitground.core.walk.motion import Spot

ROLE = "role"
"""The property of a thing, or of its kind, that says what it is to a figure: "spawn" or "goal"."""
SPAWN, GOAL = "spawn", "goal"


class Mark(NamedTuple):
    """A place that is something to a figure."""

    role: str
    name: str
    spot: Spot
    layer: str
    thing: str


def marks_of(ground: Ground, kinds: Iterable[ThingKind]) -> Iterator[Mark]:
    """All spawn points and goals of a ground, in the order of its layers and things."""
    kinds = tuple(kinds)
    for layer in ground.layers:
        props = as_props(layer)
        for thing in props.things if props is not None else ():
            role = role_of(thing, kinds)
            if role in (SPAWN, GOAL):
                name = thing.name or f"{role} {thing.id}"
                yield Mark(role, name, Spot(thing.x + layer.offset_x, thing.y + layer.offset_y), layer.id, thing.id)


def spawn_of(ground: Ground, kinds: Iterable[ThingKind]) -> Spot | None:
    """The first spawn point of a ground."""
    return next((mark.spot for mark in marks_of(ground, kinds) if mark.role == SPAWN), None)


def zones_at(ground: Ground, kinds: Iterable[ThingKind], spot: Spot) -> Iterator[str]:
    """The names of the areas on prop layers in which a place lies."""
    names = {kind.id: kind.name for kind in kinds}
    for layer in ground.layers:
        props = as_props(layer)
        for thing in props.things if props is not None else ():
            if thing.form in ("box", "round", "polygon"):
                corners = np.array(outline(thing))[:, ::-1] + np.array([layer.offset_y, layer.offset_x])
                if inside_polygon(corners, np.array([[spot.y]]), np.array([[spot.x]]))[0, 0]:
                    yield thing.name or names.get(thing.kind, f"a {thing.form}")


def role_of(thing: Thing, kinds: Iterable[ThingKind]) -> str:
    """What a thing is to a figure: a way in, a goal, or nothing."""
    said: Property | None = properties_of(thing, kinds).get(ROLE)
    if said is not None:
        return str(said.value).lower()
    return next((role for role in (SPAWN, GOAL) if role in thing.tags), "")
