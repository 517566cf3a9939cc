"""The four covers of the roof: textures that wrap after one tile, and the tiles where they meet.

At every pixel each terrain has a height: how near the corners are that bear it, plus a wrapping noise of its own.
The highest shows. On a tile's border that depends on the two shared corners alone, so seams match exactly.
"""

import numpy as np

from art.brush import SIZE, grain, rgb, soft

TERRAINS = ("slate", "moss", "gravel", "soil")
_ROUGHNESS = {"slate": 0.05, "moss": 0.15, "gravel": 0.07, "soil": 0.04}
_LIFT = {"slate": 0.0, "moss": 0.06, "gravel": 0.02, "soil": -0.02}
_STACKING = ("soil", "slate", "gravel", "moss")


def texture(terrain: str, variant: int = 0) -> np.ndarray:
    """The plain texture of a terrain as (SIZE, SIZE, 3); variants share their outermost pixels."""
    return {"slate": _slate, "moss": _moss, "gravel": _gravel, "soil": _soil}[terrain](variant).astype(np.uint8)


def meeting(corners: tuple[str, str, str, str]) -> np.ndarray:
    """A tile with these terrains at its corners, clockwise from the north-west: (SIZE, SIZE, 4)."""
    present = [terrain for terrain in _STACKING if terrain in corners]
    heights = np.stack([_height(terrain, corners) for terrain in present])
    order = np.argsort(heights, axis=0)
    top = order[-1]
    textures = np.stack([texture(terrain) for terrain in present])
    rows, columns = np.mgrid[0:SIZE, 0:SIZE]
    colours = textures[top, rows, columns]
    if len(present) > 1:
        ranked = np.sort(heights, axis=0)
        edge = ranked[-1] - ranked[-2]
        for number, terrain in enumerate(present):
            below = np.array([_STACKING.index(present[n]) for n in order[-2].ravel()]).reshape(SIZE, SIZE)
            higher = below < _STACKING.index(terrain)
            colours = _rim(colours, terrain, top == number, edge, higher)
    return np.dstack([colours, np.full((SIZE, SIZE), 255)]).astype(np.uint8)


def _height(terrain: str, corners: tuple[str, ...]) -> np.ndarray:
    """How strongly a terrain claims each pixel."""
    here = (np.arange(SIZE) + 0.5) / SIZE
    here = here * here * (3 - 2 * here)
    down, right = here[:, None], here[None, :]
    north_west, north_east, south_east, south_west = (float(corner == terrain) for corner in corners)
    claim = (north_west * (1 - right) + north_east * right) * (1 - down)
    claim += down * (south_west * (1 - right) + south_east * right)
    noise = soft(TERRAINS.index(terrain) + 40, SIZE, 3) * _ROUGHNESS[terrain]
    # Noise fades where a terrain has no corner near, so that no far crumbs appear.
    return claim + (noise + _LIFT[terrain]) * np.minimum(1, claim * 4)


def _rim(colours: np.ndarray, terrain: str, mine: np.ndarray, edge: np.ndarray, higher: np.ndarray) -> np.ndarray:
    """The border of a terrain: a lit rim where it lies on another, a contact shadow where another lies on it."""
    colours = colours.copy()
    lit = {"moss": "moss4", "gravel": "stone4", "slate": "slate4", "soil": "soil4"}[terrain]
    dark = {"moss": "moss1", "gravel": "stone1", "slate": "slate1", "soil": "soil1"}[terrain]
    colours[mine & higher & (edge < 0.09)] = rgb(dark) if terrain == "moss" else rgb("stone1")
    if terrain == "slate":
        colours[mine & higher & (edge < 0.12)] = rgb("slate1")
        colours[mine & higher & (edge >= 0.12) & (edge < 0.26)] = rgb("slate4")
    else:
        colours[mine & higher & (edge >= 0.09) & (edge < 0.22) & (grain(9) < 0.75)] = rgb(lit)
    colours[mine & ~higher & (edge < 0.16)] = rgb(dark)
    return colours


def _slate(variant: int) -> np.ndarray:
    """Roof slates in running bond: four courses of eight-pixel slates."""
    pixels = np.zeros((SIZE, SIZE, 3))
    shades = grain(3 + variant, 4, 2)
    common = grain(3, 4, 2)
    for course in range(4):
        for number in range(2):
            left = number * 8 + (4 if course % 2 else 0)
            crosses = left + 8 > SIZE
            shade = (common if crosses or course in (0, 3) else shades)[course, number]
            base = "slate3" if shade > 0.72 else "slate2"
            for x in range(left, left + 8):
                column = x % SIZE
                pixels[course * 4 : course * 4 + 3, column] = rgb(base)
                pixels[course * 4, column] = (
                    rgb("slate3" if base == "slate2" else "slate4") if x < left + 7 else rgb(base)
                )
                pixels[course * 4 + 3, column] = rgb("slate1")
            pixels[course * 4 : course * 4 + 4, (left + 7) % SIZE] = rgb("slate1")
    if variant == 2:
        _sprinkle(pixels, [(5, 5), (6, 5), (5, 6), (6, 6), (7, 6), (6, 7), (9, 9), (10, 9), (10, 10)], "moss3")
        _sprinkle(pixels, [(6, 5), (5, 6), (10, 9)], "moss4")
    if variant == 3:
        _sprinkle(pixels, [(4, 4), (5, 5), (6, 5), (7, 6), (8, 8), (9, 9), (10, 9)], "slate1")
        _sprinkle(pixels, [(5, 4), (8, 7)], "slate4")
    if variant == 4:
        _glove(pixels)
    return pixels


def _glove(pixels: np.ndarray) -> None:
    """A lost glove."""
    rows = ["..w.w...", "..w.w.w.", "w.wwwww.", "ww.wwww.", ".wwwwww.", "..wwwww.", "..rrrr..", "..rrrr.."]
    for y, row in enumerate(rows):
        for x, sign in enumerate(row):
            if sign != ".":
                pixels[y + 4, x + 4] = rgb("cream" if sign == "w" else "rose")
                if pixels[y + 5, x + 5].tolist() != list(rgb("cream")):
                    pixels[y + 5, x + 5] = rgb("ink")


def _moss(variant: int) -> np.ndarray:
    """Cushions of moss."""
    field = soft(11, SIZE, 2) + 0.55 * soft(12, SIZE, 0)
    names = np.digitize(field, [-1.1, 0.35, 1.5])
    pixels = np.array([rgb(n) for n in ("moss2", "moss3", "moss3", "moss4")], dtype=float)[names]
    pixels[(soft(15, SIZE, 1) < -1.35)] = rgb("moss2")
    places = {1: [(4, 5), (10, 9)], 2: [(7, 4), (4, 10), (11, 11)], 3: [(5, 8), (9, 5), (11, 10), (6, 12)]}
    for x, y in places.get(variant, []):
        if variant == 3:
            _sprinkle(pixels, [(x, y - 1), (x, y + 1), (x - 1, y), (x + 1, y)], "cream")
            _sprinkle(pixels, [(x, y)], "honey")
        else:
            _sprinkle(pixels, [(x, y), (x + 1, y - 1), (x - 1, y - 1)], "moss4")
            _sprinkle(pixels, [(x, y + 1)], "moss1")
            _sprinkle(pixels, [(x, y - 2)], "moss5")
    return pixels


def _gravel(variant: int) -> np.ndarray:
    """Pebbles, each with a lit top and a shaded foot."""
    field = soft(21, SIZE, 1)
    pixels = np.array([rgb(n) for n in ("stone2", "stone3", "stone3")], dtype=float)[np.digitize(field, [-0.9, 1.2])]
    pebbles = [(1, 2), (6, 1), (11, 3), (14, 7), (3, 7), (8, 6), (5, 11), (10, 10), (13, 13), (1, 13), (8, 14)]
    extra = {1: [(6, 8), (9, 12)], 2: [(4, 4), (12, 9)]}.get(variant, [])
    for x, y in pebbles + extra:
        _sprinkle(pixels, [(x, y), ((x + 1) % SIZE, y)], "stone4")
        _sprinkle(
            pixels, [(x, (y + 1) % SIZE), ((x + 1) % SIZE, (y + 1) % SIZE)], "stone1" if (x + y) % 3 == 0 else "stone2"
        )
    if variant == 2:
        _sprinkle(pixels, [(6, 6), (7, 5), (7, 7), (6, 7)], "moss3")
        _sprinkle(pixels, [(7, 6), (6, 5)], "moss4")
    return pixels


def _soil(variant: int) -> np.ndarray:
    """Dug earth in furrows."""
    pixels = np.zeros((SIZE, SIZE, 3))
    pixels[:] = rgb("soil2")
    for y in (1, 2, 9, 10):
        pixels[y] = rgb("soil3")
    for y in (5, 13):
        pixels[y] = rgb("soil1")
    speck = soft(31, SIZE, 0)
    pixels[speck > 1.45] = rgb("soil4")
    pixels[speck < -1.5] = rgb("soil1")
    if variant:
        greens = {1: [(4, 9), (10, 9)], 2: [(7, 3), (3, 10), (11, 10)], 3: [(4, 3), (11, 3), (7, 10)]}[variant]
        for x, y in greens:
            _sprinkle(pixels, [(x, y), (x - 1, y - 1), (x + 1, y - 1), (x, y - 1)], "moss3")
            _sprinkle(pixels, [(x - 1, y - 2), (x + 1, y - 2)], "moss4")
            _sprinkle(pixels, [(x, y + 1), (x + 1, y + 1)], "soil1")
            if variant == 3:
                _sprinkle(pixels, [(x, y - 2)], "rose")
                _sprinkle(pixels, [(x, y - 3)], "cream")
    return pixels


def _sprinkle(pixels: np.ndarray, places: list[tuple[int, int]], colour: str) -> None:
    for x, y in places:
        pixels[y, x] = rgb(colour)
