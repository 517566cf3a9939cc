"""Art that was enlarged, so that each of its pixels is a block of the sheet's: its cut, found at its own size."""

import re
from dataclasses import replace
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.plausible import Sizes
from knitground.core.sheet.profile import SMALLEST_TILE

if TYPE_CHECKING:
    from knitground.core.sheet.guess import Guess

_MOST_TIMES = 10
_FILLED = 0.5
"""At what share of the borders between its blocks art has to change; flat shapes may lie on a raster, too."""
_LEAST_TILE = 8
"""How wide and high tiles have to be at their own size; those of few flat shapes may lie on a raster, too."""
_ROOM = 4
"""How many pixels the art must be wide and high at its own size, for each time that it was enlarged."""


class Enlarged(NamedTuple):
    """How many times art was enlarged, and where its first whole pixel begins on the picture."""

    times: int
    left: int = 0
    top: int = 0

    def shrunk(self, picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """The art at its own size, (h, w, 4).

        Parameters
        ----------
        picture : (H, W, 4) uint8
            RGBA, straight alpha.
        """
        rows, columns = ((side - first) // self.times for side, first in zip(picture.shape, self[:0:-1], strict=False))
        small = picture[self.top :: self.times, self.left :: self.times]
        return np.ascontiguousarray(small[:rows, :columns])

    def known(self, sizes: Sizes) -> Sizes:
        """Sizes of tiles in pixels of the art, those that are whole ones."""
        return [
            (wide // self.times, high // self.times)
            for wide, high in sizes
            if wide % self.times == 0 == high % self.times
        ]

    def guess(self, guess: "Guess") -> "Guess":
        """A guess of the art, in pixels of the picture."""
        times = self.times
        reason = re.sub(r"\d+", lambda number: str(int(number[0]) * times), guess.reason)
        return replace(
            guess,
            tile_width=guess.tile_width * times,
            tile_height=guess.tile_height * times,
            margin_x=guess.margin_x * times + self.left,
            margin_y=guess.margin_y * times + self.top,
            spacing_x=guess.spacing_x * times,
            spacing_y=guess.spacing_y * times,
            reason=f"{reason}; each pixel of the art is {times} x {times}",
        )

    def cut(self, cut: Cut) -> Cut:
        """A cut of the art, in pixels of the picture."""
        times = self.times
        return replace(
            cut,
            tile_width=cut.tile_width * times,
            tile_height=cut.tile_height * times,
            margin_x=cut.margin_x * times + (0 if cut.region else self.left),
            margin_y=cut.margin_y * times + (0 if cut.region else self.top),
            spacing_x=cut.spacing_x * times,
            spacing_y=cut.spacing_y * times,
            region=cut.region and self._rect(cut.region),
            pieces=tuple(map(self._rect, cut.pieces)),
            gap=cut.gap * times,
        )

    def _rect(self, rect: Rect) -> Rect:
        x, y, width, height = (number * self.times for number in rect)
        return Rect(x + self.left, y + self.top, width, height)


def enlarged(picture: NDArray[np.uint8]) -> Enlarged:
    """How the art on a picture was enlarged; once where it was not, or where nothing says so.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha. Of what is clear the colour doesn't count.
    """
    packed = _packed(picture)
    across, down = _steps(packed[:, 1:] != packed[:, :-1], 0), _steps(packed[1:] != packed[:-1], 1)
    if min(len(across), len(down)) < 2:
        return Enlarged(1)
    times = int(np.gcd.reduce(np.concatenate([np.diff(across), np.diff(down)])))
    height, width = packed.shape
    small = min(width, height) // times
    filled = min(len(across) / (width / times), len(down) / (height / times))
    if times > _MOST_TIMES or small < max(2 * SMALLEST_TILE, _ROOM * times) or filled < _FILLED:
        return Enlarged(1)
    return Enlarged(times, int(across[0]) % times, int(down[0]) % times)


def tiles_enlarged(tiles: NDArray[np.uint8]) -> int:
    """How many times the art on tiles was enlarged that begin with a whole pixel of it; once where nothing says so.

    Parameters
    ----------
    tiles : (n, h, w, 4) uint8
        RGBA, straight alpha.
    """
    packed = _packed(tiles)
    height, width = packed.shape[1:]
    across = _steps(packed[:, :, 1:] != packed[:, :, :-1], (0, 1))
    down = _steps(packed[:, 1:] != packed[:, :-1], (0, 2))
    times = int(np.gcd.reduce(np.concatenate([across, down, [width, height]])))
    filled = min(len(across) * times / width, len(down) * times / height)
    small = min(width, height) // times
    return times if times <= _MOST_TIMES and small >= _LEAST_TILE and filled >= _FILLED else 1


def _packed(pixels: NDArray[np.uint8]) -> NDArray[np.uint32]:
    """Each pixel as one number; what is clear is all the same."""
    return np.where(pixels[..., 3] > 0, np.ascontiguousarray(pixels).view(np.uint32)[..., 0], np.uint32(0))


def _steps(changes: NDArray[np.bool_], over: int | tuple[int, ...]) -> NDArray[np.intp]:
    """Before which columns or rows anything changes."""
    return np.flatnonzero(changes.any(axis=over)) + 1
