"""Captions among tiles: the letters of some are separate shapes, others lie in cells of a grid."""

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

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
        As they are found: each ends where what it holds does.
    """
    writing = _Writing.of(picture)
    return [place for place, piece in enumerate(pieces) if writing.is_most_of(piece)]


def written_tiles(picture: NDArray[np.uint8], cuts: Sequence[Cut]) -> dict[str, list[Cell]]:
    """The tiles of each cut of a sheet that look like writing, by its id; see `look_written`.

    What fills a tile of a grid from top to bottom is a pattern. What ends at the side of a tile as the next one begins,
    with nothing between, is a fence or the like: words take no heed of gutters.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        The whole sheet, straight alpha.
    cuts : sequence of Cut
    """
    found: dict[str, list[Cell]] = {}
    writing = _Writing.of(picture)
    for cut in cuts:
        for cell in (Cell(*one) for one in Slices(picture, cut, parts_over(cut, cuts)).cells()):
            rect = cut.pieces[cell.column] if cut.pieces else tile_rect(cut, *cell)
            if writing.is_most_of(rect) and (cut.pieces or not writing.is_tile(rect, cut)):
                found.setdefault(cut.id, []).append(cell)
    return found


class _Writing(NamedTuple):
    """What on a sheet is writing, and what is art at all, (H, W) bool each."""

    written: NDArray[np.bool_]
    art: NDArray[np.bool_]

    @classmethod
    def of(cls, picture: NDArray[np.uint8]) -> "_Writing":
        """The writing on a picture, (H, W, 4) uint8 with straight alpha."""
        nothing = np.zeros(picture.shape[:2], dtype=np.bool_)
        if nothing.size > _MOST_PIXELS:
            return cls(nothing, nothing)
        picture = bared(picture)
        colour, seen = picture.astype(np.int16), picture[..., 3] > 0
        art = art_of(colour) if seen.all() else seen
        written = writing_of(colour, art, lettered=True)
        return cls(written if written.sum() <= _BESIDE * art.sum() else nothing, art)

    def is_most_of(self, rect: Rect) -> bool:
        """Whether what lies in a part of the picture is writing."""
        rows, columns = rect.slices()
        written = int(self.written[rows, columns].sum())
        return written > 0 and written >= _MOSTLY * int(self.art[rows, columns].sum())

    def is_tile(self, rect: Rect, cut: Cut) -> bool:
        """Whether what lies in a tile of a grid reaches from its top to its bottom, or goes on in the next one."""
        rows, columns = rect.slices()
        own = self.art[rows, columns]
        if own[0].any() and own[-1].any():
            return True
        before = rect._replace(x=rect.x - cut.pitch_x)
        return cut.spacing_x > 0 and (self._goes_on(rect, cut) or self._goes_on(before, cut))

    def _goes_on(self, rect: Rect, cut: Cut) -> bool:
        """Whether a tile ends at its right side just as the next one begins, with nothing in the gutter."""
        end, begin = rect.x + rect.width, rect.x + cut.pitch_x
        if rect.x < 0 or begin >= self.art.shape[1]:
            return False
        last, *gutter, first = self.art[rect.slices()[0], end - 1 : begin + 1].T
        return bool(last.any() and (last == first).all() and not np.any(gutter))


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
