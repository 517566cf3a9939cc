"""Forms that are drawn between two places: a box, a frame, a round, a ring, a line.

A new form is a function here and a line in `FORMS`. Forms are reckoned in flat places (see `knitground.core.grid`).
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.rect import CellRect

Mask = NDArray[np.bool_]
Step = tuple[int, int]
_MOST_AWAY = 1 << 14


@dataclass(frozen=True)
class Form:
    """How a form is called, what it covers, and how it is held to a plain one.

    Attributes
    ----------
    covers : callable
        Given the two places, the brush's radius and the rectangle that counts, gives a rectangle and the places of it
        that are covered, (h, w) bool. None for what the brush covers on the straight way.
    holds : callable
        The second place moved so that the form is plain: a square, a circle, a line along an axis or a diagonal.
    """

    name: str
    covers: Callable[[Step, Step, int, CellRect], tuple[CellRect, Mask]] | None
    holds: Callable[[Step, Step], Step]
    solid: bool = False


def held_square(start: Step, end: Step) -> Step:
    """The second of two corners, moved so that they span a square."""
    down, across = end[0] - start[0], end[1] - start[1]
    side = max(abs(down), abs(across))
    return start[0] + (side if down >= 0 else -side), start[1] + (side if across >= 0 else -side)


def held_straight(start: Step, end: Step) -> Step:
    """The second of two places, moved onto the nearest of the eight directions from the first."""
    down, across = end[0] - start[0], end[1] - start[1]
    if abs(across) > 2 * abs(down):
        return start[0], end[1]
    if abs(down) > 2 * abs(across):
        return end[0], start[1]
    return held_square(start, end)


def held_level(start: tuple[float, float], end: tuple[float, float]) -> tuple[float, float]:
    """The second of two places, moved to the row or the column of the first, whichever is nearer."""
    if abs(end[0] - start[0]) > abs(end[1] - start[1]):
        return end[0], start[1]
    return start[0], end[1]


def _between(start: Step, end: Step) -> CellRect:
    top, left = min(start[0], end[0]), min(start[1], end[1])
    return CellRect(top, left, abs(start[0] - end[0]) + 1, abs(start[1] - end[1]) + 1)


def _box(start: Step, end: Step, radius: int, within: CellRect) -> tuple[CellRect, Mask]:
    rect = _between(start, end).inside(within)
    return rect, np.ones((rect.height, rect.width), dtype=bool)


def _frame(start: Step, end: Step, radius: int, within: CellRect) -> tuple[CellRect, Mask]:
    whole, (rect, mask) = _between(start, end), _box(start, end, radius, within)
    hole = whole.grown(-(radius + 1)).inside(rect)
    if not hole.is_empty:
        mask[hole.top - rect.top : hole.bottom - rect.top, hole.left - rect.left : hole.right - rect.left] = False
    return rect, mask


def _round(start: Step, end: Step, radius: int, within: CellRect) -> tuple[CellRect, Mask]:
    whole = _between(start, end)
    rect = whole.inside(within)
    return rect, _ellipse(whole, rect)


def _ring(start: Step, end: Step, radius: int, within: CellRect) -> tuple[CellRect, Mask]:
    whole, (rect, mask) = _between(start, end), _round(start, end, radius, within)
    inner = whole.grown(-(radius + 1))
    if not inner.is_empty:
        mask &= ~_ellipse(inner, rect)
    return rect, mask


def _ellipse(whole: CellRect, rect: CellRect) -> Mask:
    """The places of a rectangle that lie in the ellipse that touches the sides of another."""
    y = (np.arange(rect.top, rect.bottom) + 0.5 - whole.top) / whole.height * 2 - 1
    x = (np.arange(rect.left, rect.right) + 0.5 - whole.left) / whole.width * 2 - 1
    inside: Mask = y[:, None] ** 2 + x[None, :] ** 2 <= 1
    return inside


FORMS: Mapping[str, Form] = {
    "box": Form("box", _box, held_square, solid=True),
    "frame": Form("frame", _frame, held_square),
    "round": Form("round", _round, held_square, solid=True),
    "ring": Form("ring", _ring, held_square),
    "line": Form("line", None, held_straight),
}
"""By the names that `Hand.form` takes."""


def within_reach(start: Step, end: Step) -> tuple[Step, Step]:
    """Two places no farther off than any ground is wide, so that a drag far out costs nothing."""
    first, last = (tuple(int(np.clip(n, -_MOST_AWAY, _MOST_AWAY)) for n in place) for place in (start, end))
    return (first[0], first[1]), (last[0], last[1])
