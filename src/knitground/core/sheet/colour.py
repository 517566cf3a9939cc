"""Colours as text."""

import re
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadSheet


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


def hex_of(colour: Iterable[int]) -> str:
    """A colour as ``#rrggbb``, of its red, green and blue from 0 to 255."""
    return "#" + "".join(f"{int(part):02x}" for part in colour)
