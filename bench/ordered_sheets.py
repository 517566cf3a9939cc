"""How many sets are found of those that lie in order on a sheet: patches, coasts and rivers, in rows of sixteen.

.venv/bin/python bench/ordered_sheets.py [COUNT [FIRST]] [--show]

Each tile is drawn freely, so that no outline meets another to the pixel; all on one ground, or on clear.
"""

import sys
import time
from itertools import product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from infer_cases import same_up_to_names
from knitground.core.joins.find import find_sets
from knitground.core.joins.found import FoundSet
from knitground.core.joins.look import seen_colours
from knitground.core.joins.ordered import of_areas

LAYOUTS = (16, 1), (16, 1), (16, 1), (8, 2), (4, 4)
WAYS = "patch", "patch", "patch", "coast", "river"
Rows = list[tuple[int, ...]]
Cells = dict[tuple[int, int], tuple[int, ...]]


class Case(NamedTuple):
    """A sheet: its tiles, (R, C, h, w, 4), which cells hold any, (R, C), and its sets: kinds and cells."""

    tiles: NDArray[np.uint8]
    held: NDArray[np.bool_]
    sets: list[tuple[str, Cells]]


def ordered(random: np.random.Generator, *, square: bool) -> Rows:
    """All combinations of four sides in some order: each side goes by one digit of the place, or by row or column."""
    turned = random.integers(0, 2, 4)
    if square and random.random() < 0.5:
        ends = [(1, 0), (1, 1), (0, 1), (0, 0)]
        first = int(random.integers(4))
        ends = ends[first:] + ends[:first] if random.random() < 0.5 else ends
        return [(above, east, below, west) for (below, above), (east, west) in product(ends, ends)]
    digits = random.permutation(4)
    return [tuple(int(place >> digits[side] & 1) ^ int(turned[side]) for side in range(4)) for place in range(16)]


def drawn(random: np.random.Generator, way: str, rows: Rows, side: int, colours: NDArray[np.int_]) -> NDArray[np.uint8]:
    """The tiles of a set, each drawn by itself."""
    made = np.zeros((len(rows), side, side, 4), np.uint8)
    y, x = np.mgrid[:side, :side] + 0.5
    depth = np.stack([y, side - x, side - y, x])
    along = np.stack([x, y, x, y])
    rough, wide = float(random.uniform(0.5, 2.0)), side * float(random.uniform(0.14, 0.24))
    for tile, row in zip(made, rows, strict=True):
        inside = _shape(random, way, row, side, depth, along, rough, wide)
        grain = random.normal(0, 9, (side, side, 1)) + random.normal(0, 4, (side, side, 3))
        rim = inside & ~_shrunk(inside)
        tile[inside] = np.concatenate([np.clip(colours[0] + grain, 0, 255), np.full((side, side, 1), 255)], 2)[inside]
        tile[rim & (random.random((side, side)) < 0.8), :3] = colours[1]
    return made


def _shape(
    random: np.random.Generator, way: str, row: tuple[int, ...], side: int,
    depth: NDArray[np.float64], along: NDArray[np.float64], rough: float, wide: float,
) -> NDArray[np.bool_]:  # fmt: skip
    def line() -> NDArray[np.float64]:
        knots = random.normal(0, rough, 5)
        return np.interp(np.arange(side) + 0.5, np.linspace(0, side, 5), knots)

    lines = [line()[np.clip(one.astype(int), 0, side - 1)] for one in along]
    if way == "patch":
        inside = np.ones((side, side), bool)
        for place in range(4):
            if not row[place]:
                inside &= depth[place] > wide / 1.6 + lines[place]
        return inside
    inside = np.zeros((side, side), bool)
    for place in range(4):
        if row[place] and way == "coast":
            inside |= depth[place] < wide + lines[place]
        elif row[place]:
            inside |= (np.abs(along[place] - side / 2 + lines[place]) < wide / 1.3) & (
                depth[place] < side / 2 + wide / 2
            )
    return inside


def _shrunk(inside: NDArray[np.bool_]) -> NDArray[np.bool_]:
    around = np.pad(inside, 1, mode="edge")
    return around[:-2, 1:-1] & around[2:, 1:-1] & around[1:-1, :-2] & around[1:-1, 2:]


def make_case(seed: int) -> Case:
    """A sheet of two to seven sets that lie in order, and of things."""
    random = np.random.Generator(np.random.PCG64([seed, 61]))
    side = int(random.choice([16, 24, 30, 32]))
    clear = bool(random.random() < 0.35)
    columns, rows = int(random.integers(16, 21)), int(random.integers(8, 15))
    tiles, held = np.zeros((rows, columns, side, side, 4), np.uint8), np.zeros((rows, columns), bool)
    ground = random.integers(40, 200, 3)
    alike = bool(random.random() < 0.4)
    sets, slots, top = [], [], int(random.integers(0, 3))
    wide, high = LAYOUTS[random.integers(len(LAYOUTS))]
    for _ in range(int(random.integers(2, 8))):
        if top + high > rows:
            break
        for left in range(0, columns - wide + 1, wide):
            way = str(random.choice(WAYS)) if clear else "patch"
            colour = np.clip(ground + random.normal(0, 30, 3), 0, 255) if alike else random.integers(20, 235, 3)
            if np.abs(colour - ground).max() < 30:
                colour = (ground + 110) % 255
            order = ordered(random, square=wide == 4)
            art = drawn(random, way, order, side, np.stack([colour, colour * 0.7]).astype(int))
            cells = {}
            for place, (row, tile) in enumerate(zip(order, art, strict=True)):
                at = left + place % wide, top + place // wide
                tiles[at[1], at[0]] = tile
                slots.append(at)
                held[at[1], at[0]] = tile[..., 3].any() or not clear
                if held[at[1], at[0]]:
                    cells[at] = row
            sets.append(("cell" if way == "patch" else "edge", cells))
        top += high + int(random.integers(0, 2))
    free = ~held
    free[[at[1] for at in slots], [at[0] for at in slots]] = False
    _things(random, tiles, held, free, side)
    if not clear:
        _lay(random, tiles, held, side, ground)
    return Case(tiles, held, sets)


def _things(
    random: np.random.Generator, tiles: NDArray[np.uint8], held: NDArray[np.bool_], free: NDArray[np.bool_], side: int
) -> None:
    """Puts a thing into some of the cells that are free."""
    for row, column in np.argwhere(free).tolist():
        if random.random() < 0.4:
            high, wide = (int(size) for size in random.integers(side // 3, side, 2))
            top, left = int(random.integers(0, side - high)), int(random.integers(0, side - wide))
            colour, other = random.integers(20, 235, (2, 3))
            part = tiles[row, column, top : top + high, left : left + wide]
            part[..., :3], part[..., 3] = colour, 255
            part[high // 3 : high // 2, wide // 4 : -wide // 4 or None, :3] = other
            held[row, column] = True


def _lay(
    random: np.random.Generator, tiles: NDArray[np.uint8], held: NDArray[np.bool_], side: int, ground: NDArray[np.int_]
) -> None:
    """Lays all on one ground; some cells show nothing else."""
    held |= random.random(held.shape) < 0.15
    for row, column in np.argwhere(held).tolist():
        tile = tiles[row, column]
        bare = tile[..., 3] == 0
        tile[bare, :3] = np.clip(ground + random.normal(0, 8, (side, side, 1)) + np.zeros(3), 0, 255)[bare]
        tile[..., 3] = 255


def main() -> None:
    """Prints how many sets were found, and how many others."""
    numbers = [int(argument) for argument in sys.argv[1:] if argument.isdigit()]
    count, first = (numbers + [40, 0][len(numbers) :])[:2]
    all_sets = right = others = 0
    slowest = 0.0
    for seed in range(first, first + count):
        made = make_case(seed)
        began = time.perf_counter()
        found = find_sets(made.tiles, made.held)
        slowest = max(slowest, time.perf_counter() - began)
        told = {}
        for one in found:
            told[frozenset(map(tuple, one.cells.tolist()))] = one
        mine = 0
        mine += sum(any(found_as(made, one, told) for told in found) for one in made.sets)
        wrong = sum(not any(set(cells) & some for _, cells in made.sets) or len(some) > 20 for some in told)
        all_sets, right, others = all_sets + len(made.sets), right + mine, others + wrong
        if "--show" in sys.argv and (mine < len(made.sets) or wrong):
            what = [(one.kind, len(one.cells), one.confidence, one.cells.min(0).tolist()) for one in found]
            print(
                seed,
                "clear" if (made.tiles[made.held][..., 3] == 0).any() else "",
                made.tiles.shape[2],
                mine,
                len(made.sets),
                what,
            )
    print(f"{right} of {all_sets} sets in order found, {others} others; slowest {slowest:.1f} s")


def found_as(made: Case, drawn_set: tuple[str, Cells], found: FoundSet) -> bool:
    """Whether a set that was found has nearly all cells of one that was drawn, with its labels."""
    kind, cells = drawn_set
    tiles = made.tiles[found.cells[:, 1], found.cells[:, 0]]
    areas = found.kind == "edge" and of_areas(found.labels, seen_colours(tiles, "square")) is not None
    if kind != ("cell" if areas else found.kind):
        return False
    sides = found.labels[:, 4:8] if found.kind == "cell" else found.labels
    at = {tuple(cell): tuple(row) for cell, row in zip(found.cells.tolist(), sides.tolist(), strict=True)}
    both = [cell for cell in cells if cell in at]
    if len(both) < 0.9 * len(cells):
        return False
    return bool(same_up_to_names([at[cell] for cell in both], [cells[cell] for cell in both]).mean() >= 0.9)


if __name__ == "__main__":
    main()
