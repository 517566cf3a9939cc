"""Sheets that were resized, so that their tiles repeat at a distance that is no whole number of pixels.

No cut sits on all tiles of such a sheet. It is told by the gutters, which lie evenly, half a pixel to either side for
rounding, but drift away from any distance in whole pixels.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.bared import bared
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.profile import SMALLEST_TILE, art_of
from knitground.core.sheet.settled import settled

_MOST_PIXELS = 2**24
_SOLID = 128
"""From which alpha on a smoothed edge counts as art."""
_FEWEST, _SEEN, _ROUNDS = 5, 0.7, 4
"""How many gutters tell, what share of them all has to be seen, and how often they are counted anew."""
_ROUNDED, _DRIFT, _ALIKE = 0.75, 2.0, 0.2
"""How far gutters lie off even distances at most, and off whole ones at least at the end of the sheet, in pixels.

The last is how far what their two borders say may lie apart.
"""


class Distances(NamedTuple):
    """How far tiles lie apart across and down, in pixels; 0 where whole pixels will do, or where it doesn't show."""

    across: float
    down: float

    @property
    def says(self) -> str:
        """What is wrong with it, as the end of a sentence."""
        across, down = (f"{one:.{2 if f'{one:.1f}'.endswith('.0') else 1}f}" for one in self)
        every = f"{across} x {down} px" if all(self) else f"{across} px across" if self.across else f"{down} px down"
        return f"its tiles repeat every {every}, so it was resized, and no cut sits on all"

    def whole(self, width: int, height: int) -> tuple[int, int]:
        """A size near that of a sheet, (width, height), at which its tiles repeat at whole pixels."""
        sides = ((width, self.across), (height, self.down))
        wide, high = (round(side * round(one) / one) if one else side for side, one in sides)
        return wide, high


def resized(picture: NDArray[np.uint8], cuts: Sequence[Cut]) -> Distances | None:
    """How far tiles lie apart on a sheet that was resized; None where nothing says so.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha. Larger ones than 16 megapixels are not looked at.
    cuts : sequence of Cut
        Where to look: its grids, each on its part. Loose pieces lie anywhere.
    """
    regions = [cut.region.slices() if cut.region else np.s_[:, :] for cut in cuts if not cut.pieces]
    if not regions or picture.shape[0] * picture.shape[1] > _MOST_PIXELS:
        return None
    seen = settled(bared(picture))
    art = art_of(np.where(seen[..., 3:] >= _SOLID, seen, np.uint8(0)).astype(np.int16))
    found = [Distances(*(_distance(np.asarray(art[region].any(axis=axis))) for axis in (0, 1))) for region in regions]
    return next((one for one in found if any(one)), None)


def _distance(filled: NDArray[np.bool_]) -> float:
    """How far tiles lie apart along lines that hold art or don't; 0 where whole pixels will do."""
    steps = np.diff(filled.astype(np.int8))
    begins, ends = np.flatnonzero(steps == 1) + 1, np.flatnonzero(steps == -1) + 1
    one, other = _of(begins), _of(ends)
    return (one + other) / 2 if one and other and abs(one - other) <= _ALIKE else 0.0


def _of(places: NDArray[np.intp]) -> float:
    """The distance at which places lie evenly, if no whole one does as well; else 0."""
    if len(places) < _FEWEST or np.median(np.diff(places)) < SMALLEST_TILE:
        return 0.0
    first, distance = float(places[0]), float(np.median(np.diff(places)))
    numbers = np.round((places - first) / distance)
    for _ in range(_ROUNDS):
        distance, first = np.polyfit(numbers, places, 1)
        numbers = np.round((places - first) / distance)
    span = np.ptp(numbers)
    evenly = np.abs(places - distance * numbers - first).max() <= _ROUNDED
    most = len(np.unique(numbers)) == len(numbers) >= _SEEN * (span + 1)
    return float(distance) if evenly and most and abs(distance - round(distance)) * span >= _DRIFT else 0.0
