"""Sets found on whole sheets, made as unkind as the bench makes them."""

import sys
from itertools import product
from pathlib import Path

import numpy as np
import pytest
from scipy import ndimage

from knitground.core.joins import find, read_closely, taking_in
from knitground.core.joins.find import find_sets
from knitground.core.joins.found import FoundSet

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "bench"))
from infer_cases import same_up_to_names
from set_cases import make_case, make_isometric_case
from variant_cases import make_variant_case


def _by_cell(found: FoundSet) -> dict[tuple[int, ...], tuple[int, ...]]:
    return dict(zip(map(tuple, found.cells.tolist()), map(tuple, found.labels.tolist()), strict=True))


@pytest.mark.parametrize(("made", "shape"), [(make_case, "square"), (make_isometric_case, "isometric")])
def test_most_sets_are_found_with_their_labels_and_little_else_is_proposed(made, shape):
    met = sets = wrong = proposals = 0
    for seed in range(700, 703):
        tiles, held, there = made(seed)
        found = find_sets(tiles, held, shape=shape)
        taken = [cell for one in found for cell in map(tuple, one.cells.tolist())]
        assert len(taken) == len(set(taken))
        assert [one.confidence for one in found] == sorted((one.confidence for one in found), reverse=True)
        for kind, cells in there:
            sets += 1
            for one in found:
                mine = _by_cell(one)
                both = [cell for cell in cells if cell in mine]
                if one.kind == kind and len(both) >= 0.9 * len(cells):
                    met += same_up_to_names([mine[cell] for cell in both], [cells[cell] for cell in both]).mean() >= 0.9
        proposals += len(found)
        wrong += sum(
            not any(sum(tuple(cell) in cells for cell in one.cells.tolist()) > len(one.cells) / 2 for _, cells in there)
            for one in found
        )
    assert met >= 0.8 * sets
    assert wrong <= 0.2 * proposals


def test_on_narrow_sheets_filled_line_by_line_no_tile_of_a_set_is_left_out():
    whole = sets = 0
    for seed in range(3000, 3005):
        tiles, held, there = make_case(seed, lines=True)
        found = [_by_cell(one) for one in find_sets(tiles, held)]
        for _, cells in there:
            sets += 1
            mine = {(x, y) for x, y in cells if held[y, x]}
            whole += any(mine <= one.keys() for one in found)
    assert whole == sets


@pytest.mark.parametrize("seed", [18, 24])
def test_a_tile_at_the_end_of_a_line_joins_the_set_that_lacks_it(seed):
    """Sixteen tiles and two variants in lines of nine: nearly all of them are a block of eight by two."""
    random, side = np.random.default_rng(seed), 26
    ys, xs = (np.mgrid[0:side, 0:side] + 0.5) / side
    tiles = []
    for nw, ne, sw, se in product((0, 1), repeat=4):
        inside = nw * (1 - xs) * (1 - ys) + ne * xs * (1 - ys) + sw * (1 - xs) * ys + se * xs * ys > 0.5
        grain = random.integers(-8, 9, (2, side, side, 1))
        tile = np.where(inside[..., None], (60, 70, 110) + grain[0], (120, 170, 150) + grain[1])
        rim = ndimage.binary_dilation(inside, ndimage.generate_binary_structure(2, 1)) & ~inside
        rim[[0, -1]] = rim[:, [0, -1]] = False
        tile[rim] = 30, 30, 50
        tiles.append(tile)
    tiles += [tiles[number] + random.integers(-12, 13, (side, side, 1)) for number in (0, 15)]
    sheet = np.full((2, 9, side, side, 4), 255, np.uint8)
    sheet[..., :3] = np.array(tiles).reshape(2, 9, side, side, 3)
    (found,) = find_sets(sheet, np.ones((2, 9), dtype=bool))
    assert len(found.cells) == 18
    labels = _by_cell(found)
    assert {labels[number % 9, number // 9] for number in range(16)} == set(product((0, 1), repeat=4))


@pytest.mark.parametrize("pixels", [np.zeros((64, 64, 4), np.uint8), np.full((64, 64, 4), 200, np.uint8)])
def test_a_sheet_of_one_colour_holds_no_set(pixels):
    tiles = pixels.reshape(4, 16, 4, 16, 4).swapaxes(1, 2)
    assert find_sets(tiles, tiles[..., 3].any(axis=(2, 3))) == []


def test_tiles_that_have_nothing_in_common_are_no_set():
    random = np.random.Generator(np.random.PCG64(3))
    tiles = random.integers(0, 256, (8, 8, 16, 16, 4)).astype(np.uint8)
    assert find_sets(tiles, np.ones((8, 8), bool)) == []


def test_looking_tells_how_far_it_is_and_can_be_stopped():
    tiles, held, _ = make_case(700)
    told = []
    find_sets(tiles, held, progress=told.append)
    assert told == sorted(told)
    assert told[-1] == 1

    def stop(share: float) -> None:
        raise InterruptedError

    with pytest.raises(InterruptedError):
        find_sets(tiles, held, progress=stop)


def test_variants_are_found_with_their_set_wherever_they_lie_on_the_sheet():
    met = variants = foreign = cells_taken = 0
    for seed in (700, 702, 705):
        tiles, held, there = make_variant_case(seed)
        found = find_sets(tiles, held)
        for _, cells, others in there:
            every = {**cells, **others}
            mine = max(map(_by_cell, found), key=lambda one: sum(cell in every for cell in one))
            both = [cell for cell in others if cell in mine]
            met += sum(same_up_to_names([mine[cell] for cell in both], [every[cell] for cell in both])) if both else 0
            variants += len(others)
            foreign += sum(cell not in every for cell in mine)
            cells_taken += len(mine)
        taken = [cell for one in found for cell in map(tuple, one.cells.tolist())]
        assert len(taken) == len(set(taken))
    assert variants > 40
    assert met >= 0.75 * variants
    assert foreign <= 0.1 * cells_taken


def test_a_set_of_other_colours_stays_a_set_of_its_own_though_it_shares_a_terrain():
    random = np.random.Generator(np.random.PCG64(5))
    grain = random.integers(-12, 13, (3, 16, 16, 1))
    grass, water, lava = (
        np.clip(np.array(colour) + grain[n], 0, 255)
        for n, colour in enumerate([(80, 150, 60), (50, 90, 180), (200, 70, 30)])
    )
    sheet = np.zeros((8, 6, 16, 16, 4), np.uint8)
    for first, other in ((0, water), (4, lava)):
        for number, labels in enumerate(product((0, 1), repeat=4)):
            inside = np.repeat(np.repeat(np.array([[labels[0], labels[1]], [labels[3], labels[2]]]), 8, 0), 8, 1)
            tile = np.where(inside[..., None], other, grass)
            sheet[first + number // 4, number % 4] = np.dstack([tile, np.full((16, 16), 255)])
    # One more piece of lava, with a stone on it, far off.
    sheet[1, 5, ..., :3], sheet[1, 5, ..., 3] = lava, 255
    sheet[1, 5, 6:9, 5:8] = (90, 90, 100, 255)
    found = find_sets(sheet, sheet[..., 3].any(axis=(2, 3)))
    assert sorted(len(one.cells) for one in found) == [16, 17]
    (larger,) = [one for one in found if len(one.cells) == 17]
    at = larger.cells.tolist().index([5, 1])
    assert larger.labels[at].tolist() == larger.labels[larger.cells.tolist().index([3, 7])].tolist()


def test_copies_are_no_variants_and_a_set_takes_no_more_tiles_than_can_be_read(monkeypatch):
    monkeypatch.setattr(read_closely, "MOST_TILES", 40)
    monkeypatch.setattr(taking_in, "MOST_TILES", 40)
    random = np.random.Generator(np.random.PCG64(8))
    colours = np.array([(90, 150, 60), (50, 90, 180)])
    grass, water = colours[:, None, None] + random.integers(-5, 6, (2, 8, 8, 3))
    sheet = np.full((12, 9, 8, 8, 4), 255, np.uint8)
    sheet[..., :3] = np.clip(grass + random.integers(-3, 4, (12, 9, 8, 8, 3)), 0, 255)
    sheet[9:, :, :, :, :3] = grass
    sheet[:4, 4] = sheet[4, :5] = 0
    for number, labels in enumerate(product((0, 1), repeat=4)):
        inside = np.repeat(np.repeat(np.array([[labels[0], labels[1]], [labels[3], labels[2]]]), 4, 0), 4, 1)
        sheet[number // 4, number % 4, ..., :3] = np.where(inside[..., None], water, grass)
    (found,) = find.find_sets(sheet, sheet[..., 3].any(axis=(2, 3)))
    taken = {tuple(cell) for cell in found.cells.tolist()}
    assert {(column, row) for column in range(4) for row in range(4)} <= taken
    assert len(taken) == 40
    # The plain grass lies there three rows more.
    assert not any(row >= 9 for _, row in taken)


def test_narrow_lines_in_another_colour_are_a_set_of_their_own():
    random = np.random.Generator(np.random.PCG64(6))
    ground = np.array((90, 150, 60)) + random.integers(-5, 6, (16, 16, 3))
    sheet = np.zeros((9, 5, 16, 16, 4), np.uint8)
    for first, colour in ((0, (170, 130, 80)), (5, (120, 60, 140))):
        for number, labels in enumerate(product((0, 1), repeat=4)):
            tile = ground.copy()
            for turn, label in enumerate(labels):
                # A line from the middle to the north, turned to its side.
                turned = np.rot90(tile, turn)
                if label:
                    turned[:9, 6:10] = colour
            sheet[first + number // 4, number % 4] = np.dstack([tile, np.full((16, 16), 255)])
    found = find_sets(sheet, sheet[..., 3].any(axis=(2, 3)))
    rows = [{row // 5 for row in one.cells[:, 1].tolist()} for one in found]
    assert sorted(rows, key=min) == [{0}, {1}]
