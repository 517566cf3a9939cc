"""Animated tiles: which picture each shows at a moment, and new ones from files."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import PurePath

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Palette, Picture, Project, fresh_id
from knitground.core.sheet.frames import Shown, strip
from knitground.core.sheet.picture import Sheet, encode_png
from knitground.core.tiles.notes import PLAIN, Frame, frame_at
from knitground.core.tiles.tile import NUMBER_MASK, ORIENTATION_SHIFT, TileRef


class Playing:
    """The animations of a project, by palette numbers."""

    def __init__(self, project: Project, palette: Palette) -> None:
        self.project = project
        self.frames = {ref: notes.frames for ref, notes in project.tiles.items() if notes.frames}
        self._numbers = {
            palette.number(ref): [palette.number(frame.tile) for frame in frames] for ref, frames in self.frames.items()
        }
        self._size = len(palette.refs) + 1

    @property
    def shortest_ms(self) -> int:
        """How long the shortest frame of all shows."""
        return min((frame.ms for frames in self.frames.values() for frame in frames), default=0)

    def moment(self, ms: int) -> tuple[int, ...]:
        """The number of the frame that each animation shows."""
        return tuple(frame_at(frames, ms) for frames in self.frames.values())

    def shown(self, ms: int) -> dict[TileRef, TileRef]:
        """The tile that each animated one looks like at a moment."""
        return {ref: frames[frame_at(frames, ms)].tile for ref, frames in self.frames.items()}

    def all_frames(self, code: int) -> NDArray[np.int32]:
        """The cell codes of the frames of an animated tile, in its orientation; none for any other."""
        orientation = code >> ORIENTATION_SHIFT << ORIENTATION_SHIFT
        return np.array(self._numbers.get(code & NUMBER_MASK, []), dtype=np.int32) | orientation

    def moves(self, codes: NDArray[np.int32]) -> NDArray[np.bool_]:
        """Which of some cell codes are of animated tiles."""
        return np.isin(codes & NUMBER_MASK, list(self._numbers)) & (codes > 0)

    def codes_at(self, codes: NDArray[np.int32], ms: int) -> NDArray[np.int32]:
        """Cell codes with every animated tile exchanged for the frame that shows, in its orientation."""
        now = np.arange(max(self._size, int((codes & NUMBER_MASK).max(initial=0)) + 1), dtype=np.int32)
        for (number, frames), place in zip(self._numbers.items(), self.moment(ms), strict=True):
            now[number] = frames[place]
        exchanged = now[codes & NUMBER_MASK] | (codes >> ORIENTATION_SHIFT) << ORIENTATION_SHIFT
        return np.where(codes > 0, exchanged, codes)


def playing(derived: Derived) -> Playing:
    """The animations of a document as it is now."""
    return Playing(derived.document.project, derived.document.palette)


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
