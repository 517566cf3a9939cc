"""Pictures that move: the frames of GIF, APNG and WebP files, and frames put side by side into a sheet."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import ImageSequence

from knitground.core.errors import BadSheet
from knitground.core.sheet.cut import LARGEST_TILE, Cut
from knitground.core.sheet.picture import MOST_PIXELS, decode_picture, decoding

MOST_FRAMES = 256
USUAL_MS = 120
_SHORTEST_MS, _LONGEST_MS = 10, 60_000
_WIDEST = 4096


class Shown(NamedTuple):
    """A frame, (h, w, 4) uint8, and how long it shows."""

    pixels: NDArray[np.uint8]
    ms: int


def count_frames(data: bytes) -> int:
    """How many frames the file of an image has; 1 where it cannot be told."""
    try:
        with decoding(data, "picture") as image:
            return int(getattr(image, "n_frames", 1))
    except BadSheet:
        return 1


def decode_frames(data: bytes, name: str) -> list[Shown]:
    """All frames of an image file as they are seen, each on top of what those before it left.

    Raises
    ------
    BadSheet
        If it cannot be read, or has too many frames or pixels.
    """
    first = decode_picture(data, name)
    with decoding(data, name) as image:
        count = int(getattr(image, "n_frames", 1))
    _check_room(name, count, first.shape[1], first.shape[0])
    if count == 1:
        return [Shown(first, USUAL_MS)]
    shown = []
    with decoding(data, name) as image:
        for frame in ImageSequence.Iterator(image):
            # A frame may say that it is larger than the first, and is only made once it is asked for its pixels.
            _check_room(name, count, *frame.size)
            shown.append(Shown(np.array(frame.convert("RGBA"), dtype=np.uint8), _held(frame.info.get("duration"))))
    return shown


def _check_room(name: str, count: int, width: int, height: int) -> None:
    if count > MOST_FRAMES or count * width * height > MOST_PIXELS:
        raise BadSheet(f"{name} has {count} frames of {width} x {height} pixels; shorten it.")


def strip(frames: Sequence[NDArray[np.uint8]]) -> tuple[NDArray[np.uint8], Cut]:
    """Frames side by side, and the cut that makes tiles of them; smaller ones stand at the bottom in the middle.

    Parameters
    ----------
    frames : sequence of (h, w, 4) uint8
        Straight alpha.

    Raises
    ------
    BadSheet
        If a frame is too large for a tile.
    """
    height, width = (max(frame.shape[axis] for frame in frames) for axis in (0, 1))
    if max(width, height) > LARGEST_TILE:
        raise BadSheet(f"A frame of {width} x {height} pixels is too large for a tile; make it smaller.")
    columns = max(1, min(len(frames), _WIDEST // width))
    rows = -(-len(frames) // columns)
    picture = np.zeros((rows * height, columns * width, 4), dtype=np.uint8)
    for number, frame in enumerate(frames):
        row, column = divmod(number, columns)
        bottom, left = (row + 1) * height, column * width + (width - frame.shape[1]) // 2
        picture[bottom - frame.shape[0] : bottom, left : left + frame.shape[1]] = frame
    return picture, Cut("frames", width, height)


def _held(duration: object) -> int:
    """A duration in milliseconds that can be played; browsers, too, slow down what has none."""
    ms = round(float(duration)) if isinstance(duration, int | float) else 0
    return min(max(ms, _SHORTEST_MS), _LONGEST_MS) if ms else USUAL_MS
