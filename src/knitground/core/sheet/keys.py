"""Keys: what a sheet shows where it means to be clear, a colour, a checkerboard, an uneven ground."""

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Annotated, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from knitground.core.sheet.checkered import CHECKER, checker_on
from knitground.core.sheet.colour import hex_of, parse_colour
from knitground.core.sheet.settled import tolerance_of
from knitground.core.sheet.uneven import GROUND, uneven_ground


class Drawn(Protocol):
    """What is drawn where a picture means to be clear, and is no one colour."""

    @property
    def tolerance(self) -> int:
        """How far from it what is meant by it lies."""

    def on(self, picture: NDArray[np.uint8], tolerance: int) -> NDArray[np.bool_]:
        """What of a picture, (H, W, 4), shows it, (H, W)."""

    def plate(self, height: int, width: int) -> NDArray[np.uint8]:
        """How the picture would look without anything on it, (H, W, 3)."""


DRAWN: Mapping[str, Callable[[NDArray[np.uint8]], Drawn | None]] = MappingProxyType(
    {CHECKER: checker_on, GROUND: uneven_ground}
)
Key = Annotated[str, Field(pattern=rf"^(#[0-9a-f]{{6}}|{'|'.join(DRAWN)})$")]


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
    if key in DRAWN:
        drawn = DRAWN[key](picture)
        if drawn is None:
            return KeyOn(np.zeros(picture.shape[:2], dtype=np.bool_), np.zeros(3, dtype=np.uint8))
        return KeyOn(drawn.on(picture, tolerance), drawn.plate(*picture.shape[:2]))
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
    if checker is not None and checker.on(picture, checker.tolerance)[y, x]:
        return CHECKER
    return hex_of(picture[y, x, :3])


def key_tolerance(picture: NDArray[np.uint8], key: str) -> int:
    """How far from a key most of what is meant by it lies, for clearing it; 0 where it is kept as it is.

    Parameters
    ----------
    picture : (H, W, 4) uint8
    key : str
        As ``#rrggbb``, ``checker`` or ``ground``; how far that reaches it tells itself.
    """
    if key in DRAWN:
        drawn = DRAWN[key](picture)
        return 0 if drawn is None else drawn.tolerance
    return tolerance_of(picture, key)


def key_named(key: str) -> str:
    """What a key is called in a sentence."""
    return f"the {key}" if key in DRAWN else key


def parse_key(text: str) -> str:
    """A key as files hold it; what is no key is left for `key_on` to refuse.

    Parameters
    ----------
    text : str
        A colour, its mark missing or not, in any case, ``checker`` or ``ground``.
    """
    return text if text in DRAWN else f"#{text.lstrip('#').lower()}"
