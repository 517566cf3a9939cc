"""How well numbers fit what lies in a part of a sheet, and which of two fit better.

How well they fit is how far the art's *continuity* along the borders of the tiles falls short of its mean, squared
against that mean: a grid of half the size has twice as many borders, and must not seem better for those that show
nothing.
"""

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.bands import Band
from knitground.core.sheet.borders import goes_on, short_of
from knitground.core.sheet.cut import Cut, Rect, tile_rect
from knitground.core.sheet.laid import Side, continued
from knitground.core.sheet.part import Part, begin_together, one_grid, pitch_of
from knitground.core.sheet.recurring import recurrence

LEAST_EVIDENCE, FAR_APART = 30.0, 4.0
"""The evidence from which numbers are gone by, and how much wider than usual a band is at which less will do."""
_SURE, _BETTER, _LEAST_SURE, _DOUBTFUL, _CERTAIN, _MOST_SURE = 0.6, 0.5, 0.35, 0.3, 0.85, 0.95
_MOST_SLENDER = 16
COMES_AGAIN, _HARDLY_AGAIN = 0.3, 0.5
"""How much of a side has to come again by the numbers of the whole, and how much of that may by its own at the most."""
_PLAIN_EVIDENCE, _MOST_SHOW, _HARDLY_SHOW, _LEAST_PITCH = 100.0, 0.6, 0.3, 0.8
"""The evidence for numbers that parts a sheet at a narrow band, the share of their borders that show it, the share that
shows those of the whole at most, and how sure of its pitch a side is at least."""


class Shown:
    """What the borders of tiles show on one picture.

    Parameters
    ----------
    colour : (H, W, 4) int16
        RGBA, straight alpha.
    art : (H, W) bool
        What is neither ground nor written.
    """

    def __init__(self, colour: NDArray[np.int16], art: NDArray[np.bool_]) -> None:
        self._goes_on = [goes_on(colour, art), goes_on(colour.swapaxes(0, 1), art.T)]
        self._looks = [(colour, art), (colour.swapaxes(0, 1), art.T)]
        self._recurs: dict[Rect, list[NDArray[np.float64]]] = {}

    def of(self, cut: Cut, side: Side) -> tuple[float, float]:
        """The evidence for a cut, and the share by which continuity falls short along its borders in a side's art."""
        region = side.art
        left, top, _, _ = tile_rect(cut, 0, 0)
        rows, columns = region.slices()
        found = short_of(self._goes_on[0][rows, columns], cut.tile_width, cut.pitch_x, region.x - left)
        down = short_of(self._goes_on[1][columns, rows], cut.tile_height, cut.pitch_y, region.y - top)
        fallen, expected = found[0] + down[0], found[1] + down[1]
        share = fallen / expected if expected else 1.0
        return fallen * max(share, 0.0), share

    def comes_again(self, cut: Cut, side: Side) -> float:
        """How much of what is drawn on a side comes again a tile of a cut further on, to the right as well as below."""
        region = side.art
        if region not in self._recurs:
            spans = (region.slices(), region.slices()[::-1])
            self._recurs[region] = [
                recurrence(colour[span], art[span]) for (colour, art), span in zip(self._looks, spans, strict=True)
            ]
        pairs = zip(self._recurs[region], pitch_of(cut), strict=True)
        return min(float(recurs[pitch]) if pitch < len(recurs) else 0.0 for recurs, pitch in pairs)

    def as_the_whole(self, whole: Part, part: Part) -> Part:
        """A part; with the numbers of the whole where what is drawn comes again by these, and by its own hardly."""
        laid = continued(whole.cut, part.side) if self._comes_by(whole, part) else None
        if laid is None:
            return part
        return part._replace(cut=laid, confidence=max(part.confidence, whole.confidence), likely={laid: 1.0})

    def hides_the_whole(self, whole: Part, part: Part) -> bool:
        """Whether what is drawn comes again by the numbers of the whole, which can't be laid on this side alone."""
        return self._comes_by(whole, part) and continued(whole.cut, part.side) is None

    def may_be_beside(self, whole: Part, sides: list[Part]) -> bool:
        """Whether two sides may be two grids: beside one by which all comes again another has to be sure."""
        others = [part for part in sides if pitch_of(part.cut) != pitch_of(whole.cut)]
        certain = whole.confidence >= _CERTAIN and any(
            self.comes_again(whole.cut, part.side) >= COMES_AGAIN for part in sides
        )
        return not certain or any(self.is_sure(part) for part in others)

    def _comes_by(self, whole: Part, part: Part) -> bool:
        """Whether a side comes again by the numbers of the whole, and hardly by others that it has."""
        if part.cut.pieces or whole.cut.pieces or pitch_of(part.cut) == pitch_of(whole.cut):
            return False
        again = self.comes_again(whole.cut, part.side)
        return again >= COMES_AGAIN and self.comes_again(part.cut, part.side) <= _HARDLY_AGAIN * again

    def worth_it(self, whole: Cut, sides: list[Part], band: Band) -> bool:
        """Whether the numbers of a side explain so much more there than those of the whole that they are two grids."""
        if one_grid(sides[0].cut, sides[1].cut):
            return False
        least = LEAST_EVIDENCE if band.gap.wider < FAR_APART else LEAST_EVIDENCE / 2
        for part in sides:
            short, long = sorted((part.cut.tile_width, part.cut.tile_height))
            if long > _MOST_SLENDER * short:
                continue  # stripes
            own, wholes = (self.of(cut, part.side)[0] for cut in (part.cut, whole))
            if own >= least and own - wholes >= _BETTER * own and part.sure_of_pitch >= _LEAST_SURE:
                return True
        return False

    def better(self, whole: Part, part: Part) -> Part:
        """A part, with the numbers of the whole if those explain more there: it may hold several grids itself.

        So it has them where both have one pitch, and the whole is surer of how that is split into tiles and spacing;
        unless its tiles begin elsewhere than those of the part.
        """
        split_alike = pitch_of(whole.cut) == pitch_of(part.cut) and whole.confidence > part.confidence
        split_alike &= begin_together(whole.cut, part.cut)
        if not split_alike and self.of(part.cut, part.side)[0] >= self.of(whole.cut, part.side)[0]:
            return part
        laid = continued(whole.cut, part.side)
        return part if laid is None else part._replace(cut=laid, likely={laid: 1.0})

    def shows_alone(self, whole: Cut, part: Part) -> bool:
        """Whether a side shows its numbers on nearly all borders where those of the whole show hardly anything."""
        (own, share), (_, wholes) = self.of(part.cut, part.side), self.of(whole, part.side)
        plain = own >= _PLAIN_EVIDENCE and share >= _MOST_SHOW and wholes <= _HARDLY_SHOW
        return plain and part.sure_of_pitch >= _LEAST_PITCH

    def is_plain(self, part: Part) -> bool:
        """Whether a part shows its grid on nearly all borders of its tiles."""
        evidence, share = self.of(part.cut, part.side)
        shows = evidence >= _PLAIN_EVIDENCE and share >= _MOST_SHOW and part.confidence >= _SURE
        return bool(not part.cut.pieces and shows and part.can_be_gone_by)

    def plainly_two(self, whole: Part, first: Part, second: Part) -> bool:
        """Whether two sides are as sure as can be of different distances, and the whole explains one of them badly."""
        sure = min(first.confidence, second.confidence) >= _MOST_SURE and first.can_be_gone_by and second.can_be_gone_by
        if not sure or pitch_of(first.cut) == pitch_of(second.cut):
            return False
        both = [(self.of(part.cut, part.side)[0], self.of(whole.cut, part.side)[0]) for part in (first, second)]
        return whole.confidence < _SURE or any(
            own - wholes >= max(LEAST_EVIDENCE, _BETTER * own) for own, wholes in both
        )

    def is_plainer(self, whole: Part, part: Part) -> bool:
        """Whether a part shows another grid plainly where hardly anything speaks for that of the whole."""
        if not self.is_sure(part) or pitch_of(whole.cut) == pitch_of(part.cut):
            return False
        return not whole.has_enough_tiles or (whole.confidence < _DOUBTFUL and self.is_plain(part))

    def is_sure(self, part: Part) -> bool:
        """Whether a part's grid is hardly in doubt, and there is something that speaks for it."""
        sure = not part.cut.pieces and part.can_be_gone_by and part.confidence >= _CERTAIN
        return bool(sure and self.of(part.cut, part.side)[0] >= LEAST_EVIDENCE)
