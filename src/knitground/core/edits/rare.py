"""Tiles that come seldom: what of a set shows something on what another tile of it shows alone."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.adorned import adorned, stubs
from knitground.core.joins.sets import JoinKind
from knitground.core.tiles.notes import PLAIN, TileNotes
from knitground.core.tiles.tile import TileRef

_RARE, _RARE_TOGETHER = 0.2, 0.5
"""How much a tile weighs that shows more than another of its set, and all such beside one at the most."""


def rare_weights(
    kind: JoinKind, refs: Sequence[TileRef], pixels: NDArray[np.uint8], labels: NDArray[np.intp]
) -> dict[TileRef, float]:
    """What tiles weigh that show more than another of the same labels: laid as often, they would crowd the ground.

    A line that leads nowhere weighs nothing: whoever wants one lays it by hand.

    Parameters
    ----------
    kind : JoinKind
    refs : sequence of N TileRef
    pixels : (N, h, w, 4) uint8
        RGBA, straight alpha.
    labels : (N, L) intp
    """
    more = adorned(pixels, labels)
    alone = more & stubs(pixels, labels) if kind == "edge" else np.zeros_like(more)
    alike: dict[tuple[int, ...], list[TileRef]] = {}
    for at in np.flatnonzero(more & ~alone).tolist():
        alike.setdefault(tuple(labels[at].tolist()), []).append(refs[at])
    rare = {ref: min(_RARE, _RARE_TOGETHER / len(some)) for some in alike.values() for ref in some}
    return rare | {refs[at]: 0.0 for at in np.flatnonzero(alone).tolist()}


def with_rare(tiles: Mapping[TileRef, TileNotes], rare: Mapping[TileRef, float]) -> dict[TileRef, TileNotes]:
    """What is said of tiles, with the weights of rare ones where none was given by hand."""
    said = dict(tiles)
    for ref, weight in rare.items():
        before = said.get(ref, PLAIN)
        if before.weight == PLAIN.weight:
            said[ref] = replace(before, weight=weight)
    return said


def told_of_rare(rare: Mapping[TileRef, float]) -> str:
    """What is said of tiles that weigh little, or nothing, once they are taken; nothing if there are none."""
    alone = sum(not weight for weight in rare.values())
    seldom = len(rare) - alone
    told = ""
    if seldom:
        told += (
            "; a tile with something on top comes" if seldom == 1 else f"; {seldom} tiles with something on top come"
        )
        told += " seldom"
    if alone:
        told += "; a line that leads nowhere is laid" if alone == 1 else f"; {alone} lines that lead nowhere are laid"
        told += " by hand alone"
    return told
