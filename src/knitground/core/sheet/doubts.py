"""What the pixels of a sheet leave open about its cut: settled by what is plausible, or offered as second and third.

Where a picture has few rows, neither their pitch nor how it is split can be measured well. Then it counts that spacing
is mostly the same across and down, that whole tiles mostly reach to the far edge, and that a tile is mostly of a usual
size and not a pixel or two larger.
"""

from collections.abc import Iterator

from knitground.core.sheet.axes import USUAL, Axis, Pair, prior
from knitground.core.sheet.profile import SMALLEST_TILE

_UNSEEN = 0.5
_NEARLY, _FEW, _LOOKED_AT = 0.85, 4, 80
_HALF_AS_GOOD = 0.35
_ROUND = {8, 16, 24, 32, 40, 48, 64, 80, 96, 128, 256}
_TILES_THEMSELVES = {10, 12, 18, 20, 21, 36, 42}
"""Sizes that tiles have, though they are a usual one with a spacing of 1 or 2 as well."""
_CENTRED, _LEAST_PADDING = 0.35, 4


def ordered(ranked: list[Pair], width: int, height: int) -> list[Pair]:
    """Pairs, the most plausible first, so that the second and third differ from it in what is most in doubt.

    Parameters
    ----------
    ranked : list of Pair
        By their scores, the best first.
    width, height : int
        Of the picture.
    """
    first, told = _settled(ranked, width, height)
    others = _each_once([first, *ranked])[1:]
    if not first[1].spacing:
        told += [pair for pair in others if _halves(pair, first) and pair[0] > _HALF_AS_GOOD * first[0]][:1]
    return _each_once([first, *told, *_in_doubt([first, *others], width, height)[1:]])


def _settled(ranked: list[Pair], width: int, height: int) -> tuple[Pair, list[Pair]]:
    """The most plausible pair, where the pixels hardly tell it from the best, and what it was preferred to."""
    first = _near_that_fits(ranked, width, height)
    told = list(_evenly_spaced(first, width, height))[:1]
    if told and _fit(told[0], width, height) and not _fit(first, width, height):
        first, told = told[0], [first]
    doubled = _centred_in(first, ranked)
    if doubled is not None:
        first, told = doubled, [first]
    usual = _of_usual_size(first, width, height)
    if usual is None:
        return first, told
    known = {first[1].tile, first[2].tile} & _TILES_THEMSELVES
    return (first, [usual, *told]) if known else (usual, [first, *told])


def _halves(one: Pair, other: Pair) -> bool:
    """Whether both pitches of one are half as large as those of the other."""
    return all(2 * a.pitch == b.pitch for a, b in zip(one[1:], other[1:], strict=True))


def _in_doubt(ranked: list[Pair], width: int, height: int) -> list[Pair]:
    """The same pairs, so that the second and the third differ from the first in what is most in doubt.

    That is how a pitch is split into tile and spacing, and whether the pitch is a multiple of the true one; which
    margin it is can be seen and dragged right.
    """
    first, others = ranked[0], ranked[1:]
    splits = (pair for pair in others if _same_pitch(pair, first) and pair[1].tile != first[1].tile)
    split = next((pair for pair in splits if pair[1].spacing == pair[2].spacing), None) or _split_of(
        first, width, height
    )
    different = [pair for pair in others if not _same_pitch(pair, first)]
    # Most pitches that are wrong are too large; where they are not, the next best is.
    parts = [pair for pair in different if _goes_into(pair, first)]
    if different and parts and _goes_into(first, different[0]):
        parts.insert(0, different[0])
    pitches = parts or different
    told = sorted([*([split] if split else []), *pitches[: 1 if split else 2]], key=lambda pair: -pair[0])
    return [first, *told, *(pair for pair in others if pair not in told)]


def _same_pitch(one: Pair, other: Pair) -> bool:
    return all(a.pitch == b.pitch for a, b in zip(one[1:], other[1:], strict=True))


def _goes_into(one: Pair, other: Pair) -> bool:
    """Whether the pitches of one go into those of the other."""
    return all(b.pitch % a.pitch == 0 for a, b in zip(one[1:], other[1:], strict=True))


def _split_of(pair: Pair, width: int, height: int) -> Pair | None:
    """A split of a pitch into tiles of a usual size, where neither the pixels speak for one nor the pitch is usual."""
    score, *axes = pair
    found = []
    for spacing in range(1, 5):
        tiles = [axis.pitch - spacing for axis in axes]
        if axes[0].tile in USUAL or not all(tile in USUAL for tile in tiles):
            continue
        for margin in (0, spacing):
            likely = prior(tiles[0], margin, spacing, width) * prior(tiles[1], margin, spacing, height)
            found.append((likely, [Axis(tile, margin, spacing, score / 2) for tile in tiles]))
    if not found:
        return None
    _, (across, down) = max(found, key=lambda one: one[0])
    return score * _UNSEEN, across, down


def _fit(pair: Pair, width: int, height: int) -> bool:
    return pair[1].fits(width) and pair[2].fits(height)


def _each_once(pairs: list[Pair]) -> list[Pair]:
    found: dict[tuple[int, ...], Pair] = {}
    for pair in pairs:
        found.setdefault((*pair[1][:3], *pair[2][:3]), pair)
    return list(found.values())


def _near_that_fits(ranked: list[Pair], width: int, height: int) -> Pair:
    """The best pair, or one nearly as good that fits the picture where few tiles can't tell the pitch to a pixel."""
    best = ranked[0]
    if _fit(best, width, height):
        return best
    for pair in ranked[1:_LOOKED_AT]:
        if pair[0] < _NEARLY * best[0]:
            break
        axes = ((pair[1], best[1], width), (pair[2], best[2], height))
        if all(one[:3] == other[:3] or _corrects(one, other, length) for one, other, length in axes):
            return pair
    return best


def _corrects(one: Axis, other: Axis, length: int) -> bool:
    """Whether an axis fits where another one, whose pitch is all but the same, does not."""
    near = 0 < abs(one.pitch - other.pitch) <= 2 and one.margin == other.margin
    return near and other.repeats(length) <= _FEW and one.fits(length) and not other.fits(length)


def _evenly_spaced(pair: Pair, width: int, height: int) -> Iterator[Pair]:
    """The pair with the larger spacing of the two on both axes, the better fits first."""
    score, x, y = pair
    if x.spacing == y.spacing:
        return
    narrow, wide, length = (y, x, height) if x.spacing > y.spacing else (x, y, width)
    made = [
        Axis(tile, margin, wide.spacing, narrow.score)
        for tile in (narrow.tile, narrow.pitch - wide.spacing)
        for margin in {narrow.margin, wide.margin}
        if tile >= SMALLEST_TILE
    ]
    made.sort(key=lambda one: (one.fits(length), one.tile == narrow.tile, one.margin == wide.margin), reverse=True)
    for one in made:
        yield (score, x, one) if narrow is y else (score, one, y)


def _centred_in(pair: Pair, ranked: list[Pair]) -> Pair | None:
    """The best pair of twice the pitch, where all tiles begin half a tile from the border: small art in the middle."""
    _, x, y = pair
    if x.spacing or y.spacing:
        return None
    for axis in (x, y):
        if axis.margin < _LEAST_PADDING or abs(2 * axis.margin - axis.tile) > _CENTRED * axis.tile:
            return None
    for one in ranked:
        if (one[1].pitch, one[2].pitch) == (2 * x.tile, 2 * y.tile) and max(one[1].margin, one[2].margin) <= 2:
            return one
    return None


def _of_usual_size(pair: Pair, width: int, height: int) -> Pair | None:
    """A split of a pitch that no tile is likely to have, into a usual size and a spacing of 1 or 2 that fits."""
    score, x, y = pair
    if x.spacing or y.spacing or x.tile in _ROUND or y.tile in _ROUND:
        return None
    for spacing in (1, 2):
        if x.tile - spacing in _ROUND and y.tile - spacing in _ROUND:
            for margin in (spacing, 0) if x.margin or y.margin else (0, spacing):
                made = [Axis(axis.tile - spacing, margin, spacing, axis.score) for axis in (x, y)]
                if made[0].fits(width) and made[1].fits(height):
                    return score, made[0], made[1]
    return None
