"""Roads that lack their ends or crossings, drawn on a ground with a grain: found with what lies beside them."""

import sys
from pathlib import Path

import numpy as np
import pytest

from knitground.core.edits.finding import propose
from knitground.core.joins.find import find_sets
from knitground.core.joins.under_lines import without_ground
from making import tile

sys.path.append(str(Path(__file__).resolve().parents[1] / "bench"))
from road_sheets import KINDS, is_told, road_sheet, told_in

SIDE = 16
GRASS, BRICK = (104, 152, 80), (176, 84, 66)


def on_grass(*ways: tuple[int, ...], seed: int = 3) -> list[np.ndarray]:
    """Tiles of a lane that leads over some sides, on grass with another grain in each."""
    random, art = np.random.default_rng(seed), []
    for north, east, south, west in ways:
        lane = np.zeros((SIDE, SIDE), bool)
        lane[6:10, 6:10] = any((north, east, south, west))
        lane[: 10 if north else 0, 6:10] = lane[6 if south else SIDE :, 6:10] = True
        lane[6:10, 6 if east else SIDE :] = lane[6:10, : 10 if west else 0] = True
        colours = np.where(lane[..., None], BRICK, GRASS) + random.integers(-12, 13, (SIDE, SIDE, 1))
        art.append(np.dstack([colours, np.full((SIDE, SIDE), 255)]).astype(np.uint8))
    return art


def sheet_of(cells: dict[tuple[int, int], np.ndarray], columns: int = 8, rows: int = 6):
    """The tiles of a cut, and which cells hold one."""
    tiles = np.zeros((rows, columns, SIDE, SIDE, 4), np.uint8)
    for (column, row), art in cells.items():
        tiles[row, column] = art
    return tiles, tiles[..., 3].any(axis=(2, 3))


def lane(ways: list[tuple[int, ...]]) -> dict[tuple[int, int], np.ndarray]:
    """A lane in rows of four."""
    return {(n % 4, n // 4): art for n, art in enumerate(on_grass(*ways))}


@pytest.mark.parametrize("kind", ["eleven", "bends and ends"])
def test_a_lane_of_few_tiles_is_found_with_the_grass_beside_it(kind):
    ways = KINDS[kind]
    (plain,) = on_grass((0, 0, 0, 0), seed=8)
    cells = lane(ways)
    (found,) = find_sets(*sheet_of({**cells, (6, 4): plain}))
    told = dict(zip(map(tuple, found.cells.tolist()), map(tuple, found.labels.tolist()), strict=True))
    assert told == {**dict(zip(cells, ways, strict=True)), (6, 4): (0, 0, 0, 0)}


def test_a_lane_on_the_only_ground_of_a_sheet_has_its_plain_tiles_unless_all_the_paper_shows_it():
    ways = KINDS["eleven"]
    few = {(7, n): art for n, art in enumerate(on_grass(*[(0, 0, 0, 0)] * 5, seed=8))}
    (found,) = find_sets(*sheet_of({**lane(ways), **few}))
    told = dict(zip(map(tuple, found.cells.tolist()), map(tuple, found.labels.tolist()), strict=True))
    assert told == {**dict(zip(lane(ways), ways, strict=True)), **dict.fromkeys(few, (0, 0, 0, 0))}
    paper = {(n % 8, n // 8): art for n, art in enumerate(on_grass(*[(0, 0, 0, 0)] * 48, seed=8))}
    (alone,) = find_sets(*sheet_of({**paper, **lane(ways)}))
    assert set(map(tuple, alone.cells.tolist())) == lane(ways).keys()


def test_a_lane_whose_grass_lies_nowhere_alone_borders_on_nothing():
    cells = lane(KINDS["eleven"])
    found = find_sets(*sheet_of(cells))
    (proposed,) = propose(found, {tile(*at): art for at, art in cells.items()}, tile(0, 0))
    assert proposed.join_set.bare
    assert [terrain.name for terrain in proposed.join_set.terrains] == ["Clay red"]


def test_grounds_are_taken_away_each_by_itself_and_their_grain_with_them():
    water = np.full((5, SIDE, SIDE, 4), 255, np.uint8)
    water[..., :3] = (60, 110, 170)
    water[:, 5:9, :, :3] = (220, 210, 190)
    bare = without_ground(np.concatenate([np.stack(on_grass(*KINDS["eleven"])), water]))
    assert all((one[..., 3] > 0).sum() == art for one, art in zip(bare[11:], [4 * SIDE] * 5, strict=True))
    for way, one in zip(KINDS["eleven"], bare, strict=False):
        sides = one[0, :, 3], one[:, -1, 3], one[-1, :, 3], one[:, 0, 3]
        assert tuple(int(side.any()) for side in sides) == way


@pytest.mark.parametrize(
    ("alone", "diamonds", "least"), [(True, False, 0.75), (False, False, 0.75), (False, True, 0.5)]
)
def test_most_roads_on_made_up_sheets_are_found_and_no_shore_is_lost(alone, diamonds, least):
    right = every = shores = 0
    for seed in range(8100, 8104):
        tiles, shore, roads = road_sheet(seed, alone=alone)
        told = told_in(tiles, diamonds=diamonds)
        shores += alone or any(shore <= one.keys() for one in told)
        right += sum(any(is_told(cells, one) for one in told) for cells in roads.values())
        every += len(roads)
    assert shores == 4
    assert right >= least * every
