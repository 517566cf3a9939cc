"""Painting where areas and runs share a layer: corners and edges that stay in keeping with one another.

An area painted on a corner takes the four edges that meet there along; a run takes edges alone. A corner never holds
a higher terrain than an edge that ends in it, so that every painting is one that `coverage` asks tiles for.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.around import Readable
from knitground.core.grid.board import Board, On
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape

_ORDER: tuple[On, ...] = ("corners", "across", "along")
Patches = dict[str, tuple[Shape, NDArray[np.generic] | int]]


def full_patches(board: Board, planes: Mapping[str, Readable], shapes: Mapping[str, Shape], terrain: int) -> Patches:
    """What to set on the three planes of a full layer for an area or a run.

    Parameters
    ----------
    planes : mapping of "corners", "across" and "along" to uint8 arrays
        As large as the board says.
    shapes : mapping of plane to Shape
        Corners for an area, edges for a run.
    terrain : int

    Returns
    -------
    patches : mapping of plane to (Shape, values)
    """
    places: dict[On, tuple[NDArray[np.intp], NDArray[np.intp]]]
    places = {
        on: _flat_places(board, on, shapes[on]) for on in _ORDER if on in shapes and not shapes[on].window.is_empty
    }
    if not places:
        return {}
    # One more corner on each side: those that may have to make room.
    top, left = (min(int(place[axis].min()) for place in places.values()) - 1 for axis in (0, 1))
    bottom, right = (max(int(place[axis].max()) for place in places.values()) + 2 for axis in (0, 1))
    ys, xs = np.arange(top, bottom + 1), np.arange(left, right + 1)
    sizes: dict[On, tuple[NDArray[np.intp], NDArray[np.intp]]] = {
        "corners": (ys, xs), "across": (ys, xs[:-1]), "along": (ys[:-1], xs),
    }  # fmt: skip
    read = {on: board.flat_patch(planes[on], on, *size) for on, size in sizes.items()}
    values = {on: np.array(found) for on, (found, _) in read.items()}
    for on, (rows, columns) in places.items():
        values[on][rows - top, columns - left] = terrain
    corners, across, along = values["corners"], values["across"], values["along"]
    if "corners" in places:
        painted = np.zeros(corners.shape, dtype=bool)
        painted[places["corners"][0] - top, places["corners"][1] - left] = True
        across[painted[:, :-1] | painted[:, 1:]] = terrain
        along[painted[:-1] | painted[1:]] = terrain
    _make_room(corners, across, along, read["across"][1], read["along"][1])
    return {on: board.from_flat(on, (top, left), values[on], read[on][1]) for on in sizes}


def _make_room(
    corners: NDArray[np.uint8], across: NDArray[np.uint8], along: NDArray[np.uint8],
    level: NDArray[np.bool_], upright: NDArray[np.bool_],
) -> None:  # fmt: skip
    """Lowers corners to the edges that end in them, as far as these are on the ground."""
    for beside, edges, there in (
        (corners[:, :-1], across, level), (corners[:, 1:], across, level),
        (corners[:-1], along, upright), (corners[1:], along, upright),
    ):  # fmt: skip
        np.minimum(beside, edges, out=beside, where=there)


def _flat_places(board: Board, on: On, shape: Shape) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    rect: CellRect = shape.window
    rows, columns = np.nonzero(shape.mask)
    ys, xs = board.flat(on, rows + rect.top, columns + rect.left)
    return ys, xs
