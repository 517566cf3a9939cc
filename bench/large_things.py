"""How often a ground keeps its numbers, and things far larger than its tiles stay whole, where both lie on one sheet.

.venv/bin/python bench/large_things.py [COUNT [FIRST]] [--show]

Counted are the grounds whose numbers are found where nothing lies beside them.
"""

import sys
import time
from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw

from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.parts import look_over
from part_cases import Grid, Random, grid_art, judged

SIDES = (8, 12, 16, 16, 16, 20, 24, 24, 28, 32, 32, 36, 40, 48)
ROUND_IT = 20


class Case(NamedTuple):
    """A sheet, the same without what lies beside its ground, where that lies on both, and the large things."""

    sheet: np.ndarray
    alone: np.ndarray
    grid: Grid
    things: list[Rect]


def ground(random: Random, grid: Grid) -> np.ndarray:
    """A corner set of two flat or grained colours, with a rim or without, its last row not always full."""
    width, height = grid.width, grid.height
    colours = random.integers(30, 240, (3, 3))
    grain, rim = int(random.integers(0, 14)), random.random() < 0.6
    ys, xs = np.mgrid[0:height, 0:width]
    right, low = (xs + 0.5) / width, (ys + 0.5) / height
    pitch_x, pitch_y = width + grid.spacing, height + grid.spacing
    art = np.zeros((grid.rows * pitch_y - grid.spacing, grid.columns * pitch_x - grid.spacing, 4), np.uint8)
    count = grid.rows * grid.columns - (int(random.integers(0, grid.columns)) if random.random() < 0.5 else 0)
    order = random.permutation(16) if random.random() < 0.4 else np.arange(16)
    for place in range(count):
        corner = [int(order[place % 16]) >> bit & 1 for bit in range(4)]
        inside = corner[0] * (1 - right) * (1 - low) + corner[1] * right * (1 - low)
        inside = inside + corner[2] * (1 - right) * low + corner[3] * right * low > 0.5
        tile = colours[inside.astype(int)] + random.integers(-grain, grain + 1, (height, width, 1))
        if rim:
            edge = np.zeros_like(inside)
            edge[1:-1, 1:-1] = ~inside[1:-1, 1:-1] & (inside[:-2, 1:-1] | inside[2:, 1:-1] | inside[1:-1, 2:])
            tile[edge] = colours[2]
        top, left = place // grid.columns * pitch_y, place % grid.columns * pitch_x
        art[top : top + height, left : left + width, :3] = np.clip(tile, 0, 255)
        art[top : top + height, left : left + width, 3] = 255
    return art


def draw_thing(random: Random, draw: ImageDraw.ImageDraw, thing: Rect) -> None:
    """A tree, a bush, a crate with a door."""
    x, y, wide, high = thing
    fill = tuple(random.integers(0, 256, 3).tolist())
    dark = tuple(int(of * 0.4) for of in fill)
    kind = int(random.integers(0, 4))
    if kind == 0:
        foot = y + int(high * 0.8)
        draw.polygon([(x, foot), (x + wide // 2, y), (x + wide - 1, foot)], fill=fill, outline=dark)
        draw.rectangle((x + int(wide * 0.4), foot, x + int(wide * 0.6), y + high - 1), fill=dark)
    elif kind == 1:
        draw.ellipse((x, y, x + wide - 1, y + high - 1), fill=fill, outline=dark)
    elif kind == 2:
        draw.rectangle((x, y, x + wide - 1, y + high - 1), fill=fill, outline=dark)
        draw.line((x, y + high // 2, x + wide - 1, y + high // 2), fill=dark)
        draw.rectangle((x + wide // 3, y + high // 2, x + wide // 2, y + high - 1), fill=dark)
    else:
        draw.ellipse((x, y, x + wide - 1, y + int(high * 0.7)), fill=fill, outline=dark)
        draw.rectangle((x + int(wide * 0.45), y + int(high * 0.65), x + int(wide * 0.55), y + high - 1), fill=dark)


def in_a_line(random: Random, at: tuple[int, int], count: int, sides: tuple[range, range], down: bool) -> list[Rect]:
    """Things of chance sizes one after the other."""
    x, y = at
    things = []
    for _ in range(count):
        things.append(Rect(x, y, *(int(random.choice(side)) for side in sides)))
        step = int(random.integers(3, 30))
        x, y = (x, y + things[-1].height + step) if down else (x + things[-1].width + step, y)
    return things


def case(seed: int) -> Case:
    """One to three large things below or beside a ground, at times small ones on its other side."""
    random = np.random.Generator(np.random.PCG64([seed, 404]))
    width = int(random.choice(SIDES))
    height = width if random.random() < 0.8 else int(random.choice(SIDES))
    spacing = int(random.choice((0, 0, 0, 1, 2, 2, 3, 4)))
    key = (0, 0, 0, 0) if random.random() < 0.4 else (*random.integers(0, 256, 3).tolist(), 255)
    left, top = (int(of) for of in random.integers(0, 12, 2))
    grid = Grid(width, height, left, top, spacing, int(random.integers(4, 10)), int(random.integers(2, 6)))
    art = ground(random, grid) if random.random() < 0.7 else grid_art(random, grid)
    gap = int(random.integers(spacing + 4, 50))
    right_of = left + art.shape[1] + gap, top + int(random.integers(0, 10))
    below = left + int(random.integers(0, 30)), top + art.shape[0] + gap
    beside = random.random() < 0.35
    large = range(int(1.3 * width) + 4, 4 * width + 20), range(int(1.5 * height) + 4, 5 * height + 20)
    things = in_a_line(random, right_of if beside else below, int(random.choice((1, 1, 2, 3))), large, beside)
    small: list[Rect] = []
    if random.random() < 0.4:
        sides = range(width // 3 + 3, width + 10), range(width // 3 + 3, width + 10)
        small = in_a_line(random, below if beside else right_of, int(random.integers(2, 6)), sides, down=False)
        small = [one for one in small if not any(one.touches(thing) for thing in things)]
    wide = max(left + art.shape[1], *(thing.x + thing.width for thing in things + small)) + 12
    high = max(top + art.shape[0], *(thing.y + thing.height for thing in things + small)) + 12
    sheet = np.array(Image.new("RGBA", (wide, high), key))
    spot = sheet[top : top + art.shape[0], left : left + art.shape[1]]
    spot[:] = np.where(art[..., 3:] > 0, art, spot)
    alone = sheet[: top + art.shape[0] + ROUND_IT, : left + art.shape[1] + ROUND_IT].copy()
    image = Image.fromarray(sheet)
    for thing in things + small:
        draw_thing(random, ImageDraw.Draw(image), thing)
    return Case(np.array(image), alone, grid, things)


def cuts_of(sheet: np.ndarray) -> list[Cut]:
    """How a sheet is cut at first."""
    guesses, parts = look_over(sheet)
    return parts or [guess.as_cut("") for guess in guesses[:1]]


def main() -> None:
    """Prints the shares."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers + [100, 0][len(numbers) :])[:2]
    grounds = exact = things = whole = 0
    slowest = 0.0
    for seed in range(first, first + count):
        sheet, alone, grid, large = case(seed)
        if not judged(grid, alone, cuts_of(alone))[2]:
            continue
        began = time.perf_counter()
        cuts = cuts_of(sheet)
        slowest = max(slowest, time.perf_counter() - began)
        held = {tuple(piece) for cut in cuts for piece in cut.pieces}
        found = judged(grid, sheet, cuts)[2], sum(tuple(thing) in held for thing in large)
        grounds, things = grounds + 1, things + len(large)
        exact, whole = exact + found[0], whole + found[1]
        if "--show" in sys.argv and found != (True, len(large)):
            print(seed, tuple(grid), "exact" if found[0] else "missed", [tuple(thing) for thing in large])
            print(
                "   ", [(c.tile_width, c.tile_height, c.spacing_x, len(c.pieces), tuple(c.region or ())) for c in cuts]
            )
    print(f"of {count} grounds {grounds} are found alone: {exact} of them exact beside large things as well")
    print(f"{whole} of {things} large things are whole; slowest {slowest:.2f} s")


if __name__ == "__main__":
    main()
