"""Small wrapping grounds on which every combination of a set's terrains occurs.

For corners: each row is a de Bruijn sequence of all pairs, shifted against the row above by another amount each
time, so that each pair comes to lie above each pair (Cock's construction of de Bruijn tori). The shifts have to add up
to whole turns for the ground to wrap, and for an even number of terrains they fall half a turn short: there, one row
is put together of two shifts (see `_woven`). For edges: the pair north-south depends on the row alone and the pair
west-east on the column alone.

References
----------
J. C. Cock, "Toroidal tilings from de Bruijn-Good cyclic sequences", Discrete Mathematics 70 (1988).
"""

import math
import random
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.coverage import Axis, Coverage

_TORUS = np.array([[0, 0, 0, 1], [0, 0, 1, 0], [1, 0, 1, 1], [0, 1, 1, 1]])
"""The smallest wrapping ground of two terrains, which the shifts below would miss by a row."""


def proof_corners(terrains: list[int]) -> NDArray[np.uint8]:
    """A lattice whose 2 x 2 windows hold every combination of terrains.

    Parameters
    ----------
    terrains : list of int
        The k numbers to combine.

    Returns
    -------
    corners : (k² + 1, k² + 1) uint8
        The last row and column repeat the first, so that the ground wraps. No smaller one holds all.
    """
    if len(terrains) == 2:
        small: NDArray[np.uint8] = np.asarray(terrains, dtype=np.uint8)[np.pad(_TORUS, ((0, 1), (0, 1)), "wrap")]
        return small
    if len(terrains) % 2:
        row = _pairs(len(terrains))
        turns = np.cumsum(np.arange(len(row)))
    else:
        row = _balanced(_pairs(len(terrains)))
        quarter = len(row) // 4
        turns = np.cumsum([0, *(n for n in range(len(row)) if n not in (quarter, 3 * quarter))])
    lattice = row[(np.arange(len(row)) + turns[:, None]) % len(row)]
    if len(terrains) % 2 == 0:
        lattice = np.vstack([lattice, np.roll(_woven(row), -turns[-1])])
    corners: NDArray[np.uint8] = np.asarray(terrains, dtype=np.uint8)[np.pad(lattice, ((0, 1), (0, 1)), "wrap")]
    return corners


def _woven(row: NDArray[np.intp]) -> NDArray[np.intp]:
    """A row below one that takes the place of two shifts against it, by a quarter turn and by three.

    By quarters of the row, it is the one shift and the other in turn. Each pair then has below it, at one of the two
    shifts, a pair of this row, and this row's pairs have below them at the other shift those of the row half a turn on
    from the first: all that two rows so shifted would hold, in two steps that add up to half a turn and not to a whole.
    Where the shifts change, both have to have the same number: the row's quarters begin with the same in turn.
    """
    half = len(row) // 2
    places = np.arange(len(row))
    later = places % half >= half // 2
    woven: NDArray[np.intp] = row[(places + half // 2 + half * later) % len(row)]
    return woven


def _balanced(row: NDArray[np.intp]) -> NDArray[np.intp]:
    """A cyclic sequence in which every pair stands once, whose first and third, second and fourth quarters begin alike.

    Circuits are drawn, always the same ones, until one has places a quarter apart that do.
    """
    quarter = len(row) // 4
    draw = random.Random(0)
    while True:
        places = np.flatnonzero(
            (row == np.roll(row, -2 * quarter)) & (np.roll(row, -quarter) == np.roll(row, -3 * quarter))
        )
        if places.size:
            found: NDArray[np.intp] = np.roll(row, -places[0])
            return found
        row = _circuit(math.isqrt(len(row)), draw)


def _circuit(count: int, draw: random.Random) -> NDArray[np.intp]:
    """An Eulerian circuit of the complete graph with loops, drawn by chance (Hierholzer's walk)."""
    left = [draw.sample(range(count), count) for _ in range(count)]
    way, found = [0], list[int]()
    while way:
        if left[way[-1]]:
            way.append(left[way[-1]].pop())
        else:
            found.append(way.pop())
    return np.asarray(found[:0:-1], dtype=np.intp)


def proof_edges(terrains: list[int]) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Edges whose cells hold every combination of terrains.

    Parameters
    ----------
    terrains : list of int
        The k numbers to combine.

    Returns
    -------
    across : (k² + 1, k²) uint8
    along : (k², k² + 1) uint8
        As `knit` takes them; the ground wraps.
    """
    line = np.asarray(terrains, dtype=np.uint8)[_pairs(len(terrains))]
    size = len(line)
    closed = np.append(line, line[0])
    return np.repeat(closed[:, None], size, axis=1), np.repeat(closed[None, :], size, axis=0)


def proof_one_way(across: NDArray[np.uint8], along: NDArray[np.uint8], axis: Axis) -> dict[str, NDArray[np.uint8]]:
    """A proof of edges of which only what goes one way is left, and no more of it than is needed.

    Parameters
    ----------
    across : (h + 1, w) uint8
    along : (h, w + 1) uint8
        As `knit` takes them.
    axis : Axis

    Returns
    -------
    planes : mapping of name to uint8 array
        As `knit` takes them; the ground wraps.
    """
    if axis == "across":
        along = np.unique(along, axis=0)
        return {"across": np.zeros((len(along) + 1, along.shape[1] - 1), np.uint8), "along": along}
    across = np.unique(across, axis=1)
    return {"across": across, "along": np.zeros((len(across) - 1, across.shape[1] + 1), np.uint8)}


def _pairs(count: int) -> NDArray[np.intp]:
    """A cyclic sequence of k² numbers in which every ordered pair of k numbers stands once.

    An Eulerian circuit of the complete graph with loops: from n go to n, then up to each later number and back.
    """
    steps: list[int] = []
    for low in range(count):
        steps.append(low)
        for high in range(low + 1, count):
            steps += [low, high]
    return np.asarray(steps, dtype=np.intp)


def proof_full(numbers: range) -> dict[str, NDArray[np.uint8]]:
    """Corners and edges whose cells hold every combination of a full set that areas and runs can form.

    Each combination leads from what lies on its west side to what lies on its east side; a walk that takes each once
    (an Eulerian circuit) is a strip of cells that holds all. It is folded into lines with a line of other cells
    between them, and one more column in which each line comes back to its beginning.

    Parameters
    ----------
    numbers : range
        What may lie at a place.

    Returns
    -------
    planes : mapping of name to uint8 array
        As `knit` takes them; the ground wraps.
    """
    import networkx

    walks: networkx.MultiDiGraph[tuple[int, ...]] = networkx.MultiDiGraph()
    nothing = [(0,) * 8] if 0 in numbers else []
    for labels in chain(nothing, Coverage("full", {}, numbers).combinations()):
        (north_west, north_east, south_east, south_west), (north, east, south, west) = labels[:4], labels[4:]
        walks.add_edge((north_west, west, south_west), (north_east, east, south_east), lines=(north, south))
    steps = [
        (side, walks[side][other][key]["lines"]) for side, other, key in networkx.eulerian_circuit(walks, keys=True)
    ]
    width = max(1, math.isqrt(2 * len(steps)))
    height = 2 * -(-len(steps) // width)
    corners = np.zeros((height, width + 1), dtype=np.uint8)
    across, along = np.zeros((height, width + 1), np.uint8), np.zeros((height, width + 1), np.uint8)
    for number in range(height // 2 * width):
        (top, side, bottom), lines = steps[number % len(steps)]
        row, column = 2 * (number // width), number % width
        corners[row : row + 2, column] = top, bottom
        across[row : row + 2, column] = lines
        along[row, column] = side
    for row in range(0, height, 2):
        # The cell after the last of a line brings its east side; the one beyond closes the circle.
        (top, side, bottom), _ = steps[(row // 2 + 1) * width % len(steps)]
        corners[row : row + 2, width], along[row, width] = (top, bottom), side
        across[row : row + 2, width] = np.maximum(corners[row : row + 2, width], corners[row : row + 2, 0])
    along[1::2] = np.maximum(corners[1::2], np.roll(corners, -1, axis=0)[1::2])
    return {"corners": np.pad(corners, ((0, 1), (0, 1)), "wrap"), "across": np.pad(across, ((0, 1), (0, 0)), "wrap"),
            "along": np.pad(along, ((0, 0), (0, 1)), "wrap")}  # fmt: skip
