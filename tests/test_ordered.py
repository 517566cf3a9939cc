"""Sets whose tiles lie in order on a sheet."""

import sys
from itertools import product
from pathlib import Path

import numpy as np
from scipy import ndimage

from knitground.core.edits.finding import propose
from knitground.core.joins.coverage import is_formed
from knitground.core.joins.find import find_sets
from knitground.core.joins.ordered import in_order
from knitground.core.tiles.tile import TileRef

sys.path.insert(0, str(Path(__file__).parents[1] / "bench"))
from ordered_sheets import Case, drawn, found_as, make_case, ordered

_ROWS = np.array([[place >> digit & 1 for digit in range(4)] for place in range(16)])


def _sheet(ways, colours, ground=None, seed=0):
    """A row of sixteen tiles for each way and colour, all in one order; on a ground or on clear."""
    random = np.random.Generator(np.random.PCG64(seed))
    order = ordered(random, square=False)
    tiles = np.stack([
        drawn(random, way, order, 24, np.stack([np.array(colour), np.array(colour) * 0.7]).astype(int))
        for way, colour in zip(ways, colours, strict=True)
    ])  # fmt: skip
    if ground is not None:
        grain = random.normal(0, 6, (*tiles.shape[:4], 1))
        tiles[..., :3] = np.where(tiles[..., 3:] == 0, np.clip(np.array(ground) + grain, 0, 255), tiles[..., :3])
        tiles[..., 3] = 255
    return tiles, np.array(order)


def _proposed(tiles):
    held = tiles[..., 3].any(axis=(2, 3))
    refs = {TileRef("art", "tiles", x, y): tiles[y, x] for y, x in np.argwhere(held).tolist()}
    return propose(find_sets(tiles, held), refs, next(iter(refs)))


def test_most_sets_that_lie_in_order_are_found_however_freely_they_are_drawn():
    cases = [make_case(seed) for seed in range(900, 906)]
    right = [any(found_as(made, one, told) for told in found)
             for made in cases for found in [find_sets(made.tiles, made.held)] for one in made.sets]  # fmt: skip
    assert np.mean(right) >= 0.85


def test_terrains_that_look_much_alike_are_told_apart_beside_louder_ones():
    green, near, loud = (70, 120, 60), (96, 140, 52), (220, 60, 150)
    tiles, order = _sheet(["patch"] * 3, [near, (60, 100, 70), loud], green)
    found = find_sets(tiles, tiles[..., 3].any(axis=(2, 3)))
    assert [sorted(set(one.cells[:, 1].tolist())) for one in sorted(found, key=lambda one: one.cells[0, 1])] == [
        [0], [1], [2],
    ]  # fmt: skip
    for one in found:
        assert found_as(Case(tiles, tiles[..., 0, 0, 3] > 0, []), ("cell", _cells(order, one.cells[0, 1])), one)


def test_areas_are_painted_by_the_cell_and_their_corners_count_for_nothing():
    tiles, _ = _sheet(["patch", "patch"], [(200, 170, 90), (90, 80, 160)], (70, 120, 60))
    for one in _proposed(tiles):
        assert one.join_set.kind == "cell"
        assert len(one.join_set.terrains) == 1
        assert one.covered == 1


def test_rivers_and_coasts_are_painted_along_edges():
    tiles, _ = _sheet(["river", "coast"], [(60, 90, 200), (200, 180, 120)])
    assert [(one.join_set.kind, len(one.join_set.labels)) for one in _proposed(tiles)] == [("edge", 15)] * 2


def test_a_second_row_of_the_same_terrain_holds_variants_of_the_first():
    tiles, _ = _sheet(["patch"] * 3, [(200, 170, 90), (200, 170, 90), (90, 80, 160)], (70, 120, 60))
    found = find_sets(tiles, tiles[..., 3].any(axis=(2, 3)))
    assert sorted(len(one.cells) for one in found) == [16, 32]


def test_of_a_set_of_corners_and_edges_no_sixteen_are_taken_for_another():
    random = np.random.Generator(np.random.PCG64(4))
    rows = sorted((row for row in product((0, 1), repeat=8) if is_formed(row)), key=lambda row: row[:4])
    colours = np.array([(70, 120, 60), (200, 170, 90)])
    tiles = np.full((6, 8, 16, 16, 4), 255, np.uint8)
    for place, row in enumerate(rows):
        nw, ne, se, sw, north, east, south, west = row
        thirds = np.array([[nw, north, ne], [west, 1, east], [sw, south, se]])
        third = np.kron(thirds, np.ones((6, 6), int))[1:17, 1:17]
        grain = random.integers(-6, 7, (16, 16, 1))
        tiles[place // 8, place % 8, ..., :3] = colours[third] + grain
    held = np.arange(48).reshape(6, 8) < len(rows)
    found = find_sets(tiles * held[..., None, None, None].astype(np.uint8), held)
    assert [one.kind for one in found] == ["full"]


def test_what_does_not_go_by_the_number_of_its_tile_is_in_no_order():
    random = np.random.Generator(np.random.PCG64(2))
    assert in_order(_ROWS[random.permutation(16)]) is None
    assert in_order(np.zeros((16, 4), np.intp)) is None
    twice = _ROWS.copy()
    twice[:, 1] = twice[:, 0]
    assert in_order(twice) is None


def test_a_ring_with_what_goes_off_from_it_is_in_no_order():
    ends = [(0, 1), (1, 1), (1, 0), (0, 0)]
    block = np.array([(above, east, below, west) for above, below in ends for west, east in ends])
    assert (in_order(block) == block).all()
    # One place may be misread, as of any others that lie in order.
    misread = block.copy()
    misread[1, 2] = 0
    assert (in_order(misread) == block).all()
    # Nothing goes off from its sides to what lies in its midst.
    block[[1, 4, 6, 9], [2, 1, 3, 0]] = 0
    assert in_order(block) is None


def test_areas_on_one_ground_are_found_in_whatever_order_they_lie():
    colours = [(200, 170, 90), (90, 80, 160), (60, 60, 60), (200, 90, 90)]
    tiles, _ = _sheet(["patch"] * 4, colours, (70, 120, 60))
    random = np.random.Generator(np.random.PCG64(9))
    plain = np.full((1, *tiles.shape[1:]), 255, np.uint8)
    plain[..., :3] = np.clip(np.array((70, 120, 60)) + random.normal(0, 6, (1, 16, 24, 24, 1)), 0, 255)
    mixed = np.concatenate([tiles[:, random.permutation(16)], plain])
    assert len(find_sets(mixed, np.ones(mixed.shape[:2], bool))) >= 2


def test_a_few_places_that_are_misread_are_told_by_the_others():
    misread = _ROWS.copy()
    misread[[3, 9], [1, 2]] ^= 1
    assert (in_order(misread) == _ROWS).all()
    misread[[4, 5], [1, 1]] ^= 1
    assert in_order(misread) is None


def _cells(order, row):
    return {(place, int(row)): tuple(labels) for place, labels in enumerate(order.tolist())}


def test_a_set_in_order_takes_no_tile_of_one_in_disorder_that_shares_its_ground():
    """Neither has more than one plain tile of the ground, and they look nearly the same."""
    random, side = np.random.default_rng(12), 32
    ys, xs = (3 * edge**2 - 2 * edge**3 for edge in np.mgrid[:side, :side] / (side - 1))
    colours = np.array([(112, 148, 70), (142, 106, 74), (70, 122, 142)])
    grass, *others = np.clip(colours[:, None, None] + ndimage.gaussian_filter(
        random.normal(0, 60, (3, side, side, 1)), (0, 2, 2, 0), mode="wrap"), 0, 255)  # fmt: skip
    sheet = np.full((4, 8, side, side, 4), 255, np.uint8)
    for rows, other, order in ((sheet[:2], others[0], random.permutation(16)), (sheet[2:], others[1], range(16))):
        for place, corners in enumerate(order):
            nw, ne, sw, se = _ROWS[corners]
            share = nw * (1 - xs) * (1 - ys) + ne * xs * (1 - ys) + sw * (1 - xs) * ys + se * xs * ys
            share = 1 / (1 + np.exp(-22 * (share - 0.5)))[..., None]
            noise = random.integers(-3, 4, (side, side, 1))
            rows[place // 8, place % 8, ..., :3] = np.clip(grass * (1 - share) + other * share + noise, 0, 255)
    found = find_sets(sheet, np.ones((4, 8), bool))
    assert sorted(sorted({row // 2 for row in one.cells[:, 1].tolist()}) for one in found) == [[0], [1]]
    assert [len(one.cells) for one in found] == [16, 16]
