"""Isometric ground: stone slabs and lawn on diamonds of 32 x 16 that fit without a gap, every meeting of corners drawn."""

from itertools import product

import numpy as np

from art.brush import rgb

WIDTH, HEIGHT, APART, COLUMNS = 32, 16, 2, 8
SLABS, LAWN = 1, 2
COMBINATIONS = list(product((SLABS, LAWN), repeat=4))
"""Corners clockwise from the north-west, which is on top."""
VARIANTS = {SLABS: 3, LAWN: 5}


def paving() -> np.ndarray:
    """16 meetings, then variants of the plain ones: 8 x 3 tiles."""
    tiles = [_tile(corners, 0) for corners in COMBINATIONS]
    tiles += [_tile((terrain,) * 4, variant) for terrain, count in VARIANTS.items() for variant in range(1, count + 1)]
    rows = -(-len(tiles) // COLUMNS)
    sheet = np.zeros((rows * (HEIGHT + APART), COLUMNS * (WIDTH + APART), 4), dtype=np.uint8)
    for number, tile in enumerate(tiles):
        top, left = number // COLUMNS * (HEIGHT + APART), number % COLUMNS * (WIDTH + APART)
        sheet[top : top + HEIGHT, left : left + WIDTH] = tile
    return sheet


def _tile(corners: tuple[int, ...], variant: int) -> np.ndarray:
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH]
    half = np.where(rows < HEIGHT // 2, 2 * rows + 1, 2 * (HEIGHT - 1 - rows) + 1)
    inside = (columns >= WIDTH // 2 - half) & (columns < WIDTH // 2 + half)
    # Flat places of the pixels: x to the lower right, y to the lower left, 0 to 1 over the tile.
    across, down = (columns + 0.5 - WIDTH / 2) / WIDTH, (rows + 0.5) / HEIGHT
    x, y = down + across, down - across
    lawn = _lawn_share(corners, x, y)
    random = np.random.Generator(np.random.PCG64(100 + variant + 7 * corners[0]))
    colours = np.zeros((HEIGHT, WIDTH, 3), dtype=np.uint8)
    colours[:] = rgb("stone3")
    _slabs(colours, x, y, variant)
    _lawn(colours, lawn, random, variant)
    tile = np.zeros((HEIGHT, WIDTH, 4), dtype=np.uint8)
    tile[..., :3], tile[..., 3] = colours, 255
    tile[~inside] = 0
    return tile


def _lawn_share(corners: tuple[int, ...], x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """How much of a place is lawn, above a half where it is; a little wavy, but never along the sides."""
    north_west, north_east, south_east, south_west = (float(corner == LAWN) for corner in corners)
    upper, lower = north_west * (1 - x) + north_east * x, south_west * (1 - x) + south_east * x
    wave = 0.09 * np.sin(9 * x + 4 * y) * np.clip(x * (1 - x) * y * (1 - y) * 16, 0, 1)
    return upper * (1 - y) + lower * y + wave


def _slabs(colours: np.ndarray, x: np.ndarray, y: np.ndarray, variant: int) -> None:
    joint = (np.abs(x - 0.5) < 0.035) | (np.abs(y - 0.5) < 0.035) | (x < 0.035) | (y < 0.035)
    light = ((x * 2).astype(int) + (y * 2).astype(int)) % 2 == 0
    colours[light] = rgb("stone4")
    colours[joint] = rgb("stone2")
    if variant == 1:
        colours[(np.abs(x - y * 0.7 - 0.12) < 0.03) & (x > 0.3)] = rgb("stone1")
    if variant == 2:
        colours[((x - 0.72) ** 2 + (y - 0.3) ** 2 < 0.012) & ~joint] = rgb("moss3")
    if variant == 3:
        colours[((x - 0.3) ** 2 + (y - 0.68) ** 2 < 0.02) & ~joint] = rgb("stone2")


def _lawn(colours: np.ndarray, lawn: np.ndarray, random: np.random.Generator, variant: int) -> None:
    green = lawn > 0.5
    grain = random.random(lawn.shape)
    colours[green] = rgb("moss3")
    colours[green & (grain > 0.72)] = rgb("moss4")
    colours[green & (grain < 0.12)] = rgb("moss2")
    colours[(lawn > 0.44) & ~green] = rgb("stone1")
    colours[(lawn > 0.5) & (lawn < 0.57)] = rgb("moss2")
    spots = {1: ("rose", 3), 2: ("honey", 3), 3: ("cream", 4), 4: ("moss5", 9), 5: ("moss2", 12)}
    if variant and green.all():
        name, count = spots[variant]
        for _ in range(count):
            row, column = int(random.integers(4, HEIGHT - 4)), int(random.integers(10, WIDTH - 10))
            colours[row, column] = rgb(name)
            if name != "moss2":
                colours[row + 1, column] = rgb("moss1" if name != "moss5" else "moss4")
