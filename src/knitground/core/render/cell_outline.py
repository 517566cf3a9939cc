"""What of the box of a tile lies in its cell."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid import Outline


def beside(outline: Outline, height: int, width: int) -> NDArray[np.bool_]:
    """The pixels of a box that lie beside its cell, with a pixel of leeway for the steps that artists draw.

    Parameters
    ----------
    outline : Outline
    height, width : int

    Returns
    -------
    outside : (height, width) bool
    """
    down = np.abs(2 * np.arange(height)[:, None] + 1 - height) / height
    across = np.abs(2 * np.arange(width) + 1 - width) / width
    away = {
        "box": np.zeros((height, width)),
        "diamond": down + across,
        # The slanted sides of a hexagon begin a quarter of the box from its pointed ends.
        "pointed": down + across / 2,
        "lying": down / 2 + across,
    }[outline]
    return np.asarray(away > 1 + 2 / (height if outline == "pointed" else width))
