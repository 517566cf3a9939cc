"""Finding sets on a whole cut: blocks, rows and runs of cells that together show every combination of two terrains.

What each tile shows near its corners and edges is worked out once. Then every block of a usual size is split into
two groups of places, which takes little, and those in which nearly all combinations come out different are looked at
closely, as `infer_labels` reads them. Of blocks that overlap the clearest is kept. A sheet that holds the combinations
of more terrains in one piece is tried as a whole.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.joins.coverage import is_formed
from knitground.core.joins.infer import MOST_INFERRED, MOST_TILES, infer_labels
from knitground.core.joins.look import Floats, place_features, place_windows, seen_colours
from knitground.core.joins.reach import alike, reached_sides, read_standing, split, stands_clear
from knitground.core.joins.sets import JoinKind
from knitground.core.sheet.cut import TileShape

_BLOCKS: dict[JoinKind, tuple[tuple[int, int], ...]] = {
    "corner": ((4, 4), (8, 2), (2, 8), (16, 1), (1, 16), (5, 3), (3, 5), (15, 1), (6, 3), (7, 2)),
    "edge": ((4, 4), (8, 2), (2, 8), (16, 1), (1, 16), (5, 3), (3, 5), (15, 1)),
    "full": ((8, 6), (6, 8), (12, 4), (7, 7), (11, 5), (10, 5), (16, 3), (47, 1), (48, 1)),
}
"""Columns and rows in which sheets hold sets of two terrains."""
_BROKEN = 0.85
_RUNS: dict[JoinKind, tuple[int, ...]] = {"corner": (16, 15), "edge": (16, 15), "full": (47, 48)}
"""How many tiles lie one after another where such sets go on in the next line."""
_FORMED = np.array([is_formed(tuple(number >> place & 1 for place in range(8))) for number in range(256)])
_WHOLE = int(_FORMED.sum())
_HELD = 0.8
_NEARLY = 0.78
_LOOKED_AT = 24
_ROUNDS = 3
_AT_ONCE = 64
_FEW_OF_MORE = 60
_SURE = 0.45
_STANDING: tuple[JoinKind, ...] = ("edge", "corner")
_STANDING_LIKELY, _STANDING_AT = 0.2, 12
_MOTLEY = 0.6
_EXPLAINED = (2.6, 2.72, 3.0, 3.4), (0.0, 0.45, 0.7, 1.0)
"""How well labels have to explain a family, and cover it, for how much confidence; measured on many sheets."""


class Likely(NamedTuple):
    """Tiles that may be a set of a kind, by their numbers in reading order, and how likely they look."""

    kind: JoinKind
    tiles: NDArray[np.intp]
    score: float


@dataclass(frozen=True)
class FoundSet:
    """A set that was found.

    Attributes
    ----------
    kind : JoinKind
    cells : (N, 2) intp
        Column and row of each tile.
    labels : (N, P) intp
        A number from 0 for the terrain at each place.
    sure : (N,) float64
        How clearly each tile's labels could be told, from 0 to 1.
    covered : float
        The share of its combinations that some tile shows.
    confidence : float
        How likely it is that these cells are a set.
    """

    kind: JoinKind
    cells: NDArray[np.intp]
    labels: NDArray[np.intp]
    sure: Floats
    covered: float
    confidence: float


def find_sets(
    tiles: NDArray[np.uint8],
    held: NDArray[np.bool_],
    *,
    shape: TileShape = "square",
    progress: Callable[[float], None] = lambda share: None,
) -> list[FoundSet]:
    """The sets of a cut, the most certain first; no two share a cell.

    Parameters
    ----------
    tiles : (R, C, h, w, 4) uint8
        RGBA, straight alpha.
    held : (R, C) bool
        Which cells hold a tile.
    shape : TileShape
    progress : callable, optional
        Is told the share done from 0 to 1; may raise to stop.
    """
    spots = np.argwhere(held)
    if len(spots) < 12:
        return []
    number = np.full(held.shape, -1, dtype=np.intp)
    number[held] = np.arange(len(spots))
    colours = seen_colours(tiles[held], shape)
    features = {kind: _features(colours, kind) for kind in _BLOCKS}
    progress(0.2)
    likely = sorted(
        (one for kind in _BLOCKS for one in _likely(kind, number, features[kind])), key=lambda one: -one.score
    )
    progress(0.4)
    read: list[FoundSet] = []
    standing = stands_clear(tiles[held], shape)
    for done, one in enumerate(_apart(likely, len(spots))):
        progress(0.4 + 0.4 * done / _LOOKED_AT)
        found = _read(tiles[held], spots, one.tiles, one.kind, shape, 2, only_colours=standing)
        if found is not None:
            read.append(found)
    if standing:
        for done, found in enumerate(_standing(tiles[held], spots, number)):
            progress(0.8 + 0.2 * done / _STANDING_AT)
            read.append(found)
    read += _of_more(tiles[held], spots, held, shape)
    progress(1.0)
    return _kept(read)


def _features(colours: Floats, kind: JoinKind) -> Floats:
    """What the places of each tile show, (n, P, F)."""
    windows = place_windows(kind, *colours.shape[1:3])
    return place_features(colours, windows).reshape(len(colours), len(windows), -1)


def _likely(kind: JoinKind, number: NDArray[np.intp], features: Floats) -> Iterator[Likely]:
    """The blocks, and runs that break over lines, in which two groups of places make nearly all combinations."""
    for tiles, usual in _places(kind, number):
        for first in range(0, len(tiles), _AT_ONCE):
            some = tiles[first : first + _AT_ONCE]
            for mine, labels, apart in zip(some, *_halved(features, some), strict=True):
                labels = labels[mine >= 0]
                share = _covered(labels, kind)
                if share >= _NEARLY:
                    # Cells that show what others show already are likely to belong to something else.
                    alone = len(_different(labels)) / len(labels)
                    yield Likely(kind, mine[mine >= 0], float(share * alone * apart * usual))


def _places(kind: JoinKind, number: NDArray[np.intp]) -> Iterator[tuple[NDArray[np.intp], float]]:
    """The tiles, (B, m), of all nearly full blocks of a size, then of runs over line breaks; and how usual such are.

    A tile is -1 where there is none.
    """
    for wide, high in _BLOCKS[kind]:
        if wide <= number.shape[1] and high <= number.shape[0]:
            blocks = np.lib.stride_tricks.sliding_window_view(number, (high, wide)).reshape(-1, high * wide)
            yield blocks[(blocks >= 0).sum(axis=1) >= _HELD * wide * high], 1.0
    rows = np.nonzero(number >= 0)[0]
    for long in _RUNS[kind]:
        if long < len(rows):
            runs = np.lib.stride_tricks.sliding_window_view(np.arange(len(rows)), long)
            yield runs[rows[runs[:, 0]] != rows[runs[:, -1]]], _BROKEN


def _halved(features: Floats, tiles: NDArray[np.intp]) -> tuple[NDArray[np.intp], Floats]:
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
    axis = np.linalg.eigh(np.swapaxes(centred, 1, 2) @ centred)[1][..., -1:]
    upper = ((centred @ axis)[..., 0] > 0).astype(np.float64) * there
    for _ in range(_ROUNDS):
        low, high = _mean(centred, there - upper), _mean(centred, upper)
        middle = ((high**2).sum(axis=1) - (low**2).sum(axis=1)) / 2
        upper = ((centred @ (high - low)[..., None])[..., 0] > middle[:, None]) * there
    between = (_mean(centred, there - upper) ** 2).sum(axis=1) * (there - upper).sum(axis=1)
    between += (_mean(centred, upper) ** 2).sum(axis=1) * upper.sum(axis=1)
    apart = between / ((centred**2).sum(axis=(1, 2)) + 1e-12)
    return upper.reshape(count, -1, places).astype(np.intp), apart


def _mean(flat: Floats, weights: Floats) -> Floats:
    """The weighted mean of each block's rows, (B, F)."""
    sums = (weights[:, None] @ flat)[:, 0]
    mean: Floats = sums / np.maximum(weights.sum(axis=1)[:, None], 1e-9)
    return mean


def _covered(labels: NDArray[np.intp], kind: JoinKind, terrains: int = 2) -> float:
    """The share of a kind's combinations that some row of labels shows, whichever terrain lies on which."""
    numbers = _different(labels, terrains)
    if kind != "full":
        return float(min(1.0, len(numbers) / terrains ** labels.shape[1]))
    return float(min(1.0, max(_FORMED[numbers].sum(), _FORMED[255 - numbers].sum()) / _WHOLE))


def _different(labels: NDArray[np.intp], terrains: int = 2) -> NDArray[np.intp]:
    """The combinations among rows of labels, each as one number with the first label as its lowest digit."""
    return np.asarray(np.unique(labels @ terrains ** np.arange(labels.shape[1])))


def _apart(likely: list[Likely], count: int, most: int = _LOOKED_AT) -> list[Likely]:
    """The best, of those that overlap by more than half only the better few."""
    chosen: list[Likely] = []
    taken = np.zeros((most, count), dtype=np.bool_)
    for one in likely:
        if (taken[: len(chosen), one.tiles].sum(axis=1) > 0.5 * len(one.tiles)).sum() < 2:
            taken[len(chosen), one.tiles] = True
            chosen.append(one)
        if len(chosen) == most:
            break
    return chosen


def _standing(tiles: NDArray[np.uint8], spots: NDArray[np.intp], number: NDArray[np.intp]) -> Iterator[FoundSet]:
    """Sets of art that stands on clear diamonds: what reaches each side is looked at first, then all that it covers."""
    likely = sorted(_reaching(tiles, number), key=lambda one: -one.score)
    for one in _apart(likely, len(tiles), _STANDING_AT):
        reached = read_standing(tiles[one.tiles], one.kind)
        covered = _covered(reached.labels, one.kind)
        if covered >= _NEARLY:
            confidence = round(float(np.interp(reached.merit + covered, *_EXPLAINED)), 3)
            yield FoundSet(one.kind, spots[one.tiles][:, ::-1], reached.labels, reached.sure, covered, confidence)


def _reaching(tiles: NDArray[np.uint8], number: NDArray[np.intp]) -> Iterator[Likely]:
    """Blocks in one set of colours, of whose tiles about half reach each side, nearly all in other combinations."""
    amounts = tiles[..., 3] / 255.0
    spread = _spread_of_colours(tiles, amounts)
    for kind in _STANDING:
        # The last tile stands for all that are not there.
        shown = np.pad(reached_sides(amounts, kind), ((0, 0), (0, 1), (0, 0)))
        for blocks, usual in _places(kind, number):
            if usual < 1 or not len(blocks):
                continue
            seen = shown[:, blocks]
            labels = split(seen)
            halves = 2 * np.minimum(labels.mean(axis=2), 1 - labels.mean(axis=2)).mean(axis=2)
            codes = np.sort(labels @ 2 ** np.arange(labels.shape[3]), axis=2)
            different = 1 + (np.diff(codes, axis=2) > 0).sum(axis=2)
            scores = (different / 16 * alike(seen, labels).mean(axis=2) * np.sqrt(halves)).max(axis=0)
            scores *= 1 - _MOTLEY * spread(blocks)
            for block, score in zip(blocks, scores.tolist(), strict=True):
                if score >= _STANDING_LIKELY:
                    yield Likely(kind, block[block >= 0], score)


def _spread_of_colours(tiles: NDArray[np.uint8], amounts: Floats) -> Callable[[NDArray[np.intp]], Floats]:
    """Tells how far the colours of the tiles of blocks, (B, m), lie apart against those of all; from 0 to 1."""
    much = amounts.sum(axis=(1, 2))[:, None]
    mean = (tiles[..., :3] * amounts[..., None]).sum(axis=(1, 2)) / np.maximum(much, 1e-9)
    moments = np.pad(np.concatenate([much, much * mean, much * mean**2], axis=1), ((0, 1), (0, 0)))

    def variance(sums: Floats) -> Floats:
        many = np.maximum(sums[..., :1], 1e-9)
        of_each: Floats = (sums[..., 4:] / many - (sums[..., 1:4] / many) ** 2).sum(axis=-1)
        return of_each

    whole = float(variance(moments.sum(axis=0))) + 1e-9
    return lambda blocks: np.minimum(1, variance(moments[blocks].sum(axis=1)) / whole)


def _read(
    tiles: NDArray[np.uint8],
    spots: NDArray[np.intp],
    mine: NDArray[np.intp],
    kind: JoinKind,
    shape: TileShape,
    terrains: int,
    *,
    only_colours: bool = False,
) -> FoundSet | None:
    """The set that some tiles make if their labels are read closely; None if they make none."""
    try:
        found = infer_labels(tiles[mine], kind, shape=shape, terrains=terrains, only_colours=only_colours)
    except BadRequest:
        return None
    count = int(found.labels.max()) + 1
    covered = _covered(found.labels, kind, max(2, count))
    if covered < _NEARLY or count < 2:
        return None
    confidence = round(float(covered * np.clip(found.confidence, 0, 1).mean()), 3)
    return FoundSet(kind, spots[mine][:, ::-1], found.labels, found.confidence, covered, confidence)


def _of_more(
    tiles: NDArray[np.uint8], spots: NDArray[np.intp], held: NDArray[np.bool_], shape: TileShape
) -> Iterator[FoundSet]:
    """Sets of three terrains and more: pieces of the sheet that hang together and are large enough."""
    from scipy import ndimage

    pieces, count = ndimage.label(held)
    for piece in range(1, count + 1):
        mine = np.flatnonzero(pieces[held] == piece)
        terrains = round(len(mine) ** 0.25)
        if _FEW_OF_MORE <= len(mine) <= MOST_TILES and 2 < terrains <= MOST_INFERRED:
            found = _read(tiles, spots, mine, "corner", shape, terrains)
            if found is not None:
                yield found


def _kept(read: list[FoundSet]) -> list[FoundSet]:
    """The most certain, of those that share cells the one with more of both."""
    kept: list[FoundSet] = []
    taken: set[tuple[int, ...]] = set()
    for found in sorted(read, key=lambda one: -one.confidence * np.sqrt(len(one.cells))):
        cells = set(map(tuple, found.cells.tolist()))
        if found.confidence >= _SURE and not cells & taken:
            kept.append(found)
            taken |= cells
    return sorted(kept, key=lambda one: -one.confidence)
