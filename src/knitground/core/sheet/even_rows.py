"""Shapes that nearly touch but lie in even rows, as coins and icons do: each is a thing, and all no single one."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.cut import Rect

_LEAST = 6
"""How many pixels each has to each side at the least: smaller ones are letters, or rungs and stones of one thing."""
_FEWEST, _FILLED = 4, 0.75
"""How many there are at the least, and how many of their places are filled."""
_EVEN, _ASTRAY = 0.75, 1.0
"""How long the shortest is by the longest, and how far from even steps their middles may lie, in pixels."""

Spans = list[tuple[int, int]]


def in_even_rows(shape: NDArray[np.bool_]) -> list[Rect]:
    """What a shape is made of if that lies in even rows and columns with clear lines between; else nothing.

    Parameters
    ----------
    shape : (h, w) bool
        What can be seen of it.
    """
    rows, columns = (_spans(np.asarray(shape.any(axis=axis))) for axis in (1, 0))
    if len(rows) * len(columns) < _FEWEST or not (_even(rows) and _even(columns)):
        return []
    found = [_filled(shape, row, column) for row in rows for column in columns]
    things = [one for one in found if one is not None]
    return things if len(things) >= max(_FEWEST, _FILLED * len(found)) else []


def _filled(shape: NDArray[np.bool_], row: tuple[int, int], column: tuple[int, int]) -> Rect | None:
    """The part of a place that can be seen."""
    seen = shape[slice(*row), slice(*column)]
    down, across = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    if not len(down):
        return None
    left, top = column[0] + int(across[0]), row[0] + int(down[0])
    return Rect(left, top, int(across[-1] - across[0]) + 1, int(down[-1] - down[0]) + 1)


def _spans(seen: NDArray[np.bool_]) -> Spans:
    """From where to where something can be seen along a line."""
    ends = np.flatnonzero(np.diff(seen.astype(np.int8), prepend=0, append=0)).tolist()
    return list(zip(ends[::2], ends[1::2], strict=True))


def _even(spans: Spans) -> bool:
    """Whether spans are about equally long and lie in even steps."""
    lengths = [end - start for start, end in spans]
    steps = [(b + c - a - d) / 2 for (a, d), (b, c) in pairwise(spans)]
    return (
        min(lengths) >= max(_LEAST, _EVEN * max(lengths))
        and max(steps, default=0.0) - min(steps, default=0.0) <= 2 * _ASTRAY
    )
