"""Sheets among the images of a folder: pictures of many things, or of the size of those."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet
from knitground.core.sheet.pieces import find_pieces

_MANY = 7
"""So many separate things a sheet shows at the least; what is drawn apart in one tile is fewer."""
_GAP = 1
"""What lies up to so many pixels apart is one thing."""
_LEAST = 96 * 64
"""So many pixels a sheet has at the least: smaller ones are taken for a tile with specks."""
_LARGER = 4.0
"""So much larger than most others a picture is that is a sheet while they aren't."""
_CORNERS = 3
"""So many corners of a sheet whose tiles touch are drawn on at the least."""
_LARGE = 128 * 128
"""So many pixels make one wonder whether it is one tile."""


def sheets_among(images: Sequence[NDArray[np.uint8]]) -> list[int]:
    """Which of the images of a folder are sprite sheets; the others are tiles, one each.

    Parameters
    ----------
    images : sequence of (h, w, 4) uint8
        RGBA, straight alpha.

    Returns
    -------
    which : list of int
        Places in the sequence. Where half of the images show many things, so are the others, if they are large enough:
        on a sheet without gutters all is one. Where fewer do, those are that are much larger than most.
    """
    areas = _areas(images)
    many = np.array([_shows_many(image) for image in images], dtype=bool)
    if not many.any():
        return []
    most = 2 * many.sum() >= len(images)
    found = areas >= _LEAST if most else many & (areas >= _LARGER * np.median(areas))
    return np.flatnonzero(found).tolist()


def large_among(images: Sequence[NDArray[np.uint8]], *, all_may: bool) -> list[int]:
    """Which of images that are taken for one tile each are large for that, and no single thing on clear ground.

    Parameters
    ----------
    images : sequence of (h, w, 4) uint8
    all_may : bool
        Whether nothing tells what size the tiles are, so that all may be too large; else some are that are much larger
        than most.
    """
    areas = _areas(images)
    usual = float(np.median(areas))
    corners = np.array([(image[[0, 0, -1, -1], [0, -1, 0, -1], 3] > 0).sum() for image in images])
    least = max(_LARGE, 0 if all_may and usual >= _LARGE else _LARGER * usual)
    return np.flatnonzero((areas >= least) & (corners >= _CORNERS)).tolist()


def _areas(images: Sequence[NDArray[np.uint8]]) -> NDArray[np.intp]:
    return np.array([image.shape[0] * image.shape[1] for image in images], dtype=np.intp)


def _shows_many(image: NDArray[np.uint8]) -> bool:
    if image.shape[0] * image.shape[1] < _LEAST:
        return False
    try:
        return len(find_pieces(image, gap=_GAP)) >= _MANY
    except BadSheet:
        return False
