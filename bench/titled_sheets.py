"""How often a sheet on which groups of tiles have titles is cut so that each tile is whole, in a cell of its own.

.venv/bin/python bench/titled_sheets.py [COUNT [FIRST]] [--icons] [--show]

Titles stand above the groups, in an empty row of the grid or in a line of their own, off which the next rows
begin. With `--icons` a block of smaller tiles at other distances, with a title above it, lies below all others.
"""

import sys

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from captioned import NAMES
from guess_cases import art_of
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.parts import look_over

SIDES = (16, 16, 24, 32)
KINDS = ("terrain", "terrain", "lines", "plain", "things", "blobs")


def case(seed: int, *, icons: bool = False) -> tuple[np.ndarray, list[tuple[Rect, int]]]:
    """A sheet, where its tiles lie, and how far each is from the next."""
    random = np.random.Generator(np.random.PCG64([seed, 717]))
    side, high = int(random.choice(SIDES)), int(random.integers(8, 13))
    font = ImageFont.load_default(high)
    pitch = side + int(random.choice((0, 1, 2, 2, 4)))
    left, top = (int(one) for one in random.integers(0, 12, 2))
    off_grid = random.random() < 0.5
    key = (0, 0, 0, 0) if random.random() < 0.5 else (*random.integers(0, 256, 3).tolist(), 255)
    columns, bands = int(random.integers(8, 15)), int(random.integers(1, 4))
    tiles, titles, y = list[tuple[Rect, str, int]](), list[tuple[int, int]](), top
    for _ in range(bands):
        y += (high + int(random.integers(5, 14))) if off_grid else pitch * -(-(high + 3) // pitch)
        x, tallest = 0, 0
        while x < columns and (not x or random.random() < 0.8):
            wide, rows = min(int(random.integers(1, 6)), columns - x), int(random.integers(1, 5))
            kind = str(random.choice(KINDS))
            titles.append((left + x * pitch, y - high - 3))
            tiles += [
                (Rect(left + (x + n % wide) * pitch, y + n // wide * pitch, side, side), kind, pitch)
                for n in range(wide * rows)
            ]
            x, tallest = x + wide + int(random.integers(1, 3)), max(tallest, rows)
        y += tallest * pitch
    if icons:
        small, between = int(random.choice([one for one in (7, 8, 10, 12) if one < side])), int(random.integers(0, 3))
        y += high + int(random.integers(5, 14))
        titles.append((left, y - high - 3))
        wide, rows = int(random.integers(5, columns * pitch // (small + between))), int(random.integers(2, 6))
        tiles += [
            (Rect(left + n % wide * (small + between), y + n // wide * (small + between), small, small),
             str(random.choice(("things", "blobs"))), small + between)
            for n in range(wide * rows)
        ]  # fmt: skip
        y += rows * (small + between)
    sheet = np.array(Image.new("RGBA", (left + columns * pitch + 4, y + 6), key))
    for tile, kind, _ in tiles:
        art, spot = art_of(kind, random, tile.width, tile.height), sheet[tile.slices()]
        spot[:] = np.where(art[..., 3:] > 0, art, spot)
    image = Image.fromarray(sheet)
    draw, ink = ImageDraw.Draw(image), (20, 20, 20, 255) if sum(key[:3]) > 300 else (235, 235, 230, 255)
    for at in titles:
        draw.text(at, str(random.choice(NAMES)), font=font, fill=ink)
    return np.array(image), [(tile, apart) for tile, _, apart in tiles]


def whole(sheet: np.ndarray, tiles: list[tuple[Rect, int]], cuts: list[Cut]) -> int:
    """How many tiles lie each with all of its art in one cell of a cut at the right distances."""
    ground = sheet[-1, -1]
    art = (sheet != ground).any(axis=2) if ground[3] else sheet[..., 3] > 0
    found = 0
    for tile, pitch in tiles:
        rows, columns = (np.flatnonzero(art[tile.slices()].any(axis=axis)) for axis in (1, 0))
        found += not len(rows)
        for cut in cuts if len(rows) else ():
            room = cut.region or Rect(0, 0, sheet.shape[1], sheet.shape[0])
            if (cut.pitch_x, cut.pitch_y) != (pitch, pitch) or cut.pieces or not room.touches(tile):
                continue
            across, down = (tile.x + columns - room.x - cut.margin_x), (tile.y + rows - room.y - cut.margin_y)
            inside = min(across[0], down[0]) >= 0
            one = across[0] // pitch == across[-1] // pitch and down[0] // pitch == down[-1] // pitch
            if inside and one and across[-1] % pitch < cut.tile_width and down[-1] % pitch < cut.tile_height:
                found += 1
                break
    return found


def main() -> None:
    """Prints the shares."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers + [60, 0][len(numbers) :])[:2]
    right = every = all_right = 0
    for seed in range(first, first + count):
        sheet, tiles = case(seed, icons="--icons" in sys.argv)
        guesses, parts = look_over(sheet)
        cuts = parts or [guess.as_cut("") for guess in guesses[:1]]
        found = whole(sheet, tiles, cuts)
        right, every, all_right = right + found, every + len(tiles), all_right + (found == len(tiles))
        if "--show" in sys.argv and found < len(tiles):
            told = [
                (cut.tile_width, cut.tile_height, cut.pitch_x, cut.pitch_y, tuple(cut.region or ())) for cut in cuts
            ]
            print(
                seed,
                f"side {tiles[0][0].width} pitch {tiles[0][1]}, icons {tiles[-1][1]}, {found} of {len(tiles)}",
                told,
            )
    print(f"all tiles right on {all_right} of {count} titled sheets; {right} of {every} tiles")


if __name__ == "__main__":
    main()
