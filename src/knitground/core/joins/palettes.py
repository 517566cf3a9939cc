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
    tiles : (..., 4) uint8
        Straight alpha; what is clear has no colour.
    """

    def __init__(self, tiles: NDArray[np.uint8]) -> None:
        shown = np.unique(_numbers(tiles[tiles[..., 3] > 0]))
        self._tree = scipy.spatial.cKDTree(_colours(shown))

    def lacks(self, pixels: NDArray[np.uint8]) -> NDArray[np.bool_]:
        """Which pixels, (..., 4), show none of the colours, nor nearly, or nothing; (...) bool."""
        # Tiles have far fewer colours than pixels.
        shown, which = np.unique(_numbers(pixels), return_inverse=True)
        apart = np.asarray(self._tree.query(_colours(shown), distance_upper_bound=_NEAR)[0])
        lacks: NDArray[np.bool_] = (apart > _NEAR)[which].reshape(pixels.shape[:-1]) | (pixels[..., 3] == 0)
        return lacks


def _numbers(pixels: NDArray[np.uint8]) -> NDArray[np.int32]:
    """A number for the colour of each pixel, (..., 4)."""
    red, green, blue = (pixels[..., part].astype(np.int32) for part in range(3))
    return (red << 16) | (green << 8) | blue


def _colours(numbers: NDArray[np.int32]) -> NDArray[np.float64]:
    """The colours of numbers, (n, 3)."""
    return np.stack([numbers >> 16, numbers >> 8 & 255, numbers & 255], axis=1).astype(np.float64)
