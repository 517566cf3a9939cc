"""Colours in words, as one would name a terrain by them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.joins.look import seen_colours

_WORDS = {
    "snowy": "#eef2f4", "ashen": "#bdb8ae", "stony grey": "#8c8880", "smoky grey": "#5c5b5f",
    "dark grey": "#3b3a40", "charcoal": "#29282b", "night dark": "#1d1c24", "dark brown": "#3a2a28",
    "earthy brown": "#6a4935", "wooden brown": "#a37648", "sandy": "#d8c08e", "straw yellow": "#ece2a4",
    "sunny yellow": "#f2dc4a", "golden": "#dfae3c", "orange": "#d8812f", "clay red": "#a9543a",
    "wine red": "#76283a", "bright red": "#d0342e", "rosy": "#d77c90", "pale pink": "#f2ccd2",
    "orchid pink": "#c44cba", "lilac": "#b9a6dc", "violet": "#7c5c9e", "plum": "#42264a",
    "bright violet": "#8a3ce8", "midnight blue": "#1f2a48", "deep blue": "#2f4f8c", "bright blue": "#2c5ae0",
    "slate blue": "#4c5972", "watery blue": "#4a8fc8", "icy blue": "#a8d8e4", "frosty blue": "#d6e0f8",
    "turquoise": "#48c4ba", "teal": "#3f8a80", "deep teal": "#28606a", "minty green": "#a6e6c6",
    "fir green": "#22402c", "mossy green": "#43683a", "leafy green": "#63983c", "olive green": "#77742e",
    "bright green": "#46cc46", "light green": "#a3c95a", "pale green": "#b4cf9a",
    "dark teal": "#1c4652", "dark red": "#4e1a1c",
}  # fmt: skip


def in_words(colours: Sequence[NDArray[np.floating]]) -> list[str]:
    """A word for each colour; those that would be called alike are numbered.

    Parameters
    ----------
    colours : sequence of (3,) float
        Red, green and blue.
    """
    known = np.array([[int(text[at : at + 2], 16) for at in (1, 3, 5)] for text in _WORDS.values()], dtype=np.uint8)
    words = list(_WORDS)
    found: list[str] = []
    for colour in colours:
        both = np.concatenate([known, np.asarray(colour, dtype=np.uint8)[None]])
        seen = seen_colours(np.pad(both, ((0, 0), (0, 1)), constant_values=255)[:, None, None], "square")[:, 0, 0]
        word = words[int(((seen[:-1] - seen[-1]) ** 2).sum(axis=1).argmin())]
        again = sum(one.rstrip(" 23456789") == word for one in found)
        found.append(f"{word} {again + 1}" if again else word)
    return found
