"""Reading tiles of a block that art fills at all sides: those of its inside, and its inner corners round a hole.

Along two of its sides an inner corner is half bare, as the edges of the block are that would lie beside it. So the
sides of such a tile are held against those of the tiles that each reading would have beside it.
"""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import Floats
from knitground.core.joins.sides import Sides
from knitground.core.joins.variants import Matched

_READINGS = np.array([[1, 1, 1, 1], [0, 1, 1, 1], [1, 0, 1, 1], [1, 1, 0, 1], [1, 1, 1, 0]])
"""The corners of the inside and of the four inner corners, clockwise."""
_MOST = np.array([1.1, 1.8, 1.8, 1.8, 1.8])
"""How much more than inside of tiles pixels may change at the sides for each; measured on sheets of published games."""
_CLEARLY = 0.75
"""What part of that of the next reading this may be."""
_STICKS_OUT, _BETTER = 2.0, 0.85
"""How much less the inside fits at the corner of a nook than at the other three, and than what lies beside nooks."""
_TRIED = 40
"""How many tiles of a block are held against each side of others."""


def read_nooks(
    sides: Sides, rims: NDArray[np.intp], mine: NDArray[np.intp], labels: NDArray[np.intp], among: NDArray[np.intp]
) -> Matched:
    """Which tiles belong inside of a block or round a hole in it.

    Parameters
    ----------
    sides : Sides
        Of all tiles.
    rims : (n, 9) intp
        What these show, as `read_rims` reads it: small nooks are not seen, but those that are seen are there.
    mine : (m,) intp
        The tiles of the block.
    labels : (m, 9) intp
        Their corners and edges clockwise and the middle, with 1 where the art goes on.
    among : (k,) intp
        The tiles to be read, which may be of the block.

    Returns
    -------
    nooks : Matched
        How far they fit goes up to 1.
    """
    apart = np.zeros((len(_READINGS), len(among)))
    goes_on = labels[:, 4:8] == 1
    for side in range(4):
        ends = _READINGS[:, [side, (side + 1) % 4]]
        for first, second in ((1, 1), (0, 1), (1, 0)):
            beside = mine[_beside(goes_on, side, bool(first), bool(second))]
            asked = (ends == (first, second)).all(axis=1)
            alike = mine[_beside(goes_on, (side + 2) % 4, bool(second), bool(first))]
            found = _apart(sides, side, beside, among) / _usual(sides, side, beside, alike)
            apart[asked] = np.maximum(apart[asked], found)
    order = np.argsort(apart, axis=0)
    best, next_best = np.take_along_axis(apart, order[:2], axis=0)
    most = _MOST[order[0]]
    read = np.concatenate([_READINGS[order[0]], np.ones((len(among), 5), dtype=np.intp)], axis=1)
    shown = rims[among]
    other = shown[:, 4:8].all(axis=1) & ~shown.all(axis=1) & (shown != read).any(axis=1)
    clear = best <= _CLEARLY * next_best
    # Small nooks fit as the inside does along the whole of their sides; at the corner itself they do not.
    small = (best <= most) & ~clear & (order[:2] == 0).any(axis=0)
    for place in np.flatnonzero(small & shown.all(axis=1)).tolist():
        nook = _small_nook(sides, goes_on, mine, int(among[place]))
        if nook and apart[nook, place] <= _MOST[nook]:
            read[place, :4], clear[place] = _READINGS[nook], True
    fits = (best <= most) & clear & ~other
    return Matched(read, np.where(fits, best / most, np.inf))


def _small_nook(sides: Sides, goes_on: NDArray[np.bool_], mine: NDArray[np.intp], tile: int) -> int:
    """Of which reading a tile is that is like the inside but for one corner; 0 where there is no such corner.

    Parameters
    ----------
    sides : Sides
    goes_on : (m, 4) bool
        Over which sides the art of the tiles of the block goes on.
    mine : (m,) intp
        The tiles of the block.
    tile : int
    """
    inside, nook = np.zeros((4, 2)), np.zeros((4, 2))
    for corner in range(4):
        for place, side in enumerate(((corner + 3) % 4, corner)):
            end = sides.end(side, last=place == 0)
            for found, ends in ((inside, (True, True)), (nook, (place == 0, place == 1))):
                beside = mine[_beside(goes_on, side, *ends)]
                apart = sides.apart(tile, side, beside[beside != tile][:_TRIED], part=end)
                found[corner, place] = apart.min(initial=np.inf) / float(sides.usual(tile, side))
    if not np.isfinite(inside).all():
        return 0
    odd = int(inside.min(axis=1).argmax())
    usual = max(1.0, float(np.delete(inside, odd, axis=0).max()))
    # Where a rim ends at another, what lies there need not go on over both sides.
    told = inside[odd].min() >= _STICKS_OUT * usual and (nook[odd] <= _BETTER * inside[odd]).any()
    return odd + 1 if told else 0


def _beside(goes_on: NDArray[np.bool_], side: int, first: bool, second: bool) -> NDArray[np.bool_]:
    """Which tiles may lie at a side of another, by whether art goes on at the two ends of that side, (m,)."""
    before, after = goes_on[:, (side + 3) % 4], goes_on[:, (side + 1) % 4]
    found: NDArray[np.bool_] = goes_on[:, (side + 2) % 4] & (before == first) & (after == second)
    return found


def _usual(sides: Sides, side: int, beside: NDArray[np.intp], alike: NDArray[np.intp]) -> float:
    """The same from tiles of the block to those beside them: a pattern may break off at every border. At least 1."""
    apart = _apart(sides, side, beside, alike)
    known = apart[np.isfinite(apart)]
    return max(1.0, float(np.median(known))) if len(known) else 1.0


def _apart(sides: Sides, side: int, beside: NDArray[np.intp], among: NDArray[np.intp]) -> Floats:
    """How much more than inside of them pixels change from tiles, at a side, to the best of others, (k,)."""
    nearest = np.full(len(among), np.inf)
    for one in beside[:_TRIED].tolist():
        usual = np.maximum(sides.usual(among, side), sides.usual(one, side))
        nearest = np.where(among == one, nearest, np.minimum(nearest, sides.apart(one, (side + 2) % 4, among) / usual))
    return nearest
