"""Shapes that tools paint: which cells, corners or edges a gesture covers.

All of it is reckoned in flat places (see `knitground.core.grid`); a board turns them into rows and columns.
"""

from itertools import pairwise
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.rect import CellRect


class Shape(NamedTuple):
    """Cells of a plane: those of the window whose mask is set."""

    window: CellRect
    mask: NDArray[np.bool_]


def swept_disc_mask(
    start: tuple[float, float],
    end: tuple[float, float],
    radius: float,
    within: CellRect,
    *,
    side_by_side: bool = False,
) -> tuple[CellRect, NDArray[np.bool_]]:
    """What a disc covers on its way from one (row, column) to another, so that a quick stroke has no holes.

    A radius of 0 covers single cells; the half added to it keeps small discs round rather than star-shaped.

    Parameters
    ----------
    within : CellRect
        Nothing beyond it is worked out.
    side_by_side : bool
        Whether places that would touch at a corner only hang together by one more, as they do on a slow way.

    Returns
    -------
    rect : CellRect
    mask : (height, width) bool
    """
    (row_a, column_a), (row_b, column_b) = start, end
    reach = int(radius) + 1
    top, left = int(np.floor(min(row_a, row_b))) - reach, int(np.floor(min(column_a, column_b))) - reach
    bottom, right = int(np.ceil(max(row_a, row_b))) + reach, int(np.ceil(max(column_a, column_b))) + reach
    rect = CellRect(top, left, bottom - top + 1, right - left + 1).inside(within)
    rows, columns = np.arange(rect.top, rect.bottom)[:, None], np.arange(rect.left, rect.right)[None, :]
    down, across = row_b - row_a, column_b - column_a
    length = down**2 + across**2
    along = ((rows - row_a) * down + (columns - column_a) * across) / length if length else np.zeros(rect[2:])
    along = np.clip(along, 0, 1)
    distance = (rows - row_a - along * down) ** 2 + (columns - column_a - along * across) ** 2
    mask = distance <= (radius + 0.5) ** 2
    if side_by_side:
        _hang_together(mask, distance)
        _hang_together(mask[:, ::-1], distance[:, ::-1])
    return rect, mask


def _hang_together(mask: NDArray[np.bool_], distance: NDArray[np.float64]) -> None:
    """Adds the nearer of the two places beside each pair that touches at a corner only, lower right of the other."""
    lone = mask[:-1, :-1] & mask[1:, 1:] & ~mask[:-1, 1:] & ~mask[1:, :-1]
    right = distance[:-1, 1:] <= distance[1:, :-1]
    mask[:-1, 1:] |= lone & right
    mask[1:, :-1] |= lone & ~right


def inside_polygon(corners: NDArray[Any], y: NDArray[Any], x: NDArray[Any]) -> NDArray[np.bool_]:
    """Which places lie inside a polygon, by the even-odd rule.

    Parameters
    ----------
    corners : (N, 2) float
        Its corners, each y and x.
    y, x : (H, W) float
        The places.

    Returns
    -------
    inside : (H, W) bool
    """
    inside = np.zeros(y.shape, dtype=bool)
    for (one_y, one_x), (other_y, other_x) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        crosses = (one_y > y) != (other_y > y)
        with np.errstate(divide="ignore", invalid="ignore"):
            at = one_x + (y - one_y) / (other_y - one_y) * (other_x - one_x)
        inside ^= crosses & (x < at)
    return inside


def flood_label(same: NDArray[np.bool_], row: int, column: int) -> NDArray[np.bool_]:
    """Which cells hang together with one, side by side, among those of an (H, W) mask.

    Parameters
    ----------
    same : (H, W) bool
    row, column : int
        The cell to begin with.

    Returns
    -------
    region : (H, W) bool
    """
    from scipy import ndimage

    pieces, _ = ndimage.label(same)
    return np.asarray(pieces == pieces[row, column])


def walk(start: tuple[int, int], end: tuple[int, int]) -> list[tuple[Literal["across", "along"], int, int]]:
    """The edges that a walk from one flat cell to another crosses, first along the longer way.

    Returns
    -------
    edges : list of (kind, y, x)
        Each by the cell on whose north (across) or west (along) it lies.
    """
    (row, column), (last_row, last_column) = start, end
    edges: list[tuple[Literal["across", "along"], int, int]] = []
    while (row, column) != (last_row, last_column):
        down, right = last_row - row, last_column - column
        if abs(right) >= abs(down):
            edges.append(("along", row, column + (right > 0)))
            column += 1 if right > 0 else -1
        else:
            edges.append(("across", row + (down > 0), column))
            row += 1 if down > 0 else -1
    return edges


def round_a_box(start: tuple[int, int], end: tuple[int, int]) -> list[tuple[Literal["across", "along"], int, int]]:
    """The edges that a walk once round between two opposite flat cells crosses."""
    (top, left), (bottom, right) = start, end
    ring = [(top, left), (top, right), (bottom, right), (bottom, left), (top, left)]
    return [edge for one, other in pairwise(ring) for edge in walk(one, other)]


def round_a_cell(y: int, x: int) -> list[tuple[Literal["across", "along"], int, int]]:
    """The four edges of a flat cell, clockwise from the north."""
    return [("across", y, x), ("along", y, x + 1), ("across", y + 1, x), ("along", y, x)]


def cropped(shape: Shape) -> Shape:
    """The same cells in the smallest window that holds them."""
    rows, columns = np.flatnonzero(shape.mask.any(axis=1)), np.flatnonzero(shape.mask.any(axis=0))
    if not rows.size:
        return Shape(CellRect(shape.window.top, shape.window.left, 0, 0), shape.mask[:0, :0])
    inner = CellRect(int(rows[0]), int(columns[0]), int(rows[-1] - rows[0]) + 1, int(columns[-1] - columns[0]) + 1)
    window = inner._replace(top=inner.top + shape.window.top, left=inner.left + shape.window.left)
    return Shape(window, shape.mask[inner.rows, inner.columns])


def leaves(mask: NDArray[np.bool_], rect: CellRect, area: CellRect) -> bool:
    """Whether a region touches a border of its rectangle that is not the border of the whole area.

    Parameters
    ----------
    mask : (H, W) bool
        The region, as large as `rect`.
    rect, area : CellRect
        Where the mask lies, and how far there are cells.
    """
    return bool(
        (rect.top > area.top and mask[0].any())
        or (rect.left > area.left and mask[:, 0].any())
        or (rect.bottom < area.bottom and mask[-1].any())
        or (rect.right < area.right and mask[:, -1].any())
    )
