"""Blocks on clear ground that are found on a sheet, beside pictures that only look like them."""

from dataclasses import replace

import numpy as np
import pytest
from scipy import ndimage

from knitground.core.edits.finding import propose, take_sets
from knitground.core.edits.grounds import paint_with
from knitground.core.edits.sheets import insert_sheet
from knitground.core.edits.things import put
from knitground.core.grid.rect import CellRect
from knitground.core.joins.find import find_sets
from knitground.core.joins.infer import infer_labels
from knitground.core.joins.rimmed import find_rimmed
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.project.sound_stitches import problem_of_stitches
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import NUMBER_MASK
from making import block, ground_art, png, poke, tile

SIDE = 24


def laid(*parts: tuple[int, int, np.ndarray], columns: int = 9, rows: int = 9) -> tuple[np.ndarray, np.ndarray]:
    """A cut with pictures at some of its cells, and which cells hold a tile."""
    sheet = np.zeros((rows * SIDE, columns * SIDE, 4), np.uint8)
    for column, row, art in parts:
        sheet[row * SIDE : row * SIDE + len(art), column * SIDE : column * SIDE + art.shape[1]] = art
    tiles = sheet.reshape(rows, SIDE, columns, SIDE, 4).swapaxes(1, 2)
    return tiles, tiles[..., 3].any(axis=(2, 3))


def platform(seed: int, columns: int = 4, rows: int = 4) -> np.ndarray:
    tiles = np.stack(block(seed, columns, rows)).reshape(rows, columns, SIDE, SIDE, 4)
    return tiles.swapaxes(1, 2).reshape(rows * SIDE, columns * SIDE, 4)


def rock(seed: int, columns: int = 4, rows: int = 4) -> np.ndarray:
    """The same outline, lit from one side, so that each part only fits where it is."""
    art = platform(seed, columns, rows)
    art[..., :3] = np.random.default_rng(seed).integers(60, 90, 3)
    relief = ndimage.gaussian_filter(np.random.default_rng(seed).random(art.shape[:2]), 6)
    shade = (relief - relief.mean()) / relief.std() * 40 + np.linspace(-60, 60, art.shape[1])
    art[..., :3] = np.clip(art[..., :3] + shade[..., None] + 60, 0, 255)
    return art


@pytest.mark.parametrize("seed", range(3))
def test_a_block_is_found_with_its_labels_and_without_what_hangs_from_its_rim(seed):
    tiles, held = laid((2, 1, platform(seed, 5, 4)), (2, 6, rock(seed, 4, 3)))
    (found,) = find_sets(tiles, held)
    assert (found.kind, found.confidence > 0.6) == ("cell", True)
    rows = dict(zip(map(tuple, found.cells.tolist()), found.labels.tolist(), strict=True))
    hanging = {(column, 2) for column in range(2, 7)}
    assert rows.keys() == {(column, row) for column in range(2, 7) for row in range(1, 5)} - hanging
    for (column, row), labels in rows.items():
        assert labels[4:] == [row > 1, column < 6, row < 4, column > 2, 1]
    assert (found.covered, len(found.hanging)) == (pytest.approx(9 / 47), 5)


def test_what_is_found_is_one_terrain_to_be_painted_by_the_cell():
    tiles, held = laid((0, 0, platform(7, 3, 4)), columns=3, rows=4)
    (found,) = find_sets(tiles, held)
    assert len(found.cells) == 9
    pixels = {tile(column, row): tiles[row, column] for row, column in np.ndindex(4, 3)}
    (proposed,) = propose([found], pixels, tile(0, 0))
    joins = proposed.join_set
    assert (joins.kind, len(joins.terrains), joins.bare) == ("cell", 1, True)
    assert tile(1, 1) not in joins.labels
    assert joins.labels[tile(1, 2)] == (1,) * 9
    assert joins.labels[tile(0, 0)] == (0, 0, 1, 0, 0, 1, 1, 0, 1)


def test_pictures_and_parts_of_blocks_are_none():
    for seed in range(4):
        tiles, held = laid((1, 1, rock(seed, 5, 5)))
        assert find_sets(tiles, held) == []
    tiles, held = laid((0, 0, platform(7, 3, 3)), columns=3, rows=3)
    assert find_sets(tiles, held) == [], "what hangs from its rim leaves nothing for the inside of a larger one"
    tiles, held = laid((1, 1, platform(1)[:, : 3 * SIDE]))
    number = np.full(held.shape, -1)
    number[held] = np.arange(held.sum())
    assert list(find_rimmed(tiles[held], number)) == [], "without a right side"


def test_what_hangs_from_a_rim_is_laid_below_it_and_nowhere_else():
    tiles, held = laid((0, 0, platform(7, 4, 5)), columns=4, rows=5)
    document = Document()
    picture = tiles.swapaxes(1, 2).reshape(5 * SIDE, 4 * SIDE, 4)
    sheet = insert_sheet(document, "art.png", Picture(png(picture), picture), Cut("tiles", SIDE, SIDE))
    pixels = {tile(column, row): tiles[row, column] for row, column in np.ndindex(5, 4)}
    found = propose(find_sets(tiles, held), pixels, tile(0, 0))
    before = document.project
    (set_id,) = take_sets(document, found)
    put(document, "rename", "join_sets", replace(document.project.join_sets[0], name="Bank"))
    (below,) = document.project.stitch_sets
    assert sheet == "art"
    assert problem_of_stitches(below, document.project) == ""
    ground_id, layer_id, _ = paint_with(document, None, set_id, "join_sets")
    layers = document.project.grounds[0].layers
    assert [layer.id for layer in layers] == [layer_id, layers[1].id]
    assert paint_with(document, ground_id, set_id, "join_sets")[1] == layer_id, "it is painted on the same again"
    assert len(document.project.grounds[0].layers) == 2
    poke(document, layer_id, "cells", np.s_[3:9, 2:8], 1, ground_id)
    derived = Derived(document)
    over = derived.knitted(ground_id).codes(layers[1].id, CellRect(0, 0, 12, 12))
    rows, columns = np.nonzero(over)
    assert set(rows.tolist()) == {4}, "the row below the rim, all of it"
    assert columns.tolist() == list(range(2, 8))
    refs = [document.palette.ref(int(code & NUMBER_MASK)) for code in over[4, 2:8]]
    assert [refs[0], refs[-1]] == [tile(0, 1), tile(3, 1)]
    assert set(refs[1:-1]) <= {tile(1, 1), tile(2, 1)}
    for _ in range(4):
        document.undo()
    assert document.project == before


def test_what_hangs_at_the_end_of_a_row_is_known_by_the_row():
    art = platform(3, 5, 4)
    art[SIDE : SIDE + 6, 4 * SIDE + 6 :] = art[2 * SIDE : 2 * SIDE + 6, 4 * SIDE + 6 :]
    tiles, held = laid((0, 0, art), columns=5, rows=4)
    number = np.arange(20).reshape(4, 5)
    (found,) = find_rimmed(tiles[held], number)
    assert found.hanging.tolist() == [[column + 5, column] for column in range(5)]


@pytest.mark.parametrize("axis", [2, 3])
def test_tiles_need_not_be_square_and_tiny_ones_are_looked_through(axis):
    tiles = np.stack(block(3, 5, 4)).reshape(4, 5, SIDE, SIDE, 4).repeat(2, axis=axis)
    (found,) = find_sets(tiles, tiles[..., 3].any(axis=(2, 3)))
    assert (len(found.cells), len(found.hanging)) == (15, 5)
    for side in (1, 2):
        tiny = np.zeros((5, 5, side, side, 4), np.uint8)
        tiny[1:4, 1:4] = 200
        assert find_sets(tiny, tiny[..., 3].any(axis=(2, 3))) == []


def hole_and_block() -> tuple[np.ndarray, np.ndarray, dict[tuple[int, int], tuple[int, ...]]]:
    """A block, beside it a hole with ground round it, and the labels of the four corners of the latter."""
    block_cells, ring_cells = np.zeros((5, 5), bool), np.ones((5, 5), bool)
    block_cells[1:4, 1:4], ring_cells[2, 2] = True, False
    inside = np.s_[SIDE:-SIDE, SIDE:-SIDE]
    tiles, held = laid((0, 0, ground_art(block_cells)[inside]), (3, 1, ground_art(ring_cells)[inside]))
    nooks = {(3, 1): (1, 1, 0, 1), (5, 1): (1, 1, 1, 0), (5, 3): (0, 1, 1, 1), (3, 3): (1, 0, 1, 1)}
    return tiles, held, {cell: (*corners, 1, 1, 1, 1, 1) for cell, corners in nooks.items()}


def test_inner_corners_round_a_hole_beside_a_block_come_with_it():
    tiles, held, nooks = hole_and_block()
    (found,) = find_sets(tiles, held)
    rows = {tuple(cell): tuple(row) for cell, row in zip(found.cells.tolist(), found.labels.tolist(), strict=True)}
    assert {cell: rows.get(cell) for cell in nooks} == nooks
    assert found.covered == pytest.approx(13 / 47)
    tiles[2, 8], held[2, 8] = tiles[1, 1], True
    tiles[6, 6], held[6, 6] = (200, 40, 40, 255), True
    (again,) = find_sets(tiles, held)
    assert again.cells.tolist() == found.cells.tolist(), "no copies, nor what only looks full"


def test_labels_that_are_read_tell_inner_corners_from_corners():
    tiles, held, nooks = hole_and_block()
    cells = [(column, row) for row, column in np.argwhere(held).tolist()]
    found = infer_labels(np.stack([tiles[row, column] for column, row in cells]), "cell", terrains=2)
    read = dict(zip(cells, (found.labels != found.nothing).astype(int).tolist(), strict=True))
    assert {cell: tuple(read[cell]) for cell in nooks} == nooks
    assert read[0, 0][4:8] == [0, 1, 1, 0]
    assert read[4, 1][4:8] == [1, 1, 0, 1], "above the hole"


def test_rows_columns_and_single_tiles_of_a_block_come_with_it_as_one_set_of_cells():
    shapes = {(0, 0): (3, 3), (3, 0): (3, 1), (0, 3): (1, 3), (3, 3): (1, 1)}
    parts = []
    for (column, row), (high, wide) in shapes.items():
        cells = np.zeros((high + 2, wide + 2), bool)
        cells[1:-1, 1:-1] = True
        parts.append((column, row, ground_art(cells)[SIDE:-SIDE, SIDE:-SIDE]))
    crate = np.full((SIDE, SIDE, 4), 255, np.uint8)
    crate[...] = (150, 120, 40, 255)
    crate[:4] = 0
    tiles, held = laid(*parts, (6, 6, crate))
    (found,) = find_sets(tiles, held)
    assert found.kind == "cell"
    rows = {tuple(cell): tuple(row[4:8]) for cell, row in zip(found.cells.tolist(), found.labels.tolist(), strict=True)}
    assert rows.keys() == {(column, row) for column in range(4) for row in range(4)}
    assert len(set(rows.values())) == 16
    assert (rows[3, 3], rows[1, 3], rows[3, 1]) == ((0, 0, 0, 0), (0, 1, 0, 1), (1, 0, 1, 0))


def test_further_tiles_of_the_rims_of_a_block_come_with_it_but_not_what_only_ends_alike():
    cells = np.zeros((5, 5), bool)
    cells[1:-1, 1:-1] = True
    art = ground_art(cells)[SIDE:-SIDE, SIDE:-SIDE]
    speckled = art.astype(np.int16)
    speckled[..., :3] += np.random.default_rng(3).integers(-12, 13, (*art.shape[:2], 1))
    other = np.clip(speckled, 0, 255).astype(np.uint8)
    top, sides, blue = other[:SIDE, SIDE:-SIDE], other[SIDE:-SIDE], other[-SIDE:, SIDE:-SIDE].copy()
    blue[..., :3] = blue[..., ::-1][..., 1:] // 2 + (0, 0, 90)
    tiles, held = laid((0, 0, art), (4, 0, top), (6, 2, sides), (4, 4, blue))
    (found,) = find_sets(tiles, held)
    rows = {tuple(cell): row for cell, row in zip(found.cells.tolist(), found.labels.tolist(), strict=True)}
    assert rows.keys() == {(x, y) for x in range(3) for y in range(3)} | {(4, 0), (6, 2), (7, 2), (8, 2)}
    assert rows[4, 0] == rows[1, 0]
    assert [rows[x, 2] for x in (6, 7, 8)] == [rows[x, 1] for x in range(3)]


def decking(cells: np.ndarray) -> np.ndarray:
    """Planks that end four pixels before the cells do, with a dark border; what lies round the frame goes on."""
    there = ndimage.binary_erosion(np.kron(cells, np.ones((SIDE, SIDE), bool)), np.ones((9, 9)), border_value=1)
    border = there & ~ndimage.binary_erosion(there, np.ones((5, 5)), border_value=1)
    grain = np.random.default_rng(2).integers(-6, 7, there.shape)
    art = np.zeros((*there.shape, 4), np.uint8)
    art[..., :3] = np.stack([150 + grain, 112 + grain, 70 + grain], axis=-1)
    art[3::8, :, :3] = (104, 72, 44)
    art[border] = (86, 58, 34, 255)
    art[..., 3] = 255 * there
    return art[SIDE:-SIDE, SIDE:-SIDE]


def test_what_shows_all_corners_is_laid_by_the_cell_where_a_row_a_tile_wide_is_drawn_too():
    full, hole, thin = np.zeros((5, 5), bool), np.ones((5, 5), bool), np.zeros((3, 5), bool)
    full[1:-1, 1:-1] = thin[1, 1:-1] = True
    hole[2, 2] = False
    middle = np.arange(SIDE, 2 * SIDE)
    nooks = np.delete(np.delete(decking(hole), middle, axis=0), middle, axis=1)
    (found,) = find_sets(*laid((0, 0, decking(full)), (4, 0, nooks), (0, 4, decking(thin))))
    assert (found.kind, len(found.cells)) == ("cell", 16)
    assert {(0, 4), (1, 4), (2, 4)} <= set(map(tuple, found.cells.tolist()))
