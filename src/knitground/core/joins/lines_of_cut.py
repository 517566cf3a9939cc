"""The lines of a cut, drawn on nothing, on the one ground of a sheet, or on one of several with a grain."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.beneath import with_plain
from knitground.core.joins.found import FoundSet, with_own_faces
from knitground.core.joins.lines import is_road, with_lines
from knitground.core.joins.look import Floats, laid_flat
from knitground.core.joins.taking_in import tiles_of
from knitground.core.joins.under_lines import without_ground
from knitground.core.sheet.cut import TileShape

_OF_PAPER = 3
"""How many times as many tiles as a line on the one ground of a sheet it has with plain ones, if that is its paper."""


class LinesOfCut:
    """What the tiles of a cut show once their ground is taken away, and the lines that this tells.

    Parameters
    ----------
    tiles, bare : (n, h, w, 4) uint8
        All of the cut; the same if they have not one ground, else without it.
    colours : (n, h, w, 4) float64
        As `seen_colours` gives them.
    number : (R, C) intp
        Which tile lies in each cell; -1 for none.
    shape : TileShape
        None are told among hexagons.
    """

    def __init__(
        self,
        tiles: NDArray[np.uint8],
        bare: NDArray[np.uint8],
        colours: Floats,
        number: NDArray[np.intp],
        shape: TileShape,
    ) -> None:
        self._tiles, self._bare, self._colours = tiles, bare, colours
        self._number, self._shape = number, shape
        self._flat = laid_flat(tiles, shape)
        self._on_grounds = without_ground(self._flat) if shape in ("square", "isometric") else None

    def on_a_ground(self, sets: list[FoundSet]) -> list[FoundSet]:
        """Lines on a ground among the tiles that no set has."""
        found = sets if self._bare is self._tiles else with_lines(sets, self._bare, self._number)
        return self._with_roads(found)[len(sets) :]

    def with_all(self, sets: list[FoundSet]) -> list[FoundSet]:
        """Sets with their faces, and all lines that none of them has."""
        found = sets = with_own_faces(sets)
        if self._shape == "square":
            found = with_lines(sets, self._bare, self._number)
        return sets + self.with_plain(self._with_roads(found)[len(sets) :])

    def _with_roads(self, sets: list[FoundSet]) -> list[FoundSet]:
        if self._on_grounds is None:
            return sets
        return with_lines(sets, self._on_grounds, self._number, straight=False)

    def with_plain(self, lines: list[FoundSet]) -> list[FoundSet]:
        """Lines, those that lead on with the plain tiles of their ground."""
        return [self._with_plain(one) for one in lines]

    def _with_plain(self, line: FoundSet) -> FoundSet:
        """A line; if it leads on over a ground, with the plain tiles of that, unless the whole sheet shows it."""
        if not is_road(line, self._flat[tiles_of(line, self._number)]):
            return line
        whole = with_plain(line, self._tiles, self._colours, self._number, self._shape)
        on_paper = self._bare is not self._tiles and len(whole.cells) > _OF_PAPER * len(line.cells)
        return line if on_paper else whole
