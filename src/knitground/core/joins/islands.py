"""Islands: blocks of 3 x 3 cells that show one terrain in the midst of another; the inner corners lie somewhere else.

By itself such a block shows nine of the sixteen combinations of a corner set. The four that show the other terrain in
one corner alone are looked for on all of the sheet.
"""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.blocks import halved
from knitground.core.joins.look import Floats, full_alpha
from knitground.core.joins.variants import in_squares, match_lacking

_SIDE = 3
_RING = np.array(
    [
        [0, 0, 1, 0], [0, 0, 1, 1], [0, 0, 0, 1],
        [0, 1, 1, 0], [1, 1, 1, 1], [1, 0, 0, 1],
        [0, 1, 0, 0], [1, 1, 0, 0], [1, 0, 0, 0],
    ]
)  # fmt: skip
"""What the tiles of an island show at their corners, from the north-west clockwise: 1 for what lies in its midst."""
_INNER = 1 - np.eye(4, dtype=np.intp)
_WRONG = 2
"""At how many of the 36 corners another terrain may seem to lie."""
_MOST = 12
_AT_ONCE = 256
_COVERED = 0.98


def island_sets(number: NDArray[np.intp], features: Floats, colours: Floats) -> Iterator[NDArray[np.intp]]:
    """The tiles of islands with their inner corners, those first whose terrains are clearest apart.

    Parameters
    ----------
    number : (R, C) intp
        The number of the tile in each cell, -1 for none.
    features : (n, 4, F) float64
        What the corners of each tile show, as `features_of` gives it.
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    """
    # On clear ground an island is painted by the cell (see `find_rimmed`).
    found = [one for one in _islands(number, features) if full_alpha(colours[one[0]]).mean() > _COVERED]
    found.sort(key=lambda one: -one[1])
    if not found:
        return
    squares = in_squares(colours, ("corner",))
    for island, _ in found[:_MOST]:
        others = np.setdiff1d(np.arange(len(colours)), island)
        match = match_lacking(squares, "corner", island, _RING, others)
        inner = []
        for labels in _INNER:
            apart = np.where((match.labels == labels).all(axis=1), match.apart, np.inf)
            if np.isfinite(apart).any():
                inner.append(others[int(apart.argmin())])
        if len(inner) == len(_INNER):
            yield np.sort(np.concatenate([island, inner]))


def _islands(number: NDArray[np.intp], features: Floats) -> Iterator[tuple[NDArray[np.intp], float]]:
    """The tiles of all islands from the upper left one on, each with how far its terrains are apart."""
    if min(number.shape) < _SIDE:
        return
    windows = np.lib.stride_tricks.sliding_window_view(number, (_SIDE, _SIDE)).reshape(-1, _SIDE**2)
    windows = windows[(windows >= 0).all(axis=1)]
    for first in range(0, len(windows), _AT_ONCE):
        some = windows[first : first + _AT_ONCE]
        labels, apart = halved(features, some)
        wrong = np.minimum(*((labels != ring).sum(axis=(1, 2)) for ring in (_RING, 1 - _RING)))
        for island, far in zip(some[wrong <= _WRONG], apart[wrong <= _WRONG], strict=True):
            yield island, float(far)
