"""How many islands are found with their labels: blocks of 3 x 3 tiles on one ground, with four inner corners.

.venv/bin/python bench/island_sheets.py [COUNT [FIRST]] [--show]

The inner corners lie in 2 x 2 beside the block, below it, or elsewhere; lines in order, plain tiles and things
on the same ground fill the rest. Tiles need not be square.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from infer_cases import same_up_to_names
from knitground.core.joins.find import find_sets
from ordered_sheets import Cells, drawn, ordered
from patch_sheets import counts

_RING = [
    [0, 0, 1, 0], [0, 0, 1, 1], [0, 0, 0, 1],
    [0, 1, 1, 0], [1, 1, 1, 1], [1, 0, 0, 1],
    [0, 1, 0, 0], [1, 1, 0, 0], [1, 0, 0, 0],
]  # fmt: skip
_INNER = [[1, 1, 0, 1], [1, 1, 1, 0], [1, 0, 1, 1], [0, 1, 1, 1]]
_SIZES = (16, 16), (32, 32), (24, 24), (28, 20), (20, 26), (48, 48)


class Case(NamedTuple):
    """A sheet: its tiles, (R, C, h, w, 4), which cells hold any, (R, C), and its islands with their inner corners."""

    tiles: NDArray[np.uint8]
    held: NDArray[np.bool_]
    sets: list[Cells]


def make_case(seed: int) -> Case:
    """A sheet of two to five islands."""
    random = np.random.Generator(np.random.PCG64([seed, 97]))
    wide, high = _SIZES[random.integers(len(_SIZES))]
    count, apart = int(random.integers(2, 6)), int(random.integers(0, 2))
    below, elsewhere = random.random() < 0.3, random.random() < 0.25
    own = 3 if below or elsewhere else 5
    columns, rows = max(8, count * (own + apart)), int(random.integers(8, 13))
    sheet, held = np.zeros((rows * high, columns * wide, 4), np.uint8), np.zeros((rows, columns), bool)
    ground = _Texture(random, random.integers(30, 210, 3), high, wide)
    sets = []
    for number in range(count):
        left = number * (own + apart)
        inner = (left, 3 + apart) if below else (2 * number, 4) if elsewhere else (left + 3, int(random.integers(2)))
        colours = _other_than(random, ground.colour)
        art, rim = _Texture(random, colours, high, wide), np.clip(colours * random.uniform(0.4, 1.5), 0, 255)
        soft = random.random() < 0.3
        cells = {}
        for (column, row), size, labels in (((left, 0), 3, _RING), (inner, 2, _INNER)):
            shape = _outline(random, size, high, wide, soft=soft)
            pixels = _over(ground.of(size), art.of(size), shape if size == 3 else ~shape, rim, soft=soft)
            sheet[row * high : (row + size) * high, column * wide : (column + size) * wide] = pixels
            held[row : row + size, column : column + size] = True
            cells |= {(column + n % size, row + n // size): tuple(one) for n, one in enumerate(labels)}
        sets.append(cells)
    tiles = sheet.reshape(rows, high, columns, wide, 4).swapaxes(1, 2).copy()
    _fill(random, tiles, held, ground)
    return Case(tiles, held, sets)


class _Texture:
    """A grain in a colour, of which each part is drawn anew."""

    def __init__(self, random: np.random.Generator, colour: NDArray[np.int_], high: int, wide: int) -> None:
        self._random, self.colour, self._high, self._wide = random, colour, high, wide
        self._rough, self._blurred = random.uniform(2, 10), random.choice([0.0, 0.7, 1.5])
        self._own = self._drawn(1) if random.random() < 0.5 else None

    def _drawn(self, size: int) -> NDArray[np.float64]:
        noise = self._random.normal(0, 1, (size * self._high, size * self._wide))
        noise = ndimage.gaussian_filter(noise, self._blurred, mode="wrap")
        return np.clip(self.colour + (noise / noise.std() * self._rough)[..., None], 0, 255)

    def of(self, size: int) -> NDArray[np.float64]:
        """So many tiles of it across and down: the same one again, or all of them drawn anew."""
        return self._drawn(size) if self._own is None else np.tile(self._own, (size, size, 1))


def _other_than(random: np.random.Generator, ground: NDArray[np.int_]) -> NDArray[np.int_]:
    colour = random.integers(20, 235, 3)
    return (ground + 110) % 255 if np.abs(colour - ground).max() < 35 else colour


def _outline(random: np.random.Generator, size: int, high: int, wide: int, *, soft: bool) -> NDArray[np.bool_]:
    """What lies within a closed line about the middles of the outer tiles, that comes again with each tile."""
    y, x = np.mgrid[: size * high, : size * wide] + 0.5
    waves = [random.normal(0, 0.05, 3) for _ in range(2)]
    turn = random.uniform(0, 7, 3)

    def wave(along: NDArray[np.float64], long: int, which: int) -> NDArray[np.float64]:
        return long * sum(waves[which][n] * np.sin(2 * np.pi * (n + 1) * along / long + turn[n]) for n in range(3))

    across, down = np.abs(x - size * wide / 2), np.abs(y - size * high / 2)
    reach = size / 2 - 0.5
    inside = (across < reach * wide + wave(y, high, 0)) & (down < reach * high + wave(x, wide, 1))
    if soft:
        rough = ndimage.gaussian_filter(random.normal(0, 1, inside.shape), 1.2) * 2
        depth = ndimage.distance_transform_edt(inside) - ndimage.distance_transform_edt(~inside)
        inside = depth + rough > 0
    return ndimage.binary_opening(inside, iterations=max(1, wide // 12))


def _over(
    ground: NDArray[np.float64], art: NDArray[np.float64], inside: NDArray[np.bool_], rim: NDArray[np.float64],
    *, soft: bool,
) -> NDArray[np.uint8]:  # fmt: skip
    pixels = np.where(inside[..., None], art, ground)
    if not soft:
        pixels[inside & ~ndimage.binary_erosion(inside, iterations=1, border_value=1)] = rim
    return np.dstack([pixels, np.full(inside.shape, 255)]).astype(np.uint8)


def _fill(random: np.random.Generator, tiles: NDArray[np.uint8], held: NDArray[np.bool_], ground: _Texture) -> None:
    """Lays a row of lines, plain tiles and things in rows that are free."""
    high, wide = tiles.shape[2:4]
    free = [row for row in range(len(held)) if not held[row:].any()]
    if len(free) >= 2 and random.random() < 0.7 and held.shape[1] >= 8:
        made = drawn(random, "river", ordered(random, square=False), max(high, wide), random.integers(0, 255, (2, 3)))
        for place, tile in enumerate(made):
            at = free[place // 8], place % 8
            art = tile[np.ix_(np.arange(high) * len(tile) // high, np.arange(wide) * len(tile) // wide)]
            tiles[at] = np.dstack([np.where(art[..., 3:] > 0, art[..., :3], ground.of(1)), np.full((high, wide), 255)])
            held[at] = True
        free = free[2:]
    for row in free:
        for column in range(int(random.integers(0, held.shape[1] + 1))):
            pixels = ground.of(1)
            if random.random() < 0.6:
                y, x = np.mgrid[:high, :wide]
                spot = np.hypot((y - high / 2) / high, (x - wide / 2) / wide) < random.uniform(0.1, 0.45)
                pixels[spot] = random.integers(0, 255, 3)
            tiles[row, column] = np.dstack([pixels, np.full((high, wide), 255)])
            held[row, column] = True


def told(made: Case) -> tuple[int, int, int]:
    """How many islands are found with all labels, how many with all inner corners; and other sets of corners."""
    found = [one for one in find_sets(made.tiles, made.held) if one.kind == "corner"]
    rows = [dict(zip(map(tuple, one.cells.tolist()), map(tuple, one.labels.tolist()), strict=True)) for one in found]
    islands = whole = 0
    for cells in made.sets:
        mine = next((one for one in rows if set(list(cells)[:9]) <= one.keys()), {})
        both = [cell for cell in cells if cell in mine]
        if both and same_up_to_names([mine[cell] for cell in both], [cells[cell] for cell in both]).all():
            islands += 1
            whole += len(both) == len(cells)
    others = sum(not any(len(one.keys() & cells.keys()) >= 9 for cells in made.sets) for one in rows)
    return islands, whole, others


def main() -> None:
    """Prints the counts."""
    print(counts(make_case, told, "islands"))


if __name__ == "__main__":
    main()
