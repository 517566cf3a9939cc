"""Shapes that tools paint: which cells, corners or edges a gesture covers.

Each function gives a window and a mask inside it, clipped to the plane that is painted on.
"""

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.window import Window

_FIRST_SEARCH = 64


class Shape(NamedTuple):
    """Cells of a plane: those of the window whose mask is set."""

    window: Window
    mask: NDArray[np.bool_]


def swept_disc(plane: tuple[int, int], start: tuple[float, float], end: tuple[float, float], radius: float) -> Shape:
    """What a disc covers on its way from one (row, column) to another, so that a quick stroke has no holes.

    A radius of 0 covers single cells; the half added to it keeps small discs round rather than star-shaped.
    """
    (row_a, column_a), (row_b, column_b) = start, end
    reach = int(radius) + 1
    top, left = int(np.floor(min(row_a, row_b))) - reach, int(np.floor(min(column_a, column_b))) - reach
    bottom, right = int(np.ceil(max(row_a, row_b))) + reach, int(np.ceil(max(column_a, column_b))) + reach
    window = Window(top, left, bottom - top + 1, right - left + 1).clipped(*plane)
    rows, columns = _coordinates(window)
    down, across = row_b - row_a, column_b - column_a
    length = down**2 + across**2
    along = ((rows - row_a) * down + (columns - column_a) * across) / length if length else np.zeros(window[2:])
    along = np.clip(along, 0, 1)
    distance = (rows - row_a - along * down) ** 2 + (columns - column_a - along * across) ** 2
    return Shape(window, distance <= (radius + 0.5) ** 2)


def rectangle(plane: tuple[int, int], start: tuple[int, int], end: tuple[int, int]) -> Shape:
    """All cells between two opposite ones, both included."""
    (row_a, column_a), (row_b, column_b) = start, end
    top, left = min(row_a, row_b), min(column_a, column_b)
    window = Window(top, left, abs(row_a - row_b) + 1, abs(column_a - column_b) + 1).clipped(*plane)
    return Shape(window, np.ones((window.height, window.width), dtype=bool))


def flood(values: NDArray[np.generic], row: int, column: int, within: Window | None = None) -> Shape:
    """The cells that hang together with one, side by side, and hold the same value.

    The search begins in a small window and widens only while the region reaches its border, so that the cost
    follows the region and not the plane.

    Parameters
    ----------
    values : (H, W) array
    row, column : int
        A cell of the plane.
    within : Window, optional
        Where to look; cells beyond are left out, and so is what hangs together only through them.
    """
    from scipy import ndimage

    area = Window(0, 0, values.shape[0], values.shape[1])
    area = area if within is None else within.inside(area)
    reach = _FIRST_SEARCH
    while True:
        window = Window(row - reach, column - reach, 2 * reach + 1, 2 * reach + 1).inside(area)
        part = values[window.rows, window.columns]
        pieces, _ = ndimage.label(part == values[row, column])
        mask = pieces == pieces[row - window.top, column - window.left]
        if not _leaves(mask, window, area):
            return cropped(Shape(window, mask))
        reach *= 4


def edge_shapes(edges: list[tuple[str, int, int]], planes: Mapping[str, tuple[int, int]]) -> dict[str, Shape]:
    """Edges as one shape for each plane that holds some.

    Parameters
    ----------
    edges : list of (plane, row, column)
        As from `edge_run`; those outside their plane are left out.
    planes : mapping of plane to its shape
    """
    shapes = {}
    for plane, (height, width) in planes.items():
        cells = [(r, c) for name, r, c in edges if name == plane and 0 <= r < height and 0 <= c < width]
        if cells:
            rows, columns = np.array(cells).T
            window = Window(int(rows.min()), int(columns.min()), int(np.ptp(rows)) + 1, int(np.ptp(columns)) + 1)
            mask = np.zeros((window.height, window.width), dtype=bool)
            mask[rows - window.top, columns - window.left] = True
            shapes[plane] = Shape(window, mask)
    return shapes


def edge_run(start: tuple[int, int], end: tuple[int, int]) -> list[tuple[str, int, int]]:
    """The edges that a walk from one cell to another crosses, first along the longer way.

    Returns
    -------
    edges : list of (plane, row, column)
        Plane is ``across`` or ``along``, as `knit` names them.
    """
    (row, column), (last_row, last_column) = start, end
    edges: list[tuple[str, int, int]] = []
    while (row, column) != (last_row, last_column):
        down, right = last_row - row, last_column - column
        if abs(right) >= abs(down):
            edges.append(("along", row, column + (right > 0)))
            column += 1 if right > 0 else -1
        else:
            edges.append(("across", row + (down > 0), column))
            row += 1 if down > 0 else -1
    return edges


def cropped(shape: Shape) -> Shape:
    """The same cells in the smallest window that holds them."""
    rows, columns = np.flatnonzero(shape.mask.any(axis=1)), np.flatnonzero(shape.mask.any(axis=0))
    if not rows.size:
        return Shape(Window(shape.window.top, shape.window.left, 0, 0), shape.mask[:0, :0])
    inner = Window(int(rows[0]), int(columns[0]), int(rows[-1] - rows[0]) + 1, int(columns[-1] - columns[0]) + 1)
    window = inner._replace(top=inner.top + shape.window.top, left=inner.left + shape.window.left)
    return Shape(window, shape.mask[inner.rows, inner.columns])


def _leaves(mask: NDArray[np.bool_], window: Window, area: Window) -> bool:
    """Whether a region touches a border of its window that is not the border of the whole area."""
    return bool(
        (window.top > area.top and mask[0].any())
        or (window.left > area.left and mask[:, 0].any())
        or (window.bottom < area.bottom and mask[-1].any())
        or (window.right < area.right and mask[:, -1].any())
    )


def _coordinates(window: Window) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    return np.arange(window.top, window.bottom)[:, None], np.arange(window.left, window.right)[None, :]
