"""A frame of comb seen from the front: hexagonal cells of wax with what bees put in them, and some that are larger."""

import numpy as np

from art.brush import Tile, grain, rgb

WIDE, HIGH = 24, 28
COLUMNS, ROWS, TALL = 6, 3, 36
FILLINGS = ("bare", "drawn", "egg", "larva", "brood", "brood-old", "nectar", "honey", "capped", "capped-pale",
            "pollen", "pollen-rose", "wood", "wood-knot", "queen", "bee", "drone", "gap")  # fmt: skip
"""The tiles in reading order."""


def comb() -> np.ndarray:
    """The sheet: six columns, boxes of 24 x 36 in which each tile stands on the lower border."""
    sheet = np.zeros((ROWS * TALL, COLUMNS * WIDE, 4), dtype=np.uint8)
    for number, name in enumerate(FILLINGS):
        row, column = divmod(number, COLUMNS)
        tile = _MADE[name]()
        sheet[(row + 1) * TALL - len(tile) : (row + 1) * TALL, column * WIDE : (column + 1) * WIDE] = tile
    return sheet


def away(height: int = HIGH, width: int = WIDE) -> np.ndarray:
    """How far each pixel lies from the middle of its hexagon, 1 at the sides."""
    ys, xs = np.abs(2 * np.mgrid[:height, :width] + 1 - np.array([height, width])[:, None, None])
    return np.asarray(np.maximum(xs / width, (ys / height + xs / width / 2)))


def _cell(rim: tuple[str, str, str], deep: str, glow: str, seed: int) -> np.ndarray:
    """A cell of wax: a rim that catches the light from the upper left, and a floor that lies in shadow there."""
    far, tile = away(), np.zeros((HIGH, WIDE, 4), dtype=np.uint8)
    ys, xs = np.mgrid[:HIGH, :WIDE]
    lit = (ys - HIGH / 2) / HIGH + (xs - WIDE / 2) / WIDE
    noise = grain(seed, HIGH, WIDE)
    inside = far <= 1.001
    for colour, mask in (
        (rim[1], inside),
        (rim[0], inside & (far > 0.8) & (lit < -0.12)),
        (rim[2], inside & (far > 0.8) & (lit > 0.2)),
        ("wood1", inside & (far > 0.93)),
        (deep, far <= 0.74),
        (glow, (far <= 0.74) & (lit > 0.05)),
        (glow, (far <= 0.74) & (noise > 0.94)),
    ):
        tile[mask] = (*rgb(colour), 255)
    return tile


def _wax(seed: int = 3, *, dark: bool = False) -> np.ndarray:
    rim = ("wood3", "wood2", "wood1") if dark else ("wood4", "wood3", "wood2")
    return _cell(rim, "soil2" if dark else "wood1", "soil3" if dark else "wood2", seed)


def _over(tile: np.ndarray, *shapes: tuple[str, float, float, float, float]) -> np.ndarray:
    """Ellipses over a tile: colour, middle and radii."""
    ys, xs = np.mgrid[: tile.shape[0], : tile.shape[1]]
    for colour, x, y, wide, high in shapes:
        tile[((xs - x) / wide) ** 2 + ((ys - y) / high) ** 2 <= 1] = (*rgb(colour), 255)
    return tile


def _filled(colours: tuple[str, str, str], seed: int) -> np.ndarray:
    """A cell that is full to the rim, glossy where the light falls."""
    tile, far, noise = _wax(seed), away(), grain(seed, HIGH, WIDE)
    tile[far <= 0.78] = (*rgb(colours[1]), 255)
    tile[(far <= 0.78) & (noise > 0.86)] = (*rgb(colours[0]), 255)
    return _over(tile, (colours[2], 9, 10, 2.6, 2.0), ("cream", 8, 9, 1.0, 0.9))


def _capped(colours: tuple[str, str, str], seed: int) -> np.ndarray:
    """A cell under a lid that bulges a little."""
    tile, far, noise = _wax(seed), away(), grain(seed, HIGH, WIDE)
    ys, xs = np.mgrid[:HIGH, :WIDE]
    lit = (ys - HIGH / 2) / HIGH + (xs - WIDE / 2) / WIDE
    tile[far <= 0.86] = (*rgb(colours[1]), 255)
    tile[(far <= 0.86) & (lit > 0.25)] = (*rgb(colours[0]), 255)
    tile[(far <= 0.6) & (lit < -0.05)] = (*rgb(colours[2]), 255)
    tile[(far <= 0.8) & (noise > 0.92)] = (*rgb(colours[0]), 255)
    return tile


def _pollen(colours: tuple[str, str], seed: int) -> np.ndarray:
    tile, noise = _wax(seed), grain(seed + 50, HIGH, WIDE)
    inside = away() <= 0.72
    tile[inside] = (*rgb(colours[0]), 255)
    tile[inside & (noise > 0.55)] = (*rgb(colours[1]), 255)
    return tile


def _wood(seed: int, *, knot: bool = False) -> np.ndarray:
    """The frame of wood round the comb: it fills a hexagon with grain that runs across."""
    tile, ys = np.zeros((HIGH, WIDE, 4), dtype=np.uint8), np.mgrid[:HIGH, :WIDE][0]
    noise = grain(seed, HIGH, 1)
    inside = away() <= 1.001
    for colour, rows in (("wood2", noise >= 0), ("wood1", noise > 0.78), ("wood3", noise < 0.22)):
        tile[inside & rows[ys[:, 0]]] = (*rgb(colour), 255)
    return _over(tile, ("wood1", 12, 14, 4, 2.6), ("soil3", 12, 14, 2, 1.4)) if knot else tile


def _queen() -> np.ndarray:
    """A queen's cell hangs from the comb like a peanut, and stands out above its own cell."""
    tile = Tile(WIDE, TALL)
    tile.pixels[TALL - HIGH :] = _wax(9)
    return _over(tile.pixels, ("wood1", 12.5, 18, 7.5, 12), ("wood3", 12, 17, 6.5, 11), ("wood4", 10, 13, 3, 6),
                 ("wood2", 14, 24, 3.4, 4), ("soil2", 12, 28.5, 2.4, 1.4))  # fmt: skip


def _bee(*, large: bool = False) -> np.ndarray:
    """A bee on the comb, head up; a drone is broader and has larger eyes."""
    tile, wide = Tile(WIDE, TALL), 5.2 if large else 4.2
    _over(tile.pixels, ("ink", 12, 22, wide + 1, 10), ("honey", 12, 22, wide, 9))
    for y in (19, 23, 27):
        tile.rect(int(12 - wide), y, int(2 * wide) + 1, 2, "ink")
    _over(tile.pixels, ("ink", 12, 11, 4.6, 4), ("copper2", 12, 12, 3.6, 3), ("ink", 12, 7, 3.4, 2.6))
    if large:
        _over(tile.pixels, ("copper1", 10, 6.6, 1.6, 2), ("copper1", 14, 6.6, 1.6, 2))
    for side in (-1, 1):
        _over(tile.pixels, ("sky", 12 + side * 6, 19, 3.2, 7), ("cream", 12 + side * 6.4, 17, 1.2, 4))
        tile.line("ink", (12 + side * 2, 5), (12 + side * 4, 1))
    return tile.shadow(2, 2).pixels


_MADE = {
    "bare": _wax,
    "drawn": lambda: _wax(17),
    "egg": lambda: _over(_wax(5), ("cream", 11.5, 15, 1.1, 2.4)),
    "larva": lambda: _over(
        _wax(6), ("cream", 12, 14, 5, 5), ("stone3", 12.6, 14.6, 2.2, 2.2), ("cream", 14, 13, 1.6, 1.6)
    ),
    "brood": lambda: _capped(("copper2", "wood2", "wood3"), 21),
    "brood-old": lambda: _capped(("copper1", "copper2", "wood2"), 22),
    "nectar": lambda: _over(_wax(8), ("copper3", 12, 16, 6.4, 6.4), ("honey", 11, 15, 5, 5), ("cream", 9, 12, 1.2, 1)),
    "honey": lambda: _filled(("copper3", "honey", "wood4"), 31),
    "capped": lambda: _capped(("wood3", "wood4", "cream"), 33),
    "capped-pale": lambda: _capped(("wood4", "cream", "cream"), 34),
    "pollen": lambda: _pollen(("copper3", "honey"), 41),
    "pollen-rose": lambda: _pollen(("brick3", "rose"), 42),
    "wood": lambda: _wood(51),
    "wood-knot": lambda: _wood(52, knot=True),
    "queen": _queen,
    "bee": _bee,
    "drone": lambda: _bee(large=True),
    "gap": lambda: np.zeros((HIGH, WIDE, 4), dtype=np.uint8),
}
