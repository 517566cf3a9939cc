"""How often the grids of a sheet that holds several are found, and how often several are seen where one is.

.venv/bin/python bench/part_cases.py [COUNT [FIRST]] [--show] [--single | --lossy | --cornered]
"""

import sys
import time
from collections import defaultdict
from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw

from guess_cases import any_case, headed_case, lossy, shape_case
from guess_cases import art_of as tile_of
from knitground.core.sheet.cut import Cut, tile_rect
from knitground.core.sheet.parts import look_over
from unkind_sheets import _MAKERS as MAKERS

Random = np.random.Generator
SIDES = (8, 12, 14, 16, 16, 18, 20, 24, 32, 32, 40, 48)


class Grid(NamedTuple):
    """One true grid: tile size, where its first tile lies, spacing, how many."""

    width: int
    height: int
    left: int
    top: int
    spacing: int
    columns: int
    rows: int


def grid_art(random: Random, grid: Grid) -> np.ndarray:
    """The pixels of one grid, (H, W, 4), clear between and where cells are empty."""
    width, height, _, _, spacing, columns, rows = grid
    kind = str(random.choice(("terrain", "things", "lines", "blobs", "own", "split", "families", "blocks", "icons")))
    if kind in MAKERS:
        art = MAKERS[kind](random, columns, rows, width, height)
    else:
        art = [[tile_of(kind, random, width, height) for _ in range(columns)] for _ in range(rows)]
    size = rows * (height + spacing) - spacing, columns * (width + spacing) - spacing
    pixels = np.zeros((*size, 4), np.uint8)
    last = int(random.integers(1, columns + 1)) if random.random() < 0.5 else columns
    for row in range(rows):
        for column in range(columns):
            tile = art[row][column]
            if tile is None or (row == rows - 1 and column >= last):
                continue
            top, left = row * (height + spacing), column * (width + spacing)
            pixels[top : top + height, left : left + width] = tile
    return pixels


def part_case(seed: int) -> tuple[np.ndarray, list[Grid], str]:
    """A sheet with two or three grids, and where they lie."""
    random = np.random.Generator(np.random.PCG64([seed, 909]))
    count = 3 if random.random() < 0.2 else 2
    beside = random.random() < 0.3
    written = random.random() < 0.6
    ground = [(0, 0, 0, 0), (*random.integers(0, 256, 3).tolist(), 255)][int(random.random() < 0.4)]
    ink = (*random.integers(0, 256, 3).tolist(), 255)
    grids, arts = [], []
    at = np.array(random.integers(0, 12, 2))
    spacing = int(random.choice((0, 0, 1, 2, 3, 4)))
    labels = []
    far = [0, 0]
    for _ in range(count):
        width = int(random.choice(SIDES))
        height = width if random.random() < 0.7 else int(random.choice(SIDES))
        if random.random() < 0.3:
            spacing = int(random.choice((0, 0, 1, 2, 3, 4)))
        columns, rows = int(random.integers(4, 13)), int(random.integers(2, 8))
        left, top = int(at[0]), int(at[1])
        if written:
            labels.append((left, top))
            top += 13 * int(random.integers(1, 3)) + int(random.integers(0, 5))
        grid = Grid(width, height, left, top, spacing, columns, rows)
        grids.append(grid)
        arts.append(grid_art(random, grid))
        right, bottom = left + arts[-1].shape[1], top + arts[-1].shape[0]
        far = [max(far[0], right), max(far[1], bottom)]
        gap = int(random.integers(spacing + 3, 40))
        at = np.array((right + gap, int(random.integers(0, 12)))) if beside else np.array(
            (int(random.integers(0, 12)), bottom + gap)
        )  # fmt: skip
    size = far[1] + int(random.integers(0, 24)), far[0] + int(random.integers(0, 24))
    image = Image.new("RGBA", (size[1], size[0]), ground)
    draw = ImageDraw.Draw(image)
    for place, grid in zip(labels, grids, strict=False):
        draw.text(place, f"{random.choice(['ground', 'Props', 'edges & co', 'WALLS'])} {grid.width}px", fill=ink)
    if written and random.random() < 0.4:
        draw.text((max(0, far[0] - 60), size[0] - 12), "v2 draft", fill=ink)
    sheet = np.array(image)
    for grid, art in zip(grids, arts, strict=True):
        spot = sheet[grid.top : grid.top + art.shape[0], grid.left : grid.left + art.shape[1]]
        spot[:] = np.where(art[..., 3:] > 0, art, spot)
    says = f"{'beside' if beside else 'below'} {'clear' if not ground[3] else 'key'} {'written' if written else 'bare'}"
    return sheet, grids, says


def cornered_case(seed: int) -> tuple[np.ndarray, list[Grid], str]:
    """A sheet on which a grid lies to the right of another, and a third below both, so that nothing parts the first."""
    random = np.random.Generator(np.random.PCG64([seed, 999]))
    ground = (0, 0, 0, 0) if random.random() < 0.5 else (*random.integers(0, 256, 3).tolist(), 255)
    gap, spacing = int(random.integers(14, 50)), int(random.choice([0, 0, 1, 2, 4]))
    grids, arts = [], []
    first = int(random.integers(0, 20))
    right = low = 0
    for number in range(3):
        width = int(random.choice(SIDES))
        height = width if random.random() < 0.6 else int(random.choice(SIDES))
        columns, rows = int(random.integers(4, 9)), int(random.integers(2, 6))
        left, top = first, first
        if number == 1:
            left, top = right + gap, first + int(random.integers(0, 6))
        elif number == 2:
            rows, top = int(random.integers(1, 4)), low + gap
            columns = max(3, int((right * random.uniform(0.6, 1.0) - first) // (width + spacing)))
        grid = Grid(width, height, left, top, spacing, columns, rows)
        art = grid_art(random, grid)
        grids.append(grid)
        arts.append(art)
        right, low = max(right, left + art.shape[1]), max(low, top + art.shape[0])
    sheet = np.zeros((low + int(random.integers(0, 30)), right + int(random.integers(0, 30)), 4), np.uint8)
    sheet[:] = ground
    for grid, art in zip(grids, arts, strict=True):
        spot = sheet[grid.top : grid.top + art.shape[0], grid.left : grid.left + art.shape[1]]
        spot[art[..., 3] > 0] = art[art[..., 3] > 0]
    return sheet, grids, "cornered"


def judged(grid: Grid, sheet: np.ndarray, cuts: list[Cut]) -> tuple[bool, bool, bool]:
    """Whether all art of a true grid lies in one part, has its pitch there, and its size with all art in its cells."""
    art = (sheet != sheet[-1, -1]).any(axis=2) if sheet[-1, -1, 3] else sheet[..., 3] > 0
    pitch_x, pitch_y = grid.width + grid.spacing, grid.height + grid.spacing
    held = np.zeros_like(art)
    held[
        grid.top : grid.top + grid.rows * pitch_y - grid.spacing,
        grid.left : grid.left + grid.columns * pitch_x - grid.spacing,
    ] = True
    ys, xs = np.nonzero(art & held)
    best = False, False, False
    for cut in cuts:
        x, y, wide, high = cut.region or (0, 0, sheet.shape[1], sheet.shape[0])
        if not ((xs >= x) & (ys >= y) & (xs < x + wide) & (ys < y + high)).all():
            continue
        left, top, _, _ = tile_rect(cut, 0, 0)
        pitch = (cut.pitch_x, cut.pitch_y) == (pitch_x, pitch_y)
        exact = pitch and (cut.tile_width, cut.tile_height) == (grid.width, grid.height)
        if exact:
            across, down = np.divmod(xs - left, pitch_x), np.divmod(ys - top, pitch_y)
            moved = across[0] - (xs - grid.left) // pitch_x, down[0] - (ys - grid.top) // pitch_y
            exact = bool((across[1] < grid.width).all() and (down[1] < grid.height).all())
            exact &= all((one == one[0]).all() for one in moved)
        best = max(best, (True, pitch, exact))
    return best


def main() -> None:
    """Prints the shares."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers + [100, 0][len(numbers) :])[:2]
    show = "--show" in sys.argv
    slowest, total = 0.0, 0.0
    if "--single" in sys.argv:
        seen = 0
        for seed in range(first, first + count):
            make = (any_case, any_case, headed_case, shape_case)[seed % 4]
            sheet, truth, says = make(seed)
            began = time.perf_counter()
            guesses, cuts = look_over(sheet)
            slowest, total = max(slowest, time.perf_counter() - began), total + time.perf_counter() - began
            if cuts:
                seen += 1
                if show:
                    print(seed, says, truth, "->", [(c.tile_width, c.tile_height, c.spacing_x, c.region) for c in cuts])
        print(f"several seen in {seen} of {count} sheets with one grid")
        print(f"{total / count:.2f} s for each, slowest {slowest:.2f}")
        return
    found: dict[str, list[tuple[float, ...]]] = defaultdict(list)
    for seed in range(first, first + count):
        sheet, grids, says = (cornered_case if "--cornered" in sys.argv else part_case)(seed)
        known = sheet
        if "--lossy" in sys.argv:
            sheet = lossy(sheet, seed)
        began = time.perf_counter()
        guesses, cuts = look_over(sheet)
        slowest, total = max(slowest, time.perf_counter() - began), total + time.perf_counter() - began
        right = np.array([judged(grid, known, cuts) for grid in grids]) if cuts else np.zeros((len(grids), 3), bool)
        before = np.array([judged(grid, known, [one.as_cut("") for one in guesses[:1]]) for grid in grids])
        for group in ("all", *says.split(), f"{len(grids)} grids"):
            found[group].append((bool(cuts), *right.mean(axis=0), *before.mean(axis=0)[1:]))
        if show and not right.all():
            print(seed, says, [tuple(g) for g in grids], right.tolist())
            print("   ", [(c.tile_width, c.tile_height, c.spacing_x, c.spacing_y, tuple(c.region or ())) for c in cuts])
    for group, results in found.items():
        seen, apart, pitch, exact, *one = np.mean(results, axis=0)
        print(
            f"{group:9} {len(results):4} sheets: several seen {seen:4.0%}; grids apart {apart:4.0%}, "
            f"pitch {pitch:4.0%}, exact {exact:4.0%} (by one grid {one[0]:4.0%}, {one[1]:4.0%})"
        )
    print(f"{total / count:.2f} s for each, slowest {slowest:.2f}")


if __name__ == "__main__":
    main()
