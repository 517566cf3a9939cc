"""Where tiles lie between lines that were drawn to keep them apart: all of one colour, straight through, evenly far.

Such lines are no art, and say exactly how a sheet is cut, however little the tiles fill their cells.
"""

from collections.abc import Iterator
from itertools import combinations
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import USUAL, Axis
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.profile import SMALLEST_TILE

_WIDEST, _TRIED, _LONG = 4, 6, 48
_RUN, _THROUGH, _PARTLY, _MOST_LINES = 0.5, 0.85, 0.25, 0.34
_FEWEST, _FEWEST_ALONE, _MOST_GRIDS = 2, 4, 6
_STRIP = 2
_GOES_ON, _MISSING = 0.05, 2
"""The share of a line that has to show where the grid goes on, as some draw lines only round tiles that hold something,
and how many lines may be missing before it."""


class Ruled(NamedTuple):
    """A grid between lines.

    Attributes
    ----------
    across, down : Axis
        How its tiles lie on the picture.
    within : Rect
        What of the picture it takes, with the lines round it.
    """

    across: Axis
    down: Axis
    within: Rect

    def lower(self, by: int) -> "Ruled":
        """The same so many pixels further down."""
        down = self.down._replace(margin=(self.down.margin + by) % self.down.pitch)
        return self._replace(down=down, within=self.within._replace(y=self.within.y + by))

    @property
    def cut(self) -> Cut:
        """Just its tiles, as a cut."""
        within, (x, y) = self.within, (self.across, self.down)
        left, top = within.x + (x.margin - within.x) % x.pitch, within.y + (y.margin - within.y) % y.pitch
        columns, rows = (within.x + within.width - left) // x.pitch, (within.y + within.height - top) // y.pitch
        # The last tile need not have a line behind it.
        columns += within.x + within.width - left - columns * x.pitch >= x.tile
        rows += within.y + within.height - top - rows * y.pitch >= y.tile
        region = Rect(left, top, columns * x.pitch - x.spacing, rows * y.pitch - y.spacing)
        return Cut("", x.tile, y.tile, spacing_x=x.spacing, spacing_y=y.spacing, region=region)


class _Chain(NamedTuple):
    """Tiles along one axis between lines of one width.

    Attributes
    ----------
    axis : Axis
    begin, end : int
        What all of it takes.
    open : bool
        Whether there is no line behind the last tile, or before the first, so that each may have one of its own.
    """

    axis: Axis
    begin: int
    end: int
    open: bool = False


def ruled_grids(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> list[Ruled]:
    """All grids that lines draw on a picture, with the tiles beside them that have no line at their outer side.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
        Where there is art.
    """
    found: list[Ruled] = []
    rest, left = colour.copy(), art.copy()
    while len(found) < _MOST_GRIDS and (one := ruled(rest, left)) is not None:
        found.append(one)
        rest[one.within.slices()] = left[one.within.slices()] = 0
    found = _joined(found)
    for number, one in enumerate(found):
        grown = _with_open_tiles(one, art)
        if not any(grown.within.touches(other.within) for other in found if other is not one):
            found[number] = grown
    return found


def _joined(grids: list[Ruled]) -> list[Ruled]:
    """The same, those as one that go on in one another, with nothing else between."""
    for one, other in combinations(grids, 2):
        both = one.within.with_other(other.within)
        rest = [grid for grid in grids if grid not in (one, other)]
        if one[:2] == other[:2] and not any(both.touches(grid.within) for grid in rest):
            return _joined([one._replace(within=both), *rest])
    return grids


def ruled(colour: NDArray[np.int16], art: NDArray[np.bool_]) -> Ruled | None:
    """The grid that lines of one colour draw on a picture; none where there are no such lines.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
        Where there is art.
    """
    packed = np.ascontiguousarray(colour.astype(np.uint8)).view(np.uint32)[..., 0]
    found, seen = _ruled_on(packed, art), colour[..., 3] > 0
    # Lines may be all that shows of an opaque ground.
    return found if found is not None or (seen == art).all() else _ruled_on(packed, seen)


def _ruled_on(packed: NDArray[np.uint32], seen: NDArray[np.bool_]) -> Ruled | None:
    """The grid between lines of one colour, of what is to be looked at."""
    lengths, ends = _longest_runs(packed, seen)
    long = np.flatnonzero(lengths >= max(_RUN * len(packed), 2 * SMALLEST_TILE))
    for colour_of_lines, columns in _by_count(packed[ends[long], long], long):
        rows = slice(int((ends - lengths)[columns].min()) + 1, int(ends[columns].max()) + 1)
        found = _between(packed == colour_of_lines, rows)
        if found is not None:
            return found
    # Of several grids below one another none has lines that go through half of the picture.
    long = _narrow(lengths >= _LONG)
    for span, columns in _by_count(lengths[long] * len(packed) + ends[long], long):
        last, length = span % len(packed), span // len(packed)
        rows = slice(last - length + 1, last + 1)
        found = _between(packed[rows] == packed[last, columns[0]], slice(None), strip=False)
        if found is not None and len(columns) > _FEWEST:
            return found.lower(rows.start)
    return None


def _with_open_tiles(grid: Ruled, art: NDArray[np.bool_]) -> Ruled:
    """A grid with what lies outside of its lines as tiles do: art that does not go on over the next gutter."""
    left, top, wide, high = grid.within
    rows = _open(np.asarray(art[:, left : left + wide].any(axis=1)), grid.down, top, top + high)
    columns = _open(np.asarray(art[rows[0] : rows[1]].any(axis=0)), grid.across, left, left + wide)
    return grid._replace(within=Rect(columns[0], rows[0], columns[1] - columns[0], rows[1] - rows[0]))


def _open(held: NDArray[np.bool_], axis: Axis, begin: int, end: int) -> tuple[int, int]:
    """From where to where a grid goes along an axis, given which lines of pixels hold art and where its lines go."""
    tile, gap = axis.tile, axis.spacing
    while (
        begin >= tile and held[begin - tile : begin].any() and not held[max(0, begin - tile - gap) : begin - tile].any()
    ):
        begin -= axis.pitch
    while end + tile <= len(held) and held[end : end + tile].any() and not held[end + tile : end + axis.pitch].any():
        end += axis.pitch
    return max(begin, 0), min(end, len(held))


def _longest_runs(packed: NDArray[np.uint32], seen: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """How many pixels of one colour follow one another at most in each column, and the row of the last of them."""
    begins = np.ones(packed.shape, dtype=np.bool_)
    begins[1:] = (packed[1:] != packed[:-1]) | ~seen[1:]
    rows = np.arange(len(packed), dtype=np.int32)[:, None]
    lengths = rows - np.maximum.accumulate(np.where(begins, rows, 0), axis=0) + 1
    ends = lengths.argmax(axis=0)
    return np.take_along_axis(lengths, ends[None], axis=0)[0].astype(np.intp), ends


def _narrow(long: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Which columns are long but for those that lie in something wide, as a panel."""
    widths = _lines(long)[1]
    wide = np.repeat(widths > _WIDEST, widths)
    return np.flatnonzero(long)[~wide]


def _by_count(keys: NDArray[Any], columns: NDArray[np.intp]) -> Iterator[tuple[int, NDArray[np.intp]]]:
    """Columns that are alike, given a key for each; those first of which there are the most."""
    kinds, which, counts = np.unique(keys, return_inverse=True, return_counts=True)
    for kind in np.argsort(-counts, kind="stable")[:_TRIED].tolist():
        yield int(kinds[kind]), columns[which == kind]


def _between(mask: NDArray[np.bool_], rows: slice, *, strip: bool = True) -> Ruled | None:
    """The grid between lines that a mask shows, given the rows that those across it take; maybe one row of tiles."""
    across = _chain(mask[rows].mean(axis=0))
    if across is None:
        return None
    share = mask[:, across.begin : across.end].mean(axis=1)
    down = _chain(share)
    if down is None:
        # A strip of tiles needs lines along one axis only, but all of its height.
        (height, width), pitch, held = mask.shape, across.axis.pitch, across.end - across.begin
        through = strip and rows.stop - rows.start >= _THROUGH * height and share.max() < _THROUGH
        if not through or held < max(_FEWEST_ALONE * pitch, width - pitch) or height > _STRIP * pitch:
            return None
        down = _Chain(Axis(height, 0, across.axis.spacing), 0, height, open=True)
    else:
        across, down = _crossed(mask.T, across, down), _crossed(mask, down, across)
    theirs = across.open and down.open and across.axis.tile not in USUAL
    if down.axis.spacing != across.axis.spacing or theirs:
        return None
    region = Rect(across.begin, down.begin, across.end - across.begin, down.end - down.begin)
    return Ruled(across.axis, down.axis, region)


def _crossed(mask: NDArray[np.bool_], chain: _Chain, other: _Chain) -> _Chain:
    """A chain down without outer tiles that no lines cross: what shows there belongs to something else."""
    pitch, width = chain.axis.pitch, other.axis.spacing
    lines = np.arange(other.axis.margin - width, other.end, other.axis.pitch)
    lines = lines[(lines >= max(other.begin, 0)) & (lines < mask.shape[1])]

    def is_crossed(top: int) -> bool:
        return int((mask[max(top, 0) : top + chain.axis.tile][:, lines].mean(axis=0) >= _THROUGH).sum()) >= _FEWEST

    begin, end = chain.begin, chain.end
    first = begin + (chain.axis.margin - begin) % pitch
    while first + 2 * pitch < end and not is_crossed(first):
        begin, first = begin + pitch, first + pitch
    last = first + (end - first - chain.axis.tile) // pitch * pitch
    while last > first + pitch and not is_crossed(last):
        end, last = end - pitch, last - pitch
    return chain._replace(begin=begin, end=end)


def _chain(share: NDArray[np.float64]) -> _Chain | None:
    """Tiles between lines, given how much of each line of pixels has their colour; none where that tells of none."""
    through = share >= _THROUGH
    if not through.any() or through.mean() > _MOST_LINES:
        return None
    starts, widths = _lines(through)
    width = int(widths[0])
    # The outlines of tiles that touch are twice as wide inside as they are at the borders.
    if width > _WIDEST or (widths != width).any() or len(starts) < _FEWEST:
        return None
    lines, pitch = starts, _usual_step(starts)
    # Others are hidden in part, by what is as large as several tiles.
    partly, theirs = _lines(share >= _PARTLY)
    closer = _usual_step(partly[theirs == width])
    if closer - width >= SMALLEST_TILE and not ((starts - starts[0]) % closer).any():
        lines, pitch = partly[theirs == width], closer
    if pitch - width < SMALLEST_TILE:
        return None
    return _closed(lines, np.diff(lines) == pitch, pitch - width, width, share)


def _usual_step(places: NDArray[np.intp]) -> int:
    """How far most places are from the next; 0 where there is no next."""
    return int(np.bincount(np.diff(places)).argmax()) if len(places) > 1 else 0


def _lines(true: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Where what is true in a row begins, and how much that is each time."""
    change = np.flatnonzero(np.diff(np.concatenate([[False], true, [False]])))
    return change[::2], np.diff(change)[::2]


def _closed(
    starts: NDArray[np.intp], even: NDArray[np.bool_], tile: int, width: int, share: NDArray[np.float64]
) -> _Chain | None:
    """The longest chain of lines that are evenly far apart, if tiles lie on neither or on both of its outer sides."""
    begins, counts = _lines(even)
    longest, pitch = int(np.argmax(counts)), tile + width
    first, last = int(starts[begins[longest]]), int(starts[begins[longest] + counts[longest]])
    first, last = _gone_on(share, first, -pitch, width), _gone_on(share, last, pitch, width)
    behind = len(share) - last - width
    if tile <= first <= pitch and tile <= behind <= pitch:  # lines between the tiles alone
        return _Chain(Axis(tile, first - tile, width), first - tile, last + pitch)
    if last - first < _FEWEST * pitch:
        return None
    begin, end = first - tile * (first == tile), last + width + tile * (behind == tile)
    return _Chain(Axis(tile, (first + width) % pitch, width), begin, end, tile in (first, behind))


def _gone_on(share: NDArray[np.float64], line: int, step: int, width: int) -> int:
    """The last line that shows when going on from one by steps."""
    ahead = (line + step * number for number in range(1, _MISSING + 1))
    shown = (at for at in ahead if 0 <= at <= len(share) - width and share[at : at + width].min() >= _GOES_ON)
    following = next(shown, None)
    return line if following is None else _gone_on(share, following, step, width)
