"""Art kept in a format that loses a little of every colour, or that is noisy: its ground made one colour again.

Such formats (ITU-T T.81 and its kin) keep brightness nearly, a few levels off beside edges, and colour at half the
resolution, so that beside art a ground keeps its brightness and takes on some of that art's hue. What is about as
bright as the ground, and not of too different a hue, is taken for it.
"""

import numpy as np
from numpy.typing import NDArray

from knitground.core.sheet.colour import parse_colour

_COARSE, _NEAR = 8, 10
_LEAST_GROUND, _LEAST_NEAR, _LEAST_COLOURS = 0.05, 0.02, 32
_FAR, _FURTHER, _IN_THE_MIDST = 20, 72, 5
_SAMPLED = 1 << 16
_STEP, _FIRST, _LAST = 4, 2, 24


def settled(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A picture for looking at, in which what is nearly of its ground's colour is just of that.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.

    Returns
    -------
    picture : (H, W, 4) uint8
        The same array where colours were kept as they are.
    """
    border = np.concatenate([picture[0], picture[-1], picture[:, 0], picture[:, -1]])
    sample = _sample(picture)
    found, known = picture, np.full(3, -_FURTHER, dtype=np.int16)
    for part in (border, sample):
        solid = part[part[..., 3] == 255, :3]
        if not len(solid):
            continue
        key = _commonest(solid)
        if np.abs(key - known).max() <= _NEAR or not _is_blurred(sample, key):
            continue
        known = key
        like = about(picture, key)
        if like.mean() >= _LEAST_GROUND:
            found = found.copy() if found is picture else found
            found[like, :3] = key
    return found


def tolerance_of(picture: NDArray[np.uint8], key: str) -> int:
    """How far from a key colour most of what is meant by it lies, for clearing it; 0 where it is kept as it is.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    key : str
        As ``#rrggbb``.
    """
    colour, sample = parse_colour(key).astype(np.int16), _sample(picture)
    if not _is_blurred(sample, colour):
        return 0
    counts = np.bincount(_apart(sample, colour) // _STEP, minlength=_LAST + 2)[: _LAST + 2]
    few = np.convolve(counts, np.ones(3), "same")[_FIRST : _LAST + 1].argmin()
    return int(_FIRST + few) * _STEP + _STEP - 1


def about(picture: NDArray[np.uint8], colour: NDArray[np.int16]) -> NDArray[np.bool_]:
    """Which opaque pixels are about as bright as a colour, and not of too different a hue; (H, W) bool.

    Parameters
    ----------
    picture : (H, W, 4) uint8
        RGBA, straight alpha.
    colour : (3,) or (H, W, 3) int16
        The colour, or that of each pixel.
    """
    red, green, blue = (picture[..., part].astype(np.int16) - colour[..., part] for part in range(3))
    # The weights of ITU-R BT.601; a difference in hue counts an eighth of one in brightness.
    bright = ((77 * red.astype(np.int32) + 150 * green + 29 * blue) >> 8).astype(np.int16)
    hue = (9 * np.abs(blue - bright) + 11 * np.abs(red - bright)) >> 7
    away = np.where(picture[..., 3] == 255, np.abs(bright) + hue, _FURTHER + 1)
    about: NDArray[np.bool_] = away <= _FAR
    # Beside art some of a ground is further off; what lies in the midst of it is of it.
    return about | ((away <= _FURTHER) & (how_many_round(about) >= _IN_THE_MIDST))


def how_many_round(area: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """How many pixels of an area lie on and round each, (H, W), up to nine.

    Parameters
    ----------
    area : (H, W) bool
    """
    near = np.pad(area.astype(np.uint8), 1, "edge")
    near = near[:-2] + near[1:-1] + near[2:]
    return near[:, :-2] + near[:, 1:-1] + near[:, 2:]


def _sample(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(N, 4) pixels of whole lines all over a picture."""
    lines = max(1, min(len(picture), _SAMPLED // picture.shape[1]))
    return picture[np.unique(np.linspace(0, len(picture) - 1, lines).astype(np.intp))].reshape(-1, 4)


def _commonest(colours: NDArray[np.uint8]) -> NDArray[np.int16]:
    """The middle of the commonest colours of (N, 3), about alike."""
    coarse = colours // _COARSE @ np.array([1 << 10, 1 << 5, 1], dtype=np.int32)
    middle: NDArray[np.int16] = np.median(colours[coarse == np.bincount(coarse).argmax()], axis=0).astype(np.int16)
    return middle


def _apart(pixels: NDArray[np.uint8], colour: NDArray[np.int16]) -> NDArray[np.int16]:
    """How far the opaque ones of (N, 4) pixels are from a colour in the channel that differs most."""
    away = pixels[pixels[:, 3] == 255, :3].astype(np.int16) - colour
    apart: NDArray[np.int16] = np.abs(away).max(axis=-1)
    return apart


def _is_blurred(pixels: NDArray[np.uint8], colour: NDArray[np.int16]) -> bool:
    """Whether many colours lie close to one: art that is drawn has few shades so near each other."""
    apart = _apart(pixels, colour)
    near = (apart > 0) & (apart <= _NEAR)
    if near.sum() <= _LEAST_NEAR * (apart == 0).sum():
        return False
    packed = np.ascontiguousarray(pixels[pixels[:, 3] == 255]).view(np.uint32)[near]
    return bool(len(np.unique(packed)) >= _LEAST_COLOURS)
