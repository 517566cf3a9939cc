"""The guess of a cut over many made-up sheets, and on special ones."""

import sys
from collections.abc import Callable, Iterable
from dataclasses import replace
from itertools import product
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.guess import guess_cuts
from knitground.core.sheet.gutters import gutter_key
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.plausible import Hints
from making import DEMO, block, sheet_of_tiles

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "bench"))
from guess_cases import flat_case, headed_case, is_cut, make_case, shape_case, wide_case
from small_sheets import small_case
from unkind_sheets import KINDS, unkind_case


def numbers(guess) -> tuple[int, ...]:
    return guess.tile_width, guess.tile_height, guess.margin_x, guess.margin_y, guess.spacing_x, guess.spacing_y


def test_most_first_guesses_are_exact_and_nearly_all_among_the_first_three():
    first = among = 0
    seeds = range(600, 614)
    for seed in seeds:
        sheet, truth, _ = make_case(seed)
        cuts = [numbers(guess) for guess in guess_cuts(sheet)]
        first += cuts[0] == truth
        among += truth in cuts[:3]
    assert first >= 0.85 * len(seeds)
    assert among >= 0.92 * len(seeds)


@pytest.mark.parametrize(
    ("name", "cut", "place"),
    [
        ("roofs", (16, 16, 0, 0, 0, 0), 1),
        ("trims", (16, 16, 0, 0, 0, 0), 1),
        ("glasshouse", (32, 40, 0, 0, 2, 2), 1),
        ("props", (16, 16, 3, 3, 2, 2), 1),
    ],
)
def test_the_sheets_of_the_demo_are_guessed(name, cut, place):
    picture = np.asarray(Image.open(DEMO / "sheets" / f"{name}.png").convert("RGBA"))
    assert cut in [numbers(guess) for guess in guess_cuts(picture)[:place]]


@pytest.mark.parametrize("gutter", [(0, 0, 0, 0), (255, 0, 255, 255), (0, 0, 0, 255), (255, 255, 255, 255)])
def test_gutters_of_any_colour_are_seen(gutter):
    picture = sheet_of_tiles(9, 7, 16, 1, 1, seed=5)
    picture[picture[..., 3] == 0] = gutter
    assert numbers(guess_cuts(picture)[0]) == (16, 16, 1, 1, 1, 1)


def test_unequal_numbers_across_and_down_are_found():
    picture = sheet_of_tiles(9, 7, 24, 0, 2, seed=6)
    across = np.delete(picture, [x for x in range(picture.shape[1]) if x % 26 >= 24], axis=1)
    assert numbers(guess_cuts(across)[0]) == (24, 24, 0, 0, 0, 2)


def test_left_over_pixels_do_not_mislead():
    picture = sheet_of_tiles(8, 8, 16, seed=7)
    wider = np.zeros((picture.shape[0] + 5, picture.shape[1] + 9, 4), np.uint8)
    wider[: picture.shape[0], : picture.shape[1]] = picture
    best = guess_cuts(wider)[0]
    assert numbers(best) == (16, 16, 0, 0, 0, 0)
    assert (best.columns, best.rows) == (8, 8)


@pytest.mark.parametrize("pixels", [np.zeros((64, 64, 4), np.uint8), np.full((64, 64, 4), 255, np.uint8)])
def test_a_picture_of_one_colour_gives_a_humble_answer_or_none(pixels):
    guesses = guess_cuts(pixels)
    assert all(guess.columns >= 1 and guess.rows >= 1 for guess in guesses)


@pytest.mark.parametrize("kind", KINDS)
def test_unkind_sheets_are_guessed_more_often_than_not(kind):
    first = among = 0
    seeds = range(235 * len(KINDS) + KINDS.index(kind), 238 * len(KINDS), len(KINDS))
    for seed in seeds:
        sheet, truth, says = unkind_case(seed)
        assert says.startswith(kind)
        cuts = [numbers(guess) for guess in guess_cuts(sheet)]
        first += cuts[0] == truth
        among += truth in cuts[:3]
    assert first >= len(seeds) / 2
    assert among >= 0.6 * len(seeds)


def test_features_drawn_right_over_the_gutters_hide_no_spacing():
    sheet = sheet_of_tiles(12, 9, 16, 1, 1, seed=5)
    sheet[18:52, 35:69] = (90, 120, 60, 255)
    assert numbers(guess_cuts(sheet)[0]) == (16, 16, 1, 1, 1, 1)


@pytest.mark.parametrize("spacing", [0, 1, 2])
def test_the_first_three_guesses_differ_in_more_than_the_margin(spacing):
    guesses = [numbers(guess) for guess in guess_cuts(sheet_of_tiles(12, 9, 16, spacing, spacing, seed=5))[:3]]
    assert len({(*one[:2], *one[4:]) for one in guesses}) == 3


def test_two_rows_with_clear_gutters_and_odd_numbers_are_guessed():
    sheet = sheet_of_tiles(8, 2, 24, 5, 3, seed=5)
    assert (24, 24, 5, 5, 3, 3) in [numbers(guess) for guess in guess_cuts(sheet)[:3]]


def test_what_few_rows_leave_open_is_settled_by_the_other_axis_and_by_whole_tiles():
    # Two rows of tiles: by themselves they would show nearly any pitch.
    for spacing in (0, 1):
        sheet = sheet_of_tiles(9, 2, 48, 0, spacing, seed=8)
        assert numbers(guess_cuts(sheet)[0]) == (48, 48, 0, 0, spacing, spacing)


def test_a_size_that_no_tile_has_is_one_with_a_gutter():
    # Each tile has a clear rim of one pixel all round, so that 34 without spacing would be as good.
    sheet = sheet_of_tiles(11, 8, 32, 1, 2, seed=9)
    sheet = np.pad(sheet, ((0, 1), (0, 1), (0, 0)))[: 8 * 34, : 11 * 34]
    found = [numbers(guess) for guess in guess_cuts(sheet)[:3]]
    assert found[0][:2] in ((32, 32), (30, 30))


def test_the_confidence_is_how_often_the_first_guess_is_right():
    told, right = 0.0, 0
    seeds = range(3200, 3214)
    for seed in seeds:
        sheet, truth, _ = unkind_case(seed)
        guesses = guess_cuts(sheet)
        told += guesses[0].confidence
        right += numbers(guesses[0]) == truth
    assert abs(told - right) <= 0.25 * len(seeds)


def test_only_a_grid_that_drawn_lines_show_is_told_to_be_wholly_sure():
    touching, lined = sheet_of_tiles(8, 6, 16, seed=4), np.full((6 * 17 - 1, 8 * 17 - 1, 4), 255, np.uint8)
    for row, column in np.ndindex(6, 8):
        one = touching[row * 16 : row * 16 + 16, column * 16 : column * 16 + 16]
        lined[row * 17 : row * 17 + 16, column * 17 : column * 17 + 16] = one
    (plain, *_), (drawn, *_) = guess_cuts(touching), guess_cuts(lined)
    assert numbers(plain)[:2] == numbers(drawn)[:2] == (16, 16)
    assert plain.confidence > 0.95 > plain.sureness > 0.8
    assert drawn.sureness == drawn.confidence > 0.95


@pytest.mark.parametrize("inner", [12, 16])
def test_small_art_in_the_middle_of_large_cells_is_not_a_grid_that_begins_inside(inner):
    sheet, at = np.zeros((64, 256, 4), np.uint8), (32 - inner) // 2
    tiles = sheet_of_tiles(8, 2, inner, seed=4)
    for row in range(2):
        for column in range(8):
            sheet[row * 32 + at :, column * 32 + at :][:inner, :inner] = tiles[
                row * inner : (row + 1) * inner, column * inner : (column + 1) * inner
            ]
    assert (32, 32, 0, 0, 0, 0) in [numbers(guess) for guess in guess_cuts(sheet)[:3]]


def test_wide_gutters_of_one_colour_are_gutters_to_their_last_line():
    rng = np.random.default_rng(4)
    size, margin, spacing = 22, 3, 4
    sheet = np.zeros((4 * size + 3 * spacing + 2 * margin, 5 * size + 4 * spacing + 2 * margin, 4), dtype=np.uint8)
    sheet[:] = (255, 0, 255, 255)
    for row in range(4):
        for column in range(5):
            y, x = margin + row * (size + spacing), margin + column * (size + spacing)
            colour = np.array([(60, 120, 190), (220, 190, 120)][(row + column) % 2])
            sheet[y : y + size, x : x + size, :3] = colour + rng.integers(-14, 14, (size, size, 1))
    assert numbers(guess_cuts(sheet)[0]) == (size, size, margin, margin, spacing, spacing)


def test_what_fills_the_gutters_is_told_where_tiles_stand_on_it():
    sheet = np.zeros((2 * 20 + 3 * 2, 3 * 20 + 4 * 2, 4), dtype=np.uint8)
    sheet[:] = (255, 0, 255, 255)
    cut = Cut("x", 20, 20, 2, 2, 2, 2)
    sheet[8:16, 30:38, :3] = (90, 80, 70)
    assert gutter_key(sheet, [cut]) == "#ff00ff"
    sheet[22:24, 10:16, :3] = sheet[10:12, 43:46, :3] = (20, 20, 20)
    assert gutter_key(sheet, [cut]) == "#ff00ff", "a caption across gutters"
    for row in range(2):
        for column in range(3):
            sheet[2 + row * 22 : 22 + row * 22, 2 + column * 22 : 22 + column * 22, :3] = (90, 80, 70)
    assert gutter_key(sheet, [cut]) is None, "lines that are ruled between tiles"
    assert gutter_key(np.zeros_like(sheet), [cut]) is None, "clear already"
    assert gutter_key(sheet, [replace(cut, margin_x=90)]) is None, "a cut that doesn't fit"


def test_what_fills_empty_cells_is_told_where_tiles_lie_without_gaps():
    random = np.random.default_rng(4)
    sheet = np.full((60, 80, 4), (255, 0, 255, 255), dtype=np.uint8)
    sheet[:20, :, :3] = random.integers(40, 200, (20, 80, 3))
    sheet[26:34, 6:14, :3] = sheet[26:38, 28:32, :3] = (90, 80, 70)
    cut = Cut("x", 20, 20)
    assert gutter_key(sheet, [cut]) == "#ff00ff"
    for column in range(4):
        sheet[40:, column * 20 : column * 20 + 20, :3] = (60 + 30 * column, 120, 60)
    sheet[20:40, 40:, :3] = random.integers(40, 200, (20, 40, 3))
    assert gutter_key(sheet, [cut]) is None, "flat tiles, each of another colour"


def test_a_pure_colour_is_told_where_every_cell_holds_a_thing():
    for colour, told in (((255, 0, 255), "#ff00ff"), ((90, 140, 70), None)):
        strip = np.full((20, 100, 4), (*colour, 255), dtype=np.uint8)
        strip[4:16].reshape(12, 5, 20, 4)[:, :, 4:16, :3] = np.random.default_rng(1).integers(40, 200, (12, 5, 12, 3))
        assert gutter_key(strip, [Cut("x", 20, 20)]) == told


def test_what_fills_the_gutters_is_told_of_all_parts_together():
    sheet = np.zeros((90, 80, 4), dtype=np.uint8)
    sheet[:] = (60, 20, 70, 255)
    full = Cut("full", 20, 20, 2, 2, 2, 2, region=Rect(0, 0, 80, 46))
    things = Cut("things", 24, 30, 2, 2, 2, 2, region=Rect(0, 50, 80, 40))
    for x, y in product((2, 24, 46), (2, 24)):
        sheet[y : y + 20, x : x + 20, :3] = (120, 90, 50)
        sheet[y + 4, x + 4, 0] = 20
    for x in (2, 28, 54):
        sheet[60:76, x + 6 : x + 14, :3] = (200, 190, 80)
    assert gutter_key(sheet, [full, things]) == "#3c1446"
    assert gutter_key(sheet, [things]) is None, "much else lies beside them"
    assert gutter_key(sheet, [full]) is None, "nothing stands on it"


def test_shapes_far_apart_are_framed_whatever_is_left_over_at_the_far_borders():
    exact = 0
    for seed in range(20):
        sheet, truth, _ = shape_case(seed)
        exact += truth in [numbers(guess) for guess in guess_cuts(sheet)[:3]]
    assert exact >= 19


def right_at_first(make: Callable[[int], tuple], seeds: Iterable[int]) -> tuple[int, int]:
    """How many sheets have all numbers right at first, and how many the pitch."""
    exact = pitch = 0
    for seed in seeds:
        sheet, truth, _ = make(seed)
        first = numbers(guess_cuts(sheet)[0])
        exact += first == truth
        pitch += (first[0] + first[4], first[1] + first[5]) == (truth[0] + truth[4], truth[1] + truth[5])
    return exact, pitch


def test_tiles_farther_apart_than_gutters_are_wide_are_found_where_they_lie():
    exact, pitch = right_at_first(wide_case, range(12))
    assert exact >= 6
    assert pitch >= 10


def test_things_of_one_plain_colour_side_by_side_are_not_taken_for_the_ground():
    exact, pitch = right_at_first(flat_case, range(40, 80))
    assert exact >= 35
    assert pitch >= 37


def test_things_of_many_sizes_do_not_drift_in_their_tiles():
    rng = np.random.default_rng(8)
    for seed in range(8):
        sheet = np.zeros((4 * 54, 9 * 42, 4), np.uint8)
        for row, column in product(range(4), range(9)):
            high, wide = rng.integers(14, 44), rng.integers(12, 34)
            art = rng.integers(60, 200, (high, wide, 4), np.uint8) // 3 * 3
            art[..., 3] = 255
            left, top = column * 42 + (34 - wide) // 2, row * 54 + 46 - high
            sheet[top : top + high, left : left + wide] = art
        best = guess_cuts(sheet)[0]
        assert (best.tile_width + best.spacing_x, best.tile_height + best.spacing_y) == (42, 54), seed


def test_what_is_written_above_the_art_hides_no_grid():
    first = 0
    seeds = range(7000, 7008)
    for seed in seeds:
        sheet, truth, _ = headed_case(seed)
        first += truth in [numbers(guess) for guess in guess_cuts(sheet)[:3]]
    assert first >= len(seeds) / 2
    sheet = sheet_of_tiles(8, 5, 24, 6, 2, seed=3)
    head = np.zeros((14, sheet.shape[1], 4), np.uint8)
    head[3:10, 6:70] = np.where(np.random.default_rng(1).random((7, 64, 1)) < 0.3, (20, 20, 30, 255), 0)
    assert numbers(guess_cuts(np.concatenate([head, sheet]))[0]) == (24, 24, 6, 20, 2, 2)


def guesses_on_small_sheets(seeds: Iterable[int], hint: Callable[[tuple], Hints]) -> tuple[int, int]:
    """How many small sheets are right at first, and how many among three, with what is known of each."""
    first = among = 0
    for seed in seeds:
        sheet, truth, _ = small_case(seed)
        right = [is_cut(numbers(guess), truth, sheet) for guess in guess_cuts(sheet, hints=hint(truth))[:3]]
        first += right[0]
        among += any(right)
    return first, among


def test_where_pixels_tell_little_tiles_are_as_large_as_is_usual_and_goes_into_the_picture():
    first, among = guesses_on_small_sheets(range(600, 630), lambda truth: Hints())
    assert first >= 15
    assert among >= 22


def test_a_sheet_is_likely_to_be_cut_as_others_of_the_project_unless_it_shows_otherwise():
    first, among = guesses_on_small_sheets(range(600, 630), lambda truth: Hints({truth[:2]}))
    assert first >= 24
    assert among >= 27
    best = guess_cuts(small_case(600)[0], hints=Hints({small_case(600)[1][:2]}))[0]
    assert best.reason.endswith("other sheets of the project are cut so")
    for spacing in (0, 2):
        sheet = sheet_of_tiles(12, 9, 24, spacing, spacing, seed=5)
        best = guess_cuts(sheet, hints=Hints({(32, 32), (16, 16)}))[0]
        assert numbers(best) == (24, 24, spacing, spacing, spacing, spacing)


def test_a_guess_from_a_usual_size_says_that_little_shows():
    sheet = np.full((96, 128, 4), (90, 70, 60, 255), np.uint8)
    best = guess_cuts(sheet)[0]
    assert (best.tile_width, best.tile_height) in ((16, 16), (32, 32))
    assert best.reason == f"little shows, and {best.tile_width} px is usual"
    usual = [(one.tile_width, one.tile_height) for one in guess_cuts(sheet)[:3]]
    assert {(16, 16), (32, 32)} < set(usual), "where little shows, other usual sizes come next"
    assert "breaks off" in guess_cuts(sheet_of_tiles(9, 7, 16, 0, 0, seed=5))[0].reason


@pytest.mark.parametrize("seed", range(4))
def test_a_row_that_art_hardly_fills_is_no_heading_where_it_keeps_off_the_gutters(seed):
    side = (16, 20, 24, 18)[seed]
    tiles = np.stack(block(seed, 6, 5, side)).reshape(5, 6, side, side, 4)
    sheet = np.zeros((5 * (side + 2) + 2, 6 * (side + 2) + 2, 4), np.uint8)
    for row, column in np.ndindex(5, 6):
        top, left = 2 + row * (side + 2), 2 + column * (side + 2)
        sheet[top : top + side, left : left + side] = tiles[row, column]
    best = guess_cuts(sheet)[0]
    assert (best.tile_width, best.tile_height, best.margin_x, best.margin_y, best.rows) == (side, side, 2, 2, 5)
    below = np.zeros((len(sheet) + 60, sheet.shape[1], 4), np.uint8)
    below[: len(sheet)] = sheet
    small = sheet_of_tiles(8, 2, 10, 0, 3, seed)
    below[len(sheet) + 20 :][: len(small), 5 : 5 + small.shape[1]] = small
    regions = [part.region for part in look_over(below).parts]
    assert [regions[0].y, len(regions)] == [2, 2], "the first row is in the part, too"
