"""Tiles that the program makes: they lie in sheets of their own, beside the drawn ones."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.ground import by_id
from knitground.core.joins.feet import on_feet
from knitground.core.joins.make import MadeTile
from knitground.core.joins.sets import JoinSet, with_labels
from knitground.core.joins.turning import is_isometric
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, fresh_id, replaced
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.picture import Sheet, encode_png
from knitground.core.tiles.tile import TileRef

COLUMNS = 16
_CUT = "tiles"


def lent_by(derived: Derived, join_set: JoinSet) -> dict[TileRef, NDArray[np.uint8]]:
    """Pixels of the tiles of a set, (h, w, 4) uint8, that others may be made of.

    Isometric ones come without their room, all as high as the highest.
    """
    drawn = derived.drawn(join_set)
    if not derived.isometric(join_set):
        return drawn
    standing = on_feet(drawn, derived.document.project.cuts)
    highest = max((len(pixels) for pixels in standing.values()), default=0)
    return {ref: np.pad(pixels, ((highest - len(pixels), 0), (0, 0), (0, 0))) for ref, pixels in standing.items()}


def add_made_tiles(document: Document, set_id: str, made: Sequence[MadeTile]) -> list[TileRef]:
    """Adds tiles to the sheet of made ones of their size, labelled for a join set; returns which they are."""
    if not made:
        return []
    project = document.project
    height, width = made[0].pixels.shape[:2]
    join_set = by_id(project.join_sets, set_id)
    cut = Cut(_CUT, width, height)
    if is_isometric(join_set, project.cuts):
        like = next(iter(join_set.labels))
        cut = replace(cut, shape="isometric", anchor="bottom")
        diamond = project.cuts[like.sheet, like.cut].footprint
        cut = cut if cut.footprint == diamond else replace(cut, foot=diamond)
    sheet = next((one for one in project.sheets if one.made and one.cuts == (cut,)), None)
    if sheet is None:
        sheet_id = fresh_id("made", project.sheets)
        sheet = Sheet(sheet_id, f"sheets/{sheet_id}.png", (cut,), made=True)
    first = _taken(document, sheet)
    places = [divmod(first + number, COLUMNS) for number in range(len(made))]
    pixels = _grown(document, sheet, places[-1][0] + 1, width, height)
    for (row, column), one in zip(places, made, strict=True):
        pixels[row * height : (row + 1) * height, column * width : (column + 1) * width] = one.pixels
    refs = [TileRef(sheet.id, _CUT, column, row) for row, column in places]
    labels = with_labels(join_set, {ref: one.labels for ref, one in zip(refs, made, strict=True)})
    document.define(
        f"make {len(made)} tiles",
        replace(
            project,
            sheets=replaced(project.sheets, sheet),
            join_sets=replaced(project.join_sets, replace(join_set, labels=labels)),
        ),
        pictures={**document.state.pictures, sheet.id: Picture(encode_png(pixels), pixels)},
    )
    return refs


def _taken(document: Document, sheet: Sheet) -> int:
    """How many cells of a sheet of made tiles are taken, up to the last that any set labels."""
    used = [
        ref.row * COLUMNS + ref.column + 1
        for join_set in document.project.join_sets
        for ref in join_set.labels
        if ref.sheet == sheet.id
    ]
    return max(used, default=0)


def _grown(document: Document, sheet: Sheet, rows: int, width: int, height: int) -> NDArray[np.uint8]:
    """The sheet's picture with room for so many rows."""
    before = document.state.pictures[sheet.id].pixels if sheet.id in document.state.pictures else None
    kept = 0 if before is None else before.shape[0]
    pixels = np.zeros((max(kept, rows * height), COLUMNS * width, 4), dtype=np.uint8)
    if before is not None:
        pixels[:kept] = before
    return pixels
