"""Finding blocks whose tiles fill their cells: terrain of platforms whose rim, or only its top, is drawn at the border.

Nothing is clear at the sides of such a tile. But what is drawn along a side where the block ends, an outline, grass on
top, has colours that the tile in its midst has nowhere; and where the block goes on there are only such. So every 3 x 3
tiles are tried: their outer sides have to show other colours than their midst, their inner ones the same.
"""

from collections.abc import Iterator
from copy import copy
from dataclasses import replace

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from knitground.core.joins.faces import Faces
from knitground.core.joins.found import FULL, FoundSet, covered_by_cells
from knitground.core.joins.look import Floats, looks_of
from knitground.core.joins.palettes import Palette

_SAME, _OTHER = 0.3, 0.7
"""Up to what share of other colours along it a side goes on, and from what on the block ends there."""
_DEEP, _OWN = 0.6, 0.8
"""How much of a tile at a side may show other colours, and how much of one that joins the block shows its colours."""
_STANDING, _FADING = 0.8, 0.5
"""As `_DEEP` and `_SAME` where a block ends within its cells: what is clear there counts as other colours."""
_GROUND, _FADES, _BARE = 0.95, 0.85, 0.9
"""As `_OTHER`, `_SAME` and `_DEEP` where a block ends within its cells on a ground that is drawn with it."""
_SHOWN = 0.1
"""How much of a tile that joins the block shows what its midst does, at the least."""
_BETWEEN, _MIDST = 8, 3
"""What part of a side is left out at both of its ends, and where that shows too much of others, its midst alone."""
_CORNER = 16
"""What part of a tile's side a corner is at least wide."""
_MOST_LOOKED_AT, _MOST_COPIES = 200, 24
"""How many blocks are looked at, and how often their midst may lie on the sheet."""
_OUTER = ((0, 0), (0, 1), (0, 2)), ((0, 2), (1, 2), (2, 2)), ((2, 0), (2, 1), (2, 2)), ((0, 0), (1, 0), (2, 0))
"""Row and column in a block of the tiles at its upper, right, lower and left side."""
_ASIDE = [0, 1, 3]
"""The sides at which a block ends whose face lies below it."""
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
    at = np.argwhere(number >= 0)[:, ::-1]
    looks, taken = looks_of(tiles), np.zeros(len(tiles), dtype=bool)
    common = np.bincount(looks)[looks] > _MOST_COPIES  # what lies all over a sheet is its ground
    faces, whole = Faces(tiles, number, full), list[tuple[_Block, FoundSet]]()

    def blocks(*, standing: bool) -> Iterator[_Block]:
        for row, column in _likely(tiles, full, number, standing=standing):
            nine = number[row : row + 3, column : column + 3]
            if not (taken[nine].any() or common[nine[1, 1]]):
                yield _Block(tiles, number, row, column, standing=standing)

    def with_all(block: _Block, below: NDArray[np.intp]) -> FoundSet | None:
        found = block.set_of(number, np.setdiff1d(np.flatnonzero(full & ~taken), [*block.nine, *below.flat]), looks)
        if found is not None:
            taken[number[found.cells[:, 1], found.cells[:, 0]]] = taken[below] = True
        return found

    # What does not end upward may be the face of what lies above it.
    open_above = np.zeros(len(tiles), dtype=bool)

    def with_face(block: _Block) -> Iterator[FoundSet]:
        below = faces.below(block.row + 2, block.column, block.within, ~taken | open_above)
        found = with_all(block, below) if len(below) else None
        if found is not None:
            open_above[below] = False
            yield _with_faces(found, at[below])

    on_ground = list[_Block]()
    for block in blocks(standing=False):
        found = with_all(block, np.zeros((0, 3), dtype=np.intp))
        if found is not None:
            whole.append((block, found))
        elif block.told[_ASIDE].all():
            on_ground.append(block)
    open_above[[tile for block, _ in whole if not block.told[0] for tile in block.nine]] = True
    for block in on_ground:
        if not taken[block.nine].any():
            yield from with_face(block.without_ground())
    for block, found in sorted(whole, key=lambda one: one[0].row):
        if open_above[block.nine].all() or block.told[0]:
            below = faces.below(block.row + 2, block.column, block.within, ~taken | open_above)
            taken[below], open_above[below] = True, False
            yield _with_faces(found, at[below])
    for block in blocks(standing=True):
        yield from with_face(block)


def _with_faces(found: FoundSet, faces: NDArray[np.intp]) -> FoundSet:
    """A set with faces, which make it surer, if there are any."""
    sure = 1 - (1 - found.confidence) / 2
    return replace(found, faces=faces, confidence=sure) if len(faces) else found


def _likely(
    tiles: NDArray[np.uint8], full: NDArray[np.bool_], number: NDArray[np.intp], *, standing: bool = False
) -> list[tuple[int, int]]:
    """Row and column of 3 x 3 tiles, those first that on one side at least differ most from what is within.

    All are full, or just the one in the midst, of those that end within their cells.
    """
    if min(number.shape) < 3:
        return []
    windows = sliding_window_view(np.where(number >= 0, full[number], False), (3, 3))
    held = sliding_window_view(number >= 0, (3, 3)).all(axis=(2, 3))
    every = windows.all(axis=(2, 3))
    first = np.argwhere(held & ~every & windows[..., 1, 1] if standing else every)
    blocks = sliding_window_view(number, (3, 3))[first[:, 0], first[:, 1]]
    lines = np.stack([np.rot90(tiles, side, axes=(1, 2))[:, 0].mean(axis=1) for side in range(4)], axis=1)
    middle = tiles[blocks[:, 1, 1]].mean(axis=(1, 2))
    apart = np.abs(lines[blocks] - middle[:, None, None, None]).max(axis=-1)
    outer = np.max([apart[:, *np.transpose(spots), side].min(axis=1) for side, spots in enumerate(_OUTER)], axis=0)
    order = np.argsort(-outer / (apart[:, _INNER].max(axis=1) + 1), kind="stable")[:_MOST_LOOKED_AT]
    return [(row, column) for row, column in first[order].tolist()]


class _Block:
    """Nine tiles, and what the sides of tiles show that their midst does not."""

    def __init__(
        self, tiles: NDArray[np.uint8], number: NDArray[np.intp], row: int, column: int, *, standing: bool = False
    ) -> None:
        self.row, self.column, self._tiles = row, column, tiles
        self.nine = number[row : row + 3, column : column + 3].ravel()
        self.middle = int(self.nine[4])
        self.within = Palette(tiles[self.middle][None])
        self._ground: Palette | None = None
        self._look(standing=standing)

    def without_ground(self) -> "_Block":
        """The same as one that ends within its cells, with what lies round it taken for clear."""
        made = copy(self)
        outer = [np.rot90(self._tiles[self.nine[3 * row + column]], side)[0]
                 for side in _ASIDE for row, column in _OUTER[side]]  # fmt: skip
        made._ground = Palette(np.concatenate(outer))
        made._look(standing=True)
        return made

    def _look(self, *, standing: bool) -> None:
        self._same, self._other, deep = _SAME, _OTHER, _DEEP
        if self._ground is not None:
            self._same, self._other, deep = _FADES, _GROUND, _BARE
        elif standing:
            self._same, deep = _FADING, _STANDING
        drawn = self._drawn(self.nine)
        self._sides = self._along(drawn).reshape(3, 3, 4)
        outer = np.stack([[self._sides[(*at, side)] for at in spots] for side, spots in enumerate(_OUTER)])
        inner = self._sides[_INNER].max()
        self.told = np.asarray((outer >= self._other).all(axis=1))
        self.sure = float(1 - inner / self._same * 2 * _SAME)
        if self._ground is not None:
            told = self.told[_ASIDE].all()
        elif standing:
            told = self.told.all()
        else:
            told = self.told.any() and (self.told | (outer <= _SAME).all(axis=1)).all()
        self.stands = bool(told and inner <= self._same and self._others(drawn).max() <= deep)

    def _drawn(self, tiles: NDArray[np.intp]) -> NDArray[np.uint8]:
        """The pixels of tiles, (k, h, w, 4); what shows the ground round the block and not its midst is clear."""
        pixels = self._tiles[tiles]
        if self._ground is not None:
            pixels = pixels.copy()
            pixels[~self._ground.lacks(pixels) & self.within.lacks(pixels)] = 0
        return pixels

    def _along(self, drawn: NDArray[np.uint8], part: int = _BETWEEN) -> Floats:
        """The share of other colours along the four sides of tiles, without such a part at both ends; (k, 4)."""
        sides = []
        for side in range(4):
            line = np.rot90(drawn, side, axes=(1, 2))[:, 0]
            edge = min(max(1, line.shape[1] // part), (line.shape[1] - 1) // 2)
            sides.append(self._others(line[:, edge : line.shape[1] - edge]))
        return np.stack(sides, axis=1)

    def _others(self, pixels: NDArray[np.uint8]) -> Floats:
        """What share of pixels, (k, ..., 4), has colours that the midst has not; (k,)."""
        other = self.within.lacks(pixels)
        return np.asarray(other.mean(axis=tuple(range(1, other.ndim))))

    def set_of(self, number: NDArray[np.intp], among: NDArray[np.intp], looks: NDArray[np.intp]) -> FoundSet | None:
        """The block with what else belongs to it; None if it is none. Of copies that would lie alike it has one."""
        if not self.stands:
            return None
        own, nine, drawn = Palette(self._drawn(self.nine)), self.nine, self._drawn(among)
        foreign = own.lacks(drawn) & (drawn[..., 3] > 0 if self._ground is not None else True)
        mine = (foreign.mean(axis=(1, 2)) <= 1 - _OWN) & (self._others(drawn) <= 1 - _SHOWN)
        more, drawn = among[mine], drawn[mine]
        sides = self._along(drawn)
        goes_on = _SAME if self._ground is None else self._same
        # Where a beam goes on, its rims above and below take up much of the side.
        unclear = (sides > goes_on) & (sides < self._other)
        beams = unclear.any(axis=1)
        sides[beams] = np.where(unclear[beams], self._along(drawn[beams], _MIDST), sides[beams])
        clear = ((sides <= goes_on) | (sides >= self._other)).all(axis=1)
        more, sides, drawn = more[clear], sides[clear], drawn[clear]
        labels = np.concatenate([
            _formed(_INNER.reshape(9, 4), np.ones((9, 4), dtype=bool)),
            self._labels(more, drawn, sides < goes_on, number),
        ])  # fmt: skip
        mine = np.concatenate([nine, more])
        alike = np.unique(np.column_stack([labels, looks[mine]]), axis=0, return_index=True)[1]
        kept = np.union1d(np.arange(9), alike)
        mine, labels = mine[kept], labels[kept]
        at = np.argwhere(number >= 0)[:, ::-1]
        return FoundSet("cell", at[mine], labels, np.full(len(mine), self.sure), covered_by_cells(labels), self.sure)

    def _labels(
        self, tiles: NDArray[np.intp], drawn: NDArray[np.uint8], goes_on: NDArray[np.bool_], number: NDArray[np.intp]
    ) -> NDArray[np.intp]:
        """What other tiles, drawn so, show; where a side says nothing, they end as they lie on the sheet."""
        mine: NDArray[np.bool_] = np.isin(number, np.concatenate([tiles, self.nine]))
        around = np.pad(mine, 1)
        rows, columns = np.argwhere(number >= 0)[tiles].T + 1
        ends = np.flatnonzero(~goes_on.all(axis=1))
        for side, (down, across) in enumerate(_STEPS):
            if not self.told[side]:
                goes_on[ends, side] &= around[rows[ends] + down, columns[ends] + across]
        wide = max(1, self._tiles.shape[1] // _CORNER)
        corners = np.stack(
            [self._others(np.rot90(drawn, turns, axes=(1, 2))[:, :wide, :wide]) for turns in range(4)],
            axis=1,
        )
        return _formed(goes_on, corners < 0.5)


def _formed(goes_on: NDArray[np.bool_], corners: NDArray[np.bool_]) -> NDArray[np.intp]:
    """The labels of cells, (k, 9), of their sides and corners clockwise: (k, 4) each."""
    both = np.asarray(corners & goes_on & np.roll(goes_on, 1, axis=1))
    return np.concatenate([both, goes_on, np.ones((len(goes_on), 1), dtype=bool)], axis=1).astype(np.intp)
