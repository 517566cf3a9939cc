"""Cells of derived layers that no tile fits, and joins that stay broken there."""

from collections.abc import Iterator, Sequence
from typing import Any

from knitground.core.check.check import Facts, Finding, GroundCheck, Tallies, many, tally
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer

_GAP, _BROKEN = "gap", "broken join"
_BITS = {_GAP: 1, _BROKEN: 2}


def _look(facts: Facts, ground: Ground, layer: Layer, cells: CellRect) -> Tallies:
    unmet = facts.laid(ground.id, layer.id, cells).unmet
    if not unmet.any():
        return {}
    found = {kind: tally((unmet & bit) != 0, cells) for kind, bit in _BITS.items()}
    return {kind: one for kind, one in found.items() if one is not None}


def _tell(facts: Facts, found: Sequence[tuple[Ground, Layer, Tallies]]) -> Iterator[Finding]:
    for ground, layer, tallies in found:
        says = {_GAP: layer.unmet_says, _BROKEN: "{cells} laid with joins that break"}
        for kind in _BITS:
            if kind in tallies:
                count, row, column = tallies[kind]
                cells = says[kind].format(cells=many(count, "cell is", "cells are"))
                yield Finding(
                    kind, "ground", f"{ground.name}, {layer.name}: {cells}, first at {column}, {row}",
                    ground.id, layer.id, row, column, count=count,
                    mend="Give the set the tile that is missing, paint otherwise there, or pin a tile.",
                )  # fmt: skip


def _depends(facts: Facts, ground: Ground, layer: Layer) -> tuple[Any, ...]:
    return facts.table(ground.id, layer.id), ground.board


CHECK = GroundCheck("unmet", lambda layer: layer.knits, _depends, _look, lambda *of: tuple(_tell(*of)))
