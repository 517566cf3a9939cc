"""Maps beside one another: which lies at which border, and what their layers share there."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Literal, NamedTuple

import numpy as np

from knitground.core.grid.bordered import Part
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground, Neighbour
from knitground.core.layers.layer import Layer, Planes

Beyond = Mapping[str, Mapping[str, tuple[Part, ...]]]


Border = Literal["west", "north", "east", "south"]
BORDERS: tuple[Border, ...] = ("west", "north", "east", "south")


class Beside(NamedTuple):
    """A map beside another: how many rows and columns from the other's first cell its own lies, and at which border."""

    ground: Ground
    down: int
    across: int
    border: Border


def maps_beside(grounds: Sequence[Ground], ground: Ground) -> list[Beside]:
    """The maps at the four borders of one: those that it names, and those that name it."""
    known = {one.id: one for one in grounds}
    found = []
    if ground.east is not None and ground.east.ground in known:
        found.append(Beside(known[ground.east.ground], ground.east.shift, ground.width, "east"))
    if ground.south is not None and ground.south.ground in known:
        found.append(Beside(known[ground.south.ground], ground.height, ground.south.shift, "south"))
    for other in grounds:
        if other.east is not None and other.east.ground == ground.id:
            found.append(Beside(other, -other.east.shift, -other.width, "west"))
        if other.south is not None and other.south.ground == ground.id:
            found.append(Beside(other, -other.height, -other.south.shift, "north"))
    return found


def at_borders(grounds: Sequence[Ground], ground: Ground) -> dict[Border, Neighbour]:
    """The maps at the borders of one, and how many cells further down or right along each they begin."""
    return {
        border: Neighbour(other.id, down if border in ("east", "west") else across)
        for other, down, across, border in maps_beside(grounds, ground)
    }


def problem_beside(grounds: Sequence[Ground], ground: Ground) -> str:
    """Why a map can't lie beside those that it names; nothing if it can."""
    known = {one.id: one for one in grounds}
    for side, along, what in (("east", "wraps_x", "sideways"), ("south", "wraps_y", "up and down")):
        named: Neighbour | None = getattr(ground, side)
        if named is None:
            continue
        other = known.get(named.ground)
        if other is None or other.id == ground.id:
            return "A map lies beside another one of the project; choose one that is there."
        if (other.grid, other.tile_width, other.tile_height) != (ground.grid, ground.tile_width, ground.tile_height):
            return f"“{other.name}” has another grid or size of cells; maps beside one another need the same."
        if ground.board.stagger != (1, 1) or ground.board.in_rows:
            return "Maps lie beside one another on square grounds and isometric diamonds; this grid can't yet."
        if getattr(ground, along) or getattr(other, along):
            return f"A map that goes round {what} ends nowhere there; let it end before another lies beside it."
        length = (other.height, ground.height) if side == "east" else (other.width, ground.width)
        if not -length[0] < named.shift < length[1]:
            return "The two maps would not touch; give a smaller shift along the border."
        there: list[Neighbour | None] = [getattr(one, side) for one in grounds]
        if sum(one is not None and one.ground == other.id for one in there) > 1:
            return f"Two maps lie at the same border of “{other.name}”; leave one."
    return ""


def counterpart(layer: Layer, ground: Ground) -> Layer | None:
    """The layer of a map that goes on with one of another: the lowest of its kind that lays tiles by the same set."""
    if not layer.knits:
        return None
    return next((one for one in ground.layers if one.kind == layer.kind and one.set_id == layer.set_id), None)


def beyond_borders(grounds: Sequence[Ground], ground: Ground, planes: Mapping[str, Mapping[str, Planes]]) -> Beyond:
    """What lies beyond the borders of a map, by layer and plane: how far off planes of maps beside it begin.

    Parameters
    ----------
    planes : mapping of ground id to layer id to planes

    Returns
    -------
    beyond : mapping of layer id to plane name to parts
        Only of derived layers that go on somewhere.
    """
    found: dict[str, dict[str, tuple[Part, ...]]] = {}
    for other, down, across, _ in maps_beside(grounds, ground):
        for layer, two in _pairs(ground, other):
            for name, plane in planes[other.id][two.id].items():
                if not layer.specs[name].codes:
                    parts = found.setdefault(layer.id, {})
                    parts[name] = (*parts.get(name, ()), (down, across, plane))
    return found


def shared(
    grounds: Sequence[Ground], ground_id: str, planes: Mapping[str, Mapping[str, Planes]]
) -> dict[str, dict[str, dict[str, Plane]]]:
    """What maps beside one have to take over, so that points and edges on a common border are the same for both.

    Parameters
    ----------
    ground_id : str
        The map whose planes count.
    planes : mapping of ground id to layer id to planes
        As they are.

    Returns
    -------
    changed : dict of ground id to layer id to plane name to Plane
        Points where four maps meet are passed on from one to the next.
    """
    known = {one.id: one for one in grounds}
    changed: dict[str, dict[str, dict[str, Plane]]] = {}
    waiting, seen = [ground_id], {ground_id}

    def now(name: str, layer_id: str) -> Planes:
        return {**planes[name][layer_id], **changed.get(name, {}).get(layer_id, {})}

    while waiting:
        one = known[waiting.pop(0)]
        for other, down, across, _ in maps_beside(grounds, one):
            if other.id in seen:
                continue
            for layer, two in _pairs(one, other):
                after = dict(_taken_over(layer, now(one.id, layer.id), now(other.id, two.id), down, across))
                if after:
                    changed.setdefault(other.id, {}).setdefault(two.id, {}).update(after)
            if other.id in changed:
                waiting.append(other.id)
            seen.add(other.id)
    return changed


def _pairs(one: Ground, other: Ground) -> Iterator[tuple[Layer, Layer]]:
    for layer in one.layers:
        two = counterpart(layer, other)
        if two is not None and counterpart(two, one) == layer:
            yield layer, two


def _taken_over(layer: Layer, mine: Planes, theirs: Planes, down: int, across: int) -> Iterator[tuple[str, Plane]]:
    """The planes of a layer beside that differ from one's own on what both hold."""
    for name, spec in layer.specs.items():
        if spec.on == "cells" or name not in mine or name not in theirs:
            continue
        both = CellRect(down, across, *theirs[name].shape).inside(CellRect(0, 0, *mine[name].shape))
        if both.is_empty:
            continue
        there = both._replace(top=both.top - down, left=both.left - across)
        after = theirs[name].written(there, np.asarray(mine[name].read(both)))
        if after is not theirs[name]:
            yield name, after
