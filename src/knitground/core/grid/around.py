"""Reading arrays on over their borders, and what lies at an offset from each cell."""

from typing import Any, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.rect import CellRect

Step = tuple[int, int]


class Readable(Protocol):
    """An array, or a plane in blocks."""

    @property
    def shape(self) -> tuple[int, ...]: ...

    def __getitem__(self, key: Any, /) -> Any: ...


class Offset(NamedTuple):
    """Rows and columns from a cell to a place by it, for cells in even and in odd rows."""

    even: Step
    odd: Step


def places_on(first: int, last: int, size: int, period: int | None) -> list[tuple[slice, Any]]:
    """Slices of an array that together give the places from first on, each with how to repeat what it gives."""
    everything = slice(None)
    if period is None:
        inside = max(0, min(first, size - 1)), max(1, min(last, size))
        repeats = np.clip(np.arange(first, last), *(inside[0], inside[1] - 1)) - inside[0]
        return [(slice(*inside), repeats)]
    found: list[tuple[slice, Any]] = []
    while first < last:
        start = first % period
        count = min(last - first, period - start)
        found.append((slice(start, start + count), everything))
        first += count
    return found


def gathered(values: Readable, rows: list[tuple[slice, Any]], columns: list[tuple[slice, Any]]) -> NDArray[Any]:
    """Slices of an array put together as `places_on` gives them.

    Parameters
    ----------
    values : (H, W) array or Plane
    rows, columns : list of (slice, repeats)

    Returns
    -------
    found : (h, w) array
    """
    lines = []
    for down, drepeat in rows:
        parts = [np.asarray(values[down, across])[drepeat][:, arepeat] for across, arepeat in columns]
        lines.append(np.concatenate(parts, 1))
    return np.concatenate(lines)


def taken(block: NDArray[Any], offset: Offset, rect: CellRect, corner: Step) -> NDArray[Any]:
    """The part of a block that lies at an offset from each cell of a rectangle.

    Parameters
    ----------
    block : (h, w) array
        What was read of an array.
    offset : Offset
    rect : CellRect
        The cells.
    corner : (int, int)
        Row and column of the array at which the block begins.

    Returns
    -------
    part : (rect.height, rect.width) array
    """
    (down, right), odd = offset.even, offset.odd
    top, left = rect.top - corner[0], rect.left - corner[1]
    if offset.even == odd:
        return block[top + down : top + down + rect.height, left + right : left + right + rect.width]
    result = np.empty((rect.height, rect.width), dtype=block.dtype)
    for parity, (rows, columns) in enumerate(offset):
        first = (parity - rect.top) % 2
        part = block[top + rows + first : top + rows + rect.height : 2, left + columns : left + columns + rect.width]
        result[first::2] = part
    return result
