"""Keys: what a sheet shows where it means to be clear, a colour or a checkerboard that was drawn in."""

import re
from typing import Annotated, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.errors import BadSheet
from knitground.core.sheet.checkered import CHECKER, checker_on, checker_tolerance

Key = Annotated[str, Field(pattern=rf"^(#[0-9a-f]{{6}}|{CHECKER})$")]


class KeyOn(NamedTuple):
    """Where a picture shows a key, (H, W) bool, and what it would be without anything else on it.

    That plate is (3,) or (H, W, 3) uint8: one colour, or what each pixel shows.
    """

    area: NDArray[np.bool_]
    plate: NDArray[np.uint8]


def key_on(picture: NDArray[np.uint8], key: str, tolerance: int) -> KeyOn:
    """Which pixels show a key: no channel is further from it than the tolerance.

    Parameters
    ----------
    picture : (H, W, 4) uint8
    key : str
        As ``#rrggbb``, or ``checker``; that shows nowhere on a picture with none drawn in.
    tolerance : int
    """
    if key == CHECKER:
        checker = checker_on(picture)
        if checker is None:
            return KeyOn(np.zeros(picture.shape[:2], dtype=np.bool_), np.zeros(3, dtype=np.uint8))
        return KeyOn(checker.on(picture, tolerance), checker.plate(*picture.shape[:2]))
    colour = parse_colour(key)
    area = np.ones(picture.shape[:2], dtype=np.bool_)
    for channel, level in enumerate(colour.tolist()):
        seen = picture[..., channel]
        area &= (seen >= max(0, level - tolerance)) & (seen <= min(255, level + tolerance))
    return KeyOn(area, colour)


def key_at(picture: NDArray[np.uint8], x: int, y: int) -> str:
    """The key that a pixel shows: its colour, or the checkerboard where one is drawn in there.

    Parameters
    ----------
    picture : (H, W, 4) uint8
    x, y : int
    """
    checker = checker_on(picture)
    if checker is not None and checker.on(picture, checker_tolerance(checker))[y, x]:
        return CHECKER
    red, green, blue = picture[y, x, :3].tolist()
    return f"#{red:02x}{green:02x}{blue:02x}"


def key_named(key: str) -> str:
    """What a key is called in a sentence."""
    return "the checker" if key == CHECKER else key


def parse_key(text: str) -> str:
    """A key as files hold it; what is no key is left for `key_on` to refuse.

    Parameters
    ----------
    text : str
        A colour, its mark missing or not, in any case, or ``checker``.
    """
    return text if text == CHECKER else f"#{text.lstrip('#').lower()}"


def parse_colour(text: str) -> NDArray[np.uint8]:
    """Red, green and blue of ``#rrggbb`` (the mark may be missing).

    Parameters
    ----------
    text : str

    Returns
    -------
    colour : (3,) uint8

    Raises
    ------
    BadSheet
        If it is no such colour.
    """
    if not re.fullmatch(r"#?[0-9A-Fa-f]{6}", text):
        raise BadSheet(f"“{text}” is not a colour; write six hexadecimal digits, for instance FF00FF.")
    return np.frombuffer(bytes.fromhex(text.lstrip("#")), dtype=np.uint8)
