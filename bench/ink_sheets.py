"""Sheets of two inks, and how many are cut right at first: one set of tiles, and creatures drawn at random.

.venv/bin/python bench/ink_sheets.py [COUNT [FIRST]] [--times N] [--show]

With `--times` the art is enlarged so many times; `--show` names the sheets that are cut wrong.
"""

import sys

import numpy as np

from infer_cases import combinations, draw
from knitground.core.sheet.parts import look_over

INK, PAPER, CLEAR = (236, 226, 190, 255), (16, 14, 30, 255), (0, 0, 0, 0)
Numbers = tuple[int, int, int]


def creature(random: np.random.Generator, side: int) -> np.ndarray:
    """Something that is the same left and right and stands in its cell, (side, side) bool."""
    wide, high = int(random.integers(side // 2, side - 1)), int(random.integers(side // 2, side + 1))
    half = random.random((high, -(-wide // 2))) < random.uniform(0.35, 0.65)
    tile = np.zeros((side, side), bool)
    top, left = side - high if random.random() < 0.6 else (side - high) // 2, (side - wide) // 2
    tile[top : top + high, left : left + wide] = np.concatenate([half, half[:, ::-1][:, wide % 2 :]], axis=1)
    return tile


def ink_sheet(seed: int) -> tuple[np.ndarray, Numbers]:
    """A sheet, and the side of its tiles, its margin and its spacing."""
    random = np.random.Generator(np.random.PCG64([seed, 401]))
    side, spacing = int(random.choice([8, 8, 10, 12, 16, 16, 16, 24])), int(random.choice([0, 0, 0, 1, 1, 2]))
    margin = int(random.choice([0, 0, spacing, 1])) if spacing else 0
    columns, rows = int(random.integers(8, 25)), int(random.integers(6, 20))
    paper = CLEAR if random.random() < 0.4 else PAPER
    gutter = (paper, paper, paper, CLEAR, (90, 20, 60, 255))[random.integers(5)]
    kind = str(random.choice(["corner", "edge", "full"]))
    drawn = (draw(random, kind, "inked", combinations(random, kind, 2), 2, side) == INK).all(axis=-1)
    high, wide = (2 * margin + many * (side + spacing) - spacing for many in (rows, columns))
    sheet = np.full((high, wide, 4), gutter, np.uint8)
    for number, (row, column) in enumerate(np.ndindex(rows, columns)):
        tile = np.zeros((side, side), bool)
        if number < len(drawn):
            tile = drawn[number]
        elif random.random() < 0.85:
            tile = creature(random, side)
        top, left = margin + row * (side + spacing), margin + column * (side + spacing)
        sheet[top : top + side, left : left + side] = np.where(tile[..., None], INK, paper)
    return sheet, (side, margin, spacing)


def main() -> None:
    times = int(sys.argv[sys.argv.index("--times") + 1]) if "--times" in sys.argv else 1
    words = [word for at, word in enumerate(sys.argv[1:]) if word.isdigit() and sys.argv[at] != "--times"]
    count, first = ([int(word) for word in words] + [100, 0][len(words) :])[:2]
    right = among = 0
    for seed in range(first, first + count):
        sheet, (side, margin, spacing) = ink_sheet(seed)
        found = look_over(sheet.repeat(times, axis=0).repeat(times, axis=1))
        wanted = [
            number * times
            for number in (side, side, margin % (side + spacing), margin % (side + spacing), spacing, spacing)
        ]
        cuts = [
            [one.tile_width, one.tile_height, one.margin_x % one.as_cut("").pitch_x,
             one.margin_y % one.as_cut("").pitch_y, one.spacing_x, one.spacing_y]
            for one in found.guesses
        ]  # fmt: skip
        hit = wanted in cuts[:1] and not found.parts
        right, among = right + hit, among + (wanted in cuts[:3])
        if "--show" in sys.argv and not hit:
            print(f"seed {seed}: {wanted}, found {cuts[:2]}, {len(found.parts)} parts")
    print(f"{count} sheets: {right / count:.0%} right at first, {among / count:.0%} among three")


if __name__ == "__main__":
    main()
