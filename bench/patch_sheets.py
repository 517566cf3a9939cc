"""How many patches with soft rims are found, with their inner corners, of those that fill a sheet side by side.

.venv/bin/python bench/patch_sheets.py [COUNT [FIRST]] [--show]

Each patch is a block of 3 x 3 or 4 x 4 tiles on clear ground; its inner corners lie elsewhere in 2 x 2. Plain tiles of
another kind lie on some of its cells, as those who draw use what room there is; plants of several tiles fill the rest.
"""

import sys
import time
from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from knitground.core.joins.find import find_sets

Cell = tuple[int, int]
Cells = set[Cell]


class Case(NamedTuple):
    """A sheet: its tiles, (R, C, h, w, 4), and of each patch the cells of its block, and those of its inner corners."""

    tiles: NDArray[np.uint8]
    patches: list[tuple[Cells, Cells]]


def make_case(seed: int) -> Case:
    """A sheet of three to six patches."""
    random = np.random.Generator(np.random.PCG64([seed, 83]))
    side, size = int(random.choice([24, 32, 48, 64])), int(random.choice([3, 4, 4]))
    count, across = int(random.integers(3, 7)), int(random.integers(2, 4))
    rows, columns = -(-count // across) * size + 2 + 3, max(across * size, 2 * count) + int(random.integers(0, 4))
    sheet = np.zeros((rows * side, columns * side, 4), np.uint8)
    patches, corners = [], rows - 5
    for number in range(count):
        grain = _texture(random, side)
        column, row = number % across * size, number // across * size
        fade = float(random.uniform(0.04, 0.12)) * side
        where = sheet[row * side : (row + size) * side, column * side : (column + size) * side]
        where[:] = _drawn(random, grain, _block(size * side, side / 3), fade)
        block = {(column + x, row + y) for x in range(size) for y in range(size)}
        if size == 4 and random.random() < 0.5:
            # The middle of one side is moved inward, and there is room for two tiles.
            outer, within = (0, 1) if random.random() < 0.5 else (3, 2)
            kept = where[outer * side : (outer + 1) * side, side : 3 * side].copy()
            where[within * side : (within + 1) * side, side : 3 * side] = kept
            block -= _covered(random, sheet, column + 1, row + outer, side)
        inner = sheet[corners * side : (corners + 2) * side, 2 * number * side : 2 * (number + 1) * side]
        inner[:] = _drawn(random, grain, ~_block(2 * side, side * random.uniform(0.6, 0.7)), fade)
        patches.append((block, {(2 * number + x, corners + y) for x in range(2) for y in range(2)}))
    _plants(random, sheet, (rows - 3) * side)
    return Case(sheet.reshape(rows, side, columns, side, 4).swapaxes(1, 2), patches)


def _texture(random: np.random.Generator, side: int) -> NDArray[np.float64]:
    """Grain in colours that is seamless as large as a tile, seldom only as two."""
    side *= 1 + int(random.random() < 0.2)
    noise = random.normal(0, 1, (side, side))
    grain = sum(ndimage.gaussian_filter(noise, width, mode="wrap") * width for width in (0.7, 2.0, 4.0))
    colour = random.integers(40, 220, 3)
    return np.clip(colour + (grain / np.std(grain))[..., None] * random.uniform(6, 18), 0, 255)


def _block(long: int, away: float) -> NDArray[np.bool_]:
    """A square within a square, so far from its borders."""
    inside = np.zeros((long, long), bool)
    inside[int(away) : long - int(away), int(away) : long - int(away)] = True
    return inside


def _drawn(
    random: np.random.Generator, grain: NDArray[np.float64], inside: NDArray[np.bool_], fade: float
) -> NDArray[np.uint8]:
    """An area in a grain, whose rim is rough and fades out."""
    long = len(inside)
    depth = ndimage.distance_transform_edt(inside) - ndimage.distance_transform_edt(~inside)
    depth += ndimage.gaussian_filter(random.normal(0, 1, inside.shape), 1.5) * fade * 3
    pixels = np.tile(grain, (long // len(grain) + 1, long // len(grain) + 1, 1))[:long, :long]
    pixels = np.clip(pixels + random.normal(0, 4, (long, long, 1)), 0, 255)
    alpha = np.clip(depth / fade, 0, 1) * 255
    return np.dstack([pixels * (alpha > 0)[..., None], alpha]).astype(np.uint8)


def _covered(random: np.random.Generator, sheet: NDArray[np.uint8], column: int, row: int, side: int) -> Cells:
    """Lays plain tiles of another kind on two cells; which these are."""
    grain = _texture(random, side)
    part = sheet[row * side : (row + 1) * side, column * side : (column + 2) * side]
    part[..., :3], part[..., 3] = np.tile(grain[:side, :side], (1, 2, 1)), 255
    return {(column, row), (column + 1, row)}


def _plants(random: np.random.Generator, sheet: NDArray[np.uint8], top: int) -> None:
    """Draws bushes over several tiles."""
    high, wide = sheet.shape[0] - top, sheet.shape[1]
    y, x = np.mgrid[:high, :wide]
    for _ in range(int(random.integers(1, 5))):
        size = float(random.uniform(0.2, 0.45)) * high
        middle = random.uniform(size, max(size + 1, wide - size))
        shape = np.hypot((y - high / 2) / size, (x - middle) / size) + random.normal(0, 0.1, (high, wide)) < 1
        colours = random.integers(20, 200, 3) + random.normal(0, 25, (high, wide, 1))
        art = np.dstack([np.clip(colours, 0, 255), np.full((high, wide), 255)]).astype(np.uint8)
        sheet[top:][shape] = art[shape]


def told(made: Case) -> tuple[int, int, int]:
    """How many patches are found with what is left of their blocks, how many with their corners, too; other sets."""
    sets = find_sets(made.tiles, made.tiles[..., 3].any(axis=(2, 3)))
    found = [set(map(tuple, one.cells.tolist())) for one in sets]
    every = [block | inner for block, inner in made.patches]
    mine = [
        next((one for one in found if len(one & block) >= 0.9 * len(block) and len(one - cells) <= 2), set())
        for (block, _), cells in zip(made.patches, every, strict=True)
    ]
    whole = sum(inner <= one for one, (_, inner) in zip(mine, made.patches, strict=True))
    others = sum(not any(len(one & cells) >= 0.8 * len(one) for cells in every) for one in found)
    return sum(map(bool, mine)), whole, others


def counts(make: Callable[[int], Any], tell: Callable[[Any], tuple[int, int, int]], of: str) -> str:
    """What is told of all the cases that the command line asks for, in a sentence; --show prints those that fail.

    Parameters
    ----------
    make : callable
        Makes the case of a seed, whose last part is what it holds.
    tell : callable
        Tells how many of that are found, how many with all inner corners, and how many other sets.
    of : str
        What they are.
    """
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers + [40, 0][len(numbers) :])[:2]
    held = found = whole = others = 0
    slowest = 0.0
    for seed in range(first, first + count):
        made = make(seed)
        began = time.perf_counter()
        one, all_of, wrong = tell(made)
        slowest = max(slowest, time.perf_counter() - began)
        held, found, whole, others = held + len(made[-1]), found + one, whole + all_of, others + wrong
        if "--show" in sys.argv and (all_of < len(made[-1]) or wrong):
            print(seed, made.tiles.shape[2:4], len(made[-1]), one, all_of, wrong)
    return f"{found} of {held} {of} found, {whole} with all inner corners; {others} other sets; {slowest:.1f} s"


def main() -> None:
    """Prints the counts."""
    print(counts(make_case, told, "patches"))


if __name__ == "__main__":
    main()
