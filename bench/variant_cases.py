"""How many variants of tiles are found with their set on made-up sheets, and what else is taken for one.

.venv/bin/python bench/variant_cases.py [COUNT [FIRST]] [--show]

A variant shows the same meeting as a tile of the set, with things strewn on it, another tint, another grain or another
line between its borders. It lies in a second block below or beside the set or far from it, in some line of cells, or
right after its tile. Sets of other colours that share a terrain, and single things, lie about too.
"""

import sys
import time
from itertools import product

import numpy as np
from scipy import ndimage

from infer_cases import STYLES, draw, same_up_to_names
from knitground.core.joins.coverage import is_formed
from knitground.core.joins.find import find_sets
from set_cases import LAYOUTS, fill

Cells = dict[tuple[int, int], tuple]
Case = tuple[np.ndarray, np.ndarray, list[tuple[str, Cells, Cells]]]
WAYS = ("strewn", "strewn", "tinted", "grain", "bent")
PLACES = ("below", "beside", "apart", "some", "some", "after")


def make_variant_case(seed: int) -> Case:
    """The tiles of a sheet, which cells are held, and the sets on it: kind, cells, and cells of variants."""
    random = np.random.Generator(np.random.PCG64([seed, 29]))
    side = int(random.choice([16, 16, 20, 24, 32]))
    columns, rows = int(random.integers(17, 25)), int(random.integers(14, 24))
    tiles = np.zeros((rows, columns, side, side, 4), np.uint8)
    taken, sets = np.zeros((rows, columns), bool), []
    for _ in range(int(random.integers(1, 4))):
        kind = str(random.choice(["corner", "corner", "edge", "full"]))
        wide, high = LAYOUTS[kind][random.integers(len(LAYOUTS[kind]))]
        labels = [row for row in product((0, 1), repeat=8 if kind == "full" else 4) if kind != "full" or is_formed(row)]
        if random.random() < 0.6:
            random.shuffle(labels)
        labels = labels[: wide * high]
        placed = _placed(random, str(random.choice(PLACES)), taken, (wide, high), labels)
        if placed is None:
            continue
        mine, others = placed
        both = [*mine, *others]
        drawn = draw(random, kind, str(random.choice(STYLES)), [row for _, row in both], 2, side)
        way = str(random.choice(WAYS))
        for number, ((y, x), _) in enumerate(both):
            tiles[y, x] = drawn[number] if number < len(mine) else varied(random, drawn[number], way)
            taken[y, x] = True
        sets.append((kind, {(x, y): row for (y, x), row in mine}, {(x, y): row for (y, x), row in others}))
        if random.random() < 0.3:
            _recoloured(random, tiles, taken, drawn[: len(mine)], [row for _, row in mine], (wide, high), sets, kind)
    fill(random, tiles, taken, side)
    held = tiles[..., 3].any(axis=(2, 3))
    # What shows nothing at all is no tile.
    there = [
        (kind, *({at: row for at, row in part.items() if held[at[::-1]]} for part in parts)) for kind, *parts in sets
    ]
    return tiles, held, there


def _placed(
    random: np.random.Generator, place: str, taken: np.ndarray, size: tuple[int, int], labels: list[tuple]
) -> tuple[list, list] | None:
    """Where a set and its variants lie, as pairs of a cell (y, x) and its labels; None where there is no room."""
    wide, high = size
    if place == "after":
        at = _free(random, taken, 2 * wide, high) if random.random() < 0.5 else None
        step = (0, 1)
        if at is None:
            at, step = _free(random, taken, wide, 2 * high), (1, 0)
        if at is None:
            return None
        cells = [(at[0] + y * (1 + step[0]), at[1] + x * (1 + step[1])) for y in range(high) for x in range(wide)]
        mine = list(zip(cells, labels, strict=False))
        return mine, [((y + step[0], x + step[1]), row) for (y, x), row in mine]
    if place in ("below", "beside"):
        at = _free(random, taken, wide * (2 if place == "beside" else 1), high * (2 if place == "below" else 1))
        if at is None:
            return None
        off = (high, 0) if place == "below" else (0, wide)
        mine = [((at[0] + y, at[1] + x), row) for (y, x), row in zip(np.ndindex(high, wide), labels, strict=False)]
        return mine, [((y + off[0], x + off[1]), row) for (y, x), row in mine]
    at = _free(random, taken, wide, high)
    if at is None:
        return None
    mine = [((at[0] + y, at[1] + x), row) for (y, x), row in zip(np.ndindex(high, wide), labels, strict=False)]
    held = taken.copy()
    for cell, _ in mine:
        held[cell] = True
    if place == "apart":
        there = _free(random, held, wide, high)
        return (mine, [((there[0] + y - at[0], there[1] + x - at[1]), row) for (y, x), row in mine]) if there else None
    solid = [row for row in labels if len(set(row)) == 1]
    some = [solid[random.integers(len(solid))] for _ in range(int(random.integers(0, 6)))] if solid else []
    some += [labels[random.integers(len(labels))] for _ in range(int(random.integers(1, 7)))]
    there = _free(random, held, len(some), 1)
    return (mine, [((there[0], there[1] + n), row) for n, row in enumerate(some)]) if there else None


def _free(random: np.random.Generator, taken: np.ndarray, wide: int, high: int) -> tuple[int, int] | None:
    """The first cell of some block that is free."""
    if wide > taken.shape[1] or high > taken.shape[0]:
        return None
    blocks = np.lib.stride_tricks.sliding_window_view(taken, (high, wide)).any(axis=(2, 3))
    spots = np.argwhere(~blocks)
    return tuple(int(n) for n in spots[random.integers(len(spots))]) if len(spots) else None


def varied(random: np.random.Generator, tile: np.ndarray, way: str) -> np.ndarray:
    """Another tile that shows the same."""
    side, made = len(tile), tile.copy()
    if way == "strewn":
        for _ in range(int(random.integers(1, 5))):
            size = int(random.integers(1, max(2, side // 6) + 1))
            y, x = random.integers(1, side - size, 2)
            spot = made[y : y + size, x : x + size]
            spot[spot[..., 3] > 0] = [*random.integers(0, 256, 3), 255]
    elif way == "tinted":
        made[..., :3] = np.clip(made[..., :3] * random.uniform(0.88, 1.12, 3), 0, 255)
    elif way == "grain":
        made[..., :3] = np.clip(made[..., :3] + random.normal(0, random.uniform(4, 14), (side, side, 3)), 0, 255)
    elif way == "bent":
        # The line bends inside the tile; its borders stay, as they have to meet others.
        at = np.arange(side) / (side - 1)
        still = np.outer(np.sin(np.pi * at), np.sin(np.pi * at))
        push = [ndimage.gaussian_filter(random.normal(0, 1, (side, side)), side / 8) for _ in range(2)]
        y, x = (
            grid + still * one / np.abs(one).max() * side * 0.12
            for grid, one in zip(np.indices((side, side)), push, strict=True)
        )
        made = made[np.clip(np.rint(y), 0, side - 1).astype(int), np.clip(np.rint(x), 0, side - 1).astype(int)]
    return made


def _recoloured(random, tiles, taken, drawn, labels, size, sets, kind) -> None:
    """The same set with one terrain in another colour: a set of its own, though half of it looks the same."""
    at = _free(random, taken, *size)
    if at is None:
        return
    solid = [next((tile for tile, row in zip(drawn, labels, strict=True) if set(row) == {n}), None) for n in (0, 1)]
    if any(one is None or not one[..., 3].all() for one in solid):
        return
    means = [one[..., :3].mean(axis=(0, 1)) for one in solid]
    other = means[0] * random.uniform(0.3, 1.9, 3)
    if np.abs(np.clip(other, 0, 255) - means[0]).max() < 50:
        return
    cells = {}
    for (y, x), row, tile in zip(np.ndindex(size[1], size[0]), labels, drawn, strict=False):
        made = tile.copy()
        near = np.linalg.norm(made[..., :3] - means[0], axis=-1) < np.linalg.norm(made[..., :3] - means[1], axis=-1)
        made[near, :3] = np.clip(made[near, :3] + (other - means[0]), 0, 255)
        tiles[at[0] + y, at[1] + x], taken[at[0] + y, at[1] + x] = made, True
        cells[at[1] + x, at[0] + y] = row
    sets.append((kind, cells, {}))


def main() -> None:
    numbers = [int(word) for word in sys.argv[1:] if word.isdigit()]
    count, first = (numbers + [40, 0][len(numbers) :])[:2]
    found_sets = all_sets = met = variants = foreign = cells_found = whole = with_variants = 0
    slowest = 0.0
    for seed in range(first, first + count):
        tiles, held, sets = make_variant_case(seed)
        began = time.perf_counter()
        found = find_sets(tiles, held)
        slowest = max(slowest, time.perf_counter() - began)
        by_cells = [
            {(int(c), int(r)): tuple(row) for (c, r), row in zip(one.cells, one.labels.tolist(), strict=True)}
            for one in found
        ]
        for mine in by_cells:
            owner = max(sets, key=lambda one: sum(cell in mine for cell in (*one[1], *one[2])), default=None)
            cells_found += len(mine)
            if "--show" in sys.argv and owner and (n := sum(cell not in {**owner[1], **owner[2]} for cell in mine)):
                print(f"seed {seed}: {n} of {len(mine)} are of another")
            foreign += sum(owner is None or cell not in {**owner[1], **owner[2]} for cell in mine)
        for kind, cells, others in sets:
            best, right_variants = 0.0, 0
            for one, mine in zip(found, by_cells, strict=True):
                every = {**cells, **others}
                both = [cell for cell in every if cell in mine]
                if one.kind == kind and both:
                    right = same_up_to_names([mine[cell] for cell in both], [every[cell] for cell in both])
                    share = sum(
                        # A variant tells as much as its tile: whichever was found.
                        max((ok for cell, ok in zip(both, right, strict=True) if every[cell] == row), default=False)
                        for row in set(cells.values())
                    ) / len(set(cells.values()))
                    if share > best:
                        best = share
                        right_variants = int(right.sum())
            all_sets += 1
            found_sets += best >= 0.9
            extra = max(0, right_variants - len(cells)) if best >= 0.9 else 0
            met += min(extra, len(others))
            variants += len(others)
            with_variants += bool(others)
            whole += bool(others) and extra >= 0.9 * len(others)
            if "--show" in sys.argv and (best < 0.9 or extra < 0.9 * len(others)):
                print(f"seed {seed}: {kind} of {len(cells)} from {min(cells)}: {best:.0%}, {extra} of {len(others)}")
    print(
        f"{found_sets} of {all_sets} sets found with 90 % of their combinations right; {met} of {variants} variants, "
        f"nearly all in {whole} of {with_variants} sets; {foreign} of {cells_found} cells taken are of another; "
        f"slowest {slowest:.2f} s"
    )


if __name__ == "__main__":
    main()
