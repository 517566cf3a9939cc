"""How many sets are found that aren't one block or lack their plain ground, and with which plain tiles.

.venv/bin/python bench/lacking_cases.py [COUNT [FIRST]] [--show]

Half of the sheets hold an edge set without the tile that no line crosses, half an island of 3 x 3 corner tiles whose
four inner corners lie elsewhere, in a block or a line. Up to three plain tiles of their ground lie about, with tiles of
other grounds, some of them in a shade that is near.
"""

import sys
from collections import Counter
from itertools import product

import numpy as np

from infer_cases import STYLES, draw
from knitground.core.joins.find import find_sets
from set_cases import LAYOUTS, fill
from shared_cases import free_block

Cell = tuple[int, int]
ISLAND = [
    (0, 0, 1, 0), (0, 0, 1, 1), (0, 0, 0, 1), (0, 1, 1, 0), (1, 1, 1, 1), (1, 0, 0, 1), (0, 1, 0, 0), (1, 1, 0, 0),
    (1, 0, 0, 0),
]  # fmt: skip
INNER = [(1, 1, 0, 1), (1, 1, 1, 0), (1, 0, 1, 1), (0, 1, 1, 1)]


def make_lacking_case(seed: int) -> tuple[np.ndarray, np.ndarray, str, dict[Cell, tuple], set[Cell]]:
    """The tiles of a sheet, which cells are held, the kind of its set, what that shows, and where its ground lies."""
    random = np.random.Generator(np.random.PCG64([seed, 43]))
    side = int(random.choice([16, 16, 20, 24, 32]))
    tiles = np.zeros((int(random.integers(9, 16)), int(random.integers(12, 18)), side, side, 4), np.uint8)
    taken = np.zeros(tiles.shape[:2], bool)
    kind = str(random.choice(["edge", "corner"]))
    every = [tuple(int(n) for n in row) for row in product((0, 1), repeat=4) if any(row)]
    rows = ISLAND + INNER if kind == "corner" else [every[n] for n in random.permutation(15)]
    plain = int(random.integers(0, 4))
    while True:
        drawn = draw(random, kind, str(random.choice(STYLES)), [*rows, *[(0, 0, 0, 0)] * max(1, plain)], 2, side)
        if drawn[..., 3].min() == 255:
            break
    blocks = [(3, 3), [(2, 2), (4, 1), (1, 4)][random.integers(3)]]
    if kind == "edge":
        blocks = [LAYOUTS["edge"][random.integers(3)]]
    cells: list[Cell] = []
    for wide, high in blocks:
        y, x = free_block(random, taken, wide, high, []) or (0, 0)
        mine = [(y + n // wide, x + n % wide) for n in range(wide * high)]
        cells += mine
        taken[tuple(np.transpose(mine))] = True
    for (y, x), tile in zip(cells, drawn[: len(rows)], strict=False):
        tiles[y, x] = tile
    spots = [(int(y), int(x)) for y, x in random.permutation(np.argwhere(~taken))]
    grounds = spots[:plain]
    for (y, x), tile in zip(grounds, drawn[len(rows) :], strict=False):
        tiles[y, x], taken[y, x] = tile, True
    for y, x in spots[plain : plain + int(random.integers(2, 9))]:
        other = draw(random, "corner", str(random.choice(STYLES)), [(0, 0, 0, 0)], 2, side)[0]
        if random.random() < 0.5:
            other = drawn[len(rows)].astype(float)
            other[..., :3] += random.normal(0, 14, 3)
        tiles[y, x], taken[y, x] = np.clip(other, 0, 255).astype(np.uint8), True
    fill(random, tiles, taken, side)
    shows = {(x, y): row for (y, x), row in zip(cells, rows, strict=False)}
    return tiles, tiles[..., 3].any(axis=(2, 3)), kind, shows, {(x, y) for y, x in grounds}


def main() -> None:
    """Counts sheets, and says how they went."""
    numbers = [int(one) for one in sys.argv[1:] if one.isdigit()]
    count, first = (numbers + [40, 0][len(numbers) :])[:2]
    went: Counter[str] = Counter()
    for seed in range(first, first + count):
        tiles, held, kind, shows, grounds = make_lacking_case(seed)
        found = [{(int(x), int(y)) for x, y in one.cells} for one in find_sets(tiles, held) if one.kind == kind]
        mine = next((cells for cells in found if len(cells & shows.keys()) >= 0.8 * len(shows)), None)
        more = set() if mine is None else mine - shows.keys()
        how = "not found" if mine is None else "right" if more == grounds else "with other plain tiles"
        went[how] += 1
        if "--show" in sys.argv and how != "right":
            print(seed, kind, how, "lacks", sorted(grounds - more), "has", sorted(more - grounds))
    print(", ".join(f"{many} {how}" for how, many in went.most_common()))


if __name__ == "__main__":
    main()
