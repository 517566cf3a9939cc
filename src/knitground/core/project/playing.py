"""Animated tiles: which picture each shows at a moment."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from knitground.core.project.derived import Derived
from knitground.core.project.model import Palette, Project
from knitground.core.tiles.notes import frame_at
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

    def exchange_at(self, ms: int) -> Callable[[NDArray[np.int32]], NDArray[np.int32]]:
        """A function that exchanges every animated tile of (H, W) cell codes for the frame that shows, in its turn.

        Parameters
        ----------
        ms : int
            Since the clock began.

        Returns
        -------
        exchange : callable
            From and to (H, W) int32.
        """
        now = np.arange(self._size, dtype=np.int32)
        for (number, frames), place in zip(self._numbers.items(), self.moment(ms), strict=True):
            now[number] = frames[place]

        def exchanged(codes: NDArray[np.int32]) -> NDArray[np.int32]:
            """Codes with animated tiles exchanged for the frames that show.

            Parameters
            ----------
            codes : (...) int32

            Returns
            -------
            codes : (...) int32
            """
            numbers = codes & NUMBER_MASK
            known = (codes > 0) & (numbers < len(now))
            if not known.any():
                return codes
            shown = now[np.where(known, numbers, 0)] | (codes & ~np.int32(NUMBER_MASK))
            return np.where(known, shown, codes).astype(np.int32)

        return exchanged

    def codes_at(self, codes: NDArray[np.int32], ms: int) -> NDArray[np.int32]:
        """Cell codes with every animated tile exchanged for the frame that shows, in its orientation.

        Parameters
        ----------
        codes : (H, W) int32
        ms : int
            Since the clock began.

        Returns
        -------
        codes : (H, W) int32
        """
        return self.exchange_at(ms)(codes)


def playing(derived: Derived) -> Playing:
    """The animations of a document as it is now."""
    return Playing(derived.document.project, derived.document.palette)
