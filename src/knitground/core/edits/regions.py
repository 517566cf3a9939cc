"""Regions: the cells of a ground where a terrain, a mark, a tile or a tag lies on one of its layers."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRecipe
from knitground.core.ground.ground import Ground
from knitground.core.grow.places import Mask, Places
from knitground.core.grow.region import Where
from knitground.core.layers.layer import Layer, Planes
from knitground.core.layers.laying import painted_bits
from knitground.core.project.derived import Derived
from knitground.core.tiles.tile import NUMBER_MASK


def region(derived: Derived, ground: Ground, where: Where, laid: Mapping[str, Planes], places: Places) -> Mask:
    """The cells of a region, (height, width) bool.

    Parameters
    ----------
    laid : mapping of layers to their planes
        What lies on the ground so far.
    places : Places
        The cells of the ground.

    Raises
    ------
    BadRecipe
        If its layer is not on the ground.
    """
    if where.layer not in laid:
        raise BadRecipe("A step's region names a layer that is not on this ground; choose another one for it.")
    layer = ground.layer(where.layer)
    if where.shows or layer.holds_tiles or (layer.knits and not layer.takes_terrains_of):
        there = _shown(derived, where, shown_codes(derived, ground, layer, laid))
    else:
        bits = painted_bits(layer, ground.board, laid[where.layer], ground.board.whole)
        wanted = np.uint64(1) << np.uint64(where.terrain)
        # All of a cell has to be of the terrain where areas lie, and anything of it where something runs along it.
        there = bits > np.uint64(1) if not where.terrain else bits == wanted if layer.takes_areas else bits & wanted > 0
    there = ~there if where.outside else there
    return places.shrunk(there, where.inside) if where.inside else there


def shown_codes(derived: Derived, ground: Ground, layer: Layer, laid: Mapping[str, Planes]) -> NDArray[np.int32]:
    """The tiles that a layer shows where all layers are as given, (height, width) int32.

    Parameters
    ----------
    laid : mapping of layer to planes
        What is painted, (height, width) each.

    Returns
    -------
    codes : (height, width) int32
    """
    if layer.holds_tiles:
        return np.asarray(laid[layer.id][layer.area_plane])
    return derived.with_planes(ground.id, laid).knitted(ground.id).codes(layer.id, ground.board.whole)


def _shown(derived: Derived, where: Where, codes: NDArray[np.int32]) -> Mask:
    """Where one of the tiles of a region lies, (height, width) bool.

    Parameters
    ----------
    codes : (height, width) int32
    """
    if not where.shows:
        return codes > 0
    tiles = derived.document.project.tiles
    numbers = [
        number
        for number, ref in enumerate(list(derived.document.palette.refs), start=1)
        if ref == where.tile or (where.tag is not None and ref in tiles and where.tag in tiles[ref].tags)
    ]
    return np.isin(codes & NUMBER_MASK, numbers) & (codes > 0)
