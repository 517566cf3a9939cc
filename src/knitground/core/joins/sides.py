"""How well tiles fit side by side, by the pixels along their sides."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

_OPAQUE, _OUTLINE, _GRAIN = 128, 300.0, 6.0
"""What alpha is art; what art beside nothing counts as, and what any two neighbours may differ by, of 765."""
MOST_COMPARED = 400
"""How many tiles can be compared with each other while somebody waits."""
_ALONE = 2.2
"""How much more than inside of it pixels change at a side of a tile that fits none of the others there."""


class Misfits(NamedTuple):
    """Tiles of a block that fit, at some side, beside none of their kind, (m,), and those beside which others do, (m,).

    The latter hold what hangs down from a rim, and lie below that and nowhere else; where no tile of a kind fits, they
    may as well be parts of a picture.
    """

    alone: NDArray[np.bool_]
    hanging: NDArray[np.bool_]


class Sides:
    """The sides of some tiles, numbered from the upper one clockwise.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    """

    def __init__(self, tiles: NDArray[np.uint8]) -> None:
        pixels = tiles.astype(np.int32)
        self._sides = pixels[:, 0], pixels[:, :, -1], pixels[:, -1], pixels[:, :, 0]
        changes = (np.abs(np.diff(pixels[..., :3], axis=axis)).sum(axis=-1) for axis in (1, 2))
        # Of tiles a pixel wide there is nothing to tell.
        self._change = tuple(one.sum(axis=(1, 2)) / max(1, one.shape[1] * one.shape[2]) for one in changes)

    def end(self, side: int, *, last: bool) -> slice:
        """The quarter of a side at its first or its last end, going clockwise.

        Parameters
        ----------
        side : int
            From 0 to 3, as the sides of cells go.
        last : bool
        """
        length = self._sides[side].shape[1]
        quarter = max(1, length // 4)
        return slice(length - quarter, length) if last == (side < 2) else slice(0, quarter)

    def usual(self, tiles: NDArray[np.intp] | int, side: int) -> NDArray[np.float64]:
        """How much pixels of tiles change from each to the next, across the direction of a side.

        Parameters
        ----------
        tiles : (N,) intp, or int
            Which tiles.
        side : int
            From 0 to 3, as the sides of cells go.
        """
        change: NDArray[np.float64] = np.asarray(self._change[side % 2][tiles]) + _GRAIN
        return change

    def apart(
        self, tile: int, side: int, others: NDArray[np.intp], outline: float = _OUTLINE, part: slice = slice(None)
    ) -> NDArray[np.float64]:
        """How much the pixels of a tile's side differ from those that others would have beside it, (len(others),).

        Art beside nothing counts as much as an outline is told to.

        Parameters
        ----------
        tile, side : int
            Which tile, and which of its sides.
        others : (N,) intp
            Tiles that would lie there.
        outline : float
            How much art beside nothing counts, in levels of red, green and blue together.
        part : slice
            Which of the pixels along the side, from the left or from above.
        """
        one, facing = self._sides[side][tile, part], self._sides[(side + 2) % 4][others, part]
        art, facing_art = one[:, 3] >= _OPAQUE, facing[..., 3] >= _OPAQUE
        change = np.abs(one[:, :3] - facing[..., :3]).sum(axis=-1) * (art & facing_art) + outline * (art ^ facing_art)
        whole: NDArray[np.float64] = change.sum(axis=1) / np.maximum((art | facing_art).sum(axis=1), 1)
        return whole

    def misfits(self, goes_on: NDArray[np.bool_], mine: NDArray[np.intp]) -> "Misfits":
        """Which tiles of a block fit, at some side, beside none of those that go on over the same sides as they do.

        Of very many tiles none are looked for.

        Parameters
        ----------
        goes_on : (n, 4) bool
            Over which sides of each tile the art goes on.
        mine : (m,) intp
            The tiles of the block.
        """
        alone, hanging = np.zeros((2, len(mine)), dtype=np.bool_)
        kinds, kind = np.unique(goes_on[mine], axis=0, return_inverse=True)
        for number, over in enumerate(kinds if len(mine) <= MOST_COMPARED else ()):
            same = np.flatnonzero(kind.ravel() == number)
            sides = [side for side in range(4) if over[side] and over[(side + 2) % 4]]
            for place in same.tolist():
                tile = int(mine[place])
                nearest = [self.apart(tile, side, mine[same], 0.0).min() / self.usual(tile, side) for side in sides]
                alone[place] = max(nearest, default=0.0) > _ALONE
            hanging[same] = alone[same] & ~alone[same].all()
        return Misfits(alone, hanging)
