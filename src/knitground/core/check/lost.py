"""Tiles that fell away from their sheet while something still uses them."""

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from knitground.core.check.findings import Finding
from knitground.core.ground.layers import CODED, Ground, Planes
from knitground.core.tiles.tile import NUMBER_MASK, TileRef


def check_fell_away(
    lost: Mapping[TileRef, int | None],
    named_by: Mapping[str, Mapping[str, int]],
    grounds: Sequence[tuple[Ground, Mapping[str, Planes]]],
    size: int,
) -> Iterator[Finding]:
    """One finding for each sheet that lacks tiles which are still used, with the places that use them.

    Parameters
    ----------
    lost : mapping to int
        Tiles that their sheets do not hold, and their palette numbers if they have one.
    named_by : mapping
        For each sheet, which sets, mixes and animations name lost tiles of it, and how many.
    grounds : sequence of (Ground, planes by layer)
    size : int
        One more than the largest palette number.
    """
    sheets = sorted({ref.sheet for ref in lost})
    number_of = np.zeros(size, dtype=np.int32)
    for ref, number in lost.items():
        if number is not None:
            number_of[number] = 1 + sheets.index(ref.sheet)
    places: dict[str, list[str]] = {sheet: [] for sheet in sheets}
    for ground, layers in grounds:
        for layer in ground.layers:
            for name in CODED:
                if name in layers[layer.id]:
                    cells = number_of[np.asarray(layers[layer.id][name], dtype=np.int32) & NUMBER_MASK]
                    for index, sheet in enumerate(sheets, start=1):
                        spots = cells == index
                        count = int(spots.sum())
                        if count:
                            row, column = np.unravel_index(int(spots.argmax()), spots.shape)
                            many = f"{count} cell{'s' if count != 1 else ''}"
                            places[sheet].append(f"{many} of {ground.name}, {layer.name}, first at {column}, {row}")
    for sheet in sheets:
        users = [f"{name} ({count})" for name, count in named_by.get(sheet, {}).items()] + places[sheet]
        if users:
            refs = sorted(ref for ref in lost if ref.sheet == sheet)
            many = "1 tile that is" if len(refs) == 1 else f"{len(refs)} tiles that are"
            sentence = f"{sheet}: {many} no longer on it used by {'; '.join(users)}"
            yield Finding("fell away", "sheet", sentence, sheet, count=len(refs), tiles=tuple(map(str, refs)))
