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

_OPAQUE, _OUTLINE, _GRAIN = 128, 300.0, 6.0
"""What alpha is art; what art beside nothing counts as, and what any two neighbours may differ by, of 765."""
_ALONE = 3.0
"""How much worse an inner tile fits beside all others than where it is drawn, if it belongs there and nowhere else."""
MOST_RIMMED = 4096
_MOST = 80
"""Percent of the sides that have to fit at least as well as is told."""
_FITS, _SURE = (0.9, 1.4, 1.8), (0.95, 0.5, 0.0)
"""How well tiles have to fit beside others for how much confidence; measured on sheets of published games."""
_NINE = {
    (False, True, True, False), (False, True, True, True), (False, False, True, True),
    (True, True, True, False), (True, True, True, True), (True, False, True, True),
    (True, True, False, False), (True, True, False, True), (True, False, False, True),
}  # fmt: skip
"""Whether art goes on over the upper, right, lower and left side of the tiles that make a block."""


class Rimmed(NamedTuple):
    """A block: which tiles it has, (m,), their labels, (m, 9), how sure each is, (m,), and the whole."""

    tiles: NDArray[np.intp]
    labels: NDArray[np.intp]
    sure: NDArray[np.float64]
    confidence: float


def find_rimmed(tiles: NDArray[np.uint8], number: NDArray[np.intp]) -> Iterator[Rimmed]:
    """The blocks on clear ground of a cut.

    A row below the upper rim that the rim hangs into is left out: it belongs below that and nowhere else inside.

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
    for mine in drawn.pieces():
        inside = mine[rims.labels[mine].all(axis=1)]
        mine = np.setdiff1d(mine, [tile for tile in inside.tolist() if drawn.belongs_beside(tile, inside)])
        if {tuple(row) for row in goes_on[mine].tolist()} >= _NINE:
            sure = float(np.interp(drawn.fits(mine), _FITS, _SURE))
            yield Rimmed(mine, rims.labels[mine], rims.sure[mine], sure)


class _Drawn:
    """How the tiles of a cut lie side by side, and how well any two would fit.

    Sides are numbered from the upper one clockwise.
    """

    def __init__(self, tiles: NDArray[np.uint8], goes_on: NDArray[np.bool_], number: NDArray[np.intp]) -> None:
        pixels = tiles.astype(np.int32)
        self._sides = (pixels[:, 0], pixels[:, :, -1], pixels[:, -1], pixels[:, :, 0])
        self._change = tuple(
            np.abs(np.diff(pixels[..., :3], axis=axis)).sum(axis=-1).mean(axis=(1, 2)) for axis in (1, 2)
        )
        self._goes_on, self._count = goes_on, len(tiles)
        beside = np.full((4, len(tiles)), -1, dtype=np.intp)
        for side, one, other in ((1, number[:, :-1], number[:, 1:]), (2, number[:-1], number[1:])):
            both = np.stack([one[(one >= 0) & (other >= 0)], other[(one >= 0) & (other >= 0)]])
            both = both[:, goes_on[both[0], side] & goes_on[both[1], (side + 2) % 4]]
            beside[side, both[0]], beside[(side + 2) % 4, both[1]] = both[1], both[0]
        self.beside = beside
        """Which tile lies at each side of each, (4, n), if art goes on there; -1 if none does."""

    def pieces(self) -> Iterator[NDArray[np.intp]]:
        """Tiles that hang together, where there are enough of them."""
        from scipy import sparse

        links = np.argwhere(self.beside >= 0)
        ends = links[:, 1], self.beside[links[:, 0], links[:, 1]]
        graph = sparse.coo_array((np.ones(len(links)), ends), shape=(self._count, self._count))
        _, piece = sparse.csgraph.connected_components(graph, directed=False)
        for one in np.flatnonzero(np.bincount(piece) >= len(_NINE)):
            yield np.flatnonzero(piece == one)

    def belongs_beside(self, tile: int, others: NDArray[np.intp]) -> bool:
        """Whether a tile only fits beside the one that it is drawn beside, of others that go on all round."""
        return any(
            other >= 0 and self._nearest(tile, side, others[others != other]) > _ALONE
            for side, other in enumerate(self.beside[:, tile].tolist())
        )

    def fits(self, mine: NDArray[np.intp]) -> float:
        """How well most tiles fit beside others than they are drawn beside, against those; about 1 where as well."""
        apart = []
        for side in (1, 2):
            across = [(side + 1) % 4, (side + 3) % 4]
            for tile in mine[np.isin(self.beside[side, mine], mine)].tolist():
                drawn = self.beside[side, tile]
                like = (self._goes_on[mine][:, across] == self._goes_on[drawn, across]).all(axis=1)
                like &= self._goes_on[mine, (side + 2) % 4] & (mine != drawn)
                if like.any():
                    apart.append(self._nearest(tile, side, mine[like]))
        return float(np.percentile(apart, _MOST)) if apart else np.inf

    def _nearest(self, tile: int, side: int, others: NDArray[np.intp]) -> float:
        """How far a tile is from fitting at one side to the best of others, against the one drawn there."""
        drawn = self.beside[side, tile]
        usual = self._change[side % 2][[tile, drawn]].mean()
        here = self._apart(tile, side, np.array([drawn]))[0]
        return float(self._apart(tile, side, others).min(initial=np.inf) / (max(here, usual) + _GRAIN))

    def _apart(self, tile: int, side: int, others: NDArray[np.intp]) -> NDArray[np.float64]:
        """How much the pixels of a tile's side differ from those that others would have beside it, (len(others),)."""
        one, facing = self._sides[side][tile], self._sides[(side + 2) % 4][others]
        art, facing_art = one[:, 3] >= _OPAQUE, facing[..., 3] >= _OPAQUE
        change = np.abs(one[:, :3] - facing[..., :3]).sum(axis=-1) * (art & facing_art) + _OUTLINE * (art ^ facing_art)
        whole: NDArray[np.float64] = change.sum(axis=1) / np.maximum((art | facing_art).sum(axis=1), 1)
        return whole
