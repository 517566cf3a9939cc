"""Runs: edges of one terrain that hang together through the cells they meet in."""

from collections.abc import Mapping

from knitground.core.grid.around import Readable
from knitground.core.grid.board import Board, Edge
from knitground.core.grid.shapes import Shape, round_a_cell


def connected_run(board: Board, planes: Mapping[str, Readable], y: int, x: int) -> dict[str, Shape]:
    """The run that passes through a flat cell.

    Parameters
    ----------
    planes : mapping of "across" and "along" to (H', W') uint8
        Terrains on edges, as large as the board says.
    y, x : int
        A flat cell on the board. The run has the terrain of its first edge that bears one, clockwise from the north.

    Returns
    -------
    shapes : mapping of plane to Shape
        Empty where no edge of the cell bears a terrain.
    """

    def terrain_of(edge: Edge) -> int:
        on, edge_y, edge_x = edge
        row, column = board.stored(on, edge_y, edge_x)
        return int(planes[on][row, column])

    terrain = next((value for value in map(terrain_of, round_a_cell(y, x)) if value), 0)
    if not terrain:
        return {}
    found: set[Edge] = set()
    waiting, visited = [(y, x)], {(y, x)}
    while waiting:
        for edge in round_a_cell(*waiting.pop()):
            if edge in found or terrain_of(edge) != terrain:
                continue
            found.add(edge)
            for cell in _beside(edge):
                if cell not in visited and board.holds(*cell):
                    visited.add(cell)
                    waiting.append(cell)
    return board.edges(sorted(found))


def _beside(edge: Edge) -> list[tuple[int, int]]:
    """The two flat cells on either side of an edge."""
    on, y, x = edge
    return [(y, x), (y - 1, x) if on == "across" else (y, x - 1)]
