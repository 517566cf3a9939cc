"""The beekeeper: the small figure that walks, four ways, two steps each, and standing still."""

from functools import cache

import numpy as np
from numpy.typing import NDArray

_COLOURS = {
    ".": (0, 0, 0, 0), "o": (43, 38, 34, 255), "h": (233, 205, 128, 255), "H": (196, 160, 84, 255),
    "v": (150, 148, 140, 215), "s": (226, 178, 140, 255), "w": (246, 240, 224, 255), "W": (214, 204, 184, 255),
    "g": (120, 92, 60, 255), "b": (92, 72, 52, 255), "r": (166, 58, 43, 255),
}  # fmt: skip
_HEAD_DOWN = (
    "...oooooo...",
    "..ohhhhhho..",
    ".ohhhhhhhho.",
    "oHHHHHHHHHHo",
    ".oovvvvvvoo.",
    "..ovosvoso..",
    "..ovvssvvo..",
    "...ovvvvo...",
)
_HEAD_UP = (
    "...oooooo...",
    "..ohhhhhho..",
    ".ohhhhhhhho.",
    "oHHHHHHHHHHo",
    ".oovvvvvvoo.",
    "..ovvvvvvo..",
    "..ovvvvvvo..",
    "...ovvvvo...",
)
_HEAD_SIDE = (
    "...ooooo....",
    "..ohhhhho...",
    ".ohhhhhhho..",
    "oHHHHHHHHHo.",
    ".ooovvvvoo..",
    "...ovvsos...",
    "...ovvssv...",
    "....ovvvo...",
)
_BODY = (
    "..owwwwwwo..",
    ".owwwrrwwwo.",
    ".gowwwwwwog.",
    "..owwwwwwo..",
    "..oWWWWWWo..",
)
_BODY_SIDE = (
    "...owwwwo...",
    "...owwwwwo..",
    "...owgwwwo..",
    "...owwwwwo..",
    "...oWWWWWo..",
)
_LEGS = {
    "stand": ("..owwoowwo..", "..obboobbo.."),
    "one": ("..owwoowwo..", "..obbo.ooo.."),
    "two": ("..owwoowwo..", "..ooo.obbo.."),
}
_LEGS_SIDE = {
    "stand": ("...owwwwo...", "...obbbbo..."),
    "one": ("..owwoowwo..", "..obb.obb..."),
    "two": ("...owwwwo...", "...obbbb...."),
}
_STEPS = ("stand", "one", "stand", "two")


@cache
def keeper(way: str, step: int) -> NDArray[np.uint8]:
    """The figure, (15, 12, 4) uint8 with straight alpha.

    Parameters
    ----------
    way : str
        Where it looks: N, E, S or W.
    step : int
        Which of the four pictures of a stride; the first is standing still.
    """
    name = _STEPS[step % len(_STEPS)]
    if way in ("E", "W"):
        rows = _HEAD_SIDE + _BODY_SIDE + _LEGS_SIDE[name]
    else:
        rows = (_HEAD_UP if way == "N" else _HEAD_DOWN) + _BODY + _LEGS[name]
    pixels = np.array([[_COLOURS[sign] for sign in row] for row in rows], dtype=np.uint8)
    return np.ascontiguousarray(pixels[:, ::-1]) if way == "W" else pixels
