"""Runs: edges of one terrain that hang together through the cells they meet in."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.shapes import Shape, edge_shapes


def connected_run(across: NDArray[np.generic], along: NDArray[np.generic], row: int, column: int) -> dict[str, Shape]:
    """The run that passes through a cell.

    Parameters
    ----------
    across : (H + 1, W) uint8
    along : (H, W + 1) uint8
        Terrains on edges, as `knit` takes them.
    row, column : int
        A cell. The run has the terrain of its first edge that bears one, clockwise from the north.

    Returns
    -------
    shapes : mapping of plane to Shape
        Empty where no edge of the cell bears a terrain.
    """
    planes = {"across": across, "along": along}
    terrain = next((value for value in (int(planes[p][r, c]) for p, r, c in _edges(row, column)) if value), 0)
    if not terrain:
        return {}
    found: set[tuple[str, int, int]] = set()
    waiting = [(row, column)]
    visited = {(row, column)}
    while waiting:
        for edge in _edges(*waiting.pop()):
            plane, edge_row, edge_column = edge
            if planes[plane][edge_row, edge_column] != terrain or edge in found:
                continue
            found.add(edge)
            for cell in _cells(edge):
                if cell not in visited and 0 <= cell[0] < along.shape[0] and 0 <= cell[1] < across.shape[1]:
                    visited.add(cell)
                    waiting.append(cell)
    shapes = {name: (plane.shape[0], plane.shape[1]) for name, plane in planes.items()}
    return edge_shapes(sorted(found), shapes)


def _edges(row: int, column: int) -> list[tuple[str, int, int]]:
    """The four edges of a cell, clockwise from the north."""
    return [("across", row, column), ("along", row, column + 1), ("across", row + 1, column), ("along", row, column)]


def _cells(edge: tuple[str, int, int]) -> list[tuple[int, int]]:
    """The two cells on either side of an edge."""
    plane, row, column = edge
    return [(row, column), (row - 1, column) if plane == "across" else (row, column - 1)]
