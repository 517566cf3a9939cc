"""Flat isometric tiles that leave pixels along their sides bare: what lies below them shows as a line between cells.

Cells of W x H pixels lie half of both apart, so two pixels that are that far from each other, or a multiple of it, are
the same pixel of another cell. A floor is closed if each of the W * H / 2 that differ is covered by some row of it.
"""

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.check.check import DefinitionCheck, Facts, Finding, many
from knitground.core.errors import BadSheet
from knitground.core.sheet.cut import Cut, foot_in
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import TileRef

OPEN = "open diamond"
_LEAST, _STEEPEST = 8, 0.55
_ALONG = 2.5
"""How many pixels from the sides of its diamond a floor may be bare; what is bare further in is meant so."""


def open_pixels(tile: NDArray[np.uint8]) -> int:
    """How many pixels of each cell stay bare between flat tiles that lie side by side, if only along their sides.

    Parameters
    ----------
    tile : (h, w, 4) uint8
        The box of a diamond.

    Returns
    -------
    count : int
        0 too where the tile is no floor: where it is not flat, of an odd size, or bare further inside.
    """
    height, width = tile.shape[:2]
    if width < _LEAST or height > _STEEPEST * width or height % 2 or width % 2:
        return 0
    covered = tile[..., 3] > 0
    upper, lower = covered[: height // 2], np.roll(covered[height // 2 :], width // 2, axis=1)
    bare = ~(upper | lower)
    if not bare.any():
        return 0
    down = np.abs(2 * np.arange(height)[:, None] + 1 - height) / height
    across = np.abs(2 * np.arange(width) + 1 - width) / width
    inner = down + across < 1 - 2 * min(_ALONG, width / 16) / width
    return 0 if (inner & ~covered).any() else int(bare.sum())


def _flat(tile: NDArray[np.uint8], cut: Cut) -> NDArray[np.uint8]:
    """What of an isometric tile lies on its diamond, if that is all that it shows; else the whole tile."""
    left, top, width, height = foot_in(cut, (tile.shape[1], tile.shape[0]))
    on_foot = tile[max(0, top) : max(0, top + height), max(0, left) : max(0, left + width)]
    return on_foot if (on_foot[..., 3] > 0).sum() == (tile[..., 3] > 0).sum() else tile


def _find(facts: Facts, sheet: Sheet) -> Iterator[Finding]:
    found: dict[TileRef, int] = {}
    for cut in sheet.cuts:
        if cut.shape != "isometric":
            continue
        try:
            slices = Slices(facts.picture(sheet), cut, sheet.parts_over(cut))
        except BadSheet:
            continue
        for column, row in slices.cells():
            count = open_pixels(_flat(slices.cell(column, row), cut))
            if count:
                found[TileRef(sheet.id, cut.id, column, row)] = count
    if found:
        leave = "leave" if len(found) > 1 else "leaves"
        yield Finding(
            OPEN, "sheet",
            f"{sheet.id}: {many(len(found), 'flat tile', 'flat tiles')} {leave} {max(found.values())} pixels bare "
            "between cells, so what lies below shows as a line",
            sheet.id, count=len(found), tiles=tuple(map(str, sorted(found))),
            mend="Draw each row so wide that it and the one half the height further down make up the tile's width.",
        )  # fmt: skip


def _depends(facts: Facts, sheet: Sheet) -> tuple[Any, ...]:
    return sheet, facts.picture(sheet)


CHECK = DefinitionCheck(
    "diamonds", lambda facts: facts.sheets, _depends, lambda *of: tuple(_find(*of)), at_once=False
)  # fmt: skip
