"""Made-up sheets of rooms seen from above: floors, tops and faces of walls, rugs and furniture on one grid, no gutters.

.venv/bin/python bench/room_sheets.py [COUNT [FIRST]] [--sets] [--show]

Says of how many sheets every cell is cut as it was drawn, and of how many pieces of furniture none is cut otherwise.
With `--sets` it says how many walls and rugs are found as sets with all their tiles, and how many sets have furniture.
"""

import numpy as np
from PIL import Image, ImageDraw

from platform_sheets import Box, Random, Sheet, Truth, measure, sets_on

Tile = np.ndarray


def _shaded(random: Random, side: int, colour: np.ndarray) -> tuple[int, ...]:
    return tuple(int(one) for one in np.clip(colour * random.uniform(0.8, 1.2), 0, 255))


def _floor(random: Random, side: int, kind: str, colour: np.ndarray) -> Tile:
    """Planks, flags, mats or bare stone; of the same colour and seams, other specks in each."""
    y, x = np.mgrid[0:side, 0:side]
    step = max(4, side // 4)
    shade = np.zeros((side, side))
    if kind == "planks":
        shade -= 30.0 * (y % step == step - 1)
        for row in range(0, side, step):
            shade[row : row + step - 1, int(random.integers(0, side))] -= 20
    elif kind == "flags":
        shade -= 26.0 * ((y % (side // 2) == 0) | (x % (side // 2) == 0))
    elif kind == "mats":
        shade += 12.0 * ((x // 2 + y // 2) % 2)
    else:
        shade += random.integers(-9, 10, (side, side))
    for _ in range(int(random.integers(0, 4))):
        down, right = random.integers(1, side - 2, 2)
        shade[down, right : right + 2] -= 25
    pixels = np.zeros((side, side, 4), np.uint8)
    pixels[..., :3], pixels[..., 3] = np.clip(colour + shade[..., None], 0, 255), 255
    return pixels


def _top(side: int, colour: np.ndarray, line: np.ndarray, sides: tuple[bool, ...], notch: tuple[int, ...]) -> Tile:
    """The top of a wall, with a rim at the sides where it ends, and in the corners where only these are open."""
    wide, pixels = max(2, side // 8), np.zeros((side, side, 4), np.uint8)
    pixels[..., :3], pixels[..., 3] = colour, 255
    north, east, south, west = sides
    y, x = np.mgrid[0:side, 0:side]
    rim = (north & (y < wide)) | (south & (y >= side - wide)) | (west & (x < wide)) | (east & (x >= side - wide))
    for corner in notch:
        rim |= ((y >= side - wide) if corner // 2 else (y < wide)) & ((x >= side - wide) if corner % 2 else (x < wide))
    pixels[rim, :3] = line
    return pixels


def _rug(side: int, colour: np.ndarray, ink: np.ndarray, sides: tuple[bool, ...]) -> Tile:
    """A piece of a rug that ends a little within its cell."""
    pixels = np.zeros((side, side, 4), np.uint8)
    north, east, south, west = (side // 6 if one else 0 for one in sides)
    pixels[north : side - south, west : side - east] = (*colour.astype(np.uint8), 255)
    seam = max(1, side // 12)
    for number, (one, reach) in enumerate(zip(sides, (north, east, south, west), strict=True)):
        if one:
            at = slice(reach + seam, reach + 2 * seam)
            turned = np.rot90(pixels, number)
            turned[at][turned[at][..., 3] > 0] = (*ink.astype(np.uint8), 255)
    return pixels


def room_sheet(seed: int) -> Sheet:
    """A sheet of a house: what lies on it, in rows as they come, and furniture below or beside."""
    random = np.random.default_rng([seed, 77])
    side = int(random.choice([16, 16, 24, 32, 32, 48]))
    columns, rows = int(random.integers(8, 16)), int(random.integers(9, 16))
    pixels, terrain = np.zeros((rows * side, columns * side, 4), np.uint8), np.zeros((rows, columns), bool)

    def put(y: int, x: int, tile: Tile) -> None:
        pixels[y * side : (y + 1) * side, x * side : (x + 1) * side] = tile
        terrain[y, x] = True

    top, line = random.uniform(15, 90, 3), random.uniform(100, 230, 3)
    for y in range(3):
        for x in range(3):
            put(y, x, _top(side, top, line, (y == 0, x == 2, y == 2, x == 0), ()))
    for number in range(4):
        put(number // 2, 3 + number % 2, _top(side, top, line, (False,) * 4, (3 - number,)))
    face, width = random.uniform(90, 220, 3), int(random.integers(1, 4))
    for x in range(3 if columns < 8 + width else 3 + width):
        for y in range(2):
            tile = _floor(random, side, str(random.choice(["planks", "stone"])), face)
            tile[-max(2, side // 6) :, :, :3] = (face * 0.6).astype(np.uint8) if y else tile[-1:, :1, :3]
            put(y if x >= 3 else 3 + y, 5 + x - 3 if x >= 3 else x, tile)
    for row in range(int(random.integers(1, 4))):
        kind, colour = str(random.choice(["planks", "flags", "mats", "stone"])), random.uniform(70, 220, 3)
        for x in range(int(random.integers(1, 5))):
            put(5 + row, x, _floor(random, side, kind, colour))
    cloth, ink = random.uniform(40, 220, 3), random.uniform(40, 220, 3)
    if random.random() < 0.7:
        for y in range(3):
            for x in range(3):
                put(3 + y, columns - 3 + x, _rug(side, cloth, ink, (y == 0, x == 2, y == 2, x == 0)))
    image = Image.fromarray(pixels)
    things = _furniture(random, ImageDraw.Draw(image), terrain, side)
    return Sheet(np.array(image), side, terrain, things)


def _furniture(random: Random, pen: ImageDraw.ImageDraw, terrain: np.ndarray, side: int) -> list[Box]:
    """Draws tables, cupboards, pots and beds, close beside each other as often as not."""
    taken, things = terrain.copy(), list[Box]()
    sizes = [(1, 1), (1, 1), (1, 2), (2, 1), (2, 2), (1, 2), (3, 2), (2, 3)]
    wood = random.uniform(70, 180, 3)
    for y in range(len(taken)):
        for x in range(taken.shape[1]):
            wide, high = sizes[int(random.integers(len(sizes)))]
            spot = taken[y : y + high, x : x + wide]
            if spot.shape != (high, wide) or spot.any() or random.random() < 0.35:
                continue
            spot[:] = True
            things.append((x, y, wide, high))
            left, right, foot = x * side, (x + wide) * side - 1, (y + high) * side - 1
            inset, begin = int(random.integers(0, side // 6 + 1)), y * side + int(random.integers(0, side // 3))
            ink, dark = _shaded(random, side, wood), _shaded(random, side, wood * 0.5)
            box = [left + inset, begin, right - inset, foot - int(random.integers(0, side // 8 + 1))]
            how = int(random.integers(4))
            if how == 0:
                pen.ellipse(box, fill=_shaded(random, side, random.uniform(40, 220, 3)), outline=dark)
            else:
                pen.rectangle(box, fill=ink, outline=dark)
                middle = begin + (box[3] - begin) * (2 if how == 1 else 1) // 3
                pen.line([box[0], middle, box[2], middle], fill=dark)
                if how == 3:
                    pen.rectangle([box[0] + 2, middle + 2, box[2] - 2, box[3] - 2],
                                  fill=_shaded(random, side, random.uniform(60, 220, 3)))  # fmt: skip
    return things


def room_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """Such a sheet as one of those that numbers are guessed of."""
    sheet = room_sheet(seed)
    return sheet.pixels, (sheet.side, sheet.side, 0, 0, 0, 0), f"rooms {sheet.side}"


def _count_sets(seeds: range) -> None:
    walls = rugs = all_rugs = wrong = 0
    for seed in seeds:
        sheet = room_sheet(seed)
        left = sheet.terrain.shape[1] - 3
        wall = {(x, y) for x in range(3) for y in range(3)} | {(3 + n % 2, n // 2) for n in range(4)}
        rug = {(left + x, 3 + y) for x in range(3) for y in range(3)}
        sets = sets_on(sheet)
        walls += any(cells >= wall for cells in sets)
        rugs += any(cells >= rug for cells in sets)
        all_rugs += bool(sheet.terrain[5, left])
        held = {(x, y) for y, x in np.argwhere(sheet.terrain).tolist()}
        wrong += sum(bool(cells - held) for cells in sets)
    print(f"{walls} of {len(seeds)} walls and {rugs} of {all_rugs} rugs found; {wrong} sets have furniture")


if __name__ == "__main__":
    measure(room_sheet, _count_sets)
