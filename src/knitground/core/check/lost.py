"""Tiles that fell away from their sheet while something still uses them: one finding for each sheet."""

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from knitground.core.check.check import Facts, Finding, GroundCheck, Tallies, many, tally
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.tiles.tile import NUMBER_MASK


def _look(facts: Facts, ground: Ground, layer: Layer, cells: CellRect) -> Tallies:
    by_sheet: dict[str, list[int]] = {}
    for ref, number in facts.lost.items():
        if number is not None:
            by_sheet.setdefault(ref.sheet, []).append(number)
    found = {}
    planes = facts.planes(ground.id, layer.id)
    for name in layer.coded if by_sheet else ():
        if name in planes:
            numbers = planes[name].read(cells) & NUMBER_MASK
            for sheet, lost in by_sheet.items():
                one = tally(np.isin(numbers, lost), cells) if numbers.any() else None
                if one is not None:
                    found[sheet] = one
    return found


def _tell(facts: Facts, found: Sequence[tuple[Ground, Layer, Tallies]]) -> Iterator[Finding]:
    places: dict[str, list[str]] = {}
    for ground, layer, tallies in found:
        for sheet, (count, row, column) in tallies.items():
            cells = many(count, "cell", "cells")
            places.setdefault(sheet, []).append(f"{cells} of {ground.name}, {layer.name}, first at {column}, {row}")
    for sheet in sorted({ref.sheet for ref in facts.lost}):
        named = [f"{name} ({count})" for name, count in facts.lost_by_sheet.get(sheet, {}).items()]
        users = named + places.get(sheet, [])
        if users:
            refs = sorted(ref for ref in facts.lost if ref.sheet == sheet)
            tiles = many(len(refs), "tile that is", "tiles that are")
            yield Finding(
                "fell away", "sheet", f"{sheet}: {tiles} no longer on it used by {'; '.join(users)}", sheet,
                count=len(refs), tiles=tuple(map(str, refs)), mend="Draw them again, or exchange them.",
            )  # fmt: skip


def _depends(facts: Facts, ground: Ground, layer: Layer) -> tuple[Any, ...]:
    return facts.lost, ground.board


CHECK = GroundCheck("lost", lambda layer: bool(layer.coded), _depends, _look, lambda *of: tuple(_tell(*of)))
