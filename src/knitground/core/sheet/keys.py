"""Keys: what a sheet shows where it means to be clear, a colour, a checkerboard, an uneven ground."""

from typing import Annotated, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.sheet.checkered import CHECKER, checker_on, checker_tolerance
from knitground.core.sheet.colour import parse_colour
from knitground.core.sheet.settled import tolerance_of
from knitground.core.sheet.uneven import uneven_ground

GROUND = "ground"
"""What a ground that is not of one colour is called among keys."""
Key = Annotated[str, Field(pattern=rf"^(#[0-9a-f]{{6}}|{CHECKER}|{GROUND})$")]


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
        As ``#rrggbb``, ``checker`` or ``ground``; these show nowhere on a picture that has none.
    tolerance : int
    """
    if key == CHECKER:
        checker = checker_on(picture)
        if checker is None:
            return _nowhere(picture)
        return KeyOn(checker.on(picture, tolerance), checker.plate(*picture.shape[:2]))
    if key == GROUND:
        ground = uneven_ground(picture)
        return _nowhere(picture) if ground is None else KeyOn(ground.on(picture, tolerance), ground.plate)
    colour = parse_colour(key)
    area = np.ones(picture.shape[:2], dtype=np.bool_)
    for channel, level in enumerate(colour.tolist()):
        seen = picture[..., channel]
        area &= (seen >= max(0, level - tolerance)) & (seen <= min(255, level + tolerance))
    return KeyOn(area, colour)


def _nowhere(picture: NDArray[np.uint8]) -> KeyOn:
    return KeyOn(np.zeros(picture.shape[:2], dtype=np.bool_), np.zeros(3, dtype=np.uint8))


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


def key_tolerance(picture: NDArray[np.uint8], key: str) -> int:
    """How far from a key most of what is meant by it lies, for clearing it; 0 where it is kept as it is.

    Parameters
    ----------
    picture : (H, W, 4) uint8
    key : str
        As ``#rrggbb``, ``checker`` or ``ground``; how far that reaches it tells itself.
    """
    if key == GROUND:
        return 0
    if key == CHECKER:
        checker = checker_on(picture)
        return 0 if checker is None else checker_tolerance(checker)
    return tolerance_of(picture, key)


def key_named(key: str) -> str:
    """What a key is called in a sentence."""
    return f"the {key}" if key in (CHECKER, GROUND) else key


def parse_key(text: str) -> str:
    """A key as files hold it; what is no key is left for `key_on` to refuse.

    Parameters
    ----------
    text : str
        A colour, its mark missing or not, in any case, ``checker`` or ``ground``.
    """
    return text if text in (CHECKER, GROUND) else f"#{text.lstrip('#').lower()}"
