"""Islands: blocks of 3 x 3 cells that show one terrain in the midst of another; the inner corners lie somewhere else.

By itself such a block shows nine of the sixteen combinations of a corner set. The four that show the other terrain in
one corner alone are looked for on all of the sheet.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.blocks import halved
from knitground.core.joins.found import FoundSet
from knitground.core.joins.look import Floats, full_alpha
from knitground.core.joins.taking_in import tiles_of
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
_MIDST, _APART = 4, 0.04
"""Which tile of an island shows its terrain alone, and how far the mean colours of two terrains lie apart."""


class Island(NamedTuple):
    """An island by the numbers of its tiles.

    Attributes
    ----------
    ring : (9,) intp
        Those of its block, from the upper left one on.
    inner : (4,) intp
        Those with the other terrain at one corner alone.
    """

    ring: NDArray[np.intp]
    inner: NDArray[np.intp]

    @property
    def tiles(self) -> NDArray[np.intp]:
        """All of them, in order."""
        return np.sort(np.concatenate([self.ring, self.inner]))


def island_sets(number: NDArray[np.intp], features: Floats, colours: Floats) -> Iterator[Island]:
    """The islands with inner corners, those first whose terrains are clearest apart.

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
            yield Island(island, np.array(inner))


def not_of_islands(
    read: list[FoundSet], islands: list[Island], colours: Floats, number: NDArray[np.intp]
) -> list[FoundSet]:
    """The sets but for those that are made of parts of several islands, which show different terrains.

    Parameters
    ----------
    read : list of FoundSet
    islands : list of Island
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    within = np.array([colours[one.ring[_MIDST]].mean(axis=(0, 1)) for one in islands]).reshape(-1, 4)
    round_it = np.array([_outside(colours[one.ring]) for one in islands]).reshape(-1, 4)
    alike = (_near(within, within) & _near(round_it, round_it)) | (_near(within, round_it) & _near(round_it, within))

    def may_be(found: FoundSet) -> bool:
        mine = tiles_of(found, number)
        # Its midst may be plain ground of something else.
        held = [np.isin(np.delete(one.ring, _MIDST), mine).any() for one in islands]
        some = [one or np.isin(island.inner, mine).any() for one, island in zip(held, islands, strict=True)]
        return bool(alike[np.ix_(np.flatnonzero(held), np.flatnonzero(some))].all())

    return [one for one in read if may_be(one)]


def _outside(ring: Floats) -> Floats:
    """The mean colours at the four outer corners of an island, of (9, h, w, 4): (4,)."""
    high, wide = (max(1, side // 4) for side in ring.shape[1:3])
    corners = ring[0, :high, :wide], ring[2, :high, -wide:], ring[6, -high:, :wide], ring[8, -high:, -wide:]
    return np.asarray(np.mean(corners, axis=(0, 1, 2)))


def _near(some: Floats, others: Floats) -> NDArray[np.bool_]:
    """Which of some colours, (N, 4), are nearly as which of others, (N, N)."""
    return np.asarray(np.abs(some[:, None] - others).max(axis=-1, initial=0.0) <= _APART)


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
