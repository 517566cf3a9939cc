"""What of a sheet may be made clear at a click: a key that lies round all its tiles, or a haze left on it."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.cuts import with_clearing, with_key
from knitground.core.sheet.bared import HAZE
from knitground.core.sheet.checkered import CHECKER
from knitground.core.sheet.colour import hex_of
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.gutters import Looked, corner_colour, gutter_key, looked_at
from knitground.core.sheet.keys import DRAWN
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.uneven import GROUND

_DRAWN_SAYS = {CHECKER: "a checker is drawn in round its tiles", GROUND: "an uneven ground lies round its tiles"}


class ClearOffer(NamedTuple):
    """A way to make something clear.

    Attributes
    ----------
    title : str
        What it does, in two words.
    says : str
        What is there, as the end of a sentence.
    taken : callable
        Whether a sheet has it clear already.
    change : callable
        Another sheet of one and its (H, W, 4) pixels, and a sentence about what that does.
    """

    title: str
    says: str
    taken: Callable[[Sheet], bool]
    change: Callable[[Sheet, NDArray[np.uint8]], tuple[Sheet, str]]


def clear_offer(pixels: NDArray[np.uint8], cuts: Sequence[Cut], looked: Looked | None = None) -> ClearOffer | None:
    """What to make clear first of a sheet, if anything.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha, as its file holds it.
    cuts : sequence of Cut
        All that the sheet has.
    looked : Looked, optional
        `looked_at` the pixels, for who asks often.
    """
    looked = looked_at(pixels) if looked is None else looked
    key = gutter_key(pixels, cuts, looked)
    if key is not None:
        return _of_key(key)
    return _HAZE if looked.hazy else None


def offer_for_images(pixels: NDArray[np.uint8], cuts: Sequence[Cut]) -> ClearOffer | None:
    """What to make clear of a collection: the colour that most of its images are drawn on, if they are on one.

    Parameters
    ----------
    pixels : (H, W, 4) uint8
        Straight alpha, the picture of all.
    cuts : sequence of Cut
        One for each image.
    """
    colour = corner_colour(pixels[cut.region.slices()] for cut in cuts if cut.region is not None)
    return None if colour is None else _of_key(hex_of(colour))


def _of_key(key: str) -> ClearOffer:
    says = _DRAWN_SAYS.get(key, f"{key} fills the rest")

    def taken(sheet: Sheet) -> bool:
        # One colour is enough of a ground; one of those that are drawn in is not.
        return key in sheet.keys if key in DRAWN else bool(sheet.keys)

    return ClearOffer(f"Clear {key}", says, taken, lambda sheet, picture: with_key(sheet, picture, key))


def _without_haze(sheet: Sheet, _: NDArray[np.uint8]) -> tuple[Sheet, str]:
    return with_clearing(sheet, clear_below=HAZE + 1), "What can’t be seen anyhow is transparent now."


_HAZE = ClearOffer(
    "Clear haze", "a haze lies where it should be clear", lambda sheet: sheet.clear_below > HAZE, _without_haze
)
