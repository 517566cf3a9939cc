"""Records of things: what changed on prop layers alone is told thing by thing, so that records follow the edit."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from pydantic import ConfigDict, TypeAdapter

from knitground.core.ground.ground import Ground, by_id
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import PropLayer, as_props
from knitground.core.layers.thing import Thing
from knitground.core.project.delta import FieldChange
from knitground.core.project.model import State, replaced

_THINGS: TypeAdapter[tuple[Thing, ...]] = TypeAdapter(tuple[Thing, ...], config=ConfigDict(defer_build=True))


def split_off(change: FieldChange) -> tuple[FieldChange | None, list[dict[str, Any]]]:
    """A change without the grounds on which only things differ, and records of these things.

    Parameters
    ----------
    change : FieldChange
        Of any field of the project.
    """
    if change.field != "grounds" or change.order is not None:
        return change, []
    rest, records = [], []
    for key, before, after in change.things:
        told = None if before is None or after is None else _told(before, after)
        if told is None:
            rest.append((key, before, after))
        else:
            records += told
    return (replace(change, things=tuple(rest)) if rest else None), records


def with_things(state: State, records: list[Mapping[str, Any]]) -> State:
    """A state after what records tell of its things; raises what is raised where they don't fit it."""
    for record in records:
        ground = by_id(state.project.grounds, record["ground"])
        layer = as_props(ground.layer(record["layer"]))
        if layer is None:
            raise ValueError(record["layer"])
        known = {thing.id: thing for thing in layer.things if thing.id not in record["gone"]}
        known |= {thing.id: thing for thing in _THINGS.validate_python(record["after"])}
        ordered = known.values() if record["order"] is None else [known[one] for one in record["order"]]
        changed = replace(ground, layers=replaced(ground.layers, replace(layer, things=tuple(ordered))))
        state = state._replace(project=replace(state.project, grounds=replaced(state.project.grounds, changed)))
    return state


def _told(before: Ground, after: Ground) -> list[dict[str, Any]] | None:
    """What changed of the things of a ground; None where more did."""
    if replace(before, layers=after.layers) != after or len(before.layers) != len(after.layers):
        return None
    records = []
    for old, new in zip(before.layers, after.layers, strict=True):
        if old is new or old == new:
            continue
        pair = _both(old, new)
        if pair is None:
            return None
        records.append({"ground": after.id, "layer": new.id, **_differing(*pair)})
    return records


def _both(old: Layer, new: Layer) -> tuple[PropLayer, PropLayer] | None:
    """Two moments of a prop layer of which only the things differ."""
    one, other = as_props(old), as_props(new)
    if one is None or other is None or replace(one, things=other.things) != other:
        return None
    return one, other


def _differing(old: PropLayer, new: PropLayer) -> dict[str, Any]:
    ours, theirs = ({thing.id: thing for thing in layer.things} for layer in (old, new))
    changed = tuple(thing for thing in new.things if ours.get(thing.id) is not thing)
    gone = [one for one in ours if one not in theirs]
    expected = [one for one in ours if one in theirs] + [one for one in theirs if one not in ours]
    return {
        "after": _THINGS.dump_python(changed, mode="json"),
        "gone": gone,
        "order": None if expected == list(theirs) else list(theirs),
    }
