"""The tiles of a window of a layer, as a pure function of what was painted, the sets and the seed."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import seed_for
from knitground.core.ground.layers import PINS, Ground, Planes, StitchedLayer, TerrainLayer, TileLayer
from knitground.core.ground.window import Window
from knitground.core.joins.knit import knit
from knitground.core.joins.lattice import PLANES
from knitground.core.joins.mend import REACH, REACH_ROUND, Mended, codes_of, mend
from knitground.core.joins.table import JoinTable
from knitground.core.stitches.match import stitch_plan

StitchTable = NDArray[np.int32]
Tables = Mapping[str, JoinTable | StitchTable]
"""Compiled join and stitch sets by the id of the layer that uses them."""


def derive(
    ground: Ground,
    layer: TileLayer | TerrainLayer | StitchedLayer,
    planes: Planes,
    tables: Tables,
    seed: int,
    window: Window,
) -> NDArray[np.int32]:
    """Tiles of a window of a layer.

    Parameters
    ----------
    ground, layer, planes
        The ground, one of its layers and that layer's arrays.
    tables : mapping of layer id to table
        A derived layer whose set is missing lies empty.
    seed : int
        Of the project.
    window : Window
        Inside the ground.

    Returns
    -------
    codes : (height, width) int32
        Pinned tiles lie over derived ones. What a set cannot lay is mended (see `mend`); GAP stays only where there
        is nothing to mend it with.
    """
    if isinstance(layer, TileLayer):
        return np.asarray(planes["cells"][window.rows, window.columns], dtype=np.int32)
    codes = as_painted(ground, layer, planes, tables, seed, window)
    table = tables.get(layer.id)
    if isinstance(table, JoinTable) and (mended := mended_in(ground, planes, table, window)):
        place = mended.rows + window.top, mended.columns + window.left
        codes[mended.rows, mended.columns] = codes_of(mended.labels, *place, table, seed_for(seed, layer.id))
    if PINS in planes:
        pins = planes[PINS][window.rows, window.columns]
        np.copyto(codes, pins, where=pins != 0)
    return codes


def as_painted(
    ground: Ground, layer: TerrainLayer | StitchedLayer, planes: Planes, tables: Tables, seed: int, window: Window
) -> NDArray[np.int32]:
    """Tiles of a window of a derived layer for exactly what was painted, GAP where there is none; see `derive`."""
    table = tables.get(layer.id)
    if isinstance(layer, StitchedLayer) and isinstance(table, np.ndarray):
        return stitch_plan(bordered(planes["plan"], window, ground), table)
    if isinstance(layer, TerrainLayer) and isinstance(table, JoinTable):
        lattice = painted_in(planes, table, window, ground)
        return knit(lattice, table, seed=seed_for(seed, layer.id), top=window.top, left=window.left)
    return np.zeros((window.height, window.width), dtype=np.int32)


def mended_in(ground: Ground, planes: Planes, table: JoinTable, window: Window) -> Mended | None:
    """The cells of a window that are not laid as painted, counted from its corner; None where there are none."""
    if table.complete:
        return None
    wide = window.grown(mending_reach(ground))
    seen = wide.clipped(ground.height, ground.width)
    if ground.wraps_y:
        seen = seen._replace(top=wide.top, height=wide.height)
    if ground.wraps_x:
        seen = seen._replace(left=wide.left, width=wide.width)
    period = ground.height if ground.wraps_y else None, ground.width if ground.wraps_x else None
    mended = mend(painted_in(planes, table, seen, ground), table, top=seen.top, left=seen.left, period=period)
    if mended is None:
        return None
    rows, columns = mended.rows + seen.top - window.top, mended.columns + seen.left - window.left
    inside = (rows >= 0) & (rows < window.height) & (columns >= 0) & (columns < window.width)
    return Mended(rows[inside], columns[inside], mended.labels[inside], mended.broken[inside])


def mending_reach(ground: Ground) -> int:
    """How many cells away what was painted may matter for a tile where a set is incomplete."""
    return REACH_ROUND if ground.wraps_x or ground.wraps_y else REACH


def painted_in(planes: Planes, table: JoinTable, window: Window, ground: Ground) -> dict[str, NDArray[np.uint8]]:
    """What is painted in a window, which reaches over the borders only where the ground wraps."""
    found = {}
    for name in PLANES[table.kind]:
        rows = _places(window.top, window.bottom + (name != "along"), ground.height, ground.wraps_y)
        columns = _places(window.left, window.right + (name != "across"), ground.width, ground.wraps_x)
        if isinstance(rows, slice) or isinstance(columns, slice):
            found[name] = _bytes(planes[name][rows][:, columns])
        else:
            found[name] = _bytes(planes[name][rows[:, None], columns])
    return found


def _places(first: int, last: int, size: int, wraps: bool) -> slice | NDArray[np.intp]:
    """Rows or columns of a plane from first to before last; on a ground that wraps the last line is the first."""
    if not wraps or (first >= 0 and last <= size):
        return slice(first, last)
    return np.arange(first, last) % size


def bordered(plan: NDArray[np.generic], window: Window, ground: Ground) -> NDArray[np.uint8]:
    """The plan of a window with one more cell on each side; off the map it goes on as at the border, or wraps."""
    rows, columns = np.arange(window.top - 1, window.bottom + 1), np.arange(window.left - 1, window.right + 1)
    rows = rows % ground.height if ground.wraps_y else np.clip(rows, 0, ground.height - 1)
    columns = columns % ground.width if ground.wraps_x else np.clip(columns, 0, ground.width - 1)
    return _bytes(plan[rows[:, None], columns])


def _bytes(plane: NDArray[np.generic]) -> NDArray[np.uint8]:
    return np.asarray(plane, dtype=np.uint8)
