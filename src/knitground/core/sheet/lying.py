"""How the things on the parts of one sheet lie: in a grid, hardly in one, or anyhow."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.laid import Side
from knitground.core.sheet.loose import (
    AGAINST,
    FEWEST,
    MOST,
    fits_hardly,
    fits_not,
    lie_anyhow,
    loose_cut,
    over_gutters,
    things_on,
)
from knitground.core.sheet.part import Part
from knitground.core.sheet.shown import COMES_AGAIN, LEAST_EVIDENCE, Shown


class Lying:
    """The things on the parts of one picture, each looked for once.

    Parameters
    ----------
    art : (H, W) bool
        What of the sheet is art.
    shown : Shown
        How far it shows where tiles end.
    """

    def __init__(self, art: NDArray[np.bool_], shown: Shown) -> None:
        self._art, self._shown = art, shown
        self._found: dict[Rect, list[Rect]] = {}

    def things(self, side: Side) -> list[Rect]:
        """Separate shapes on a part, as by `things_on`."""
        if side.art not in self._found:
            self._found[side.art] = things_on(self._art, side.art)
        return self._found[side.art]

    def fits_not(self, side: Side, cut: Cut, least: float = AGAINST) -> bool:
        """Whether what lies on a part can't well lie in a grid that may be another's."""
        things = self.things(side)
        return len(things) <= MOST and fits_not(things, cut, least, over_gutters(self._art, things, cut))

    def fits_hardly(self, part: Part) -> bool:
        """Whether little speaks for the numbers of a part; loose pieces have none."""
        things = self.things(part.side)
        evidence, share = self._shown.of(part.cut, part.side)
        shows = len(things) >= FEWEST or evidence >= LEAST_EVIDENCE / 2
        if not part.cut.pieces and self._hangs_together(part):
            return False
        return bool(part.cut.pieces) or fits_hardly(things, part.cut, part.confidence * max(share, 0.0) * shows)

    def lie_anyhow(self, part: Part) -> bool:
        """Whether what lies on a part is in its grid by chance at the most; see `loose.lie_anyhow`."""
        return not self._hangs_together(part) and lie_anyhow(self.things(part.side), part.cut)

    def as_loose(self, side: Side, like: Cut) -> Part:
        """A part as loose pieces, which would have the tiles of another one as a grid."""
        loose = loose_cut(self._art, side.art, like)
        return Part(side, loose, 1.0, {loose: 1.0})

    def _hangs_together(self, part: Part) -> bool:
        """Whether shapes that hang together are cut through, so that they are no things."""
        return self._shown.comes_again(part.cut, part.side) >= COMES_AGAIN
