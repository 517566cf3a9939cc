"""Sheets: reading pictures, adding and removing them, and what their cuts are."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import PurePath

from knitground.core.edits.things import put
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, Project, fresh_id, replaced
from knitground.core.sheet.cut import Cut, grid_of
from knitground.core.sheet.footing import with_shape
from knitground.core.sheet.isometric import without_ground
from knitground.core.sheet.parts import Overview
from knitground.core.sheet.picture import Sheet, encode_png
from knitground.core.sheet.plausible import Sizes


def cuts_of(picture: Picture, overview: Overview) -> tuple[Cut, ...]:
    """The best guess of the cuts of a sheet; several where several grids show, each on a part of the picture."""
    width, height = picture.size
    guesses, parts = overview
    plain = guesses[0].as_cut("tiles") if guesses else Cut("tiles", min(16, width), min(16, height))
    seen = without_ground(picture.pixels)
    return tuple(with_shape(seen, cut) for cut in named_parts(parts, "tiles") or [plain])


def shown_in(parts: Sequence[Cut]) -> str:
    """What the parts of a sheet hold, as in "2 grids" or "a grid and 7 loose pieces"."""
    grids, pieces = sum(not part.pieces for part in parts), sum(len(part.pieces) for part in parts)
    several = f"{grids} grids" if grids > 1 else "a grid"
    return f"{several} and {pieces} loose piece{'s' * (pieces > 1)}" if pieces else several


def sizes_known(project: Project, but: str = "") -> Sizes:
    """What the sheets of a project are cut in, but for one of them: another is likely to be cut so, too.

    Sizes that a ground has, too, were chosen; where there are any, only those count.
    """
    sizes = {
        (cut.tile_width, cut.tile_height)
        for sheet in project.sheets
        for cut in sheet.cuts
        if sheet.id != but and not sheet.images and not cut.pieces
    }
    return sizes & {(ground.tile_width, ground.tile_height) for ground in project.grounds} or sizes


def named_parts(parts: Sequence[Cut], main: str) -> list[Cut]:
    """Cuts of the parts of a sheet with ids that say what they are, that of the largest grid with one that is given."""
    if not parts:
        return []
    largest = max(parts, key=_extent)
    taken = [replace(largest, id=main)]
    for number, cut in enumerate(parts, 1):
        if cut is not largest:
            taken.append(replace(cut, id=fresh_id("pieces" if cut.pieces else f"part {number}", taken)))
    place = parts.index(largest)
    return [*taken[1 : place + 1], taken[0], *taken[place + 1 :]]


def _extent(cut: Cut) -> tuple[bool, int]:
    """How much of a sheet a part takes, grids before loose pieces."""
    region = cut.region
    return not cut.pieces, region.width * region.height if region is not None else 0


def read_picture(name: str, data: bytes) -> Picture:
    """The picture in the bytes of an image file, as a PNG; raises BadSheet."""
    picture = Picture.decode(data, name)
    return picture if data.startswith(b"\x89PNG") else Picture(encode_png(picture.pixels), picture.pixels)


def insert_sheet(document: Document, name: str, picture: Picture, *cuts: Cut) -> str:
    """Adds a picture that is read already, with its cuts; returns the id of its sheet."""
    project = document.project
    sheet_id = fresh_id(PurePath(name).stem, project.sheets)
    sheet = Sheet(sheet_id, f"sheets/{sheet_id}.png", cuts)
    document.define(
        f"add sheet {sheet_id}",
        replace(project, sheets=(*project.sheets, sheet)),
        pictures={**document.state.pictures, sheet_id: picture},
    )
    return sheet_id


def remove_sheet(document: Document, sheet_id: str) -> None:
    """Takes a sheet out; its tiles stay named in sets and maps, and come back if it is added again."""
    project = document.project
    document.define(
        f"remove sheet {sheet_id}",
        replace(project, sheets=tuple(sheet for sheet in project.sheets if sheet.id != sheet_id)),
        pictures={name: picture for name, picture in document.state.pictures.items() if name != sheet_id},
    )


def set_cut(document: Document, sheet_id: str, cut: Cut) -> None:
    """Changes a cut of a sheet.

    Raises
    ------
    BadSheet
        If it does not fit the picture; nothing is changed then.
    """
    sheet = by_id(document.project.sheets, sheet_id)
    grid_of(cut, *document.state.pictures[sheet_id].size)
    put(document, "cut", "sheets", replace(sheet, cuts=replaced(sheet.cuts, cut)))
