"""Sets that lie in order on a sheet: sixteen tiles whose places tell what each side or corner of them shows.

Who draws all sixteen of a set mostly goes through them as one counts, or has the sides to the left and right tell
their column, those above and below their row. So each place of a tile shows the one terrain or the other by one digit
of its number. No sixteen other tiles do so; it takes no more than a rough look at colours to find them, also of
terrains that look much alike on a sheet with other, louder ones, or that are drawn so freely that nothing meets.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.blocks import halved, places_of
from knitground.core.joins.found import FoundSet
from knitground.core.joins.look import Floats
from knitground.core.joins.sets import JoinKind
from knitground.core.joins.taking_in import tiles_of

_KINDS: tuple[JoinKind, ...] = ("edge", "corner")
_ALL, _CONFIDENCE = 16, 0.97
_DIGITS = np.array([[place >> digit & 1 for digit in range(4)] for place in range(_ALL)])
_ORDERS = np.concatenate([_DIGITS, _DIGITS[:, :3] ^ _DIGITS[:, 1:]], axis=1)
"""What a place may show by the number of its tile, (16, 7): a digit, or whether it differs from the next."""
_DEPTH, _MIDDLE = 8, 4
"""What part of a tile is looked at inward from a side, and what part is left out at each of its ends."""
_APART = 0.35
"""How far apart the two groups of places are at the least."""
_ALIKE = 0.015
"""How far apart the mean colours of tiles that show the same are at the most in two sets of one terrain."""
_MISREAD, _DOUBTFUL = 2, 0.5
"""How many tiles may seem to show something else at a place, twice that at all; and how sure such a tile is."""


def ordered_sets(colours: Floats, number: NDArray[np.intp]) -> Iterator[FoundSet]:
    """The sets of sixteen that lie in order on a cut; an empty cell counts as a tile that shows nothing.

    Parameters
    ----------
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    at = np.argwhere(number >= 0)[:, ::-1]
    taken = np.zeros(len(colours) + 1, dtype=bool)
    for kind in _KINDS:
        # The last one stands for an empty cell.
        features = np.pad(_features(colours, kind), ((0, 1), (0, 0), (0, 0)))
        for numbers in (slice(None), slice(4)):
            for mine, rows, sure in _ordered(kind, number, features[..., numbers]):
                if not taken[mine].any():
                    held = mine >= 0
                    taken[mine[held]] = True
                    yield FoundSet(kind, at[mine[held]], rows[held], sure[held], 1.0, _CONFIDENCE)


def _ordered(
    kind: JoinKind, number: NDArray[np.intp], features: Floats
) -> Iterator[tuple[NDArray[np.intp], NDArray[np.intp], Floats]]:
    """The tiles of blocks that lie in order, (16,), their labels, (16, 4), and how sure these are, (16,)."""
    for blocks, usual in places_of(kind, number):
        some = blocks[(blocks < 0).sum(axis=1) <= 1]
        if blocks.shape[1] != _ALL or usual < 1 or not len(some):
            continue
        labels, apart = halved(features, np.where(some < 0, len(features) - 1, some))
        for mine, rows in zip(some[apart >= _APART], labels[apart >= _APART], strict=True):
            told = in_order(rows)
            if told is not None:
                yield mine, told, np.where((told == rows).all(axis=1), _CONFIDENCE, _DOUBTFUL)


def in_order(rows: NDArray[np.intp]) -> NDArray[np.intp] | None:
    """What sixteen tiles show if that goes by their numbers, (16, 4); None if it does not.

    A few places may have been read otherwise.

    Parameters
    ----------
    rows : (16, 4) intp
        0 or 1 for what each place seems to show, of the first tile first.
    """
    agree = (rows[:, :, None] == _ORDERS[:, None]).sum(axis=0)
    order = np.maximum(agree, _ALL - agree).argmax(axis=1)
    turned = np.take_along_axis(agree, order[:, None], axis=1)[:, 0] < _ALL / 2
    told: NDArray[np.intp] = np.not_equal(_ORDERS[:, order], turned).astype(np.intp)
    wrong = (told != rows).sum(axis=0)
    whole = len(np.unique(told @ 2 ** np.arange(4))) == _ALL
    return told if whole and wrong.max() <= _MISREAD and wrong.sum() <= 2 * _MISREAD else None


def drawn_as_one(found: FoundSet) -> bool:
    """Whether all tiles of a set of edges fit beside those that they lie beside on the sheet.

    Parameters
    ----------
    found : FoundSet
    """
    at = {tuple(cell): row for cell, row in zip(found.cells.tolist(), found.labels.tolist(), strict=True)}
    return found.kind == "edge" and all(
        row[side] == other[(side + 2) % 4]
        for (x, y), row in at.items()
        for side, beside in ((0, (x, y - 1)), (1, (x + 1, y)))
        if (other := at.get(beside)) is not None
    )


def _features(colours: Floats, kind: JoinKind) -> Floats:
    """The mean colours of the places of each tile and how they vary there, (n, 4, 8)."""
    high, wide = colours.shape[1:3]
    deep = max(1, min(high, wide) // _DEPTH)
    places = []
    for turns in range(4):
        turned = np.rot90(colours, turns, axes=(1, 2))
        across = turned.shape[2]
        if kind == "edge":
            place = turned[:, :deep, across // _MIDDLE : across - across // _MIDDLE]
        else:
            place = turned[:, : 2 * deep, : 2 * deep]
        place = place.reshape(len(colours), -1, 4)
        places.append(np.concatenate([place.mean(axis=1), place.std(axis=1)], axis=1))
    # Turning anticlockwise brings the right side up next, and the north-east corner to the first place.
    return np.stack(places, axis=1)


def look_alike(colours: Floats, number: NDArray[np.intp]) -> Callable[[FoundSet, FoundSet], bool]:
    """Tells whether the tiles of two sets that show the same have nearly the same mean colours.

    Parameters
    ----------
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    means = colours.mean(axis=(1, 2))

    def alike(one: FoundSet, other: FoundSet) -> bool:
        same = (one.labels[:, None] == other.labels[None]).all(axis=2)
        apart = np.linalg.norm(means[tiles_of(one, number)][:, None] - means[tiles_of(other, number)][None], axis=2)
        return bool(same.any() and np.median(apart[same]) <= _ALIKE)

    return alike


def by_the_cell(found: FoundSet, colours: Floats, number: NDArray[np.intp]) -> FoundSet:
    """A set of edges as one that is painted by the cell, where what goes on over all edges fills also its lone tile.

    Where nothing goes on over an edge of such a tile, it is the terrain by itself; of lines it would be their ground.

    Parameters
    ----------
    found : FoundSet
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    if found.kind != "edge" or found.labels.max(initial=0) > 1:
        return found
    mine = tiles_of(found, number)
    high, wide = colours.shape[1:3]
    middle = colours[mine, high // 3 : high - high // 3, wide // 3 : wide - wide // 3].mean(axis=(1, 2))
    sides = _features(colours[mine], "edge")[..., :4]
    for terrain in (1, 0):
        goes_on = found.labels == terrain
        lone, whole = ~goes_on.any(axis=1), goes_on.all(axis=1)
        if not (lone.any() and whole.any() and (~goes_on).any()):
            continue
        ground = sides[lone].mean(axis=(0, 1))
        within = middle[whole].mean(axis=0)
        if np.linalg.norm(middle[lone].mean(axis=0) - within) < np.linalg.norm(middle[lone].mean(axis=0) - ground):
            edges = goes_on.astype(np.intp)
            count = len(edges)
            labels = np.concatenate([np.zeros((count, 4), np.intp), edges, np.ones((count, 1), np.intp)], axis=1)
            return replace(found, kind="cell", labels=labels)
    return found
