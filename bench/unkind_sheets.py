"""Made-up sheets as unkind as real ones: families that go on over tiles, lines, captions, icons in large cells.

Each kind is one that guesses went wrong on. All art is noise in a few colours; nothing of it is anybody's.
"""

import numpy as np
from scipy import ndimage

Truth = tuple[int, int, int, int, int, int]
Random = np.random.Generator
KINDS = ("split", "families", "blocks", "ruled", "icons", "tall", "slanted", "few", "arms")


def unkind_case(seed: int) -> tuple[np.ndarray, Truth, str]:
    """A sheet, the numbers it was made with, and which kind it is."""
    random = np.random.Generator(np.random.PCG64([seed, 77]))
    kind = KINDS[seed % len(KINDS)]
    width, height = _tile_of(kind, random)
    spacing, margin = _gaps_of(kind, random)
    columns, rows = _size_of(kind, random, width, height)
    ground = (
        (0, 0, 0, 0) if random.random() < 0.8 or kind in ("split", "slanted") else (*random.integers(0, 256, 3), 255)
    )
    far = margin if random.random() < 0.5 else 0
    sheet = np.zeros(
        (margin + rows * (height + spacing) - spacing + far, margin + columns * (width + spacing) - spacing + far, 4),
        np.uint8,
    )
    sheet[:] = ground
    art = _MAKERS[kind](random, columns, rows, width, height)
    if kind == "ruled":
        sheet[:] = (*random.integers(0, 256, 3), 255)
    if random.random() < 0.3 and rows > 2 and kind != "arms":
        # One row is much shorter than the others.
        art[-1][int(random.integers(1, max(2, columns // 3))) :] = [None] * columns
    for row in range(rows):
        for column in range(columns):
            top, left = margin + row * (height + spacing), margin + column * (width + spacing)
            cell = sheet[top : top + height, left : left + width]
            tile = art[row][column]
            if kind == "ruled":
                cell[:] = 0
            if tile is not None:
                cell[:] = np.where(tile[..., 3:] > 0, tile, cell)
    if spacing and random.random() < 0.5:
        _cross_gutters(sheet, random, margin, (width, height), spacing)
    if random.random() < (0.6 if kind == "ruled" else 0.4 if kind == "split" else 0.15):
        sheet = _with_writing(sheet, random)
    if random.random() < 0.2:
        # Some end with pixels that are no tile's.
        sheet = np.pad(
            sheet, ((0, int(random.integers(0, height // 2))), (0, int(random.integers(0, width // 2))), (0, 0))
        )
    says = f"{kind} {'opaque' if ground[3] else 'clear'} {width}x{height} m{margin} s{spacing} {columns}x{rows}"
    return sheet, (width, height, margin, margin, spacing, spacing), says


def _tile_of(kind: str, random: Random) -> tuple[int, int]:
    side = int(random.choice((8, 16, 16, 16, 18, 21, 24, 32, 32, 32, 48, 64, 70)))
    if kind == "slanted":
        width = int(random.choice((32, 64, 64, 96, 126, 128)))
        return width, int(random.choice((width // 2, width // 2, width // 2 + 1, width, width * 3 // 4)))
    if kind == "icons":
        return (int(random.choice((24, 32, 32, 40, 48, 64))),) * 2
    return (
        (side, side)
        if random.random() < 0.85
        else (side, int(random.choice((side * 2, side * 3 // 2, max(8, side // 2)))))
    )


def _gaps_of(kind: str, random: Random) -> tuple[int, int]:
    """Spacing and margin."""
    if kind == "split":
        return [(1, 1), (1, 1), (1, 0), (2, 2), (2, 0), (2, 1)][int(random.integers(0, 6))]
    if kind == "ruled":
        return 1, int(random.choice((1, 1, 0)))
    if kind == "slanted":
        return [(0, 0), (1, 1), (1, 0), (0, 0), (2, 2)][int(random.integers(0, 5))]
    if kind == "few":
        return int(random.integers(0, 5)), int(random.integers(0, 9))
    return [(0, 0), (0, 0), (0, 0), (1, 0), (1, 1), (2, 2)][int(random.integers(0, 6))]


def _size_of(kind: str, random: Random, width: int, height: int) -> tuple[int, int]:
    most = max(4, 1400 // width)
    if kind == "arms":
        return [(4, 4), (4, 4), (8, 2), (16, 1), (8, 8), (16, 4)][int(random.integers(0, 6))]
    columns = int(random.integers(4, min(30, most) + 1))
    if kind == "few":
        return min(columns, 12), int(random.integers(1, 4))
    rows = (
        int(random.integers(2, 5))
        if kind in ("icons", "slanted") and random.random() < 0.6
        else int(random.integers(3, max(4, min(24, 1200 // height)) + 1))
    )
    return columns, rows


def _noise(random: Random, height: int, width: int, grain: float) -> np.ndarray:
    """A seamless-looking stretch of ground in four near colours, (height, width, 4)."""
    base = random.integers(40, 216, 3)
    shades = np.clip(base + np.array([-24, -8, 8, 24])[:, None] * random.uniform(0.4, 1.0), 0, 255)
    field = ndimage.gaussian_filter(random.random((height, width)), grain)
    ranks = np.searchsorted(np.quantile(field, (0.25, 0.5, 0.8)), field)
    return np.dstack([shades[ranks], np.full((height, width), 255)]).astype(np.uint8)


def _cut_up(art: np.ndarray, columns: int, rows: int) -> list[list[np.ndarray]]:
    height, width = art.shape[0] // rows, art.shape[1] // columns
    return [
        [art[y * height : (y + 1) * height, x * width : (x + 1) * width] for x in range(columns)] for y in range(rows)
    ]


def _patch(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray]]:
    """A block that goes on over its tiles, with a rim, on a ground of its own or on none."""
    size = rows * height, columns * width
    art = _noise(random, *size, float(random.uniform(0.4, 1.6)))
    ys, xs = np.mgrid[0 : size[0], 0 : size[1]]
    rim = int(random.integers(0, max(2, width // 5)))
    wobble = ndimage.gaussian_filter(random.random(size), 1.5) * width * 0.3
    away = np.minimum(np.minimum(xs, size[1] - 1 - xs), np.minimum(ys, size[0] - 1 - ys)) + wobble - width * 0.15
    around = random.random()
    if around < 0.35:
        other = _noise(random, *size, 1.0)
        art = np.where((away < rim)[..., None], other, art)
    elif around < 0.75:
        art[away < rim] = 0
    art[(away >= rim) & (away < rim + 1)] = (*(art[..., :3].reshape(-1, 3).mean(axis=0) * 0.5), 255)
    return _cut_up(art, columns, rows)


def _thing(random: Random, width: int, height: int, share: float = 1.0) -> np.ndarray:
    """A figure of a few colours with an outline, in the middle or on the foot of its cell."""
    ys, xs = np.mgrid[0:height, 0:width]
    tile = np.zeros((height, width, 4), np.uint8)
    inside = np.zeros((height, width), bool)
    middle = (random.uniform(0.45, 0.55) * width, (0.5 if random.random() < 0.5 else 0.6) * height)
    for _ in range(int(random.integers(1, 4))):
        wide, high = random.uniform(0.25, 0.5, 2) * share
        part = (np.abs(xs - middle[0]) / (wide * width)) ** 2 + (np.abs(ys - middle[1]) / (high * height)) ** 2 < 1
        tile[part] = _noise(random, height, width, 0.7)[part]
        inside |= part
    tile[inside & ~ndimage.binary_erosion(inside)] = (*random.integers(0, 60, 3), 255)
    return tile


def _packed(random: Random, columns: int, rows: int, make, sizes) -> list[list[np.ndarray | None]]:
    """Blocks of several sizes, packed as they fit from the upper left on."""
    cells: list[list] = [[None] * columns for _ in range(rows)]
    taken = np.zeros((rows, columns), bool)
    for row in range(rows):
        for column in range(columns):
            if taken[row, column]:
                continue
            wide, high = sizes[int(random.integers(0, len(sizes)))]
            wide, high = min(wide, columns - column), min(high, rows - row)
            while taken[row : row + high, column : column + wide].any():
                wide -= 1
            taken[row : row + high, column : column + wide] = True
            if random.random() < 0.08:
                continue
            block = make(wide, high)
            for y in range(high):
                cells[row + y][column : column + wide] = block[y]
    return cells


def _split(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    """Tiles on clear ground of which few fill their cell."""

    def make(wide: int, high: int) -> list[list[np.ndarray]]:
        if random.random() < full:
            return _patch(random, wide, high, width, height)
        return [
            [_thing(random, width, height, float(random.uniform(0.5, 1.1))) for _ in range(wide)] for _ in range(high)
        ]

    full = float(random.choice((0.0, 0.0, 0.05, 0.3)))
    return _packed(random, columns, rows, make, ((1, 1), (1, 1), (2, 2), (3, 3)))


def _families(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    """Two or three columns each hold a family: the same colours all the way down."""
    group = int(random.integers(2, 4))
    cells: list[list] = [[None] * columns for _ in range(rows)]
    for first in range(0, columns, group):
        wide = min(group, columns - first)
        ground, other = (_noise(random, 4 * height, wide * width, 0.8) for _ in (0, 1))
        for row in range(rows):
            part = ground[(row % 4) * height : (row % 4 + 1) * height].copy()
            shape = ndimage.gaussian_filter(random.random((height, wide * width)), max(1.5, width / 8)) > 0.5
            part[shape] = other[:height][shape]
            cells[row][first : first + wide] = _cut_up(part, wide, 1)[0]
    return cells


def _blocks(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    sizes = ((3, 3), (3, 3), (2, 2), (3, 1), (1, 3), (1, 1), (1, 1), (4, 2), (2, 3))
    return _packed(random, columns, rows, lambda wide, high: _patch(random, wide, high, width, height), sizes)


def _ruled(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    return _split(random, columns, rows, width, height)


def _icons(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    bare = float(random.choice((0.0, 0.3, 0.6)))
    share = float(random.uniform(0.4, 0.8))
    return [
        [None if random.random() < bare else _thing(random, width, height, share) for _ in range(columns)]
        for _ in range(rows)
    ]


def _tall(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    """Features of one or two cells' width and several cells' height, beside plain ground."""

    def make(wide: int, high: int) -> list[list[np.ndarray]]:
        if (wide, high) == (1, 1) or random.random() < 0.3:
            return _patch(random, wide, high, width, height)
        return _cut_up(_thing(random, wide * width, high * height, 1.0), wide, high)

    return _packed(random, columns, rows, make, ((1, 2), (1, 2), (2, 2), (1, 1), (2, 3), (1, 3)))


def _slanted(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    """Diamonds, flat or with something on them, a few families of them."""
    ys, xs = np.mgrid[0:height, 0:width]
    low = min(height, width // 2)
    top = height - low
    inside = np.abs(2 * (xs + 0.5) / width - 1) + np.abs(2 * (ys - top + 0.5) / low - 1) <= 1
    grounds = [_noise(random, height, width, 0.8) for _ in range(4)]
    cells: list[list] = []
    for row in range(rows):
        line: list[np.ndarray] = []
        for column in range(columns):
            family = (column // 2 + row) % 4 if random.random() < 0.8 else int(random.integers(0, 4))
            lifted = inside.copy()
            if top and random.random() < 0.5:
                for up in range(int(random.integers(1, top + 1))):
                    lifted |= np.roll(inside, -up, axis=0)
            line.append(np.where(lifted[..., None], grounds[family], 0).astype(np.uint8))
        cells.append(line)
    return cells


def _few(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    """A short sheet of plain tiles, of which each has a border of its own."""
    plain = [_noise(random, height, width, 0.8) for _ in range(3)]

    def one() -> np.ndarray:
        if random.random() < 0.5:
            return plain[int(random.integers(0, 3))]
        return _patch(random, 1, 1, width, height)[0][0]

    return [[one() for _ in range(columns)] for _ in range(rows)]


def _arms(random: Random, columns: int, rows: int, width: int, height: int) -> list[list[np.ndarray | None]]:
    """Paths from the middle to some of the sides, in the order of binary numbers, on clear ground or on a plain one."""
    ground = _noise(random, height, width, 0.8) if random.random() < 0.5 else np.zeros((height, width, 4), np.uint8)
    path = _noise(random, height, width, 0.8)
    ys, xs = np.mgrid[0:height, 0:width]
    half = float(random.uniform(0.12, 0.3))
    across, down = np.abs(xs + 0.5 - width / 2) < half * width, np.abs(ys + 0.5 - height / 2) < half * height
    sides = random.permutation(4)
    cells: list[list] = []
    for row in range(rows):
        line = []
        for column in range(columns):
            number = row * columns + column
            shape = across & down
            for bit, arm in enumerate((across & (ys < height / 2), down & (xs > width / 2),
                                       across & (ys > height / 2), down & (xs < width / 2))):  # fmt: skip
                if number >> int(sides[bit]) & 1:
                    shape |= arm
            line.append(np.where(shape[..., None], path, ground).astype(np.uint8))
        cells.append(line)
    return cells


def _cross_gutters(sheet: np.ndarray, random: Random, margin: int, tile: tuple[int, int], spacing: int) -> None:
    """A few features larger than a tile that were drawn right over the gutters."""
    rows, columns = (max(1, sheet.shape[axis] // (tile[1 - axis] + spacing)) for axis in (0, 1))
    for _ in range(int(random.integers(1, 4))):
        wide, high = (int(n) for n in random.integers(1, 4, 2))
        column, row = int(random.integers(0, columns)), int(random.integers(0, rows))
        top, left = margin + row * (tile[1] + spacing), margin + column * (tile[0] + spacing)
        part = sheet[
            top : top + high * (tile[1] + spacing) - spacing, left : left + wide * (tile[0] + spacing) - spacing
        ]
        if part.size:
            part[:] = _noise(random, *part.shape[:2], 1.0)


def _with_writing(sheet: np.ndarray, random: Random) -> np.ndarray:
    """The sheet with a heading, a logo and lines of a licence in a block beside or below the grid."""
    height, width = sheet.shape[:2]
    beside = random.random() < 0.5
    more = int(random.integers(40, 220))
    wider = np.zeros((height, width + more, 4) if beside else (height + more // 2, width, 4), np.uint8)
    wider[:height, :width] = sheet
    left, top = (width + 4, 2) if beside else (2, height + 3)
    ink = (*random.integers(0, 256, 3), 255)
    logo = _thing(random, 32, 32)
    spot = wider[top : top + 32, left : left + 32]
    spot[:] = logo[: spot.shape[0], : spot.shape[1]]
    for line in range(int(random.integers(1, 9))):
        y, x = top + 34 + 9 * line, left
        for _ in range(int(random.integers(5, 30))):
            glyph = wider[y : y + 7, x : x + 5]
            glyph[random.random(glyph.shape[:2]) < 0.45] = ink
            x += 6
    return wider


_MAKERS = {
    "split": _split, "families": _families, "blocks": _blocks, "ruled": _ruled, "icons": _icons, "tall": _tall,
    "slanted": _slanted, "few": _few, "arms": _arms,
}  # fmt: skip
