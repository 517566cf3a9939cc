"""Matching: which stitch lays the tile of each cell, and which stitches can never fire.

The neighbours that bear the same mark as a cell are eight bits. As a set has few marks, the winning stitch is
worked out once for every mark and every pattern of bits; a plan is then stitched by one look per cell, and a
stitch that wins nowhere in that table is dead.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from knitground.core.stitches.rules import OTHER, SAME, Stitch
from knitground.core.tiles.tile import EMPTY, GAP

NO_STITCH = -1


@dataclass(frozen=True)
class DeadStitch:
    """A stitch that can never fire, and the earlier ones that take every place it could."""

    index: int
    hidden_by: tuple[int, ...]


def winners(stitches: Sequence[Stitch], mark_count: int) -> NDArray[np.int32]:
    """The first matching stitch for every mark and pattern.

    Parameters
    ----------
    stitches : sequence of Stitch
        In order; the first match wins.
    mark_count : int

    Returns
    -------
    winners : (mark_count + 1, 256) int32
        Index into `stitches`, or NO_STITCH; bit n of a pattern is set where neighbour n bears the same mark.
    """
    table = np.full((mark_count + 1, 256), NO_STITCH, dtype=np.int32)
    for index in reversed(range(len(stitches))):
        if stitches[index].mark <= mark_count:
            table[stitches[index].mark, _fits(stitches[index].chart)] = index
    return table


def stitch_tiles(table: NDArray[np.int32], codes: Sequence[int]) -> NDArray[np.int32]:
    """Cell codes for every mark and pattern.

    Parameters
    ----------
    table : (M, 256) int32
        From `winners`.
    codes : sequence of int
        The code that each stitch lays.

    Returns
    -------
    codes : (M, 256) int32
        EMPTY for mark 0, GAP where no stitch matches.
    """
    tiles = np.append(np.asarray(codes, dtype=np.int32), np.int32(GAP))[table]
    tiles[0] = EMPTY
    return tiles


def stitch_cells(
    centre: NDArray[np.uint8], around: Sequence[NDArray[np.uint8]], tiles: NDArray[np.int32]
) -> NDArray[np.int32]:
    """Tiles for a plan.

    Parameters
    ----------
    centre : (H, W) uint8
        The mark of each cell.
    around : sequence of 8 (H, W) uint8
        The marks of its neighbours, in reading order (see `NEIGHBOURS`).
    tiles : (M, 256) int32
        From `stitch_tiles`.

    Returns
    -------
    codes : (H, W) int32
    """
    place = centre.astype(np.uint16)
    place <<= np.uint16(8)
    place |= same_bits(centre, around)
    return np.take(tiles, place)


def same_bits(centre: NDArray[np.uint8], around: Sequence[NDArray[np.uint8]]) -> NDArray[np.uint8]:
    """Which neighbours of each cell bear its mark, as bits in reading order.

    Parameters
    ----------
    centre : (H, W) uint8
    around : sequence of 8 (H, W) uint8

    Returns
    -------
    bits : (H, W) uint8
    """
    bits = np.zeros(centre.shape, dtype=np.uint8)
    same = np.empty(centre.shape, dtype=np.bool_)
    # The last neighbour goes in first and is shifted up most.
    for neighbour in reversed(around):
        np.equal(neighbour, centre, out=same)
        bits <<= np.uint8(1)
        bits |= same.view(np.uint8)
    return bits


def dead_stitches(stitches: Sequence[Stitch], mark_count: int) -> list[DeadStitch]:
    """The stitches that can never fire, each with those that hide it; exact, by trying every pattern."""
    table = winners(stitches, mark_count)
    alive = set(table.ravel().tolist())
    dead = []
    for index, stitch in enumerate(stitches):
        if index not in alive and stitch.mark <= mark_count:
            hiding = set(table[stitch.mark, _fits(stitch.chart)].tolist())
            dead.append(DeadStitch(index, tuple(sorted(hiding))))
    return dead


def _fits(chart: str) -> NDArray[np.bool_]:
    """Which of the 256 patterns a chart allows."""
    patterns = np.arange(256)
    same = sum(1 << bit for bit, sign in enumerate(chart) if sign == SAME)
    other = sum(1 << bit for bit, sign in enumerate(chart) if sign == OTHER)
    fits: NDArray[np.bool_] = (patterns & same == same) & (patterns & other == 0)
    return fits
