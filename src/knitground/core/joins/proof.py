"""Small wrapping grounds on which every combination of a set's terrains occurs.

For corners: each row is a de Bruijn sequence of all pairs, shifted against the row above by another amount each
time, so that each pair comes to lie above each pair (Cock's construction of de Bruijn tori). For edges: the
pair north-south depends on the row alone and the pair west-east on the column alone.

References
----------
J. C. Cock, "Toroidal tilings from de Bruijn-Good cyclic sequences", Discrete Mathematics 70 (1988).
"""

import numpy as np
from numpy.typing import NDArray


def proof_corners(terrains: list[int]) -> NDArray[np.uint8]:
    """A lattice whose 2 x 2 windows hold every combination of terrains.

    Parameters
    ----------
    terrains : list of int
        The k numbers to combine.

    Returns
    -------
    corners : (k² + 1, k² + 1) uint8, one row more for even k
        The last row and column repeat the first, so that the ground wraps.
    """
    row = _pairs(len(terrains))
    shifts = list(range(len(row)))
    # The shifts must add up to whole turns for the ground to wrap; for an even number of terrains they
    # fall half a turn short.
    if (short := -sum(shifts) % len(row)) != 0:
        shifts.append(short)
    turns = np.concatenate([[0], np.cumsum(shifts)])
    columns = np.arange(len(row) + 1)
    lattice = row[(columns[None, :] + turns[:, None]) % len(row)]
    corners: NDArray[np.uint8] = np.asarray(terrains, dtype=np.uint8)[lattice]
    return corners


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
        As `knit_edges` takes them; the ground wraps.
    """
    line = np.asarray(terrains, dtype=np.uint8)[_pairs(len(terrains))]
    size = len(line)
    closed = np.append(line, line[0])
    return np.repeat(closed[:, None], size, axis=1), np.repeat(closed[None, :], size, axis=0)


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
