"""Painting where areas and runs share a layer: corners and edges that stay in keeping with one another.

An area painted on a corner takes the four edges that meet there along; a run takes edges alone. A corner never holds
a higher terrain than an edge that ends in it, so that every painting is one that `coverage` asks tiles for.
"""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from knitground.core.ground.shapes import Shape
from knitground.core.ground.window import Window

Patches = dict[str, tuple[Shape, NDArray[np.uint8]]]


def full_patches(planes: Mapping[str, NDArray[np.generic]], shapes: Mapping[str, Shape], terrain: int) -> Patches:
    """What to set on the three planes of a full layer for an area or a run.

    Parameters
    ----------
    planes : mapping of name to (H + 1, W + 1), (H + 1, W) and (H, W + 1) uint8
        Corners, across and along, as `knit` takes them.
    shapes : mapping of plane to Shape
        Corners for an area, edges for a run.
    terrain : int

    Returns
    -------
    patches : mapping of plane to (Shape, values)
    """
    windows = [shape.window for shape in shapes.values() if not shape.window.is_empty]
    if not windows:
        return {}
    height, width = planes["along"].shape[0], planes["across"].shape[1]
    top, left = min(window.top for window in windows), min(window.left for window in windows)
    bottom, right = max(window.bottom for window in windows), max(window.right for window in windows)
    # One more corner on each side: those that may have to make room.
    seen = Window(top - 1, left - 1, bottom - top + 2, right - left + 2).clipped(height, width)
    rows, columns = slice(seen.top, seen.bottom + 1), slice(seen.left, seen.right + 1)
    corners = np.array(planes["corners"][rows, columns], dtype=np.uint8)
    across = np.array(planes["across"][rows, seen.columns], dtype=np.uint8)
    along = np.array(planes["along"][seen.rows, columns], dtype=np.uint8)
    for name, plane in (("corners", corners), ("across", across), ("along", along)):
        if name in shapes:
            window, mask = shapes[name]
            part = plane[window.top - seen.top :, window.left - seen.left :][: window.height, : window.width]
            part[mask[: part.shape[0], : part.shape[1]]] = terrain
    if "corners" in shapes:
        painted = np.zeros(corners.shape, dtype=bool)
        window, mask = shapes["corners"]
        painted[window.top - seen.top :, window.left - seen.left :][: window.height, : window.width] = mask
        across[painted[:, :-1] | painted[:, 1:]] = terrain
        along[painted[:-1] | painted[1:]] = terrain
    for beside, edges in (
        (corners[:, :-1], across), (corners[:, 1:], across), (corners[:-1], along), (corners[1:], along),
    ):  # fmt: skip
        np.minimum(beside, edges, out=beside)
    return {name: _patch(seen, plane) for name, plane in (("corners", corners), ("across", across), ("along", along))}


def _patch(seen: Window, values: NDArray[np.uint8]) -> tuple[Shape, NDArray[np.uint8]]:
    window = seen._replace(height=values.shape[0], width=values.shape[1])
    return Shape(window, np.ones(values.shape, dtype=bool)), values
