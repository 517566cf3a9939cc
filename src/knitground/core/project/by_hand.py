"""What was changed by hand on layers that a recipe keeps alive: masks beside the planes of these layers.

A mask is a plane of zeros and ones for each painted plane of a layer, kept among the planes of a ground under a name
of its own (`hand_key`). A layer has masks from when a recipe first keeps it alive.
"""

from collections.abc import Iterable, Iterator, Mapping

import numpy as np

from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.layers.layer import Layer, Planes

_PREFIX = "by hand/"


def hand_key(layer_id: str) -> str:
    """Under which name the masks of a layer are kept."""
    return _PREFIX + layer_id


def is_hand(name: str) -> bool:
    """Whether a name among the planes of a ground is that of masks, and not of a layer."""
    return name.startswith(_PREFIX)


def hands_of(planes: Mapping[str, Planes]) -> dict[str, dict[str, Plane]]:
    """All masks of a ground, by the names under which they are kept."""
    return {name: dict(held) for name, held in planes.items() if is_hand(name)}


def with_hands(layers: Iterable[Layer], planes: Mapping[str, Planes]) -> Iterator[tuple[Layer, str, Planes]]:
    """The planes of layers and their masks, each with its layer and the name under which it is kept."""
    for layer in layers:
        yield layer, layer.id, planes[layer.id]
        if hand_key(layer.id) in planes:
            yield layer, hand_key(layer.id), planes[hand_key(layer.id)]


def masked(layer: Layer) -> tuple[str, ...]:
    """The planes of a layer that a recipe can lay, and that have a mask where it keeps them alive."""
    return tuple(name for name, spec in layer.specs.items() if not spec.later)


def no_hands(layer: Layer, board: Board) -> dict[str, Plane]:
    """The masks of a layer on which nothing was changed by hand."""
    return {name: Plane.full(board.shape(layer.specs[name].on), np.uint8) for name in masked(layer)}


def marked(before: Mapping[str, Planes], changed: Mapping[str, Planes]) -> dict[str, dict[str, Plane]]:
    """The masks of layers that are kept alive after some of their planes were changed by hand."""
    found: dict[str, dict[str, Plane]] = {}
    for layer_id, planes in changed.items():
        masks = before.get(hand_key(layer_id), {})
        for name, plane in planes.items():
            if name not in masks or plane.shape != before[layer_id][name].shape:
                continue
            mask = masks[name]
            for rect, old, new in plane.changes_from(before[layer_id][name]):
                mask = mask.written(rect, mask.read(rect) | (np.asarray(old) != np.asarray(new)))
            if mask is not masks[name]:
                found.setdefault(hand_key(layer_id), {})[name] = mask
    return found
