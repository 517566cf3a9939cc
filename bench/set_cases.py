"""How many of the sets that lie about on made-up sheets are found, with how many of their cells, and what else is.

.venv/bin/python bench/set_cases.py [COUNT [FIRST]] [--isometric | --lines] [--single] [--show]

With `--lines` the sheets are narrow and filled line by line, so that hardly a set is a block. With `--single` all tiles
are images of a folder: they lie in a row, each set together.
"""

import sys
import time
from itertools import product

import numpy as np

from infer_cases import STYLES, draw, isometric, same_up_to_names
from knitground.core.joins.coverage import is_formed
from knitground.core.joins.find import find_sets
from unkind_families import ARTS, family, overlay
from unkind_sheets import _patch, _thing

Case = tuple[np.ndarray, np.ndarray, list[tuple[str, dict[tuple[int, int], tuple]]]]
LAYOUTS = {
    "corner": ((4, 4), (4, 4), (8, 2), (16, 1), (5, 3)),
    "edge": ((4, 4), (4, 4), (8, 2), (16, 1), (2, 8)),
    "full": ((8, 6), (8, 6), (12, 4), (7, 7), (11, 5)),
}

NAMELESS = 3
"""How few tiles among single images are no set where these are not called alike."""


def make_case(seed: int, *, lines: bool = False) -> Case:
    """The tiles of a sheet, which cells are held, and the sets on it by their kind and cells."""
    random = np.random.Generator(np.random.PCG64([seed, 29 if lines else 9]))
    side = int(random.choice([16, 16, 16, 24, 32]))
    columns, rows = int(random.integers(*((5, 14) if lines else (16, 25)))), int(random.integers(12, 22))
    tiles = np.zeros((rows, columns, side, side, 4), np.uint8)
    taken, sets = np.zeros((rows, columns), bool), []
    for _ in range(int(random.integers(1, 5))):
        kind = str(random.choice(["corner", "corner", "edge", "full"]))
        wide, high = LAYOUTS[kind][random.integers(len(LAYOUTS[kind]))]
        if not lines and (wide > columns or high > rows):
            continue
        # Some sheets are filled line by line, and a set goes on in the next line.
        broken = lines or bool(random.random() < 0.2)
        spots = [
            places for r, c in product(range(rows), range(columns))
            if (places := _cells_from(r, c, wide, high, columns, rows, broken)) and not any(taken[at] for at in places)
        ]  # fmt: skip
        if not spots:
            continue
        places = spots[random.integers(len(spots))]
        labels = [row for row in product((0, 1), repeat=8 if kind == "full" else 4) if kind != "full" or is_formed(row)]
        if random.random() < 0.6:
            random.shuffle(labels)
        labels = labels[: wide * high - (random.random() < 0.2)]
        drawn = draw(random, kind, str(random.choice(STYLES)), labels, 2, side)
        cells = {}
        for (y, x), row, tile in zip(places, labels, drawn, strict=False):
            tiles[y, x] = tile
            cells[x, y] = row
            taken[y, x] = True
        sets.append((kind, cells))
    fill(random, tiles, taken, side)
    held = tiles[..., 3].any(axis=(2, 3))
    return tiles, held, sets


def make_isometric_case(seed: int) -> Case:
    """The same of diamonds: families that stand on clear ground, flat ones, and single things among them."""
    random = np.random.Generator(np.random.PCG64([seed, 19]))
    width = int(random.choice([32, 64, 64]))
    columns, rows, high = int(random.integers(8, 18)), int(random.integers(8, 18)), width
    tiles = np.zeros((rows, columns, high, width, 4), np.uint8)
    taken, sets = np.zeros((rows, columns), bool), []
    for _ in range(int(random.integers(1, 5))):
        kind, flat = str(random.choice(["edge", "edge", "corner"])), random.random() < 0.3
        wide, down = LAYOUTS[kind][random.integers(len(LAYOUTS[kind]))]
        spots = [
            places for r, c in product(range(rows), range(columns))
            if (places := _cells_from(r, c, wide, down, columns, rows, False)) and not any(taken[at] for at in places)
        ]  # fmt: skip
        if not spots:
            continue
        places = spots[random.integers(len(spots))]
        labels = family(random, kind)[: len(places)]
        if flat:
            drawn = isometric(draw(random, kind, str(random.choice(STYLES)), labels, 2, width // 2))
        else:
            drawn = overlay(random, kind, str(random.choice(ARTS)), labels, width)
        cells = {}
        for (y, x), row, tile in zip(places, labels, drawn, strict=False):
            tiles[y, x, high - len(tile) :] = tile
            cells[x, y] = row
            taken[y, x] = True
        sets.append((kind, cells))
    for row, column in np.argwhere(~taken):
        if random.random() < 0.25:
            one = overlay(random, "edge", str(random.choice(ARTS)), [tuple(random.integers(0, 2, 4).tolist())], width)[
                0
            ]
            tiles[row, column, high - len(one) :] = one
        elif random.random() < 0.4:
            tiles[row, column, high // 4 :] = _thing(random, width, high - high // 4, 0.9)
    return tiles, tiles[..., 3].any(axis=(2, 3)), sets


def in_a_row(case: Case) -> Case:
    """The tiles of a sheet in a row: set for set, then all others; a tile of two sets lies where the first is."""
    tiles, held, sets = case
    cells = [*(cell for _, every in sets for cell in every), *((x, y) for y, x in np.argwhere(held).tolist())]
    place = {cell: (n, 0) for n, cell in enumerate(cell for cell in dict.fromkeys(cells) if held[cell[1], cell[0]])}
    row = np.stack([tiles[y, x] for x, y in place])[None]
    laid = [(kind, {place[cell]: labels for cell, labels in every.items() if cell in place}) for kind, every in sets]
    return row, np.ones(row.shape[:2], bool), laid


def _cells_from(row: int, column: int, wide: int, high: int, columns: int, rows: int, broken: bool) -> list:
    """The cells of a block, or of as many in reading order, if they are all on the sheet."""
    if broken:
        first = row * columns + column
        return (
            [divmod(n, columns) for n in range(first, first + wide * high)]
            if first + wide * high <= rows * columns
            else []
        )
    if row + high > rows or column + wide > columns:
        return []
    return [(y, x) for y in range(row, row + high) for x in range(column, column + wide)]


def fill(random: np.random.Generator, tiles: np.ndarray, taken: np.ndarray, side: int) -> None:
    """What else there is: things, and blocks that go on over their tiles."""
    rows, columns = taken.shape
    for row, column in product(range(rows), range(columns)):
        if taken[row, column] or random.random() < 0.5:
            continue
        wide, high = int(random.integers(1, 4)), int(random.integers(1, 4))
        part = taken[row : row + high, column : column + wide]
        if random.random() < 0.3 and not part.any() and part.shape == (high, wide):
            for y, line in enumerate(_patch(random, wide, high, side, side)):
                for x, tile in enumerate(line):
                    tiles[row + y, column + x] = tile
            taken[row : row + high, column : column + wide] = True
        elif random.random() < 0.6:
            tiles[row, column] = _thing(random, side, side, 0.9)


def main() -> None:
    numbers = [int(word) for word in sys.argv[1:] if word.isdigit()]
    count, first = (numbers + [40, 0][len(numbers) :])[:2]
    diamonds = "--isometric" in sys.argv
    found_sets = whole_sets = all_sets = proposals = wrong = blocks = 0
    slowest = 0.0
    for seed in range(first, first + count):
        case = make_isometric_case(seed) if diamonds else make_case(seed, lines="--lines" in sys.argv)
        tiles, held, sets = in_a_row(case) if "--single" in sys.argv else case
        began = time.perf_counter()
        found = find_sets(tiles, held, shape="isometric" if diamonds else "square")
        slowest = max(slowest, time.perf_counter() - began)
        by_cells = [
            {(int(c), int(r)): tuple(row) for (c, r), row in zip(one.cells, one.labels.tolist(), strict=True)}
            for one in found
        ]
        for kind, every in sets:
            # A tile that shows nothing is none.
            cells = {(x, y): labels for (x, y), labels in every.items() if held[y, x]}
            best = 0.0
            for one, mine in zip(found, by_cells, strict=True):
                both = [cell for cell in cells if cell in mine]
                if one.kind == kind and both:
                    right = same_up_to_names([mine[cell] for cell in both], [cells[cell] for cell in both]).sum()
                    best = max(best, right / len(cells))
            all_sets += 1
            found_sets += best >= 0.9
            whole_sets += best == 1.0
            if "--show" in sys.argv and best < 0.9:
                print(f"seed {seed}: {kind} of {len(cells)} from {min(cells)}: {best:.0%}")
        for one, mine in zip(found, by_cells, strict=True):
            if one.kind == "cell":
                blocks += 1
                continue
            if "--single" in sys.argv and len(mine) <= NAMELESS:
                continue  # As their names don't speak for them.
            proposals += 1
            if not any(sum(cell in mine for cell in cells) > len(mine) / 2 for _, cells in sets):
                wrong += 1
                if "--show" in sys.argv:
                    print(f"seed {seed}: no set: {one.kind} {one.confidence} from {min(mine)} of {len(mine)}")
    print(
        f"{found_sets} of {all_sets} sets found with 90 % of their cells right, {whole_sets} with all; {wrong} of "
        f"{proposals} proposals are no set; {blocks} rimmed patches besides; slowest {slowest:.2f} s"
    )


if __name__ == "__main__":
    main()
