"""Planes: what was painted, in blocks that are never written to.

A plane stays as it is for good. Painting gives a new one that shares all blocks but those that changed, so that a
project at one moment costs nothing to keep, and two moments are compared by looking at which blocks are the same.
"""

from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import ArrayLike, DTypeLike, NDArray

from knitground.core.grid.rect import CellRect

BLOCK = 128
"""Cells on the side of a block."""
_FEW_ENOUGH = 1 << 22

Array = NDArray[Any]


class Change(NamedTuple):
    """Cells of a plane before and after, in the smallest rectangle of a block that holds all that differ."""

    rect: CellRect
    before: Array
    after: Array


class Plane:
    """An immutable two-dimensional array in blocks.

    It is read like an array (``plane[2:5, 3:7]``, ``plane[row, column]``, ``numpy.asarray(plane)``); what is read is
    not to be written to.
    """

    __slots__ = ("_blocks", "dtype", "shape")

    def __init__(self, shape: tuple[int, int], dtype: np.dtype[Any], blocks: tuple[Array, ...]) -> None:
        self.shape = shape
        self.dtype = dtype
        self._blocks = blocks

    @classmethod
    def full(cls, shape: tuple[int, int], dtype: DTypeLike, value: int = 0) -> "Plane":
        """A plane of one value; equal blocks are one array, so that it takes next to no memory."""
        known: dict[tuple[int, int], Array] = {}
        blocks = []
        for rect in _rects(shape):
            size = rect.height, rect.width
            if size not in known:
                known[size] = _frozen(np.full(size, value, dtype=dtype))
            blocks.append(known[size])
        return cls(shape, np.dtype(dtype), tuple(blocks))

    @classmethod
    def of(cls, values: ArrayLike) -> "Plane":
        """A plane that holds what an array holds now; blocks of one value are shared.

        Parameters
        ----------
        values : (H, W) array of integers
        """
        array = np.asarray(values)
        height, width = array.shape
        known: dict[tuple[int, int, int], Array] = {}
        blocks = []
        for rect in _rects((height, width)):
            part = array[rect.rows, rect.columns]
            first = part[0, 0]
            if (part[0] == first).all() and (part == first).all():
                key = rect.height, rect.width, int(first)
                if key not in known:
                    known[key] = _frozen(part.copy())
                blocks.append(known[key])
            else:
                blocks.append(_frozen(part.copy()))
        return cls((height, width), array.dtype, tuple(blocks))

    @property
    def size(self) -> int:
        """How many cells it has."""
        return self.shape[0] * self.shape[1]

    @property
    def nbytes(self) -> int:
        """Bytes that its blocks take, each counted once."""
        return sum({id(block): block.nbytes for block in self._blocks}.values())

    @property
    def block_count(self) -> int:
        """How many different blocks it is made of."""
        return len({id(block) for block in self._blocks})

    def read(self, rect: CellRect) -> Array:
        """The cells of a rectangle inside the plane, (height, width); shares memory where one block holds them all."""
        if rect.is_empty:
            return np.zeros((max(0, rect.height), max(0, rect.width)), dtype=self.dtype)
        top, left = rect.top // BLOCK, rect.left // BLOCK
        bottom, right = (rect.bottom - 1) // BLOCK, (rect.right - 1) // BLOCK
        across = -(-self.shape[1] // BLOCK)
        if top == bottom and left == right:
            block = self._blocks[top * across + left]
            return block[
                rect.top - top * BLOCK : rect.bottom - top * BLOCK, rect.left - left * BLOCK : rect.right - left * BLOCK
            ]
        result = np.empty((rect.height, rect.width), dtype=self.dtype)
        for row in range(top, bottom + 1):
            for column in range(left, right + 1):
                part = _block_rect(row, column, self.shape).inside(rect)
                inner = part._replace(top=part.top - row * BLOCK, left=part.left - column * BLOCK)
                result[part.top - rect.top : part.bottom - rect.top, part.left - rect.left : part.right - rect.left] = (
                    self._blocks[row * across + column][inner.rows, inner.columns]
                )
        return result

    def written(self, rect: CellRect, values: ArrayLike) -> "Plane":
        """The plane with the cells of a rectangle set to other values; itself where nothing differs.

        Parameters
        ----------
        rect : CellRect
        values : int, or (height, width) array
            One for each cell of the rectangle, or the same for all.
        """
        array = np.broadcast_to(np.asarray(values), (rect.height, rect.width))
        across = -(-self.shape[1] // BLOCK)
        blocks: list[Array] | None = None
        if rect.is_empty:
            return self
        for row in range(rect.top // BLOCK, (rect.bottom - 1) // BLOCK + 1):
            for column in range(rect.left // BLOCK, (rect.right - 1) // BLOCK + 1):
                part = _block_rect(row, column, self.shape).inside(rect)
                new = array[
                    part.top - rect.top : part.bottom - rect.top, part.left - rect.left : part.right - rect.left
                ]
                inner = part._replace(top=part.top - row * BLOCK, left=part.left - column * BLOCK)
                old = self._blocks[row * across + column]
                if np.array_equal(old[inner.rows, inner.columns], new):
                    continue
                changed = old.copy()
                changed[inner.rows, inner.columns] = new
                blocks = blocks or list(self._blocks)
                blocks[row * across + column] = _frozen(changed)
        return self if blocks is None else Plane(self.shape, self.dtype, tuple(blocks))

    def resized(self, shape: tuple[int, int], *, goes_on: bool) -> "Plane":
        """The plane larger or smaller at its right and bottom; blocks that stay the same are shared.

        Parameters
        ----------
        shape : (int, int)
        goes_on : bool
            Whether what is new is as it was at the border, instead of 0.
        """
        across = -(-self.shape[1] // BLOCK)
        # Blocks of full size in both are the same; of large planes that is nearly all of them.
        down, right = (min(old, new) // BLOCK for old, new in zip(self.shape, shape, strict=True))
        blocks: list[Array] = []
        for row in range(-(-shape[0] // BLOCK)):
            shared = right if row < down else 0
            blocks += self._blocks[row * across : row * across + shared]
            blocks += [
                self._block_of(_block_rect(row, column, shape), goes_on)
                for column in range(shared, -(-shape[1] // BLOCK))
            ]
        return Plane(shape, self.dtype, tuple(blocks))

    def _block_of(self, rect: CellRect, goes_on: bool) -> Array:
        """A block of another plane with the values of this one where that lies, and at its border or 0 beyond."""
        whole = CellRect(0, 0, *self.shape)
        row, column = rect.top // BLOCK, rect.left // BLOCK
        if rect.inside(whole) == rect == _block_rect(row, column, self.shape):
            return self._blocks[row * -(-self.shape[1] // BLOCK) + column]
        made = np.zeros((rect.height, rect.width), self.dtype)
        part = rect.inside(whole)
        if goes_on:
            rows, columns = (
                np.minimum(np.arange(first, last), side - 1)
                for first, last, side in zip((rect.top, rect.left), (rect.bottom, rect.right), self.shape, strict=True)
            )
            near = CellRect(int(rows[0]), int(columns[0]), int(np.ptp(rows)) + 1, int(np.ptp(columns)) + 1)
            made[:] = self.read(near)[np.ix_(rows - rows[0], columns - columns[0])]
        elif not part.is_empty:
            made[: part.height, : part.width] = self.read(part)
        return _frozen(made)

    def changes_from(self, before: "Plane") -> Iterator[Change]:
        """What differs from an earlier plane of the same shape, block by block; blocks that both share cost nothing."""
        across = -(-self.shape[1] // BLOCK)
        for number, (old, new) in enumerate(zip(before._blocks, self._blocks, strict=True)):
            if old is new:
                continue
            differs = old != new
            rows, columns = np.flatnonzero(differs.any(axis=1)), np.flatnonzero(differs.any(axis=0))
            if rows.size:
                top, left = int(rows[0]), int(columns[0])
                inner = CellRect(top, left, int(rows[-1]) + 1 - top, int(columns[-1]) + 1 - left)
                place = inner._replace(top=top + number // across * BLOCK, left=left + number % across * BLOCK)
                yield Change(place, old[inner.rows, inner.columns], new[inner.rows, inner.columns])

    def extent(self) -> tuple[int, int]:
        """The lowest and the highest value that it holds; 0 and 0 where it has no cell."""
        blocks = {id(block): block for block in self._blocks}.values()
        low = min((int(block.min()) for block in blocks), default=0)
        return low, max((int(block.max()) for block in blocks), default=0)

    def unique(self) -> Array:
        """The different values that it holds, in order."""
        blocks = {id(block): block for block in self._blocks}.values()
        return distinct(list(blocks)) if blocks else np.zeros(0, self.dtype)

    def nearest(self, rect: CellRect, bare: int = 0) -> CellRect | None:
        """Where something else than `bare` lies nearest to a rectangle, by blocks; None if it does inside, or nowhere.

        Blocks are looked at from the nearest one on, and those that are one another only once.
        """
        if (self.read(rect.inside(CellRect(0, 0, *self.shape))) != bare).any():
            return None
        middle = rect.top + rect.height / 2, rect.left + rect.width / 2
        blocks = sorted(
            (
                (_away(place, middle), place, block)
                for block, place in zip(self._blocks, _rects(self.shape), strict=True)
            ),
            key=lambda one: one[0],
        )
        empty: set[int] = set()
        best, least = None, np.inf
        for far, place, block in blocks:
            if far >= least:
                break
            if id(block) in empty:
                continue
            rows, columns = np.nonzero(block != bare)
            if not rows.size:
                empty.add(id(block))
                continue
            away = np.hypot(rows + place.top - middle[0], columns + place.left - middle[1])
            if away.min() < least:
                least, nearest = float(away.min()), int(away.argmin())
                best = CellRect(place.top + int(rows[nearest]), place.left + int(columns[nearest]), 1, 1)
        return best

    def mapped(self, change: Any) -> "Plane":
        """The plane with a function done to each block, once to those that are the same."""
        known: dict[int, Array] = {}
        for block in self._blocks:
            if id(block) not in known:
                new = np.asarray(change(block))
                same = new.dtype == block.dtype and np.array_equal(new, block)
                known[id(block)] = block if same else _frozen(new.copy())
        blocks = tuple(known[id(block)] for block in self._blocks)
        return Plane(self.shape, blocks[0].dtype, blocks)

    def __getitem__(self, key: tuple[Any, Any]) -> Any:
        rows, columns = key
        if isinstance(rows, slice) and isinstance(columns, slice):
            down, across = rows.indices(self.shape[0]), columns.indices(self.shape[1])
            part = self.read(CellRect(down[0], across[0], max(0, down[1] - down[0]), max(0, across[1] - across[0])))
            return part[:: down[2], :: across[2]]
        if isinstance(rows, int | np.integer) and isinstance(columns, int | np.integer):
            row, column = range(self.shape[0])[int(rows)], range(self.shape[1])[int(columns)]
            return self.read(CellRect(row, column, 1, 1))[0, 0]
        return np.asarray(self)[key]

    def __array__(self, dtype: Any = None, copy: bool | None = None) -> Array:
        whole = self.read(CellRect(0, 0, *self.shape))
        if dtype is not None and np.dtype(dtype) != whole.dtype:
            return whole.astype(dtype)
        return whole.copy() if copy else whole

    def __len__(self) -> int:
        return self.shape[0]

    def __eq__(self, other: object) -> bool:
        if self is other:
            return True
        if not isinstance(other, Plane):
            return NotImplemented
        return self.shape == other.shape and next(self.changes_from(other), None) is None

    __hash__ = None  # type: ignore[assignment]


def _rects(shape: tuple[int, int]) -> Iterator[CellRect]:
    """The blocks of a plane, row by row."""
    for row in range(-(-shape[0] // BLOCK)):
        for column in range(-(-shape[1] // BLOCK)):
            yield _block_rect(row, column, shape)


def _away(place: CellRect, spot: tuple[float, float]) -> float:
    """How far the nearest cell of a rectangle can be from a spot."""
    down = max(place.top - spot[0], spot[0] - (place.top + place.height - 1), 0.0)
    across = max(place.left - spot[1], spot[1] - (place.left + place.width - 1), 0.0)
    return float(np.hypot(down, across))


def _block_rect(row: int, column: int, shape: tuple[int, int]) -> CellRect:
    top, left = row * BLOCK, column * BLOCK
    return CellRect(top, left, min(BLOCK, shape[0] - top), min(BLOCK, shape[1] - left))


def _frozen(array: Array) -> Array:
    array.flags.writeable = False
    return array


def distinct(parts: Sequence[Array], pulse: Callable[[], object] = lambda: None) -> Array:
    """The different values in some arrays, in order.

    Parameters
    ----------
    parts : sequence of (...) int
        One or more.
    pulse : callable, optional
        Called after each part; may raise to stop.
    """
    filled = [part for part in parts if part.size]
    high = max((int(part.max()) for part in filled), default=0)
    if high >= _FEW_ENOUGH or min((int(part.min()) for part in filled), default=0) < 0:
        found = []
        for part in filled:
            found.append(np.unique(part))
            pulse()
        return np.unique(np.concatenate(found))
    # Ticking off what is there takes a tenth of the time that sorting does.
    there = np.zeros(high + 1 if filled else 0, dtype=bool)
    for part in filled:
        there[part] = True
        pulse()
    return np.flatnonzero(there).astype(parts[0].dtype)
