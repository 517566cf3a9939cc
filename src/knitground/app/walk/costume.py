"""What the figure looks like: the beekeeper, or any tile."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.app.session import Session
from knitground.app.walk.keeper import keeper
from knitground.core.tiles.notes import frame_at
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.dressed import Dress, dress_of
from knitground.core.walk.figure import Figure

_STRIDE = 9.0
"""Pixels of the ground from one picture of a stride to the next."""


class Look(NamedTuple):
    """A picture, and how far from its upper left the middle of the foot is, right and down."""

    pixels: NDArray[np.uint8]
    x: float
    y: float


class Costume:
    """Which tile walks; none for the beekeeper."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.tile: TileRef | None = None

    def dress(self) -> Dress | None:
        """How the tile stands; none where the beekeeper walks, or the tile is no longer there."""
        tile = self.tile
        shown = self._session.derived.tile(tile) if tile is not None else None
        if tile is None or shown is None:
            return None
        return dress_of(self._session.document.project.tiles.get(tile), (shown.shape[1], shown.shape[0]))

    def look(self, figure: Figure, way: str, gone: float, ms: int) -> Look:
        """The picture at a moment.

        Parameters
        ----------
        way : str
            Where it looks.
        gone : float
            How many pixels it has gone since it stood.
        ms : int
            How long it has been there.
        """
        dress = self.dress()
        if dress is not None and self.tile is not None:
            notes = self._session.document.project.tiles.get(self.tile)
            frames = notes.frames if notes is not None else ()
            shown = frames[frame_at(frames, ms)].tile if frames else self.tile
            pixels = self._session.derived.tile(shown)
            if pixels is not None:
                return Look(pixels, dress.x, dress.y)
        pixels = keeper(way, int(gone / _STRIDE))
        return Look(pixels, pixels.shape[1] / 2, pixels.shape[0] - figure.foot.height / 2)
