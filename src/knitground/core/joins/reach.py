"""Reading labels off art that repeats nowhere: by how far it reaches at each place of a tile.

Hills, woods and leaves share no pixels from tile to tile. What their tiles share is how much of a strip along each
side is covered. So a tile is taken for a sum: what all tiles show, and what each place adds where its label says that
the art goes on. Labels and sums are found in turn, each from the other, beginning with how much lies in strips of
several depths, and the labels are dealt like cards, because a family holds each combination about equally often.

Things that stand up cover what lies behind them. On isometric tiles the strips are therefore tried at several heights.

References
----------
P. Paatero and U. Tapper, "Positive matrix factorization", Environmetrics 5 (1994), here with factors of 0 and 1.
H. W. Kuhn, "The Hungarian method for the assignment problem", Naval Research Logistics 2 (1955).
"""

from dataclasses import dataclass
from functools import cache
from itertools import permutations, product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.coverage import is_formed
from knitground.core.joins.look import Floats, diamond_height, place_windows, seen_colours
from knitground.core.joins.sets import JoinKind
from knitground.core.sheet.cut import TileShape

Groups = NDArray[np.intp]
_CORNERS, _EDGES = ((0.0, 0.0), (0.0, 1.0), (1.0, 1.0), (1.0, 0.0)), ((0.0, 0.5), (0.5, 1.0), (1.0, 0.5), (0.5, 0.0))
_SPOTS: dict[JoinKind, tuple[tuple[float, float], ...]] = {
    "corner": _CORNERS,
    "edge": _EDGES,
    "full": (*_CORNERS, *_EDGES),
}
"""Down and across, of each place on a tile laid flat."""
_LIFTS = (0.0, 0.1, 0.2, 0.3, 0.4)
"""How far up strips are looked for, in sides of a tile laid flat."""
_STRIPS = ((0.06, 0.12), (0.12, 0.18), (0.18, 0.18))
"""Depth and length of strips."""
_AROUND = (0.22, 0.3)
"""Depth and length of what a label may change."""
_ACROSS, _ACROSS_QUICKLY = 32, 16
_ROUNDS = 15
_AGAIN = 4.0
_TIED = 0.3
_COMPLETE = 0.5
_IN_ORDER = 0.08
_FAMILY = 12
_CLEAR = 0.12
_DOUBTFUL, _STANDING = 0.7, 0.95
"""Below which mean confidence colours are not enough, and where art stands on clear ground."""


_CLEARNESS, _CONFIDENCE = (0.0, 0.3, 0.65, 0.9), (0.0, 0.6, 0.92, 1.0)
"""How much worse the next combination has to explain a tile for how much confidence; measured on many families."""


class Reached(NamedTuple):
    """What was read: labels of 0 and 1, (n, P), how clear each tile is, (n,), and how well all of it is explained."""

    labels: Groups
    sure: Floats
    merit: float


class _Strips(NamedTuple):
    """Where a label may change a picture, (P, pixels), and how much each tile shows close to each place, (n, P)."""

    around: Floats
    shown: Floats


@dataclass(frozen=True)
class _Family:
    """The combinations of a kind, (K, P), and pairs of labels that together change more than each alone."""

    combinations: Groups
    pairs: tuple[tuple[int, int], ...]

    def terms(self, labels: Groups) -> Floats:
        """One, the labels, and the pairs, (n, T)."""
        together = [labels[:, one] * labels[:, other] for one, other in self.pairs]
        return np.column_stack([np.ones(len(labels)), labels, *together]).astype(np.float64)


def in_doubt(tiles: NDArray[np.uint8], shape: TileShape, confidence: Floats) -> bool:
    """Whether colours at the places leave the labels of a family in doubt, or art stands on clear diamonds.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
    shape : TileShape
    confidence : (n,) float64
        Of the reading by colours.
    """
    if len(tiles) < _FAMILY:
        return False
    return bool(confidence.mean() < (_STANDING if stands_clear(tiles, shape) else _DOUBTFUL))


def stands_clear(tiles: NDArray[np.uint8], shape: TileShape) -> bool:
    """Whether tiles are diamonds that art stands on with much of them left clear.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    shape : TileShape
    """
    return shape == "isometric" and bool((seen_colours(tiles, shape)[..., 3] < 0.05).mean() > _CLEAR)


def reached_sides(amounts: Floats, kind: JoinKind) -> Floats:
    """How much lies near each place of isometric tiles, looked for at several heights; a quick first look.

    Parameters
    ----------
    amounts : (n, h, w) float64
        How much there is in each pixel, from 0 to 1.
    kind : JoinKind

    Returns
    -------
    shown : (L, n, P) float64
        For each height and strip.
    """
    pixels, size = _coarse(amounts, _ACROSS_QUICKLY)
    windows = np.stack([_windows(kind, size, "isometric", strip, lift) for lift in _LIFTS for strip in _STRIPS])
    shown: Floats = pixels @ np.swapaxes(windows / (windows.sum(axis=2, keepdims=True) + 1e-9), 1, 2)
    return shown


def read_standing(tiles: NDArray[np.uint8], kind: JoinKind) -> Reached:
    """Labels for isometric tiles of art on clear ground, a little more coarsely than `read_reach` does it.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
    kind : JoinKind
    """
    return _read(tiles[..., 3] / 255.0, kind, "isometric", (), _ACROSS_QUICKLY)


def read_reach(tiles: NDArray[np.uint8], kind: JoinKind, shape: TileShape, halves: Groups) -> Reached | None:
    """Labels for tiles of two terrains, the second being where there is more; None where there is nothing to tell.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Isometric ones as they stand on the sheet, their diamond at the bottom.
    kind : JoinKind
        One with labels at corners, edges or both.
    shape : TileShape
    halves : (n, P) intp
        Which of two groups of colours each place belongs to, 0 or 1: what there is more or less of.
    """
    flat = seen_colours(tiles, shape)
    seen = np.einsum("pyx,nyxc->npc", place_windows(kind, *flat.shape[1:3]), flat)
    if halves.min() == halves.max():
        return None
    if (flat[..., 3] < 0.05).mean() > _CLEAR:
        return _read(tiles[..., 3] / 255.0, kind, shape, ())
    low, high = seen[halves == 0].mean(axis=0), seen[halves == 1].mean(axis=0)
    axis = (high - low) / (((high - low) ** 2).sum() + 1e-12)
    amounts = np.clip((seen_colours(tiles, "square") - low) @ axis, 0, 1)
    one = _read(amounts, kind, shape, (halves,))
    other = _read(1 - amounts, kind, shape, (1 - halves,)) if kind == "full" else one
    return max(one, other, key=lambda reached: reached.merit)


def _read(
    amounts: Floats, kind: JoinKind, shape: TileShape, starts: tuple[Groups, ...], across: int = _ACROSS
) -> Reached:
    """Labels by how much there is in each pixel, (n, h, w), beginning with strips and with other labels."""
    family, (pixels, size) = _family(kind), _coarse(amounts, across)
    found: list[Reached] = []
    for lift in _LIFTS if shape == "isometric" else _LIFTS[:1]:
        around = _windows(kind, size, shape, _AROUND, lift / 2)
        for strip in _STRIPS:
            narrow = _windows(kind, size, shape, strip, lift)
            strips = _Strips(around, pixels @ (narrow / (narrow.sum(axis=1, keepdims=True) + 1e-9)).T)
            found += [_explained(pixels, start, strips, family) for start in (split(strips.shown), *starts)]
            orders = sorted(_in_order(kind, len(pixels)), key=lambda labels: -alike(strips.shown, labels).sum())
            found += [_fitted(pixels, labels, strips, family, _IN_ORDER) for labels in orders[:2]]
    return max(found, key=lambda one: one.merit)


def _coarse(amounts: Floats, across: int) -> tuple[Floats, tuple[int, int]]:
    """Softened pictures of few pixels, (n, pixels), and their height and width."""
    from scipy import ndimage

    high, wide = amounts.shape[1:]
    soft = 0.03 * wide
    step = max(1, wide // across)
    few = ndimage.gaussian_filter(amounts, (0, soft * (0.5 if wide > high else 1), soft))[:, ::step, ::step]
    return few.reshape(len(few), -1), (few.shape[1], few.shape[2])


def _windows(
    kind: JoinKind, size: tuple[int, int], shape: TileShape, spread: tuple[float, float], lift: float
) -> Floats:
    """How near each pixel is to each place, (P, pixels), `lift` higher up in the picture."""
    high, wide = size
    y, x = np.mgrid[0:high, 0:wide] + 0.5
    down, across = y / high, x / wide
    if shape == "isometric":
        low = diamond_height(high, wide)
        row = (y - (high - low)) / low
        down, across = row - across + 0.5 + lift, across + row - 0.5 + lift
    deep, long = spread
    return np.stack([
        np.exp(-0.5 * ((down - v) / (long if v == 0.5 else deep)) ** 2
               - 0.5 * ((across - u) / (long if u == 0.5 else deep)) ** 2).ravel()
        for v, u in _SPOTS[kind]
    ])  # fmt: skip


@cache
def _family(kind: JoinKind) -> _Family:
    if kind == "full":
        every = [labels for labels in product((0, 1), repeat=8) if is_formed(labels)]
        return _Family(np.array(every), ())
    every = list(product((0, 1), repeat=4))
    return _Family(np.array(every), tuple((place, (place + 1) % 4) for place in range(4)))


@cache
def _in_order(kind: JoinKind, count: int) -> list[Groups]:
    """Labels of families that are laid out by counting in twos, whichever place counts for most."""
    if kind == "full" or count not in (15, 16):
        return []
    counted = np.array(list(product((0, 1), repeat=4)))[16 - count :]
    return [counted[:, list(order)] for order in permutations(range(4))]


def split(shown: Floats) -> Groups:
    """Each column in two, where that leaves the least spread within the halves (Otsu's threshold), (..., n, P).

    Parameters
    ----------
    shown : (..., n, P) float64
    """
    order = np.sort(shown, axis=-2)
    count = np.arange(1, order.shape[-2])[:, None]
    sums, squares = np.cumsum(order, axis=-2), np.cumsum(order**2, axis=-2)
    low = squares[..., :-1, :] - sums[..., :-1, :] ** 2 / count
    rest = sums[..., -1:, :] - sums[..., :-1, :]
    high = squares[..., -1:, :] - squares[..., :-1, :] - rest**2 / (order.shape[-2] - count)
    first = np.argmin(low + high, axis=-2)[..., None, :]
    border = np.take_along_axis(order, first, -2) + np.take_along_axis(order, first + 1, -2)
    above: Groups = (shown > border / 2).astype(np.intp)
    return above


def _explained(pixels: Floats, labels: Groups, strips: _Strips, family: _Family) -> Reached:
    """Labels after sums and labels were found from each other until both stay."""
    for _ in range(_ROUNDS):
        costs = _costs(pixels, labels, strips, family)
        dealt = family.combinations[_dealt(costs)]
        if np.array_equal(dealt, labels):
            break
        labels = dealt
    return _fitted(pixels, labels, strips, family)


def _sums(pixels: Floats, labels: Groups, strips: _Strips, family: _Family) -> Floats:
    """What each term adds to each pixel, (T, pixels): least squares, tied to nothing far from a label's place."""
    terms = family.terms(labels)
    ties = np.empty((pixels.shape[1], terms.shape[1]))
    places = labels.shape[1]
    ties[:, 0] = 1e-3
    ties[:, 1 : 1 + places] = (_TIED / (strips.around + 0.03)).T
    for number, (one, other) in enumerate(family.pairs):
        shared = np.minimum(1, strips.around[one] * strips.around[other] * 2)
        ties[:, 1 + places + number] = 2 * _TIED / (shared + 0.02)
    normal = (terms.T @ terms)[None] + np.eye(terms.shape[1])[None] * ties[:, :, None]
    solved = np.linalg.solve(normal, (terms.T @ pixels).T[:, :, None])[:, :, 0].T

    return np.asarray(solved, dtype=np.float64)


def _costs(pixels: Floats, labels: Groups, strips: _Strips, family: _Family) -> Floats:
    """How badly each combination explains each tile, (n, K); pixels count by how well they are explained at all."""
    sums = _sums(pixels, labels, strips, family)
    expected = family.terms(family.combinations) @ sums
    spread = ((pixels - family.terms(labels) @ sums) ** 2).mean(axis=0) + 0.02
    own = (pixels**2 / spread).sum(axis=1)[:, None]
    costs: Floats = own - 2 * (pixels / spread) @ expected.T + (expected**2 / spread).sum(axis=1)
    return costs


def _dealt(costs: Floats) -> Groups:
    """The combination of each tile, so that all together cost least, where every further copy of one costs more."""
    from scipy.optimize import linear_sum_assignment

    count, combinations = costs.shape
    free = -(-count // combinations)
    least = np.partition(costs, 1, axis=1)[:, :2]
    step = _AGAIN * (np.median(np.abs(least[:, 1] - least[:, 0])) + 1e-9)
    copies = np.concatenate([costs + step * max(0, copy - free + 1) for copy in range(free + 3)], axis=1)
    return np.asarray(linear_sum_assignment(copies)[1] % combinations)


def _fitted(pixels: Floats, labels: Groups, strips: _Strips, family: _Family, bonus: float = 0.0) -> Reached:
    """How well labels explain what is seen: in all pixels, close to the places, and as a family that is complete."""
    sums = _sums(pixels, labels, strips, family)
    left = ((pixels - family.terms(labels) @ sums) ** 2).sum()
    share = 1 - left / (((pixels - pixels.mean(axis=0)) ** 2).sum() + 1e-9)
    close = float(alike(strips.shown, labels).mean())
    complete = len(np.unique(labels, axis=0)) / min(len(family.combinations), len(labels))
    merit = float(share + _COMPLETE * complete + close + bonus)
    ranked = np.sort(_costs(pixels, labels, strips, family), axis=1)
    clear = 1 - ranked[:, 0] / np.maximum(ranked[:, 1], 1e-9)
    return Reached(labels, np.interp(clear, _CLEARNESS, _CONFIDENCE) * np.clip(merit - 1.0, 0, 1), merit)


def alike(shown: Floats, labels: Groups) -> Floats:
    """For each place the share of the spread in what is shown there that its labels explain, more where 1 is; (..., P).

    Parameters
    ----------
    shown : (..., n, P) float64
    labels : (..., n, P) intp
    """
    mine = labels - labels.mean(axis=-2, keepdims=True)
    seen = shown - shown.mean(axis=-2, keepdims=True)
    both = np.maximum(0, (mine * seen).sum(axis=-2)) ** 2
    share: Floats = both / ((mine**2).sum(axis=-2) * (seen**2).sum(axis=-2) + 1e-12)
    return share
