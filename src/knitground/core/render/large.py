"""Tiles that are much larger than their cells, from afar: a dot in their cell would make lawns of woods.

Where a pixel stands for several cells, it is the mean of a few samples (`knitground.core.render.afar`). Each large tile
finds the samples that it reaches, and is laid over them from the back to the front.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.rect import CellRect
from knitground.core.render.pixels import Pixels, over
from knitground.core.render.scene import Scene

_MOST_OVER = 16
"""So many tiles over one another are looked through at the most."""


def large_from_afar(
    sheet: Pixels,
    codes: NDArray[np.int32],
    cells: CellRect,
    scene: Scene,
    xs: NDArray[np.float64],
    ys: NDArray[np.float64],
) -> None:
    """Lays the large tiles of a layer over samples of its others.

    Parameters
    ----------
    sheet : (H, W, 4) uint8
        Premultiplied alpha; changed in place.
    codes : (h, w) int32
        The large tiles in the cells from which they may reach a sample.
    cells : CellRect
    scene : Scene
    xs : (W,) float64
        Where the samples lie, in pixels of the layer in full size, and as far from one another.
    ys : (H,) float64
    """
    atlas, projection = scene.atlas, scene.projection
    rows, columns = np.nonzero(codes)
    box_x, box_y = (np.asarray(at) for at in projection.corner(rows + cells.top, columns + cells.left))  # type: ignore[arg-type]
    back_to_front = np.lexsort((box_x, box_y))
    box_x, box_y = box_x[back_to_front], box_y[back_to_front]
    ids = atlas.ids(codes[rows, columns][None, back_to_front])[0]
    heights, widths = atlas.size_of(ids)
    first_x, count_x = _reached(box_x + atlas.lefts[ids], widths, xs)
    first_y, count_y = _reached(box_y + atlas.tops[ids], heights, ys)
    count = count_x * count_y
    of = np.repeat(np.arange(len(ids)), count)
    number = np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count)
    at_y, at_x = first_y[of] + number // count_x[of], first_x[of] + number % count_x[of]
    colours = atlas.part_of(ids[of], ys[at_y] - box_y[of], xs[at_x] - box_x[of])
    _lay_in_turn(sheet, at_y * len(xs) + at_x, colours)


def _reached(begin: NDArray[Any], length: NDArray[Any], samples: NDArray[np.float64]) -> tuple[Any, Any]:
    """The first sample in each stretch, and how many there are."""
    first = np.searchsorted(samples, begin)
    return first, np.searchsorted(samples, begin + length) - first


def _lay_in_turn(sheet: Pixels, places: NDArray[np.intp], colours: Pixels) -> None:
    """Lays colours over places of a sheet, one after another where they fall on the same."""
    order = np.argsort(places, kind="stable")
    places, colours = places[order], colours[order]
    begins = np.flatnonzero(np.diff(places, prepend=-1))
    ends = np.append(begins[1:], len(places))
    flat = sheet.reshape(-1, 4)
    # Those in front of all others come last; of very many, these are the ones that can be seen.
    for before in range(min(int((ends - begins).max(initial=0)), _MOST_OVER), 0, -1):
        mine = ends[ends - before >= begins] - before
        flat[places[mine]] = over(colours[mine], flat[places[mine]])
