"""How many sets that share a terrain are joined to one, on made-up sheets, and how many others are.

.venv/bin/python bench/shared_cases.py [COUNT [FIRST]] [--show]

Families of sets lie on one ground, drawn in the same way, most of them in blocks of one order beside one another; in a
chain each shares a terrain with the next alone. Sets of another family share nothing, and single things lie about.
"""

import sys
from collections.abc import Iterator
from itertools import product

import numpy as np

from infer_cases import STYLES, draw
from knitground.core.edits.finding import propose
from knitground.core.edits.joining import join_alike
from knitground.core.joins.find import find_sets
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from set_cases import LAYOUTS, fill

CUT = TileRef("sheet", "tiles", 0, 0)
Cells = dict[tuple[int, int], tuple[int, ...]]


def make_shared_case(seed: int) -> tuple[np.ndarray, np.ndarray, list[list[Cells]]]:
    """The tiles of a sheet, which cells are held, and its families: of each the cells of its sets with their labels."""
    random = np.random.Generator(np.random.PCG64([seed, 41]))
    side = int(random.choice([16, 16, 20, 24, 32]))
    tiles = np.zeros((int(random.integers(14, 22)), int(random.integers(16, 26)), side, side, 4), np.uint8)
    taken = np.zeros(tiles.shape[:2], bool)
    families: list[list[Cells]] = []
    for many in (int(random.integers(2, 5)), *[1] * int(random.integers(0, 3))):
        kind = str(random.choice(["corner", "corner", "edge"]))
        chain = many > 2 and kind == "corner" and random.random() < 0.3
        pairs = [(other - 1 if chain else 0, other) for other in range(1, many + 1)]
        order, alike = random.permutation(16), random.random() < 0.6
        rows = [
            [row[n] for n in (order if alike else random.permutation(16))]
            for row in ([tuple(int(n) for n in one) for one in product(pair, repeat=4)] for pair in pairs)
        ]
        while True:
            drawn = draw(
                random, kind, str(random.choice(STYLES)), [row for some in rows for row in some], many + 1, side
            )
            if drawn[..., 3].min() == 255:
                break
        family: list[Cells] = []
        block = LAYOUTS[kind][random.integers(len(LAYOUTS[kind]))]
        last = None
        for number, some in enumerate(rows):
            wide, high = block if alike else LAYOUTS[kind][random.integers(len(LAYOUTS[kind]))]
            beside = [(last[0], last[1] + wide), (last[0] + high, last[1])] if alike and last else []
            spot = free_block(random, taken, wide, high, beside)
            if spot is None:
                continue
            last = spot
            cells = [(spot[0] + n // wide, spot[1] + n % wide) for n in range(min(len(some), wide * high))]
            for (y, x), tile in zip(cells, drawn[16 * number :], strict=False):
                tiles[y, x], taken[y, x] = tile, True
            family.append({(x, y): row for (y, x), row in zip(cells, some, strict=False)})
        families.append(family)
    fill(random, tiles, taken, side)
    return tiles, tiles[..., 3].any(axis=(2, 3)), families


def free_block(
    random: np.random.Generator, taken: np.ndarray, wide: int, high: int, rather: list[tuple[int, int]]
) -> tuple[int, int] | None:
    """The upper left cell of a free block: the first of some that is, else by chance."""
    spots = [
        (y, x)
        for y in range(taken.shape[0] - high + 1)
        for x in range(taken.shape[1] - wide + 1)
        if not taken[y : y + high, x : x + wide].any()
    ]
    for one in rather:
        if one in spots:
            return one
    return spots[random.integers(len(spots))] if spots else None


def joined_sets(
    tiles: np.ndarray, held: np.ndarray
) -> Iterator[tuple[set[tuple[int, int]], list[set[tuple[int, int]]]]]:
    """The cells of each proposed set, and those of the sets that it was joined of."""
    refs = {CUT._replace(column=x, row=y): tiles[y, x] for y, x in np.argwhere(held).tolist()}
    cuts = {("sheet", "tiles"): Cut("tiles", tiles.shape[3], tiles.shape[2])}
    for one in join_alike(propose(find_sets(tiles, held), refs, CUT), refs, cuts):
        parts = [{(ref.column, ref.row) for ref in part.join_set.labels} for part in one.parts or (one,)]
        yield set().union(*parts), parts


def main() -> None:
    """Counts sheets, and says how they went."""
    numbers = [int(one) for one in sys.argv[1:] if one.isdigit()]
    count, first = (numbers + [40, 0][len(numbers) :])[:2]
    right = wrong = families = found_all = 0
    for seed in range(first, first + count):
        tiles, held, there = make_shared_case(seed)
        found = list(joined_sets(tiles, held))
        for family in there:
            if len(family) < 2:
                continue
            families += 1
            parts = [part for _, some in found for part in some]
            known = [cells for cells in family if any(len(cells.keys() & part) >= 0.8 * len(cells) for part in parts)]
            found_all += len(known) == len(family)
            whole = any(all(len(cells.keys() & every) >= 0.8 * len(cells) for cells in family) for every, _ in found)
            right += whole
            if "--show" in sys.argv and not whole:
                print(seed, len(family), "sets,", len(known), "found, not joined")
        for every, parts in found:
            of = {
                n for n, family in enumerate(there) for cells in family if len(cells.keys() & every) > 0.5 * len(cells)
            }
            wrong += len(parts) > 1 and len(of) != 1
    print(
        f"{right} of {families} families are one set ({found_all} have all their sets found); "
        f"{wrong} sets are joined of what shares nothing"
    )


if __name__ == "__main__":
    main()
