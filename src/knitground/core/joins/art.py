"""What the terrains of a set look like: their colours, and threads that suit them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import Floats, place_windows
from knitground.core.joins.sets import JoinKind
from knitground.core.sheet.colour import hex_of

_CLEAR = 0.5
_LIGHTER = 0.45
_ALIKE, _STANDS_OUT, _WIDER = 30.0, 0.85, 2.0
"""How near colours of two terrains are that can hardly be told apart, and what part of one's pixels is nearer still to
the other, of those about as far round a place again as it is usually seen."""


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


def colours_told_apart(
    kind: JoinKind, labels: NDArray[np.intp], tiles: NDArray[np.uint8], colours: Sequence[Floats], order: Sequence[int]
) -> list[Floats]:
    """Colours to name terrains by and to mark them with, of which hardly any two are alike.

    What is thin has nearly the colour of what it lies on: rails on gravel are grey. It gets that of what stands out.

    Parameters
    ----------
    kind, labels, tiles
        As for `terrain_colours`.
    colours : sequence of (3,) float64
        What that gives.
    order : sequence of int
        The terrains that are painted; those that come first keep their colour.
    """
    height, width = tiles.shape[1:3]
    # What is of two lines, as a rail is, has its midst elsewhere.
    windows, found = place_windows(kind, height, width, times=_WIDER), list(colours)
    for place, group in enumerate(order):
        away = [float(np.linalg.norm(found[group] - found[other])) for other in order[:place]]
        if not away or min(away) >= _ALIKE:
            continue
        there = np.einsum("np,pyx->nyx", labels == group, windows > windows.max() / 2) & (tiles[..., 3] > 0)
        if not there.any():
            continue
        off = tiles[there][:, :3] - found[order[int(np.argmin(away))]]
        far = np.linalg.norm(off, axis=1)
        # Rails are pale and their sleepers dark: together they would be of no colour that is there.
        most = (far >= np.quantile(far, _STANDS_OUT)) & (off @ off[far.argmax()] > 0)
        colour = tiles[there][most, :3].mean(axis=0) if most.any() else found[group]
        if np.linalg.norm(colour - found[group]) >= _ALIKE:
            found[group] = colour
    return found


def thread_near(colour: Floats) -> str:
    """A colour for a thread near that of its terrain, light enough to be seen on it, as #rrggbb.

    Parameters
    ----------
    colour : (3,) float64
        Red, green and blue, from 0 to 255.
    """
    lighter = np.clip(colour + (255 - colour) * _LIGHTER, 0, 255)
    return hex_of(lighter)
