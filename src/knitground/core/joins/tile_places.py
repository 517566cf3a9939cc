"""Where in a tile its pixels lie, the same for squares and for diamonds."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray


class Places(NamedTuple):
    """How far down and across the tile each of its pixels lies, from its first side on, (2, h, w) up to 1.

    On a diamond the first side that is met going across is that at the upper left, and going down the upper right.
    """

    at: NDArray[np.float64]
    isometric: bool

    @property
    def inside(self) -> NDArray[np.bool_]:
        """Which pixels lie in the tile."""
        return np.asarray(((self.at >= 0) & (self.at < 1)).all(axis=0))

    def pixels(self, at: NDArray[np.float64]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Rows and columns of the pixels that lie at places, (2, ...)."""
        down, across = ((at[0] + at[1]) / 2, (at[1] - at[0] + 1) / 2) if self.isometric else at
        high, wide = self.at.shape[1:]
        return (
            np.clip((down * high).astype(np.intp), 0, high - 1),
            np.clip((across * wide).astype(np.intp), 0, wide - 1),
        )


def places_of(high: int, wide: int, *, isometric: bool) -> Places:
    """The places of the pixels of a tile, (high, wide)."""
    y, x = np.mgrid[0:high, 0:wide]
    down, across = (y + 0.5) / high, (x + 0.5) / wide
    both = (down - across + 0.5, across + down - 0.5) if isometric else (down, across)
    return Places(np.stack(both), isometric)
