"""Groups of tiles below titles that take up lines of their own, so that the next rows do not go on where others ended.

All have the same distances, those of the whole sheet or of one of the bands between two lines of titles, unless a band
clearly shows others; only where tiles begin down the sheet is looked for in each band.
"""

from collections.abc import Iterator
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut, Rect, tile_rect
from knitground.core.sheet.laid import Side, laid_on
from knitground.core.sheet.loose import fits_not, loose_cut, over_gutters, things_on
from knitground.core.sheet.part import Part
from knitground.core.sheet.parting import Parting
from knitground.core.sheet.shown import LEAST_EVIDENCE

_BETTER = 0.35
"""By what share more has to speak for where the tiles of a band begin than for where those of the whole would."""
_LOST, _MOST_BANDS = 0.01, 12
"""How much more of the art may lie between tiles than has to, and how many bands are looked at."""
_NEARLY_ALL, _CLEARLY = 0.8, 2.0
"""What share of the borders of its tiles a band of its own distances shows, and how much more speaks for these."""


class _Begun(NamedTuple):
    """Where the tiles of a cut begin down a side: as on the rest of the sheet, and where most speaks for; how much."""

    side: Side
    own: int
    best: int
    speaks: tuple[float, float]

    @property
    def elsewhere(self) -> bool:
        """Whether they surely begin elsewhere than on the rest of the sheet."""
        wholes, best = self.speaks
        return self.own != self.best and best >= LEAST_EVIDENCE / 2 and best - wholes >= _BETTER * best

    def laid(self, cut: Cut) -> Cut | None:
        """The cut on just this side; none if it reaches too far."""
        left = self.side.art.x - (self.side.art.x - cut.margin_x) % cut.pitch_x
        return laid_on(cut, self.side, left, self.best if self.elsewhere else self.own)


def titled_bands(look: Parting, whole: Part) -> list[Cut]:
    """The cuts of bands between lines of titles, from above; none where one grid fits all of them as well.

    What lies about in a band, over the gutters of the others, is cut as loose pieces.

    Parameters
    ----------
    look : Parting
        At the sheet.
    whole : Part
        The numbers of the whole sheet.
    """
    sides = list(_bands(look))
    if not 1 < len(sides) <= _MOST_BANDS:
        return []
    seen = [part if (part := look.looked_at(side)) and part.can_be_gone_by else None for side in sides]
    alone = [part.cut for part in seen if part]
    # What fits one band may fit the others better than what was seen of all of them at once.
    of_all = {_anywhere(cut): [_begun(look, _anywhere(cut), side) for side in sides] for cut in [whole.cut, *alone]}
    cut = max(of_all, key=lambda cut: sum(max(one.speaks) for one in of_all[cut]))
    own = [part.cut if part and _shows_others(look, part, one) else None
           for part, one in zip(seen, of_all[cut], strict=True)]  # fmt: skip
    found = [other or _laid_or_loose(look, one, cut) for other, one in zip(own, of_all[cut], strict=True)]
    anew = any(
        one.elsewhere and other is None and laid is not None and not laid.pieces
        for one, other, laid in zip(of_all[cut], own, found, strict=True)
    )
    cuts = [laid for laid in found if laid is not None]
    return cuts if anew and len(cuts) == len(sides) else []


def _shows_others(look: Parting, part: Part, begun: _Begun) -> bool:
    """Whether a band shows its own numbers along nearly all borders of its tiles, and those of the others hardly."""
    speaks, share = look.shown.of(part.cut, part.side)
    return share >= _NEARLY_ALL and speaks >= _CLEARLY * max(begun.speaks)


def _laid_or_loose(look: Parting, begun: _Begun, cut: Cut) -> Cut | None:
    """The cut on a band, or its pieces if they are in no such grid; none if it is neither."""
    laid, side = begun.laid(cut), begun.side
    things = things_on(look.art, side.art)
    like = laid or cut
    astray = fits_not(things, like, over=over_gutters(look.art, things, like))
    return loose_cut(look.art, side.art, cut) if astray else laid


def _anywhere(cut: Cut) -> Cut:
    """A cut on all of a sheet."""
    first = tile_rect(cut, 0, 0)
    return replace(cut, region=None, margin_x=first.x % cut.pitch_x, margin_y=first.y % cut.pitch_y)


def _begun(look: Parting, cut: Cut, side: Side) -> _Begun:
    """Where the tiles of a cut begin down a side."""
    tops = side.art.y - np.arange(cut.pitch_y)
    told = np.array([look.shown.of(replace(cut, margin_y=int(top)), side)[0] for top in tops.tolist()])
    # Art that does not fill its tiles may end anywhere, but hardly between them.
    rows, art = side.art.y + np.arange(side.art.height), look.art[side.art.slices()].sum(axis=1)
    between: NDArray[np.bool_] = (rows - tops[:, None]) % cut.pitch_y >= cut.tile_height
    lost = between @ art
    best = int(np.where(lost <= lost.min() + _LOST * art.sum(), told, -1.0).argmax())
    own = (side.art.y - cut.margin_y) % cut.pitch_y
    return _Begun(side, int(tops[own]), int(tops[best]), (float(told[own]), float(told[best])))


def _bands(look: Parting) -> Iterator[Side]:
    """What lies between two lines in which something is written beside no art."""
    filled, inked = np.flatnonzero(look.art.any(axis=1)), np.asarray(look.written.any(axis=1))
    gaps = np.flatnonzero(np.diff(filled) > 1)
    lines = [
        (int(low) + int(ink[0]), int(low) + int(ink[-1]) + 1)
        for low, high in zip(filled[gaps] + 1, filled[gaps + 1], strict=True)
        for ink in [np.flatnonzero(inked[low:high])]
        if len(ink)
    ]
    height, width = look.art.shape
    begins, ends = [0, *(last for _, last in lines)], [*(first for first, _ in lines), height]
    for begin, end in zip(begins, ends, strict=True):
        room = Rect(0, begin, width, end - begin)
        held = look.tight(room)
        if held is not None:
            yield Side(held, room)
