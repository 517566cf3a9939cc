"""Animated tiles: which picture each shows at a moment."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.rect import CellRect
from knitground.core.project.derived import Derived
from knitground.core.project.model import Palette, Project
from knitground.core.tiles.notes import Frame, frames_at
from knitground.core.tiles.phases import phases_of_cells
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

    def _at(self, ref: TileRef, ms: int) -> list[int]:
        """The numbers of the frames that an animation shows: one, or if it is played apart one for each beginning."""
        found = frames_at(self.frames[ref], ms)
        return found if self.project.tiles[ref].apart else found[:1]

    def begun(self, ref: TileRef) -> list[tuple[Frame, ...]]:
        """The frames of an animation in the order in which they show: once, or once for each beginning."""
        frames = self.frames[ref]
        apart = self.project.tiles[ref].apart
        return [frames[first:] + frames[:first] for first in range(len(frames) if apart else 1)]

    def moment(self, ms: int) -> tuple[int, ...]:
        """The numbers of the frames that all animations show."""
        return tuple(number for ref in self.frames for number in self._at(ref, ms))

    def shown(self, ms: int) -> dict[TileRef, TileRef]:
        """The tile that each animated one looks like at a moment, having begun with its first frame."""
        return {ref: tiles[0] for ref, tiles in self.shown_apart(ms).items()}

    def shown_apart(self, ms: int) -> dict[TileRef, tuple[TileRef, ...]]:
        """The tiles that each animated one looks like at a moment: one, or one for each beginning."""
        return {ref: tuple(frames[one].tile for one in self._at(ref, ms)) for ref, frames in self.frames.items()}

    def all_frames(self, code: int) -> NDArray[np.int32]:
        """The cell codes of the frames of an animated tile, in its orientation; none for any other.

        Parameters
        ----------
        code : int
            A cell code.

        Returns
        -------
        frames : (N,) int32
        """
        orientation = code >> ORIENTATION_SHIFT << ORIENTATION_SHIFT
        return np.array(self._numbers.get(code & NUMBER_MASK, []), dtype=np.int32) | orientation

    def moves(self, codes: NDArray[np.int32]) -> NDArray[np.bool_]:
        """Which of some cell codes are of animated tiles.

        Parameters
        ----------
        codes : (...) int32

        Returns
        -------
        moves : (...) bool
        """
        return np.isin(codes & NUMBER_MASK, list(self._numbers)) & (codes > 0)

    def exchange_at(self, ms: int) -> Callable[[NDArray[np.int32], CellRect], NDArray[np.int32]]:
        """A function that exchanges every animated tile of some cells for the frame that shows there, in its turn.

        Parameters
        ----------
        ms : int
            Since the clock began.

        Returns
        -------
        exchange : callable
            From (H, W) int32 cell codes and the cells that they are of to (H, W) int32.
        """
        at = [self._at(ref, ms) for ref in self.frames]
        begin = np.ones(self._size, dtype=np.int64)
        now = np.tile(np.arange(self._size, dtype=np.int32), (max(map(len, at), default=1), 1))
        for (number, frames), places in zip(self._numbers.items(), at, strict=True):
            begin[number] = len(places)
            now[: len(places), number] = [frames[place] for place in places]

        def exchanged(codes: NDArray[np.int32], cells: CellRect) -> NDArray[np.int32]:
            """Codes with animated tiles exchanged for the frames that show.

            Parameters
            ----------
            codes : (H, W) int32
            cells : CellRect
                Of height H and width W.

            Returns
            -------
            codes : (H, W) int32
            """
            numbers = codes & NUMBER_MASK
            known = (codes > 0) & (numbers < now.shape[1])
            if not known.any():
                return codes
            numbers = np.where(known, numbers, 0)
            phases = phases_of_cells(cells) % begin[numbers] if len(now) > 1 else 0
            shown = now[phases, numbers] | (codes & ~np.int32(NUMBER_MASK))
            return np.where(known, shown, codes).astype(np.int32)

        return exchanged


def playing(derived: Derived) -> Playing:
    """The animations of a document as it is now."""
    return Playing(derived.document.project, derived.document.palette)
