"""A ground that is not of one colour: it grows lighter or darker over the sheet, or is grained as paper is.

Such a ground is a smooth surface for each channel, of the second degree, and some grain; both are told by the border of
the sheet, where most of it lies. Lines of least trimmed squares (Rousseeuw, 1984) bear with what else reaches that.
"""

from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.sheet.profile import art_of
from knitground.core.sheet.settled import how_many_round

GROUND = "ground"
"""What it is called among keys."""

_WIDE, _ROUNDS, _TRIMMED = 2, 12, 0.6
"""How many pixels of the border are looked at, and how much of them each of the rounds of fitting goes by."""
_LEAST, _GRAIN, _MOST = 4.0, 3.5, 28.0
"""How far off ground may lie in a channel: at least, by how much it is grained, and at most."""
_IN_THE_MIDST = 6
"""How many of nine pixels are ground where the one in the middle is a grain of it."""
_OF_BORDER, _OF_ALL, _MORE = 0.55, 0.05, 2.0
"""What share of the border, and of all, is ground, and how much more than what is of one colour."""


class UnevenGround(NamedTuple):
    """How a picture would look with nothing on its ground, (H, W, 3) uint8, and how far off that ground may lie."""

    colours: NDArray[np.uint8]
    near: float

    @property
    def tolerance(self) -> int:
        """How much further off what is meant by it lies."""
        return 0

    def plate(self, height: int, width: int) -> NDArray[np.uint8]:
        """How the picture would look without anything on it, (H, W, 3).

        Parameters
        ----------
        height, width : int
            Those of the picture that it was told of.
        """
        return self.colours[:height, :width]

    def on(self, picture: NDArray[np.uint8], tolerance: int = 0) -> NDArray[np.bool_]:
        """What of a picture, (H, W, 4), shows it, (H, W): what is like it within art is art.

        Parameters
        ----------
        picture : (H, W, 4) uint8
            RGBA, straight alpha.
        tolerance : int
            How far off, from 0 to 255. It is never less than `near`.
        """
        shown = self.may_show(picture, tolerance)
        areas, _ = scipy.ndimage.label(shown)
        border = np.unique(np.concatenate([areas[0], areas[-1], areas[:, 0], areas[:, -1]]))
        outside: NDArray[np.bool_] = np.isin(areas, border[border > 0])
        return outside

    def may_show(self, picture: NDArray[np.uint8], tolerance: int = 0) -> NDArray[np.bool_]:
        """What of a picture, (H, W, 4), is about of its colours, (H, W).

        Parameters
        ----------
        picture : (H, W, 4) uint8
            RGBA, straight alpha.
        tolerance : int
            How far off, from 0 to 255. It is never less than `near`.
        """
        like = np.ones(picture.shape[:2], dtype=np.bool_)
        for channel in range(3):
            off = picture[..., channel].astype(np.int16) - self.colours[..., channel]
            like &= np.abs(off) <= max(self.near, tolerance)
        return like | (how_many_round(like) >= _IN_THE_MIDST)


def uneven_ground(picture: NDArray[np.uint8]) -> UnevenGround | None:
    """The ground of a picture that is not of one colour; none where none is told.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha. Nothing is told where some of it is clear.
    """
    if not picture[..., 3].all():
        return None
    height, width = picture.shape[:2]
    ring = np.zeros((height, width), dtype=np.bool_)
    for edge in (np.s_[:_WIDE], np.s_[-_WIDE:], np.s_[:, :_WIDE], np.s_[:, -_WIDE:]):
        ring[edge] = True
    y, x = np.arange(height, dtype=np.float32) / height - 0.5, np.arange(width, dtype=np.float32) / width - 0.5
    rows, columns = np.nonzero(ring)
    surface, off = _fitted(_terms(y[rows], x[columns]), picture[ring, :3].astype(np.float32))
    near = min(_MOST, max(_LEAST, _GRAIN * 1.4826 * float(np.median(off))))
    if (off <= near).mean() < _OF_BORDER:
        return None
    plate = np.zeros((height, width, 3), dtype=np.uint8)
    for channel in range(3):
        terms = zip(surface[:, channel], _terms(y[:, None], x), strict=True)
        plate[..., channel] = np.rint(np.clip(sum(weight * term for weight, term in terms), 0, 255))
    found = UnevenGround(plate, near)
    plain = 1.0 - art_of(picture.astype(np.int16)).mean()
    return found if found.may_show(picture).mean() >= max(_OF_ALL, _MORE * plain) else None


def without_uneven_ground(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A picture that is clear where its ground shows, if that is uneven; the same array where none is told.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    """
    ground = uneven_ground(picture)
    return picture if ground is None else np.where(ground.may_show(picture)[..., None], np.uint8(0), picture)


def _terms(y: NDArray[np.float32], x: NDArray[np.float32]) -> tuple[NDArray[np.float32], ...]:
    """The terms of a surface of the second degree."""
    return np.ones_like(x), x, y, x * x, x * y, y * y


def _fitted(
    terms: tuple[NDArray[np.float32], ...], seen: NDArray[np.float32]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """The surface of most pixels, (6, 3), and how far each lies off it in the channel where that is most."""
    of_each = np.stack(terms, axis=1)
    start = np.median(seen, axis=0)
    off = np.abs(seen - start).max(axis=1)
    surface = np.zeros((of_each.shape[1], 3), dtype=np.float32)
    for _ in range(_ROUNDS):
        kept = off <= np.quantile(off, _TRIMMED)
        surface = np.linalg.lstsq(of_each[kept], seen[kept], rcond=None)[0]
        off = np.abs(seen - of_each @ surface).max(axis=1)
    return surface, off
