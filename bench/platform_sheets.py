"""Made-up sheets of platform games: terrain in blocks, slopes and a few things on one grid without gutters.

.venv/bin/python bench/platform_sheets.py [COUNT [FIRST]] [--own] [--sets] [--show]

Says of how many sheets all terrain is cut as it was drawn, and how many things are in one piece or cut so. With `--own`
each tile has a grain of its own. With `--sets` it says on how many all tiles of terrain but slopes are found as a set.
"""

import sys
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
import scipy
from PIL import Image, ImageDraw

from knitground.core.joins.find import find_sets
from knitground.core.sheet.cut import Cut, region_of
from knitground.core.sheet.parts import look_over

Random = np.random.Generator
Truth = tuple[int, ...]
Box = tuple[int, int, int, int]
Cell = tuple[int, int]


class Sheet(NamedTuple):
    """A sheet, the side of its tiles, which cells hold terrain, (R, C) bool, and the cells that things lie in."""

    pixels: np.ndarray
    side: int
    terrain: np.ndarray
    things: list[Box]


class _Ground:
    """Soil with a cap and a rim, drawn for any shape; its grain is the same in all tiles, or another in each."""

    def __init__(self, random: Random, side: int, own: bool) -> None:
        self.side, self.own = side, np.random.default_rng(side) if own else None
        self.soil, self.top, self.line = (
            random.uniform(60, 190, 3),
            random.uniform(60, 220, 3),
            random.uniform(20, 70, 3),
        )
        self.rim, self.cap = float(random.choice([0, 1.2, 2.3])), int(random.choice([0, side // 5, side // 4]))
        self.grain = random.integers(-10, 11, (side, side, 1)) * float(random.choice([0, 0.5, 1]))
        self._spotted(random, int(random.integers(0, 9)))

    def _spotted(self, random: Random, count: int) -> None:
        for _ in range(count):
            y, x = random.integers(2, self.side - 4, 2)
            self.grain[y : y + 2, x : x + 3] -= 24

    def drawn(self, solid: np.ndarray) -> np.ndarray:
        """The tile in the midst of a shape, (5 side, 3 side) bool, that is solid where that is set."""
        side, depth = self.side, np.zeros(solid.shape, int)
        if self.own is not None:
            self.grain = self.own.integers(-7, 8, (side, side, 1)).astype(float)
            self._spotted(self.own, 4)
        for y in range(len(solid)):
            depth[y] = np.where(solid[y], depth[y - 1] + 1 if y else 99, 0)
        grain = np.tile(self.grain, (5, 3, 1))
        colour = np.where(solid[..., None], self.soil + grain, 0.0)
        colour = np.where(((depth > 0) & (depth <= self.cap))[..., None], self.top + grain * 0.6, colour)
        if self.rim:
            far = scipy.ndimage.distance_transform_edt(np.pad(solid, 1, constant_values=True))[1:-1, 1:-1]
            colour = np.where((solid & (far <= self.rim))[..., None], self.line, colour)
        pixels = np.dstack([np.clip(colour, 0, 255), np.where(solid, 255, 0)]).astype(np.uint8)
        return pixels[3 * side : 4 * side, side : 2 * side]

    def tile(self, north: bool, east: bool, south: bool, west: bool) -> np.ndarray:
        """A tile with more of the ground beside it on some sides, and between these."""
        rows = {-1: slice(0, 3 * self.side), 0: slice(3 * self.side, 4 * self.side), 1: slice(4 * self.side, None)}
        columns = {-1: slice(0, self.side), 0: slice(self.side, 2 * self.side), 1: slice(2 * self.side, None)}
        goes_on = {(-1, 0): north, (1, 0): south, (0, -1): west, (0, 1): east, (0, 0): True}
        solid = np.zeros((5 * self.side, 3 * self.side), bool)
        for down in (-1, 0, 1):
            for right in (-1, 0, 1):
                solid[rows[down], columns[right]] = goes_on[down, 0] and goes_on[0, right]
        return self.drawn(solid)

    def inner(self, down: int, right: int) -> np.ndarray:
        """A tile that lacks what lies beyond one of its corners."""
        solid = np.ones((5 * self.side, 3 * self.side), bool)
        below = slice(4 * self.side, None) if down else slice(0, 3 * self.side)
        solid[below, slice(2 * self.side, None) if right else slice(0, self.side)] = False
        return self.drawn(solid)

    def slopes(self) -> np.ndarray:
        """Two by two tiles: up and down, and what lies below."""
        y, x = np.mgrid[0 : 5 * self.side, 0 : 3 * self.side]
        rising = [y - down * self.side >= 2 * self.side - 1 - x for down in (3, 2)]
        return np.stack([[self.drawn(solid), self.drawn(solid[:, ::-1])] for solid in rising])


def platform_sheet(seed: int, *, own: bool = False) -> Sheet:
    """A sheet with terrain in blocks and things; with `own` each tile has a grain of its own."""
    random = np.random.default_rng([seed, 4242])
    side = int(random.choice([16, 16, 20, 24, 32, 32, 48]))
    columns, rows = int(random.integers(10, 18)), int(random.integers(7, 12))
    pixels, terrain = np.zeros((rows * side, columns * side, 4), np.uint8), np.zeros((rows, columns), bool)

    def put(y: int, x: int, tile: np.ndarray) -> None:
        pixels[y * side : (y + 1) * side, x * side : (x + 1) * side] = tile
        terrain[y, x] = True

    ground = _Ground(random, side, own)
    for y in range(3):
        for x in range(3):
            put(y, x, ground.tile(y > 0, x < 2, y < 2, x > 0))
    if random.random() < 0.8:
        for n in range(3):
            put(3, n, ground.tile(False, n < 2, False, n > 0))
            put(n, 3, ground.tile(n > 0, False, n < 2, False))
        put(3, 3, ground.tile(False, False, False, False))
    if random.random() < 0.7:
        for n, corner in enumerate(((1, 1), (1, 0), (0, 1), (0, 0))):
            put(n // 2, 4 + n % 2, ground.inner(*corner))
    if random.random() < 0.8:
        left, top, slopes = int(random.choice([6, 7])), int(random.integers(0, 2)), ground.slopes()
        for n in range(4):
            put(top + n // 2, left + n % 2, slopes[n // 2, n % 2])
    image = Image.fromarray(pixels)
    things = _things(random, ImageDraw.Draw(image), terrain, side)
    pixels = np.array(image)
    if random.random() < 0.4:
        pixels = pixels[: rows * side - int(random.integers(0, side // 2))]
        pixels = pixels[:, : columns * side - int(random.integers(0, side // 2))]
    return Sheet(pixels, side, terrain, things)


def _things(random: Random, pen: ImageDraw.ImageDraw, terrain: np.ndarray, side: int) -> list[Box]:
    """Draws some things of one to three cells a side, where nothing is yet."""
    taken, things = terrain.copy(), list[Box]()
    for _ in range(int(random.integers(3, 10))):
        wide, high = int(random.choice([1, 1, 1, 2, 2, 3])), int(random.choice([1, 1, 2, 2, 3]))
        y, x = int(random.integers(0, len(taken) - high + 1)), int(random.integers(0, taken.shape[1] - wide + 1))
        if taken[y : y + high, x : x + wide].any():
            continue
        taken[y : y + high, x : x + wide] = True
        things.append((x, y, wide, high))
        ink = tuple(int(one) for one in random.uniform(40, 220, 3))
        inset, top = int(random.integers(0, side // 4 + 1)), int(random.integers(0, side // 2))
        left, right = x * side + inset, (x + wide) * side - 1 - inset
        begin, foot, middle = y * side + top, (y + high) * side - 1, (x * side + (x + wide) * side - 1) // 2
        how = int(random.integers(4))
        if how == 0:
            pen.ellipse([left, begin, right, foot], fill=ink)
        elif how == 1:
            pen.rectangle([left, begin, right, foot], fill=ink)
            pen.rectangle([left + 2, begin + 2, right - 2, begin + 4], fill=(20, 20, 20))
        elif how == 2:
            pen.polygon([(middle, begin), (right, foot), (left, foot)], fill=ink)
        else:
            pen.line([middle, foot, middle, (begin + foot) // 2], fill=(90, 60, 40), width=max(2, side // 8))
            pen.ellipse([left, begin, right, begin + (foot - begin) * 2 // 3], fill=ink)
    return things


def platform_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """Such a sheet as one of those that numbers are guessed of, every other with grain of its own in each tile."""
    sheet = platform_sheet(seed, own=seed % 2 == 1)
    return sheet.pixels, (sheet.side, sheet.side, 0, 0, 0, 0), f"platforms {sheet.side}"


def judged(sheet: Sheet, cuts: list[Cut]) -> tuple[int, int]:
    """How many tiles of terrain are cut otherwise than drawn, how many things neither cut so nor in one piece."""
    side, (height, width) = sheet.side, sheet.pixels.shape[:2]

    def cut_so(x: int, y: int) -> bool:
        middle = x + side // 2, y + side // 2
        return any(
            (cut.tile_width, cut.tile_height, cut.spacing_x, cut.spacing_y) == (side, side, 0, 0)
            and (x - room.x - cut.margin_x) % side == 0 == (y - room.y - cut.margin_y) % side
            for cut, room in ((cut, region_of(cut, width, height)) for cut in cuts if not cut.pieces)
            if room.x <= middle[0] < room.x + room.width and room.y <= middle[1] < room.y + room.height
        )

    pieces = [piece for cut in cuts for piece in cut.pieces]
    held = sheet.pixels[..., 3] > 0
    tiles = [(x * side, y * side) for y, x in np.argwhere(sheet.terrain).tolist()]
    tiles = [(x, y) for x, y in tiles if held[y : y + side, x : x + side].any()]
    apart = 0
    for x, y, wide, high in sheet.things:
        cells = [((x + across) * side, (y + down) * side) for across in range(wide) for down in range(high)]
        shown = np.argwhere(held[y * side : (y + high) * side, x * side : (x + wide) * side])
        if len(shown) and not all(cut_so(*cell) for cell in cells):
            (top, left), (bottom, right) = shown.min(axis=0), shown.max(axis=0)
            box = x * side + left, y * side + top, x * side + right, y * side + bottom
            apart += not any(
                one.x <= box[0] and one.y <= box[1] and box[2] < one.x + one.width and box[3] < one.y + one.height
                for one in pieces
            )
    return sum(not cut_so(x, y) for x, y in tiles), apart


def tiles_on(sheet: Sheet) -> np.ndarray:
    """The tiles of a sheet that is cut as it was drawn, (R, C, side, side, 4)."""
    side, (rows, columns) = sheet.side, sheet.terrain.shape
    whole = np.zeros((rows * side, columns * side, 4), np.uint8)
    whole[: sheet.pixels.shape[0], : sheet.pixels.shape[1]] = sheet.pixels
    return whole.reshape(rows, side, columns, side, 4).swapaxes(1, 2)


def sets_on(sheet: Sheet) -> list[set[Cell]]:
    """The cells of the sets that are found on it."""
    tiles = tiles_on(sheet)
    found = find_sets(tiles, tiles[..., 3].any(axis=(2, 3)))
    return [{(x, y) for x, y in one.cells.tolist()} for one in found]


def _count_sets(seeds: range) -> None:
    whole = with_things = 0
    for seed in seeds:
        sheet = platform_sheet(seed, own="--own" in sys.argv)
        tiles, terrain = tiles_on(sheet), {(x, y) for y, x in np.argwhere(sheet.terrain).tolist()}
        sets = sets_on(sheet)
        # Of tiles that are copies of each other one is enough.
        wanted = {tiles[y, x].tobytes() for x, y in terrain if x < 6 or y > 2}
        whole += any({tiles[y, x].tobytes() for x, y in cells} >= wanted for cells in sets)
        with_things += sum(bool(cells - terrain) for cells in sets)
    print(f"all terrain found as a set on {whole} of {len(seeds)} sheets; {with_things} sets have things")


def measure(make: Callable[[int], Sheet], count_sets: Callable[[range], None]) -> None:
    """Counts the sheets of some kind that are cut as they were drawn, and the things on them, or sets."""
    numbers = [int(one) for one in sys.argv[1:] if one.isdigit()]
    count, first = (numbers + [40, 0][len(numbers) :])[:2]
    seeds = range(first, first + count)
    if "--sets" in sys.argv:
        count_sets(seeds)
        return
    right = missed = every = 0
    for seed in seeds:
        sheet = make(seed)
        guesses, parts = look_over(sheet.pixels)
        cuts = parts or [one.as_cut("") for one in guesses[:1]]
        wrong, apart = judged(sheet, cuts)
        right, missed, every = right + (not wrong), missed + apart, every + len(sheet.things)
        if "--show" in sys.argv and (wrong or apart):
            told = [(c.tile_width, c.tile_height, tuple(c.region or ()), len(c.pieces)) for c in cuts]
            print(
                seed, sheet.side, sheet.pixels.shape[:2], f"{wrong} wrong, {apart} of {len(sheet.things)} apart", told
            )
    print(f"terrain right on {right} of {count} sheets; {missed} of {every} things cut through or joined")


if __name__ == "__main__":
    measure(lambda seed: platform_sheet(seed, own="--own" in sys.argv), _count_sets)
