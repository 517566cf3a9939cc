"""Layers of a proof that show stitches what they want to see beside their plan."""

from collections.abc import Mapping

import numpy as np

from knitground.core.grid.board import ROUND
from knitground.core.grid.plane import Plane
from knitground.core.ground.ground import Ground
from knitground.core.layers import make_layer
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.derived import Derived
from knitground.core.stitches.charts import Step
from knitground.core.stitches.classes import Classes
from knitground.core.stitches.rules import View

Wanted = Mapping[Step, int]
"""Kinds that may lie in cells, as bits."""


def layer_for(
    derived: Derived, view: View, told: Classes, ground: Ground, wanted: Wanted
) -> tuple[Layer, Planes] | None:
    """A layer on which as many cells as possible are as a view wants them; None where no such layer can be made.

    Parameters
    ----------
    told : Classes
        How the cells of the view are told apart.
    ground : Ground
        The proof, so far.
    """
    layer_id = f"proof of {view.name}"
    if view.sees == "tiles":
        tiles = make_layer(layer_id, view.name, None, derived.sets)
        return tiles, {tiles.area_plane: _tiles(told, ground, wanted)}
    try:
        layer = make_layer(layer_id, view.name, view.of, derived.sets)
    except KeyError:
        return None
    plane, on = layer.area_plane, layer.specs[layer.area_plane].on
    if on not in ("cells", "corners"):
        return None
    planes = layer.blank(ground.board, derived.sets)
    values = np.array(planes[plane])
    most = len(layer.terrains(derived.sets))
    bare = layer.erased(derived.sets) == 0
    taken: dict[Step, int] = {}
    for cell, bits in sorted(wanted.items(), key=lambda one: one[1].bit_count()):
        places = [(cell[0] + down, cell[1] + right) for down, right in ROUND[on]]
        taken |= _painted(told, bits, {place: taken.get(place) for place in places}, most, bare=bare)
    for place, number in taken.items():
        values[place] = number
    return layer, {**planes, plane: Plane.of(values)}


def _tiles(told: Classes, ground: Ground, wanted: Wanted) -> Plane:
    codes = np.zeros(ground.board.shape("cells"), dtype=np.int32)
    by_number = told.by_number
    assert by_number is not None  # tiles are told apart by their numbers
    for cell, bits in wanted.items():
        fitting = [kind for kind in range(told.kinds) if bits >> kind & 1]
        numbers = [int(np.argmax(by_number == kind)) for kind in fitting if kind and (by_number == kind).any()]
        if 0 not in fitting and numbers:
            codes[cell] = numbers[0]
    return Plane.of(codes)


def _painted(told: Classes, bits: int, places: Mapping[Step, int | None], most: int, *, bare: bool) -> dict[Step, int]:
    """Terrains for the places of a cell, of which some are painted already; nothing where none will do.

    The kind of a cell has a bit for each terrain that charts name and that it bears, and one for all others.
    """
    named = [number for number in told.named if number >= 0]
    others = [number for number in range(0 if bare else 1, most + 1) if number not in told.named]
    there = {number for number in places.values() if number is not None}
    free = [place for place, number in places.items() if number is None]
    kinds = sorted((kind for kind in range(1, told.kinds) if bits >> kind & 1), key=int.bit_count)
    for kind in kinds:
        wanted = [number for place, number in enumerate(named) if kind >> place & 1]
        wanted += others[:1] if kind >> len(told.named) & 1 else []
        fits = all(number in wanted or (number in others and wanted[-1:] == others[:1]) for number in there)
        missing = [number for number in wanted if number not in there]
        possible = all(0 <= number <= most and (number or bare) for number in wanted)
        if wanted and fits and possible and len(missing) <= len(free):
            fill = missing + [wanted[0]] * (len(free) - len(missing))
            return dict(zip(free, fill, strict=True))
    return {}
