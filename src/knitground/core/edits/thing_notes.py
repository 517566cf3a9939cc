"""What is said of things and of kinds of things: names, kinds, tags and properties."""

from collections.abc import Collection
from dataclasses import replace
from typing import Any

from knitground.core.edits.notes import checked_name, checked_tag
from knitground.core.edits.placing import change
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Thing, ThingKind
from knitground.core.project.document import Document
from knitground.core.project.model import fresh_id
from knitground.core.tiles.notes import Property

_COLOURS = ("#3f7f8f", "#a0522d", "#5a7d2a", "#8a5a9a", "#b8862b", "#3d5fa0", "#9a3f5f")


def tag_things(document: Document, ground_id: str, layer_id: str, ids: Collection[str], tag: str) -> None:
    """Gives things a tag."""
    tag = checked_tag(tag)
    change(
        document, ground_id, layer_id, ids, "tag",
        lambda thing: replace(thing, tags=tuple(sorted({*thing.tags, tag}))),
    )  # fmt: skip


def untag_things(document: Document, ground_id: str, layer_id: str, ids: Collection[str], tag: str) -> None:
    """Takes a tag off things."""
    change(
        document, ground_id, layer_id, ids, "tag",
        lambda thing: replace(thing, tags=tuple(one for one in thing.tags if one != tag)),
    )  # fmt: skip


def set_thing_property(
    document: Document, ground_id: str, layer_id: str, ids: Collection[str], name: str, value: Property | None
) -> None:
    """Gives things a property of their own, or with None takes it back, so that their kind's counts again."""
    name = checked_name(name)
    change(
        document, ground_id, layer_id, ids, f"property {name}",
        lambda thing: replace(thing, properties=_with(thing.properties, name, value)),
    )  # fmt: skip


def say_of_things(
    document: Document, ground_id: str, layer_id: str, ids: Collection[str], name: str, value: Property
) -> None:
    """Lets a property hold for things; one that says nothing is kept only where their kind says something."""
    kinds = {kind.id: kind.properties for kind in document.project.thing_kinds}

    def said(thing: Thing) -> Thing:
        needed = bool(value.value) or name in kinds.get(thing.kind, {})
        return replace(thing, properties=_with(thing.properties, name, value if needed else None))

    change(document, ground_id, layer_id, ids, f"property {name}", said)


def add_kind(document: Document, name: str) -> str:
    """Adds a kind of things; returns its id."""
    kinds = document.project.thing_kinds
    name = name.strip()[:80]
    if not name:
        raise BadRequest("A kind of things needs a name; write one such as “spawn point”.")
    colour = next((one for one in _COLOURS if one not in {kind.colour for kind in kinds}), _COLOURS[0])
    kind = ThingKind(fresh_id(name, kinds), name, colour)
    put(document, f"add kind {name}", "thing_kinds", kind)
    return kind.id


def change_kind(document: Document, kind_id: str, **changes: Any) -> None:
    """Changes what a kind says; it holds at once for all of its things that do not say otherwise."""
    kind = by_id(document.project.thing_kinds, kind_id)
    put(document, f"change kind {kind.name}", "thing_kinds", replace(kind, **changes))


def set_kind_property(document: Document, kind_id: str, name: str, value: Property | None) -> None:
    """Gives a kind a property, or with None takes it back."""
    kind = by_id(document.project.thing_kinds, kind_id)
    change_kind(document, kind_id, properties=_with(kind.properties, checked_name(name), value))


def remove_kind(document: Document, kind_id: str) -> None:
    """Takes a kind out; its things stay, and keep what held for them as their own."""
    project = document.project
    kind = by_id(project.thing_kinds, kind_id)

    def freed(layer: Any) -> Any:
        props = as_props(layer)
        if props is None:
            return layer
        things = tuple(
            replace(thing, kind="", properties={**kind.properties, **thing.properties})
            if thing.kind == kind_id
            else thing
            for thing in props.things
        )
        return props if things == props.things else replace(props, things=things)

    grounds = tuple(replace(one, layers=tuple(map(freed, one.layers))) for one in project.grounds)
    kinds = tuple(one for one in project.thing_kinds if one.id != kind_id)
    sets = tuple(
        one.with_pieces(lambda piece: replace(piece, thing="") if piece.thing == kind_id else piece)
        for one in project.stitch_sets
    )
    changed = replace(project, thing_kinds=kinds, grounds=grounds, stitch_sets=sets)
    document.define(f"remove kind {kind.name}", changed)


def _with(properties: Any, name: str, value: Property | None) -> dict[str, Property]:
    kept = {key: one for key, one in properties.items() if key != name}
    return dict(sorted(kept.items() if value is None else {**kept, name: value}.items()))
