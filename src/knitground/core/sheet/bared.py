"""A picture for looking at, without what shows where it means to be clear: a checkerboard, a haze, a frame round it."""

import numpy as np
import scipy
from numpy.typing import NDArray

from knitground.core.sheet.checkered import checker_on
from knitground.core.sheet.settled import about

HAZE = 8
"""What is of no more alpha than this can't be seen: it is left of what was taken out of a picture."""
_SOLID, _AWAY, _HAZY = 64, 8, 0.02
"""From which alpha on art is plain, how far from it haze is none of its edges, and on how much of the rest it lies."""
_OPAQUE, _SHINES, _HELD = 200, 0.02, 0.3
"""From which alpha on nothing shines through, of how much of a picture more does, and what share of the rest has to."""
_WIDEST_FRAME, _OTHER, _RARE, _LINE, _CLEAR = 48, 0.95, 0.01, 0.5, 0.05
"""How wide a frame is, what share of the line within it is of other colours, and what share of all that, and of a line
that may part tiles, is of its own; what share of a picture is clear."""


def bared(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A picture that is clear where it only seems not to be; the same array where nothing is to be taken off.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    """
    off = _checker(picture) | _frame(picture)
    if is_hazy(picture):
        off |= picture[..., 3] <= HAZE
    if not off.any():
        return picture
    clear = picture.copy()
    clear[off] = 0
    return clear


def without_glow(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A picture without what shines through, as glows and soft shadows in gutters; the same where that is little.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha. What is hardly more than such things is left as it is.
    """
    alpha = picture[..., 3]
    seen, solid = alpha > 0, alpha >= _OPAQUE
    if (seen & ~solid).mean() <= _SHINES or solid.sum() <= _HELD * seen.sum():
        return picture
    return np.where(solid[..., None], picture, np.uint8(0))


def is_hazy(picture: NDArray[np.uint8]) -> bool:
    """Whether something that can't be seen lies all over what means to be clear, and not just round art.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    """
    alpha = picture[..., 3]
    faint = (alpha > 0) & (alpha <= HAZE)
    if not faint.any():
        return False
    away = scipy.ndimage.distance_transform_cdt(alpha < _SOLID, "chessboard") > _AWAY
    return bool((faint & away).sum() > _HAZY * max(1, away.sum()))


def _checker(picture: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """What shows a checkerboard that is drawn in."""
    checker = checker_on(picture)
    if checker is None:
        return np.zeros(picture.shape[:2], dtype=np.bool_)
    shown = checker.may_show(picture, checker.tolerance)
    return shown if checker.exact else shown | about(picture, checker.plate(*picture.shape[:2]).astype(np.int16))


def _frame(picture: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """A frame of one colour that is drawn round all of a picture, and is none of the lines between its tiles."""
    framed = np.zeros(picture.shape[:2], dtype=np.bool_)
    same = (picture == picture[0, 0]).all(axis=-1)
    widest = min(_WIDEST_FRAME, min(same.shape) // 4)
    if not (widest and picture[0, 0, 3] and _round(same, 0).all()):
        return framed
    wide = next((one for one in range(1, widest + 1) if not _round(same, one).all()), 0)
    if not wide or _round(same, wide).mean() > 1 - _OTHER:
        return framed
    inner = slice(wide, -wide), slice(wide, -wide)
    within, clear = same[inner], (picture[..., 3][inner] == 0).mean()
    drawn_within = max(within.mean(axis=0).max(), within.mean(axis=1).max())
    # Where nothing is clear it may be the ground that all stands on, and where nothing else is it is the art.
    if _CLEAR <= clear <= 1 - _CLEAR and within.mean() <= _RARE and drawn_within <= _LINE:
        framed[:] = True
        framed[inner] = False
    return framed


def _round(area: NDArray[np.bool_], inside: int) -> NDArray[np.bool_]:
    """The pixels of the line round an area, so many further inside."""
    area = area[inside : len(area) - inside, inside : area.shape[1] - inside]
    return np.concatenate([area[0], area[-1], area[:, 0], area[:, -1]])
