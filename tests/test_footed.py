"""Sheets of isometric tiles of all heights: how far apart they are is told by their feet."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import signal

from knitground.core.sheet.footed import bottoms, footed_cut
from knitground.core.sheet.footing import with_shape
from knitground.core.sheet.parts import look_over
from test_footing import block, grid_of_tiles, post


def standing(art: np.ndarray, size: tuple[int, int], foot: tuple[int, int]) -> np.ndarray:
    """A tile of a size with art whose lowest row, and its middle, lie at a place."""
    tile = np.zeros((size[1], size[0], 4), np.uint8)
    height, width = art.shape[:2]
    tile[foot[1] - height : foot[1], foot[0] - width // 2 : foot[0] - width // 2 + width] = art
    return tile


def mixed_sheet(width: int, room: tuple[int, int, int, int], ups: list[int], seed: int) -> tuple[np.ndarray, int, int]:
    """A sheet of blocks of some heights, and of posts, with room round their cells; and how far apart these are."""
    left, above, right, below = room
    size = left + width + right, above + max(width, *ups) + width // 2 + below
    foot = left + width // 2, size[1] - below
    tiles = [standing(block(width, width // 2, up), size, foot) for up in ups]
    tiles += [standing(post(9, width // 2 + 6), size, (foot[0], foot[1] - width // 4)) for _ in range(3)]
    order = np.random.default_rng(seed).permutation(len(tiles))
    return grid_of_tiles([tiles[number] for number in order], 4), *size


@given(
    width=st.integers(8, 24).map(lambda quarter: 4 * quarter),
    room=st.tuples(*[st.integers(1, 7)] * 4),
    ups=st.lists(st.integers(0, 50), min_size=9, max_size=16),
    seed=st.integers(0, 999),
)
@settings(max_examples=25, deadline=None)
def test_tiles_of_all_heights_are_as_far_apart_as_their_feet(width, room, ups, seed):
    sheet, across, down = mixed_sheet(width, room, ups, seed)
    cut = footed_cut(sheet[..., 3] > 0)
    assert cut is not None
    assert (cut.pitch_x, cut.pitch_y) == (across, down)
    # No art lies between the tiles.
    columns = (np.flatnonzero(sheet[..., 3].any(axis=0)) - cut.margin_x) % cut.pitch_x
    assert (columns < cut.tile_width).all()


@pytest.mark.parametrize("seed", range(3))
def test_such_a_sheet_is_cut_right_and_its_cells_are_known(seed):
    sheet, across, down = mixed_sheet(64, (5, 4, 9, 7), [0, 0, 0, 0, 0, 20, 45, 30, 0, 12, 0, 45], seed)
    overview = look_over(sheet)
    assert not overview.parts
    cut = with_shape(sheet, overview.guesses[0].as_cut("tiles"))
    assert (cut.pitch_x, cut.pitch_y) == (across, down)
    assert cut.shape == "isometric"
    assert cut.footprint == (64, 32)


def test_floors_that_touch_are_told_apart_by_their_feet():
    tiles = [standing(block(48, 24, up), (48, 70), (24, 68)) for up in (0, 20, 0, 0, 40, 0, 0, 10, 0, 0, 0, 40)]
    cut = footed_cut(grid_of_tiles(tiles, 4)[..., 3] > 0)
    assert cut is not None
    assert (cut.pitch_x, cut.pitch_y, cut.margin_x, cut.tile_width) == (48, 70, 0, 48)


def test_what_stands_on_no_diamonds_tells_nothing():
    rows, columns = np.mgrid[:32, :32] - 15.5
    ball = np.zeros((36, 36), bool)
    ball[2:34, 2:34] = rows**2 + columns**2 < 250
    assert footed_cut(np.tile(ball, (4, 5))) is None
    box = np.pad(np.ones((24, 30), bool), 4)
    assert footed_cut(np.tile(box, (4, 5))) is None
    for nothing in (np.zeros((40, 40), bool), np.ones((40, 40), bool), np.eye(64, dtype=bool)):
        assert footed_cut(nothing) is None


def test_feet_in_no_even_lines_tell_nothing():
    sheet = np.zeros((400, 400), bool)
    random = np.random.default_rng(2)
    for row in range(4):
        for column in range(4):
            y, x = 100 * row + int(random.integers(0, 50)), 100 * column + int(random.integers(0, 30))
            sheet[y : y + 32, x : x + 64] = block(64, 32)[..., 3] > 0
    assert footed_cut(sheet) is None


@given(low=st.lists(st.integers(0, 9), min_size=1, max_size=40), deep=st.integers(1, 6))
def test_an_outline_is_lowest_at_its_peaks_of_that_prominence(low, deep):
    padded = np.array([0.0, *low, 0.0])
    assert bottoms(padded[1:-1], deep) == (signal.find_peaks(padded, prominence=deep)[0] - 1).tolist()
