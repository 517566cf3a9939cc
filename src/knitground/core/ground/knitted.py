"""The tiles of a ground, worked out where somebody looks and when they are needed.

Derived layers are knit in blocks. An edit marks the blocks' cells in its reach for re-knitting at once; a changed
definition only marks all blocks as stale, and a block is knit again when a rectangle over it is asked for. Both
cost what is seen or touched, whatever the size of the ground.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.board import Board
from knitground.core.grid.bordered import Bordered, Part
from knitground.core.grid.rect import CellRect
from knitground.core.ground.beside import Beyond
from knitground.core.ground.following import Following, following
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Laid, Layer, Planes, nothing_laid

BLOCK = 64

Tables = Mapping[str, Any]
"""Compiled join and stitch sets by the id of the layer that uses them."""


Reached = tuple[str, CellRect]
"""A layer, and cells of it that may look different."""


class _Kept:
    """What is known of a layer: codes and unmet cells of the whole ground, and which blocks are not true any more."""

    def __init__(self, ground: Ground) -> None:
        size = ground.height, ground.width
        # What is stale is never looked at, so it may hold anything; to wipe a large ground first would be felt.
        self.codes = np.empty(size, dtype=np.int32)
        self.unmet = np.empty(size, dtype=np.uint8)
        self.more: NDArray[np.int32] | None = None
        self.stale = np.ones((-(-size[0] // BLOCK), -(-size[1] // BLOCK)), dtype=bool)

    def laid(self, rect: CellRect) -> Laid:
        """What is known of a rectangle."""
        more = None if self.more is None else self.more[:, rect.rows, rect.columns]
        return Laid(self.codes[rect.rows, rect.columns], self.unmet[rect.rows, rect.columns], more)

    def put(self, rect: CellRect, laid: Laid) -> None:
        """Takes over what was laid on a rectangle."""
        self.codes[rect.rows, rect.columns] = laid.codes
        self.unmet[rect.rows, rect.columns] = laid.unmet
        if laid.more is not None:
            if self.more is None or len(self.more) != len(laid.more):
                self.more = np.empty((len(laid.more), *self.codes.shape), dtype=np.int32)
            self.more[:, rect.rows, rect.columns] = laid.more


class Knitted:
    """The derived tiles of one ground, kept and renewed by blocks."""

    def __init__(self, ground: Ground, planes: Mapping[str, Planes], tables: Tables, seed: int) -> None:
        self.ground = ground
        self.planes = planes
        self.tables = tables
        self.seed = seed
        self.beyond: Beyond = {}
        """What lies beyond the borders; see `beyond_borders`."""
        self.following: Following = following(ground.layers, tables)
        self._kept: dict[str, _Kept] = {}

    @property
    def board(self) -> Board:
        """The cells of the ground."""
        return self.ground.board

    def layer(self, layer_id: str) -> Layer:
        """A layer of the ground."""
        return self.ground.layer(layer_id)

    def planes_of(self, layer_id: str) -> Planes:
        """What is painted on a layer."""
        return self.planes.get(layer_id, {})

    def seen(self, layer_id: str, planes: Planes) -> Planes:
        """Planes of a layer with what lies beyond the borders and on layers that it follows, to be knit."""
        parts = self.beyond.get(layer_id)
        if parts:
            planes = {
                name: plane if name not in parts else Bordered(plane, parts[name]) for name, plane in planes.items()
            }
        follows = self.following.get(layer_id)
        return self.ground.layer(layer_id).with_others(planes, self, follows) if follows else planes

    def look_beyond(self, beyond: Beyond) -> None:
        """Takes over other maps, or none, beyond the borders; layers that go on otherwise are knit anew."""
        changed = {
            layer_id
            for layer_id in {*self.beyond, *beyond}
            if not _same_parts(self.beyond.get(layer_id, {}), beyond.get(layer_id, {}))
        }
        self.beyond = beyond
        for layer_id in self._with_followers(changed):
            self._kept.pop(layer_id, None)

    def touched_beyond(self, layer_id: str, rect: CellRect, beyond: Beyond, *, now: bool = True) -> tuple[Reached, ...]:
        """Re-knits the cells near what changed beyond a border, a rectangle of a plane; returns those that differ.

        Unless `now`, they are only noted, as by `touched`.
        """
        self.beyond = beyond
        board, layer = self.ground.board, self.ground.layer(layer_id)
        near = board.clip(layer.reach(board, self.tables.get(layer_id), rect))
        if near.is_empty:
            return ()
        return self._followed(layer_id, self._renewed(layer, (near,), now), (), now)

    def laid(self, layer_id: str, rect: CellRect) -> Laid:
        """Cell codes of a rectangle of a layer, and the cells that are not as they should be; not to be written to."""
        layer = self.ground.layer(layer_id)
        if layer_id not in self.planes:
            return nothing_laid(rect)
        if not layer.knits:
            return layer.lay(self.ground.board, self.planes[layer_id], None, self.seed, rect)
        if layer_id not in self._kept:
            self._kept[layer_id] = _Kept(self.ground)
        kept = self._kept[layer_id]
        self._freshen(layer, kept, rect)
        return kept.laid(rect)

    def codes(self, layer_id: str, rect: CellRect) -> NDArray[np.int32]:
        """Cell codes of a rectangle of a layer, (height, width) int32; not to be written to.

        Parameters
        ----------
        layer_id : str
        rect : CellRect
            Inside the ground.
        """
        return self.laid(layer_id, rect).codes

    def touched(
        self, layer_id: str, plane: str, rect: CellRect, planes: Planes, *, now: bool = True
    ) -> tuple[Reached, ...]:
        """Takes over a layer's planes after an edit, and re-knits what it reaches, on layers that follow it too.

        Parameters
        ----------
        plane : str
        rect : CellRect
            Of the plane: what changed there.
        now : bool
            Whether to knit at once; else what is reached is noted, and knit where and when somebody looks.

        Returns
        -------
        reached : tuple of (layer id, CellRect)
            The cells that may look different.
        """
        ground, layer = self.ground, self.ground.layer(layer_id)
        before, table = self.planes.get(layer_id), self.tables.get(layer_id)
        coded = layer.specs[plane].codes
        reach = (rect,) if coded else ground.board.parts(layer.reach(ground.board, table, rect))
        if now and layer_id in self._kept and layer.spread(table):
            # Where a change may go on from cell to cell, what was there before tells where it ends.
            for part in reach:
                self._freshen(layer, self._kept[layer_id], self._wider(part, layer.spread(table)))
        self.planes = {**self.planes, layer_id: planes}
        changed = reach if before is None else self._renewed(layer, reach, now)
        painted = () if coded else ground.board.parts(ground.board.reach(rect, 1))
        return self._followed(layer_id, changed, painted, now)

    def _followed(
        self, layer_id: str, tiles: Sequence[CellRect], painted: Sequence[CellRect], now: bool
    ) -> tuple[Reached, ...]:
        """Re-knits the layers that follow one whose tiles, or what is painted on it, changed; all that changed."""
        changed: dict[str, list[CellRect]] = {layer_id: list(tiles)}
        board = self.ground.board
        for name, follows in self.following.items():
            layer, table = self.ground.layer(name), self.tables.get(name)
            near: list[CellRect] = []
            for one, by_tiles in follows.values():
                rects = changed.get(one, []) if by_tiles else painted if one == layer_id else ()
                near += [part for rect in rects for part in board.parts(layer.reach(board, table, rect))]
            if near and name in self.planes:
                changed.setdefault(name, []).extend(self._renewed(layer, near, now))
        return tuple((name, rect) for name, rects in changed.items() for rect in rects)

    def _renewed(self, layer: Layer, reach: Iterable[CellRect], now: bool) -> tuple[CellRect, ...]:
        """Knits rectangles of a layer anew, as far as kept, or notes them; the cells that may look different."""
        if layer.id not in self._kept:
            return tuple(reach)
        kept, changed = self._kept[layer.id], []
        spread = layer.spread(self.tables.get(layer.id))
        for part in reach:
            if spread and not now:
                kept.stale[:] = True
                changed.append(self.ground.board.whole)
            elif spread:
                changed += self._settled(layer, kept, part, spread)
            # What is to be knit anew anyway need not be knit now.
            elif not now or kept.stale[_blocks(part)].any():
                kept.stale[_blocks(part)] = True
                changed.append(part)
            else:
                changed += self._knit_again(layer, kept, part)
        return tuple(changed)

    def _settled(self, layer: Layer, kept: _Kept, part: CellRect, spread: int) -> list[CellRect]:
        """Knits a rectangle anew, and all round it that changes in turn; the cells that may look different.

        What is laid in a cell depends on what is laid within the spread of it: where a rim as wide stays as it was,
        so does all beyond it.
        """
        changed: list[CellRect] = []
        while True:
            wide = self._wider(part, spread)
            if kept.stale[_blocks(wide)].any():
                kept.stale[:] = True
                return [self.ground.board.whole]
            new = self._knit_again(layer, kept, wide)
            changed += new
            if all(one.inside(part) == one for one in new):
                return changed
            part, spread = wide, 2 * spread

    def _wider(self, part: CellRect, steps: int) -> CellRect:
        """A rectangle and what lies round it; over a border at which the ground goes round, all along it."""
        board = self.ground.board
        wide = board.reach(part, steps)
        if board.wraps_y and (wide.top < 0 or wide.bottom > board.height):
            wide = wide._replace(top=0, height=board.height)
        if board.wraps_x and (wide.left < 0 or wide.right > board.width):
            wide = wide._replace(left=0, width=board.width)
        return board.clip(wide)

    def redefine(self, ground: Ground, planes: Mapping[str, Planes], tables: Tables, seed: int) -> None:
        """Takes over new definitions; what came out of changed ones is knit anew where it is seen."""
        before, self.following = self.following, following(ground.layers, tables)
        there = {layer.id for layer in ground.layers}
        changed = {
            layer.id
            for layer in self.ground.layers
            if not (
                layer.id in there
                and layer.id in planes
                and ground.board == self.ground.board
                and seed == self.seed
                and planes[layer.id] is self.planes.get(layer.id)
                and tables.get(layer.id) is self.tables.get(layer.id)
                and ground.layer(layer.id).goes_on == self.ground.layer(layer.id).goes_on
                and before.get(layer.id) == self.following.get(layer.id)
            )
        }
        for layer_id in self._with_followers(changed):
            self._kept.pop(layer_id, None)
        self.ground, self.planes, self.tables, self.seed = ground, planes, tables, seed

    def _with_followers(self, layers: set[str]) -> set[str]:
        """Some layers, and all that follow them."""
        found = set(layers)
        for name, follows in self.following.items():
            if any(one.layer in found for one in follows.values()):
                found.add(name)
        return found

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
        kept.put(rect, layer.lay(self.ground.board, planes, self.tables.get(layer.id), self.seed, rect))

    def _knit_again(self, layer: Layer, kept: _Kept, rect: CellRect) -> list[CellRect]:
        """Knits a rectangle that is known; the cells that look different, or let others be so, if any."""
        old = kept.codes[rect.rows, rect.columns].copy()
        more = None if kept.more is None else kept.more[:, rect.rows, rect.columns].copy()
        self._knit(layer, kept, rect)
        differs = old != kept.codes[rect.rows, rect.columns]
        if kept.more is not None:
            now = kept.more[:, rect.rows, rect.columns]
            differs |= True if more is None or len(more) != len(now) else (more != now).any(axis=0)
        return _differing(differs, rect)


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


def _differing(changed: NDArray[np.bool_], rect: CellRect) -> list[CellRect]:
    """The smallest rectangle that holds all cells that differ, if any do.

    Parameters
    ----------
    changed : (rect.height, rect.width) bool
    """
    rows, columns = np.flatnonzero(changed.any(axis=1)), np.flatnonzero(changed.any(axis=0))
    if not rows.size:
        return []
    size = int(rows[-1] - rows[0]) + 1, int(columns[-1] - columns[0]) + 1
    return [CellRect(rect.top + int(rows[0]), rect.left + int(columns[0]), *size)]
