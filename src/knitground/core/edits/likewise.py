"""The size of tiles that was set right on one sheet, for the others that were cut by the same guess."""

from collections.abc import Callable, Mapping
from typing import NamedTuple

from knitground.core.edits.cuts import guess_in
from knitground.core.edits.sheets import set_cut
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Document
from knitground.core.project.naming import named_tiles
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.picture import Sheet

_LEAST = 0.02
"""How likely a cut in the size must be, given that it is right on one sheet, lest pixels speak against it."""


class Likewise(NamedTuple):
    """What other sheets would be cut in, by the ids of the sheets, and those that show another size."""

    cuts: dict[str, Cut]
    others: list[str]

    @property
    def sentence(self) -> str:
        """What came of it, once it is taken."""
        count, stays = len(self.cuts), ", ".join(self.others)
        shows = (
            "show another size, and stay as they were" if self.others[1:] else "shows another size, and stays as it was"
        )
        rest = f"{stays} {shows}" if stays else ""
        if not self.cuts:
            return f"{rest}."
        says = f"{', '.join(self.cuts)} {'is' if count == 1 else 'are'} cut in such tiles now"
        return f"{says}; {rest}." if rest else f"{says}."


def cut_otherwise(document: Document, sheet_id: str) -> list[Sheet]:
    """Other sheets that may want to be cut in tiles of the size of one.

    They have one grid without gutters, which show a size for sure, and nothing uses a tile of theirs yet.
    """
    project = document.project
    sheet = by_id(project.sheets, sheet_id)
    if not _one_grid(sheet):
        return []
    others = [
        one
        for one in project.sheets
        if _one_grid(one)
        and not (one.cuts[0].spacing_x or one.cuts[0].spacing_y)
        and _size(one.cuts[0]) != _size(sheet.cuts[0])
    ]
    if not others:
        return []
    laid = {ref.sheet for refs in (document.palette.refs, project.tiles) for ref in refs}
    others = [one for one in others if one.id not in laid]
    named = {ref.sheet for ref in named_tiles(project)} if others else set()
    return [one for one in others if one.id not in named]


def guess_likewise(document: Document, sheet_id: str, report: Callable[[float], None]) -> Likewise:
    """How sheets that are cut otherwise would be cut in tiles of the size of one. May be called beside the interface.

    Parameters
    ----------
    document : Document
    sheet_id : str
        Whose size is right.
    report : callable
        Is told the share that is done; may raise to stop.
    """
    size = _size(by_id(document.project.sheets, sheet_id).cuts[0])
    cuts, stays, sheets = dict[str, Cut](), list[str](), cut_otherwise(document, sheet_id)
    for number, sheet in enumerate(sheets):
        part = lambda share, number=number: report((number + share) / len(sheets))  # noqa: E731
        found, parts = guess_in(document.state.pictures[sheet.id].pixels, sheet, sheet.cuts[0], part, [size])
        likely = [cut for cut, _, share in found if _size(cut) == size and share >= _LEAST]
        if likely and not parts:
            cuts[sheet.id] = likely[0]
        else:
            stays.append(sheet.id)
    return Likewise(cuts, stays)


def cut_likewise(document: Document, sheet_id: str, cuts: Mapping[str, Cut]) -> None:
    """Cuts sheets anew as one step, as long as they may still be cut in the size of one."""
    with document.step("cut likewise"):
        for sheet in cut_otherwise(document, sheet_id):
            if sheet.id in cuts:
                set_cut(document, sheet.id, cuts[sheet.id])


def _one_grid(sheet: Sheet) -> bool:
    return len(sheet.cuts) == 1 and not sheet.images and not sheet.cuts[0].pieces and sheet.cuts[0].region is None


def _size(cut: Cut) -> tuple[int, int]:
    return cut.tile_width, cut.tile_height
