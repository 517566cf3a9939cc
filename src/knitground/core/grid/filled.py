"""Shapes as pixels."""

from typing import Any

import numpy as np
from numpy.typing import NDArray


def filled(
    shape: Any, width: int, height: int, begin: tuple[float, float] = (0.0, 0.0), step: tuple[float, float] = (1.0, 1.0)
) -> NDArray[np.bool_]:
    """The pixels whose middle lies in a shape: those left of which an odd number of its sides runs.

    Parameters
    ----------
    shape : shapely.Geometry
        Of polygons.
    width, height : int
        Of the picture, in pixels.
    begin, step : (float, float)
        Where it begins, across and down, and how large a pixel is.

    Returns
    -------
    inside : (height, width) bool
    """
    import shapely  # slow to import, and not needed by most

    corners, rings = shapely.get_coordinates(_rings(shape), return_index=True)
    corners = (corners - np.array(begin)) / np.array(step)
    follows = rings[1:] == rings[:-1]
    (x0, y0), (x1, y1) = corners[:-1][follows].T, corners[1:][follows].T
    # The rows whose middle each side crosses, and the first pixel of each whose middle lies right of it.
    low, high = np.ceil(np.minimum(y0, y1) - 0.5).clip(0, height), np.ceil(np.maximum(y0, y1) - 0.5).clip(0, height)
    count = (high - low).astype(np.intp)
    side = np.repeat(np.arange(len(count)), count)
    rows = np.arange(len(side)) - np.repeat(np.cumsum(count) - count, count) + low.astype(np.intp)[side]
    x = x0[side] + (rows + 0.5 - y0[side]) / (y1 - y0)[side] * (x1 - x0)[side]
    crossed = np.zeros((height, width + 1), dtype=np.uint8)
    np.add.at(crossed, (rows, np.ceil(x - 0.5).clip(0, width).astype(np.intp)), 1)
    return np.asarray(np.cumsum(crossed[:, :width], axis=1, dtype=np.uint8) & 1, dtype=bool)


def _rings(shape: Any) -> NDArray[np.object_]:
    import shapely

    parts = shapely.get_parts(shape)
    return np.asarray(shapely.get_rings(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON]))
