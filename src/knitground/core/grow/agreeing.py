"""Which combinations of a join set may lie beside which: the rules by which its tiles fill to fit."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.cells import known_beside
from knitground.core.joins.lattice import SIDES
from knitground.core.joins.sets import MIDDLE, JoinKind, Labels

Step = tuple[int, int]

SIDE_STEPS: tuple[Step, ...] = ((-1, 0), (0, 1), (1, 0), (0, -1))
"""From a flat cell over its north, east, south and west side."""
CORNER_STEPS: tuple[Step, ...] = ((-1, -1), (-1, 1), (1, 1), (1, -1))
"""From a flat cell over its corners, in the order of the labels."""


def steps_of(kind: JoinKind) -> tuple[Step, ...]:
    """The neighbours that matter to the tiles of a kind of set, in the order in which `allowed` tells of them."""
    return SIDE_STEPS + CORNER_STEPS if kind == "cell" else SIDE_STEPS


def allowed(kind: JoinKind, combinations: Sequence[Labels], ground: int = 0) -> NDArray[np.bool_]:
    """Which combinations may lie beside which.

    Parameters
    ----------
    kind : JoinKind
    combinations : K sequences of labels
        Of a cell set as `knitground.core.joins.sets.formed` gives them; all zeros stand for a bare cell.
    ground : int
        What nothing counts as beside a cell of a cell set.

    Returns
    -------
    allowed : (D, K, K) bool
        Whether the second may lie at each of `steps_of` from the first.
    """
    rows = np.array(combinations, dtype=np.int64)
    if kind == "cell":
        return _cells_allowed(rows, ground)
    found = []
    for way, side in enumerate(SIDES[kind]):
        opposite = SIDES[kind][(way + 2) % 4]
        found.append((rows[:, None, list(side)] == rows[None, :, list(opposite)]).all(axis=2))
    return np.array(found)


def weights_of(shares: Sequence[float]) -> NDArray[np.float64]:
    """How often each combination is wanted, given the weights of all its tiles together: (K,) float64.

    Parameters
    ----------
    shares : sequence of float
        K of them, from 0.
    """
    # A weight of nothing keeps a tile out of the throw, but a combination that needs it still has it.
    return np.maximum(np.array(shares, dtype=np.float64), 1e-6)


def _cells_allowed(rows: NDArray[np.int64], ground: int) -> NDArray[np.bool_]:
    """The same for the nine labels of a cell set, (8, K, K) bool.

    Parameters
    ----------
    rows : (K, 9) int64
    """
    middle = rows[:, MIDDLE]
    base = int(rows.max(initial=0)) + 1
    beyond = np.full((base, base), ground, dtype=np.int64)
    for one, known in known_beside([tuple(row) for row in rows.tolist() if row[MIDDLE]], ground).items():
        beyond[one, known] = known
    seen = beyond[middle[:, None], middle[None]]
    bare = middle == 0
    goes_on = (rows[:, 4:MIDDLE] == middle[:, None]) & ~bare[:, None]
    # A corner counts where both sides by it go on, and only in a set that tells of corners at all.
    counts = goes_on & np.roll(goes_on, 1, axis=1) & bool(rows[:, :4].any())
    sides, corners = [], []
    for way in range(4):
        before, after = way, (way + 1) % 4
        side = (rows[:, 4 + way, None] == seen) | bare[:, None]
        # What lies over the corner lies beside the neighbour, too, whose own side has to show the same.
        side &= (rows[:, before, None] == rows[None, :, 4 + (way - 1) % 4]) | ~counts[:, before, None]
        side &= (rows[:, after, None] == rows[None, :, 4 + after]) | ~counts[:, after, None]
        sides.append(side)
        corners.append((rows[:, way, None] == seen) | ~counts[:, way, None])
    # Each tells what it lies beside; both have to be right.
    ways = [side & sides[(way + 2) % 4].T for way, side in enumerate(sides)]
    ways += [corner & corners[(place + 2) % 4].T for place, corner in enumerate(corners)]
    return np.array(ways)
