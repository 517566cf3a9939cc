"""Reading the labels of tiles off their pixels.

A label is a terrain at a place of a tile, so the pixels near that place are looked at. Places are first grouped by
the colours and grain they show. Then each goes to the group that it is nearest to, compared pixel by pixel with
the same place of other tiles, as tiles of one terrain often share their grain. A real terrain shows at all places
alike: what only shows at some of them is the shade, rim or cliff of another, and joins it. Where that leaves most in
doubt, or isometric art stands on clear ground, how far the art reaches is asked instead (`reach`); of cell sets on
clear ground, where it draws back from the sides (`rims`).

References
----------
J. H. Ward, "Hierarchical grouping to optimize an objective function", J. Am. Stat. Assoc. 58 (1963).
P. J. Rousseeuw, "Silhouettes", J. Comput. Appl. Math. 20 (1987).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.joins.by_place import MOST as MOST_BY_PLACE
from knitground.core.joins.by_place import by_place
from knitground.core.joins.look import (
    Floats,
    pixel_distances,
    place_features,
    place_windows,
    seen_colours,
)
from knitground.core.joins.nooks import read_nooks
from knitground.core.joins.reach import in_doubt, read_reach
from knitground.core.joins.rims import read_rims
from knitground.core.joins.sets import PLACES, JoinKind
from knitground.core.joins.sides import Sides
from knitground.core.sheet.cut import TileShape
from knitground.core.sheet.enlarged import tiles_enlarged

MOST_TILES = 600
MOST_INFERRED = 6
_ROUNDS = 4
_FAR, _OF_ONE = 2.0, 0.8
_FEW_INKS, _FEW_COMBINATIONS = 4, 3
_WINDOWS = (1.0, 0.85), (1.6, 0.9)
"""How wide windows are through which each place is split by itself, wider ones for few inks alone, and how clearly the
groups must differ at each; measured on many sets."""
_CLEAR_AT_ALL, _OF_FEW_INKS = 0.5, 0.1
"""How clearly they must differ in colours at all places, of many and of few inks."""
_PARTS = (0, 1, 2)
"""How many more groups than terrains are tried, to be joined afterwards."""

Groups = NDArray[np.intp]


class Inferred(NamedTuple):
    """Labels read off pixels.

    Attributes
    ----------
    labels : (n, P) intp
        A number from 0 for the terrain at each place.
    confidence : (n,) float64
        From 0 to 1: how clearly the least clear place of a tile belongs to its terrain.
    nothing : int, optional
        The terrain that is known to be none, whatever may be seen where it lies.
    """

    labels: Groups
    confidence: Floats
    nothing: int | None = None


@dataclass(frozen=True)
class _Sheet:
    """What is known of the places of n tiles."""

    features: Floats
    apart: Floats
    pixels: Floats
    places: int
    by_place: Groups | None
    """Two groups that each place was split in by itself, where all of them are clear."""
    few_inks: bool


@dataclass(frozen=True)
class _Reading:
    """One way to read the labels, and how well it stands: for its own number of terrains, and among all."""

    groups: Groups
    merit: float
    among_all: float


def infer_labels(
    tiles: NDArray[np.uint8],
    kind: JoinKind,
    *,
    shape: TileShape = "square",
    terrains: int | None = None,
    only_colours: bool = False,
    progress: Callable[[float], None] = lambda share: None,
) -> Inferred:
    """Labels for tiles, by what they show.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        RGBA, straight alpha.
    kind : JoinKind
    shape : TileShape
        Isometric tiles are diamonds that fill their rectangle; their north-west corner is the one on top.
    terrains : int, optional
        How many there are, nothing (transparent) being one of them; found out if not given, up to `MOST_INFERRED`.
    only_colours : bool
        Whether what colours leave in doubt stays so, instead of being read by how far the art reaches.
    progress : callable, optional
        Is told the share done from 0 to 1; may raise to stop.

    Raises
    ------
    BadRequest
        If there are too few or too many tiles, or more terrains asked for than there are places.
    """
    places = len(PLACES[kind])
    if not 2 <= len(tiles) <= MOST_TILES:
        raise BadRequest(f"{len(tiles)} cells are out of range; choose from 2 to {MOST_TILES} to read labels off.")
    if terrains is not None and not 1 <= terrains <= min(32, len(tiles) * places):
        raise BadRequest(f"{terrains} terrains can't be told apart in {len(tiles)} cells; give fewer.")
    times = tiles_enlarged(tiles)
    tiles = tiles[:, ::times, ::times]
    sheet = _look_at(tiles, kind, shape, places)
    if sheet.apart[np.isfinite(sheet.apart)].max() < 1e-6:
        return Inferred(np.zeros((len(tiles), places), dtype=np.intp), np.ones(len(tiles)))
    counts = [terrains] if terrains is not None and terrains > 1 else range(2, MOST_INFERRED + 1)
    groups = _best(sheet, list(counts), progress)
    _, margins = _nearest(sheet, groups, int(groups.max()) + 1)
    clear = margins.reshape(-1, places).min(axis=1)
    read = Inferred(_in_order(groups).reshape(-1, places), clear * _trust(groups.reshape(-1, places)))
    if only_colours or terrains not in (None, 2):
        return read
    if kind == "cell":
        return (shape == "square" and _by_rims(tiles, read.labels[:, -1])) or read
    # Of few inks patterns repeat to the pixel wherever lines run alike, so that places look clearer than they are.
    if not in_doubt(tiles, shape, read.confidence if sheet.few_inks else clear):
        return read
    halves = read.labels if read.labels.max() == 1 else _best(sheet, [2], lambda share: None).reshape(-1, places)
    return _by_reach(tiles, kind, shape, halves) or read


def _trust(grid: Groups) -> float:
    """How far a reading can be trusted, from 0 to 1: a terrain shows at all places, unless few tiles were chosen."""
    return 1.0 if len(np.unique(grid, axis=0)) <= _FEW_COMBINATIONS else _spread(grid) ** 2


def _by_rims(tiles: NDArray[np.uint8], middles: NDArray[np.intp]) -> Inferred | None:
    """Labels by where art draws back, if all that lies within is of one terrain by the colours of the middles, (n,)."""
    rims = read_rims(tiles)
    if rims is None:
        return None
    within = np.bincount(middles[rims.labels.all(axis=1)])
    if within.max(initial=0) < _OF_ONE * within.sum():
        return None
    # What hangs down from a rim lies below it and nowhere else: it is no tile like others, and left to be looked at.
    sides = Sides(tiles)
    hanging = sides.misfits(rims.labels[:, 4:8] == 1, np.arange(len(tiles))).hanging
    rims.labels[hanging], rims.sure[hanging] = 0, 0.0
    # Art that is half bare along a side seems to draw back from it.
    rest = np.flatnonzero(~hanging)
    nooks = read_nooks(sides, rims.labels, rest, rims.labels[rest], rest)
    inside = np.isfinite(nooks.apart)
    rims.labels[rest[inside]] = nooks.labels[inside]
    rims.sure[rest[inside]] = np.maximum(rims.sure[rest[inside]], 1 - nooks.apart[inside])
    labels = _in_order(rims.labels.ravel()).reshape(rims.labels.shape)
    return Inferred(labels, rims.sure, nothing=int(labels[rims.labels == 0][0]))


def _by_reach(tiles: NDArray[np.uint8], kind: JoinKind, shape: TileShape, halves: Groups) -> Inferred | None:
    reached = read_reach(tiles, kind, shape, halves)
    if reached is None:
        return None
    return Inferred(_in_order(reached.labels.ravel()).reshape(reached.labels.shape), reached.sure)


def _look_at(tiles: NDArray[np.uint8], kind: JoinKind, shape: TileShape, places: int) -> _Sheet:
    from scipy.spatial.distance import cdist

    colours = seen_colours(tiles, shape)
    high, across = colours.shape[1:3]
    windows = place_windows(kind, high, across)
    features = place_features(colours, windows)
    apart = cdist(features, features)
    np.fill_diagonal(apart, np.inf)
    pixels = pixel_distances(colours, windows)
    few = len(np.unique(np.ascontiguousarray(tiles).view(np.uint32))) <= _FEW_INKS
    sheet = _Sheet(features, apart, pixels, places, None, few)
    if kind == "cell" or len(tiles) > MOST_BY_PLACE:
        return sheet
    for wide, least in _WINDOWS if few else _WINDOWS[:1]:
        seen = pixels if wide == 1 else pixel_distances(colours, place_windows(kind, high, across, wide))
        alone = by_place(colours, seen, apart, kind)
        if alone is not None and _all_clear(replace(sheet, pixels=seen), alone, least):
            return replace(sheet, by_place=alone)
    return sheet


def _all_clear(sheet: _Sheet, groups: Groups, least: float) -> bool:
    """Whether each place is in one of two groups that differ so much there at least, and in colours at all places."""
    clear = min(_silhouette(apart, mine) for apart, mine in zip(sheet.pixels, groups.T, strict=True))
    in_colours = _OF_FEW_INKS if sheet.few_inks else _CLEAR_AT_ALL
    return clear >= least and _silhouette(sheet.apart, groups.ravel()) >= in_colours


def _best(sheet: _Sheet, counts: Sequence[int], progress: Callable[[float], None]) -> Groups:
    """The reading that stands best, over all numbers of terrains that may be."""
    from scipy.cluster.hierarchy import fcluster, linkage

    tree = linkage(sheet.features, "ward")
    best: _Reading | None = None
    for done, count in enumerate(counts):
        progress(done / len(counts))
        mine: _Reading | None = None
        for more in _PARTS:
            groups = _settled(sheet, fcluster(tree, count + more, "maxclust").astype(np.intp) - 1, count + more)
            groups = _joined(groups.reshape(-1, sheet.places), count).ravel()
            reading = _judged(sheet, groups, count, more)
            if mine is None or reading.merit > mine.merit:
                mine = reading
        if count == 2 and sheet.by_place is not None:
            alone = _judged(sheet, sheet.by_place.ravel(), count, 0)
            mine = alone if sheet.few_inks or mine is None or alone.merit > mine.merit else mine
        if mine is not None and (best is None or mine.among_all > best.among_all):
            best = mine
    assert best is not None  # some number of terrains is always tried
    return best.groups


def _settled(sheet: _Sheet, groups: Groups, count: int) -> Groups:
    """Groups after each place has gone to the one that it is nearest to, a few times."""
    for _ in range(_ROUNDS):
        new, _ = _nearest(sheet, groups, count)
        if np.array_equal(new, groups):
            break
        groups = new
    return groups


def _nearest(sheet: _Sheet, groups: Groups, count: int) -> tuple[Groups, Floats]:
    """The group whose nearest members are nearest to each place, and how much farther the next group is."""
    costs = np.full((len(groups), count), _FAR)
    same = np.full((len(groups) // sheet.places, sheet.places, count), np.nan)
    grid = groups.reshape(-1, sheet.places)
    for group in range(count):
        # Distances are the same both ways, and rows are much quicker to take than columns.
        costs[:, group] = _mean_of_least(sheet.apart[groups == group].T, 6, _FAR)
        for place in range(sheet.places):
            same[:, place, group] = _mean_of_least(sheet.pixels[place][:, grid[:, place] == group], 3, np.nan)
    alike = same.reshape(len(groups), count)
    # Where a group has no member at the same place, its colours have to do.
    total = costs + np.where(np.isnan(alike), costs, alike)
    order = np.sort(total, axis=1)
    margins = 1 - order[:, 0] / np.maximum(order[:, 1], 1e-9) if count > 1 else np.ones(len(groups))
    return total.argmin(axis=1), margins


def _mean_of_least(distances: Floats, most: int, otherwise: float) -> Floats:
    """Mean of the few least distances in each row; `otherwise` for a row without any."""
    few = min(most, distances.shape[1])
    if not few:
        return np.full(len(distances), otherwise)
    least = np.partition(distances, few - 1, axis=1)[:, :few]
    known = np.isfinite(least)
    sums = np.where(known, least, 0).sum(axis=1)
    return np.where(known.any(axis=1), sums / np.maximum(known.sum(axis=1), 1), otherwise)


def _joined(grid: Groups, count: int) -> Groups:
    """Joins groups that show at some places only to those that show at the others, until there are few enough."""
    while True:
        names = np.unique(grid)
        if len(names) <= count:
            return np.searchsorted(names, grid)
        pairs = [(one, other) for place, one in enumerate(names) for other in names[:place]]
        one, other = max(pairs, key=lambda pair: _spread(np.where(grid == pair[0], pair[1], grid)))
        grid = np.where(grid == one, other, grid)


def _judged(sheet: _Sheet, groups: Groups, count: int, more: int) -> _Reading:
    if len(np.unique(groups)) < 2:
        return _Reading(groups, -np.inf, -np.inf)
    clear, grid = _silhouette(sheet.apart, groups), groups.reshape(-1, sheet.places)
    merit = clear - 0.8 * (1 - _spread(grid)) - 0.05 * more
    return _Reading(groups, merit, clear - 0.8 * (1 - _evenness(grid)) - 0.02 * count)


def _silhouette(apart: Floats, groups: Groups) -> float:
    """How much nearer places are to their own group than to the next, each group counting alike."""
    names = np.unique(groups)
    belongs = (groups[:, None] == names).astype(apart.dtype)
    # What is not finite is each place itself, at no distance.
    sums = np.where(np.isfinite(apart), apart, 0) @ belongs
    means = sums / np.maximum(belongs.sum(axis=0) - belongs, 1)
    mine = np.searchsorted(names, groups)[:, None]
    own = np.take_along_axis(means, mine, axis=1)[:, 0]
    np.put_along_axis(means, mine, np.inf, axis=1)
    other = means.min(axis=1)
    shares = (other - own) / np.maximum(np.maximum(other, own), 1e-9)
    return float(np.mean([shares[groups == name].mean() for name in names]))


def _spread(grid: Groups) -> float:
    """Whether each group shows at every place: 1 where it does, less where it is rare at some."""
    return _over_places(grid, lambda counts, mean: np.minimum(1, (counts.min(axis=0) + 0.8 * np.sqrt(mean)) / mean))


def _evenness(grid: Groups) -> float:
    """Whether each group shows at all places about as often: by the chi-squared statistic, from 1 down."""

    def even(counts: NDArray[np.intp], mean: Floats) -> Floats:
        """How evenly each group shows at the places.

        Parameters
        ----------
        counts : (places, groups) intp
        mean : (groups,) float64

        Returns
        -------
        merit : (groups,) float64
        """
        free = len(counts) - 1
        surprise = ((counts - mean) ** 2 / mean).sum(axis=0)
        merit: Floats = np.exp(-np.maximum(0, surprise - 2 * free) / (8 * free))
        return merit

    return _over_places(grid, even)


def _over_places(grid: Groups, judge: Callable[[NDArray[np.intp], Floats], Floats]) -> float:
    """Mean judgement of how often each group shows at each place; corners and edges are each compared among themselves.

    Parameters
    ----------
    judge : callable
        Given (4, G) counts and their (G,) means, gives (G,) from 0 to 1. A group that shows at none of the four is
        judged 0.
    """
    groups = np.unique(grid)
    merits = []
    # The middle is compared with nothing: what tiles are there need not be what lies round them.
    for first in range(0, grid.shape[1] - 3, 4):
        counts = np.stack([np.bincount(column, minlength=int(groups[-1]) + 1) for column in grid.T[first : first + 4]])
        counts = counts[:, groups]
        mean = counts.mean(axis=0)
        merits.append(np.where(mean > 0, judge(counts, np.maximum(mean, 1e-9)), 0))
    return float(np.mean(merits))


def _in_order(groups: Groups) -> Groups:
    """The same groups, numbered in the order in which they first show."""
    names, first = np.unique(groups, return_index=True)
    order = np.empty(int(names.max()) + 1, dtype=np.intp)
    order[names[np.argsort(first)]] = np.arange(len(names))
    return order[groups]
