"""Terrains that several sets share: tiles that show one alone look the same in each."""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import AS_ROUGH, SAME_COLOUR, UNSEEN, Floats, seen_colours
from knitground.core.joins.sets import JoinSet
from knitground.core.joins.variants import in_squares
from knitground.core.sheet.cut import TileShape
from knitground.core.tiles.tile import TileRef


class Look(NamedTuple):
    """What a terrain looks like where it lies alone, in each of k tiles.

    Attributes
    ----------
    colours : (k, 4) float64
        The mean colour.
    grains : (k,) float64
        How far the squares of the tile are from that.
    """

    colours: Floats
    grains: Floats

    def off(self, other: "Look") -> float:
        """How far the two nearest tiles are apart in colour; infinite if none have the same grain."""
        off = np.abs(self.colours[:, None] - other.colours).sum(axis=-1)
        low, high = (find(self.grains[:, None], other.grains) for find in (np.minimum, np.maximum))
        return float(off[high <= low * AS_ROUGH + UNSEEN].min(initial=np.inf))


def looks_of(join_set: JoinSet, tiles: Mapping[TileRef, NDArray[np.uint8]], shape: TileShape) -> dict[int, Look]:
    """What those terrains of a set look like that tiles show alone, by their numbers.

    Parameters
    ----------
    join_set : JoinSet
    tiles : mapping of TileRef to (h, w, 4) uint8
        Straight alpha; all of one size.
    shape : TileShape
    """
    found = {}
    for number in range(1, len(join_set.terrains) + 1):
        alone = [tiles[ref] for ref, row in join_set.labels.items() if set(row) == {number} and ref in tiles]
        if alone:
            squares = in_squares(seen_colours(np.stack(alone), shape), ()).colours
            colours = squares.mean(axis=1)
            found[number] = Look(colours, np.abs(squares - colours[:, None]).sum(axis=-1).mean(axis=1))
    return found


def same_terrains(mine: Mapping[int, Look], others: Mapping[int, Look]) -> dict[int, int]:
    """Which terrain of a set each of another's is, if it is one: by the other's numbers, the nearest in colour."""
    found: dict[int, int] = {}
    for number, look in others.items():
        off = {one: own.off(look) for one, own in mine.items() if one not in found.values()}
        nearest = min(off, key=lambda one: off[one], default=0)
        if off.get(nearest, np.inf) <= SAME_COLOUR:
            found[number] = nearest
    return found


def pairs_of(rows: Iterable[Sequence[int]]) -> set[frozenset[int]]:
    """The pairs of terrains that tiles show together."""
    return {frozenset((one, other)) for row in rows for one in set(row) for other in set(row) if one < other}
