"""Which colours some tiles show: what else shows them, or nearly, may be drawn with the same paints."""

import numpy as np
import scipy
from numpy.typing import NDArray

_NEAR = 16.0
"""How far apart colours that are nearly the same may lie, of 442."""


class Palette:
    """The colours of tiles.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha; what is clear has no colour.
    """

    def __init__(self, tiles: NDArray[np.uint8]) -> None:
        shown = np.unique(tiles[tiles[..., 3] > 0][:, :3], axis=0)
        self._tree = scipy.spatial.cKDTree(shown.astype(np.float64))

    def lacks(self, pixels: NDArray[np.uint8]) -> NDArray[np.bool_]:
        """Which pixels, (..., 4), show none of the colours, nor nearly, or nothing; (...) bool."""
        apart = np.asarray(self._tree.query(pixels[..., :3], distance_upper_bound=_NEAR)[0])
        lacks: NDArray[np.bool_] = (apart > _NEAR) | (pixels[..., 3] == 0)
        return lacks
