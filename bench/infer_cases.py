"""Made-up labelled tilesets of many styles, and how many of their tiles are read right.

.venv/bin/python bench/infer_cases.py [COUNT [FIRST]] [--unkind | --inked] [--show]

With `--show` the cases that are read wrong are named.
"""

import sys
import time
from collections import Counter
from itertools import permutations, product

import numpy as np

from knitground.core.edits.reading import SURE
from knitground.core.joins.coverage import is_formed
from knitground.core.joins.infer import infer_labels
from two_inks import inked
from unkind_families import ARTS, covered, family, overlay

STYLES = ("plain", "outlined", "biased", "cliff", "shaded")


def texture(random: np.random.Generator, side: int, count: int) -> np.ndarray:
    """Tiles of one terrain, (count, side, side, 3) float: the same grain in all, or in each another."""
    colour = random.uniform(40, 215, 3)
    kind = random.choice(["flat", "grain", "blades", "bricks", "waves", "speckle"])
    strength = random.uniform(8, 45)
    many = count if random.random() < 0.3 else 1
    tiles = np.zeros((many, side, side))
    y, x = np.mgrid[0:side, 0:side]
    for tile in tiles:
        if kind == "grain":
            tile += random.normal(0, 0.5, (side, side))
        elif kind == "blades":
            for _ in range(side * side // 12):
                row, column = random.integers(0, side, 2)
                tile[np.arange(row, row + 3) % side, column] += random.choice([-1, 1])
        elif kind == "bricks":
            step = max(4, side // 4)
            tile -= ((y % step == 0) | ((x + (y // step % 2) * step // 2) % step == 0)) * 1.6
        elif kind == "waves":
            tile += np.sin(2 * np.pi * (2 * y / side + 0.15 * np.sin(2 * np.pi * x / side)))
        elif kind == "speckle":
            tile += (random.random((side, side)) < 0.08) * random.choice([-2, 2])
    tint = random.uniform(0.7, 1.3, 3)
    made = np.clip(colour + tiles[..., None] * strength * tint, 0, 255)
    return np.broadcast_to(made, (count, side, side, 3)) if many == 1 else made


def apart(random: np.random.Generator, side: int, count: int, terrains: int) -> np.ndarray:
    """Textures whose mean colours can be told apart, (terrains, count, side, side, 3)."""
    while True:
        made = np.stack([texture(random, side, count) for _ in range(terrains)])
        means = made.mean(axis=(1, 2, 3))
        gaps = [np.abs(one - other).max() for n, one in enumerate(means) for other in means[:n]]
        if not gaps or min(gaps) > 30:
            return made


def wobble(random: np.random.Generator, side: int) -> np.ndarray:
    """Smooth noise that goes on over the borders of a tile."""
    spectrum = np.fft.fft2(random.normal(0, 1, (side, side)))
    low = np.hypot(*np.meshgrid(np.fft.fftfreq(side) * side, np.fft.fftfreq(side) * side)) < 3.5
    noise = np.fft.ifft2(spectrum * low).real
    return noise / (np.abs(noise).max() + 1e-9)


def corner_field(labels: tuple, side: int, terrains: int, random_field: np.ndarray, bias: np.ndarray) -> np.ndarray:
    """How strongly each terrain claims each pixel, (terrains, side, side)."""
    at = (np.arange(side) + 0.5) / side
    y, x = at[:, None], at[None, :]
    shares = ((1 - y) * (1 - x), (1 - y) * x, y * x, y * (1 - x))
    claims = np.zeros((terrains, side, side))
    for share, label in zip(shares, labels, strict=True):
        claims[label] += share
    return claims * bias[:, None, None] + random_field * (claims > 0)


def line_field(labels: tuple, side: int, terrains: int, width: float, off: tuple[float, float]) -> np.ndarray:
    """Bars from about the middle of a tile to its edges; terrain 0 lies below."""
    at = (np.arange(side) + 0.5) / side - 0.5
    y, x = at[:, None] - off[0], at[None, :] - off[1]
    claims = np.zeros((terrains, side, side))
    claims[0] = 0.5
    for (down, across), label in zip(((-1, 0), (0, 1), (1, 0), (0, -1)), labels, strict=True):
        if label:
            along = np.clip(y * down + x * across, 0, 1)
            distance = np.hypot(y - along * down, x - along * across)
            claims[label] = np.maximum(claims[label], 1 - distance / (2 * width))
    return claims


def patch_field(labels: tuple, side: int, inset: float) -> np.ndarray:
    """A patch that reaches the edges and corners that are labelled."""
    at = (np.arange(side) + 0.5) / side
    low, high = at < inset, at > 1 - inset
    middle = ~low & ~high
    inside = np.outer(middle, middle)
    north_west, north_east, south_east, south_west, north, east, south, west = labels
    for rows, columns, label in (
        (low, middle, north), (middle, high, east), (high, middle, south), (middle, low, west), (low, low, north_west),
        (low, high, north_east), (high, high, south_east), (high, low, south_west),
    ):  # fmt: skip
        if label:
            inside |= np.outer(rows, columns)
    return np.stack([~inside, inside]).astype(float)


def combinations(random: np.random.Generator, kind: str, terrains: int) -> list[tuple]:
    """What a sheet holds: a whole set, or most of one, some of it in variants."""
    if kind == "full":
        every = [row for row in product((0, 1), repeat=8) if is_formed(row)]
    elif kind == "edge":
        every = list(product(range(terrains), repeat=4))
    else:
        every = [row for row in product(range(terrains), repeat=4) if len(set(row)) <= 2]
    random.shuffle(every)
    kept = every[: max(6, int(len(every) * random.choice([1, 1, 0.8, 0.5])))][: int(random.choice([24, 60, 100]))]
    extra = [kept[random.integers(len(kept))] for _ in range(int(random.integers(0, 6)))]
    return kept + extra


def draw(random: np.random.Generator, kind: str, style: str, rows: list[tuple], terrains: int, side: int) -> np.ndarray:
    """The tiles, (n, side, side, 4) uint8."""
    art = apart(random, side, len(rows), terrains)
    bare = random.random() < 0.3
    field = wobble(random, side) * random.uniform(0, 0.12)
    fields = np.stack([field * (1 if n % 2 else -1) for n in range(terrains)])
    bias = np.ones(terrains)
    if style == "biased":
        bias[random.integers(terrains)] = random.choice([0.6, 1.6])
    width, inset = random.uniform(0.08, 0.3), random.uniform(0.12, 0.34)
    off = tuple(random.uniform(-0.12, 0.12, 2)) if random.random() < 0.3 else (0.0, 0.0)
    tiles, winners = np.zeros((len(rows), side, side, 4)), np.zeros((len(rows), side, side), dtype=np.intp)
    for number, labels in enumerate(rows):
        if kind == "corner":
            claims = corner_field(labels, side, terrains, fields, bias)
        elif kind == "edge":
            claims = line_field(labels, side, terrains, width, off)
        else:
            claims = patch_field(labels, side, inset)
        winner = winners[number] = claims.argmax(axis=0)
        tiles[number, ..., :3] = np.take_along_axis(art[:, number], winner[None, ..., None], axis=0)[0]
        tiles[number, ..., 3] = np.where((winner == 0) & bare, 0, 255)
        finish(tiles[number], winner, style, side)
    if style == "inked":
        return inked(random, winners)
    if random.random() < 0.3:
        tiles[..., :3] += random.normal(0, random.uniform(1, 8), tiles[..., :3].shape)
    return np.clip(tiles, 0, 255).astype(np.uint8)


def finish(tile: np.ndarray, winner: np.ndarray, style: str, side: int) -> None:
    """Outlines, cliffs and shadows where terrains meet."""
    level, upright = winner != np.roll(winner, -1, axis=1), winner != np.roll(winner, -1, axis=0)
    level[:, -1], upright[-1] = False, False
    rim = level | upright
    if style == "outlined":
        for _ in range(max(1, side // 16)):
            tile[rim, :3] *= 0.35
            tile[rim, 3] = 255
            rim = rim | np.roll(rim, 1, axis=0)
            rim[0] = False
    if style == "cliff":
        below = upright & (winner > np.roll(winner, -1, axis=0))
        for row, column in zip(*np.nonzero(below), strict=True):
            face = slice(row + 1, min(side, row + 1 + side // 5))
            tile[face, column, :3] = tile[row, column, :3] * 0.5
            tile[face, column, 3] = 255
    if style == "shaded":
        light = np.roll(winner, 1, axis=0) != winner
        light[0] = False
        tile[..., :3] *= np.where(rim[..., None], 0.7, 1)
        tile[..., :3] *= np.where(light[..., None], 1.25, 1)


def isometric(tiles: np.ndarray) -> np.ndarray:
    """The same tiles seen from a corner: diamonds twice as wide as high."""
    count, side = tiles.shape[:2]
    y, x = np.mgrid[0:side, 0 : 2 * side]
    down, across = (y + 0.5) / side, (x + 0.5) / (2 * side)
    u, v = across + down - 0.5, down - across + 0.5
    inside = (u >= 0) & (u < 1) & (v >= 0) & (v < 1)
    made = np.zeros((count, side, 2 * side, 4), dtype=np.uint8)
    row, column = np.clip((v * side).astype(int), 0, side - 1), np.clip((u * side).astype(int), 0, side - 1)
    made[:] = np.where(inside[None, ..., None], tiles[:, row, column], 0)
    return made


def same_up_to_names(found: list[tuple], truth: list[tuple]) -> np.ndarray:
    """Which tiles are read right under the best naming of the terrains."""
    names, known = sorted({n for row in found for n in row}), sorted({n for row in truth for n in row})
    slots = known + [-1 - n for n in range(max(0, len(names) - len(known)))]
    best = np.zeros(len(truth), dtype=bool)
    for choice in permutations(slots, len(names)):
        naming = dict(zip(names, choice, strict=True))
        hits = np.array([tuple(naming[n] for n in row) == tuple(want) for row, want in zip(found, truth, strict=True)])
        best = max(best, hits, key=np.sum)
    return best


def kind_case(random: np.random.Generator) -> tuple[np.ndarray, list[tuple], str, str, str, int]:
    """Tiles, their labels, kind, style and shape, and how many terrains there are."""
    kind = str(random.choice(["corner", "corner", "edge", "full"]))
    style = str(random.choice(STYLES))
    terrains = 2 if kind == "full" else int(random.choice([2, 2, 2, 3, 4]))
    side = int(random.choice([8, 12, 16, 16, 24, 32, 48]))
    rows = combinations(random, kind, terrains)
    tiles = draw(random, kind, style, rows, terrains, side)
    shape = "isometric" if random.random() < 0.25 else "square"
    if shape == "isometric":
        tiles = isometric(tiles)
    return tiles, rows, kind, style, shape, len({n for row in rows for n in row})


def unkind_case(random: np.random.Generator) -> tuple[np.ndarray, list[tuple], str, str, str, int]:
    """The same, of art that stands on clear diamonds, or of leaves over ground that repeats."""
    if random.random() < 0.65:
        kind, art = str(random.choice(["edge", "edge", "edge", "corner"])), str(random.choice(ARTS))
        rows = family(random, kind)
        return overlay(random, kind, art, rows, int(random.choice([32, 64, 64, 96]))), rows, kind, art, "isometric", 2
    kind = str(random.choice(["edge", "full", "corner"]))
    rows = family(random, kind)
    return covered(random, kind, rows, int(random.choice([16, 16, 24, 32]))), rows, kind, "leaves", "square", 2


def inked_case(random: np.random.Generator) -> tuple[np.ndarray, list[tuple], str, str, str, int]:
    """The same, drawn in two inks."""
    kind = str(random.choice(["corner", "corner", "edge", "full"]))
    terrains = 2 if kind != "corner" else int(random.choice([2, 2, 2, 3]))
    rows = combinations(random, kind, terrains)
    tiles = draw(random, kind, "inked", rows, terrains, int(random.choice([8, 12, 16, 16, 24])))
    return tiles, rows, kind, "inked", "square", len({n for row in rows for n in row})


def main() -> None:
    numbers = [int(word) for word in sys.argv[1:] if word.isdigit()]
    count, first = (numbers + [60, 0][len(numbers) :])[:2]
    made = unkind_case if "--unkind" in sys.argv else inked_case if "--inked" in sys.argv else kind_case
    totals: dict[str, list[float]] = {}
    told_right: list[np.ndarray] = []
    sureness: list[np.ndarray] = []
    slowest = 0.0
    for seed in range(first, first + count):
        random = np.random.Generator(np.random.PCG64(seed))
        tiles, rows, kind, style, shape, terrains = made(random)
        told = bool(random.random() < 0.6)
        began = time.perf_counter()
        found = infer_labels(tiles, kind, shape=shape, terrains=terrains if told else None)
        slowest = max(slowest, time.perf_counter() - began)
        hits = same_up_to_names([tuple(row) for row in found.labels.tolist()], rows)
        right = float(hits.mean())
        told_right.append(hits)
        sureness.append(found.confidence)
        for name in ("all", kind, style, shape, "told" if told else "untold"):
            totals.setdefault(name, []).append(right)
        if "--show" in sys.argv and right < 0.95:
            print(f"seed {seed}: {kind} {style} {shape} {tiles.shape[2]} px, {terrains} terrains, {len(rows)} tiles, "
                  f"{'told' if told else 'untold'}: {right:.0%}, found {found.labels.max() + 1}, "
                  f"sure {(found.confidence >= 0.5).mean():.0%}")  # fmt: skip
    for name, shares in totals.items():
        counts = Counter(share >= 0.95 for share in shares)
        print(
            f"{name:10} {np.mean(shares):.1%} of tiles right on average; {counts[True]} of {len(shares)} sets at 95 %"
        )
    hits, sure = np.concatenate(told_right), np.concatenate(sureness)
    high, framed = sure > 0.9, sure < SURE
    print(f"confidence above 0.9: {high.mean():.0%} of {len(sure)} tiles, {hits[high].mean():.1%} of them right; "
          f"below {SURE}: {framed.mean():.0%}, "
          f"{(~hits & framed).sum() / max(1, (~hits).sum()):.0%} of the errors")  # fmt: skip
    print(f"slowest {slowest:.2f} s")


if __name__ == "__main__":
    main()
