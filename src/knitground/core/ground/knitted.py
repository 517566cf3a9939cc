"""The tiles of a ground, worked out where somebody looks and when they are needed.

Derived layers are knit in blocks. An edit marks the blocks' cells in its reach for re-knitting at once; a changed
definition only marks all blocks as stale, and a block is knit again when a rectangle over it is asked for. Both
cost what is seen or touched, whatever the size of the ground.
"""

from collections.abc import Mapping
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.bordered import Bordered, Part
from knitground.core.grid.rect import CellRect
from knitground.core.ground.beside import Beyond
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Laid, Layer, Planes, nothing_laid

BLOCK = 64

Tables = Mapping[str, Any]
"""Compiled join and stitch sets by the id of the layer that uses them."""


class _Kept(NamedTuple):
    """What is known of a layer: codes and unmet cells of the whole ground, and which blocks are not true any more."""

    codes: NDArray[np.int32]
    unmet: NDArray[np.uint8]
    stale: NDArray[np.bool_]


class Knitted:
    """The derived tiles of one ground, kept and renewed by blocks."""

    def __init__(self, ground: Ground, planes: Mapping[str, Planes], tables: Tables, seed: int) -> None:
        self.ground = ground
        self.planes = planes
        self.tables = tables
        self.seed = seed
        self.beyond: Beyond = {}
        """What lies beyond the borders; see `beyond_borders`."""
        self._kept: dict[str, _Kept] = {}

    def seen(self, layer_id: str, planes: Planes) -> Planes:
        """Planes of a layer together with what lies beyond the borders, to be knit."""
        parts = self.beyond.get(layer_id)
        if not parts:
            return planes
        return {name: plane if name not in parts else Bordered(plane, parts[name]) for name, plane in planes.items()}

    def look_beyond(self, beyond: Beyond) -> None:
        """Takes over other maps, or none, beyond the borders; layers that go on otherwise are knit anew."""
        for layer_id in {*self.beyond, *beyond}:
            if not _same_parts(self.beyond.get(layer_id, {}), beyond.get(layer_id, {})):
                self._kept.pop(layer_id, None)
        self.beyond = beyond

    def touched_beyond(self, layer_id: str, rect: CellRect, beyond: Beyond) -> tuple[CellRect, ...]:
        """Re-knits the cells near what changed beyond a border, a rectangle of a plane; returns those that differ."""
        self.beyond = beyond
        board, layer = self.ground.board, self.ground.layer(layer_id)
        near = board.clip(layer.reach(board, self.tables.get(layer_id), rect))
        if near.is_empty:
            return ()
        return self._renewed(layer, (near,))

    def laid(self, layer_id: str, rect: CellRect) -> Laid:
        """Cell codes of a rectangle of a layer, and the cells that are not as they should be; not to be written to."""
        layer = self.ground.layer(layer_id)
        if layer_id not in self.planes:
            return nothing_laid(rect)
        if not layer.knits:
            return layer.lay(self.ground.board, self.planes[layer_id], None, self.seed, rect)
        kept = self._keep(layer_id)
        self._freshen(layer, kept, rect)
        return Laid(kept.codes[rect.rows, rect.columns], kept.unmet[rect.rows, rect.columns])

    def codes(self, layer_id: str, rect: CellRect) -> NDArray[np.int32]:
        """Cell codes of a rectangle of a layer, (height, width) int32; not to be written to.

        Parameters
        ----------
        layer_id : str
        rect : CellRect
            Inside the ground.
        """
        return self.laid(layer_id, rect).codes

    def touched(self, layer_id: str, plane: str, rect: CellRect, planes: Planes) -> tuple[CellRect, ...]:
        """Takes over a layer's planes after an edit, and re-knits what it reaches.

        Parameters
        ----------
        plane : str
        rect : CellRect
            Of the plane: what changed there.

        Returns
        -------
        rects : tuple of CellRect
            The cells that may look different.
        """
        ground, layer = self.ground, self.ground.layer(layer_id)
        before, table = self.planes.get(layer_id), self.tables.get(layer_id)
        self.planes = {**self.planes, layer_id: planes}
        coded = layer.specs[plane].codes
        reach = (rect,) if coded else ground.board.parts(layer.reach(ground.board, table, rect))
        if before is None:
            return reach
        return self._renewed(layer, reach)

    def _renewed(self, layer: Layer, reach: tuple[CellRect, ...]) -> tuple[CellRect, ...]:
        """Knits rectangles of a layer anew, as far as they are kept; the cells that may look different."""
        if layer.id not in self._kept:
            return reach
        kept, changed = self._kept[layer.id], []
        # What is to be knit anew anyway need not be knit now.
        for part in reach:
            if kept.stale[_blocks(part)].any():
                kept.stale[_blocks(part)] = True
                changed.append(part)
                continue
            old = kept.codes[part.rows, part.columns].copy()
            self._knit(layer, kept, part)
            changed += _differing(old, kept.codes[part.rows, part.columns], part)
        return tuple(changed)

    def redefine(self, ground: Ground, planes: Mapping[str, Planes], tables: Tables, seed: int) -> None:
        """Takes over new definitions; what came out of changed ones is knit anew where it is seen."""
        for layer_id in list(self._kept):
            kept = (
                layer_id in planes
                and ground.board == self.ground.board
                and seed == self.seed
                and planes[layer_id] is self.planes.get(layer_id)
                and tables.get(layer_id) is self.tables.get(layer_id)
                and ground.layer(layer_id).goes_on == self.ground.layer(layer_id).goes_on
            )
            if not kept:
                del self._kept[layer_id]
        self.ground, self.planes, self.tables, self.seed = ground, planes, tables, seed

    def _keep(self, layer_id: str) -> _Kept:
        if layer_id not in self._kept:
            size = self.ground.height, self.ground.width
            blocks = -(-size[0] // BLOCK), -(-size[1] // BLOCK)
            self._kept[layer_id] = _Kept(
                np.zeros(size, dtype=np.int32), np.zeros(size, dtype=np.uint8), np.ones(blocks, dtype=bool)
            )
        return self._kept[layer_id]

    def _freshen(self, layer: Layer, kept: _Kept, rect: CellRect) -> None:
        part = kept.stale[_blocks(rect)]
        rows, columns = np.flatnonzero(part.any(axis=1)), np.flatnonzero(part.any(axis=0))
        if not rows.size:
            return
        top, left = rect.top // BLOCK + int(rows[0]), rect.left // BLOCK + int(columns[0])
        size = int(rows[-1] - rows[0] + 1) * BLOCK, int(columns[-1] - columns[0] + 1) * BLOCK
        self._knit(layer, kept, self.ground.board.clip(CellRect(top * BLOCK, left * BLOCK, *size)))
        part[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1] = False

    def _knit(self, layer: Layer, kept: _Kept, rect: CellRect) -> None:
        planes = self.seen(layer.id, self.planes[layer.id])
        laid = layer.lay(self.ground.board, planes, self.tables.get(layer.id), self.seed, rect)
        kept.codes[rect.rows, rect.columns] = laid.codes
        kept.unmet[rect.rows, rect.columns] = laid.unmet


def _same_parts(one: Mapping[str, tuple[Part, ...]], other: Mapping[str, tuple[Part, ...]]) -> bool:
    return one.keys() == other.keys() and all(
        len(one[name]) == len(other[name])
        and all(a[:2] == b[:2] and a[2] is b[2] for a, b in zip(one[name], other[name], strict=True))
        for name in one
    )


def _blocks(rect: CellRect) -> tuple[slice, slice]:
    return (
        slice(rect.top // BLOCK, -(-rect.bottom // BLOCK)),
        slice(rect.left // BLOCK, -(-rect.right // BLOCK)),
    )


def _differing(before: NDArray[np.int32], after: NDArray[np.int32], rect: CellRect) -> list[CellRect]:
    """The smallest rectangle that holds all cells that differ, if any do."""
    changed = before != after
    rows, columns = np.flatnonzero(changed.any(axis=1)), np.flatnonzero(changed.any(axis=0))
    if not rows.size:
        return []
    size = int(rows[-1] - rows[0]) + 1, int(columns[-1] - columns[0]) + 1
    return [CellRect(rect.top + int(rows[0]), rect.left + int(columns[0]), *size)]
