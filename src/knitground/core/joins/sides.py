"""How well tiles fit side by side, by the pixels along their sides."""

import numpy as np
from numpy.typing import NDArray

_OPAQUE, _OUTLINE, _GRAIN = 128, 300.0, 6.0
"""What alpha is art; what art beside nothing counts as, and what any two neighbours may differ by, of 765."""
_ALONE = 2.2
"""How much more than inside of it pixels change at a side of a tile that fits none of the others there."""


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
        self._change = tuple(
            np.abs(np.diff(pixels[..., :3], axis=axis)).sum(axis=-1).mean(axis=(1, 2)) for axis in (1, 2)
        )

    def usual(self, tiles: NDArray[np.intp] | int, side: int) -> NDArray[np.float64]:
        """How much pixels of tiles change from each to the next, across the direction of a side."""
        change: NDArray[np.float64] = np.asarray(self._change[side % 2][tiles]) + _GRAIN
        return change

    def apart(self, tile: int, side: int, others: NDArray[np.intp]) -> NDArray[np.float64]:
        """How much the pixels of a tile's side differ from those that others would have beside it, (len(others),)."""
        one, facing = self._sides[side][tile], self._sides[(side + 2) % 4][others]
        art, facing_art = one[:, 3] >= _OPAQUE, facing[..., 3] >= _OPAQUE
        change = np.abs(one[:, :3] - facing[..., :3]).sum(axis=-1) * (art & facing_art) + _OUTLINE * (art ^ facing_art)
        whole: NDArray[np.float64] = change.sum(axis=1) / np.maximum((art | facing_art).sum(axis=1), 1)
        return whole

    def alone(self, inside: NDArray[np.intp]) -> NDArray[np.intp]:
        """Of tiles from inside a block those that fit beside none of them at one side.

        Such a tile holds what hangs down from a rim, and lies below that and nowhere else.
        """
        found = [
            tile
            for tile in inside.tolist()
            if any(self.apart(tile, side, inside).min() > _ALONE * self.usual(tile, side) for side in range(4))
        ]
        return np.array(found, dtype=np.intp)
