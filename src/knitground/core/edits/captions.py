"""Captions among tiles: the letters of some are separate shapes, others lie in cells of a grid."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Document
from knitground.core.sheet.bared import bared
from knitground.core.sheet.cut import Cell, Cut, Rect, parts_over, tile_rect
from knitground.core.sheet.profile import art_of
from knitground.core.sheet.slices import Slices
from knitground.core.sheet.writing import writing_of

_MOSTLY, _BESIDE = 0.8, 0.5
"""How much of a piece is writing, and how much of all art may be: captions are little beside what they name."""
_MOST_PIXELS = 2**24
"""A larger picture would take too long to look through."""


def look_written(picture: NDArray[np.uint8], pieces: Sequence[Rect]) -> list[int]:
    """The places of those pieces that look like letters or words beside other art; none where most is, as of a font.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        The whole sheet, straight alpha.
    pieces : sequence of Rect
    """
    if picture.shape[0] * picture.shape[1] > _MOST_PIXELS:
        return []
    picture = bared(picture)
    colour, seen = picture.astype(np.int16), picture[..., 3] > 0
    art = art_of(colour) if seen.all() else seen
    written = writing_of(colour, art, lettered=True)
    if written.sum() > _BESIDE * art.sum():
        return []
    found = []
    for place, piece in enumerate(pieces):
        rows, columns = piece.slices()
        if written[rows, columns].sum() >= _MOSTLY * max(1, int(art[rows, columns].sum())):
            found.append(place)
    return found


def written_tiles(picture: NDArray[np.uint8], cuts: Sequence[Cut]) -> dict[str, list[Cell]]:
    """The tiles of each cut of a sheet that look like writing, by its id; see `look_written`.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        The whole sheet, straight alpha.
    cuts : sequence of Cut
    """
    tiles = [(cut, Cell(*cell)) for cut in cuts for cell in Slices(picture, cut, parts_over(cut, cuts)).cells()]
    rects = [cut.pieces[cell.column] if cut.pieces else tile_rect(cut, *cell) for cut, cell in tiles]
    found: dict[str, list[Cell]] = {}
    for place in look_written(picture, rects):
        cut, cell = tiles[place]
        found.setdefault(cut.id, []).append(cell)
    return found


def leave_out_written(document: Document, sheet_id: str) -> int:
    """Leaves tiles of a sheet that look like writing out of its cuts, as one step; returns how many.

    Raises
    ------
    BadRequest
        If none looks so, or each is an image of its own.
    """
    sheet = by_id(document.project.sheets, sheet_id)
    found = {} if sheet.images else written_tiles(document.state.pictures[sheet_id].cleared(sheet), sheet.cuts)
    if not found:
        raise BadRequest("No tile more looks like writing; a click on one leaves it out.")
    cuts = tuple(
        replace(cut, left_out=tuple(sorted({*cut.left_out, *found[cut.id]}))) if cut.id in found else cut
        for cut in sheet.cuts
    )
    put(document, "leave writing out", "sheets", replace(sheet, cuts=cuts))
    return sum(map(len, found.values()))
