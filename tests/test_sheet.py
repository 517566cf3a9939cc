import io

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from knitground.core.errors import BadRequest, BadSheet
from knitground.core.sheet.colour import parse_colour
from knitground.core.sheet.cut import Cut, grid_of, slice_tiles, tile_at, tile_rect
from knitground.core.sheet.guess import guess_cuts
from knitground.core.sheet.picture import Clearing, cleared, decode_picture, read_file
from knitground.core.sheet.repack import Gaps, repack, repacked_cut
from making import png, sheet_of_tiles

sides = st.integers(1, 40)
gaps = st.integers(0, 9)


@given(
    tile=st.tuples(sides, sides),
    margin=st.tuples(gaps, gaps),
    spacing=st.tuples(gaps, gaps),
    more=st.tuples(gaps, gaps),
)
def test_every_pixel_is_tile_or_gutter_or_left_over(tile, margin, spacing, more):
    cut = Cut("c", *tile, *margin, *spacing)
    width = margin[0] + 3 * tile[0] + 2 * spacing[0] + more[0]
    height = margin[1] + 2 * tile[1] + spacing[1] + more[1]
    picture = np.arange(width * height * 4, dtype=np.uint32).astype(np.uint8).reshape(height, width, 4)
    grid = grid_of(cut, width, height)
    assert grid.left_over_x < cut.pitch_x or grid.left_over_x <= spacing[0] + tile[0]
    assert margin[0] + grid.columns * cut.pitch_x - spacing[0] + grid.left_over_x == width
    tiles = slice_tiles(picture, cut)
    for row in range(grid.rows):
        for column in range(grid.columns):
            left, top, wide, high = tile_rect(cut, column, row)
            assert np.array_equal(tiles[row, column], picture[top : top + high, left : left + wide])
            assert tile_at(cut, grid, left, top) == tile_at(cut, grid, left + wide - 1, top + high - 1) == (column, row)


def test_gutters_and_left_overs_belong_to_no_tile():
    cut = Cut("c", 16, 16, 3, 3, 2, 2)
    grid = grid_of(cut, 60, 60)
    assert grid == (3, 3, 5, 5)
    for x in (0, 2, 19, 20, 58):
        assert tile_at(cut, grid, x, 10) is None


@pytest.mark.parametrize(
    ("cut", "says"),
    [
        (Cut("c", 0, 16), "tile width is 0"),
        (Cut("c", 16, 16, spacing_x=-1), "spacing x is -1"),
        (Cut("c", 16, 16, margin_y=-4), "margin y is -4"),
        (Cut("c", 64, 16), "does not fit"),
        (Cut("c", 16, 16, margin_y=40), "does not fit"),
    ],
)
def test_impossible_cuts_say_which_number_is_wrong(cut, says):
    with pytest.raises(BadSheet, match=says):
        grid_of(cut, 48, 48)


def test_a_key_colour_becomes_transparent_and_nothing_else():
    picture = sheet_of_tiles(2, 2)
    picture[0, 0] = (255, 0, 255, 255)
    keyed = cleared(picture, Clearing(("#ff00ff",)))
    assert keyed[0, 0, 3] == 0
    assert np.array_equal(keyed[1:], picture[1:])
    assert picture[0, 0, 3] == 255


@pytest.mark.parametrize("text", ["", "#ff00f", "magenta", "#gg0000", "ff00ff00"])
def test_what_is_no_colour_is_refused(text):
    with pytest.raises(BadSheet, match="not a colour"):
        parse_colour(text)


@pytest.mark.parametrize("mode", ["RGB", "P", "L", "1", "RGBA"])
def test_every_kind_of_png_is_read_as_rgba(mode):
    buffer = io.BytesIO()
    Image.new(mode, (5, 4)).save(buffer, "PNG")
    assert decode_picture(buffer.getvalue(), "x.png").shape == (4, 5, 4)


def test_sixteen_bits_of_grey_keep_their_shades():
    buffer = io.BytesIO()
    Image.fromarray(np.array([[0, 0x4000, 0x8000, 0xFFFF]], dtype=np.uint16)).save(buffer, "PNG")
    assert decode_picture(buffer.getvalue(), "grey.png")[0, :, 0].tolist() == [0, 0x40, 0x80, 0xFF]


def _header_of(width: int, height: int) -> bytes:
    """A PNG that promises a size and holds next to nothing."""
    whole = bytearray(png(np.zeros((1, 1, 4), np.uint8)))
    whole[16:24] = width.to_bytes(4, "big") + height.to_bytes(4, "big")
    import zlib

    whole[29:33] = zlib.crc32(whole[12:29]).to_bytes(4, "big")
    return bytes(whole)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "is empty"),
        (b"not an image at all", "is not a PNG"),
        (png(sheet_of_tiles(8, 8))[:900], "damaged or cut short"),
        (_header_of(30_000, 30_000), "30000 x 30000"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 50, "art.png"),
    ],
)
def test_bad_images_get_one_sentence_with_their_name(data, says):
    with pytest.raises(BadSheet, match=says) as problem:
        decode_picture(data, "art.png")
    assert "art.png" in str(problem.value)
    assert "\n" not in str(problem.value)


def test_a_missing_file_and_a_folder_are_told_apart(tmp_path):
    with pytest.raises(BadSheet, match="no file"):
        read_file(tmp_path / "nothing.png")
    with pytest.raises(BadSheet, match="is a folder"):
        read_file(tmp_path)


@pytest.mark.parametrize(
    ("side", "margin", "spacing"),
    [(16, 0, 0), (16, 3, 2), (32, 1, 1), (24, 0, 1), (8, 0, 0), (18, 2, 2), (16, 0, 4), (48, 4, 0)],
)
def test_the_first_guess_is_the_true_cut(side, margin, spacing):
    picture = sheet_of_tiles(9, 7, side, margin, spacing, seed=side)
    best = guess_cuts(picture)[0]
    found = (best.tile_width, best.tile_height, best.margin_x, best.margin_y, best.spacing_x, best.spacing_y)
    assert found == (side, side, margin, margin, spacing, spacing)
    assert (best.columns, best.rows) == (9, 7)
    assert 0 < best.confidence <= 1


def test_guesses_come_best_first_and_all_fit():
    picture = sheet_of_tiles(6, 6, 16, 2, 1)
    guesses = guess_cuts(picture)
    confidences = [guess.confidence for guess in guesses]
    # The second and third say what else it may be.
    assert confidences[0] == max(confidences)
    assert confidences[3:] == sorted(confidences[3:], reverse=True)
    for guess in guesses:
        grid = grid_of(guess.as_cut("c"), picture.shape[1], picture.shape[0])
        assert (grid.columns, grid.rows) == (guess.columns, guess.rows)


def test_a_picture_too_small_for_tiles_is_refused():
    with pytest.raises(BadSheet, match="too small"):
        guess_cuts(np.zeros((3, 3, 4), np.uint8))


@pytest.mark.parametrize(("margin", "spacing", "extrude"), [(0, 0, 0), (3, 2, 1), (1, 0, 4)])
def test_a_repacked_sheet_holds_the_same_tiles_at_the_cut_that_it_says(margin, spacing, extrude):
    picture = sheet_of_tiles(5, 4, 8, 2, 1)
    cut = Cut("tiles", 8, 8, 2, 2, 1, 1)
    tiles = slice_tiles(picture, cut)
    packed = repack(tiles, Gaps(margin, spacing, extrude))
    new = repacked_cut(cut, Gaps(margin, spacing, extrude))
    assert np.array_equal(slice_tiles(packed, new)[:4, :5], tiles)
    if extrude:
        left, top = new.margin_x + new.pitch_x, new.margin_y
        assert np.array_equal(packed[top, left - extrude : left], np.repeat(tiles[0, 1, :1, 0], extrude, axis=0))
        assert np.array_equal(packed[top - 1, left : left + 8], tiles[0, 1, 0])


def test_a_repacked_sheet_can_have_sides_of_a_power_of_two_and_must_stay_in_bounds():
    tiles = slice_tiles(sheet_of_tiles(5, 3, 8), Cut("tiles", 8, 8))
    with pytest.raises(BadRequest, match="extrusion is 300"):
        repack(tiles, Gaps(extrude=300))
    large = np.broadcast_to(tiles[0, 0], (100, 100, 8, 8, 4))
    with pytest.raises(BadRequest, match="too large"):
        repack(large, Gaps(spacing=200))
