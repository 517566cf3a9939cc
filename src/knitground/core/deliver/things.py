"""Things as a game loads them: where they are, what they are, and which picture of the tileset they show."""

from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

from knitground.core.layers.thing import Thing, ThingKind, properties_of

_SAID = ("name", "turn", "scale", "mirrored")


def thing_content(thing: Thing, kinds: Iterable[ThingKind], seen: tuple[int, list[int]] | None) -> dict[str, Any]:
    """A thing with the properties that hold for it, those of its kind among them.

    Parameters
    ----------
    thing : Thing
    kinds : iterable of ThingKind
    seen : (int, list of int), optional
        If it shows a tile, its number in the tileset, and where it lies in that picture: x, y, width and height.
    """
    kinds = tuple(kinds)
    plain = type(thing).__dataclass_fields__
    content: dict[str, Any] = {"id": thing.id, "form": thing.form, "x": thing.x, "y": thing.y}
    content |= {name: getattr(thing, name) for name in _SAID if getattr(thing, name) != plain[name].default}
    if thing.kind:
        content["kind"] = next(kind.name for kind in kinds if kind.id == thing.kind)
    if seen is not None:
        content["tile"], content["picture"] = seen
    if thing.form in ("box", "round"):
        content |= {"width": thing.width, "height": thing.height}
    if thing.points:
        content["points"] = [list(point) for point in thing.points]
    if thing.tags:
        content["tags"] = list(thing.tags)
    if thing.light is not None:
        content["light"] = asdict(thing.light)
    properties = properties_of(thing, kinds)
    if properties:
        content["properties"] = {name: one.value for name, one in properties.items()}
    return content
