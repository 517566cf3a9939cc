"""Captions among loose pieces: their letters are separate shapes, too."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Document
from knitground.core.project.model import replaced
from knitground.core.sheet.bared import bared
from knitground.core.sheet.cut import Cell, Rect
from knitground.core.sheet.profile import art_of
from knitground.core.sheet.writing import writing_of

_MOSTLY, _BESIDE = 0.8, 0.5
"""How much of a piece is writing, and how much of all art may be: captions are little beside what they name."""


def look_written(picture: NDArray[np.uint8], pieces: Sequence[Rect]) -> list[int]:
    """The places of those pieces that look like letters or words beside other art; none where most is, as of a font.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        The whole sheet, straight alpha.
    pieces : sequence of Rect
    """
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


def leave_out_written(document: Document, sheet_id: str, cut_id: str) -> int:
    """Leaves pieces that look like writing out of a cut, as one step; returns how many.

    Raises
    ------
    BadRequest
        If the cut has no loose pieces, or none looks so.
    """
    sheet = by_id(document.project.sheets, sheet_id)
    cut = by_id(sheet.cuts, cut_id)
    if not cut.pieces:
        raise BadRequest("Only loose pieces are told from writing; tick “Loose pieces” first.")
    written = look_written(document.state.pictures[sheet_id].cleared(sheet), cut.pieces)
    cells = {Cell(place, 0) for place in written} - set(cut.left_out)
    if not cells:
        raise BadRequest("No piece more looks like writing; a click on one leaves it out.")
    changed = replace(cut, left_out=(*cut.left_out, *sorted(cells)))
    put(document, "leave writing out", "sheets", replace(sheet, cuts=replaced(sheet.cuts, changed)))
    return len(cells)
