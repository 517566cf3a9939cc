"""How well what stands on clear ground goes on from tile to tile, by its outline: in a set the same ways agree.

Furniture that fills its cells shows all combinations of edges, too, but one piece goes on into itself alone.
"""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.lattice import SIDES
from knitground.core.joins.sets import JoinKind

_STEPS = {1: (1, 0), 2: (0, 1)}
"""How far on the cell beside the east and the south side lies."""


def outlines_agree(
    tiles: NDArray[np.uint8], cells: NDArray[np.intp], labels: NDArray[np.intp], kind: JoinKind
) -> float:
    """What share of the art along the sides of tiles meets art, where these fit by their labels, from 0 to 1.

    Tiles that lie beside each other on the sheet do not count: they may be parts of one picture.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        RGBA, straight alpha.
    cells : (n, 2) intp
        Column and row of each on its sheet.
    labels : (n, p) intp
        The places of the kind.
    kind : JoinKind
    """
    shares = []
    for side, step in _STEPS.items():
        first, second = _along(tiles, side), _along(tiles, side + 2)
        fit = (labels[:, None, SIDES[kind][side]] == labels[None, :, SIDES[kind][(side + 2) % 4]]).all(axis=2)
        fit &= ((cells[:, None] + step) != cells[None]).any(axis=2)
        np.fill_diagonal(fit, val=False)
        both = first @ second.T
        either = first.sum(axis=1)[:, None] + second.sum(axis=1) - both
        told = fit & (either > 0)
        shares.append(both[told] / either[told])
    every = np.concatenate(shares)
    return float(every.mean()) if len(every) else 1.0


def _along(tiles: NDArray[np.uint8], side: int) -> NDArray[np.float32]:
    """Where art lies along a side of tiles, (n, pixels), as 0 and 1; sides go clockwise from the upper one."""
    alpha = tiles[..., 3]
    lines = alpha[:, 0], alpha[:, :, -1], alpha[:, -1], alpha[:, :, 0]
    return np.asarray(lines[side % 4] > 0, dtype=np.float32)
