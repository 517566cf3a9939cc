"""Strips, one row or column of frames or things that is all of a picture: cut right at the first guess."""

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from knitground.core.sheet.cut import Cut, grid_of, tile_rect
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.strips import Likeness, differences
from knitground.core.sheet.things_in_row import row_of_things


def lamp(w: int, h: int, part: float, ink: tuple[int, int, int]) -> np.ndarray:
    """A round shade on a post, as high as a part of its cell says, standing on its lower border."""
    rows, columns = np.mgrid[:h, :w] + 0.5
    top, reach = h * (1 - part), w * 0.45
    art = np.zeros((h, w, 4), np.uint8)
    art[(np.abs(columns - w / 2) < w * 0.2) & (rows > top + reach)] = (*ink, 255)
    art[(columns - w / 2) ** 2 + (rows - top - reach) ** 2 < reach**2] = (*ink, 255)
    return art


def in_row(cells: list[np.ndarray], gap: int, above: int = 0, below: int = 0) -> np.ndarray:
    """Cells side by side, so many pixels apart, with room above and below all."""
    apart = [np.pad(cell, ((above, below), (0, gap), (0, 0))) for cell in cells]
    return np.concatenate(apart, axis=1)[:, : len(cells) * (cells[0].shape[1] + gap) - gap]


def kept(art: np.ndarray, cut: Cut) -> bool:
    """Whether all of some art lies in the tiles of a cut."""
    left = art.copy()
    grid = grid_of(cut, art.shape[1], art.shape[0])
    for row in range(grid.rows):
        for column in range(grid.columns):
            left[tile_rect(cut, column, row).slices()] = False
    return not left.any()


@given(
    w=st.integers(12, 48),
    high=st.sampled_from([0.8, 1.0, 1.5, 2.0]),
    parts=st.lists(st.floats(0.8, 1), min_size=4, max_size=12),
    gap=st.integers(0, 4),
    room=st.tuples(st.integers(0, 6), st.integers(0, 3)),
    down=st.booleans(),
)
@settings(max_examples=40, deadline=None)
def test_separate_things_in_one_row_have_a_cell_each_whatever_room_is_above_or_below(w, high, parts, gap, room, down):
    assume(int(w * high) + sum(room) <= 2.5 * (w + gap))  # what is higher yet may be several rows
    inks = np.random.default_rng(w).integers(30, 230, (len(parts), 3))
    cells = [lamp(w, int(w * high), part, tuple(ink)) for part, ink in zip(parts, inks.tolist(), strict=True)]
    sheet = in_row(cells, gap, *room)
    sheet = sheet.swapaxes(0, 1) if down else sheet
    cut = row_of_things(sheet, sheet[..., 3] > 0)
    assert cut is not None
    assert (cut.pitch_y if down else cut.pitch_x) == w + gap
    assert kept(sheet[..., 3] > 0, cut)


@pytest.mark.parametrize("down", [False, True])
def test_frames_that_fill_their_cells_are_told_by_how_alike_they_are(down):
    random = np.random.default_rng(4)
    box = random.integers(60, 200, (44, 34, 1)).repeat(4, axis=2).astype(np.uint8)
    box[..., 3] = 255
    frames = []
    for number in range(9):
        frame = box.copy()
        frame[10 : 14 + 2 * number, 8:14, :3] = (240, 60, 40)
        frames.append(frame)
    sheet = in_row(frames, 0)
    sheet = sheet.swapaxes(0, 1) if down else sheet
    overview = look_over(sheet)
    wide, high = (44, 34) if down else (34, 44)
    assert overview.guesses[0].as_cut("") == Cut("", wide, high)
    assert not overview.parts


def test_rows_of_things_that_touch_are_no_strip():
    inks = np.random.default_rng(7).integers(30, 230, (14, 3)).tolist()
    rows = [in_row([lamp(32, 32, 1.0, tuple(ink)) for ink in some], 0) for some in (inks[:7], inks[7:])]
    sheet = np.concatenate(rows)
    assert row_of_things(sheet, sheet[..., 3] > 0) is None
    guess = look_over(sheet).guesses[0]
    assert (guess.tile_width, guess.tile_height) == (32, 32)


def test_full_tiles_within_a_frame_say_all_numbers():
    tiles = [np.full((20, 20, 4), 255 - n, np.uint8) for n in range(5)]
    sheet = np.pad(in_row(tiles, 2), ((3, 3), (3, 3), (0, 0)))
    assert row_of_things(sheet, sheet[..., 3] > 0) == Cut("", 20, 20, 3, 3, 2, 2)


@pytest.mark.parametrize("size", [(1, 1), (1, 90), (90, 1), (40, 40), (12, 200)])
def test_what_is_no_row_tells_none(size):
    for art in (np.zeros(size, bool), np.ones(size, bool)):
        picture = np.where(art[..., None], np.uint8(200), np.uint8(0)).repeat(4, axis=2)
        assert row_of_things(picture, art) is None
        assert Likeness.of(picture) == Likeness({}, {})


@given(st.integers(0, 2**32 - 1))
@settings(max_examples=20)
def test_what_differs_is_told_as_by_moving_the_lines_themselves(seed):
    random = np.random.default_rng(seed)
    lines = random.integers(0, 256, (3, int(random.integers(8, 40)), 4), np.uint8)
    alpha = lines[..., 3:] / 255
    seen = np.concatenate([lines[..., :3] / 255 * alpha, alpha], axis=2)
    length = seen.shape[1]
    moved = [((seen[:, far:] - seen[:, : length - far]) ** 2).sum() / (length - far) for far in range(length)]
    np.testing.assert_allclose(differences(lines), moved, atol=1e-9)
