"""Sheets on which the edges of the tiles are drawn more than once."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from knitground.core.sheet.cut import Cut
from knitground.core.sheet.edge_lines import grid_of_edges
from knitground.core.sheet.guess import Guess, guess_part
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.repack import Gaps, repack, repacked_cut
from knitground.core.sheet.repeated import left_out, without_repeats
from knitground.core.sheet.settled import settled
from knitground.core.sheet.severed import Severing

WOOD = np.array([[96, 60, 30, 255], [120, 80, 44, 255], [150, 104, 60, 255], [60, 90, 50, 255]], np.uint8)


def drawn(seed: int, rows: int, columns: int, height: int, width: int) -> np.ndarray:
    """Opaque tiles of patches that go on over some pixels, (rows, columns, height, width, 4)."""
    random = np.random.default_rng(seed)
    coarse = random.integers(0, len(WOOD), (rows, columns, -(-height // 3), -(-width // 3)))
    fine = random.integers(0, len(WOOD), (rows, columns, height, width))
    patches = coarse.repeat(3, axis=2).repeat(3, axis=3)[:, :, :height, :width]
    return WOOD[np.where(random.random(fine.shape) < 0.5, fine, patches)]


def numbers(cut: Cut | Guess) -> tuple[int, ...]:
    return cut.tile_width, cut.tile_height, cut.margin_x, cut.margin_y, cut.spacing_x, cut.spacing_y


@settings(max_examples=8)
@example(seed=1, shape=(2, 3, 13, 13), gaps=Gaps(0, 0, 1))
@given(
    seed=st.integers(0, 2**32 - 1),
    shape=st.tuples(st.integers(2, 4), st.integers(3, 5), st.integers(12, 40), st.integers(12, 40)),
    gaps=st.builds(Gaps, st.integers(0, 3), st.integers(0, 4), st.integers(1, 2)),
)
def test_a_sheet_that_was_packed_with_repeated_edges_is_cut_without_them(seed, shape, gaps):
    tiles = drawn(seed, *shape)
    best = look_over(repack(tiles, gaps)).guesses[0]
    assert numbers(best) == numbers(repacked_cut(Cut("all", *tiles.shape[3:1:-1]), gaps))
    assert f"{gaps.extrude} px at the sides of the tiles repeat their edges" in best.reason
    assert left_out(repack(tiles, gaps), best.as_cut("all")) == gaps.extrude


def test_a_part_with_repeated_edges_is_cut_without_them_however_roughly_it_was_drawn():
    tiles = drawn(7, 3, 4, 24, 24)
    part = np.pad(repack(tiles, Gaps(0, 3, 2)), ((5, 9), (11, 2), (0, 0)))
    assert numbers(guess_part(part)[0]) == (24, 24, 13, 7, 7, 7)


@pytest.mark.parametrize("times", [2, 3, 4])
def test_art_that_was_drawn_small_and_enlarged_keeps_its_edges(times):
    small = drawn(3, 4, 4, 16, 16).swapaxes(1, 2).reshape(64, 64, 4)
    best = look_over(small.repeat(times, axis=0).repeat(times, axis=1)).guesses[0]
    assert best.spacing_x == best.margin_x == 0
    assert "repeat" not in best.reason


def test_things_with_clear_borders_and_plain_tiles_keep_what_is_round_them():
    tiles = drawn(5, 3, 4, 20, 20)
    tiles[:, :, [0, 1, 2, -3, -2, -1]] = 0
    tiles[:, :, :, [0, 1, 2, -3, -2, -1]] = 0
    tiles[0, 0] = WOOD[0]
    sheet, cut = repack(tiles, Gaps(0, 2, 0)), Cut("all", 20, 20, 0, 0, 2, 2)
    assert without_repeats(sheet, cut) == cut
    assert "repeat" not in look_over(sheet).guesses[0].reason


def test_who_cuts_with_the_repeated_edges_is_offered_the_numbers_without():
    tiles = drawn(9, 3, 4, 16, 16)
    sheet, without = repack(tiles, Gaps(1, 2, 2)), Cut("all", 16, 16, 3, 3, 6, 6)
    better = Severing(sheet).better(Cut("all", 20, 20, 1, 1, 2, 2))
    assert better is not None
    assert (better.cut, better.sentence) == (without, "2 px less at every side leaves out repeated edges")
    assert Severing(sheet).better(without) is None


@pytest.mark.parametrize("ground", [(0, 0, 0, 0), (255, 0, 255, 255)])
def test_room_round_tiles_that_may_be_a_gutter_hides_no_repeated_edges(ground):
    tiles = drawn(11, 1, 6, 30, 24)
    sheet = repack(tiles, Gaps(1, 2, 1))
    sheet[sheet[..., 3] == 0] = ground
    cut = look_over(sheet).guesses[0]
    assert numbers(cut)[:5] == (24, 30, 2, 2, 4)
    assert without_repeats(sheet, Cut("all", 28, 34)) == Cut("all", 24, 30, 2, 2, 4, 4)


def test_nearly_one_colour_over_much_of_the_tiles_hides_no_repeated_edges():
    # As photographs have it: what is nearly the commonest colour is made just that before a grid is looked for.
    random = np.random.default_rng(4)
    tiles = drawn(12, 4, 5, 24, 24)
    earth = random.random(tiles.shape[:4]) < 0.8
    tiles[earth, :3] = random.integers((114, 88, 56), (123, 97, 65), (int(earth.sum()), 3))
    sheet = repack(tiles, Gaps(0, 1, 1))
    assert settled(sheet) is not sheet
    assert numbers(look_over(sheet).guesses[0]) == (24, 24, 1, 1, 3, 3)


def test_outlines_that_stand_upright_are_no_repeated_edges():
    random = np.random.default_rng(8)
    ys, xs = np.mgrid[0:24, 0:20]
    inside = np.abs(ys - 11.5) < 12.5 - np.abs(xs - 9.5) * 0.6
    tiles = np.zeros((6, 4, 24, 20, 4), np.uint8)
    tiles[..., inside, :3] = random.integers(40, 256, (6, 4, 1, 3))
    tiles[..., inside, 3] = 255
    tiles[random.random(tiles.shape[:4]) < 0.03, :3] = 20
    best = look_over(repack(tiles, Gaps(11, 6, 0))).guesses[0]
    assert numbers(best) == (20, 24, 11, 11, 6, 6)


@pytest.mark.parametrize("size", [(1, 40), (40, 1), (1, 1)])
def test_a_line_of_pixels_shows_no_edges(size):
    assert grid_of_edges(np.full((*size, 4), 255, np.uint8)) is None
