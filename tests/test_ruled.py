"""Sheets on which lines are drawn between the tiles, as people do who hand them on."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from knitground.core.sheet.cut import tile_rect
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.profile import art_of
from knitground.core.sheet.ruled import ruled

LINE, INK = (0, 200, 90, 255), (20, 20, 20, 255)


def _thing(random, wide, high):
    """Something that leaves much of its cell bare, anywhere in it, (high, wide, 4)."""
    image = Image.new("RGBA", (wide, high))
    side = int(random.integers(4, max(5, min(wide, high) * 2 // 3)))
    x, y = int(random.integers(0, wide - side + 1)), int(random.integers(0, high - side + 1))
    draw = ImageDraw.Draw(image)
    draw.ellipse((x, y, x + side - 1, y + side - 1), fill=(*random.integers(60, 250, 3).tolist(), 255))
    draw.point((x + side // 2, y + side // 3), fill=(20, 20, 30, 255))
    return np.array(image)


def _sheet(random, tile, count, line, *, closed, share=0.7):
    """Cells between lines, with a line round all of them or none; some hold a thing."""
    (wide, high), (columns, rows) = tile, count
    pitch_x, pitch_y, margin = wide + line, high + line, line * closed
    size = rows * pitch_y - line + 2 * margin, columns * pitch_x - line + 2 * margin
    pixels = np.zeros((*size, 4), np.uint8)
    pixels[:] = LINE
    for row in range(rows):
        for column in range(columns):
            there = pixels[margin + row * pitch_y :, margin + column * pitch_x :][:high, :wide]
            there[:] = _thing(random, wide, high) if random.random() < share else 0
    return pixels


def _numbers(cut):
    return cut.tile_width, cut.tile_height, cut.spacing_x, cut.spacing_y


@settings(max_examples=12, deadline=None)
@given(
    seed=st.integers(0, 2**32),
    tile=st.tuples(st.integers(9, 70), st.integers(9, 70)),
    count=st.tuples(st.integers(3, 9), st.integers(3, 6)),
    line=st.integers(1, 3),
    closed=st.booleans(),
)
def test_lines_between_tiles_tell_how_a_sheet_is_cut_however_little_lies_in_them(seed, tile, count, line, closed):
    pixels = _sheet(np.random.default_rng(seed), tile, count, line, closed=closed)
    guesses, parts = look_over(pixels)
    cut = guesses[0].as_cut("")
    assert parts == []
    assert _numbers(cut) == (*tile, line, line)
    assert (cut.margin_x, cut.margin_y) == (line * closed, line * closed)
    assert (guesses[0].columns, guesses[0].rows) == count


def test_grids_between_lines_below_one_another_are_parts_and_a_panel_beside_them_is_none_of_their_tiles():
    random = np.random.default_rng(4)
    upper = _sheet(random, (60, 44), (6, 2), 1, closed=True)
    lower = _sheet(random, (27, 19), (12, 5), 1, closed=True)
    pixels = np.zeros((upper.shape[0] + 31 + lower.shape[0], 470, 4), np.uint8)
    pixels[: upper.shape[0], : upper.shape[1]] = upper
    pixels[-lower.shape[0] :, : lower.shape[1]] = lower
    panel = Image.fromarray(pixels)
    draw = ImageDraw.Draw(panel)
    draw.rectangle((380, 0, 469, pixels.shape[0] - 1), fill=(30, 40, 60, 255))
    draw.text((388, 20), "Reed and\nmud, by\nnobody", fill=LINE)
    _, parts = look_over(np.array(panel))
    grids = [cut for cut in parts if not cut.pieces]
    assert [_numbers(cut) for cut in grids] == [(60, 44, 1, 1), (27, 19, 1, 1)]
    assert [tuple(tile_rect(cut, 0, 0))[:2] for cut in grids] == [(1, 1), (1, upper.shape[0] + 32)]
    assert [grid.region.width for grid in grids] == [6 * 61 - 1, 12 * 28 - 1]
    assert all(piece.x >= 380 for cut in parts for piece in cut.pieces)


def test_a_line_of_one_grid_that_another_would_go_on_at_is_not_taken_for_its_own():
    """The lower grid's lines, gone on upwards, meet one of the upper grid."""
    random = np.random.default_rng(3)
    upper = _sheet(random, (26, 26), (9, 2), 1, closed=True, share=1.0)
    lower = _sheet(random, (40, 52), (6, 3), 1, closed=True)
    pixels = np.zeros((80 + lower.shape[0], 300, 4), np.uint8)
    pixels[: upper.shape[0], : upper.shape[1]] = upper
    pixels[80:, : lower.shape[1]] = lower
    _, parts = look_over(pixels)
    assert [(*_numbers(cut), *cut.region) for cut in parts] == [
        (26, 26, 1, 1, 1, 1, 9 * 27 - 1, 2 * 27 - 1), (40, 52, 1, 1, 1, 81, 6 * 41 - 1, 3 * 53 - 1)
    ]  # fmt: skip


def test_lines_that_large_things_hide_in_part_still_count():
    random = np.random.default_rng(8)
    pixels = _sheet(random, (32, 32), (9, 6), 1, closed=True)
    for row, column in ((1, 1), (1, 4), (1, 7), (4, 1), (4, 4), (4, 7)):
        spot = pixels[row * 33 - 20 : row * 33 + 50, column * 33 - 20 : column * 33 + 50]
        spot[:] = (*random.integers(60, 250, 3).tolist(), 255)
    guesses, parts = look_over(pixels)
    assert parts == []
    assert _numbers(guesses[0].as_cut("")) == (32, 32, 1, 1)


def test_lines_on_paper_show_though_the_paper_goes_on_for_longer_than_they_do():
    random = np.random.default_rng(6)
    image = Image.new("RGBA", (330, 250), (250, 250, 246, 255))
    image.paste(LINE, (10, 24, 10 + 7 * 23 + 1, 24 + 3 * 23 + 1))
    for row in range(3):
        for column in range(7):
            there = 11 + column * 23, 25 + row * 23
            cell = Image.fromarray(random.integers(80, 180, (22, 22, 4), dtype=np.uint8) | np.uint8([0, 0, 0, 255]))
            image.paste(cell, there)
    draw = ImageDraw.Draw(image)
    for number, (wide, high) in enumerate(((18, 34), (40, 26), (10, 50), (24, 22), (44, 38))):
        box = 14 + number * 62, 170 - high, 14 + number * 62 + wide, 170
        draw.rectangle(box, fill=(*random.integers(40, 220, 3).tolist(), 255), outline=INK)
    _, parts = look_over(np.array(image))
    assert [(*_numbers(cut), *cut.region) for cut in parts if not cut.pieces] == [(22, 22, 1, 1, 11, 25, 160, 68)]
    assert [len(cut.pieces) for cut in parts if cut.pieces] == [5]


def test_lines_round_the_tiles_that_hold_something_alone_tell_of_all():
    random = np.random.default_rng(9)
    pixels = _sheet(random, (40, 30), (9, 6), 1, closed=True, share=1.0)
    for row, columns in enumerate((9, 4, 6, 3, 7, 9)):
        pixels[row * 31 + 1 : row * 31 + 31, columns * 41 + 1 :] = 0
        if row < 5:
            pixels[row * 31 + 31, max(columns, (9, 4, 6, 3, 7, 9)[row + 1]) * 41 + 1 :] = 0
    guesses, parts = look_over(pixels)
    assert parts == []
    assert _numbers(guesses[0].as_cut("")) == (40, 30, 1, 1)


@pytest.mark.parametrize("wide", [31, 64, 97])
def test_lines_between_the_tiles_of_one_row_are_enough(wide):
    pixels = _sheet(np.random.default_rng(wide), (wide, 40), (9, 1), 1, closed=False)
    guesses, parts = look_over(pixels)
    assert parts == []
    assert _numbers(guesses[0].as_cut(""))[:3] == (wide, 40, 1)


@pytest.mark.parametrize("sides", ["all", "left and top"])
def test_outlines_of_the_tiles_themselves_are_no_lines_between_them(sides):
    random = np.random.default_rng(2)
    tiles = random.integers(90, 200, (5, 8, 24, 24, 4), dtype=np.uint8)
    tiles[..., 3] = 255
    tiles[:, :, 0] = tiles[:, :, :, 0] = (20, 20, 20, 255)
    if sides == "all":
        tiles[:, :, -1] = tiles[:, :, :, -1] = (20, 20, 20, 255)
    pixels = tiles.transpose(0, 2, 1, 3, 4).reshape(120, 192, 4)
    colour = pixels.astype(np.int16)
    assert ruled(colour, art_of(colour)) is None


@pytest.mark.parametrize("seed", range(6))
def test_one_row_of_tiles_is_not_parted_where_some_hold_little(seed):
    random = np.random.default_rng(seed)
    image = Image.new("RGBA", (224, 32))
    draw = ImageDraw.Draw(image)
    for left in range(0, 224, 32):
        if left < 96:
            draw.rectangle((left, 0, left + 31, 31), fill=(*random.integers(60, 220, 3).tolist(), 255), outline=INK)
            draw.ellipse((left + 6, 6, left + 25, 25), fill=(*random.integers(60, 220, 3).tolist(), 255))
            continue
        for _ in range(int(random.integers(1, 4))):
            x, y = left + int(random.integers(5, 16)), int(random.integers(5, 16))
            draw.rectangle((x, y, x + 7, y + 7), fill=(*random.integers(60, 220, 3).tolist(), 255), outline=INK)
    guesses, parts = look_over(np.array(image))
    assert parts == []
    assert _numbers(guesses[0].as_cut("")) == (32, 32, 0, 0)


@pytest.mark.parametrize(("wide", "high"), [(81, 60), (58, 54), (78, 34), (55, 72)])
def test_frames_in_one_row_are_as_high_as_the_sheet_though_half_their_height_shows_as_well(wide, high):
    random = np.random.default_rng(wide)
    first = Image.new("RGBA", (wide, high))
    draw = ImageDraw.Draw(first)
    draw.rectangle((3, high // 2, wide * 2 // 3, high - 1), fill=(*random.integers(40, 120, 3).tolist(), 255))
    draw.rectangle((wide // 3, 4, wide * 3 // 4, high // 2 + 3), fill=(*random.integers(120, 240, 3).tolist(), 255))
    sheet = Image.new("RGBA", (wide * 6, high))
    for number in range(6):
        frame, around = first.copy(), 2 + number
        middle = (wide // 2 - around, high // 4 - around, wide // 2 + around, high // 4 + around)
        ImageDraw.Draw(frame).ellipse(middle, fill=(250, 230 - 20 * number, 60, 255))
        sheet.paste(frame, (wide * number, 0))
    guesses, parts = look_over(np.array(sheet))
    assert parts == []
    assert _numbers(guesses[0].as_cut("")) == (wide, high, 0, 0)
