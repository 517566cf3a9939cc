"""What the terrains of a set look like: their colours, and threads that suit them."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import Floats, place_windows
from knitground.core.joins.sets import JoinKind
from knitground.core.sheet.colour import hex_of

_CLEAR = 0.5
_LIGHTER = 0.45


def terrain_colours(
    kind: JoinKind, labels: NDArray[np.intp], tiles: NDArray[np.uint8]
) -> tuple[list[Floats], list[bool]]:
    """The mean colour of each terrain at its places, and which terrains are mostly transparent.

    Parameters
    ----------
    kind : JoinKind
    labels : (n, P) intp
        A number from 0 for the terrain at each place.
    tiles : (n, h, w, 4) uint8
        Straight alpha; isometric ones laid flat.

    Returns
    -------
    colours : list of (3,) float64
        Red, green and blue.
    clear : list of bool
    """
    windows = place_windows(kind, *tiles.shape[1:3])
    alpha = tiles[..., 3] / 255.0
    seen = np.einsum("pyx,nyx->np", windows, alpha)
    mean = np.einsum("pyx,nyxc->npc", windows, tiles[..., :3] * alpha[..., None])
    colours, shares = [], []
    for group in range(int(labels.max()) + 1):
        mine = labels == group
        shares.append(float(seen[mine].mean()) if mine.any() else 0.0)
        colours.append(mean[mine].sum(axis=0) / max(float(seen[mine].sum()), 1e-9))
    # What shows the most is there, however thin it is: the rope of a rail.
    return colours, [share < min(_CLEAR, max(shares)) for share in shares]


def thread_near(colour: Floats) -> str:
    """A colour for a thread near that of its terrain, light enough to be seen on it, as #rrggbb.

    Parameters
    ----------
    colour : (3,) float64
        Red, green and blue, from 0 to 255.
    """
    lighter = np.clip(colour + (255 - colour) * _LIGHTER, 0, 255)
    return hex_of(lighter)
