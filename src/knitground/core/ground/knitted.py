"""The tiles of a ground, worked out where somebody looks and when they are needed.

Derived layers are knit in blocks. An edit marks the blocks' cells in its reach for re-knitting at once; a changed
definition only marks all blocks as stale, and a block is knit again when a window over it is asked for. Both
cost what is seen or touched, whatever the size of the ground.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.derive import Tables, derive, mending_reach
from knitground.core.ground.layers import Ground, Planes, StitchedLayer, TerrainLayer, TileLayer
from knitground.core.ground.window import Window
from knitground.core.joins.table import JoinTable

BLOCK = 64


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
            return derive(self.ground, layer, self.planes[layer_id], self.tables, self._seed, window)
        if layer_id not in self._codes:
            self._codes[layer_id] = np.zeros((self.ground.height, self.ground.width), dtype=np.int32)
            self._stale[layer_id] = np.ones(
                (-(-self.ground.height // BLOCK), -(-self.ground.width // BLOCK)), dtype=bool
            )
        self._freshen(layer, window)
        return self._codes[layer_id][window.rows, window.columns]

    def touched(self, layer_id: str, window: Window) -> tuple[Window, ...]:
        """Re-knits what an edit of a plane's window reaches; returns the windows whose cells may have changed."""
        ground, layer = self.ground, self.ground.layer(layer_id)
        table = self.tables.get(layer_id)
        wide = isinstance(table, JoinTable) and not table.complete
        reach = _wrapped(window.grown(1 + mending_reach(ground) if wide else 1), ground)
        if layer_id not in self._codes:
            return reach
        changed = []
        for part in reach:
            before = self._codes[layer_id][part.rows, part.columns].copy()
            self._knit(layer, part)
            changed += _differing(before, self._codes[layer_id][part.rows, part.columns], part) if wide else [part]
        return tuple(changed)

    def redefine(self, ground: Ground, planes: Mapping[str, Planes], tables: Tables, seed: int) -> None:
        """Takes over new definitions; what came out of changed ones is knit anew where it is seen."""
        for layer_id in list(self._codes):
            kept = (
                layer_id in planes
                and _knits_alike(ground, self.ground)
                and seed == self._seed
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
        codes = derive(self.ground, layer, self.planes[layer.id], self.tables, self._seed, window)
        self._codes[layer.id][window.rows, window.columns] = codes


def _knits_alike(one: Ground, other: Ground) -> bool:
    """Whether two grounds have the same size and wrap alike."""
    return (one.width, one.height, one.wraps_x, one.wraps_y) == (
        other.width,
        other.height,
        other.wraps_x,
        other.wraps_y,
    )


def _wrapped(window: Window, ground: Ground) -> tuple[Window, ...]:
    """The parts of a window on a ground; what reaches over a border comes in at the other one where it wraps."""
    parts = []
    for down in (-ground.height, 0, ground.height) if ground.wraps_y else (0,):
        for across in (-ground.width, 0, ground.width) if ground.wraps_x else (0,):
            moved = window._replace(top=window.top + down, left=window.left + across)
            part = moved.clipped(ground.height, ground.width)
            if not part.is_empty:
                parts.append(part)
    return tuple(parts)


def _differing(before: NDArray[np.int32], after: NDArray[np.int32], window: Window) -> list[Window]:
    """The smallest window that holds all cells that differ, if any do."""
    changed = before != after
    rows, columns = np.flatnonzero(changed.any(axis=1)), np.flatnonzero(changed.any(axis=0))
    if not rows.size:
        return []
    size = int(rows[-1] - rows[0]) + 1, int(columns[-1] - columns[0]) + 1
    return [Window(window.top + int(rows[0]), window.left + int(columns[0]), *size)]
