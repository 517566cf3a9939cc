"""Tiles put together from quarters of others.

What a quarter shows follows from the two edges beside it and, where the inside goes on over both, from the corner
between them: five sources in all. Any tile may lend a quarter; those are taken that meet best along the middle.
"""

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import Floats
from knitground.core.joins.sets import Labels

Pixels = NDArray[np.uint8]
LONE, LEVEL, UPRIGHT, CROSSING, WHOLE = range(5)
"""The five sources: a patch of one cell, a run level and upright, crossing runs, and the middle of a patch."""
_EDGES = (4, 7), (4, 5), (6, 5), (6, 7)
"""The places of the upper or lower and of the left or right edge of each quarter, clockwise from the upper left."""
_MIRRORED = 1, 0, 3, 2
_MOST = 6
"""How many tiles are tried for each quarter."""


class Quarters:
    """The quarters that some tiles lend.

    Parameters
    ----------
    shown : iterable of (eight numbers, (h, w, 4) uint8)
        For each tile what lies at its corners and edges, where what is not 0 counts as inside, and its pixels. Of a
        quarter that none shows the mirrored one beside it is taken. Tiles of another size than the first lend none.
    """

    def __init__(self, shown: Iterable[tuple[Labels, Pixels]]) -> None:
        self._lent: dict[tuple[int, int], list[Pixels]] = {}
        size: tuple[int, ...] = ()
        for labels, pixels in shown:
            size = size or pixels.shape
            for quarter in range(4) if pixels.shape == size else ():
                lent = self._lent.setdefault((quarter, _source(labels, quarter)), [])
                if len(lent) < _MOST:
                    lent.append(pixels)
        mirrored = {
            (_MIRRORED[quarter], source): [np.ascontiguousarray(one[:, ::-1]) for one in lent]
            for (quarter, source), lent in self._lent.items()
        }
        self._lent = mirrored | self._lent

    def tile(self, labels: Labels) -> Pixels | None:
        """The tile that shows eight numbers; None where a quarter is not to be had."""
        lent = [self._lent.get((quarter, _source(labels, quarter)), []) for quarter in range(4)]
        if not all(lent):
            return None
        north_west, north_east, south_east, south_west = lent
        above, below = _steps(north_west, north_east), _steps(south_west, south_east, lower=True)
        left, right = _steps(north_west, south_west, down=True), _steps(north_east, south_east, down=True, lower=True)
        whole = (
            above[:, :, None, None] + right[None, :, :, None] + below.T[None, None] + left[:, None, None, :]
        )  # fmt: skip
        chosen = np.unravel_index(int(whole.argmin()), whole.shape)
        made = lent[0][0].copy()
        for place, pixels in zip(_places(made), (one[at] for one, at in zip(lent, chosen, strict=True)), strict=True):
            made[place] = pixels[place]
        return made


def of_five(five: Sequence[Pixels]) -> list[tuple[Labels, Pixels]]:
    """What each of the five base tiles shows: `LONE`, `LEVEL`, `UPRIGHT`, `CROSSING` and `WHOLE`.

    Parameters
    ----------
    five : sequence of 5 (h, w, 4) uint8
        RGBA, straight alpha.
    """
    shown = (0,) * 8, (0, 0, 0, 0, 0, 1, 0, 1), (0, 0, 0, 0, 1, 0, 1, 0), (0, 0, 0, 0, 1, 1, 1, 1), (1,) * 8
    return list(zip(shown, five, strict=True))


def five_of_block(block: Pixels) -> list[Pixels]:
    """The five base tiles of a block of 2 x 3: crossing at the top right, below a patch of 2 x 2.

    Parameters
    ----------
    block : (3, 2, h, w, 4) uint8
    """
    height, width = block.shape[2:4]
    patch = block[1:]
    crossing: Pixels = block[0, 1]
    halves = [(slice(0, height // 2), slice(height // 2, height)), (slice(0, width // 2), slice(width // 2, width))]

    def assembled(rows: tuple[int, int], columns: tuple[int, int]) -> Pixels:
        """A tile whose upper and lower, left and right halves come from these rows and columns of the patch."""
        tile: Pixels = np.empty_like(patch[0, 0])
        for half_row, row in zip(halves[0], rows, strict=True):
            for half_column, column in zip(halves[1], columns, strict=True):
                tile[half_row, half_column] = patch[row, column][half_row, half_column]
        return tile

    return [
        assembled((0, 1), (0, 1)), assembled((0, 1), (1, 0)), assembled((1, 0), (0, 1)), crossing,
        assembled((1, 0), (1, 0)),
    ]  # fmt: skip


def _source(labels: Labels, quarter: int) -> int:
    """What a quarter of a tile is lent from."""
    upright, level = (bool(labels[edge]) for edge in _EDGES[quarter])
    return (LONE, LEVEL, UPRIGHT, WHOLE if labels[quarter] else CROSSING)[level + 2 * upright]


def _places(tile: Pixels) -> tuple[tuple[slice, slice], ...]:
    """Where the quarters of a tile lie."""
    height, width = tile.shape[:2]
    upper, lower = slice(0, height // 2), slice(height // 2, height)
    left, right = slice(0, width // 2), slice(width // 2, width)
    return (upper, left), (upper, right), (lower, right), (lower, left)


def _steps(ones: list[Pixels], others: list[Pixels], *, down: bool = False, lower: bool = False) -> Floats:
    """How far pixels step over the middle from a half of tiles to one of others, (n, m); 0 within the same tile."""
    first, second = (np.stack(tiles).astype(np.float64) for tiles in (ones, others))
    if down:
        first, second = first.swapaxes(1, 2), second.swapaxes(1, 2)
    height, width = first.shape[1:3]
    half = slice(height // 2, height) if lower else slice(0, height // 2)
    here, there = first[:, half, width // 2 - 1], second[:, half, width // 2]
    steps = np.abs(here[:, None] - there[None]).sum(axis=(2, 3))
    apart: Floats = steps * np.array([[one is not other for other in others] for one in ones])
    return apart
