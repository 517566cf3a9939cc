"""Tiles laid or pinned by hand that are on no sheet any more, or of another size than the ground's cells."""

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from knitground.core.check.check import Facts, Finding, GroundCheck, Tallies, tally
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.tiles.tile import NUMBER_MASK

_LOST, _SIZE = "lost tile", "tile size"


def _look(facts: Facts, ground: Ground, layer: Layer, cells: CellRect) -> Tallies:
    found = {}
    planes, sizes = facts.planes(ground.id, layer.id), facts.tile_sizes
    for name in layer.coded:
        if name not in planes:
            continue
        numbers = planes[name].read(cells) & NUMBER_MASK
        if not numbers.any():
            continue
        size = sizes[np.minimum(numbers, len(sizes) - 1)]
        wrong = (size[..., 0] > 0) & (size != (ground.tile_width, ground.tile_height)).any(axis=-1)
        for kind, mask in ((_LOST, size[..., 0] == 0), (_SIZE, wrong)):
            one = tally(mask & (numbers > 0), cells)
            if one is not None:
                found[kind] = one
    return found


def _tell(facts: Facts, found: Sequence[tuple[Ground, Layer, Tallies]]) -> Iterator[Finding]:
    for ground, layer, tallies in found:
        says = {
            _LOST: "that are no longer on their sheet",
            _SIZE: f"whose size is not the ground's {ground.tile_width} x {ground.tile_height}; if that is meant, "
            "choose an anchor where the sheet is cut",
        }
        mends = {
            _LOST: "Bring the sheet back, or lay other tiles there.",
            _SIZE: "Choose an anchor for the sheet's cut.",
        }
        for kind, (count, row, column) in sorted(tallies.items()):
            yield Finding(
                kind, "ground", f"{ground.name}, {layer.name}: {count:,} cells hold tiles {says[kind]}",
                ground.id, layer.id, row, column, count=count, mend=mends[kind],
            )  # fmt: skip


def _depends(facts: Facts, ground: Ground, layer: Layer) -> tuple[Any, ...]:
    return facts.sizes_since, ground.board, ground.tile_width, ground.tile_height


CHECK = GroundCheck(
    "tile sizes", lambda layer: bool(layer.coded), _depends, _look, lambda *of: tuple(_tell(*of))
)  # fmt: skip
