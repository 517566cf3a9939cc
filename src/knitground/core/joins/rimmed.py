"""Finding blocks that stand on clear ground on a cut: platforms with their rims, to be painted by the cell.

Cells hang together where art goes on over the border between them. A block has tiles for all of its sides and corners,
and some for its inside. So has a picture of a rock; but the tiles of a block also fit beside others than those that
they are drawn beside, and the parts of a picture do not.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.rims import read_rims
from knitground.core.joins.sides import MOST_COMPARED, Sides

_MOST = 80
"""Percent of the sides that have to fit at least as well as is told."""
_FITS, _SURE = (0.9, 1.4, 1.8), (0.95, 0.5, 0.0)
"""How well tiles have to fit beside others for how much confidence; measured on sheets of published games."""
_ROUGH = 150.0
"""What art beside nothing counts as, of 765, where rims may be rough."""
_OTHER = 5.0
"""How much more than inside of it pixels change at a side of a tile beside another terrain."""
_NINE = {
    (False, True, True, False), (False, True, True, True), (False, False, True, True),
    (True, True, True, False), (True, True, True, True), (True, False, True, True),
    (True, True, False, False), (True, True, False, True), (True, False, False, True),
}  # fmt: skip
"""Whether art goes on over the upper, right, lower and left side of the tiles that make a block."""


class Rimmed(NamedTuple):
    """A block: which tiles it has, (m,), their labels, (m, 9), how sure each is, (m,), and the whole.

    Other tiles hang down from its rim: `hanging`, (k, 2), holds each and the one above it, and `instead`, (k, 9), the
    labels of those that lie there otherwise.
    """

    tiles: NDArray[np.intp]
    labels: NDArray[np.intp]
    sure: NDArray[np.float64]
    confidence: float
    hanging: NDArray[np.intp]
    instead: NDArray[np.intp]


def find_rimmed(tiles: NDArray[np.uint8], number: NDArray[np.intp]) -> Iterator[Rimmed]:
    """The blocks on clear ground of a cut; what hangs together of very many tiles is none.

    A row that the rim above hangs into is left out: it belongs below that, and nowhere else inside.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    """
    rims = read_rims(tiles)
    if rims is None:
        return
    goes_on = rims.labels[:, 4:8] == 1
    drawn = _Drawn(tiles, goes_on, number)
    for piece in drawn.pieces():
        alone, hanging = drawn.sides.misfits(goes_on, piece)
        if alone[rims.labels[piece].all(axis=1)].all():
            continue  # a picture, or what hangs from the rim fills all of it
        mine = piece[~hanging]
        if {tuple(row) for row in goes_on[mine].tolist()} >= _NINE:
            sure = float(np.interp(drawn.fits(mine), _FITS, _SURE))
            mine = piece[~drawn.in_row(piece, hanging)]
            below = drawn.below(mine, np.setdiff1d(piece, mine))
            yield Rimmed(mine, rims.labels[mine], rims.sure[mine], sure, below, rims.labels[below[:, 0]])


class _Drawn:
    """How the tiles of a cut lie side by side, and how well others would fit there."""

    def __init__(self, tiles: NDArray[np.uint8], goes_on: NDArray[np.bool_], number: NDArray[np.intp]) -> None:
        self.sides, self._goes_on = Sides(tiles), goes_on
        beside = np.full((4, len(tiles)), -1, dtype=np.intp)
        for side, one, other in ((1, number[:, :-1], number[:, 1:]), (2, number[:-1], number[1:])):
            both = np.stack([one[(one >= 0) & (other >= 0)], other[(one >= 0) & (other >= 0)]])
            both = both[:, goes_on[both[0], side] & goes_on[both[1], (side + 2) % 4]]
            both = both[:, [self._meets(one, other, side) for one, other in both.T.tolist()]]
            beside[side, both[0]], beside[(side + 2) % 4, both[1]] = both[1], both[0]
        self._beside = beside

    def _meets(self, tile: int, other: int, side: int) -> bool:
        """Whether what is drawn beside a tile may be more of the same."""
        usual = self.sides.usual(np.array([tile, other]), side).mean()
        return bool(self.sides.apart(tile, side, np.array([other]))[0] <= _OTHER * usual)

    def pieces(self) -> Iterator[NDArray[np.intp]]:
        """Tiles that hang together, where there are enough of them and not too many."""
        from scipy import sparse

        links = np.argwhere(self._beside >= 0)
        ends = links[:, 1], self._beside[links[:, 0], links[:, 1]]
        count = self._beside.shape[1]
        graph = sparse.coo_array((np.ones(len(links)), ends), shape=(count, count))
        _, piece = sparse.csgraph.connected_components(graph, directed=False)
        many = np.bincount(piece)
        for one in np.flatnonzero((many >= len(_NINE)) & (many <= MOST_COMPARED)):
            yield np.flatnonzero(piece == one)

    def in_row(self, piece: NDArray[np.intp], hanging: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """What hangs of a piece, (m,), with what lies in one row with that below the rim.

        At the ends of a row too little may hang to show by itself. A tile stays that is the last for its sides.

        Parameters
        ----------
        piece : (m,) int
            Numbers of tiles.
        hanging : (m,) bool
            Which of them hang.
        """
        found = set(piece[hanging].tolist())
        waiting = list(found)
        while waiting:
            for other in self._beside[[1, 3], waiting.pop()].tolist():
                above = self._beside[0, other]
                if other >= 0 and other not in found and above >= 0 and not self._goes_on[above, 0]:
                    rest = np.setdiff1d(piece, [*found, other])
                    if (self._goes_on[rest] == self._goes_on[other]).all(axis=1).any():
                        found.add(other)
                        waiting.append(other)
        return np.isin(piece, list(found))

    def below(self, mine: NDArray[np.intp], others: NDArray[np.intp]) -> NDArray[np.intp]:
        """Those of others that are drawn below tiles of mine, each with the one above it, (k, 2).

        Parameters
        ----------
        mine, others : (n,) and (m,) int
            Numbers of tiles.
        """
        both = np.stack([others, self._beside[0, others]], axis=1)
        return both[np.isin(both[:, 1], mine)]

    def fits(self, mine: NDArray[np.intp]) -> float:
        """How well most tiles fit beside others than they are drawn beside, against those; about 1 where as well.

        Parameters
        ----------
        mine : (n,) int
            Numbers of tiles.
        """
        apart = []
        for side in (1, 2):
            across = [(side + 1) % 4, (side + 3) % 4]
            for tile in mine[np.isin(self._beside[side, mine], mine)].tolist():
                drawn = int(self._beside[side, tile])
                like = (self._goes_on[mine][:, across] == self._goes_on[drawn, across]).all(axis=1)
                like &= self._goes_on[mine, (side + 2) % 4] & (mine != drawn)
                if like.any():
                    apart.append(self._against_drawn(tile, side, mine[like]))
        return float(np.percentile(apart, _MOST)) if apart else np.inf

    def _against_drawn(self, tile: int, side: int, others: NDArray[np.intp]) -> float:
        """How well the best of others fits at a side of a tile, against the one that is drawn there."""
        drawn = np.array([self._beside[side, tile]])
        usual = self.sides.usual(np.array([tile, drawn[0]]), side).mean()
        here = max(self.sides.apart(tile, side, drawn, _ROUGH)[0], usual)
        return float(self.sides.apart(tile, side, others, _ROUGH).min() / here)
