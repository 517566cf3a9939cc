"""Tiles of isometric sets without the room round them, and their ground laid flat."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import laid_flat
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.isometric import on_foot
from knitground.core.tiles.tile import TileRef

Pixels = NDArray[np.uint8]
Cuts = Mapping[tuple[str, str], Cut]
_RIM = 1.5
"""How many rows of a diamond lie half outside at its sides."""


def on_feet(drawn: Mapping[TileRef, Pixels], cuts: Cuts) -> dict[TileRef, Pixels]:
    """Isometric tiles as wide as their diamonds, down to the lower corners; where all are flat, just the diamonds.

    Parameters
    ----------
    drawn : mapping of TileRef to (h, w, 4) uint8
    cuts : mapping of (sheet, cut) to Cut
    """
    standing = {ref: on_foot(pixels, cuts[ref.sheet, ref.cut]) for ref, pixels in drawn.items()}
    high = {ref: cuts[ref.sheet, ref.cut].footprint[1] for ref in standing}
    flat = all(not pixels[: max(0, len(pixels) - high[ref]), :, 3].any() for ref, pixels in standing.items())
    return {ref: pixels[-high[ref] :] if flat else pixels for ref, pixels in standing.items()}


def grounds_of(drawn: Mapping[TileRef, Pixels], cuts: Cuts) -> dict[TileRef, Pixels]:
    """Flat isometric tiles as squares, (n, n, 4) uint8, their north-west on top; none if anything stands up from them.

    Parameters
    ----------
    drawn : mapping of TileRef to (h, w, 4) uint8
    cuts : mapping of (sheet, cut) to Cut
    """
    standing = on_feet(drawn, cuts)
    found = {}
    for ref, pixels in standing.items():
        if len(pixels) > cuts[ref.sheet, ref.cut].footprint[1]:
            return {}
        found[ref] = laid_flat(pixels[None], "isometric", rim=_RIM)[0]
    return found
