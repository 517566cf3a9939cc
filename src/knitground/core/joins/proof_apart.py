"""Proofs of sets of which some terrains stand apart: a proof for each group that meets, beside one another.

Round each lies a ring of what leads from it to the terrain that most groups have, so that tiles go on into one another
between them, too.
"""

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray

Planes = dict[str, NDArray[np.uint8]]
_SIZES = {"corners": (1, 1), "across": (1, 0), "along": (0, 1)}
"""By how much a plane has more rows and columns than the ground has cells."""


def proof_of_groups(
    together: NDArray[np.bool_], numbers: range, make: Callable[[list[int]], Mapping[str, NDArray[np.uint8]]]
) -> Planes:
    """Planes whose cells hold every combination of terrains that do not stand apart.

    Parameters
    ----------
    together : (n, n) bool
        As `stand_together` tells it; over some that do, each terrain leads to each.
    numbers : range
        All that may lie at a place.
    make : callable
        The planes of a proof that holds all combinations of some numbers.

    Returns
    -------
    planes : mapping of name to uint8 array
        As `knit` takes them; the ground wraps.
    """
    import networkx

    meets: networkx.Graph[int] = networkx.from_numpy_array(together & ~np.eye(len(together), dtype=bool))
    groups = sorted(sorted(group) for group in networkx.find_cliques(meets))
    common = max(meets, key=lambda terrain: (sum(terrain in group for group in groups), -terrain))
    parts = []
    for group in groups:
        part = dict(make([numbers.start + terrain for terrain in group]))
        way = min((networkx.shortest_path(meets, terrain, common) for terrain in group), key=len)
        for terrain in way:
            part = _ringed(part, numbers.start + terrain)
        parts.append(part)
    return _in_line(parts, numbers.start + common)


def _ringed(planes: Planes, terrain: int) -> Planes:
    """The same with a line of cells on each side, and that terrain beyond it."""
    ringed = {name: np.pad(plane, 1, constant_values=terrain) for name, plane in planes.items()}
    return _joined(ringed, planes, (1, 1))


def _in_line(parts: list[Planes], terrain: int) -> Planes:
    """Planes beside one another, all bordered by one terrain; where one is lower than others it lies below, too."""
    heights = [_cells(part)[0] for part in parts]
    found: Planes = {}
    for name in parts[0]:
        more = _SIZES[name]
        lower = [
            np.pad(part[name], ((0, max(heights) - high), (0, 0)), constant_values=terrain)
            for part, high in zip(parts, heights, strict=True)
        ]
        # Of two that lie beside each other the last column of the first is the first of the second.
        found[name] = np.hstack([*(one[:, : one.shape[1] - more[1]] for one in lower), *[lower[0][:, :1]] * more[1]])
    return found


def _joined(planes: Planes, within: Planes, at: tuple[int, int]) -> Planes:
    """Planes in which each edge outside of a part, at a row and column, is as the higher of its two corners."""
    if "corners" not in planes or "across" not in planes:
        return planes
    corners = planes["corners"]
    edges = {
        "across": np.maximum(corners[:, :-1], corners[:, 1:]), "along": np.maximum(corners[:-1], corners[1:]),
    }  # fmt: skip
    for name, plane in edges.items():
        high, wide = within[name].shape
        plane[at[0] : at[0] + high, at[1] : at[1] + wide] = within[name]
    return planes | edges


def _cells(planes: Planes) -> tuple[int, int]:
    """Rows and columns of the cells between planes."""
    name, plane = next(iter(planes.items()))
    return plane.shape[0] - _SIZES[name][0], plane.shape[1] - _SIZES[name][1]
