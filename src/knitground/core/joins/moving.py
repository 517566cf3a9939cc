"""Blocks of a sheet that repeat a set tile for tile, as the frames of art that moves do.

Of a block that shows another frame each tile is most like the one at its place: what stands still is the same to the
pixel there, and nowhere else to such a part. Blocks in other colours are like that too, so the colours count as well.
Variants may have been drawn in the same way. Where there are three blocks or more they are taken for frames, as nobody
draws a whole set of variants as often, of two for variants.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.joins.found import FoundSet

_FEWEST, _MOST_BLOCKS, _MOST_TILES = 6, 12, 256
_NEARLY, _MOST = 0.9, 0.8
"""How many of the tiles have to be most like those at their places, and how many of a block be of one set."""
_LOOKED_AT = 400
"""How many pixels of each tile are looked at to tell which are alike."""
_OTHER_COLOUR = 24
"""By how many levels the mean colour of a tile differs at the most from frame to frame."""
_FEWEST_FRAMES = 3
"""How many blocks are taken for frames, and not for variants."""

_Search = Callable[[NDArray[np.bool_]], list[FoundSet]]


def with_frames(
    found: list[FoundSet], tiles: NDArray[np.uint8], held: NDArray[np.bool_], again: _Search
) -> list[FoundSet]:
    """Sets, those that are repeated tile for tile by the first block alone, with the others as frames or as variants.

    Parameters
    ----------
    found : list of FoundSet
        What was found on the whole cut.
    tiles : (R, C, h, w, 4) uint8
        RGBA, straight alpha.
    held : (R, C) bool
        Which cells hold a tile.
    again : callable
        Finds sets among the cells that it is given, (R, C) bool.
    """
    for places in _repeats(found, tiles, held):
        later = np.zeros_like(held)
        later[places[:, 1:, 1], places[:, 1:, 0]] = True
        first = {tuple(cell) for cell in places[:, 0].tolist()}
        alone = [without for one in found if (without := _without(one, later)) is not None]
        if _share(alone, first)[0] < 1:
            alone = max(alone, again(held & ~later), key=lambda sets: _share(sets, first)[0])
        share, at = _share(alone, first)
        if share >= _MOST:
            alone[at] = _repeated(alone[at], places)
            found = alone
    return found


def _share(found: list[FoundSet], cells: set[tuple[int, ...]]) -> tuple[float, int]:
    """The share of some cells that the set has which most of them are in, and the number of that."""
    shares = [len(cells & {tuple(cell) for cell in one.cells.tolist()}) / len(cells) for one in found]
    return max(((share, at) for at, share in enumerate(shares)), default=(0.0, 0))


def _without(one: FoundSet, later: NDArray[np.bool_]) -> FoundSet | None:
    stays = ~later[one.cells[:, 1], one.cells[:, 0]]
    if not stays.any():
        return None
    hangs = ~later[one.hanging[:, 0, 1], one.hanging[:, 0, 0]]
    return replace(
        one, cells=one.cells[stays], labels=one.labels[stays], sure=one.sure[stays],
        hanging=one.hanging[hangs], instead=one.instead[hangs],
    )  # fmt: skip


def _repeated(one: FoundSet, places: NDArray[np.intp]) -> FoundSet:
    """A set with its frames; where there are few, what lies at the places of a tile is a variant until it is said."""
    numbers = {tuple(cell): number for number, cell in enumerate(one.cells.tolist())}
    frames = places[[tuple(cell) in numbers for cell in places[:, 0].tolist()]]
    moves = frames.shape[1] >= _FEWEST_FRAMES
    if moves:
        return replace(one, frames=frames, moves=True)
    at = np.repeat([numbers[tuple(cell)] for cell in frames[:, 0].tolist()], frames.shape[1] - 1)
    return replace(
        one, frames=frames, cells=np.concatenate([one.cells, frames[:, 1:].reshape(-1, 2)]),
        labels=np.concatenate([one.labels, one.labels[at]]), sure=np.concatenate([one.sure, one.sure[at]]),
    )  # fmt: skip


def _repeats(found: list[FoundSet], tiles: NDArray[np.uint8], held: NDArray[np.bool_]) -> Iterator[NDArray[np.intp]]:
    """Cells of blocks with those at their places in others that repeat them, (K, F, 2); no two share a cell."""
    taken = np.zeros_like(held)
    likely = sorted(set(_chains(found, held)), key=lambda one: (-one.blocks, -one.width * one.height))
    for one in likely:
        places = one.cells(held)
        if not _FEWEST <= len(places) <= _MOST_TILES or taken[places[..., 1], places[..., 0]].any():
            continue
        blocks = tiles[places[..., 1], places[..., 0]]
        blocks = np.where(blocks[..., 3:] > 0, blocks, np.uint8(0))
        if _repeat(blocks) and not _read_otherwise(found, places):
            taken[places[..., 1], places[..., 0]] = True
            yield places


class _Chain(NamedTuple):
    """Blocks of cells of one size, one after the other at equal steps."""

    column: int
    row: int
    width: int
    height: int
    step: tuple[int, int]
    blocks: int

    def cells(self, held: NDArray[np.bool_]) -> NDArray[np.intp]:
        """The cells of the first block that hold a tile in all of them, with those at their places, (K, F, 2)."""
        rows, columns = np.mgrid[self.row : self.row + self.height, self.column : self.column + self.width]
        first = np.column_stack([columns.ravel(), rows.ravel()])
        every = first[:, None] + np.arange(self.blocks)[None, :, None] * np.array(self.step)
        kept: NDArray[np.intp] = every[held[every[..., 1], every[..., 0]].all(axis=1)]
        return kept


def _chains(found: list[FoundSet], held: NDArray[np.bool_]) -> Iterator[_Chain]:
    """Where blocks may repeat each other: parts of what sets lie on, and such that lie apart in a line."""
    if not found:
        return
    # A set may lack some of what moves, or have been found in several.
    for cells in (
        np.argwhere(held)[:, ::-1],
        np.concatenate([one.cells for one in found]),
        *(one.cells for one in found),
    ):
        mask = np.zeros_like(held)
        mask[cells[:, 1], cells[:, 0]] = True
        rects = [
            (at[1].start, at[0].start, at[1].stop - at[1].start, at[0].stop - at[0].start)
            for at in scipy.ndimage.find_objects(scipy.ndimage.label(mask, np.ones((3, 3)))[0])
        ]
        rects = [rect for rect in rects if rect[2] * rect[3] >= _FEWEST]
        for column, row, width, height in rects:
            for count in range(2, _MOST_BLOCKS + 1):
                if width % count == 0:
                    yield _Chain(column, row, width // count, height, (width // count, 0), count)
                if height % count == 0:
                    yield _Chain(column, row, width, height // count, (0, height // count), count)
        for axis in (0, 1):
            yield from _apart(rects, axis)


def _apart(rects: list[tuple[int, int, int, int]], axis: int) -> Iterator[_Chain]:
    """Blocks of one size that lie in a line, equally far apart."""
    lines: dict[tuple[int, int, int], list[int]] = {}
    for rect in rects:
        lines.setdefault((rect[1 - axis], rect[2], rect[3]), []).append(rect[axis])
    for (other, width, height), starts in lines.items():
        steps = np.diff(sorted(starts))
        if len(steps) and len(starts) <= _MOST_BLOCKS and (steps == steps[0]).all():
            step = (int(steps[0]), 0) if axis == 0 else (0, int(steps[0]))
            column, row = (min(starts), other) if axis == 0 else (other, min(starts))
            yield _Chain(column, row, width, height, step, len(starts))


def _repeat(blocks: NDArray[np.uint8]) -> bool:
    """Whether nearly all tiles of blocks, (K, F, h, w, 4), are most like that of the first at their place."""
    packed = np.ascontiguousarray(blocks).view(np.uint32).reshape(*blocks.shape[:2], -1)
    packed = packed[..., :: -(-packed.shape[2] // _LOOKED_AT)]
    first, later = packed[:, 0], packed[:, 1:].reshape(-1, packed.shape[2])
    if len(np.unique(first, axis=0)) < max(_FEWEST, len(first) // 2) or (first[:, None] == packed[:, 1:]).all():
        return False
    like = np.stack([(one == first).mean(axis=1) for one in later])
    own = like[np.arange(len(later)), np.arange(len(later)) // (blocks.shape[1] - 1)]
    means = blocks.astype(np.float64).mean(axis=(2, 3))
    near = (np.abs(means[:, 1:] - means[:, :1]).max(axis=2) <= _OTHER_COLOUR).ravel()
    return bool(((own >= like.max(axis=1)) & near).mean() >= _NEARLY)


def _read_otherwise(found: list[FoundSet], places: NDArray[np.intp]) -> bool:
    """Whether sets say of tiles that are at one place in their blocks that they join otherwise."""
    alike = other = 0
    for one in found:
        labels = {tuple(cell): tuple(row) for cell, row in zip(one.cells.tolist(), one.labels.tolist(), strict=True)}
        for first, *later in places.tolist():
            mine = labels.get(tuple(first))
            theirs = [labels[tuple(cell)] for cell in later if mine is not None and tuple(cell) in labels]
            alike += sum(row == mine for row in theirs)
            other += sum(row != mine for row in theirs)
    return other > (1 - _NEARLY) * (alike + other)
