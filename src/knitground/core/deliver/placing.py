"""What is drawn where, one piece after another: for formats that place pictures themselves."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from knitground.core.deliver.game_json import MadeMap
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Thing


class Piece(NamedTuple):
    """A tile, or the sprite of a thing, on the ground.

    Attributes
    ----------
    layer : Layer
    number : int
        Of its tile.
    x, y : float
        Where the box of its cell begins, or where the thing stands, in pixels of the ground.
    depth : float
        How far down it begins: what is larger lies before what is smaller, where layers are drawn by depth.
    thing : Thing, optional
    """

    layer: Layer
    number: int
    x: float
    y: float
    depth: float
    thing: Thing | None = None


def pieces_of(made: MadeMap, layers: Sequence[Layer]) -> list[Piece]:
    """The pieces of layers that are drawn together, from the back to the front; those of shades are none."""
    numbered = [
        (number, piece)
        for number, layer in enumerate(layers)
        for piece in (_tiles(made, layer) if layer.id in made.codes else _things(made, layer))
    ]
    if len(layers) > 1:
        numbered.sort(key=lambda one: (one[1].depth, one[0]))
    return [piece for _, piece in numbered]


def _tiles(made: MadeMap, layer: Layer) -> list[Piece]:
    projection, codes = made.ground.projection, made.codes[layer.id]
    numbers = made.numbers(codes)
    pieces = []
    for row, column in np.argwhere(numbers).tolist():
        box = projection.box(row, column)
        x, y = box.x + layer.offset_x, box.y + layer.offset_y
        pieces.append(Piece(layer, int(numbers[row, column]), x, y, box.y))
    # Where cells do not overlap, tiles that are larger than theirs are drawn after all others.
    large = {n for n, code in enumerate(made.pictures.used.tolist(), start=1) if made.pictures.is_large(code)}
    apart = made.ground.grid == "square" and layer.stacking != "depth"
    pieces.sort(key=lambda one: (apart and one.number in large, one.y, one.x))
    return pieces


def _things(made: MadeMap, layer: Layer) -> list[Piece]:
    props = as_props(layer)
    if props is None:
        return []
    pieces, last = [], -np.inf
    for thing in made.things[layer.id]:
        if thing.tile is None:
            continue
        foot = thing.y - made.ground.tile_height
        # Where the order is by hand, nothing comes before what lies behind it.
        last = foot if props.order == "foot" else max(last, foot)
        number = made.pictures.number(made.derived.code(thing.tile))
        x, y = thing.x + layer.offset_x, thing.y + layer.offset_y
        pieces.append(Piece(layer, number, x, y, last, thing))
    return pieces
