"""Finding blocks whose tiles fill their cells: terrain of platforms whose rim, or only its top, is drawn at the border.

Nothing is clear at the sides of such a tile. But what is drawn along a side where the block ends, an outline, grass on
top, has colours that the tile in its midst has nowhere; and where the block goes on there are only such. So every 3 x 3
tiles are tried: their outer sides have to show other colours than their midst, their inner ones the same.
"""

from collections.abc import Iterator

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from knitground.core.joins.found import FoundSet, covered_by_cells
from knitground.core.joins.look import Floats, looks_of
from knitground.core.joins.palettes import Palette

FULL = 0.97
"""From what share of art a tile is full."""
_SAME, _OTHER = 0.3, 0.7
"""Up to what share of other colours along it a side goes on, and from what on the block ends there."""
_DEEP, _OWN = 0.6, 0.8
"""How much of a tile at a side may show other colours, and how much of one that joins the block shows its colours."""
_CORNER = 16
"""What part of a tile's side a corner is at least wide."""
_MOST_LOOKED_AT, _MOST_COPIES = 200, 24
"""How many blocks are looked at, and how often their midst may lie on the sheet."""
_OUTER = ((0, 0), (0, 1), (0, 2)), ((0, 2), (1, 2), (2, 2)), ((2, 0), (2, 1), (2, 2)), ((0, 0), (1, 0), (2, 0))
"""Row and column in a block of the tiles at its upper, right, lower and left side."""
_INNER = np.array([[[(row, column) not in spots for spots in _OUTER] for column in range(3)] for row in range(3)])
"""Over which sides of the tiles of a block it goes on, (3, 3, 4)."""
_STEPS = ((-1, 0), (0, 1), (1, 0), (0, -1))


def brimful_sets(tiles: NDArray[np.uint8], number: NDArray[np.intp]) -> Iterator[FoundSet]:
    """The blocks of a cut that fill their cells, as sets that are painted by the cell.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    full = (tiles[..., 3] > 0).mean(axis=(1, 2)) >= FULL
    if not full.any():
        return
    looks, taken = looks_of(tiles), np.zeros(len(tiles), dtype=bool)
    common = np.bincount(looks)[looks] > _MOST_COPIES  # what lies all over a sheet is its ground
    for row, column in _likely(tiles, full, number):
        block = number[row : row + 3, column : column + 3]
        if not (taken[block].any() or common[block[1, 1]]):
            free = np.setdiff1d(np.flatnonzero(full & ~taken), block)
            found = _Block(tiles, block).set_of(number, free, looks)
            if found is not None:
                taken[number[found.cells[:, 1], found.cells[:, 0]]] = True
                yield found


def _likely(tiles: NDArray[np.uint8], full: NDArray[np.bool_], number: NDArray[np.intp]) -> list[tuple[int, int]]:
    """Row and column of 3 x 3 full tiles, those first that on one side at least differ most from what is within."""
    if min(number.shape) < 3:
        return []
    solid = np.where(number >= 0, full[number], False)
    first = np.argwhere(sliding_window_view(solid, (3, 3)).all(axis=(2, 3)))
    blocks = sliding_window_view(number, (3, 3))[first[:, 0], first[:, 1]]
    lines = np.stack([np.rot90(tiles, side, axes=(1, 2))[:, 0, :, :3].mean(axis=1) for side in range(4)], axis=1)
    middle = tiles[blocks[:, 1, 1], ..., :3].mean(axis=(1, 2))
    apart = np.abs(lines[blocks] - middle[:, None, None, None]).max(axis=-1)
    outer = np.max([apart[:, *np.transpose(spots), side].min(axis=1) for side, spots in enumerate(_OUTER)], axis=0)
    order = np.argsort(-outer / (apart[:, _INNER].max(axis=1) + 1), kind="stable")[:_MOST_LOOKED_AT]
    return [(row, column) for row, column in first[order].tolist()]


class _Block:
    """Nine tiles, and what the sides of tiles show that their midst does not."""

    def __init__(self, tiles: NDArray[np.uint8], block: NDArray[np.intp]) -> None:
        self._tiles, self._block = tiles, block
        self._within = Palette(tiles[block[1, 1]][None])
        self._sides = self._along(block.ravel()).reshape(3, 3, 4)
        outer = np.stack([[self._sides[(*at, side)] for at in spots] for side, spots in enumerate(_OUTER)])
        inner = self._sides[_INNER].max()
        self.told = np.asarray((outer >= _OTHER).all(axis=1))
        untold = np.asarray((outer <= _SAME).all(axis=1))
        self.sure = float(1 - 2 * inner)
        self.stands = bool(self.told.any() and (self.told | untold).all() and inner <= _SAME)

    def _along(self, tiles: NDArray[np.intp]) -> Floats:
        """The share of other colours along the four sides of tiles, between their corners; (k, 4)."""
        sides = []
        for side in range(4):
            line = np.rot90(self._tiles[tiles], side, axes=(1, 2))[:, 0]
            edge = min(max(1, line.shape[1] // 8), (line.shape[1] - 1) // 2)
            sides.append(self._others(line[:, edge : line.shape[1] - edge]))
        return np.stack(sides, axis=1)

    def _others(self, pixels: NDArray[np.uint8]) -> Floats:
        """What share of pixels, (k, ..., 4), has colours that the midst has not; (k,)."""
        other = self._within.lacks(pixels)
        return np.asarray(other.mean(axis=tuple(range(1, other.ndim))))

    def set_of(self, number: NDArray[np.intp], among: NDArray[np.intp], looks: NDArray[np.intp]) -> FoundSet | None:
        """The block with what else belongs to it; None if it is none. Of copies that would lie alike it has one."""
        if not self.stands or self._others(self._tiles[self._block.ravel()]).max() > _DEEP:
            return None
        own = Palette(self._tiles[self._block.ravel()])
        nine = self._block.ravel()
        more = among[own.lacks(self._tiles[among]).mean(axis=(1, 2)) <= 1 - _OWN]
        sides = self._along(more)
        clear = ((sides <= _SAME) | (sides >= _OTHER)).all(axis=1)
        more, sides = more[clear], sides[clear]
        labels = np.concatenate(
            [_formed(_INNER.reshape(9, 4), np.ones((9, 4), dtype=bool)), self._labels(more, sides < _SAME, number)]
        )
        mine = np.concatenate([nine, more])
        alike = np.unique(np.column_stack([labels, looks[mine]]), axis=0, return_index=True)[1]
        kept = np.union1d(np.arange(9), alike)
        mine, labels = mine[kept], labels[kept]
        at = np.argwhere(number >= 0)[:, ::-1]
        return FoundSet("cell", at[mine], labels, np.full(len(mine), self.sure), covered_by_cells(labels), self.sure)

    def _labels(
        self, tiles: NDArray[np.intp], goes_on: NDArray[np.bool_], number: NDArray[np.intp]
    ) -> NDArray[np.intp]:
        """What other tiles show; where a side says nothing, they end as they lie on the sheet."""
        mine: NDArray[np.bool_] = np.isin(number, np.concatenate([tiles, self._block.ravel()]))
        around = np.pad(mine, 1)
        rows, columns = np.argwhere(number >= 0)[tiles].T + 1
        ends = np.flatnonzero(~goes_on.all(axis=1))
        for side, (down, across) in enumerate(_STEPS):
            if not self.told[side]:
                goes_on[ends, side] &= around[rows[ends] + down, columns[ends] + across]
        wide = max(1, self._tiles.shape[1] // _CORNER)
        corners = np.stack(
            [self._others(np.rot90(self._tiles[tiles], turns, axes=(1, 2))[:, :wide, :wide]) for turns in range(4)],
            axis=1,
        )
        return _formed(goes_on, corners < 0.5)


def _formed(goes_on: NDArray[np.bool_], corners: NDArray[np.bool_]) -> NDArray[np.intp]:
    """The labels of cells, (k, 9), of their sides and corners clockwise: (k, 4) each."""
    both = np.asarray(corners & goes_on & np.roll(goes_on, 1, axis=1))
    return np.concatenate([both, goes_on, np.ones((len(goes_on), 1), dtype=bool)], axis=1).astype(np.intp)
