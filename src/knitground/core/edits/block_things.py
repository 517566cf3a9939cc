"""Things that go along with blocks: lifted with the cells that they stand in, and placed where a block is laid.

What a block carries is told in flat places from its first row and column, so that it fits cells of any size.
"""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace

from knitground.core.edits.placing import standing_in, turned
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground
from knitground.core.ground.swatch import ClipThing
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Thing, shifted

_QUARTER = 90.0


def lifted_things(ground: Ground, layers: Collection[str], shape: Shape, at: tuple[int, int]) -> tuple[ClipThing, ...]:
    """The things on some layers that stand in some cells.

    Parameters
    ----------
    shape : Shape
        Stored cells.
    at : (int, int)
        The flat place from which the block is told.
    """
    found: list[ClipThing] = []
    for layer in ground.layers:
        props = as_props(layer) if layer.id in layers else None
        ids = standing_in(ground, layer, shape) if props is not None and props.things else frozenset()
        for thing in props.things if props is not None else ():
            if thing.id in ids:
                y, x = ground.projection.place(thing.x, thing.y - _lift(ground, thing))
                found.append(ClipThing(layer.id, float(y) - at[0], float(x) - at[1], thing))
    return tuple(found)


def things_laid(ground: Ground, carried: Iterable[ClipThing], at: tuple[int, int]) -> dict[str, tuple[Thing, ...]]:
    """Things of a block as they lie where it is laid, by the layer that takes them.

    Each goes to the layer that it was lifted off, else to the lowest prop layer; where there is none it is left out.

    Parameters
    ----------
    at : (int, int)
        Flat place of the block's first row and column.
    """
    takes = {layer.id: layer for layer in ground.layers if layer.places_things and not layer.locked}
    found: dict[str, list[Thing]] = {}
    for one in carried:
        layer = takes.get(one.layer) or next(iter(takes.values()), None)
        if layer is not None:
            x, y = ground.projection.point(at[0] + one.down, at[1] + one.across)
            placed = replace(one.thing, x=round(x, 2), y=round(y + _lift(ground, one.thing), 2))
            found.setdefault(layer.id, []).append(placed)
    return {name: tuple(things) for name, things in found.items()}


def turned_things(carried: Iterable[ClipThing], cells: tuple[int, ...], orientation: int) -> tuple[ClipThing, ...]:
    """Things of a block in one of the eight symmetries of the square; sprites stay upright, shapes turn along.

    Parameters
    ----------
    cells : (h, w)
        Of the block before it is turned.
    """
    found = []
    for one in carried:
        (down, across), (height, width), thing = (one.down, one.across), (cells[0], cells[1]), one.thing
        if orientation & 4:
            across = width - across
            thing = replace(thing, mirrored=not thing.mirrored, turn=-thing.turn % 360)
        for _ in range(orientation & 3):
            down, across, height, width = across, height - down, width, height
            thing = thing if thing.form == "sprite" else turned(thing, _QUARTER)
        found.append(ClipThing(one.layer, down, across, thing))
    return tuple(found)


def with_things(ground: Ground, more: Mapping[str, tuple[Thing, ...]]) -> Ground:
    """A ground with more things on some layers, to be looked at; their ids may be there twice."""

    def grown(layer: Layer) -> Layer:
        props = as_props(layer)
        return layer if props is None or layer.id not in more else replace(props, things=props.things + more[layer.id])

    return replace(ground, layers=tuple(grown(layer) for layer in ground.layers)) if more else ground


def with_moved(ground: Ground, ids: Mapping[str, Collection[str]], by: tuple[int, int]) -> Ground:
    """A ground with some things of some layers so many flat rows and columns further, to be looked at."""
    (x, y), (far_x, far_y) = ground.projection.point(0, 0), ground.projection.point(*by)

    def moved(layer: Layer) -> Layer:
        props, mine = as_props(layer), ids.get(layer.id, ())
        if props is None or not mine:
            return layer
        things = (shifted(one, far_x - x, far_y - y) if one.id in mine else one for one in props.things)
        return replace(props, things=tuple(things))

    return replace(ground, layers=tuple(moved(layer) for layer in ground.layers)) if any(ids.values()) else ground


def _lift(ground: Ground, thing: Thing) -> float:
    """How far above its foot a thing counts as standing: a sprite's foot is on the lower border of its cell."""
    return ground.tile_height / 2 if thing.form == "sprite" else 0.0
