"""Sets with what shows the same: weaker sets, and single tiles wherever they lie on the sheet."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.found import FoundSet
from knitground.core.joins.infer import MOST_TILES
from knitground.core.joins.look import Floats, looks_of
from knitground.core.joins.strewn import but_strewn
from knitground.core.joins.variants import Matched, in_squares, match_variants

_GOOD_PART = 0.4
"""What share of a weaker set has to show the same."""


def with_variants(
    kept: list[FoundSet],
    others: list[FoundSet],
    tiles: NDArray[np.uint8],
    colours: Floats,
    number: NDArray[np.intp],
    progress: Callable[[float], None],
) -> list[FoundSet]:
    """The sets with what shows the same: weaker sets that do so for a good part, then single tiles that no other has.

    Parameters
    ----------
    kept, others : list of FoundSet
    tiles : (n, h, w, 4) uint8
        Those of the cut, straight alpha.
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    progress : callable
        Is told the share done from 0 to 1.
    """
    looks = looks_of(tiles)
    spots = np.argwhere(number >= 0)[:, ::-1]
    squares = in_squares(colours, tuple({one.kind for one in kept}))

    def matched(found: FoundSet, tiles: NDArray[np.intp], done: float, share: float) -> Matched:
        mine = tiles_of(found, number)
        return match_variants(
            squares, found.kind, mine, found.labels, tiles, lambda part: progress(done + part * share)
        )

    merged: list[FoundSet] = []
    for found in sorted(kept, key=lambda one: -len(one.cells) * one.confidence):
        for place, other in enumerate(merged):
            same = matched(other, tiles_of(found, number), 0.0, 0.0)
            # Plain tiles of the ground belong to all sets that lie on it.
            own = ~np.isin(tiles_of(found, number), tiles_of(other, number))
            if not own.any() or np.isfinite(same.apart)[own].mean() >= _GOOD_PART:
                merged[place] = _joined(other, tiles_of(found, number), same, number, spots, looks)
                break
        else:
            merged.append(found)
    free = np.setdiff1d(np.arange(len(colours)), np.concatenate([tiles_of(one, number) for one in [*merged, *others]]))
    matches = [
        but_strewn(one, matched(one, free, place / len(merged), 1 / len(merged)), free, tiles, number)
        for place, one in enumerate(merged)
    ]
    merged = each_to_nearest(merged, matches, free, number, looks)
    return sorted(merged, key=lambda one: -one.confidence)


def each_to_nearest(
    sets: list[FoundSet],
    matches: list[Matched],
    free: NDArray[np.intp],
    number: NDArray[np.intp],
    looks: NDArray[np.intp],
) -> list[FoundSet]:
    """The sets, each with those of the free tiles that match it better than the others.

    Parameters
    ----------
    sets : list of FoundSet
    matches : list of Matched
        What the free tiles show for each.
    free : (m,) intp
        Numbers of tiles.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    looks : (n,) intp
        As `looks_of` gives them.
    """
    spots = np.argwhere(number >= 0)[:, ::-1]
    nearest = np.argmin([one.apart for one in matches], axis=0)
    return [
        _joined(one, free, Matched(match.labels, np.where(nearest == place, match.apart, np.inf)), number, spots, looks)
        for place, (one, match) in enumerate(zip(sets, matches, strict=True))
    ]


def tiles_of(found: FoundSet, number: NDArray[np.intp]) -> NDArray[np.intp]:
    """The numbers of the tiles of a set, where `number`, (R, C), tells that of each cell."""
    return number[found.cells[:, 1], found.cells[:, 0]]


def _joined(
    found: FoundSet,
    tiles: NDArray[np.intp],
    match: Matched,
    number: NDArray[np.intp],
    spots: NDArray[np.intp],
    looks: NDArray[np.intp],
) -> FoundSet:
    """A set with its variants among some tiles, the nearest first: no copies, and no more than can be read at once."""
    order = np.argsort(match.apart, kind="stable")[: np.isfinite(match.apart).sum()]
    order = order[~np.isin(looks[tiles[order]], looks[tiles_of(found, number)])]
    # Of copies the first is taken, as they all lie equally near.
    order = order[np.sort(np.unique(looks[tiles[order]], return_index=True)[1])]
    order = order[: max(0, MOST_TILES - len(found.cells))]
    return replace(
        found, cells=np.concatenate([found.cells, spots[tiles[order]]]),
        labels=np.concatenate([found.labels, match.labels[order]]),
        sure=np.concatenate([found.sure, np.full(len(order), found.confidence)]),
    )  # fmt: skip
