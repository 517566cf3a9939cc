"""Made-up roads whose ends, forks or crossings are hidden, made again of the straight tiles and held against the drawn.

.venv/bin/python bench/made_ways.py [COUNT [FIRST]] [--diamonds] [--bare] [--picture FILE]

Says how many of the hidden tiles are made, what share of their pixels is clearly of another colour than was drawn, and
beside it what it is if the nearest of the other tiles is laid, as it is without them. With `--bare` no tile of a road
shows its ground alone, and that is made as well. The picture shows for each road
what was drawn above what was made.
"""

import sys

import numpy as np
from PIL import Image

from infer_cases import isometric
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.make import make_missing
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.joins.turning import LaidTile
from knitground.core.tiles.tile import TileRef
from road_sheets import KINDS, road_sheet

_CLEARLY = 40
"""How far apart two colours are clearly different, in their most different channel."""
_LEFT = ("ten", "bends", "eleven", "bends and ends")
"""What is left of a whole road."""


def whole_road(seed: int) -> dict[tuple[int, ...], np.ndarray] | None:
    """The sixteen tiles of a road by the sides to which they lead, if the sheet has one beside its shore."""
    tiles, shore, roads = road_sheet(seed, alone=False)
    if "fifteen" not in roads or not shore:
        return None
    column, row = min(shore, key=lambda cell: cell[::-1])
    return {tuple(map(int, way)): tiles[y, x] for (x, y), way in roads["fifteen"].items()} | {
        (0, 0, 0, 0): tiles[row, column]
    }


def missing_made(road: dict, left: list, *, diamonds: bool) -> dict[tuple[int, ...], np.ndarray]:
    """The tiles that are made for a road of which some are left, by the sides to which they lead."""
    refs = {TileRef("sheet", "tiles", n, 0): way for n, way in enumerate(left)}
    two = tuple(Terrain(letter, letter, "#123456") for letter in "GR")
    labels = {ref: tuple(1 + one for one in way) for ref, way in refs.items()}
    join_set = JoinSet("road", "Road", "edge", two, labels=labels)
    known = Coverage("edge", {row: (LaidTile(ref),) for ref, row in labels.items()}, join_set.numbers)
    drawn = {ref: road[way] for ref, way in refs.items()}
    return {tuple(one - 1 for one in made.labels): made.pixels
            for made in make_missing(join_set, known, drawn, isometric=diamonds) if made.way != "turned"}  # fmt: skip


def unlike(one: np.ndarray, other: np.ndarray) -> float:
    """What share of the pixels of two tiles is clearly different."""
    seen = (one[..., 3] > 0) | (other[..., 3] > 0)
    return float((np.abs(one.astype(int) - other).max(axis=-1) > _CLEARLY)[seen].mean())


def main() -> None:
    """Prints how many are made, and how well."""
    numbers = [int(one) for one in sys.argv[1:] if one.isdigit()]
    count, first = (numbers + [60, 0][len(numbers) :])[:2]
    diamonds = "--diamonds" in sys.argv
    hidden, made_of, nearest, rows = 0, [], [], []
    for seed in range(first, first + count):
        road = whole_road(seed)
        if road is None:
            continue
        if diamonds:
            road = dict(zip(road, isometric(np.stack(list(road.values()))), strict=True))
        left = [*KINDS[_LEFT[seed % len(_LEFT)]], *([] if "--bare" in sys.argv else [(0, 0, 0, 0)])]
        made = missing_made(road, left, diamonds=diamonds)
        lost = [way for way in road if way not in left]
        hidden += len(lost)
        for way in sorted(made.keys() & set(lost)):
            made_of.append(unlike(made[way], road[way]))
            off = {one: sum(a != b for a, b in zip(one, way, strict=True)) for one in left}
            nearest.append(min(unlike(road[one], road[way]) for one in left if off[one] == min(off.values())))
            rows.append(np.concatenate([road[way], made[way]]))
    print(f"{len(made_of)} of {hidden} hidden tiles made; clearly other pixels: {np.mean(made_of):.1%}, at the worst "
          f"{max(made_of):.1%}; of the nearest tile left {np.mean(nearest):.1%}")  # fmt: skip
    if "--picture" in sys.argv:
        wide = max(row.shape[1] for row in rows)
        room = [np.pad(row, ((0, 2 * wide + 4 - len(row)), (0, wide + 4 - row.shape[1]), (0, 0))) for row in rows]
        lines = [
            np.concatenate(room[n : n + 16] + room[:1] * (16 - len(room[n : n + 16])), axis=1)
            for n in range(0, len(room), 16)
        ]
        Image.fromarray(np.concatenate(lines)).save(sys.argv[sys.argv.index("--picture") + 1])


if __name__ == "__main__":
    main()
