"""Families of tiles that are hard to read: art that stands on clear diamonds, and leaves over borders that repeat.

What says whether such art goes on over a side is how far it reaches there. Nothing of it repeats pixel by pixel, it may
stand higher than the diamond, and the sides that face the viewer show something else than those that face away.
"""

from itertools import product

import numpy as np

from knitground.core.joins.coverage import is_formed

ARTS = ("woods", "hills", "peaks", "river", "houses")
_SIDES = ((-1, 0), (0, 1), (1, 0), (0, -1))


def family(random: np.random.Generator, kind: str) -> list[tuple]:
    """The combinations of a family: all, or nearly all, now and then one twice."""
    every = list(product((0, 1), repeat=4))
    if kind == "full":
        every = [row for row in product((0, 1), repeat=8) if is_formed(row)]
    if random.random() < 0.4:
        random.shuffle(every)
    if random.random() < 0.25:
        every = every[: len(every) - int(random.integers(1, 4))]
    if random.random() < 0.2:
        every = every + [every[random.integers(len(every))] for _ in range(int(random.integers(1, 5)))]
    return [tuple(int(label) for label in row) for row in every]


def region(
    random: np.random.Generator, labels: tuple, kind: str, half: float, core: float, fill: bool, side: int
) -> np.ndarray:
    """Where the art stands on the cell laid flat, (side, side) bool: it reaches what is labelled."""
    at = (np.arange(side) + 0.5) / side - 0.5
    v, u = at[:, None], at[None, :]
    ragged = random.normal(0, 0.02, 6)
    angle = np.arctan2(v, u)
    rough = sum(size * np.cos((n + 1) * angle + n) for n, size in enumerate(ragged))
    if kind == "corner":
        inside = np.hypot(v, u) < (core * 0.6 + rough if sum(labels) > 2 else 0)
        for (down, across), label in zip(((-1, -1), (-1, 1), (1, 1), (1, -1)), labels, strict=True):
            if label:
                inside |= (v * down > -0.02 + rough) & (u * across > -0.02 + rough)
        return inside
    inside = np.hypot(v, u) < core + rough
    edges = labels[-4:]
    wide = half * (1 + random.uniform(-0.15, 0.15))
    for (down, across), label in zip(_SIDES, edges, strict=True):
        along, beside = v * down + u * across, np.abs(v * across - u * down)
        if label:
            inside |= (along > 0) & (beside < wide + rough)
    for place, ((down, across), label) in enumerate(
        zip(((-1, -1), (-1, 1), (1, 1), (1, -1)), labels if kind == "full" else _between(edges, fill), strict=False)
    ):
        if label and place < 4:
            inside |= (v * down > -wide) & (u * across > -wide)
    return inside


def _between(edges: tuple, fill: bool) -> tuple:
    """Whether the quarter between each two sides is filled, where both go on."""
    return tuple(bool(fill and edges[n] and edges[(n - 1) % 4]) for n in range(4))


class Canvas:
    """A tile seen from above and aside: flat places become pixels, and things stand up from them."""

    def __init__(self, width: int, head: int) -> None:
        self.width, self.low, self.head = width, width // 2, head
        self.pixels = np.zeros((head + self.low, width, 4))

    def place(self, v: float, u: float) -> tuple[float, float]:
        """Row and column of a flat place (0 to 1)."""
        return self.head + (u + v) / 2 * self.low, (u - v + 1) / 2 * self.width

    def put(self, rows: np.ndarray, columns: np.ndarray, colour: np.ndarray) -> None:
        there = (rows >= 0) & (rows < self.pixels.shape[0]) & (columns >= 0) & (columns < self.width)
        colours = np.broadcast_to(colour, (*rows.shape, 3))
        self.pixels[rows[there], columns[there], :3] = colours[there]
        self.pixels[rows[there], columns[there], 3] = 255

    def ellipse(self, row: float, column: float, high: float, wide: float, colour: np.ndarray, shade: float) -> None:
        y, x = np.mgrid[int(row - high) - 1 : int(row + high) + 2, int(column - wide) - 1 : int(column + wide) + 2]
        part = ((y - row) / max(high, 0.5)) ** 2 + ((x - column) / max(wide, 0.5)) ** 2
        inside = part <= 1
        light = 1 - shade * ((x - column) / max(wide, 0.5) + (y - row) / max(high, 0.5)) / 2
        light = np.where(part > 0.7, light * 0.7, light)
        self.put(y[inside], x[inside], colour * light[inside][:, None])

    def peak(self, row: float, column: float, high: float, wide: float, colour: np.ndarray, snow: bool) -> None:
        y, x = np.mgrid[int(row - high) : int(row) + 1, int(column - wide) - 1 : int(column + wide) + 2]
        level = (row - y) / max(high, 1)
        inside = np.abs(x - column) <= wide * (1 - level)
        light = np.where(x < column, 1.2, 0.65)
        if snow:
            light = np.where(level > 0.65, 2.0, light)
        self.put(y[inside], x[inside], colour * light[inside][:, None])


def _trees(
    random: np.random.Generator,
    canvas: Canvas,
    inside: np.ndarray,
    colours: list,
    high: float,
    dense: float,
    houses: bool,
) -> None:
    side = len(inside)
    spots = np.argwhere(inside)
    if not len(spots):
        return
    for v, u in _spots(random, inside, max(1, int(dense * len(spots) / side**2))):
        row, column = canvas.place(v, u)
        tall = high * random.uniform(0.8, 1.2)
        if houses:
            canvas.put(
                *np.mgrid[
                    int(row - tall * 0.5) : int(row) + 1, int(column - tall * 0.4) : int(column + tall * 0.4) + 1
                ],
                colours[1],
            )
            canvas.peak(row - tall * 0.5, column, tall * 0.5, tall * 0.5, colours[0], False)
            continue
        canvas.put(
            *np.mgrid[int(row - tall * 0.3) : int(row) + 1, int(column) : int(column) + max(1, int(tall / 8))],
            colours[1],
        )
        canvas.ellipse(row - tall * 0.6, column, tall * 0.42, tall * 0.33, colours[0] * random.uniform(0.85, 1.15), 0.5)


def _spots(random: np.random.Generator, inside: np.ndarray, many: int) -> list[list[float]]:
    """Places to put things on, from back to front: some anywhere, and one at each side that the art reaches."""
    side, every = len(inside), np.argwhere(inside)
    if not len(every):
        return []
    chosen = [every[random.permutation(len(every))[:many]]]
    near = max(2, side // 8)
    for band in (every[:, 0] < near, every[:, 1] >= side - near, every[:, 0] >= side - near, every[:, 1] < near):
        if band.sum() > near:
            chosen.append(every[band][random.integers(band.sum(), size=1)])
    spots = np.concatenate(chosen) + random.uniform(0, 1, (sum(map(len, chosen)), 2))
    return sorted((spots / side).tolist(), key=sum)


def _mound(
    canvas: Canvas, inside: np.ndarray, labels: tuple, colour: np.ndarray, high: float, grain: np.ndarray
) -> None:
    from scipy import ndimage

    side = len(inside)
    # It goes on over the sides that it reaches, so the height does not fall towards them.
    wide = np.pad(inside, side // 2, mode="edge")
    depth = ndimage.distance_transform_edt(wide)[side // 2 : -(side // 2), side // 2 : -(side // 2)]
    height = high * np.clip(depth / (side * 0.25), 0, 1) ** 0.7
    slope = np.gradient(height)
    fine = 3
    for v, u in sorted(np.argwhere(inside).tolist(), key=sum):
        light = np.clip(1 - 0.8 * (slope[1][v, u] + slope[0][v, u]), 0.4, 1.6) * grain[v, u]
        for part in np.arange(fine) / fine:
            row, column = canvas.place((v + part) / side, (u + 0.5) / side)
            rows = np.arange(int(row - height[v, u]), int(row) + 1)
            canvas.put(rows, np.full(len(rows), int(column)), colour * light)


def overlay(random: np.random.Generator, kind: str, art: str, rows: list[tuple], width: int) -> np.ndarray:
    """Isometric tiles on clear ground, (n, h, width, 4) uint8; their diamond is the lower half as high as wide."""
    head = int(width * random.choice([0, 0, 0, 0.125, 0.25, 0.5]))
    colours = [random.uniform(30, 180, 3) for _ in range(2)]
    half, core = random.uniform(0.2, 0.42), random.uniform(0.18, 0.3)
    if art == "river":
        half, core = random.uniform(0.05, 0.14), random.uniform(0.06, 0.14)
    fill, high = art != "river" and random.random() < 0.7, width * random.uniform(0.1, 0.24)
    dense, snow, cut = random.uniform(30, 120), random.random() < 0.5, random.random() < 0.7
    side = max(16, width // 2)
    tiles = []
    for labels in rows:
        canvas = Canvas(width, head)
        inside = region(random, labels, kind, half, core, fill, side)
        if art in ("woods", "houses"):
            _trees(random, canvas, inside, colours, high, dense, art == "houses")
        elif art == "hills":
            _mound(canvas, inside, labels, colours[0], high * 0.6, random.normal(1, 0.06, inside.shape))
        elif art == "peaks":
            for v, u in _spots(random, inside, int(dense / 6 * inside.mean()) + 1):
                row, column = canvas.place(v, u)
                canvas.peak(
                    row, column, high * random.uniform(0.8, 1.5), high * random.uniform(0.6, 1), colours[0], snow
                )
        else:
            _mound(canvas, inside, labels, colours[0], 0.0, random.normal(1, 0.08, inside.shape))
        if cut:
            _cut(canvas)
        tiles.append(canvas.pixels)
    return np.clip(np.stack(tiles), 0, 255).astype(np.uint8)


def _cut(canvas: Canvas) -> None:
    """Takes away what stands out below the diamond's lower sides, as sheets whose cells overlap do."""
    y, x = np.mgrid[0 : canvas.low, 0 : canvas.width]
    below = (y + 0.5) / canvas.low - 0.5 + np.abs((x + 0.5) / canvas.width - 0.5) > 0.5
    above = (y + 0.5) / canvas.low - 0.5 - np.abs((x + 0.5) / canvas.width - 0.5) < -0.5
    outside = (below & (y >= canvas.low / 2)) | (above & (y < canvas.low / 2) & (canvas.head == 0))
    canvas.pixels[canvas.head :][outside] = 0


def covered(random: np.random.Generator, kind: str, rows: list[tuple], side: int) -> np.ndarray:
    """Square tiles whose ground repeats; dark leaves lie over it where a label says so; (n, side, side, 4)."""
    ground = random.uniform(90, 200, 3) + random.normal(0, random.uniform(2, 10), (side, side, 1))
    leaf = random.uniform(15, 90, 3)
    light = leaf * random.uniform(1.3, 1.9)
    # What is missing at an inner corner is to be seen at all.
    half = random.uniform(0.2, min(0.4, 0.5 - 2.5 / side))
    core, clear = random.uniform(0.2, 0.32), random.random() < 0.25
    many, size = random.uniform(50, 150), side * random.uniform(0.06, 0.14)
    shadow = random.random() < 0.6
    hung = random.uniform(0, 0.6)
    tiles = np.zeros((len(rows), side, side, 4))
    for number, labels in enumerate(rows):
        tile = tiles[number]
        tile[..., :3], tile[..., 3] = ground, 0 if clear else 255
        inside = region(random, labels, kind, half, core, True, side)
        if shadow:
            below = np.roll(inside, max(1, side // 12), axis=0) & ~inside
            below[: max(1, side // 12)] &= inside[: max(1, side // 12)]
            tile[below, :3] *= 0.6
            tile[below, 3] = 255
        spots = np.argwhere(inside)
        for row, column in spots[random.permutation(len(spots))[: int(many * inside.mean())]] if len(spots) else ():
            _leaf(tile, row, column, size * random.uniform(0.7, 1.3), leaf, light)
        tile[inside & (random.random((side, side)) < 0.93) & (tile[..., 1] > light[1])] = (*leaf, 255)
        # Single leaves lie about on open ground, also over borders that go on as ground.
        for row, column in random.integers(0, side, (random.poisson(hung), 2)):
            _leaf(tile, row, column, size * 0.5, leaf, light)
    return np.clip(tiles, 0, 255).astype(np.uint8)


def _leaf(tile: np.ndarray, row: float, column: float, size: float, dark: np.ndarray, light: np.ndarray) -> None:
    y, x = np.mgrid[0 : tile.shape[0], 0 : tile.shape[1]]
    part = np.hypot(y - row, x - column) / max(size, 0.7)
    tile[part <= 1] = (*dark, 255)
    tile[np.hypot(y - row + size * 0.25, x - column + size * 0.25) < size * 0.5] = (*light, 255)
