"""Sets that lie in order on a sheet: sixteen tiles whose places tell what each side or corner of them shows.

Who draws all sixteen of a set mostly goes through them as one counts, or has the sides to the left and right tell
their column, those above and below their row. So each place of a tile shows the one terrain or the other by one digit
of its number. No sixteen other tiles do so; it takes no more than a rough look at colours to find them, also of
terrains that look much alike on a sheet with other, louder ones, or that are drawn so freely that nothing meets.
"""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.blocks import halved, places_of
from knitground.core.joins.found import FoundSet
from knitground.core.joins.look import Floats
from knitground.core.joins.sets import JoinKind
from knitground.core.joins.taking_in import tiles_of

_KINDS: tuple[JoinKind, ...] = ("edge", "corner")
SIXTEEN, _CONFIDENCE = 16, 0.97
"""How many tiles such a set has, and how sure it is."""
_DIGITS = np.array([[place >> digit & 1 for digit in range(4)] for place in range(SIXTEEN)])
_ORDERS = np.concatenate([_DIGITS, _DIGITS[:, :3] ^ _DIGITS[:, 1:]], axis=1)
"""What a place may show by the number of its tile, (16, 7): a digit, or whether it differs from the next."""
_AT_ONCE = 1024
"""How many blocks are looked at at once."""
_DEPTH, _MIDDLE = 8, 4
"""What part of a tile is looked at inward from a side, and what part is left out at each of its ends."""
_APART = 0.35
"""How far apart the two groups of places are at the least."""
_ALIKE = 0.015
"""How far apart the mean colours of each terrain lie at the most in two sets of the same."""
_NEARLY_ALL = 0.9
"""What share of tiles has to be filled in the midst."""
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
                    # Terrains are numbered in the order in which they first show.
                    labels = np.abs(rows - rows[held][0, 0])[held]
                    yield FoundSet(kind, at[mine[held]], labels, sure[held], 1.0, _CONFIDENCE)


def _ordered(
    kind: JoinKind, number: NDArray[np.intp], features: Floats
) -> Iterator[tuple[NDArray[np.intp], NDArray[np.intp], Floats]]:
    """The tiles of blocks that lie in order, (16,), their labels, (16, 4), and how sure these are, (16,)."""
    for blocks, usual in places_of(kind, number):
        if blocks.shape[1] != SIXTEEN or usual < 1:
            continue
        whole = blocks[(blocks < 0).sum(axis=1) <= 1]
        for first in range(0, len(whole), _AT_ONCE):
            some = whole[first : first + _AT_ONCE]
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
    order = np.maximum(agree, SIXTEEN - agree).argmax(axis=1)
    turned = np.take_along_axis(agree, order[:, None], axis=1)[:, 0] < SIXTEEN / 2
    told: NDArray[np.intp] = np.not_equal(_ORDERS[:, order], turned).astype(np.intp)
    wrong = (told != rows).sum(axis=0)
    if len(np.unique(told @ 2 ** np.arange(4))) < SIXTEEN or wrong.max() > _MISREAD or wrong.sum() > 2 * _MISREAD:
        return None
    # A ring with what goes off from it lies nearly as if columns and rows told all, but for a tile at each side.
    return None if wrong.sum() > _MISREAD and _fit(told.reshape(4, 4, 4)) else told


def _fit(rows: NDArray[np.intp]) -> bool:
    """Whether all tiles of a block, (R, C, 4), fit beside those that they lie beside."""
    return bool((rows[:, :-1, 1] == rows[:, 1:, 3]).all() and (rows[:-1, :, 2] == rows[1:, :, 0]).all())


def _shown(place: Floats) -> Floats:
    """The mean colours of a part of each tile, (n, h, w, 4), and how they vary there: (n, 8)."""
    pixels = place.reshape(len(place), -1, 4)
    return np.concatenate([pixels.mean(axis=1), pixels.std(axis=1)], axis=1)


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


def _features(colours: Floats, kind: JoinKind, part: int = _DEPTH) -> Floats:
    """The mean colours of the places of each tile and how they vary there, (n, 4, 8); a part of it is looked at."""
    high, wide = colours.shape[1:3]
    deep = max(1, min(high, wide) // part)
    places = []
    for turns in range(4):
        turned = np.rot90(colours, turns, axes=(1, 2))
        across = turned.shape[2]
        if kind == "edge":
            place = turned[:, :deep, across // _MIDDLE : across - across // _MIDDLE]
        else:
            place = turned[:, : 2 * deep, : 2 * deep]
        places.append(_shown(place))
    # Turning anticlockwise brings the right side up next, and the north-east corner to the first place.
    return np.stack(places, axis=1)


def with_alike(sets: list[FoundSet], colours: Floats, number: NDArray[np.intp]) -> list[FoundSet]:
    """The same; of those that show the same terrains by their colours one, with the tiles of the others.

    Parameters
    ----------
    sets : list of FoundSet
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    kept, shown = list[FoundSet](), list[Floats]()
    for found in sets:
        # Close to the border there is least of the other terrain, however freely a tile is drawn.
        seen = _features(colours[tiles_of(found, number)], found.kind, max(colours.shape[1:3]))[..., :4]
        mine = np.stack([seen[found.labels == terrain].mean(axis=0) for terrain in range(2)])
        for place, (one, other) in enumerate(zip(kept, shown, strict=True)):
            turned = [np.abs(mine[::step] - other).max() <= _ALIKE for step in (1, -1)]
            if one.kind == found.kind and any(turned):
                labels = found.labels if turned[0] else 1 - found.labels
                kept[place] = replace(
                    one, cells=np.concatenate([one.cells, found.cells]), labels=np.concatenate([one.labels, labels]),
                    sure=np.concatenate([one.sure, found.sure]),
                )  # fmt: skip
                break
        else:
            kept.append(found)
            shown.append(mine)
    return kept


def of_areas(labels: NDArray[np.intp], colours: Floats) -> int | None:
    """Of which terrain tiles show areas, as each of them is filled with it in the midst; None if of none.

    Tiles of lines are so, too; but where these cross, the ground shows at the corners.

    Parameters
    ----------
    labels : (m, 4) intp
        0 or 1 for what each edge shows.
    colours : (m, h, w, 4) float64
        As `seen_colours` gives them.
    """
    high, wide = colours.shape[1:3]
    middle = _shown(colours[:, high // 3 : high - high // 3, wide // 3 : wide - wide // 3])
    sides, corners = (_features(colours, kind) for kind in _KINDS)
    for terrain in (1, 0):
        goes_on = labels == terrain
        lone, whole = ~goes_on.any(axis=1), goes_on.all(axis=1)
        if not (lone.any() and whole.any()):
            continue
        within, ground = middle[whole].mean(axis=0), sides[lone].mean(axis=(0, 1))
        seen = np.concatenate([middle, corners[whole].mean(axis=1)])
        filled = np.linalg.norm(seen - within, axis=1) < np.linalg.norm(seen - ground, axis=1)
        if filled.mean() >= _NEARLY_ALL and filled[len(middle) :].all():
            return terrain
    return None
