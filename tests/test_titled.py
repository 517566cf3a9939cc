"""Groups of tiles with titles: these are no captions of large tiles, and the rows below them begin anew."""

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont

from knitground.core.sheet.axes import Axis
from knitground.core.sheet.cut import Cut, Rect, grid_of, tile_rect
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.plausible import PAIR_WEIGHTS, Head, pair_signs
from knitground.core.sheet.recurring import FARTHEST

SIDE, GAP = 16, 2
PITCH = SIDE + GAP
GROUND = (204, 190, 216, 255)
GROUPS = ((0, 4), (5, 3), (10, 4))
"""Columns at which groups begin, and how many tiles each is wide."""


def titled(
    bands: dict[int, int], groups: tuple[tuple[int, int], ...] = GROUPS, *, titles: bool = True, round_: bool = False
) -> tuple[np.ndarray, list[Rect]]:
    """Groups of tiles, so many rows of them from each line of pixels on, with a title above each; where tiles lie."""
    random = np.random.default_rng(len(bands))
    image = Image.new("RGBA", (15 * PITCH + 8, max(y + rows * PITCH for y, rows in bands.items()) + 6), GROUND)
    draw, places = ImageDraw.Draw(image), []
    for top, rows in bands.items():
        for number, (begin, wide) in enumerate(groups):
            for row, column in np.ndindex(rows, wide):
                at = Rect(5 + (begin + column) * PITCH, top + row * PITCH, SIDE, SIDE)
                grain = random.integers(-12, 13, (SIDE, SIDE, 1))
                pixels = np.clip(np.array([90 + 9 * begin, 140 - 7 * row, 80]) + grain, 0, 255).astype(np.uint8)
                mask = Image.new("1", (SIDE, SIDE), not round_)
                ImageDraw.Draw(mask).ellipse((2, 1, SIDE - 3, SIDE - 2), fill=1)
                image.paste(Image.fromarray(pixels), (at.x, at.y), mask)
                places.append(at)
            if titles:
                name = ("meadow", "ridge", "stream", "sand")[number]
                draw.text((5 + begin * PITCH, top - 14), name, font=ImageFont.load_default(9), fill=(50, 40, 60, 255))
    return np.array(image), places


def tiles_of(picture: np.ndarray) -> tuple[set[Rect], list[Cut]]:
    """Where the cells lie of what is guessed of a sheet, and the cuts."""
    guesses, parts = look_over(picture)
    cuts = parts or [guesses[0].as_cut("")]
    grids = [(cut, grid_of(cut, picture.shape[1], picture.shape[0])) for cut in cuts]
    cells = {
        tile_rect(cut, column, row) for cut, grid in grids for row in range(grid.rows) for column in range(grid.columns)
    }
    return cells, cuts


def test_titles_over_groups_in_columns_as_far_apart_are_no_captions_of_tiles_as_large_as_these():
    picture, _ = titled({PITCH: 2, 4 * PITCH: 2, 7 * PITCH: 2}, ((0, 2), (3, 2), (6, 2), (9, 2)), round_=True)
    _, cuts = tiles_of(picture)
    assert [(cut.pitch_x, cut.pitch_y) for cut in cuts] == [(PITCH, PITCH)]


@pytest.mark.parametrize("later", [5, 9, 13])
def test_rows_below_a_title_begin_where_they_do_and_not_where_those_above_it_end(later):
    below = 4 * PITCH + 15 + later
    picture, places = titled({PITCH: 3, below: 3})
    cells, _ = tiles_of(picture)
    assert set(places) <= cells


@pytest.mark.parametrize("shift", [0, 7, 13])
def test_things_that_lie_about_below_a_title_are_loose_pieces_and_the_rows_above_them_tiles(shift):
    below = 4 * PITCH + 15 + 5
    picture, places = titled({PITCH: 3, below: 3})
    image = Image.fromarray(np.pad(picture, ((0, 60), (0, 0), (0, 0)), mode="edge"))
    draw, top = ImageDraw.Draw(image), picture.shape[0] + 24
    draw.text((9, top - 16), "what lies about", font=ImageFont.load_default(9), fill=(50, 40, 60, 255))
    things = [
        Rect(8 + shift, top, 23, 27),
        Rect(54 + shift, top, 15, 31),
        Rect(98, top, 31, 19),
        Rect(142, top, 19, 21),
    ]
    for number, (x, y, wide, high) in enumerate(things):
        draw.ellipse((x, y, x + wide - 1, y + high - 1), fill=(120 + 30 * number, 84, 60, 255))
    cells, cuts = tiles_of(np.array(image))
    assert set(places) <= cells
    assert [cut.pieces for cut in cuts if cut.pieces] == [tuple(things)]


@pytest.mark.parametrize("pitch", [9, 11])
def test_smaller_tiles_below_a_title_have_a_grid_of_their_own(pitch):
    picture, places = titled({PITCH: 3, 4 * PITCH + 15: 3})
    image = Image.fromarray(np.pad(picture, ((0, 80), (0, 0), (0, 0)), mode="edge"))
    draw, top = ImageDraw.Draw(image), picture.shape[0] + 22
    draw.text((5, top - 14), "tools", font=ImageFont.load_default(9), fill=(50, 40, 60, 255))
    tools = [Rect(5 + column * pitch, top + row * pitch, pitch - 1, pitch - 1) for row, column in np.ndindex(4, 10)]
    for number, (x, y, wide, high) in enumerate(tools):
        draw.rectangle((x, y, x + wide - 1, y + high - 1), fill=(90 + 4 * number, 60, 220 - 5 * number, 255))
        draw.line((x + 1, y + 1, x + 1 + number % 5, y + high - 2), fill=(250, 250, 230, 255))
    cells, cuts = tiles_of(np.array(image))
    assert set(places) | set(tools) <= cells
    assert {cut.pitch_x for cut in cuts} == {PITCH, pitch}


@pytest.mark.parametrize("later", [0, 11])
def test_things_in_groups_are_no_grid_of_other_distances_below_each_title(later):
    picture, _ = titled({PITCH: 3, 4 * PITCH + 15 + later: 2}, ((0, 4), (6, 2)), round_=True)
    _, cuts = tiles_of(picture)
    assert {(cut.pitch_x, cut.pitch_y) for cut in cuts} == {(PITCH, PITCH)}


def test_what_is_untitled_and_on_one_grid_stays_one():
    picture, places = titled({PITCH: 3, 5 * PITCH: 2}, titles=False)
    cells, cuts = tiles_of(picture)
    assert (len(cuts), set(places) <= cells) == (1, True)


def test_work_on_a_titled_sheet_is_not_told_to_be_done_before_it_is():
    picture, _ = titled({PITCH: 3, 4 * PITCH + 15: 2}, ((0, 4), (6, 2)), round_=True)
    told = list[float]()
    look_over(picture, told.append)
    assert told == sorted(told)
    assert all(share < 1 for share in told[:-1])


def test_a_gutter_that_is_wider_than_what_is_written_above_is_not_looked_for_in_it():
    columns = np.zeros(12, dtype=bool)
    columns[3:9] = True
    columns[5] = False
    xs, none = [Axis(10, 0, 32), Axis(5, 0, 1), Axis(4, 0, 0)], np.zeros(FARTHEST + 1)
    head = Head(0, 5, 1.0, columns)
    signs = pair_signs(
        xs, [Axis(8, 0, 0)], 12, 20, clearest=(1.0, 1.0), recurs=(none, none), art_alone=False, head=head
    )
    crosses = signs[:, 0, list(PAIR_WEIGHTS).index("writing_crosses")]
    assert crosses.tolist() == [0.0, 0.0, 1.0], "a word between two tiles, in no gutter, and over two borders"
