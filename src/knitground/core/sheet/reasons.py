"""What speaks for a proposed cut, in words."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.axes import USUAL, Axis
from knitground.core.sheet.recurring import periods

LINES = "lines of one colour"
_ROWS_READ = 256
_MORE = 1.5
"""How much more pixels change at the borders of tiles than elsewhere, where art breaks off there."""


class Along(NamedTuple):
    """A picture along one axis, (H, W, 4), and how much pixels change from each column to the next, (W - 1,).

    `recurs` is how much comes again at each distance, as `recurrence` tells it.
    """

    picture: NDArray[np.uint8]
    change: NDArray[np.int64]
    recurs: NDArray[np.float64]

    @classmethod
    def of(cls, picture: NDArray[np.uint8], recurs: NDArray[np.float64]) -> "Along":
        """Looked at by a sample of rows.

        Parameters
        ----------
        picture : (H, W, 4) uint8
            RGBA, straight alpha.
        recurs : (D,) float64
        """
        rows = picture[:: max(1, len(picture) // _ROWS_READ)].astype(np.int16)
        return cls(picture, np.abs(np.diff(rows, axis=1)).sum(axis=(0, 2), dtype=np.int64), recurs)

    def breaks_off(self, axis: Axis) -> bool:
        """Whether pixels change more at the borders of tiles than elsewhere."""
        borders = self.change[axis.margin + axis.pitch - 1 :: axis.pitch]
        return bool(borders.size and borders.mean() > _MORE * self.change.mean())

    def comes_again(self, axis: Axis) -> bool:
        """Whether the same comes again from tile to tile."""
        return axis.pitch in periods(self.recurs, axis.pitch)


def reason_of(one: str, other: str) -> str:
    """What speaks for a guess, in words, given that across and down."""
    if one == other:
        return one
    what, _, every = other.partition(" every ")
    return f"{one} across, {every if every and one.startswith(f'{what} every ') else other} down"


def axis_reason(axis: Axis, along: Along) -> str:
    pitch, picture = axis.pitch, along.picture
    if not axis.spacing:
        if picture.shape[1] < 2 * pitch:
            return "no repetition shows"
        if along.comes_again(axis):
            return f"the same comes again every {pitch} px"
        if not along.breaks_off(axis):
            return f"little shows, and {pitch} px is usual" if pitch in USUAL else f"little shows of {pitch} px"
        return f"the art breaks off every {pitch} px"
    places = np.arange(picture.shape[1])
    gutter = picture[:, (places >= axis.margin) & ((places - axis.margin) % pitch >= axis.tile)]
    if not gutter.size or not gutter[..., 3].any():
        return f"{axis.spacing} px of clear gutter every {pitch} px"
    one = (gutter == gutter[:1, :1]).all()
    return f"{axis.spacing} px {LINES if one else 'between tiles without art'} every {pitch} px"
