"""Blocks of cells that may be a set: those in which two groups of places make nearly all combinations.

Every block of a usual size, every other row or column of one, and runs that break over lines are split into two groups
of places, which takes little. Which of them are sets is for a closer look (`find`) to say.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.coverage import is_formed
from knitground.core.joins.look import Floats, place_features, place_windows
from knitground.core.joins.sets import JoinKind

NEARLY = 0.78
"""The share of all combinations that has to show."""
LOOKED_AT = 24
_BLOCKS: dict[JoinKind, tuple[tuple[int, int], ...]] = {
    "corner": ((4, 4), (8, 2), (2, 8), (16, 1), (1, 16), (5, 3), (3, 5), (15, 1), (6, 3), (7, 2)),
    "edge": ((4, 4), (8, 2), (2, 8), (16, 1), (1, 16), (5, 3), (3, 5), (15, 1)),
    "full": ((8, 6), (6, 8), (12, 4), (7, 7), (11, 5), (10, 5), (16, 3), (47, 1), (48, 1)),
}
"""Columns and rows in which sheets hold sets of two terrains."""
KINDS = tuple(_BLOCKS)
_BROKEN = 0.85
_ALIKE = 4
_STEPS = ((1, 1), 1.0), ((1, 2), _BROKEN), ((2, 1), _BROKEN)
"""Each row and column, or every other of one where a variant lies after each tile; and how usual that is."""
_RUNS: dict[JoinKind, tuple[int, ...]] = {"corner": (16, 15), "edge": (16, 15), "full": (47, 48)}
"""How many tiles lie one after another where such sets go on in the next line."""
_FORMED = np.array([is_formed(tuple(number >> place & 1 for place in range(8))) for number in range(256)])
_WHOLE = int(_FORMED.sum())
_HELD = 0.8
_ROUNDS = 3
_SQUARED = 5
_AT_ONCE = 64


class Likely(NamedTuple):
    """Tiles that may be a set of a kind, by their numbers in reading order, and how likely they look."""

    kind: JoinKind
    tiles: NDArray[np.intp]
    score: float


def features_of(colours: Floats, kind: JoinKind) -> Floats:
    """What the places of each tile show.

    Parameters
    ----------
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    kind : JoinKind

    Returns
    -------
    features : (n, P, F) float64
    """
    windows = place_windows(kind, *colours.shape[1:3])
    return place_features(colours, windows).reshape(len(colours), len(windows), -1)


def likely_blocks(kind: JoinKind, number: NDArray[np.intp], features: Floats) -> Iterator[Likely]:
    """The blocks, and runs that break over lines, in which two groups of places make nearly all combinations.

    Parameters
    ----------
    kind : JoinKind
    number : (R, C) intp
        The number of the tile in each cell, -1 for none.
    features : (n, P, F) float64
    """
    for tiles, usual in places_of(kind, number):
        for first in range(0, len(tiles), _AT_ONCE):
            some = tiles[first : first + _AT_ONCE]
            every, clear = halved(features, some)
            shares = np.array(
                [covered_share(labels[mine >= 0], kind) for mine, labels in zip(some, every, strict=True)]
            )
            if kind == "full" and (hidden := shares < NEARLY).any():
                every[hidden], clear[hidden], shares[hidden] = _halved_by_place(features, some[hidden])
            for mine, labels, apart, share in zip(some, every, clear, shares.tolist(), strict=True):
                if share >= NEARLY:
                    # Cells that show what others show already are likely to belong to something else.
                    alone = len(_different(labels[mine >= 0])) / np.count_nonzero(mine >= 0)
                    yield Likely(kind, mine[mine >= 0], float(share * alone * apart * usual))


def places_of(kind: JoinKind, number: NDArray[np.intp]) -> Iterator[tuple[NDArray[np.intp], float]]:
    """The tiles of all nearly full blocks of a size, then of runs over line breaks; and how usual such are.

    Parameters
    ----------
    kind : JoinKind
    number : (R, C) intp
        The number of the tile in each cell, -1 for none.

    Yields
    ------
    tiles : (B, m) intp
        -1 where there is none.
    usual : float
        From 0 to 1.
    """
    for wide, high in _BLOCKS[kind]:
        for (down, across), usual in _STEPS:
            tall, broad = (high - 1) * down + 1, (wide - 1) * across + 1
            if broad <= number.shape[1] and tall <= number.shape[0]:
                blocks = np.lib.stride_tricks.sliding_window_view(number, (tall, broad))[..., ::down, ::across]
                blocks = blocks.reshape(-1, high * wide)
                yield blocks[(blocks >= 0).sum(axis=1) >= _HELD * wide * high], usual
    rows = np.nonzero(number >= 0)[0]
    for long in _RUNS[kind]:
        if long < len(rows):
            runs = np.lib.stride_tricks.sliding_window_view(np.arange(len(rows)), long)
            yield runs[rows[runs[:, 0]] != rows[runs[:, -1]]], _BROKEN


def halved(features: Floats, tiles: NDArray[np.intp]) -> tuple[NDArray[np.intp], Floats]:
    """The places of each block in two groups, and how far these are apart; by two means along the longest axis.

    Parameters
    ----------
    features : (n, P, F) float64
    tiles : (B, m) intp
        The tiles of each block; -1 for none.

    Returns
    -------
    labels : (B, m, P) intp
    apart : (B,) float64
        From 0 to 1.
    """
    count, places, numbers = len(tiles), features.shape[1], features.shape[2]
    there = np.repeat((tiles >= 0).astype(np.float64), places, axis=1)
    flat = features[tiles].reshape(count, -1, numbers)
    total = there.sum(axis=1)[:, None]
    centred = (flat - (there[:, None] @ flat / total[:, None])) * there[..., None]
    axis = _longest(np.swapaxes(centred, 1, 2) @ centred)
    upper = ((centred @ axis)[..., 0] > 0).astype(np.float64) * there
    for _ in range(_ROUNDS):
        low, high = _mean(centred, there - upper), _mean(centred, upper)
        middle = ((high**2).sum(axis=1) - (low**2).sum(axis=1)) / 2
        upper = ((centred @ (high - low)[..., None])[..., 0] > middle[:, None]) * there
    between = (_mean(centred, there - upper) ** 2).sum(axis=1) * (there - upper).sum(axis=1)
    between += (_mean(centred, upper) ** 2).sum(axis=1) * upper.sum(axis=1)
    apart = between / ((centred**2).sum(axis=(1, 2)) + 1e-12)
    return upper.reshape(count, -1, places).astype(np.intp), apart


def _longest(spread: Floats) -> Floats:
    """About the longest axis of each of some scatter matrices, (B, F, F): (B, F, 1); by squaring them some times."""
    power = spread
    for _ in range(_SQUARED):
        power = power @ power
        power = power / np.maximum(np.trace(power, axis1=1, axis2=2)[:, None, None], 1e-300)
    widest = np.diagonal(power, axis1=1, axis2=2).argmax(axis=1)
    axis: Floats = np.take_along_axis(power, widest[:, None, None], axis=2)
    return axis


def _halved_by_place(features: Floats, tiles: NDArray[np.intp]) -> tuple[NDArray[np.intp], Floats, Floats]:
    """Each place in two groups of its own, where cliffs or shades hide the terrain at some; and how much is covered.

    Which group is which terrain isn't known then, so different combinations are counted.
    """
    halves = [halved(features[:, place : place + 1], tiles) for place in range(features.shape[1])]
    labels = np.concatenate([half[0] for half in halves], axis=2)
    shares = [min(1.0, len(_different(one[mine >= 0])) / _WHOLE) for one, mine in zip(labels, tiles, strict=True)]
    return labels, np.mean([half[1] for half in halves], axis=0), np.array(shares)


def _mean(flat: Floats, weights: Floats) -> Floats:
    """The weighted mean of each block's rows, (B, F)."""
    sums = (weights[:, None] @ flat)[:, 0]
    mean: Floats = sums / np.maximum(weights.sum(axis=1)[:, None], 1e-9)
    return mean


def covered_share(labels: NDArray[np.intp], kind: JoinKind, terrains: int = 2) -> float:
    """The share of a kind's combinations that some row of labels shows, whichever terrain lies on which.

    Parameters
    ----------
    labels : (m, P) intp
    kind : JoinKind
    terrains : int
    """
    numbers = _different(labels, terrains)
    if kind != "full":
        return float(min(1.0, len(numbers) / terrains ** labels.shape[1]))
    return float(min(1.0, max(_FORMED[numbers].sum(), _FORMED[255 - numbers].sum()) / _WHOLE))


def _different(labels: NDArray[np.intp], terrains: int = 2) -> NDArray[np.intp]:
    """The combinations among rows of labels, each as one number with the first label as its lowest digit."""
    return np.asarray(np.unique(labels @ terrains ** np.arange(labels.shape[1])))


def best_apart(likely: list[Likely], count: int, most: int = LOOKED_AT) -> list[Likely]:
    """The best, of those that overlap by more than half only the better few: they differ in what they leave out."""
    chosen: list[Likely] = []
    taken = np.zeros((most, count), dtype=np.bool_)
    for one in likely:
        if (taken[: len(chosen), one.tiles].sum(axis=1) > 0.5 * len(one.tiles)).sum() < _ALIKE:
            taken[len(chosen), one.tiles] = True
            chosen.append(one)
        if len(chosen) == most:
            break
    return chosen
