"""How well what stands on clear ground goes on from tile to tile, by its outline: in a set the same ways agree.

Furniture that fills its cells shows all combinations of edges, too, but one piece goes on into itself alone. What was
drawn freely may miss by a pixel everywhere; furniture misses by more in places.
"""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.lattice import SIDES
from knitground.core.joins.sets import JoinKind

_EXACTLY, _NEARLY = 0.9, 0.98
"""What share of the art along sides meets others' art, to the pixel, or where each may miss by one."""
_STEPS = {1: (1, 0), 2: (0, 1)}
"""How far on the cell beside the east and the south side lies."""


def outlines_agree(tiles: NDArray[np.uint8], cells: NDArray[np.intp], labels: NDArray[np.intp], kind: JoinKind) -> bool:
    """Whether the art along the sides of tiles meets art wherever these fit by their labels.

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
    exactly, nearly = [], []
    for side, step in _STEPS.items():
        first, second = _along(tiles, side), _along(tiles, side + 2)
        fit = (labels[:, None, SIDES[kind][side]] == labels[None, :, SIDES[kind][(side + 2) % 4]]).all(axis=2)
        fit &= ((cells[:, None] + step) != cells[None]).any(axis=2)
        np.fill_diagonal(fit, val=False)
        both, every = first @ second.T, first.sum(axis=1)[:, None] + second.sum(axis=1)
        met = first @ _grown(second).T + _grown(first) @ second.T
        told = fit & (every > 0)
        exactly.append((both / np.maximum(every - both, 1))[told])
        nearly.append((met / np.maximum(every, 1))[told])
    told_at_all = sum(map(len, exactly)) > 0
    return not told_at_all or bool(
        np.concatenate(exactly).mean() >= _EXACTLY or np.concatenate(nearly).mean() >= _NEARLY
    )


def _along(tiles: NDArray[np.uint8], side: int) -> NDArray[np.float32]:
    """Where art lies along a side of tiles, (n, pixels), as 0 and 1; sides go clockwise from the upper one."""
    alpha = tiles[..., 3]
    lines = alpha[:, 0], alpha[:, :, -1], alpha[:, -1], alpha[:, :, 0]
    return np.asarray(lines[side % 4] > 0, dtype=np.float32)


def _grown(along: NDArray[np.float32]) -> NDArray[np.float32]:
    """The same with a pixel more at each end of what is art."""
    grown = along.copy()
    grown[:, 1:] = np.maximum(grown[:, 1:], along[:, :-1])
    grown[:, :-1] = np.maximum(grown[:, :-1], along[:, 1:])
    return grown
