"""Labels of two terrains by each place alone, for art in whose few colours terrains hardly differ.

What the same place of all tiles shows falls into two groups, however lines and grain run there. Which group of one
place is the same terrain as which of another is seen where tiles meet: what lies along a side of tiles goes on in those
that say the same at the opposite one.

References
----------
W. S. Torgerson, "Multidimensional scaling: I. Theory and method", Psychometrika 17 (1952).
"""

from itertools import product

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.blocks import covered_share
from knitground.core.joins.lattice import SIDES
from knitground.core.joins.look import Floats
from knitground.core.joins.reach import split
from knitground.core.joins.sets import JoinKind

MOST = 200
"""How many tiles may be told apart so while somebody waits."""
_DEEP = 5
"""The part of a tile's side that is looked at behind it, as its grain goes on there."""
_LITTLE = 1e-4
_FORMED = 3.0
"""How much more than what is seen it counts that areas and runs can form what is read."""

Groups = NDArray[np.intp]


def by_place(colours: Floats, pixels: Floats, apart: Floats, kind: JoinKind) -> Groups | None:
    """Two groups, the same terrain at all places; None where some place shows nothing to tell by.

    Parameters
    ----------
    colours : (n, h, w, 4) float64
        Tiles laid flat, as `seen_colours` gives them.
    pixels : (P, n, n) float64
        How far the same place of any two tiles differs; infinite from one to itself.
    apart : (n * P, n * P) float64
        How far any two places differ in colours; infinite from one to itself.
    kind : JoinKind
        One whose tiles meet in what lies on their sides: no cell joins.

    Returns
    -------
    groups : (n, P) intp
        0 or 1.
    """
    halves = np.stack([split(_longest_axis(one)[:, None])[:, 0] for one in pixels], axis=1)
    if (halves.min(axis=0) == halves.max(axis=0)).any():
        return None
    places = halves.shape[1]
    swaps = np.array([(0, *rest) for rest in product((0, 1), repeat=places - 1)])
    merits = _goes_on(colours, halves, swaps, kind) + _alike(apart, halves, swaps)
    merits += [_FORMED * covered_share(halves ^ swap, kind) for swap in swaps]
    best: Groups = halves ^ swaps[int(merits.argmax())]
    return best


def _longest_axis(apart: Floats) -> Floats:
    """Where each of n things lies on the line along which they differ most, (n,), given how far they are apart."""
    squares = np.where(np.isfinite(apart), apart, 0) ** 2
    centred = squares - squares.mean(axis=0) - squares.mean(axis=1)[:, None] + squares.mean()
    sizes, axes = np.linalg.eigh(-centred / 2)
    along: Floats = axes[:, -1] * np.sqrt(max(float(sizes[-1]), 0.0))
    return along


def _goes_on(colours: Floats, halves: Groups, swaps: Groups, kind: JoinKind) -> Floats:
    """How much nearer than others those sides are that say the same and lie on one another, from 1 down; (S,).

    Parameters
    ----------
    swaps : (S, P) int
        At which places the groups are swapped.
    """
    same, other = np.zeros(len(swaps)), np.zeros(len(swaps))
    for one, facing in ((0, 2), (1, 3)):
        digits = 2 ** np.arange(len(SIDES[kind][one]))
        places, opposite = list(SIDES[kind][one]), list(SIDES[kind][facing])
        table = _between(
            _means(_side(colours, one), halves[:, places] @ digits, 2 ** len(digits)),
            _means(_side(colours, facing), halves[:, opposite] @ digits, 2 ** len(digits)),
        )
        labels = np.arange(len(table))
        met = table[labels ^ (swaps[:, places] @ digits)[:, None], labels ^ (swaps[:, opposite] @ digits)[:, None]]
        there = np.isfinite(met)
        mine = np.where(there, met, 0).sum(axis=1)
        rest = np.nansum(table) - mine
        same += mine / np.maximum(there.sum(axis=1), 1) + _LITTLE
        other += rest / np.maximum(np.isfinite(table).sum() - there.sum(axis=1), 1) + _LITTLE
    merit: Floats = 1 - same / other
    return merit


def _side(colours: Floats, side: int) -> Floats:
    """What lies along a side of tiles and a little behind it, (n, length * 8), from the left or from above."""
    inward = (colours, colours[:, :, ::-1].swapaxes(1, 2), colours[:, ::-1], colours.swapaxes(1, 2))[side]
    deep = max(1, round(inward.shape[1] / _DEEP))
    return np.concatenate([inward[:, 0], 2 * inward[:, :deep].mean(axis=1)], axis=-1).reshape(len(colours), -1)


def _means(seen: Floats, numbers: Groups, count: int) -> Floats:
    """The mean of those that have each number, (count, F); not a number where none has."""
    belongs = (numbers == np.arange(count)[:, None]).astype(np.float64)
    many = belongs.sum(axis=1)[:, None]
    return np.where(many > 0, belongs @ seen / np.maximum(many, 1), np.nan)


def _between(ones: Floats, others: Floats) -> Floats:
    distances: Floats = np.abs(ones[:, None] - others[None]).mean(axis=-1)
    return distances


def _alike(apart: Floats, halves: Groups, swaps: Groups) -> Floats:
    """How much nearer in colours places of one group are than those of two, mean over pairs of places; (S,)."""
    count, places = halves.shape
    distances = np.where(np.isfinite(apart), apart, 0).reshape(count, places, count, places)
    nearer = np.zeros((places, places))
    for one, other in ((p, q) for p in range(places) for q in range(p)):
        between, same = distances[:, one, :, other], halves[:, one][:, None] == halves[:, other]
        nearer[one, other] = (between[~same].mean() - between[same].mean()) / (between.mean() + _LITTLE)
    signs = 1 - 2 * swaps
    merit: Floats = np.einsum("sp,pq,sq->s", signs, nearer, signs) * 2 / (places * (places - 1))
    return merit
