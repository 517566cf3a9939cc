"""Blocks whose tiles fill their cells, and furniture that only looks like a set."""

from itertools import product

import numpy as np
import pytest

from knitground.core.edits.finding import propose
from knitground.core.joins.find import find_sets
from knitground.core.joins.outlines import outlines_agree
from making import tile

SIDE = 16
SOIL, GRASS, LINE = (150, 98, 74), (96, 170, 150), (48, 30, 40)


def filled(seed: int, goes_on: tuple[bool, ...], *, cap: bool = True, line: bool = True, notch: int = -1) -> np.ndarray:
    """A tile of soil, with grass on top and a line at the sides where it ends, or a notch in a corner, clockwise."""
    art = np.full((SIDE, SIDE, 4), (*SOIL, 255), np.uint8)
    art[..., :3] += np.random.default_rng(seed).integers(0, 9, (SIDE, SIDE, 1)).astype(np.uint8)
    north, east, south, west = goes_on
    if cap and not north:
        art[:4, :, :3] = GRASS
    if line:
        y, x = np.mgrid[0:SIDE, 0:SIDE]
        rim = ~np.array(north) & (y == 0) | ~np.array(east) & (x == SIDE - 1)
        art[rim | ~np.array(south) & (y == SIDE - 1) | ~np.array(west) & (x == 0), :3] = LINE
        if notch >= 0:
            art[-(notch // 2 % 2), -((notch + 1) // 2 % 2), :3] = LINE
    return art


def laid(cells: dict[tuple[int, int], np.ndarray], columns: int = 10, rows: int = 8) -> tuple[np.ndarray, np.ndarray]:
    """The tiles of a cut and which cells hold one."""
    tiles = np.zeros((rows, columns, SIDE, SIDE, 4), np.uint8)
    for (column, row), art in cells.items():
        tiles[row, column] = art
    return tiles, tiles[..., 3].any(axis=(2, 3))


def block(seed: int = 0, **drawn: bool) -> dict[tuple[int, int], tuple[bool, ...]]:
    """Which sides go on, by cell: nine tiles, those a cell high and wide, and a lone one."""
    ends = {0: (False, True), 1: (True, True), 2: (True, False), 3: (False, False)}
    return {(x, y): (ends[y][0], ends[x][1], ends[y][1], ends[x][0]) for x, y in product(range(4), repeat=2)}


def labels_of(tiles: np.ndarray, held: np.ndarray) -> tuple[str, dict[tuple[int, ...], list[int]]]:
    """The kind and labels of the one set that is found."""
    (found,) = find_sets(tiles, held)
    return found.kind, dict(zip(map(tuple, found.cells.tolist()), found.labels.tolist(), strict=True))


def test_terrain_that_fills_its_cells_is_read_by_what_rims_it():
    cells = {at: filled(at[0] + 7 * at[1], sides) for at, sides in block().items()}
    cells |= {(5 + n % 2, n // 2): filled(90 + n, (True,) * 4, notch=notch) for n, notch in enumerate((2, 3, 1, 0))}
    kind, found = labels_of(*laid(cells))
    assert (kind, found.keys()) == ("cell", cells.keys())
    for at, sides in block().items():
        corners = [sides[n - 1] and sides[n] for n in range(4)]
        assert found[at] == [*map(int, corners), *map(int, sides), 1], at
    inner = [found[5 + n % 2, n // 2][:4] for n in range(4)]
    assert inner == [[1, 1, 0, 1], [1, 1, 1, 0], [1, 0, 1, 1], [0, 1, 1, 1]]


def test_a_beam_goes_on_however_much_of_its_sides_its_rims_take_up():
    cells = {at: filled(at[0] + 7 * at[1], sides) for at, sides in block().items()}
    for at, (north, _, south, _) in block().items():
        if not north:
            cells[at][1:5, :, :3] = GRASS
        if not south:
            cells[at][-4:, :, :3] = LINE
    _, found = labels_of(*laid(cells))
    assert found.keys() == cells.keys()
    assert [found[x, 3][4:8] for x in range(3)] == [[0, 1, 0, 0], [0, 1, 0, 1], [0, 0, 0, 1]]


@pytest.mark.parametrize("left", [0, 3])
def test_grass_on_top_is_enough_to_tell_nine_tiles_by_where_they_lie(left):
    nine = {(left + x, 1 + y): sides for (x, y), sides in block().items() if x < 3 and y < 3}
    tiles, held = laid({at: filled(left + at[0] + 7 * at[1], sides, line=False) for at, sides in nine.items()})
    kind, found = labels_of(tiles, held)
    assert (kind, {at: tuple(map(bool, row[4:8])) for at, row in found.items()}) == ("cell", nine)
    pixels = {tile(column, row): tiles[row, column] for row, column in np.argwhere(held).tolist()}
    (proposed,) = propose(find_sets(tiles, held), pixels, tile(0, 0))
    assert len(proposed.join_set.terrains) == 1
    assert proposed.join_set.bare


def test_without_a_rim_and_of_pictures_nothing_is_found():
    plain = {at: filled(3, sides, cap=False, line=False) for at, sides in block().items()}
    assert not find_sets(*laid(plain))
    random = np.random.default_rng(5)
    picture = {at: random.integers(0, 256, (SIDE, SIDE, 4)).astype(np.uint8) | (0, 0, 0, 255) for at in block()}
    assert not find_sets(*laid({at: art.astype(np.uint8) for at, art in picture.items()}))
    # A house: its roof meets its walls within it.
    house = {at: filled(9, sides) for at, sides in block().items() if max(at) < 3}
    for column in range(3):
        house[column, 0][..., :3] = (170, 60, 50)
    assert not find_sets(*laid(house))


def top(goes_on: tuple[bool, ...], notch: int = -1) -> np.ndarray:
    """The top of a wall, with a rim where it ends."""
    art = np.full((SIDE, SIDE, 4), (58, 40, 66, 255), np.uint8)
    for side, on in enumerate(goes_on):
        np.rot90(art, side)[: 0 if on else 3, :, :3] = (190, 160, 150)
    if notch >= 0:
        np.rot90(art, notch)[:3, :3, :3] = (190, 160, 150)
    return art


def wall(left: int) -> dict[tuple[int, int], np.ndarray]:
    """The tops of a wall, and its inner corners from a column on."""
    cells = {(x, y): top(sides) for (x, y), sides in block().items() if max(x, y) < 3}
    return cells | {(left + n % 2, n // 2): top((True,) * 4, notch) for n, notch in enumerate((2, 1, 3, 0))}


@pytest.mark.parametrize(("plain", "kind"), [(False, "cell"), (True, "corner")])
def test_what_has_nothing_round_it_is_painted_by_the_cell(plain, kind):
    cells = wall(4)
    if plain:
        cells[7, 1] = np.full((SIDE, SIDE, 4), (190, 160, 150, 255), np.uint8)
    found, labels = labels_of(*laid(cells))
    assert (found, labels.keys()) == (kind, cells.keys())


def cupboard(random: np.random.Generator, wide: int, high: int) -> np.ndarray:
    """Furniture of some cells that draws back a little from their sides."""
    art = np.zeros((high * SIDE, wide * SIDE, 4), np.uint8)
    left, top, right = random.integers(0, 4, 3)
    inside = art[top : high * SIDE - 1, left : wide * SIDE - right]
    inside[:] = (60, 40, 30, 255)
    inside[1:-1, 1:-1, :3] = np.clip(np.array((150, 110, 70)) + random.integers(-20, 20), 0, 255)
    return art


def furnished(seed: int) -> dict[tuple[int, int], np.ndarray]:
    random, cells, taken = np.random.default_rng(seed), {}, set()
    for column, row in product(range(10), range(8)):
        wide, high = ((1, 1), (1, 2), (2, 1), (2, 2), (3, 2))[random.integers(5)]
        spot = set(product(range(column, column + wide), range(row, row + high)))
        if not spot & taken and column + wide <= 10 and row + high <= 8:
            taken |= spot
            art = cupboard(random, wide, high)
            for x, y in spot:
                at = (y - row) * SIDE, (x - column) * SIDE
                cells[x, y] = art[at[0] : at[0] + SIDE, at[1] : at[1] + SIDE]
    return cells


@pytest.mark.parametrize("seed", [0, 6, 8, 10, 11, 14])
def test_furniture_is_no_set_of_edges(seed):
    assert not [one for one in find_sets(*laid(furnished(seed))) if one.kind == "edge"]


def test_a_cushion_is_no_tile_of_a_rug():
    cells = furnished(1)
    cushion = cells[8, 7] = np.zeros((SIDE, SIDE, 4), np.uint8)
    cushion[2:14, 2:14] = (30, 30, 60, 255)
    cushion[3:13, 3:13, :3] = (90, 140, 180)
    for (x, y), sides in block().items():
        cells.pop((x, y), None)
        if max(x, y) < 3:
            art = filled(0, (True,) * 4)
            art[..., :3] = (70, 120, 170)
            for side, goes_on in enumerate(sides):
                turned = np.rot90(art, side)
                turned[:2] = turned[:2] if goes_on else 0
                turned[2] = turned[2] if goes_on else turned[2] // 2 | (0, 0, 0, 255)
            cells[x, y] = art
    kind, found = labels_of(*laid(cells))
    assert (kind, found.keys()) == ("cell", set(product(range(3), repeat=2)))


def test_a_bench_is_not_the_ground_that_a_wall_lacks():
    bench = np.zeros((2, SIDE, SIDE, 4), np.uint8)
    bench[0, :, 1:] = bench[1, :, :-1] = (180, 150, 135, 255)
    cells = wall(3)
    (found,) = find_sets(*laid(cells | {(3, 2): bench[0], (4, 2): bench[1]}))
    assert set(map(tuple, found.cells.tolist())) == cells.keys()


def test_ways_that_lead_on_beside_each_other_agree():
    straight, apart, freely = np.zeros((3, 2, SIDE, SIDE, 4), np.uint8)
    straight[:, 5:11, :, 3] = 255
    apart[0, 2:8, :, 3] = apart[1, 8:14, :, 3] = 255
    freely[0, 5:11, :, 3] = freely[1, 6:12, :, 3] = 255
    cells, labels = np.array([(0, 0), (4, 0)]), np.array([(0, 1, 0, 1)] * 2)
    assert outlines_agree(straight, cells, labels, "edge")
    assert outlines_agree(freely, cells, labels, "edge"), "a pixel off"
    assert not outlines_agree(apart, cells, labels, "edge")
    assert not outlines_agree(apart, np.array([(0, 0), (1, 0)]), labels, "edge"), "one way round is left"
    assert outlines_agree(apart[:1], cells[:1], labels[:1], "edge"), "nothing to compare"
