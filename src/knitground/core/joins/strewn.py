"""Things that lie on the plain ground of a set, many on one sheet: letters, tools, creatures. They are no variants.

A few tiles with something on them are: a flower on the grass. So are a few that lie beside the tiles of the set.
"""

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.joins.adorned import change_of
from knitground.core.joins.found import FoundSet
from knitground.core.joins.variants import Matched

_FEW = 8
"""How many tiles with something on them may be variants of one."""
_FAR, _SOME, _PLAINER = 48, 0.05, 0.5
"""How far colours are apart where something lies, the share of a tile that it covers at least, and how much less what
changes from pixel to pixel on a tile that is plainer than the plain ones."""


def but_strewn(
    found: FoundSet, match: Matched, others: NDArray[np.intp], tiles: NDArray[np.uint8], number: NDArray[np.intp]
) -> Matched:
    """What other tiles match a set, but for things on its plain ground where there are many.

    Parameters
    ----------
    found : FoundSet
    match : Matched
        What the other tiles show.
    others : (o,) intp
        Their numbers.
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    apart = match.apart.copy()
    mine = number[found.cells[:, 1], found.cells[:, 0]]
    alone = (found.labels == found.labels[:, :1]).all(axis=1)
    for terrain in np.unique(found.labels[alone, 0]):
        plain = tiles[mine[alone & (found.labels[:, 0] == terrain)]]
        alike = np.flatnonzero((match.labels == terrain).all(axis=1) & np.isfinite(apart))
        if len(alike) > _FEW:
            least = _PLAINER * min(change_of(tile) for tile in plain)
            alike = alike[[change_of(tile) > least and _is_apart(tile, plain) for tile in tiles[others[alike]]]]
        if len(alike) > _FEW:
            beside = _hang_on(others[alike], mine, number)
            apart[alike[~beside] if beside.sum() <= _FEW else alike] = np.inf
    return match._replace(apart=apart)


def _is_apart(tile: NDArray[np.uint8], plain: NDArray[np.uint8]) -> bool:
    """Whether a tile, (h, w, 4), shows something that none of the plain ones, (m, h, w, 4), does."""
    far = np.abs(plain.astype(np.int16) - tile).max(axis=-1) > _FAR
    return bool(far.mean(axis=(1, 2)).min() > _SOME)


def _hang_on(tiles: NDArray[np.intp], mine: NDArray[np.intp], number: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Which tiles hang together with those of a set, beside one another or through others of them, (N,) bool."""
    pieces, _ = scipy.ndimage.label(np.isin(number, np.concatenate([tiles, mine])))
    return np.isin(tiles, number[np.isin(pieces, pieces[np.isin(number, mine)])])
