"""A grid that shows by lines which are just as the line beside them, from one end of a sheet to the other.

Art that was drawn pixel by pixel hardly ever has such lines, but where the edges of all tiles are drawn more than once
both of their borders are such (see `repeated`), whatever the tiles show and however few they are.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut, grid_of
from knitground.core.sheet.profile import SMALLEST_TILE
from knitground.core.sheet.repeated import WIDEST, repeats, straight

_NEARLY_ALL = 0.98
_MOST_LINES = 0.5
"""How much of a line has to be as the next, or of the lines of a border; how many of all may be such at the most."""
_FOUND, _EXPLAINED = 0.5, 0.3
"""How many of the lines that there have to be are found at least, and how many of those found have to be such."""
_STRAIGHT = 0.12
"""How many of the sides of tiles, at the least, have nothing clear along them."""
_LARGEST_TILE, _ROWS_READ = 300, 1024


class _Outer(NamedTuple):
    """Tiles along an axis with all that repeats their edges, how wide that is, and how many lines tell so."""

    tile: int
    margin: int
    spacing: int
    wide: int
    lines: int


def grid_of_edges(picture: NDArray[np.uint8]) -> Cut | None:
    """The cut of a sheet on which every tile's edges are drawn more than once, into tiles with all that repeats them.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.

    Returns
    -------
    cut : Cut or None
        Without an id; nothing where no such lines show, along either axis, or tiles speak against it.
    """
    across = _along(picture)
    down = _along(picture.swapaxes(0, 1)) if across else None
    if across is None or down is None or across.wide != down.wide:
        return None
    cut = Cut("", across.tile, down.tile, across.margin, down.margin, across.spacing, down.spacing)
    grid = grid_of(cut, picture.shape[1], picture.shape[0])
    if grid.columns * grid.rows < 2 or straight(picture, cut) < _STRAIGHT:
        return None  # as with shapes on clear ground, whose outlines have lines that are as the next
    return cut if repeats(picture, cut) == across.wide else None


def _along(picture: NDArray[np.uint8]) -> _Outer | None:
    """What columns of a picture, (H, W, 4), show that are just as the next, by the pitch that explains most of them."""
    if picture.shape[1] < SMALLEST_TILE + 2:
        return None
    rows = picture[:: max(1, len(picture) // _ROWS_READ)]
    seen = np.where(rows[..., 3:] > 0, rows, np.uint8(0)).view(np.uint32)[..., 0]
    seen = np.ascontiguousarray(seen.T)
    of_several_colours = (seen[:-1] != seen[:-1, :1]).any(axis=1)
    alike = (seen[1:] == seen[:-1]).mean(axis=1) >= _NEARLY_ALL
    if not _MOST_LINES > (alike & of_several_colours).mean() > 0:
        return None
    pitches = range(SMALLEST_TILE + 2, min(len(alike) + 1, _LARGEST_TILE) + 1)
    told = [one for pitch in pitches if (one := _at_pitch(alike, of_several_colours, pitch)) is not None]
    return max(told, key=lambda one: one.lines, default=None)


def _at_pitch(alike: NDArray[np.bool_], of_several_colours: NDArray[np.bool_], pitch: int) -> _Outer | None:
    """Tiles of a pitch, if just two runs of lines, equally long and as far apart as they are wide, are alike in all."""
    rows = -(-len(alike) // pitch)
    folded = [
        np.resize(np.pad(one, (0, rows * pitch - len(one))), (rows, pitch)) for one in (alike, of_several_colours)
    ]
    telling = folded[0] & folded[1]
    tells = telling.any(axis=0)
    against = (folded[1] & ~folded[0]).sum(axis=0) > (1 - _NEARLY_ALL) * rows
    lines = tells & ~against
    starts = np.flatnonzero(lines & ~np.roll(lines, 1))
    ends = np.flatnonzero(lines & ~np.roll(lines, -1))
    if len(starts) != 2:
        return None
    ends = ends if ends[0] >= starts[0] else np.roll(ends, -1)
    wide, other = ((ends - starts) % pitch + 1).tolist()
    near, far = starts.tolist()
    # From the first line of a tile to its last is further than from there over the gutter.
    margin, inside = (near, far - near) if far - near > pitch // 2 else (far, pitch - far + near)
    tile = inside + 1 + wide
    fits = margin + tile <= len(alike) + 1 and 0 <= pitch - tile <= tile // 2
    if wide != other or wide > WIDEST or not fits:
        return None
    told, tiles = int(telling[:, lines].sum()), (len(alike) + 1 - margin - tile) // pitch + 1
    enough = told >= max(_FOUND * 2 * wide * tiles, _EXPLAINED * telling.sum())
    return _Outer(tile, margin, pitch - tile, wide, told) if enough else None
