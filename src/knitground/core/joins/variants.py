"""Variants: further tiles that show the same meeting as a tile of a set, wherever they lie on the sheet.

What a tile would show as one of the set is read place by place, as what the nearest of its tiles shows there. It is a
variant if the set has such a tile, if the two are much alike as a whole, and if what both cover, and what lies at each
of its places, has nearly the same colours. Tiles are compared in small squares, so that grain counts for little; a
square that differs counts as no more than one terrain in place of the other, so that a flower on the grass does not
weigh more than a corner of sand.
"""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import SAME_COLOUR, Floats, full_alpha, place_windows
from knitground.core.joins.sets import JoinKind

_SQUARES = 8
_AS_FAR, _AS_FAR_ON_CLEAR, _AS_FAR_IN_PART = 0.2, 0.02, 0.1
_OTHER_COLOURS, _OTHER_TERRAIN, _OTHER_PLACE = 0.1, 0.15, 0.18
_MOST_SQUARES = 0.7
_SOLID = 0.9
_AT_ONCE = 200


class Squares(NamedTuple):
    """Tiles in small squares, and how much each of these counts for each place of a kind.

    Attributes
    ----------
    colours : (n, S, 4) float64
        The mean colours of at most 8 x 8 squares.
    windows : dict of (P, S) float64
    wide : int
        How many squares lie in a row.
    """

    colours: Floats
    windows: dict[JoinKind, Floats]
    wide: int


class Matched(NamedTuple):
    """What tiles show, if they show what some tile of a set does.

    Attributes
    ----------
    labels : (n, P) intp
    apart : (n,) float64
        How far from that tile, where 1 is as far as one terrain from the other; infinite for what is no variant.
    """

    labels: NDArray[np.intp]
    apart: Floats


def in_squares(colours: Floats, kinds: tuple[JoinKind, ...]) -> Squares:
    """Tiles in small squares, as they are compared.

    Parameters
    ----------
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    kinds : tuple of JoinKind
        The kinds of sets that they will be compared with.
    """
    height, width = colours.shape[1:3]
    down, across = _shares(height), _shares(width)
    means = np.einsum("yh,nhwc,xw->nyxc", down, colours, across, optimize=True)
    windows = {
        kind: np.einsum("yh,phw,xw->pyx", down > 0, place_windows(kind, height, width), across > 0) for kind in kinds
    }
    return Squares(
        means.reshape(len(colours), -1, colours.shape[-1]),
        {kind: window.reshape(len(window), -1) for kind, window in windows.items()},
        len(across),
    )


def match_variants(
    squares: Squares,
    kind: JoinKind,
    mine: NDArray[np.intp],
    labels: NDArray[np.intp],
    others: NDArray[np.intp],
    progress: Callable[[float], None] = lambda share: None,
) -> Matched:
    """Which other tiles are variants of the tiles of a set, and what they show.

    Parameters
    ----------
    squares : Squares
    kind : JoinKind
    mine : (m,) intp
        The tiles of the set.
    labels : (m, P) intp
        What these show.
    others : (o,) intp
        The tiles to look at.
    progress : callable, optional
        Is told the share done from 0 to 1; may raise to stop.
    """
    own, looked_at = squares.colours[mine], squares.colours[others]
    contrast, windows = _contrast(own), squares.windows[kind]
    limits = np.where(_bare(own, labels), _AS_FAR_ON_CLEAR, _AS_FAR)
    read, apart = np.empty((len(others), labels.shape[1]), dtype=np.intp), np.full(len(others), np.inf)
    for number, tile in enumerate(looked_at):
        if number % _AT_ONCE == 0:
            progress(number / len(others))
        far = np.minimum(np.abs(tile - own).sum(axis=-1), contrast)
        read[number] = _read(far, windows, labels)
        same = np.flatnonzero((read[number] == labels).all(axis=1))
        if len(same):
            nearest = same[far[same].mean(axis=1).argmin()]
            share = float(far[nearest].mean()) / contrast
            if (
                share <= limits[nearest]
                and _other_colours(tile, own[nearest]) <= _OTHER_COLOURS
                and not _other_places(tile, own[nearest], windows, read[number])
                and not (len(set(read[number].tolist())) == 1 and _other_shade(tile, own[nearest]))
            ):
                apart[number] = share
    return Matched(read, apart)


def match_lacking(
    squares: Squares, kind: JoinKind, mine: NDArray[np.intp], labels: NDArray[np.intp], others: NDArray[np.intp]
) -> Matched:
    """Which other tiles show a combination that a set lacks, and which: at each place what some tile of it shows there.

    Parameters as of `match_variants`.
    """
    own, looked_at, windows = squares.colours[mine], squares.colours[others], squares.windows[kind]
    contrast, known = _contrast(own), {tuple(row) for row in labels.tolist()}
    read, apart = np.empty((len(others), labels.shape[1]), dtype=np.intp), np.full(len(others), np.inf)
    for number, tile in enumerate(looked_at):
        far = np.minimum(np.abs(tile - own).sum(axis=-1), contrast)
        read[number] = _read(far, windows, labels)
        # Each square of it has to be much like that of some tile, not just those that tell what it shows.
        share = float(far.min(axis=0).mean()) / contrast
        if tuple(read[number].tolist()) not in known and share <= _AS_FAR_IN_PART:
            apart[number] = share
    return Matched(read, apart)


def _shares(side: int) -> Floats:
    """Takes the mean of the pixels of each square along one side, (squares, side)."""
    count = min(_SQUARES, side)
    part = (np.arange(count)[:, None] == np.arange(side) * count // side).astype(np.float64)
    shares: Floats = part / part.sum(axis=1, keepdims=True)
    return shares


def _contrast(own: Floats) -> float:
    """How far the squares of two tiles of a set lie apart where they differ most: one terrain beside the other."""
    most = np.stack([np.abs(tile - own).sum(axis=-1).max(axis=-1) for tile in own])
    return max(1e-9, float(np.median(most[np.triu_indices(len(own), 1)])))


def _read(far: Floats, windows: Floats, labels: NDArray[np.intp]) -> NDArray[np.intp]:
    """At each place what the nearest of some tiles, (m, S) apart, shows there, (P,)."""
    read: NDArray[np.intp] = labels[(far @ windows.T).argmin(axis=0), np.arange(len(windows))]
    return read


def _bare(own: Floats, labels: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Tiles that show next to nothing: any small thing on clear ground is much like these."""
    alone = (labels == labels[:, :1]).all(axis=1)
    bare: NDArray[np.bool_] = alone & (full_alpha(own).mean(axis=1) < _SOLID)
    return bare


def _other_colours(tile: Floats, other: Floats) -> float:
    """How far most of what two tiles, (S, 4), both cover lies apart in colour; infinite if there is nothing such."""
    covered = np.stack([full_alpha(tile), full_alpha(other)])
    both = (covered > 0.5).all(axis=0)
    if not both.any():
        return float("inf")
    colours = [seen[both, :3] / part[both, None] for seen, part in zip((tile, other), covered, strict=True)]
    return float(np.quantile(np.abs(colours[0] - colours[1]).sum(axis=-1), _MOST_SQUARES))


def _other_shade(tile: Floats, other: Floats) -> bool:
    """Whether two tiles, (S, 4), are apart in shade: where a terrain lies alone any patch of another shows."""
    return bool(np.abs(np.median(tile, axis=0) - np.median(other, axis=0)).sum() > SAME_COLOUR)


def _other_places(tile: Floats, other: Floats, windows: Floats, labels: NDArray[np.intp]) -> bool:
    """Whether some terrain of two tiles, (S, 4), lies further apart than its shades do, or some place by far."""
    far = np.abs(windows @ (tile - other)).sum(axis=-1)
    middle = max(float(np.median(far[labels == terrain])) for terrain in np.unique(labels))
    return middle > _OTHER_TERRAIN or bool(far.max() > _OTHER_PLACE)
