"""Sets of art that stands on clear diamonds, as walls and woods do: told by what of it reaches the sides of tiles."""

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.blocks import NEARLY, Likely, best_apart, covered_share, places_of
from knitground.core.joins.found import FoundSet
from knitground.core.joins.look import Floats
from knitground.core.joins.reach import alike, reached_sides, read_standing, split
from knitground.core.joins.sets import JoinKind

STANDING_AT = 12
"""How many likely blocks are read closely."""
_KINDS: tuple[JoinKind, ...] = ("edge", "corner")
_LIKELY, _MOTLEY = 0.2, 0.6
_EXPLAINED = (2.6, 2.72, 3.0, 3.4), (0.0, 0.45, 0.7, 1.0)
"""How well labels have to explain a family, and cover it, for how much confidence; measured on many sheets."""


def standing_sets(tiles: NDArray[np.uint8], spots: NDArray[np.intp], number: NDArray[np.intp]) -> Iterator[FoundSet]:
    """Sets of art that stands on clear diamonds: what reaches each side is looked at first, then all that it covers.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        RGBA, straight alpha.
    spots : (n, 2) intp
        Row and column of each.
    number : (R, C) intp
        The number of the tile in each cell, -1 for none.
    """
    likely = sorted(_reaching(tiles, number), key=lambda one: -one.score)
    for one in best_apart(likely, len(tiles), STANDING_AT):
        reached = read_standing(tiles[one.tiles], one.kind)
        covered = covered_share(reached.labels, one.kind)
        if covered >= NEARLY:
            confidence = round(float(np.interp(reached.merit + covered, *_EXPLAINED)), 3)
            yield FoundSet(one.kind, spots[one.tiles][:, ::-1], reached.labels, reached.sure, covered, confidence)


def _reaching(tiles: NDArray[np.uint8], number: NDArray[np.intp]) -> Iterator[Likely]:
    """Blocks in one set of colours, of whose tiles about half reach each side, nearly all in other combinations."""
    amounts = tiles[..., 3] / 255.0
    spread = _spread_of_colours(tiles, amounts)
    for kind in _KINDS:
        # The last tile stands for all that are not there.
        shown = np.pad(reached_sides(amounts, kind), ((0, 0), (0, 1), (0, 0)))
        for blocks, usual in places_of(kind, number):
            if usual < 1 or not len(blocks):
                continue
            seen = shown[:, blocks]
            labels = split(seen)
            halves = 2 * np.minimum(labels.mean(axis=2), 1 - labels.mean(axis=2)).mean(axis=2)
            codes = np.sort(labels @ 2 ** np.arange(labels.shape[3]), axis=2)
            different = 1 + (np.diff(codes, axis=2) > 0).sum(axis=2)
            scores = (different / 16 * alike(seen, labels).mean(axis=2) * np.sqrt(halves)).max(axis=0)
            scores *= 1 - _MOTLEY * spread(blocks)
            for block, score in zip(blocks, scores.tolist(), strict=True):
                if score >= _LIKELY:
                    yield Likely(kind, block[block >= 0], score)


def _spread_of_colours(tiles: NDArray[np.uint8], amounts: Floats) -> Callable[[NDArray[np.intp]], Floats]:
    """Tells how far the colours of the tiles of blocks, (B, m), lie apart against those of all; from 0 to 1."""
    much = amounts.sum(axis=(1, 2))[:, None]
    mean = (tiles[..., :3] * amounts[..., None]).sum(axis=(1, 2)) / np.maximum(much, 1e-9)
    moments = np.pad(np.concatenate([much, much * mean, much * mean**2], axis=1), ((0, 1), (0, 0)))

    def variance(sums: Floats) -> Floats:
        many = np.maximum(sums[..., :1], 1e-9)
        of_each: Floats = (sums[..., 4:] / many - (sums[..., 1:4] / many) ** 2).sum(axis=-1)
        return of_each

    whole = float(variance(moments.sum(axis=0))) + 1e-9
    return lambda blocks: np.minimum(1, variance(moments[blocks].sum(axis=1)) / whole)
