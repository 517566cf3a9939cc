"""Fences, ladders and pipes: what is drawn as a line in few tiles, found on a sheet and laid in any length."""

import numpy as np
import pytest

from knitground.core.edits.finding import propose
from knitground.core.joins.beyond import told_beyond
from knitground.core.joins.coverage import coverage
from knitground.core.joins.find import find_sets
from knitground.core.joins.make import make_missing
from knitground.core.joins.plain_ground import without_plain_ground
from knitground.core.joins.sets import JoinSet, Terrain
from knitground.core.project.proofing import planes_of_proof
from making import tile

SIDE = 24
WOOD, DARK = (176, 124, 74), (60, 40, 36)
NORTH, EAST, SOUTH, WEST = range(4)
Cells = dict[tuple[int, int], np.ndarray]


def drawn(*boxes: tuple[int, int, int, int], colour: tuple[int, int, int] = WOOD) -> np.ndarray:
    """A clear tile with some boxes on it, each from a column and row up to others."""
    art = np.zeros((SIDE, SIDE, 4), np.uint8)
    for left, top, right, bottom in boxes:
        art[top:bottom, left:right] = (*colour, 255)
    return art


def fence(*sides: int, foot: int = 20, colour: tuple[int, int, int] = WOOD) -> np.ndarray:
    """A post from which a rail goes on over some sides."""
    rails = {NORTH: (10, 0, 14, 12), EAST: (12, 8, SIDE, 13), SOUTH: (10, 12, 14, SIDE), WEST: (0, 8, 12, 13)}
    return drawn((9, 4, 15, foot), *(rails[side] for side in sides), colour=colour)


def on_sheet(cells: Cells, columns: int = 9, rows: int = 6) -> tuple[np.ndarray, np.ndarray]:
    """The tiles of a cut and which cells hold one."""
    tiles = np.zeros((rows, columns, SIDE, SIDE, 4), np.uint8)
    for (column, row), art in cells.items():
        tiles[row, column] = art
    return tiles, tiles[..., 3].any(axis=(2, 3))


def in_pieces(art: np.ndarray, at: tuple[int, int] = (1, 1)) -> Cells:
    """A picture of several cells, cut into these."""
    high, wide = art.shape[0] // SIDE, art.shape[1] // SIDE
    return {
        (at[0] + x, at[1] + y): art[y * SIDE : (y + 1) * SIDE, x * SIDE : (x + 1) * SIDE]
        for y in range(high)
        for x in range(wide)
    }


def on_grass(cells: Cells) -> Cells:
    """The same on grass with a grain, with more of that round about: nothing is clear."""
    random = np.random.default_rng(6)
    whole = {}
    for at in np.ndindex(9, 6):
        art = np.full((SIDE, SIDE, 4), 255, np.uint8)
        art[..., :3] = np.array((96, 140, 70)) + random.integers(0, 14, (SIDE, SIDE, 1))
        thing = cells.get(at)
        whole[at] = art if thing is None else np.where(thing[..., 3:] > 0, thing, art)
    return whole


def found_on(cells: Cells) -> list[dict[tuple[int, ...], tuple[int, ...]]]:
    """The sides over which each tile of the sets goes on that are found."""
    told = find_sets(*on_sheet(cells))
    assert {one.kind for one in told} <= {"edge"}
    return [
        {tuple(cell): tuple(np.flatnonzero(row)) for cell, row in zip(one.cells.tolist(), one.labels, strict=True)}
        for one in told
    ]


@pytest.mark.parametrize("foot", [20, SIDE], ids=["above the foot of the cell", "to the foot of the cell"])
def test_a_fence_of_two_ends_and_what_lies_between_is_a_set(foot):
    cells = {(1, 1): fence(EAST, foot=foot), (2, 1): fence(EAST, WEST, foot=foot), (3, 1): fence(WEST, foot=foot)}
    cells[6, 3] = drawn((4, 6, 20, 22), colour=DARK)
    assert found_on(cells) == [{(1, 1): (EAST,), (2, 1): (EAST, WEST), (3, 1): (WEST,)}]


def test_a_fence_and_pipes_on_their_ground_are_sets_and_what_stands_beside_them_is_none():
    ways = {(4, 1): (EAST, SOUTH), (5, 1): (EAST, WEST), (6, 1): (SOUTH, WEST), (4, 2): (NORTH, SOUTH),
            (6, 2): (NORTH, SOUTH), (4, 3): (NORTH, EAST), (5, 3): (EAST, WEST), (6, 3): (NORTH, WEST)}  # fmt: skip
    arms = {NORTH: (9, 0, 15, 12), EAST: (12, 9, SIDE, 15), SOUTH: (9, 12, 15, SIDE), WEST: (0, 9, 12, 15)}
    cells = {
        at: drawn((8, 8, 16, 16), *(arms[side] for side in sides), colour=(70, 90, 160)) for at, sides in ways.items()
    }
    cells |= {(0, 1): fence(EAST), (1, 1): fence(EAST, WEST), (2, 1): fence(WEST)}
    cells |= {(0, 4): drawn((4, 6, 20, 22), colour=DARK), (2, 4): drawn((0, 3, SIDE, 20)), (3, 4): drawn((0, 5, 9, 20))}
    (pipes, rails) = sorted(found_on(on_grass(cells)), key=len, reverse=True)
    assert rails == {(0, 1): (EAST,), (1, 1): (EAST, WEST), (2, 1): (WEST,)}
    assert pipes.items() <= ways.items()
    assert set(pipes.values()) == set(ways.values())


def test_rails_beside_a_pond_are_no_variants_of_the_ground_that_they_share():
    rows, columns = np.mgrid[: 3 * SIDE, : 3 * SIDE]
    pond = np.zeros((3 * SIDE, 3 * SIDE, 4), np.uint8)
    pond[np.hypot(rows - 35.5, columns - 35.5) < 28] = (70, 110, 120, 255)
    hole = np.full((2 * SIDE, 2 * SIDE, 4), (70, 110, 120, 255), np.uint8)
    hole[np.hypot(*(one[: 2 * SIDE, : 2 * SIDE] - 23.5 for one in (rows, columns))) < 9] = 0
    cells = in_pieces(pond, (0, 0)) | in_pieces(hole, (3, 0))
    arms = {NORTH: (10, 0, 14, 14), EAST: (10, 10, SIDE, 14), SOUTH: (10, 10, 14, SIDE), WEST: (0, 10, 14, 14)}
    ways = {(5, 0): (EAST, SOUTH), (6, 0): (EAST, WEST), (7, 0): (SOUTH, WEST), (5, 1): (NORTH, SOUTH),
            (7, 1): (NORTH, SOUTH), (5, 2): (NORTH, EAST), (6, 2): (EAST, WEST), (7, 2): (NORTH, WEST)}  # fmt: skip
    cells |= {at: drawn(*(arms[side] for side in sides), colour=(150, 150, 160)) for at, sides in ways.items()}
    told = find_sets(*on_sheet(on_grass(cells)))
    (rail,) = [one for one in told if one.kind == "edge"]
    assert {tuple(cell) for cell in rail.cells.tolist()} <= set(ways)
    (other,) = [{tuple(cell) for cell in one.cells.tolist()} for one in told if one.kind == "corner"]
    assert {(0, 0), (1, 1), (2, 2), (3, 0)} <= other
    assert not other & set(ways)


def test_a_line_is_called_after_itself_and_not_after_its_ground():
    rails = {EAST: ((12, 8, SIDE, 10), (12, 14, SIDE, 16)), WEST: ((0, 8, 12, 10), (0, 14, 12, 16))}
    ways = {(1, 1): (EAST,), (2, 1): (EAST, WEST), (3, 1): (WEST,)}
    blue = (60, 90, 190)
    cells = {at: drawn(*(box for side in sides for box in rails[side]), colour=blue) for at, sides in ways.items()}
    tiles, held = on_sheet(on_grass(cells))
    refs = {tile(x, y): tiles[y, x] for y, x in np.ndindex(6, 9)}
    (one,) = propose(find_sets(tiles, held), refs, tile(0, 0))
    assert (one.join_set.name, one.join_set.bare) == ("Bright blue", True)


def test_ground_is_only_taken_for_clear_where_all_is_drawn_on_one():
    tiles = np.stack(list(on_grass({(1, 1): fence(EAST), (2, 1): fence(EAST, WEST)}).values()))
    bare = without_plain_ground(tiles)
    assert (bare[..., 3] > 0).sum() == (fence(EAST)[..., 3] > 0).sum() + (fence(EAST, WEST)[..., 3] > 0).sum()
    holed = tiles.copy()
    holed[0, 3:9, 3:9] = 0
    for other in (tiles[:3], tiles[:0], holed):
        assert without_plain_ground(other) is other
    mottled = tiles.copy()
    mottled[::2, :, ::2, :3] = np.random.default_rng(2).integers(0, 255, mottled[::2, :, ::2, :3].shape)
    mottled[1::2, ..., :3] = np.arange(27, dtype=np.uint8)[:, None, None, None] * 9
    assert without_plain_ground(mottled) is mottled


def test_a_ladder_goes_up_and_down_and_each_colour_is_a_set_of_its_own():
    rails = [(4, 7, 5), (17, 20, 5)]
    spans = {1: (6, SIDE), 2: (0, SIDE), 3: (0, 18)}
    cells = {
        (at, row): drawn(*((left, top, right, bottom) for left, right, _ in rails), colour=colour)
        for at, colour in ((1, WOOD), (2, (90, 120, 190)))
        for row, (top, bottom) in spans.items()
    }
    ways = [{(at, 1): (SOUTH,), (at, 2): (NORTH, SOUTH), (at, 3): (NORTH,)} for at in (1, 2)]
    assert sorted(found_on(cells), key=min) == ways


def test_bends_crossings_and_ends_belong_to_one_set_wherever_they_lie_in_its_block():
    ways = {
        (1, 1): (EAST, SOUTH), (2, 1): (EAST, WEST), (3, 1): (SOUTH, WEST), (1, 2): (NORTH, SOUTH),
        (3, 2): (NORTH, SOUTH), (1, 3): (NORTH, EAST), (2, 3): (NORTH, EAST, WEST), (3, 3): (NORTH, WEST),
        (4, 1): (SOUTH,), (4, 3): (NORTH,), (1, 4): (EAST,), (2, 4): (WEST,),
    }  # fmt: skip
    assert found_on({at: fence(*sides) for at, sides in ways.items()}) == [ways]


def test_a_pier_that_fills_its_cells_ends_where_its_rim_is_drawn():
    def pier(*open_: int) -> np.ndarray:
        art = drawn((0, 0, SIDE, SIDE))
        art[:, 5::6, :3] = (130, 84, 50)
        art[[0, 1, -2, -1], :, :3] = DARK
        for side, columns in ((WEST, slice(0, 2)), (EAST, slice(-2, None))):
            art[:, columns, :3] = art[:, columns, :3] if side in open_ else DARK
        return art

    cells = {(2, 2): pier(EAST), (3, 2): pier(EAST, WEST), (4, 2): pier(WEST)}
    assert found_on(cells) == [{(2, 2): (EAST,), (3, 2): (EAST, WEST), (4, 2): (WEST,)}]
    assert found_on({(x, 2): pier(EAST, WEST) for x in range(2, 5)}) == [], "three of a floor end nowhere"


def boat() -> np.ndarray:
    y, x = np.mgrid[0:SIDE, 0 : 3 * SIDE]
    inside = ((x - 35.5) / 34) ** 2 + ((y - 11.5) / 9) ** 2 <= 1
    return np.where(inside[..., None], np.array([*WOOD, 255]), 0).astype(np.uint8)


def table() -> np.ndarray:
    art = np.zeros((2 * SIDE, 3 * SIDE, 4), np.uint8)
    art[6:34, 4:-4] = (*WOOD, 255)
    return art


def beam(seams: int, slope: float) -> np.ndarray:
    """A beam that grows darker from end to end, or over each cell again, by so much a pixel."""
    art = np.zeros((SIDE, 3 * SIDE, 4), np.uint8)
    art[8:16, 6:-6] = (*WOOD, 255)
    shade = np.arange(3 * SIDE) % (3 * SIDE // seams) * slope
    art[..., :3] = np.maximum(0, art[..., :3] - shade[:, None]).astype(np.uint8)
    return art


@pytest.mark.parametrize("picture", [boat(), table(), beam(1, 0.5)], ids=["boat", "table of two rows", "shaded beam"])
def test_a_thing_of_three_cells_whose_midst_cannot_come_again_is_no_set(picture):
    assert found_on(in_pieces(picture)) == []


def test_a_beam_whose_shade_comes_again_in_each_cell_is_one():
    """As its drawn seams show, so do those of any length."""
    assert found_on(in_pieces(beam(3, 2))) == [{(1, 1): (EAST,), (2, 1): (EAST, WEST), (3, 1): (WEST,)}]


def one_fence() -> JoinSet:
    labels = {tile(0, 0): (0, 1, 0, 0), tile(1, 0): (0, 1, 0, 1), tile(2, 0): (0, 0, 0, 1)}
    return JoinSet("fence", "Fence", "edge", (Terrain("wood", "Wood", "#aa8855"),), True, labels)


def test_a_set_of_a_thin_rope_has_one_terrain_named_after_it():
    ropes = {1: (12, SIDE), 2: (0, SIDE), 3: (0, 12)}
    cells = {(at, 1): drawn((left, 11, right, 13), (10, 9, 14, 20)) for at, (left, right) in ropes.items()}
    tiles, held = on_sheet(cells)
    (made,) = propose(find_sets(tiles, held), {tile(x, y): tiles[y, x] for y, x in np.argwhere(held)}, tile(0, 0))
    assert [terrain.name for terrain in made.join_set.terrains] == [made.join_set.name]
    assert made.join_set.bare
    assert sorted(made.join_set.labels.values()) == [(0, 0, 0, 1), (0, 1, 0, 0), (0, 1, 0, 1)]
    assert made.covered == 1


def test_what_goes_across_alone_lacks_nothing_and_says_so():
    found = coverage(one_fence())
    assert (found.total, found.present, found.lacking, found.beyond) == (3, 3, 0, 12)
    assert told_beyond(one_fence(), found) == "it goes across alone: no tile leads up or down"
    planes = planes_of_proof(found)
    assert (planes["across"].shape, planes["along"].tolist()) == ((2, 4), [[0, 0, 1, 1, 0]])
    assert not planes["across"].any()


def test_ways_up_and_down_are_made_only_of_a_fence_that_lacks_nothing():
    whole = one_fence()
    art = {tile(0, 0): fence(EAST), tile(1, 0): fence(EAST, WEST), tile(2, 0): fence(WEST)}
    turned = {one.labels for one in make_missing(whole, coverage(whole), art)}
    assert turned == {(0, 0, 1, 0), (1, 0, 0, 0), (1, 0, 1, 0)}
    del whole.labels[tile(2, 0)]
    assert [one.labels for one in make_missing(whole, coverage(whole), art)] == [(0, 0, 0, 1)]
