"""Arithmetic on pixels with premultiplied alpha, so that laying one over another and averaging are plain sums."""

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect

Pixels = NDArray[np.uint8]


def premultiplied(picture: Pixels) -> Pixels:
    """RGBA with its colours multiplied by alpha, rounded.

    Parameters
    ----------
    picture : (..., 4) uint8
        Straight alpha.
    """
    alpha = picture[..., 3:].astype(np.uint16)
    result = picture.copy()
    result[..., :3] = (picture[..., :3] * alpha + 127) // 255
    return result


def straight(picture: Pixels) -> Pixels:
    """The inverse of `premultiplied`, as far as rounding allows; exact where alpha is 0 or 255.

    Parameters
    ----------
    picture : (..., 4) uint8
        Premultiplied alpha.
    """
    alpha = np.maximum(picture[..., 3:], 1).astype(np.uint32)
    result = picture.copy()
    result[..., :3] = np.minimum((picture[..., :3] * np.uint32(255) + alpha // 2) // alpha, 255)
    return result


def over(above: Pixels, below: Pixels) -> Pixels:
    """Premultiplied pixels laid over others.

    Parameters
    ----------
    above, below : (..., 4) uint8

    Returns
    -------
    pixels : (..., 4) uint8

    References
    ----------
    Division by 255 as in J. Blinn, "Three wrongs make a right" (1995).
    """
    through = below * (np.uint16(255) - above[..., 3:]) + np.uint16(128)
    through += through >> np.uint16(8)
    return np.asarray(above + (through >> np.uint16(8)), dtype=np.uint8)


def lay(above: Pixels, below: Pixels, *, whole: bool) -> None:
    """Lays premultiplied pixels over others in place.

    Parameters
    ----------
    above, below : (H, W, 4) uint8
    whole : bool
        Whether every pixel above is either clear or opaque; then none has to be blended.
    """
    if whole:
        mine, theirs = above.view(np.uint32)[..., 0], below.view(np.uint32)[..., 0]
        np.copyto(theirs, mine, where=mine != 0)
    else:
        below[:] = over(above, below)


def lay_background(canvas: Pixels, colour: str, area: PixelRect, size: tuple[int, int]) -> None:
    """Fills what of a canvas lies inside a picture with a colour.

    Parameters
    ----------
    canvas : (H, W, 4) uint8
        Is drawn on.
    colour : str
        As in #ff8800.
    area : PixelRect
        Where the canvas lies.
    size : (int, int)
        Width and height of the picture.
    """
    part = PixelRect(0, 0, *size).inside(area)
    if not part.is_empty:
        filled = canvas[part.y - area.y : part.bottom - area.y, part.x - area.x : part.right - area.x]
        filled[:] = (*(int(colour[at : at + 2], 16) for at in (1, 3, 5)), 255)


def modulated(picture: Pixels, opacity: float, tint: tuple[int, int, int]) -> Pixels:
    """Premultiplied pixels with their colours multiplied by a tint, and all of it by an opacity.

    Parameters
    ----------
    picture : (..., 4) uint8
    opacity : float
        0 to 1.
    tint : (int, int, int)
        0 to 255 each; 255 leaves a colour as it is.
    """
    factors = np.array([*(opacity * part / 255 for part in tint), opacity]) * 256
    return np.asarray((picture * factors.round().astype(np.uint16) + np.uint16(128)) >> np.uint16(8), dtype=np.uint8)


def reduced(pictures: Pixels, height: int, width: int) -> Pixels:
    """Pictures averaged down to a smaller size, without bleeding into one another.

    Parameters
    ----------
    pictures : (N, H, W, 4) uint8
        Premultiplied alpha.
    height, width : int
        At most H and W.

    Returns
    -------
    pictures : (N, height, width, 4) uint8
    """
    rows = np.arange(height + 1) * pictures.shape[1] // height
    columns = np.arange(width + 1) * pictures.shape[2] // width
    sums = np.add.reduceat(pictures, rows[:-1], axis=1, dtype=np.uint32)
    sums = np.add.reduceat(sums, columns[:-1], axis=2)
    area = (np.diff(rows)[:, None] * np.diff(columns))[..., None]
    return np.asarray((sums + area // 2) // area, dtype=np.uint8)
