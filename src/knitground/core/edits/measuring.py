"""The quality of a ground in numbers: repetition, shares, seams, parts that can't be reached."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.ground import by_id
from knitground.core.grow.places import places_of
from knitground.core.grow.quality import Repetition, repetition
from knitground.core.joins.coverage import Coverage
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived
from knitground.core.tiles.tile import NUMBER_MASK, TileRef

Progress = Callable[[float], None]
_ENOUGH = 50


class Share(NamedTuple):
    """How often a variant is wanted among those of its combination, and how often it came, of so many cells."""

    tile: str
    wanted: float
    got: float
    cells: int


@dataclass(frozen=True)
class LayerQuality:
    """One layer: its cells that hold a tile, how it repeats, its variants' shares, cells whose joins break.

    `repeats` is of cells of the commonest combination of a join set, where variants alone make the difference; of all
    cells where no set lays the tiles.
    """

    layer: str
    cells: int
    repeats: Repetition | None
    shares: tuple[Share, ...]
    seams: int


class Reached(NamedTuple):
    """Cells that a figure may walk on: how many there are, in how many parts, and how many lie off the largest."""

    cells: int
    parts: int
    unreachable: int


@dataclass(frozen=True)
class Quality:
    """A ground in numbers."""

    ground: str
    layers: tuple[LayerQuality, ...]
    walk: Reached


def quality(derived: Derived, ground_id: str, progress: Progress = lambda share: None) -> Quality:
    """Measures a ground.

    Raises
    ------
    KeyError
        If there is no such ground.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    knitted, found = derived.knitted(ground_id), list[LayerQuality]()
    blocked = np.zeros((ground.height, ground.width), dtype=bool)
    closed = {ref for ref, notes in derived.document.project.tiles.items() if not notes.walkable}
    laid_somewhere = np.zeros_like(blocked)
    for number, layer in enumerate(ground.layers):
        if layer.knits or layer.holds_tiles:
            laid = knitted.laid(layer.id, ground.board.whole)
            there = laid.codes > 0
            blocked |= _tiles_in(derived, laid.codes, closed)
            laid_somewhere |= there
            found.append(_layer(derived, layer, laid.codes, int(np.count_nonzero(laid.unmet & 2))))
        progress((number + 1) / len(ground.layers))
    walk = laid_somewhere & ~blocked
    count, parts = places_of(ground.board, "cells").parts(walk)
    sizes = np.bincount(parts.ravel())[1:]
    off = int(sizes.sum() - sizes.max()) if count else 0
    return Quality(ground.name, tuple(found), Reached(int(walk.sum()), count, off))


def told(found: Quality) -> list[str]:
    """The same in sentences, a line for each layer that holds tiles, and one for the walk."""
    lines = []
    for layer in found.layers:
        if not layer.cells:
            continue
        parts = [f"{layer.cells} tiles"]
        if layer.repeats is not None:
            one = layer.repeats
            shown = "a lattice shows" if one.shows else "no lattice shows"
            parts.append(
                f"{shown} (strongest {one.peak:.1f}, {one.across} across and {one.down} down; shuffles stay below "
                f"{one.fair:.1f})"
            )
        if layer.shares:
            share = layer.shares[0]
            parts.append(f"shares at most {abs(share.wanted - share.got):.1%} off ({share.tile}, {share.cells} cells)")
        parts.append(f"{layer.seams} seams")
        lines.append(f"{layer.layer}: {'; '.join(parts)}")
    walk = found.walk
    hangs = "one part" if walk.parts == 1 else f"{walk.parts} parts"
    return [*lines, f"walk: {walk.cells} cells in {hangs}, {walk.unreachable} of them off the largest"]


def _layer(derived: Derived, layer: Layer, codes: NDArray[np.int32], seams: int) -> LayerQuality:
    there = codes > 0
    sets = {one.id: one for one in derived.document.project.join_sets}
    coverage = derived.coverage(sets[layer.set_id]) if layer.set_id in sets else None
    among, shares = there, list[Share]()
    if coverage is not None:
        shares, among = _shares(derived, coverage, codes)
    return LayerQuality(layer.name, int(there.sum()), repetition(codes, among), tuple(shares), seams)


def _shares(derived: Derived, coverage: Coverage, codes: NDArray[np.int32]) -> tuple[list[Share], NDArray[np.bool_]]:
    """The shares of variants, and the cells of the combination with several that comes most often."""
    numbers, counts = np.unique(codes, return_counts=True)
    many = dict(zip(numbers.tolist(), counts.tolist(), strict=True))
    found, most, among = list[Share](), 0, codes > 0
    for tiles in coverage.tiles.values():
        laid = [derived.code(one.ref, one.orientation) for one in tiles]
        weights = np.array([derived.weight(one.ref) for one in tiles])
        total = sum(many.get(code, 0) for code in laid)
        if len(tiles) < 2 or total < _ENOUGH or weights.sum() <= 0:
            continue
        if total > most:
            most, among = total, np.isin(codes, laid)
        found += [
            Share(derived.tile_name(code), float(weight), many.get(code, 0) / total, total)
            for code, weight in zip(laid, weights / weights.sum(), strict=True)
        ]
    return sorted(found, key=lambda one: -abs(one.wanted - one.got)), among


def _tiles_in(derived: Derived, codes: NDArray[np.int32], closed: set[TileRef]) -> NDArray[np.bool_]:
    """Which cells hold one of some tiles, (H, W) bool.

    Parameters
    ----------
    codes : (H, W) int32
    """
    numbers = [number for number, ref in enumerate(derived.document.palette.refs, start=1) if ref in closed]
    return np.isin(np.maximum(codes, 0) & NUMBER_MASK, numbers) & (codes > 0)
