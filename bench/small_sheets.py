"""Made-up sheets on which pixels tell little: pictures cut into tiles, masonry that repeats by itself, single rows.

Most small sheets are of such kinds. Art goes on over the borders of tiles or lies well inside of them, so that little
but the size of the picture tells how it is cut.
"""

import numpy as np
from scipy import ndimage

from unkind_sheets import Random, Truth, _noise, _patch, _thing

KINDS = ("picture", "masonry", "strip")
_SIDES = (8, 16, 16, 16, 16, 24, 32, 32, 32, 32, 32, 48, 64, 64)
_ODD_SIDES = (10, 12, 15, 20, 20, 25, 30, 36, 40, 45, 50, 56, 60, 72, 80, 96, 100, 128)


def small_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """A sheet, the numbers it was made with, and which kind it is."""
    random = np.random.Generator(np.random.PCG64([seed, 613]))
    kind = KINDS[seed % len(KINDS)]
    if kind == "strip":
        return _strip(random)
    side = int(random.choice(_SIDES)) if random.random() < 0.9 else int(random.choice(_ODD_SIDES))
    columns, rows = (int(n) for n in random.integers(2, 9, 2))
    rows = max(rows, -(-8 // columns))
    art = _picture(random, rows, columns, side) if kind == "picture" else _masonry(random, rows, columns, side)
    return art, (side, side, 0, 0, 0, 0), f"{kind} clear {side}x{side} m0 s0 {columns}x{rows}"


def _picture(random: Random, rows: int, columns: int, side: int) -> np.ndarray:
    """A few blocks and things of several tiles, with bare tiles among them."""
    sheet = np.zeros((rows * side, columns * side, 4), np.uint8)
    taken = np.zeros((rows, columns), bool)
    for row, column in np.ndindex(rows, columns):
        if taken[row, column] or random.random() < 0.1:
            continue
        high, wide = (
            int(min(n, left)) for n, left in zip(random.integers(1, 6, 2), (rows - row, columns - column), strict=True)
        )
        while taken[row, column : column + wide].any():
            wide -= 1
        taken[row : row + high, column : column + wide] = True
        spot = sheet[row * side : (row + high) * side, column * side : (column + wide) * side]
        if random.random() < 0.4:
            spot[:] = _thing(random, wide * side, high * side, float(random.uniform(0.7, 1.1)))
        else:
            cut = _patch(random, wide, high, side, side)
            spot[:] = np.concatenate([np.concatenate(line, axis=1) for line in cut])
    if not random.integers(0, 3):
        # Small things are strewn over it, wherever the borders are.
        for _ in range(int(random.integers(2, 12))):
            small = _thing(random, *(int(n) for n in random.integers(max(4, side // 4), side + 1, 2)))
            top, left = (int(random.integers(0, max(1, whole - 4))) for whole in sheet.shape[:2])
            spot = sheet[top : top + len(small), left : left + small.shape[1]]
            small = small[: len(spot), : spot.shape[1]]
            spot[:] = np.where(small[..., 3:] > 0, small, spot)
    return sheet


def _masonry(random: Random, rows: int, columns: int, side: int) -> np.ndarray:
    """Courses of stones whose length and height need not be those of a tile."""
    height, width = rows * side, columns * side
    high = max(3, side // int(random.choice((1, 2, 2, 3, 4))))
    long = max(4, int(high * random.choice((1, 1.5, 2, 2, 3))))
    sheet, ys = np.zeros((height, width, 4), np.uint8), np.arange(height)[:, None]
    shift = np.where(ys // high % 2, long // 2, 0)
    xs = np.arange(width)[None] + shift
    if random.random() < 0.5:
        xs = xs + np.cumsum(random.integers(-1, 2, height // high + 1))[ys // high] * 2
    stones = _noise(random, height, width, 0.8)
    shade = random.uniform(0.8, 1.2, (height // high + 2, width // long + 40))[
        ys // high, xs // long % max(1, width // long)
    ]
    sheet[..., :3] = np.clip(stones[..., :3] * shade[..., None], 0, 255)
    sheet[..., 3] = 255
    sheet[(ys % high == 0) | (xs % long == 0), :3] = random.integers(0, 90, 3)
    # Some tiles are bare, and the whole may have a rim.
    for row, column in np.ndindex(rows, columns):
        if random.random() < 0.12 and rows * columns > 6:
            sheet[row * side : (row + 1) * side, column * side : (column + 1) * side] = 0
    if random.random() < 0.4:
        rim = ndimage.binary_erosion(sheet[..., 3] > 0, border_value=0)
        sheet[~rim & (sheet[..., 3] > 0), :3] = random.integers(120, 256, 3)
    return sheet


def _strip(random: Random) -> tuple[np.ndarray, Truth, str]:
    """One row or one column: steps of an animation, markers, or stretches of ground side by side."""
    odd = random.random() < 0.5
    width = int(random.choice(_ODD_SIDES if odd else _SIDES))
    height = width
    if random.random() < 0.5:
        height = int(random.choice((width // 2, width // 2, width * 2, width * 4 // 3, width * 3 // 4, width * 5 // 4)))
    height, count = max(8, height), int(random.integers(3, 16))
    spacing = int(random.choice((0, 0, 0, 0, 1, 1, 2)))
    margin = int(random.choice((0, spacing)))
    far = margin if random.random() < 0.7 else 0
    down = random.random() < 0.2
    kind, tiles = int(random.integers(0, 4)), []
    share = float(random.uniform(0.4, 1.1))
    base = _thing(random, width, height, share)
    for number in range(count):
        if kind == 0:
            tiles.append(_thing(random, width, height, share))
        elif kind == 1:
            moved = np.roll(base, int(random.integers(-2, 3)), axis=int(random.integers(0, 2)))
            tiles.append(np.where(moved[..., 3:] > 0, moved, 0).astype(np.uint8))
        elif kind == 2:
            tiles.append(_patch(random, 1, 1, width, height)[0][0])
        else:
            tiles.append(_marker(random, width, height, number))
    run = count * ((height if down else width) + spacing) - spacing + margin + far
    sheet = np.zeros((run, width + margin + far, 4) if down else (height + margin + far, run, 4), np.uint8)
    for number, tile in enumerate(tiles):
        at = margin + number * ((height if down else width) + spacing)
        top, left = (at, margin) if down else (margin, at)
        sheet[top : top + height, left : left + width] = tile
    # One row does not tell what would lie between two.
    return (
        sheet,
        (width, height, margin, margin, spacing, spacing),
        f"strip clear {width}x{height} m{margin} s{spacing}",
    )


def _marker(random: Random, width: int, height: int, number: int) -> np.ndarray:
    """A frame round a cell, or a ring in it, that pulses."""
    tile = np.zeros((height, width, 4), np.uint8)
    ys, xs = np.mgrid[0:height, 0:width]
    colour = (*random.integers(60, 256, 3), 255)
    if random.random() < 0.5:
        far = np.hypot((xs + 0.5) / width - 0.5, (ys + 0.5) / height - 0.5)
        tile[np.abs(far - 0.3 - 0.03 * (number % 4)) < 0.06] = colour
    else:
        tile[(xs + ys + number * 2) % 8 < 4] = colour
        inner = 2 + number % 3
        tile[inner:-inner, inner:-inner] = 0
    return tile
