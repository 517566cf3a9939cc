"""Tiles that come seldom: what of a set shows something on what another tile of it shows alone."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.adorned import adorned
from knitground.core.tiles.notes import PLAIN, TileNotes
from knitground.core.tiles.tile import TileRef

_RARE, _RARE_TOGETHER = 0.2, 0.5
"""How much a tile weighs that shows more than another of its set, and all such beside one at the most."""


def rare_weights(refs: Sequence[TileRef], pixels: NDArray[np.uint8], labels: NDArray[np.intp]) -> dict[TileRef, float]:
    """What tiles weigh that show more than another of the same labels: laid as often, they would crowd the ground.

    Parameters
    ----------
    refs : sequence of N TileRef
    pixels : (N, h, w, 4) uint8
        RGBA, straight alpha.
    labels : (N, L) intp
    """
    more = adorned(pixels, labels)
    alike: dict[tuple[int, ...], list[TileRef]] = {}
    for at in np.flatnonzero(more).tolist():
        alike.setdefault(tuple(labels[at].tolist()), []).append(refs[at])
    return {ref: min(_RARE, _RARE_TOGETHER / len(some)) for some in alike.values() for ref in some}


def with_rare(tiles: Mapping[TileRef, TileNotes], rare: Mapping[TileRef, float]) -> dict[TileRef, TileNotes]:
    """What is said of tiles, with the weights of rare ones where none was given by hand."""
    said = dict(tiles)
    for ref, weight in rare.items():
        before = said.get(ref, PLAIN)
        if before.weight == PLAIN.weight:
            said[ref] = replace(before, weight=weight)
    return said


def told_of_rare(rare: Collection[TileRef]) -> str:
    """What is said of rare tiles once they are taken; nothing if there are none."""
    if not rare:
        return ""
    many = "a tile with something on top comes" if len(rare) == 1 else f"{len(rare)} tiles with something on top come"
    return f"; {many} seldom"
