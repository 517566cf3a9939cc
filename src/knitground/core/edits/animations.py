"""Animations: frames of a tile, and new ones from files."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import PurePath

from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Picture, fresh_id
from knitground.core.sheet.frames import Shown, strip
from knitground.core.sheet.picture import Sheet, encode_png
from knitground.core.tiles.notes import PLAIN, Frame
from knitground.core.tiles.tile import TileRef


def run_of(refs: Sequence[TileRef], ms: int) -> tuple[Frame, ...]:
    """Tiles as frames that show equally long."""
    return tuple(Frame(ref, ms) for ref in refs)


def line_from(derived: Derived, first: TileRef, *, down: bool) -> list[TileRef]:
    """The tiles from one on along its row, or down its column, up to the first cell that is none.

    Raises
    ------
    BadRequest
        If there is only the one.
    """
    slices = derived.sliced()[first.sheet, first.cut]
    found = []
    column, row = first.column, first.row
    while slices.holds(column, row):
        found.append(first._replace(column=column, row=row))
        column, row = (column, row + 1) if down else (column + 1, row)
    if len(found) < 2:
        raise BadRequest(f"No other tile follows {'below' if down else 'at the right of'} this one on the sheet.")
    return found


def add_frames(document: Document, name: str, frames: Sequence[Shown], moves: TileRef | None = None) -> str:
    """Adds a sheet of frames as one step, and lets its first tile (or a given one) play them; returns its id."""
    pixels, cut = strip([frame.pixels for frame in frames])
    project = document.project
    sheet_id = fresh_id(PurePath(name).stem, project.sheets)
    columns = pixels.shape[1] // cut.tile_width
    played = tuple(
        Frame(TileRef(sheet_id, cut.id, number % columns, number // columns), frame.ms)
        for number, frame in enumerate(frames)
    )
    owner = moves or played[0].tile
    notes = replace(project.tiles.get(owner, PLAIN), frames=played if len(played) > 1 else ())
    document.define(
        f"add frames {sheet_id}",
        replace(
            project,
            sheets=(*project.sheets, Sheet(sheet_id, f"sheets/{sheet_id}.png", (cut,))),
            tiles={**project.tiles, owner: notes},
        ),
        pictures={**document.state.pictures, sheet_id: Picture(encode_png(pixels), pixels)},
    )
    return sheet_id
