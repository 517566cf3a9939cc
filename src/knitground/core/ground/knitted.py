"""The tiles of a ground, worked out where somebody looks and when they are needed.

Derived layers are knit in blocks. An edit marks the blocks' cells in its reach for re-knitting at once; a changed
definition only marks all blocks as stale, and a block is knit again when a window over it is asked for. Both
cost what is seen or touched, whatever the size of the ground.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import seed_for
from knitground.core.ground.layers import Ground, Planes, StitchedLayer, TerrainLayer, TileLayer
from knitground.core.ground.window import Window
from knitground.core.joins.knit import knit_corners, knit_edges
from knitground.core.joins.table import JoinTable
from knitground.core.stitches.match import stitch_plan

BLOCK = 64

StitchTable = NDArray[np.int32]
Tables = Mapping[str, JoinTable | StitchTable]
"""Compiled join and stitch sets by the id of the layer that uses them."""


def derive(
    layer: TileLayer | TerrainLayer | StitchedLayer, planes: Planes, tables: Tables, seed: int, window: Window
) -> NDArray[np.int32]:
    """Tiles of a window of a layer, from what was painted alone.

    Parameters
    ----------
    layer, planes
        The layer and its arrays.
    tables : mapping of layer id to table
        A derived layer whose set is missing lies empty.
    seed : int
        Of the project.
    window : Window
        Inside the ground.

    Returns
    -------
    codes : (height, width) int32
    """
    if isinstance(layer, TileLayer):
        return np.asarray(planes["cells"][window.rows, window.columns], dtype=np.int32)
    table = tables.get(layer.id)
    if isinstance(layer, StitchedLayer) and isinstance(table, np.ndarray):
        return stitch_plan(_bordered(planes["plan"], window), table)
    if isinstance(layer, TerrainLayer) and isinstance(table, JoinTable):
        place = {"seed": seed_for(seed, layer.id), "top": window.top, "left": window.left}
        below, behind = slice(window.top, window.bottom + 1), slice(window.left, window.right + 1)
        if layer.joins == "corner":
            return knit_corners(_bytes(planes["corners"][below, behind]), table, **place)
        across, along = planes["across"][below, window.columns], planes["along"][window.rows, behind]
        return knit_edges(_bytes(across), _bytes(along), table, **place)
    return np.zeros((window.height, window.width), dtype=np.int32)


class Knitted:
    """The derived tiles of one ground, kept and renewed by blocks."""

    def __init__(self, ground: Ground, planes: Mapping[str, Planes], tables: Tables, seed: int) -> None:
        self.ground = ground
        self.planes = planes
        self.tables = tables
        self._seed = seed
        self._codes: dict[str, NDArray[np.int32]] = {}
        self._stale: dict[str, NDArray[np.bool_]] = {}

    def codes(self, layer_id: str, window: Window) -> NDArray[np.int32]:
        """Cell codes of a window of a layer, (height, width) int32; not to be written to."""
        layer = self.ground.layer(layer_id)
        if isinstance(layer, TileLayer):
            return derive(layer, self.planes[layer_id], self.tables, self._seed, window)
        if layer_id not in self._codes:
            self._codes[layer_id] = np.zeros((self.ground.height, self.ground.width), dtype=np.int32)
            self._stale[layer_id] = np.ones(
                (-(-self.ground.height // BLOCK), -(-self.ground.width // BLOCK)), dtype=bool
            )
        self._freshen(layer, window)
        return self._codes[layer_id][window.rows, window.columns]

    def touched(self, layer_id: str, window: Window) -> Window:
        """Re-knits what an edit of a plane's window reaches; returns the cells that may have changed."""
        reach = window.grown(1).clipped(self.ground.height, self.ground.width)
        layer = self.ground.layer(layer_id)
        if layer_id in self._codes and not reach.is_empty:
            self._knit(layer, reach)
        return reach

    def redefine(self, ground: Ground, planes: Mapping[str, Planes], tables: Tables, seed: int) -> None:
        """Takes over new definitions; what came out of changed ones is knit anew where it is seen."""
        for layer_id in list(self._codes):
            kept = (
                layer_id in planes
                and (ground.width, ground.height, seed) == (self.ground.width, self.ground.height, self._seed)
                and tables.get(layer_id) is self.tables.get(layer_id)
            )
            if not kept:
                del self._codes[layer_id], self._stale[layer_id]
        self.ground, self.planes, self.tables, self._seed = ground, planes, tables, seed

    def _freshen(self, layer: TerrainLayer | StitchedLayer, window: Window) -> None:
        stale = self._stale[layer.id]
        top, left = window.top // BLOCK, window.left // BLOCK
        part = stale[top : -(-window.bottom // BLOCK), left : -(-window.right // BLOCK)]
        rows, columns = np.flatnonzero(part.any(axis=1)), np.flatnonzero(part.any(axis=0))
        if not rows.size:
            return
        first = (top + int(rows[0])) * BLOCK, (left + int(columns[0])) * BLOCK
        size = int(rows[-1] - rows[0] + 1) * BLOCK, int(columns[-1] - columns[0] + 1) * BLOCK
        self._knit(layer, Window(*first, *size).clipped(self.ground.height, self.ground.width))
        part[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1] = False

    def _knit(self, layer: TileLayer | TerrainLayer | StitchedLayer, window: Window) -> None:
        codes = derive(layer, self.planes[layer.id], self.tables, self._seed, window)
        self._codes[layer.id][window.rows, window.columns] = codes


def _bordered(plan: NDArray[np.generic], window: Window) -> NDArray[np.uint8]:
    """The plan of a window with one more cell on each side; off the map it goes on as at the border."""
    rows = np.clip(np.arange(window.top - 1, window.bottom + 1), 0, plan.shape[0] - 1)
    columns = np.clip(np.arange(window.left - 1, window.right + 1), 0, plan.shape[1] - 1)
    return _bytes(plan[rows[:, None], columns])


def _bytes(plane: NDArray[np.generic]) -> NDArray[np.uint8]:
    return np.asarray(plane, dtype=np.uint8)
