"""Which terrains meet on some tile, and the shortest ways from one terrain to another over those that do."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.lattice import SIDES
from knitground.core.joins.table import JoinTable

NO_WAY = 99
"""Stands for the steps between terrains that no way joins."""


def ways_between(table: JoinTable) -> tuple[NDArray[np.intp], NDArray[np.uint8]]:
    """Steps between terrains over tiles that show both, and the first terrain on the way from one to another.

    Parameters
    ----------
    table : JoinTable
        Of `base` terrains.

    Returns
    -------
    distance : (base, base) int
        `NO_WAY` where there is none.
    towards : (base, base) uint8
        Of several ways as short, the one over the lowest number.
    """
    from scipy.sparse.csgraph import shortest_path

    meets = np.zeros((table.base, table.base), dtype=bool)
    for side in SIDES[table.kind]:
        meets[table.combinations[:, side[0]], table.combinations[:, side[-1]]] = True
    steps = shortest_path(meets, directed=False, unweighted=True)
    distance = np.minimum(np.nan_to_num(steps, posinf=NO_WAY), NO_WAY).astype(np.intp)
    # From a terrain, the first that meets it and is one step nearer.
    nearer = (distance[:, :, None] == 1) & (distance[None] == distance[:, None] - 1)
    own = np.arange(table.base)[:, None]
    return distance, np.where(nearer.any(axis=1), nearer.argmax(axis=1), own).astype(np.uint8)
