"""Islands of 3 x 3 cells, whose inner corners and plain ground lie anywhere on the sheet."""

import sys
from dataclasses import replace
from itertools import combinations
from pathlib import Path

import numpy as np
import pytest

from knitground.core.joins.find import find_sets
from knitground.core.joins.found import FoundSet
from knitground.core.joins.islands import Island, not_of_islands
from knitground.core.joins.look import seen_colours
from test_joining import CORNERS, HEATH, ROSE, SIDE, SLATE, meeting

sys.path.append(str(Path(__file__).resolve().parents[1] / "bench"))
from island_sheets import make_case, told

RING = [
    (0, 0, 1, 0), (0, 0, 1, 1), (0, 0, 0, 1),
    (0, 1, 1, 0), (1, 1, 1, 1), (1, 0, 0, 1),
    (0, 1, 0, 0), (1, 1, 0, 0), (1, 0, 0, 0),
]  # fmt: skip
INNER = [(1, 1, 0, 1), (1, 1, 1, 0), (1, 0, 1, 1), (0, 1, 1, 1)]


def things(sheet: np.ndarray) -> None:
    """Fills some of what is bare with things that are no tiles of a set."""
    random = np.random.default_rng(8)
    for row, column in np.argwhere(~sheet[..., 3].any(axis=(2, 3))):
        if random.random() < 0.5:
            tile = sheet[row, column, 3:13, 3:13]
            tile[..., :3], tile[..., 3] = random.integers(0, 256, (10, 10, 3)), 255


def island(
    inner: list[tuple[int, int]], *, hole: bool = False, seed: int = 1
) -> tuple[np.ndarray, dict[tuple[int, int], tuple]]:
    """A sheet with an island, its inner corners in some cells, and other things; and what the cells of the set show."""
    drawn = dict(zip(CORNERS, meeting(HEATH, SLATE, seed), strict=True))
    sheet = np.zeros((8, 12, SIDE, SIDE, 4), np.uint8)
    ring = {(1 + n % 3, 2 + n // 3): row for n, row in enumerate(RING)}
    cells = {**ring, **dict(zip(inner, INNER, strict=False))}
    if hole:
        cells = {at: tuple(1 - label for label in row) for at, row in cells.items()}
    for (column, row), labels in cells.items():
        sheet[row, column] = drawn[labels]
    return sheet, cells


def shown(found: FoundSet) -> dict[tuple[int, ...], tuple[int, ...]]:
    """What the cells of a set show, where 0 is what the first cell of the island shows in its first corner."""
    rows = {tuple(cell): tuple(row) for cell, row in zip(found.cells.tolist(), found.labels.tolist(), strict=True)}
    return {cell: tuple(label ^ rows[1, 2][0] for label in row) for cell, row in rows.items()}


@pytest.mark.parametrize("hole", [False, True])
@pytest.mark.parametrize(
    "inner",
    [[(4, 2), (5, 2), (4, 3), (5, 3)], [(6, 7), (7, 7), (8, 7), (9, 7)], [(11, 0), (11, 1), (0, 7), (7, 4)]],
    ids=["beside it", "in a row", "strewn"],
)
def test_an_island_is_a_set_with_its_inner_corners_wherever_these_lie(inner, hole):
    sheet, cells = island(inner, hole=hole)
    things(sheet)
    (found,) = find_sets(sheet, sheet[..., 3].any(axis=(2, 3)))
    assert shown(found) == {at: tuple(label ^ hole for label in row) for at, row in cells.items()}


def test_the_plain_ground_of_an_island_is_taken_from_elsewhere_and_no_other():
    sheet, cells = island([(6, 7), (7, 7), (8, 7), (9, 7)])
    sheet[0, 11] = meeting(HEATH, SLATE, 12)[0]
    sheet[5, 10] = meeting(ROSE, SLATE, 13)[0]
    sheet[5, 8] = meeting((150, 112, 86), SLATE, 14)[0]
    things(sheet)
    (found,) = find_sets(sheet, sheet[..., 3].any(axis=(2, 3)))
    assert shown(found) == {**cells, (11, 0): (0, 0, 0, 0)}
    assert found.covered == 14 / 16


def test_an_island_without_inner_corners_is_no_set():
    sheet, _ = island([(6, 7), (7, 7)])
    things(sheet)
    assert not find_sets(sheet, sheet[..., 3].any(axis=(2, 3)))


def test_an_island_and_a_hole_make_each_other_whole():
    sheet, cells = island([])
    other, more = island([], hole=True, seed=2)
    sheet[5:8, 8:11] = other[2:5, 1:4]
    cells |= {(column + 7, row + 3): labels for (column, row), labels in more.items()}
    (found,) = find_sets(sheet, sheet[..., 3].any(axis=(2, 3)))
    assert shown(found) == cells


@pytest.mark.parametrize(("high", "wide"), [(16, 6), (6, 16), (5, 7)])
def test_plain_ground_of_narrow_tiles_is_found_too(high, wide):
    sheet, cells = island([(6, 7), (7, 7), (8, 7), (9, 7)])
    sheet[0, 11] = meeting(HEATH, SLATE, 12)[0]
    rows, columns = (np.arange(n) * SIDE // n for n in (high, wide))
    narrow = sheet[:, :, rows][:, :, :, columns]
    (found,) = find_sets(narrow, narrow[..., 3].any(axis=(2, 3)))
    assert {(11, 0), *cells} == {tuple(cell) for cell in found.cells.tolist()}


def test_islands_on_one_ground_are_found_beside_each_other_and_beside_lines():
    cases = [make_case(seed) for seed in (3, 4, 12)]
    assert [told(made) for made in cases] == [(len(made.sets), len(made.sets), 0) for made in cases]


def test_what_is_made_of_an_island_and_a_hole_is_no_mixture_as_what_is_made_of_two_islands_is():
    number = np.arange(3 * 36).reshape(6, 18)
    colours = np.zeros((number.size, SIDE, SIDE, 4))
    islands, sets = list[Island](), list[FoundSet]()
    for place, (inside, ground) in enumerate([(SLATE, HEATH), (ROSE, HEATH), (HEATH, SLATE)]):
        drawn = dict(zip(CORNERS, meeting(ground, inside, 2 + place), strict=True))
        cells = [(5 * place + n % 3, n // 3) for n in range(9)] + [(5 * place + 3 + n % 2, n // 2) for n in range(4)]
        numbers = np.array([number[row, column] for column, row in cells])
        colours[numbers] = seen_colours(np.stack([drawn[labels] for labels in RING + INNER]), "square")
        islands.append(Island(numbers[:9], numbers[9:]))
        sets.append(FoundSet("corner", np.array(cells), np.array(RING + INNER), np.ones(13), 1.0, 0.9))

    def stays(one: FoundSet, other: FoundSet) -> bool:
        both = replace(one, cells=np.concatenate([one.cells, other.cells]))
        return bool(not_of_islands([both], islands, colours, number))

    assert not_of_islands(sets, islands, colours, number) == sets
    assert [stays(one, other) for one, other in combinations(sets, 2)] == [False, True, False]
