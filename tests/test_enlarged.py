"""Sheets whose art was enlarged, so that each of its pixels is a block."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.cuts import cut_of_part, guess_in
from knitground.core.joins.find import find_sets
from knitground.core.joins.infer import infer_labels
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.enlarged import enlarged, tiles_enlarged
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.picture import Sheet
from making import sheet_of_tiles
from test_rimmed import laid, platform


def larger(picture: np.ndarray, times: int) -> np.ndarray:
    """The same with each pixel as a block."""
    return picture.repeat(times, axis=0).repeat(times, axis=1)


def numbers(one) -> tuple[int, ...]:
    return one.tile_width, one.tile_height, one.margin_x, one.margin_y, one.spacing_x, one.spacing_y


@pytest.mark.parametrize("times", [2, 3, 4, 8])
@pytest.mark.parametrize(("side", "margin", "spacing"), [(16, 0, 0), (16, 1, 1), (12, 2, 3)])
def test_enlarged_art_is_cut_as_at_its_own_size(times, side, margin, spacing):
    sheet = sheet_of_tiles(9, 7, side, margin, spacing, seed=5)
    plain, large = look_over(sheet).guesses[0], look_over(larger(sheet, times)).guesses[0]
    assert numbers(plain) == (side, side, margin, margin, spacing, spacing)
    assert numbers(large) == tuple(number * times for number in numbers(plain))
    assert (large.columns, large.rows, large.confidence) == (plain.columns, plain.rows, plain.confidence)
    assert large.reason.endswith(f"each pixel of the art is {times} x {times}")


def test_two_grids_of_enlarged_art_are_parts_as_large():
    sheet = np.zeros((200, 160, 4), np.uint8)
    sheet[:96, :128] = sheet_of_tiles(8, 6, 16, 0, 0, seed=3)
    below = sheet_of_tiles(6, 3, 20, 2, 3, seed=4)
    sheet[120 : 120 + len(below), : below.shape[1]] = below
    plain, large = look_over(sheet).parts, look_over(larger(sheet, 3)).parts
    assert len(plain) >= 2
    assert [tuple(one.region) for one in large] == [tuple(3 * number for number in one.region) for one in plain]
    assert [numbers(one) for one in large] == [tuple(3 * number for number in numbers(one)) for one in plain]


@pytest.mark.parametrize("at", [(0, 0), (5, 2), (3, 7)])
def test_a_part_that_begins_amid_a_block_is_cut_where_its_tiles_are(at):
    art = larger(sheet_of_tiles(8, 6, 16, 0, 2, seed=6), 4)
    picture = np.zeros((500, 700, 4), np.uint8)
    picture[20 : 20 + len(art), 40 : 40 + art.shape[1]] = art
    left, top = at
    region = Rect(40 - left, 20 - top, art.shape[1] + left, len(art) + top)
    cut, _ = cut_of_part(Sheet("s", "s.png", (Cut("a", 16, 16),)), picture, region)
    assert (cut.tile_width, cut.tile_height, cut.spacing_x, cut.spacing_y) == (64, 64, 8, 8)
    assert (cut.region.x + cut.margin_x, cut.region.y + cut.margin_y) == (40, 20)
    found = guess_in(picture, Sheet("s", "s.png", (cut,)), cut).cuts[0][0]
    assert (found.tile_width, found.spacing_x, found.region.x + found.margin_x) == (64, 8, 40)


def test_flat_squares_are_not_taken_for_pixels():
    colours = np.random.default_rng(2).integers(0, 256, (8, 12, 4), dtype=np.uint8)
    colours[..., 3] = 255
    for side in (16, 24, 32):
        assert enlarged(larger(colours, side)).times == 1
    assert enlarged(larger(colours, 32)).times == 1
    frames = np.zeros((128, 256, 4), np.uint8)
    frames[8:64, 16:96], frames[80:120, 32:240] = (90, 80, 70, 255), (40, 80, 120, 255)
    assert enlarged(frames).times == 1


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 6), st.integers(0, 5), st.integers(0, 5), st.integers(0, 2**32 - 1))
def test_the_art_is_had_back_wherever_its_blocks_begin(times, left, top, seed):
    art = np.random.default_rng(seed).integers(0, 256, (30, 40, 4), dtype=np.uint8)
    art[..., 3] = 255
    left, top = left % times, top % times
    picture = np.zeros((30 * times + top, 40 * times + left, 4), np.uint8)
    picture[top:, left:] = larger(art, times)
    found = enlarged(picture)
    assert found.times == times
    if times > 1:
        assert (found.left, found.top) == (left, top)
        assert (found.shrunk(picture) == art).all()


@pytest.mark.parametrize("times", [2, 4])
def test_sets_and_labels_of_enlarged_tiles_are_those_of_the_tiles_at_their_own_size(times):
    tiles, held = laid((1, 1, platform(3)))
    large = tiles.repeat(times, axis=2).repeat(times, axis=3)
    (plain,), (found,) = find_sets(tiles, held), find_sets(large, held)
    assert plain.kind == found.kind == "cell"
    assert plain.confidence == found.confidence
    assert (plain.cells == found.cells).all()
    assert (plain.labels == found.labels).all()
    small, big = infer_labels(tiles[held], "corner"), infer_labels(large[held], "corner")
    assert (small.labels == big.labels).all()
    assert (small.confidence == big.confidence).all()


def test_tiles_of_few_flat_shapes_are_at_their_own_size():
    quarters = np.random.default_rng(3).integers(0, 256, (20, 4, 4, 4), dtype=np.uint8)
    quarters[..., 3] = 255
    assert tiles_enlarged(quarters.repeat(4, axis=1).repeat(4, axis=2)) == 1
    eighths = np.random.default_rng(3).integers(0, 256, (20, 8, 8, 4), dtype=np.uint8)
    eighths[..., 3] = 255
    assert tiles_enlarged(eighths.repeat(4, axis=1).repeat(4, axis=2)) == 4
