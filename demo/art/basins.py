"""Water basins of stone: a tile is water, and its eight sides and corners say where the water goes on."""

from itertools import product

import numpy as np

from art.brush import SIZE, rgb

Around = tuple[bool, bool, bool, bool, bool, bool, bool, bool]
"""North-west, north-east, south-east, south-west, then north, east, south, west: where the water goes on."""
_RIM = 4
_LIT = {"north": "stone4", "west": "stone4", "east": "stone2", "south": "stone2"}


def arounds() -> list[Around]:
    """All 47, by the binary numbers of their sides, each with its corners; the full one last."""
    found = []
    for edges in product((False, True), repeat=4):
        north, east, south, west = edges
        free = (north and west, north and east, south and east, south and west)
        found += [(*corners, *edges) for corners in product(*((False, True) if one else (False,) for one in free))]
    return found


def basin(around: Around, *, lily: bool = False) -> np.ndarray:
    """One tile: still water, a rim of stone with light from the upper left, and a shadow under the rim."""
    near, side = _nearest_end(around)
    tile = np.zeros((SIZE, SIZE, 4), dtype=np.uint8)
    ys, xs = np.mgrid[:SIZE, :SIZE]
    water = np.where((ys * 5 + xs * 3) % 16 == 0, "verdigris2", "verdigris1").astype(object)
    for y, x, width in ((3, 5, 3), (8, 11, 4), (12, 3, 3)):
        water[y, x : x + width] = "verdigris2"
    water[8, 12] = water[3, 6] = "sky"
    for y, x in np.ndindex(SIZE, SIZE):
        colour = str(water[y, x])
        if near[y, x] == 0:
            colour = "ink"
        elif near[y, x] < _RIM - 1:
            colour = _LIT[side[y, x]] if near[y, x] == 1 else "stone3"
        elif near[y, x] == _RIM - 1:
            colour = "stone1"
        elif near[y, x] <= _RIM + 1 and side[y, x] in ("north", "west"):
            colour = "slate2"
        tile[y, x] = (*rgb(colour), 255)
    if lily:
        for y, x, colour in ((9, 6, "moss3"), (9, 7, "moss3"), (10, 5, "moss3"), (10, 6, "moss4"), (10, 8, "moss3"),
                             (11, 6, "moss2"), (11, 7, "moss3"), (9, 8, "rose"), (8, 8, "cream"), (10, 7, "moss4")):  # fmt: skip
            tile[y, x] = (*rgb(colour), 255)
    return tile


def basins() -> list[np.ndarray]:
    """All tiles of the sheet: the 47, and a lily on full water."""
    return [*map(basin, arounds()), basin((True,) * 8, lily=True)]


def _nearest_end(around: Around) -> tuple[np.ndarray, np.ndarray]:
    """How many pixels each pixel lies inside the nearest side or corner at which the water ends, and which side."""
    ys, xs = np.mgrid[:SIZE, :SIZE]
    away = {"north": ys, "east": SIZE - 1 - xs, "south": SIZE - 1 - ys, "west": xs}
    near, side = np.full((SIZE, SIZE), SIZE), np.full((SIZE, SIZE), "north", dtype=object)

    def end(distance: np.ndarray, name: np.ndarray | str) -> None:
        nearer = distance < near
        side[nearer] = np.broadcast_to(name, near.shape)[nearer]
        near[nearer] = distance[nearer]

    corners, edges = around[:4], dict(zip(away, around[4:], strict=True))
    for name in away:
        if not edges[name]:
            end(away[name], name)
    pairs = (("north", "west"), ("north", "east"), ("south", "east"), ("south", "west"))
    for (one, other), goes_on in zip(pairs, corners, strict=True):
        if edges[one] and edges[other] and not goes_on:
            end(np.maximum(away[one], away[other]), np.where(away[one] >= away[other], one, other))
    return near, side
