"""Layers whose tiles follow from other layers: in which order they are laid, and where that would go round."""

from collections.abc import Mapping, Sequence
from graphlib import CycleError, TopologicalSorter
from typing import Any

from knitground.core.layers.layer import Follows, Layer

Following = Mapping[str, Mapping[str, Follows]]
"""By the id of a layer: what it follows, by what it calls it. Those that follow later ones come later."""


def following(layers: Sequence[Layer], tables: Mapping[str, Any]) -> Following:
    """What each layer follows, those that are followed first; layers that would go in a circle follow nothing."""
    found = {layer.id: dict(layer.follows(layers, tables.get(layer.id))) for layer in layers}
    while round_about := _cycle(found):
        found |= {name: {} for name in round_about}
    return {name: found[name] for name in TopologicalSorter(_by_tiles(found)).static_order() if name in found}


def problem_following(layers: Sequence[Layer], tables: Mapping[str, Any]) -> str:
    """Why the tiles of layers can't follow from one another as they say; nothing if they can."""
    names = {layer.id: layer.name for layer in layers}
    found = _cycle({layer.id: layer.follows(layers, tables.get(layer.id)) for layer in layers})
    if not found:
        return ""
    if len(found) == 1:
        return f"“{names[found[0]]}” would look at its own tiles; let it look at what earlier courses have laid."
    # As it was walked: each is looked at by the one that stands after it.
    said = " which looks at ".join(f"“{names[one]}”," for one in reversed(found[1:]))
    return f"“{names[found[0]]}” would look at {said} which looks at it again; let one of them look at something else."


def _cycle(found: Following) -> list[str]:
    """The layers of a circle, each once; nothing where there is none."""
    try:
        TopologicalSorter(_by_tiles(found)).prepare()
    except CycleError as problem:
        return list(problem.args[1][:-1])
    return []


def _by_tiles(found: Following) -> dict[str, set[str]]:
    return {name: {one.layer for one in some.values() if one.tiles} for name, some in found.items()}
