"""A key colour taken out of what it was mixed into: smoothed edges, and soft shadows that were drawn onto it.

Such a pixel is ``t * C + (1 - t) * K``, of a colour over the key ("over" of Porter and Duff, 1984). At a smoothed edge
C is what lies further inside, and a step or two away shows whole. A shadow is black that sets in faintly and grows.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

_Flat = NDArray[np.intp]

_AXES = ((1, 0), (-1, 0), (0, 1), (0, -1))
_ROUND = (*_AXES, (1, 1), (1, -1), (-1, 1), (-1, -1))
_LAYERS, _REACH = 2, 2
"""How many pixels wide a smoothed edge is at most, and how far further inside its colour is looked for."""
_OFF, _LEAST_APART = 14, 24
"""How far a mixed pixel may lie off the line between two colours, and how far these are apart at least (0 to 255)."""
_CLEAREST, _SOLID, _LEAST_STEP = 0.002, 0.94, 14
"""How much of a mixed pixel is art, from 0 to 1, and how far it is from what lies further inside at least."""
_WINDOW, _VOTE = 5, 0.35
"""A pixel is of a smoothed edge if this share of the edge round it is: one alone lies between two colours by chance."""
_STRAIGHT_FROM, _STRAIGHT_VOTE = 14, 0.8
"""From which length on an edge is straight, as that of a tile, which would be seen on the map were it mixed in part."""

_FAINT, _STEP, _EBB, _DEEPEST, _DARKEST = 16, 22, 3, 48, 0.6
"""How a shadow sets in, grows or ebbs from a pixel to the next (0 to 255), how wide and how dark one is at most."""
_HUE, _LEAST_OFF, _ROUNDED = 0.06, 3, 1.5
"""How far the hue of a shadow may be from the key's, of its distance from that, and from 0 to 255."""
_COLOURED, _CUT_OFF = 48, 6
"""How far the channels of a key lie apart that is no grey, and how far from a shadow others are that art cuts off.

A grey key is the harder case: much that is drawn is grey, so there a shadow is just of the key's hue.
"""
_GROWS, _FEWEST, _STRAIGHT = 1.25, 3, 0.45
"""How much darker a shadow is four pixels in than two, and how much of it is reached straight from the key.

Something grey on white is as dark there as further in, and can be come into at few places only.
"""
_LEAST_BRIGHT = 60

_LOOKED_AT = 1024
_MANY, _DISTINCT, _VARIED = 0.2, 32, 0.1
"""What share of an edge is mixed at least on sheets that are smoothed, in how many colours, and how few are alike."""


def unmix(picture: NDArray[np.uint8], key: NDArray[np.uint8], keyed: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """A picture of which what is mixed with a key colour lets shine through what lies behind it instead.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha. Only what is opaque is taken for mixed.
    key : (3,) or (H, W, 3) uint8
        The colour, or that of each pixel.
    keyed : (H, W) bool
        What is of that colour, or of another that is cleared.

    Returns
    -------
    picture : (H, W, 4) uint8
        A copy; over the key colour it looks as before. What is `keyed` stays as it is.
    """
    return _Mixed(picture, key, keyed).freed()


def is_smoothed(picture: NDArray[np.uint8], key: NDArray[np.uint8], keyed: NDArray[np.bool_]) -> bool:
    """Whether a sheet's edges are mixed with a key colour, by what lies in its middle.

    Black tells nothing: dark outlines and shades of hard art lie on the line to it.

    Parameters
    ----------
    picture, key, keyed
        As for `unmix`.
    """
    if int(key.max()) < _LEAST_BRIGHT:
        return False
    middle = tuple(slice(max(0, (size - _LOOKED_AT) // 2), (size + _LOOKED_AT) // 2) for size in keyed.shape)
    return _Mixed(picture[middle], key if key.ndim == 1 else key[middle], keyed[middle]).is_smoothed()


class _Edge(NamedTuple):
    """Pixels of an edge: where, how much of each is not the key's, and beside which one that lies further out."""

    at: _Flat
    share: NDArray[np.float32]
    outside: _Flat


class _Mixed:
    """What of a picture is mixed with a key colour, by the number of its pixels row by row."""

    def __init__(self, picture: NDArray[np.uint8], key: NDArray[np.uint8], keyed: NDArray[np.bool_]) -> None:
        # With a border that is clear, so that nothing beside a pixel lies off the picture.
        picture, keyed = np.pad(picture, (*[(_REACH, _REACH)] * 2, (0, 0))), np.pad(keyed, _REACH)
        self._shape, self._picture = keyed.shape, picture
        self._colours = np.ascontiguousarray(picture[..., :3]).reshape(-1, 3)
        self._plate = key if key.ndim == 1 else np.pad(key, (*[(_REACH, _REACH)] * 2, (0, 0)), "edge").reshape(-1, 3)
        self._bright = float(key.max())
        self._free = ((picture[..., 3] == 255) & ~keyed).ravel()
        self._is_coloured = key.ndim == 1 and bool(np.ptp(key) >= _COLOURED)
        # What lies behind an edge: the key, or a shadow on it, which is so much black.
        self._black = self._shadows(keyed)
        self._shadow = np.flatnonzero(self._black)
        self._behind = np.where(keyed.reshape(-1, 1), self._plate, self._colours)
        self._outside = keyed.ravel() | (self._black > 0)
        self._rim = 0
        self._edges = list(self._smoothed_edges())

    def freed(self) -> NDArray[np.uint8]:
        """The picture without the key in what is mixed with it."""
        freed = self._picture.copy()
        flat = freed.reshape(-1, 4)
        share = self._black[self._shadow]
        flat[self._shadow, :3] = np.rint(_over(self._key(self._shadow), self._colours[self._shadow], share))
        flat[self._shadow, 3] = np.rint(share * 255)
        for at, share, outside in self._edges:
            behind = self._behind[outside].astype(np.float32)
            colour = _over(behind, self._colours[at], share)
            alpha = share + (1 - share) * self._black[outside]
            flat[at, :3] = np.rint(colour * (share / alpha)[:, None])
            flat[at, 3] = np.rint(alpha * 255)
        return freed[_REACH:-_REACH, _REACH:-_REACH].copy()

    def is_smoothed(self) -> bool:
        """Whether enough of what lies beside the key is mixed with it, in enough colours."""
        mixed = self._edges[0].at if self._edges else self._shadow[:0]
        if len(mixed) < max(_DISTINCT, _MANY * self._rim):
            return False
        distinct = len(np.unique(self._colours[mixed], axis=0))
        return distinct >= max(_DISTINCT, _VARIED * len(mixed))

    def _key(self, at: _Flat) -> NDArray[np.float32]:
        """The key where some pixels lie, (N, 3)."""
        of_each = self._plate[at] if self._plate.ndim > 1 else np.broadcast_to(self._plate, (len(at), 3))
        return of_each.astype(np.float32)

    def _smoothed_edges(self) -> Iterator[_Edge]:
        inside, beside = self._free & ~self._outside, self._outside
        for layer in range(_LAYERS):
            rim = np.flatnonzero(_beside(beside.reshape(self._shape)).ravel() & inside)
            if not len(rim):
                return
            edge = self._elected(self._measured(rim, inside, beside), self._straight(inside, beside)[rim])
            if layer == 0:
                self._rim = len(rim)
            yield edge
            self._behind[edge.at], self._black[edge.at] = self._behind[edge.outside], self._black[edge.outside]
            inside = inside.copy()
            inside[edge.at] = False
            beside = np.zeros_like(inside)
            beside[edge.at] = True

    def _straight(self, inside: NDArray[np.bool_], beside: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Which pixels lie along straight borders."""
        straight = np.zeros(self._shape, dtype=np.bool_)
        for across, down in _AXES:
            border = inside & np.roll(beside, -(down * self._shape[1] + across))
            line = np.ones((1, _STRAIGHT_FROM) if down else (_STRAIGHT_FROM, 1), dtype=np.bool_)
            straight |= scipy.ndimage.binary_opening(border.reshape(self._shape), line)
        return straight.ravel()

    def _measured(self, rim: _Flat, inside: NDArray[np.bool_], beside: NDArray[np.bool_]) -> _Edge:
        """Of each pixel of a rim the best share of a colour further inside, over what lies opposite; 1 for none."""
        best = np.full(len(rim), np.inf, dtype=np.float32)
        share, outside = np.ones(len(rim), dtype=np.float32), rim.copy()
        for across, down in _ROUND:
            away = down * self._shape[1] + across
            is_out = beside[rim + away]
            for far in range(1, _REACH + 1):
                some = np.flatnonzero(is_out & inside[rim - far * away])
                out = rim[some] + away
                part, off = self._on_line(rim[some], out, rim[some] - far * away)
                better = off < best[some]
                taken = some[better]
                best[taken], share[taken], outside[taken] = off[better], part[better], out[better]
        return _Edge(rim, share, outside)

    def _on_line(self, at: _Flat, out: _Flat, further: _Flat) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """How far pixels lie along the line between two colours, and how far off it; infinitely far if not mixed."""
        behind = self._behind[out].astype(np.float32)
        way = self._colours[further] - behind
        long = _dot(way, way)
        gone = self._colours[at] - behind
        part: NDArray[np.float32] = np.divide(_dot(gone, way), np.maximum(long, 1), dtype=np.float32)
        off = _furthest(gone - part[:, None] * way)
        mixed = (off <= _OFF) & (part > _CLEAREST) & (part < _SOLID) & (long >= _LEAST_APART**2)
        mixed &= (1 - part) ** 2 * long >= _LEAST_STEP**2
        return part, np.where(mixed, off, np.inf).astype(np.float32)

    def _elected(self, edge: _Edge, straight: NDArray[np.bool_]) -> _Edge:
        """The pixels of a rim that are mixed as many round them are; nearly all, or none, where it is straight."""
        rims, mixed = (np.zeros(self._shape, dtype=np.uint8) for _ in range(2))
        rims.ravel()[edge.at] = 1
        mixed.ravel()[edge.at] = edge.share < 1
        for_it, all_of_it = (_added_up(one, _WINDOW).ravel()[edge.at] for one in (mixed, rims))
        # Where tiles are pale, all along their border may seem mixed with white.
        vote = np.where(straight, _STRAIGHT_VOTE if self._is_coloured else np.inf, _VOTE)
        kept = (edge.share < 1) & (for_it >= vote * all_of_it)
        return _Edge(edge.at[kept], edge.share[kept], edge.outside[kept])

    def _shadows(self, keyed: NDArray[np.bool_]) -> NDArray[np.float32]:
        """How much black lies on the key, per pixel; 0 where that is no shadow on it."""
        black = np.zeros(keyed.size, dtype=np.float32)
        if self._bright < _LEAST_BRIGHT:
            return black
        at = np.flatnonzero(_beside(keyed, 1).ravel() & self._free)
        darkness, is_black = self._darkness(at)
        depth = self._grow(black, at[is_black & (darkness * self._bright <= _FAINT)])
        black[~self._grown(black, depth, keyed)] = 0
        if self._is_coloured:
            # What is as dark a key near a shadow, with art between the two, as between blades of grass.
            away = scipy.ndimage.distance_transform_cdt((black == 0).reshape(self._shape), "chessboard").ravel()
            at = np.flatnonzero((away > 0) & (away <= _CUT_OFF) & self._free)
            darkness, is_black = self._darkness(at)
            self._grow(black, at[is_black & (darkness <= _DARKEST)])
        return black

    def _grow(self, black: NDArray[np.float32], at: _Flat) -> NDArray[np.uint8]:
        """Notes how dark a shadow is that begins at some pixels; returns how many pixels in it each is, or 0."""
        depth = np.zeros(black.size, dtype=np.uint8)
        darkness, _ = self._darkness(at)
        for level in range(1, _DEEPEST):
            if not len(at):
                break
            black[at], depth[at] = darkness, level
            to, before = self._next(at, depth)
            darker, is_black = self._darkness(to)
            grows = (darker - black[before]) * self._bright
            set_in = is_black & (grows <= _STEP) & (grows >= -_EBB) & (darker <= _DARKEST)
            at, first = np.unique(to[set_in], return_index=True)
            darkness = darker[set_in][first]
        return depth

    def _next(self, at: _Flat, depth: NDArray[np.uint8]) -> tuple[_Flat, _Flat]:
        """The free pixels beside some that have no depth yet, each with the one that it lies beside."""
        pairs = []
        for across, down in _AXES:
            to = at + down * self._shape[1] + across
            new = self._free[to] & (depth[to] == 0)
            pairs.append((to[new], at[new]))
        to, before = (np.concatenate(some) for some in zip(*pairs, strict=True))
        return to, before

    def _darkness(self, at: _Flat) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
        """How much black would have to lie on the key to look as pixels do, and whether it is black that does."""
        key = self._key(at)
        gone = key - self._colours[at]
        part: NDArray[np.float32] = np.divide(_dot(gone, key), _dot(key, key), dtype=np.float32)
        off = _furthest(gone - part[:, None] * key)
        most = np.maximum(_LEAST_OFF, _HUE * part * np.sqrt(_dot(key, key))) if self._is_coloured else _ROUNDED
        return part, (part > 0) & (off <= most)

    def _grown(
        self, black: NDArray[np.float32], depth: NDArray[np.uint8], keyed: NDArray[np.bool_]
    ) -> NDArray[np.bool_]:
        """Which pixels are of shadows that grow, all along the key."""
        areas, count = scipy.ndimage.label((depth > 0).reshape(self._shape), np.ones((3, 3)))
        areas = areas.ravel()
        straight = scipy.ndimage.distance_transform_cdt(~keyed, "taxicab").ravel() == depth
        mean, many = {}, {}
        for level in (2, 4):
            there = depth == level
            many[level] = np.bincount(areas[there], minlength=count + 1)
            dark = np.bincount(areas[there], black[there], count + 1)
            mean[level] = dark / np.maximum(many[level], 1)
        grows = (many[4] >= _FEWEST) & (mean[4] >= _GROWS * mean[2])
        grows &= np.bincount(areas[straight], minlength=count + 1) >= _STRAIGHT * np.bincount(
            areas, minlength=count + 1
        )
        grows[0] = False
        grown: NDArray[np.bool_] = grows[areas]
        return grown


def _over(behind: NDArray[np.float32], seen: NDArray[np.uint8], share: NDArray[np.float32]) -> NDArray[np.float32]:
    """The colours that look as what is seen if they lie over others with such an alpha, as near as there are."""
    colours: NDArray[np.float32] = np.clip(behind + (seen - behind) / share[:, None], 0, 255)
    return colours


def _beside(area: NDArray[np.bool_], ways: int = 2) -> NDArray[np.bool_]:
    """An area and what lies beside it, along the axes only with one way, also across corners with two; (H, W)."""
    near = area.copy()
    near[1:] |= area[:-1]
    near[:-1] |= area[1:]
    reached = area if ways == 1 else near.copy()
    near[:, 1:] |= reached[:, :-1]
    near[:, :-1] |= reached[:, 1:]
    return near


def _added_up(numbers: NDArray[np.uint8], window: int) -> NDArray[np.uint8]:
    """The sum of all numbers in a square round each, (H, W)."""
    padded = np.pad(numbers, window // 2)
    down = sum((padded[at : at + len(numbers)] for at in range(1, window)), padded[: len(numbers)])
    wide = numbers.shape[1]
    added: NDArray[np.uint8] = sum((down[:, at : at + wide] for at in range(1, window)), down[:, :wide])
    return added


def _dot(one: NDArray[np.float32], other: NDArray[np.float32]) -> NDArray[np.float32]:
    """The products of (N, 3) ways."""
    product: NDArray[np.float32] = np.einsum("ij,ij->i", one, other)
    return product


def _furthest(ways: NDArray[np.float32]) -> NDArray[np.float32]:
    """The most that (N, 3) ways lead away in a channel."""
    away = np.abs(ways)
    return np.maximum(np.maximum(away[:, 0], away[:, 1]), away[:, 2])
