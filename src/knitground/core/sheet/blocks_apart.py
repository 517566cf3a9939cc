"""Blocks of tiles of one size that lie apart on clear ground, by any number of pixels: no one grid goes over all.

Each block is full to its corners, so that its tiles begin there, and what is guessed of each by itself has to agree.
"""

from functools import reduce
from math import log

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut, Rect, tile_rect
from knitground.core.sheet.guess import guess_cuts
from knitground.core.sheet.part import pitch_of
from knitground.core.sheet.plausible import Hints, Sizes
from knitground.core.sheet.profile import SMALLEST_TILE

_MOST_BLOCKS, _FEWEST_PARTS = 12, 6
_GUTTER, _FULL = 2, 0.75
"""How many clear pixels are no more than a gutter, and what share of a block is filled at the least."""
_SURE, _UNSEEN = 0.5, 0.01
"""How sure all have to be of the same numbers on average, and how sure one is of numbers that it doesn't show."""
_SUREST, _HARDLY = 0.9, 0.3
"""How sure one block has to be where others of its size are not, and how likely its numbers are on these on average,
against those that they show by themselves."""

_Numbers = tuple[int, int, int, int]


def blocks_apart(picture: NDArray[np.uint8], filled: NDArray[np.bool_], known: Sizes = ()) -> list[Cut]:
    """The cuts of blocks that lie apart and are all cut alike, from above and from the left; none if it isn't so.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    filled : (H, W) bool
        What is neither clear nor written.
    known : collection of (width, height)
        Sizes that tiles are likely to have.
    """
    blocks = _blocks(filled)
    if not 2 <= len(blocks) <= _MOST_BLOCKS:
        return []
    shown = [_flush(picture[block.slices()], known) for block in blocks]
    odds = {
        numbers: sum(log(max(one.get(numbers, 0.0), _UNSEEN)) for one in shown)
        for numbers in {numbers for one in shown for numbers in one}
        if all(_parts(block, numbers) >= _FEWEST_PARTS for block in blocks)
    }
    if not odds:
        return []
    width, height, across, down = best = max(odds, key=lambda numbers: odds[numbers])
    if odds[best] < len(blocks) * log(_SURE) and not (_may_be_alike(blocks) and _settles(best, odds[best], shown)):
        return []
    return [Cut("", width, height, 0, 0, across, down, region=block) for block in blocks]


def goes_on_over(whole: Cut, block: Cut) -> bool:
    """Whether the tiles of a block are tiles of a grid that goes on over the whole sheet, to the pixel."""
    first, mine = tile_rect(whole, 0, 0), tile_rect(block, 0, 0)
    alike = (first.width, first.height) == (mine.width, mine.height) and pitch_of(whole) == pitch_of(block)
    return alike and (first.x - mine.x) % whole.pitch_x == 0 == (first.y - mine.y) % whole.pitch_y


def _blocks(filled: NDArray[np.bool_]) -> list[Rect]:
    """Rectangles of art, gutters included; none where anything else lies between them."""
    joined = scipy.ndimage.binary_closing(np.pad(filled, _GUTTER + 1), np.ones((_GUTTER + 2,) * 2, bool))
    joined = joined[_GUTTER + 1 : -_GUTTER - 1, _GUTTER + 1 : -_GUTTER - 1] | filled
    found = [
        Rect(at[1].start, at[0].start, at[1].stop - at[1].start, at[0].stop - at[0].start)
        for at in scipy.ndimage.find_objects(scipy.ndimage.label(joined, np.ones((3, 3)))[0])
    ]
    blocks = [one for one in found if _is_full(filled[one.slices()])]
    if len(blocks) < 2:
        return []
    within = reduce(Rect.with_other, blocks)
    between = any(within.touches(one) for one in found if one not in blocks)
    return [] if between else sorted(blocks, key=lambda one: (one.y, one.x))


def _is_full(block: NDArray[np.bool_]) -> bool:
    """Whether art fills a rectangle to its corners, but for gutters, and there is room for tiles."""
    large = min(block.shape) >= 2 * SMALLEST_TILE
    return bool(large and block[np.ix_([0, -1], [0, -1])].all() and block.mean() >= _FULL)


def _flush(block: NDArray[np.uint8], known: Sizes) -> dict[_Numbers, float]:
    """How sure a block is by itself of tiles that fill it from edge to edge, by their size and spacing."""
    height, width = block.shape[:2]
    return {
        (one.tile_width, one.tile_height, one.spacing_x, one.spacing_y): one.confidence
        for one in guess_cuts(np.ascontiguousarray(block), hints=Hints(known, whole=False))
        if one.margin_x == one.margin_y == 0
        and (width + one.spacing_x) % (one.tile_width + one.spacing_x) == 0
        and (height + one.spacing_y) % (one.tile_height + one.spacing_y) == 0
    }


def _may_be_alike(blocks: list[Rect]) -> bool:
    """Whether blocks are of one size, and no tiles themselves that one grid goes on over."""
    steps = [np.diff(sorted(places)) for places in ({one.x for one in blocks}, {one.y for one in blocks})]
    even = len(blocks) > 2 and all(len(set(one.tolist())) <= 1 for one in steps)
    return len({(one.width, one.height) for one in blocks}) == 1 and not even


def _settles(numbers: _Numbers, odds: float, shown: list[dict[_Numbers, float]]) -> bool:
    """Whether blocks are cut as the surest of them is, as the others would hardly rather be cut otherwise."""
    alone = sum(log(max(one.values(), default=_UNSEEN)) for one in shown)
    return max(one.get(numbers, 0.0) for one in shown) >= _SUREST and odds - alone >= len(shown) * log(_HARDLY)


def _parts(block: Rect, numbers: _Numbers) -> int:
    """How many tiles a block holds, given their size and spacing; none if they don't fill it."""
    width, height, across, down = numbers
    if (block.width + across) % (width + across) or (block.height + down) % (height + down):
        return 0
    return (block.width + across) // (width + across) * ((block.height + down) // (height + down))
