"""Larger things of the roof, each as large as it is, scattered over one sheet with no grid."""

import numpy as np

from art.brush import Tile

PLACES = {
    "tank": (4, 3), "fig": (40, 5), "trellis": (78, 2), "line": (106, 12), "mast": (168, 2),
    "bench": (5, 54), "crates": (38, 50), "ladder": (68, 46), "barrel": (86, 52), "basket": (110, 58), "beds": (132, 44),
    "gloves": (176, 58),
}  # fmt: skip


def yard() -> np.ndarray:
    """All pieces where they lie on the sheet."""
    sheet = np.zeros((84, 192, 4), dtype=np.uint8)
    for name, (x, y) in PLACES.items():
        pixels = _DRAWN[name]().pixels
        sheet[y : y + pixels.shape[0], x : x + pixels.shape[1]] = pixels
    return sheet


def _tank() -> Tile:
    """A water tank on legs."""
    tile = Tile(32, 44)
    for x in (5, 22):
        tile.rect(x, 26, 3, 15, "wood1").rect(x, 26, 1, 15, "wood2")
    tile.line("wood1", (7, 28), (22, 38)).line("wood2", (22, 28), (7, 38)).rect(3, 25, 24, 3, "wood2").rect(
        3, 25, 24, 1, "wood3"
    )
    tile.rect(4, 9, 22, 16, "copper2").rect(4, 9, 4, 16, "copper3").rect(20, 9, 6, 16, "copper1")
    for y in (12, 20):
        tile.rect(4, y, 22, 1, "ink")
    tile.ellipse(14.5, 8, 11, 3.2, "copper3").ellipse(13.5, 7.4, 7, 1.6, "wood4")
    tile.poly("slate3", (4, 8), (15, 1), (26, 8)).poly("slate4", (4, 8), (15, 1), (12, 8))
    tile.rect(13, 27, 3, 8, "slate2").dot("sky", (14, 36), (14, 38))
    return tile.outline().shadow(3, 1)


def _fig() -> Tile:
    """A fig tree in a tub."""
    tile = Tile(32, 42)
    tile.rect(13, 20, 4, 12, "wood1").rect(13, 20, 1, 12, "wood2")
    for cx, cy, rx, ry, colour in (
        (15, 13, 12, 9, "moss1"), (10, 11, 8, 7, "moss2"), (19, 10, 8, 7, "moss2"), (14, 7, 9, 6, "moss3"),
        (9, 9, 4, 3, "moss3"), (12, 5, 4, 2.5, "moss4"), (21, 8, 3, 2, "moss3"),
    ):  # fmt: skip
        tile.ellipse(cx, cy, rx, ry, colour)
    tile.dot("rose", (8, 13), (14, 15), (20, 14), (23, 10), (16, 10)).dot("moss5", (10, 4), (13, 3), (8, 7), (18, 5))
    tile.rect(7, 31, 16, 8, "copper2").rect(7, 31, 3, 8, "copper3").rect(19, 31, 4, 8, "copper1")
    tile.rect(6, 29, 18, 3, "copper3").rect(6, 31, 18, 1, "copper1").rect(9, 29, 12, 1, "soil2")
    return tile.outline().shadow(3, 1)


def _trellis() -> Tile:
    """A trellis with something climbing."""
    tile = Tile(24, 40)
    for x in (3, 9, 15, 20):
        tile.rect(x, 3, 1, 34, "wood3")
    for y in (6, 13, 20, 27):
        tile.rect(2, y, 20, 1, "wood2")
    for x, y in ((6, 32), (9, 27), (6, 22), (12, 19), (16, 24), (10, 13), (15, 10), (6, 11), (18, 16), (12, 5)):
        tile.ellipse(x, y, 2.6, 2.2, "moss2").ellipse(x - 0.5, y - 0.6, 1.4, 1.2, "moss4")
    tile.dot("honey", (9, 25), (13, 18), (16, 9), (6, 20), (12, 4)).rect(5, 34, 6, 4, "copper2").rect(
        5, 34, 6, 1, "copper3"
    )
    return tile.outline().shadow(2, 1)


def _line() -> Tile:
    """The long washing line, with everything on it."""
    tile = Tile(56, 28)
    for x in (3, 49):
        tile.rect(x, 1, 2, 24, "wood2").rect(x, 1, 1, 24, "wood3")
    tile.rect(4, 4, 46, 1, "cream")
    for x, width, high, colour, dark in (
        (8, 8, 13, "rose", "brick2"), (18, 7, 9, "cream", "stone3"), (27, 9, 15, "sky", "verdigris1"), (38, 8, 10, "honey", "copper3"),
    ):  # fmt: skip
        tile.rect(x, 5, width, high, colour).rect(x + width - 1, 5, 1, high, dark).rect(x, 4 + high, width, 1, dark)
    tile.rect(41, 10, 2, 5, "ink")
    tile.pixels[10:15, 41:43] = 0
    return tile.outline().shadow(2, 2, 80)


def _mast() -> Tile:
    """An aerial with a vane."""
    tile = Tile(20, 46)
    tile.rect(9, 3, 1, 40, "slate4").rect(10, 3, 1, 40, "slate2")
    for y, half in ((8, 7), (12, 5), (16, 3)):
        tile.rect(10 - half, y, 2 * half, 1, "slate3")
    tile.poly("copper3", (10, 2), (17, 5), (10, 7)).rect(6, 41, 8, 3, "stone2").rect(6, 41, 8, 1, "stone4")
    return tile.outline().shadow(2, 1)


def _bench() -> Tile:
    tile = Tile(30, 22)
    tile.rect(2, 3, 24, 2, "wood3").rect(2, 6, 24, 2, "wood3").rect(2, 10, 24, 3, "wood4").rect(2, 12, 24, 1, "wood2")
    for x in (4, 22):
        tile.rect(x, 3, 2, 16, "wood1")
    return tile.outline().shadow(2, 1)


def _crates() -> Tile:
    """A stack of honey crates."""
    tile = Tile(26, 30)
    for x, y in ((2, 16), (12, 16), (6, 6)):
        tile.rect(x, y, 10, 9, "wood2").rect(x, y, 10, 1, "wood4").rect(x, y + 4, 10, 1, "wood1").rect(
            x, y + 8, 10, 1, "wood1"
        )
        tile.rect(x + 1, y - 2, 3, 2, "honey").rect(x + 5, y - 2, 3, 2, "honey").rect(x + 1, y - 3, 3, 1, "cream")
    return tile.outline().shadow(2, 1)


def _ladder() -> Tile:
    tile = Tile(14, 34)
    for x in (3, 9):
        tile.rect(x, 2, 1, 29, "wood3").rect(x + 1, 2, 1, 29, "wood1")
    for y in range(5, 30, 4):
        tile.rect(4, y, 5, 1, "wood4")
    return tile.outline().shadow(1, 1)


def _barrel() -> Tile:
    tile = Tile(20, 24)
    tile.ellipse(9.5, 12, 7, 9, "wood2").rect(3, 6, 3, 12, "wood3").rect(13, 6, 3, 12, "wood1")
    tile.rect(3, 8, 13, 1, "slate2").rect(3, 16, 13, 1, "slate2").ellipse(9.5, 4.5, 5.5, 1.8, "slate2").ellipse(
        9, 4.3, 4, 1, "sky"
    )
    return tile.outline().shadow(2, 1)


def _basket() -> Tile:
    tile = Tile(18, 14)
    tile.ellipse(8, 8, 6.5, 4, "wood3").rect(2, 7, 12, 1, "wood1").ellipse(8, 5.5, 5.5, 2, "moss3").dot(
        "rose", (6, 5), (9, 5), (11, 6)
    )
    return tile.outline().shadow(1, 1)


def _beds() -> Tile:
    """A raised bed with beans."""
    tile = Tile(38, 38)
    tile.rect(2, 24, 31, 10, "wood2").rect(2, 24, 31, 1, "wood4").rect(2, 29, 31, 1, "wood1").rect(
        3, 21, 29, 3, "soil2"
    )
    for x in (6, 13, 20, 27):
        tile.line("wood3", (x, 21), (x + 2, 5)).ellipse(x + 1, 12, 2.8, 5, "moss2").ellipse(
            x + 0.5, 10, 1.8, 3, "moss4"
        )
        tile.dot("rose", (x + 2, 13), (x, 9))
    return tile.outline().shadow(2, 1)


def _gloves() -> Tile:
    tile = Tile(12, 12)
    tile.rect(3, 3, 3, 5, "cream").rect(6, 4, 3, 5, "stone4").rect(3, 7, 6, 2, "honey")
    return tile.outline()


_DRAWN = {
    "tank": _tank, "fig": _fig, "trellis": _trellis, "line": _line, "mast": _mast, "bench": _bench, "crates": _crates,
    "ladder": _ladder, "barrel": _barrel, "basket": _basket, "beds": _beds, "gloves": _gloves,
}  # fmt: skip
