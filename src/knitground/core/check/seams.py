"""Seams: pairs of tiles that may meet by their labels, but whose pixels don't go on into one another."""

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.cells import may_meet
from knitground.core.joins.lattice import SIDES
from knitground.core.joins.sets import JoinSet, Labels, finished
from knitground.core.sheet.enlarged import tiles_enlarged
from knitground.core.tiles.tile import TileRef

_LEAST = 14.0
"""Mean difference of pixel values below which no eye sees a seam."""
_TIMES = 2.5
_NEAR = 4
"""How many columns from a border tell how rough a tile is there."""
_LINED = 0.8
"""The share of columns of a tile that change less than its lines do."""


class Seam(NamedTuple):
    """Two tiles that meet, the first to the west or north, and how much more they differ there than tiles do inside."""

    first: TileRef
    second: TileRef
    level: bool
    times: float


def find_seams(join_set: JoinSet, drawn: Mapping[TileRef, NDArray[np.uint8]], most: int = 24) -> list[Seam]:
    """The worst seams of a set, the worst first.

    Parameters
    ----------
    join_set : JoinSet
    drawn : mapping of TileRef to (h, w, 4) uint8
        Pixels of its tiles, straight alpha.
    most : int
        How many to give at the most.

    Returns
    -------
    seams : list of Seam
        How far pixels on both sides differ is told relative to how far neighbours inside these tiles and the whole
        set differ: a rough texture may differ more.
    """
    wanted = finished(join_set) if join_set.kind == "cell" else join_set.labels
    refs = [ref for ref in wanted if ref in drawn]
    shape = drawn[refs[0]].shape if refs else ()
    refs = [ref for ref in refs if drawn[ref].shape == shape]
    if not refs:
        return []
    pixels = np.stack([drawn[ref] for ref in refs])
    # Within a block that was one pixel nothing changes, which would make every border of blocks look rough.
    times = tiles_enlarged(pixels)
    tiles = pixels[:, ::times, ::times].astype(np.float64)
    tiles[..., :3] *= tiles[..., 3:] / 255
    labels = [wanted[ref] for ref in refs]
    corners = join_set.kind == "cell" and any(any(row[:4]) for row in labels)
    north, east, south, west = SIDES[join_set.kind]
    found = []
    for level, leaving, arriving in ((True, east, west), (False, south, north)):
        turned = tiles if level else tiles.swapaxes(1, 2)
        seams = _along(turned, refs, _sides(labels, leaving), _sides(labels, arriving), level)
        if corners:
            seams = [one for one in seams if may_meet(wanted[one.first], wanted[one.second], level=level)]
        found += seams
    return sorted(found, key=lambda seam: -seam.times)[:most]


def _along(
    tiles: NDArray[np.float64], refs: list[TileRef], leaving: list[Labels], arriving: list[Labels], level: bool
) -> list[Seam]:
    """Seams between the last column of one tile and the first of another."""
    if tiles.shape[2] < 2:
        return []  # of tiles a pixel wide there is no inside
    inside = np.abs(np.diff(tiles, axis=2)).mean(axis=(1, 3))
    usual = float(np.median(inside))
    before, behind = np.median(inside[:, -_NEAR:], axis=1), np.median(inside[:, :_NEAR], axis=1)
    # Bricks have lines all over, and so may have one at their border.
    lined = np.quantile(inside, _LINED, axis=1)
    last, following = tiles[:, :, -1], tiles[:, :, 0]
    pairs: list[tuple[int, int, float]] = []
    for side in sorted(set(leaving) & set(arriving)):
        first = [number for number, row in enumerate(leaving) if row == side]
        second = [number for number, row in enumerate(arriving) if row == side]
        apart = np.abs(last[first][:, None] - following[second][None]).mean(axis=(2, 3))
        pairs += [(a, b, float(apart[i, j])) for i, a in enumerate(first) for j, b in enumerate(second)]
    seams = []
    for one, other, apart in pairs:
        times = apart / max(before[one], behind[other], min(lined[one], lined[other]), usual, 1.0)
        if apart >= _LEAST and times >= _TIMES:
            seams.append(Seam(refs[one], refs[other], level, times))
    return seams


def _sides(labels: list[Labels], places: tuple[int, ...]) -> list[Labels]:
    return [tuple(row[place] for place in places) for row in labels]
