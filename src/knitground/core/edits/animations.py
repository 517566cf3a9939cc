"""Animations: frames of a tile, and new ones from files."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import PurePath

from knitground.core.edits.notes import animate, notes_of
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


def blocks_from(derived: Derived, refs: Sequence[TileRef], *, down: bool) -> dict[TileRef, list[TileRef]]:
    """Tiles with those at their places in the blocks that follow on the sheet, up to the first that isn't whole.

    Blocks are as wide and high as all of the tiles together; of a single one they are those of its row or column.

    Parameters
    ----------
    derived : Derived
    refs : sequence of TileRef
        Tiles of one cut.
    down : bool
        Whether blocks follow below, and not at the right.

    Raises
    ------
    BadRequest
        If the tiles are of several cuts, or no block follows.
    """
    if len({(ref.sheet, ref.cut) for ref in refs}) != 1:
        raise BadRequest("The tiles lie on several cuts; choose a block of tiles on one of them.")
    slices = derived.sliced()[refs[0].sheet, refs[0].cut]
    places = [ref.row if down else ref.column for ref in refs]
    step = max(places) - min(places) + 1
    found: dict[TileRef, list[TileRef]] = {ref: [] for ref in refs}
    block = list(refs)
    while all(slices.holds(ref.column, ref.row) for ref in block):
        for first, ref in zip(refs, block, strict=True):
            found[first].append(ref)
        block = [ref._replace(row=ref.row + step) if down else ref._replace(column=ref.column + step) for ref in block]
    if len(found[refs[0]]) < 2:
        what, one = ("tile", "this one") if len(refs) == 1 else ("whole block", "the chosen one")
        raise BadRequest(f"No other {what} follows {'below' if down else 'at the right of'} {one} on the sheet.")
    return found


def change_frames(
    document: Document, refs: Sequence[TileRef], change: Callable[[list[Frame]], Sequence[Frame]]
) -> None:
    """Changes the frames of tiles that have as many as the first, as one step.

    Parameters
    ----------
    document : Document
    refs : sequence of TileRef
    change : callable
        Gives the new frames for those of a tile.
    """
    frames = {ref: notes_of(document, ref).frames for ref in refs}
    alike = [ref for ref in refs if len(frames[ref]) == len(frames[refs[0]])]
    animate(document, {ref: change(list(frames[ref])) for ref in alike})


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
