"""Full tiles that lie apart, however far: boxes of one size at even distances, told without a guess.

Where nothing touches and most of it is of one size, the places of the tiles are plain to see, whatever stands in the
gutters: captions below each tile, or so much room that no numbers with usual gutters fit.
"""

from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut
from knitground.core.sheet.profile import SMALLEST_TILE

_MOST_SHAPES = 2**13
_FEWEST, _FULL, _ALL, _HELD, _ASTRAY = 6, 0.97, 0.85, 0.4, 0.1
"""How many tiles tell enough, how full they are, what share of the art they hold, and how many cells of the grid.

The last is how many other shapes to a tile may lie in no cell, as letters do that were not told from art.
"""
_FEWEST_BANDS, _NARROWEST, _OFF, _LOOSE = 3, 2, 4, 1.2
"""How many bands tell, how narrow what is clear between may be, and how far off their usual distance is looked.

The last is how much longer cells may be than the longest of the bands that lie in them.
"""


class _Boxes(NamedTuple):
    """Where separate shapes begin and end, (N, 2) each, across and down, and how much art each has."""

    low: NDArray[np.intp]
    size: NDArray[np.intp]
    ink: NDArray[np.intp]


def even_cut(art: NDArray[np.bool_]) -> Cut | None:
    """The cut of full tiles of one size that lie apart at even distances; none where most of the art is no such tiles.

    Parameters
    ----------
    art : (H, W) bool
        Where there is art; writing had better not count.
    """
    boxes = _boxes_of(art)
    if boxes is None:
        return None
    full = (boxes.size >= SMALLEST_TILE).all(axis=1) & (boxes.ink >= _FULL * boxes.size.prod(axis=1))
    sizes, counts = np.unique(boxes.size[full], axis=0, return_counts=True)
    if not len(sizes) or counts.max() < _FEWEST:
        return None
    tile = sizes[counts.argmax()]
    mine = full & (boxes.size == tile).all(axis=1)
    across, down = (_even(boxes.low[mine, axis], int(tile[axis])) for axis in (0, 1))
    if across is None or down is None or boxes.ink[mine].sum() < _ALL * boxes.ink.sum():
        return None
    (left, pitch_x, columns), (top, pitch_y, rows) = across, down
    others = ~mine & (boxes.size >= SMALLEST_TILE).all(axis=1)
    astray = others & ~(_within(boxes, 0, across, tile[0]) & _within(boxes, 1, down, tile[1]))
    if columns * rows * _HELD > mine.sum() or astray.sum() > _ASTRAY * mine.sum():
        return None
    spacing_x, spacing_y = pitch_x - int(tile[0]), pitch_y - int(tile[1])
    # One line of tiles tells only how far they are apart along it.
    spacing_x, spacing_y = spacing_x if pitch_x else spacing_y, spacing_y if pitch_y else spacing_x
    return Cut("", int(tile[0]), int(tile[1]), left, top, spacing_x, spacing_y)


def _boxes_of(art: NDArray[np.bool_]) -> _Boxes | None:
    labels, count = scipy.ndimage.label(art, structure=np.ones((3, 3)))
    if not _FEWEST <= count <= _MOST_SHAPES:
        return None
    ends = np.array(
        [[(across.start, down.start), (across.stop, down.stop)] for down, across in scipy.ndimage.find_objects(labels)]
    )
    ink = np.bincount(labels[art], minlength=count + 1)[1:]
    return _Boxes(ends[:, 0], ends[:, 1] - ends[:, 0], ink)


def _within(boxes: _Boxes, axis: int, line: tuple[int, int, int], tile: int) -> NDArray[np.bool_]:
    """Which shapes lie in the tiles of a line along an axis, (N,) bool."""
    first, pitch, _ = line
    before = boxes.low[:, axis] - first
    return np.asarray((before % pitch if pitch else before) + boxes.size[:, axis] <= tile)


def _even(places: NDArray[np.intp], tile: int) -> tuple[int, int, int] | None:
    """The first of some places, how far apart they are and how many, if that is even; 0 apart where all are one."""
    known = np.unique(places)
    if len(known) == 1:
        return int(known[0]), 0, 1
    steps = np.diff(known)
    pitch = int(steps.min())
    if pitch <= tile or (steps % pitch).any():
        return None
    return int(known[0]), pitch, int((known[-1] - known[0]) // pitch) + 1


def even_bands(art: NDArray[np.bool_]) -> Cut | None:
    """The cut of art that stands in columns and rows with clear bands between, at even distances; none if it does not.

    Its tiles are as large as the art in them. Things that were put down anywhere leave no such bands.

    Parameters
    ----------
    art : (H, W) bool
        Where there is art; writing had better not count.
    """
    across, down = _spaced(np.asarray(art.any(axis=0))), _spaced(np.asarray(art.any(axis=1)))
    if across is None or down is None or max(across.many, down.many) < _FEWEST_BANDS:
        return None
    spacing_x, spacing_y = across.pitch - across.length, down.pitch - down.length
    return Cut("", across.length, down.length, across.first, down.first, spacing_x, spacing_y)


class _Spaced(NamedTuple):
    """Where the first of some bands begins, how long the longest is, how far apart they are, and how many."""

    first: int
    length: int
    pitch: int
    many: int


def _spaced(filled: NDArray[np.bool_]) -> _Spaced | None:
    """Bands of filled lines that fit into cells at even distances, hardly longer than they are themselves."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], filled, [False]]).astype(np.int8)))
    low, high = edges[::2], edges[1::2]
    if len(low) < 2 or (low[1:] - high[:-1]).min() < _NARROWEST:
        return None
    usual = int(np.median(np.diff(low + high))) // 2
    best: _Spaced | None = None
    for pitch in range(max(usual - _OFF, SMALLEST_TILE), usual + _OFF + 1):
        place = np.rint((low + high - low[0] - high[0]) / (2 * pitch)).astype(np.intp)
        if len(np.unique(place)) < len(place):
            continue
        first, last = (low - place * pitch).min(), (high - place * pitch).max()
        if last - first < (best.length if best else pitch - 1):
            best = _Spaced(int(first), int(last - first), pitch, len(low))
    longest = int((high - low).max())
    return best if best and SMALLEST_TILE <= best.length <= _LOOSE * longest else None
