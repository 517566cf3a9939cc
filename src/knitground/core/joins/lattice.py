"""Where the labels of tiles lie on a ground: a lattice of twice its cells.

Cell (r, c) covers the 3 x 3 points of the doubled lattice from (2 r, 2 c) on: corners lie at even rows and columns,
edges where one of the two is even. So one array holds what is painted for any kind of join set, and neighbouring
cells share the points where their tiles meet.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.board import On
from knitground.core.joins.sets import JoinKind

_CORNERS, _EDGES = ((0, 0), (0, 2), (2, 2), (2, 0)), ((0, 1), (1, 2), (2, 1), (1, 0))
POINTS: dict[JoinKind, tuple[tuple[int, int], ...]] = {
    "corner": _CORNERS, "edge": _EDGES, "full": _CORNERS + _EDGES, "cell": (*_CORNERS, *_EDGES, (1, 1)),
}  # fmt: skip
"""Row and column on the doubled lattice of each place, from the north-west corner of the cell."""

SIDES: dict[JoinKind, tuple[tuple[int, ...], ...]] = {
    "corner": ((0, 1), (1, 2), (3, 2), (0, 3)),
    "edge": ((0,), (1,), (2,), (3,)),
    "full": ((0, 4, 1), (1, 5, 2), (3, 6, 2), (0, 7, 3)),
    "cell": ((4, 8), (8, 5), (8, 6), (7, 8)),
}
"""Places on each side of a tile, clockwise from the north; those of opposite sides lie on one another in order.

Cell tiles meet where each is what the other says lies beyond.
"""

SPOTS: dict[JoinKind, tuple[tuple[On, tuple[int, int]], ...]] = {
    kind: tuple(
        ("corners" if row % 2 == column % 2 == 0 else "across" if row % 2 == 0 else "along", (row // 2, column // 2))
        for row, column in points
    )
    for kind, points in POINTS.items()
    if kind != "cell"
} | {"cell": (("cells", (0, 0)),)}
"""The array that holds each place, and the step there from a flat cell; of a cell set only the middle is held."""

PLANES: dict[JoinKind, tuple[str, ...]] = {
    "corner": ("corners",), "edge": ("across", "along"), "full": ("corners", "across", "along"),
    "cell": ("cells",),
}  # fmt: skip
"""Names of the arrays that hold what is painted."""
_PARITY = {"corners": (0, 0), "across": (0, 1), "along": (1, 0)}


def places_round(planes: Mapping[str, NDArray[np.uint8]], kind: JoinKind) -> list[NDArray[np.uint8]]:
    """What lies at each place of h x w cells, as `knit` takes it: (h, w) views of planes as `doubled` takes them.

    Parameters
    ----------
    planes : mapping of name to uint8 array
        As `doubled` takes them.
    kind : JoinKind

    Returns
    -------
    places : list of (h, w) uint8
        In the order of `PLACES`.
    """
    name, first = next(iter(planes.items()))
    height, width = first.shape[0] - (name != "along"), first.shape[1] - (name != "across")
    return [planes[on][down : down + height, right : right + width] for on, (down, right) in SPOTS[kind]]


def doubled(planes: Mapping[str, NDArray[np.uint8]]) -> NDArray[np.uint8]:
    """Planes of h x w cells as one lattice.

    Parameters
    ----------
    planes : mapping of name to array
        Some of corners (h + 1, w + 1), across (h + 1, w) and along (h, w + 1).

    Returns
    -------
    lattice : (2 h + 1, 2 w + 1) uint8
        0 where no plane reaches.
    """
    name, first = next(iter(planes.items()))
    height, width = first.shape[0] - (name != "along"), first.shape[1] - (name != "across")
    lattice = np.zeros((2 * height + 1, 2 * width + 1), dtype=np.uint8)
    for plane, values in planes.items():
        row, column = _PARITY[plane]
        lattice[row::2, column::2] = values
    return lattice


def labels_of(lattice: NDArray[np.uint8], kind: JoinKind) -> NDArray[np.uint8]:
    """The labels round every cell, (h, w, P) uint8, of a (2 h + 1, 2 w + 1) lattice.

    Parameters
    ----------
    lattice : (2 h + 1, 2 w + 1) uint8
        Corners in even rows and columns, edges between them.
    kind : JoinKind
    """
    height, width = lattice.shape[0] // 2, lattice.shape[1] // 2
    return np.stack(
        [lattice[row : row + 2 * height - 1 : 2, column : column + 2 * width - 1 : 2] for row, column in POINTS[kind]],
        axis=-1,
    )
