"""Made-up sheets of roads in few tiles on a ground with a grain, beside a shore on the same ground, and other tiles.

.venv/bin/python bench/road_sheets.py [COUNT [FIRST]] [--alone] [--diamonds] [--show]

A road lacks its ends or its crossings, so that it is no set of all sixteen; with `--alone` no shore lies beside it, but
a few plain tiles of its ground. With `--diamonds` all is seen from a corner.

Says how many roads are found with all their tiles and labels, and how many sets hold anything but a road or the shore.
"""

import sys
from itertools import product

import numpy as np

from infer_cases import apart, corner_field, isometric, line_field, wobble
from knitground.core.joins.find import find_sets
from knitground.core.sheet.cut import TileShape
from set_cases import fill
from shared_cases import free_block

Way = tuple[int, ...]
_STRAIGHT: list[Way] = [(0, 1, 0, 1), (1, 0, 1, 0)]
_BENDS: list[Way] = [(0, 1, 1, 0), (0, 0, 1, 1), (1, 1, 0, 0), (1, 0, 0, 1)]
_FORKS: list[Way] = [(0, 1, 1, 1), (1, 1, 1, 0), (1, 0, 1, 1), (1, 1, 0, 1)]
_ENDS: list[Way] = [(1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 0, 0, 1)]
KINDS = {
    "eleven": [*_STRAIGHT, *_BENDS, *_FORKS, (1, 1, 1, 1)],
    "ten": [*_STRAIGHT, *_BENDS, *_FORKS],
    "bends": [*_STRAIGHT, *_BENDS],
    "bends and ends": [*_STRAIGHT, *_BENDS, *_ENDS],
    "fifteen": [*_STRAIGHT, *_BENDS, *_FORKS, (1, 1, 1, 1), *_ENDS],
}
"""Which ways the tiles of each kind of road lead."""
_ON_A_SHEET = (1, 2)


def road_sheet(seed: int, *, alone: bool) -> tuple[np.ndarray, set[tuple[int, int]], dict[str, dict]]:
    """The tiles of a sheet, the cells of a shore, and of each kind of road which way the tile in each cell leads."""
    random = np.random.Generator(np.random.PCG64([seed, 61]))
    side = int(random.choice([16, 16, 24, 32]))
    tiles = np.zeros((int(random.integers(9, 14)), int(random.integers(10, 17)), side, side, 4), np.uint8)
    taken = np.zeros(tiles.shape[:2], bool)
    grounds = apart(random, side, 40, 4)
    noise = float(random.choice([0, 0, 2, 5]))
    shore = set[tuple[int, int]]()

    def put(cell: tuple[int, int], claims: np.ndarray, others: int, number: int, rim: float) -> None:
        y, x = cell
        winner = claims.argmax(axis=0)
        pixels = np.where(winner[..., None] == 0, grounds[0, number], grounds[others, number])
        inside = np.pad(winner, 1, mode="edge")
        edge = (winner > 0) & ((inside[2:, 1:-1] == 0) | (inside[:-2, 1:-1] == 0) | (inside[1:-1, 2:] == 0)
                               | (inside[1:-1, :-2] == 0))  # fmt: skip
        pixels = np.where(edge[..., None], pixels * rim, pixels) + random.normal(0, noise, (side, side, 3))
        tiles[y, x, ..., :3], tiles[y, x, ..., 3] = np.clip(pixels, 0, 255), 255
        taken[y, x] = True

    field, rim = wobble(random, side) * 0.1, float(random.choice([1, 0.5, 0.7]))
    if alone:
        for n, (y, x) in enumerate(random.permutation(np.argwhere(~taken))[: random.integers(1, 5)].tolist()):
            put((y, x), corner_field((0, 0, 0, 0), side, 2, field, np.ones(2)), 1, 16 + n, 1)
    else:
        y, x = free_block(random, taken, 4, 4, []) or (0, 0)
        for n, row in enumerate(product((0, 1), repeat=4)):
            put((y + n // 4, x + n % 4), corner_field(row, side, 2, field, np.ones(2)), 1, n, rim)
            shore.add((x + n % 4, y + n // 4))
    roads = {}
    for other, kind in enumerate(random.permutation(list(KINDS))[: random.choice(_ON_A_SHEET)].tolist(), 2):
        ways = KINDS[kind]
        ways = [ways[n] for n in random.permutation(len(ways))] if random.random() < 0.6 else ways
        wide = int(random.choice([one for one in (3, 4, 5, 6, 11) if one <= len(ways)]))
        at = free_block(random, taken, wide, -(-len(ways) // wide), [])
        if at is None:
            continue
        width, rough = float(random.uniform(0.1, 0.3)), float(random.choice([0, 0.04, 0.1]))
        rim, lines = float(random.choice([1, 0.5, 0.7])), wobble(random, side)
        roads[kind] = {}
        for n, way in enumerate(ways):
            claims = line_field(way, side, 2, width, (0.0, 0.0))
            claims[1] += lines * rough * (claims[1] > 0)
            put((at[0] + n // wide, at[1] + n % wide), claims, other, 20 + n, rim)
            roads[kind][at[1] + n % wide, at[0] + n // wide] = tuple(map(bool, way))
    fill(random, tiles, taken, side)
    return tiles, shore, roads


def is_told(road: dict, told: dict) -> bool:
    """Whether a set has the tiles of a road, with its labels, whatever these are called, and hardly any others."""
    pairs = {(one, told[cell][n]) for cell, way in road.items() if cell in told for n, one in enumerate(way)}
    return road.keys() <= told.keys() and len(pairs) == 2 and len(told) < len(road) + 8


def told_in(tiles: np.ndarray, *, diamonds: bool = False) -> list[dict]:
    """Of each set that is found which sides of the tile in each of its cells are of another terrain than the first."""
    if diamonds:
        high, wide, side = tiles.shape[:3]
        tiles = isometric(tiles.reshape(-1, side, side, 4)).reshape(high, wide, side, 2 * side, 4)
    shape: TileShape = "isometric" if diamonds else "square"
    return [
        dict(zip(map(tuple, one.cells.tolist()), map(tuple, (one.labels > 0).tolist()), strict=True))
        for one in find_sets(tiles, tiles[..., 3].any(axis=(2, 3)), shape=shape)
    ]


def main() -> None:
    """Prints how many are found."""
    numbers = [int(one) for one in sys.argv[1:] if one.isdigit()]
    count, first = (numbers + [60, 0][len(numbers) :])[:2]
    found = {kind: [0, 0] for kind in KINDS}
    wrong = sets = shores = 0
    for seed in range(first, first + count):
        tiles, shore, roads = road_sheet(seed, alone="--alone" in sys.argv)
        told = told_in(tiles, diamonds="--diamonds" in sys.argv)
        shores += any(len(shore & one.keys()) == 16 for one in told)
        for kind, cells in roads.items():
            right = any(is_told(cells, one) for one in told)
            found[kind][0] += right
            found[kind][1] += 1
            if "--show" in sys.argv and not right:
                print(seed, tiles.shape[2], kind, [(len(one), len(one.keys() & cells.keys())) for one in told])
        for one in told:
            sets += 1
            known = [shore, *(set(cells) for cells in roads.values())]
            is_wrong = not any(len(one.keys() & cells) >= 0.6 * len(one) for cells in known)
            wrong += is_wrong
            if "--show" in sys.argv and is_wrong:
                print(seed, tiles.shape[2], "other", [(len(one.keys() & cells), len(cells)) for cells in known], one)
    each = ", ".join(f"{kind} {right} of {every}" for kind, (right, every) in found.items())
    print(f"{sum(r for r, _ in found.values())} of {sum(e for _, e in found.values())} roads found ({each}); "
          f"{shores} shores; {wrong} of {sets} sets hold something else")  # fmt: skip


if __name__ == "__main__":
    main()
