"""What a sheet shows along each axis: where it holds art, where lines are blank, where pixels go on into the next."""

from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.sheet.borders import goes_on

SMALLEST_TILE = 6
_LEFT = 0.04
"""What share of art must lie on a further ground."""
_COMMON = 0.02
_BORDER_CLEAR, _ROUND, _MUCH = 0.9, 0.6, 0.06
"""How clear a border is that leaves art alone, how much of what lies along it is the ground's, and how much of all art
has a colour at the least that is looked at so."""
_THIN = 0.35
_RULED, _WHOLE, _SAMPLED = 0.7, 0.95, 96
_LINES_READ = 512


_FARTHEST, _HIGHEST_LINE, _MOST_LINES = 16, 24, 3
_FIRST_BLOCKS = 6


class Profile(NamedTuple):
    """What one axis shows: continuity of each line of pixels with the one before, and how much art each line holds."""

    continuity: NDArray[np.float64]
    blank: NDArray[np.bool_]
    filled: NDArray[np.float64]


def body_of(art: NDArray[np.bool_]) -> tuple[int, int]:
    """Height and width of the part at the upper left that holds the dense art: writing at the right or foot is thin.

    Parameters
    ----------
    art : (H, W) bool
    """
    rows, columns = art.mean(axis=1), art.mean(axis=0)
    return _last_dense(rows), _last_dense(columns)


def heads_of(art: NDArray[np.bool_]) -> list[int]:
    """Where a heading above the art may end: behind a few low blocks of lines at the top that clear lines part.

    Parameters
    ----------
    art : (H, W) bool

    Returns
    -------
    ends : list of int
        The first clear line below each such block, or a later one where there are more than a margin has.
    """
    begins, ends = blocks_of(art)
    found: list[int] = []
    for begin, end, following in zip(begins[:-1], ends[:-1], begins[1:], strict=True):
        if end - begin > _HIGHEST_LINE or len(found) == _MOST_LINES:
            break
        found.append(int(max(end, following - _FARTHEST)))
    return found


def height_against(art: NDArray[np.bool_], top: int) -> float:
    """How high the highest block of lines above a line is, against the usual one of the first few below it.

    Parameters
    ----------
    art : (H, W) bool
    top : int
        From 1; there is art above and below.
    """
    begins, ends = blocks_of(art)
    above, heights = int((begins < top).sum()), ends - begins
    return float(heights[:above].max() / np.median(heights[above : above + _FIRST_BLOCKS]))


def blocks_of(art: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Where blocks of lines that hold something begin and end.

    Parameters
    ----------
    art : (H, W) bool
    """
    lines = np.concatenate([[False], art.any(axis=1), [False]]).astype(np.int8)
    return np.flatnonzero(np.diff(lines) == 1), np.flatnonzero(np.diff(lines) == -1)


def _last_dense(shares: NDArray[np.float64]) -> int:
    """Where lines stop that hold at least a good part of what the fuller lines hold, if thin ones follow."""
    if not shares.any():
        return len(shares)
    last = int(len(shares) - np.argmax(shares[::-1] > 0))
    enough = shares >= _THIN * np.quantile(shares[shares > 0], 0.75)
    dense = int(len(shares) - np.argmax(enough[::-1]))
    return dense if last - dense > SMALLEST_TILE else len(shares)


def art_of(colour: NDArray[np.int16]) -> NDArray[np.bool_]:
    """Where there is art, (H, W) bool: neither transparent nor of a colour that fills most of some lines and is common.

    On one such line at least it has to go on unbroken: things side by side may share a colour, too. What is nearly all
    that lies on a ground is art, and no ground itself.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    """
    art = colour[..., 3] > 0
    clear = ~art
    modes = [_modes(colour), _modes(colour.swapaxes(0, 1))]
    corner = colour[:1, 0]
    lines = np.concatenate([*(mode[share >= _RULED] for mode, share, _ in modes), corner])
    whole = [mode[(share >= _RULED) & (unbroken >= _WHOLE)] for mode, share, unbroken in modes]
    plain = np.concatenate([*whole, corner])
    found, counts = np.unique(lines, axis=0, return_counts=True)
    for ground in found[np.argsort(-counts, kind="stable")][:4]:
        same = (colour == ground).all(axis=2)
        if (
            same.mean() > _COMMON
            and (plain == ground).all(axis=1).any()
            and (not ground[3] or _goes_round(same, clear))
        ):
            rest = art & ~same
            least = 0 if art.all() else _LEFT * art.sum()
            art = rest if rest.sum() > least else art
    return art


def _goes_round(same: NDArray[np.bool_], clear: NDArray[np.bool_]) -> bool:
    """Whether a colour is most of what lies along the clear border of a picture, as a panel's ground is, if it has one.

    Blocks of tiles on clear ground may be mostly of one colour, which is no ground then.
    """
    border = np.concatenate([clear[0], clear[-1], clear[:, 0], clear[:, -1]])
    if border.mean() < _BORDER_CLEAR or same.sum() < _MUCH * (~clear).sum():
        return True
    pieces = scipy.ndimage.label(clear)[0]
    outside = np.isin(pieces, np.unique(np.concatenate([pieces[0], pieces[-1], pieces[:, 0], pieces[:, -1]]))) & clear
    edge = scipy.ndimage.binary_dilation(outside) & ~clear
    return bool(same[edge].mean() >= _ROUND) if edge.any() else True


def _modes(colour: NDArray[np.int16]) -> tuple[NDArray[np.int16], NDArray[np.float64], NDArray[np.float64]]:
    """The most common colour of each column, its share of it, and how unbroken it is there; by a sample of rows.

    Parameters
    ----------
    colour : (H, W, 4) int16

    Returns
    -------
    modes : (W, 4) int16
    shares, unbroken : (W,) float64
        Of the whole column, and of what lies between the first and the last of that colour.
    """
    rows = np.unique(np.linspace(0, len(colour) - 1, min(len(colour), _SAMPLED)).astype(np.intp))
    packed = np.ascontiguousarray(colour[rows].astype(np.uint8)).view(np.uint32)[..., 0]
    ranked = np.sort(packed, axis=0)
    # In a sorted column the most common colour is the one that goes on longest.
    first = np.ones(ranked.shape, dtype=bool)
    first[1:] = ranked[1:] != ranked[:-1]
    starts = np.maximum.accumulate(np.where(first, np.arange(len(ranked))[:, None], 0), axis=0)
    runs = np.arange(len(ranked))[:, None] - starts + 1
    ends = runs.argmax(axis=0)
    columns = np.arange(ranked.shape[1])
    modes, counts = np.ascontiguousarray(ranked[ends, columns]), runs[ends, columns]
    same = packed == modes
    span = len(rows) - same.argmax(axis=0) - same[::-1].argmax(axis=0)
    return modes.view(np.uint8).reshape(-1, 4).astype(np.int16), counts / len(rows), counts / span


def profile_of(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> Profile:
    """The profile along the second axis.

    Parameters
    ----------
    colour : (H, W, 4) int16
    art : (H, W) bool
    """
    some = slice(None, None, max(1, len(colour) // _LINES_READ))
    modes, shares, _ = _modes(colour)
    filled = art.mean(axis=0)
    ruled = (shares >= _RULED) & (modes[:, 3] > 0) & (filled <= 1 - _RULED)
    blank: NDArray[np.bool_] = np.logical_not(art.any(axis=0))
    # Where lines are drawn between cells that are clear, only the drawn ones can be spacing.
    if ruled.any() and (blank & ~ruled).sum() > 1:
        blank, filled = ruled, np.where(ruled, 0.0, 1.0)
    return Profile(goes_on(colour[some], art[some]).mean(axis=0, dtype=np.float64), blank, filled)
