"""Finding what is drawn as a line in however few tiles: fences, hedges, ropes, ladders, pillars, pipes, piers.

A fence of any length takes three tiles: both ends, and what lies between. What lies between goes on into itself, and
into the ends just as it does there; and where the line ends something else lies along the side of a tile, or nothing.
Bends and crossings belong to it where each of their sides shows the same. A set of all sixteen is found otherwise.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.joins.found import FoundSet, cells_of
from knitground.core.joins.look import Floats, looks_of

_SOLID = 128
_DEEP = 6
"""What part of a tile's side is looked at along it."""
_OUTLINE, _THROUGH, _MEETS = 0.25, 0.4, 0.99
"""What share of two bands may differ by their outlines, of two sides of a tile that a line goes through, and how much
of two sides has to meet, to a pixel."""
_COLOUR, _SEAM, _GRAIN, _FEW = 48.0, 24.0, 1.5, 1.0
"""How far apart colours may be on average, of 765, and across a seam; how much more by their grain, and if few meet."""
_GROWS, _GROWS_CLEARLY, _BULGE = 0.95, 0.92, 1.003
"""How much thinner than what lies between them ends are, by how much that is thicker in its midst, that swell."""
_LEAST = 4
"""The least side of tiles that show anything of how they go on."""
_NEAR, _FAR = 3, 11
"""How many cells away from one another on their sheet the tiles of a line lie at most, and of one that leads on."""
_ALL, _BENDS, _SURE = 15, 4, 0.9
"""How many combinations of edges there are, how many ways to turn make a line with bends, and how sure it is."""
_TRIED = 6
"""How many of the tiles next to one that goes across are tried as what goes down in the same line."""
_MOST_OF_LINE = 0.7
"""What share of the tiles of a line a set has at most that takes them for the ground."""
_AXES = ((3, 1), (0, 2))
"""The sides of a tile at which a line goes on across, and down."""
_STEPS = ((-1, 0), (0, 1), (1, 0), (0, -1))

Flags = NDArray[np.bool_]
Numbers = NDArray[np.intp]


class _Line(NamedTuple):
    """The tiles of a line, (m,), and over which of their sides it goes on, (m, 4)."""

    tiles: Numbers
    goes_on: Flags


def with_lines(
    sets: list[FoundSet], tiles: NDArray[np.uint8], number: Numbers, *, straight: bool = True
) -> list[FoundSet]:
    """Sets, and the lines among the tiles that none of them has: sets of edges where nothing lies beside them.

    Parameters
    ----------
    sets : list of FoundSet
    tiles : (n, h, w, 4) uint8
        Laid flat, straight alpha, without a ground on which they are drawn.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    straight : bool
        Whether also those count that lead nowhere: of a few tiles on a ground that only they show many are no lines.
    """
    if not len(tiles) or min(tiles.shape[1:3]) < _LEAST:
        return sets
    taken, found = np.zeros(len(tiles), dtype=bool), list(sets)
    for one in sets:
        for column, row in (*one.cells.tolist(), *one.faces.reshape(-1, 2).tolist()):
            taken[number[row, column]] = True
    lines = _Lines(tiles, number, np.flatnonzero(~taken))
    for line in sorted(lines.found(straight=straight), key=lambda one: -len(one.tiles)):
        if not taken[line.tiles].any():
            taken[line.tiles] = True
            covered = len(np.unique(line.goes_on, axis=0)) / _ALL
            cells, sure = lines.at[line.tiles][:, ::-1], np.full(len(line.tiles), _SURE)
            found.append(FoundSet("edge", cells, line.goes_on.astype(np.intp), sure, covered, _SURE))
    return found


def lines_beside(sets: list[FoundSet], lines: list[FoundSet]) -> list[FoundSet]:
    """Lines, but for those that are of a set nearly as a whole; what such a set takes for a ground is no part of it.

    That holds for lines that lead on; a straight one may be what a ground has, cracks and ripples.
    """
    taken = cells_of(sets)
    mixed = {
        (column, row)
        for one in sets
        for (column, row), labels in zip(one.cells.tolist(), one.labels.tolist(), strict=True)
        if len(set(labels)) > 1
    }
    return [
        one for one in lines
        if len(cells_of([one]) & (mixed if _leads_on(one.labels > 0) else taken)) <= _MOST_OF_LINE * len(one.cells)
    ]  # fmt: skip


def is_road(found: FoundSet, tiles: NDArray[np.uint8]) -> bool:
    """Whether a set is a line that leads on, and its tiles, (m, h, w, 4) uint8, show a ground beside it."""
    return (
        found.kind == "edge" and found.labels.max() == 1 and _leads_on(found.labels > 0) and tiles[..., 3].min() == 255
    )


class _Lines:
    """What lies along the sides of tiles, from the upper one clockwise, each turned so that its side is on top."""

    def __init__(self, tiles: NDArray[np.uint8], number: Numbers, free: Numbers) -> None:
        turned = [np.rot90(tiles, side, axes=(1, 2)) for side in range(4)]
        self._bands = [one[:, : max(2, one.shape[1] // _DEEP)] for one in turned]
        self._grains = [_grain(one) for one in self._bands]
        self._reached = np.stack([(one[:, 0, :, 3] >= _SOLID).any(axis=1) for one in turned], axis=1)
        self._free = free[self._reached[free].any(axis=1)]
        self.at = np.argwhere(number >= 0)
        around = np.pad(number, 1, constant_values=-1)
        self._beside = np.stack([around[tuple((self.at + 1 + step).T)] for step in _STEPS], axis=1)
        self._ends = self._drawn_ends()
        self._looks = looks_of(tiles)
        solid = tiles[..., 3] >= _SOLID
        self._thick = solid.sum(axis=1), solid.sum(axis=2)

    def _drawn_ends(self) -> Flags:
        """Over which sides of tiles nothing goes on into what lies there on the sheet, (n, 4)."""
        facing = np.stack([self._reached[self._beside[:, side], (side + 2) % 4] for side in range(4)], axis=1)
        return np.asarray(~(self._reached & (self._beside >= 0) & facing))

    def _same_line(self, tiles: Numbers, others: Numbers, side: int) -> Flags:
        """Whether tiles show the same as others right at a side, (k,)."""
        one, other = (self._bands[side][some][:, :1] for some in (tiles, others))
        return _alike(one, other, np.maximum(_SEAM, _GRAIN * self._grains[side][others]))

    def _meet(self, tiles: Numbers, side: int, others: Numbers) -> Flags:
        """Whether tiles go on into others at a side of theirs, (k,)."""
        facing = self._bands[(side + 2) % 4][others][:, :1, ::-1]
        return _alike(self._bands[side][tiles][:, :1], facing, np.maximum(_SEAM, _GRAIN * self._grains[side][tiles]))

    def found(self, *, straight: bool) -> Iterator[_Line]:
        """The lines round the tiles that may lie between the ends of one: each once, and of copies the first."""
        found = np.zeros(len(self.at), dtype=bool)
        for axis in range(2) if straight else ():
            between = self._between(axis)
            for tile in between[np.sort(np.unique(self._looks[between], return_index=True)[1])].tolist():
                line = None if found[tile] else self._round(tile, axis)
                if line is not None:
                    found[line.tiles] = True
                    yield line
        yield from self._with_bends()

    def _round(self, tile: int, axis: int) -> _Line | None:
        """The line that a tile may lie in the midst of."""
        near = self._near(tile, _NEAR)
        # Beside what is not drawn in its midst a line ends where nothing reaches the side alone.
        drawn = not self._ends[tile, _AXES[axis]].any()
        ends = self._ends[near] if drawn else ~self._reached[near]
        fits = self._as(near, tile, axis, ends)
        straight = ends[:, _AXES[1 - axis]].all(axis=1)
        line = self._line(near[straight], tile, axis, fits[straight])
        return None if line is None or self._swells(tile, line, axis) else line

    def _near(self, tile: int, cells: int) -> Numbers:
        """Those free tiles that lie up to so many cells away from one on the sheet."""
        return np.asarray(self._free[np.abs(self.at[self._free] - self.at[tile]).max(axis=1) <= cells])

    def _along(self, axis: int) -> Numbers:
        """Those tiles that go on over both sides of an axis, and no others."""
        sides, others = _AXES[axis], _AXES[1 - axis]
        both = self._reached[self._free][:, sides].all(axis=1) & self._ends[self._free][:, others].all(axis=1)
        return self._free[both]

    def _through(self, axis: int) -> Numbers:
        """Those tiles that do so where the outline of what goes on is about the same at both sides."""
        tiles = self._along(axis)
        one, other = (self._bands[side][tiles][:, :1, :, 3] >= _SOLID for side in _AXES[axis])
        return tiles[_same_outline(one, other[..., ::-1], _THROUGH)]

    def _between(self, axis: int) -> Numbers:
        """Those tiles that go on over both sides of an axis, and no others, and into themselves."""
        sides, tiles = _AXES[axis], self._along(axis)
        # It does so, too, where what is drawn beside it ends as it does itself: seams of planks show.
        as_drawn = ~self._ends[tiles][:, sides].any(axis=1)
        for side, far in (sides, sides[::-1]):
            as_drawn &= self._same_line(self._beside[tiles, side], tiles, far)
        return tiles[as_drawn | self._meet(tiles, sides[0], tiles)]

    def _as(self, tiles: Numbers, tile: int, axis: int, ends: Flags) -> NDArray[np.int8]:
        """What lies at two sides of some tiles, (m, 2): the same as at one, 1, an end, 0, or something else, -1."""
        found = []
        for side in _AXES[axis]:
            usual = np.maximum(_COLOUR, _GRAIN * self._grains[side][tile])
            same = self._reached[tiles, side] & _alike(self._bands[side][tiles], self._bands[side][[tile]], usual)
            found.append(np.where(same, 1, np.where(ends[:, side], 0, -1)))
        return np.stack(found, axis=1).astype(np.int8)

    def _together(self, near: Numbers, mine: Flags, tile: int) -> Flags:
        """Those of some tiles near one that lie together with it on their sheet, each beside another."""
        spots = np.zeros((2 * _FAR + 1, 2 * _FAR + 1), dtype=bool)
        at = self.at[near] - self.at[tile] + _FAR
        spots[at[:, 0], at[:, 1]] = mine
        pieces, _ = scipy.ndimage.label(spots, np.ones((3, 3)))
        return np.asarray(mine & (pieces[at[:, 0], at[:, 1]] == pieces[_FAR, _FAR]))

    def _line(self, near: Numbers, tile: int, axis: int, fits: NDArray[np.int8]) -> _Line | None:
        """A straight line with both of its ends; None if one is not there."""
        mine = self._together(near, _belong(fits), tile)
        shown = set(map(tuple, fits[mine].tolist()))
        if not shown >= {(0, 1), (1, 0), (1, 1)}:
            return None
        goes_on = np.zeros((int(mine.sum()), 4), dtype=bool)
        goes_on[:, _AXES[axis]] = fits[mine] > 0
        return _Line(near[mine], goes_on)

    def _swells(self, tile: int, line: _Line, axis: int) -> bool:
        """Whether what lies between the ends is thicker than these, and more so in its midst, as a boat is."""
        thick = self._thick[axis]
        middle, half = thick.shape[1] // 2, thick.shape[1] // 4
        ends = [thick[line.tiles[~line.goes_on[:, side]]].mean(axis=0) for side in _AXES[axis]]
        mine = thick[tile]
        grows = max(ends[0][middle:].mean() / mine[middle:].mean(), ends[1][:middle].mean() / mine[:middle].mean())
        outer = np.concatenate([mine[:half], mine[-half:]]).mean()
        bulges = mine[half:-half].mean() > _BULGE * outer
        return bool(grows < (_GROWS if bulges else _GROWS_CLEARLY))

    def _with_bends(self) -> Iterator[_Line]:
        """Lines that go across as one tile does and down as another near it, with enough bends or crossings.

        So many sides that show the same outline tell them: their colours need not go on from one into the other.
        """
        found = np.zeros(len(self.at), dtype=bool)
        downs = self._through(1)
        for tile in self._through(0).tolist():
            near = self._near(tile, _FAR)
            beside = downs[np.isin(downs, near)]
            if found[tile] or not len(beside):
                continue
            ends = ~self._reached[near]
            fits = self._as(near, tile, 0, ends)
            if not self._may_bend(near, fits):
                continue
            far = np.abs(self.at[beside] - self.at[tile]).sum(axis=1)
            for down in beside[np.argsort(far, kind="stable")[:_TRIED]].tolist():
                both = np.concatenate([fits, self._as(near, down, 1, ends)], axis=1)[:, [2, 1, 3, 0]]
                mine = self._together(near, _belong(both), tile)
                goes_on = both[mine] > 0
                if _leads_on(goes_on):
                    found[near[mine]] = True
                    yield _Line(near[mine], goes_on)
                    break

    def _may_bend(self, near: Numbers, fits: NDArray[np.int8]) -> bool:
        """Whether enough tiles that a line goes on into across go on up or down as well."""
        goes_on = self._reached[near].copy()
        goes_on[:, _AXES[0]] = fits > 0
        return _leads_on(goes_on[(fits >= 0).all(axis=1)])


def _leads_on(goes_on: Flags) -> bool:
    """Whether tiles that go on over some of their sides, (m, 4), have enough bends or crossings to lead anywhere."""
    turns = goes_on[:, _AXES[0]].any(axis=1) & goes_on[:, _AXES[1]].any(axis=1)
    return len(np.unique(goes_on[turns], axis=0)) >= _BENDS


def _belong(fits: NDArray[np.int8]) -> Flags:
    """Which tiles a line goes on into, and no others do."""
    return np.asarray((fits >= 0).all(axis=1) & (fits > 0).any(axis=1))


def _alike(bands: NDArray[np.uint8], others: NDArray[np.uint8], usual: Floats) -> Flags:
    """Which bands, (k, d, w, 4), show the same as others, (k or 1, d, w, 4): by their outlines, and their colours."""
    art, other_art = bands[..., 3] >= _SOLID, others[..., 3] >= _SOLID
    both, either = art & other_art, art | other_art
    count = both.sum(axis=(1, 2))
    apart = (_change(bands, others) * both).sum(axis=(1, 2)) / np.maximum(count, 1)
    met = (art[:, 0] & _grown(other_art[:, 0])) | (other_art[:, 0] & _grown(art[:, 0]))
    meets = met.sum(axis=1) >= _MEETS * either[:, 0].sum(axis=1)
    same_outline = meets & _same_outline(art, other_art)
    shade = np.abs(((bands[..., :3].astype(np.int32) - others[..., :3]) * both[..., None]).sum(axis=(1, 2))).sum(axis=1)
    few = 1 + _FEW / np.sqrt(np.maximum(count, 1))
    alike: Flags = (count > 0) & same_outline & (apart <= usual * few) & (shade <= _COLOUR * few * count)
    return alike


def _same_outline(art: Flags, other_art: Flags, differs: float = _OUTLINE) -> Flags:
    """Whether bands, (k, d, w), show something in the same places, (k,), but for a share."""
    both, either = art & other_art, art | other_art
    return np.asarray(both.sum(axis=(1, 2)) >= (1 - differs) * either.sum(axis=(1, 2)))


def _grain(bands: NDArray[np.uint8]) -> Floats:
    """How much colours of bands change from pixel to pixel away from the side, (k,)."""
    art = bands[..., 3] >= _SOLID
    both = art[:, 1:] & art[:, :-1]
    change = (_change(bands[:, 1:], bands[:, :-1]) * both).sum(axis=(1, 2))
    return np.asarray(change / np.maximum(both.sum(axis=(1, 2)), 1))


def _change(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> NDArray[np.int32]:
    """How far apart the colours of pixels are, of 765."""
    return np.asarray(np.abs(one[..., :3].astype(np.int32) - other[..., :3]).sum(axis=-1))


def _grown(art: Flags) -> Flags:
    """The same with a pixel more at each end of what is art."""
    grown = art.copy()
    grown[:, 1:] |= art[:, :-1]
    grown[:, :-1] |= art[:, 1:]
    return grown
