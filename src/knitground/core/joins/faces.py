"""Faces of walls and cliffs: rows of three tiles right below a block, which lie below where it ends and nowhere else.

The tile in the midst of such a row is of another material than the block. Those at its ends look like it at their inner
sides, so that it goes on into itself as it does into them, and otherwise at their outer ones: a floor, whose tiles are
alike at all sides, is none, nor is a picture, whose parts are like each other nowhere.
"""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.palettes import Palette

_OTHER = 0.5
"""What share of its pixels has to show colours that the midst of the block has not."""
_ENDS, _LEAST, _OUTLINE = 2.0, 24.0, 300.0
"""How many times as far from the tile in the midst an end has to look at its outer side as at its inner, how far at
least, and how far art is from nothing; of 765."""
MOST_ROWS = 4
"""How many rows of faces a wall has at most: a stitch looks no further up."""

Numbers = NDArray[np.intp]


class Faces:
    """Looks for faces on a cut.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        Straight alpha.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    full : (n,) bool
        Which tiles fill their cells.
    """

    def __init__(self, tiles: NDArray[np.uint8], number: Numbers, full: NDArray[np.bool_]) -> None:
        self._tiles, self._number, self._full = tiles, number, full

    def below(self, row: int, column: int, within: Palette, free: NDArray[np.bool_]) -> Numbers:
        """The rows of faces below three tiles, (k, 3), none if what lies there is no face.

        Parameters
        ----------
        row, column : int
            Of the left one of the lowest tiles of a block.
        within : Palette
            What the midst of the block shows.
        free : (n,) bool
            Which tiles nothing else has.
        """
        found = list[Numbers]()
        first = row + 1
        if (self._number[first : first + 1, column : column + 3] < 0).all():
            first += 1  # they are kept a row apart
        for three in self._number[first : first + MOST_ROWS, column : column + 3]:
            if (three < 0).any() or not free[three].all() or not self._is_face(three, within):
                break
            found.append(three)
        return np.array(found, dtype=np.intp).reshape(-1, 3)

    def _is_face(self, three: Numbers, within: Palette) -> bool:
        left, middle, right = three.tolist()
        if not self._full[middle] or within.lacks(self._tiles[middle]).mean() < _OTHER:
            return False
        return self._ends(left, middle, 0) and self._ends(right, middle, -1)

    def _ends(self, end: int, middle: int, outer: int) -> bool:
        """Whether a tile looks otherwise than another at its outer side, and hardly so at its inner one."""
        unlike = [self._unlike(end, middle, column) for column in (outer, -1 - outer)]
        return unlike[0] >= max(_LEAST, _ENDS * unlike[1])

    def _unlike(self, one: int, other: int, column: int) -> float:
        """How far a column of pixels of a tile is from that of another, from 0 to 765."""
        first, second = (self._tiles[tile][:, column].astype(np.int32) for tile in (one, other))
        art = np.stack([first[:, 3] > 0, second[:, 3] > 0])
        return float(
            (np.abs(first - second)[:, :3].sum(axis=1) * art.all(axis=0) + _OUTLINE * (art[0] ^ art[1])).mean()
        )
