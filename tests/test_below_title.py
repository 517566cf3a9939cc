"""A title as high as a row of tiles, right above these, is no row of tiles."""

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont

from knitground.core.sheet.parts import look_over

INK = (70, 40, 60, 255)


def sheet_below(row: dict[int, str], side: int, gutter: int, anchor: str = "lm") -> np.ndarray:
    """Five rows of tiles on a pale ground, below one in which words begin at some pixels."""
    random, pitch = np.random.default_rng(side), side + gutter
    pixels = np.full((6 * pitch + gutter, 12 * pitch + gutter, 4), (246, 230, 214, 255), np.uint8)
    for y, x in np.ndindex(5, 12 - 2 * gutter):
        tile = random.integers(-14, 15, (side, side, 1)) + np.array([60 + 30 * y, 150 - 20 * y, 90])
        top, left = gutter + (y + 1) * pitch, gutter + x * pitch
        pixels[top : top + side, left : left + side, :3] = np.clip(tile, 0, 255)
    image = Image.fromarray(pixels)
    for x, word in row.items():
        at = x, gutter + side / 2
        ImageDraw.Draw(image).text(at, word, font=ImageFont.load_default(12), fill=INK, anchor=anchor)
    return np.array(image)


@pytest.mark.parametrize("side", [24, 32])
def test_words_that_run_on_from_cell_to_cell_are_above_the_first_row(side):
    guesses, parts = look_over(sheet_below({4: "tarn, marl, ice, a moor"}, side, 0))
    assert not parts
    assert (guesses[0].tile_height, guesses[0].margin_y, guesses[0].rows) == (side, side, 5)


@pytest.mark.parametrize(("side", "gutter"), [(14, 2), (16, 0)])
def test_letters_in_a_tile_each_are_tiles(side, gutter):
    letters = {gutter + side // 2 + x * (side + gutter): letter for x, letter in enumerate("NGROUDmw")}
    first = look_over(sheet_below(letters, side, gutter, anchor="mm")).guesses[0]
    assert (first.tile_height, first.margin_y, first.rows) == (side, gutter, 6)
