"""Captions: told among loose pieces, and left out of them; tiles that lie far apart with captions between."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageDraw, ImageFont

from knitground.core.edits.captions import leave_out_written, look_written, written_tiles
from knitground.core.edits.cuts import take_loose
from knitground.core.edits.image_files import Source, insert_reads, read_images
from knitground.core.edits.sheets import insert_sheet
from knitground.core.errors import BadRequest
from knitground.core.project.collecting import loose_pieces
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.sheet.captioned import captioned_cut
from knitground.core.sheet.cut import Cell, Cut, Rect, grid_of, tile_rect
from knitground.core.sheet.even import even_bands, even_cut
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.profile import art_of
from knitground.core.sheet.writing import writing_of
from making import png, sheet_of_tiles

NAMES = ("hive", "smoker", "frame", "jar", "comb", "ladle", "queen", "box", "veil", "honey")


def captioned(
    things: int = 10, size: int = 9, ink: tuple[int, ...] = (30, 26, 24, 255), level: int = 0
) -> tuple[np.ndarray, list[Rect]]:
    """Round and square things in rows of five on a key colour, the name of each below it, and where they are.

    The names stand on one level, or each close to its thing.
    """
    image = Image.new("RGBA", (5 * 58 + 20, -(-things // 5) * 66 + 12), (150, 190, 200, 255))
    draw, places = ImageDraw.Draw(image), []
    for number in range(things):
        x, y, side = 12 + number % 5 * 58, 8 + number // 5 * 66, 26 + 3 * (number * 5 % 4)
        places.append(Rect(x, y, side, side))
        fill = (200 - 12 * number, 90 + 11 * number, 60 + 9 * number, 255)
        (draw.ellipse, draw.rectangle)[number % 2]((x, y, x + side - 1, y + side - 1), fill=fill)
        draw.text((x, y + (level or side + 4)), NAMES[number], fill=ink, font=ImageFont.load_default(size))
    return np.array(image), places


@pytest.mark.parametrize("size", [8, 9, 10, 12])
def test_letters_of_captions_are_told_from_things(size):
    picture, places = captioned(size=size)
    found = loose_pieces(picture, Cut("", 16, 16))
    letters = look_written(picture, found)
    assert set(places) <= {piece for place, piece in enumerate(found) if place not in letters}
    others = len(found) - len(letters) - len(places)
    assert others <= 0.4 * (len(found) - len(places)), "most letters are told"


def test_things_alone_and_letters_alone_are_all_pieces():
    picture, places = captioned()
    plain = picture.copy()
    for x, y, _, high in places:
        plain[y + high : y + high + 22, x - 10 : x + 46] = picture[0, 0]
    assert look_written(plain, loose_pieces(plain, Cut("", 16, 16))) == []
    for x, y, wide, high in places:
        picture[y : y + high, x : x + wide] = picture[0, 0]
    assert look_written(picture, loose_pieces(picture, Cut("", 16, 16))) == []


PATTERNS = {
    "steep": lambda y, x: (2 * x + y) % 4 == 0, "flat": lambda y, x: (x + 2 * y) % 5 == 0,
    "bars": lambda y, x: x % 3 == 0, "tufts": lambda y, x: np.isin(8 * y + x, (2, 13, 30, 33, 43, 54, 63)),
}  # fmt: skip


@pytest.mark.parametrize("scale", [1, 2, 3])
@pytest.mark.parametrize("name", PATTERNS)
def test_patterns_in_one_ink_are_tiles_and_no_writing(name: str, scale: int):
    picture = np.full((80, 128, 4), (22, 28, 60, 255), np.uint8)
    picture[:24, :40] = (236, 226, 196, 255)  # so much other art that a word could be told
    picture[32:40, 8:56][np.tile(PATTERNS[name](*np.mgrid[:8, :8]), (1, 6))] = (236, 226, 196, 255)
    side = 8 * scale
    assert written_tiles(np.kron(picture, np.ones((scale, scale, 1), np.uint8)), [Cut("all", side, side)]) == {}


def among_tiles(gutter: int = 2) -> np.ndarray:
    """Rows of tiles of 20 px on a pale ground; in the midst of the third there are words."""
    side, pitch = 20, 20 + gutter
    random = np.random.default_rng(4)
    pixels = np.full((6 * pitch + gutter, 10 * pitch + gutter, 4), (240, 232, 250, 255), np.uint8)
    for y, x in np.ndindex(6, 10):
        if y != 2 or x not in range(3, 8):
            tile = random.integers(-14, 15, (side, side, 1)) + np.array([60 + 24 * y, 150 - 20 * y, 90])
            top, left = gutter + y * pitch, gutter + x * pitch
            pixels[top : top + side, left : left + side, :3] = np.clip(tile, 0, 255)
    image = Image.fromarray(pixels)
    at = gutter + 4 * pitch + 3, 2 * pitch + 6
    draw = ImageDraw.Draw(image)
    draw.fontmode = "1"
    draw.text(at, "boats, oars", fill=(40, 20, 60, 255), font=ImageFont.load_default(11))
    return np.array(image)


def test_words_in_cells_of_a_grid_are_left_out_of_its_tiles():
    document, data = Document(), png(among_tiles())
    files = read_images([Source("pier.png", data)])
    (sheet_id,) = insert_reads(document, files.read)
    assert files.read[0].written == leave_out_written(document, sheet_id) == 3
    (cut,) = document.project.sheets[0].cuts
    assert (cut.tile_width, cut.left_out) == (20, (Cell(4, 2), Cell(5, 2), Cell(6, 2)))
    with pytest.raises(BadRequest, match="No tile more"):
        leave_out_written(document, sheet_id)


@pytest.mark.parametrize("spacing", [1, 2, 3])
def test_a_fence_in_the_cells_of_a_grid_is_no_writing_and_the_words_above_it_are(spacing):
    image = Image.new("RGBA", (200, 190), (24, 160, 92, 255))
    image.paste(Image.fromarray(sheet_of_tiles(8, 4, 20, 0, spacing, seed=5)), (8, 8))
    draw, pitch = ImageDraw.Draw(image), 20 + spacing
    draw.text((8, 8 + 5 * pitch - 14), "fence", fill=(20, 30, 28, 255), font=ImageFont.load_default(10))
    below = 8 + 5 * pitch
    for number in range(3):
        left = 8 + number * pitch
        draw.rectangle([left + 9, below + 5, left + 11, below + 17], fill=(104, 74, 50, 255))
        for beam in (8, 13):
            draw.rectangle(
                [left + 9 * (number == 0), below + beam, left + (19 if number < 2 else 11), below + beam + 1],
                fill=(134, 98, 66, 255),
            )
    cut = Cut("tiles", 20, 20, 8, 8, spacing, spacing)
    picture = np.array(image)
    picture[(picture == (24, 160, 92, 255)).all(axis=2)] = 0
    written = written_tiles(picture, [cut])["tiles"]
    assert written
    assert {cell.row for cell in written} == {4}


def test_what_looks_like_writing_is_left_out_as_one_step_and_keeps_its_number():
    picture, places = captioned()
    document = Document()
    sheet_id = insert_sheet(document, "shed.png", Picture.decode(png(picture), "shed.png"), Cut("tiles", 16, 16))
    found = loose_pieces(picture, document.project.sheets[0].cuts[0])
    take_loose(document, sheet_id, "tiles", 0, found)
    count = leave_out_written(document, sheet_id)
    cut = document.project.sheets[0].cuts[0]
    assert len(cut.pieces) == len(found)
    assert len(cut.left_out) == count > 20
    assert not {cut.pieces[cell.column] for cell in cut.left_out} & set(places)
    with pytest.raises(BadRequest, match="No tile more"):
        leave_out_written(document, sheet_id)
    document.undo()
    assert document.project.sheets[0].cuts[0].left_out == ()


@pytest.mark.parametrize("apart", [(9, 31), (40, 40), (0, 26)])
def test_full_tiles_far_apart_with_captions_between_are_cut_exactly(apart):
    side, (across, down) = 32, (32 + apart[0] + 2, 32 + apart[1])
    image = Image.new("RGBA", (9 + 6 * across, 14 + 3 * down), (150, 190, 200, 255))
    tiles = sheet_of_tiles(6, 3, side, seed=4)
    for row in range(3):
        for column in range(6):
            tile = tiles[row * side : (row + 1) * side, column * side : (column + 1) * side]
            x, y = 9 + column * across, 6 + row * down
            image.paste(Image.fromarray(tile), (x, y))
            ImageDraw.Draw(image).text((x, y + side + 5), NAMES[(row + column) % 10], fill=(20, 20, 20, 255))
    guesses, parts = look_over(np.array(image))
    first = guesses[0]
    assert parts == []
    assert (first.tile_width, first.tile_height, first.margin_x, first.margin_y) == (side, side, 9, 6)
    assert (first.spacing_x, first.spacing_y) == (across - side, down - side)


def test_boxes_in_uneven_places_of_several_sizes_or_few_are_no_grid():
    def boxes(*places: tuple[int, int, int]) -> np.ndarray:
        art = np.zeros((200, 200), bool)
        for x, y, side in places:
            art[y : y + side, x : x + side] = True
        return art

    even = [(10 + 30 * column, 8 + 25 * row, 12) for row in range(3) for column in range(4)]
    cut = even_cut(boxes(*even))
    assert cut == Cut("", 12, 12, 10, 8, 18, 13)
    assert even_cut(boxes(*even[:4], *((x + 1, y, side) for x, y, side in even[4:]))) is None
    assert even_cut(boxes(*((x, y, side + number % 2) for number, (x, y, side) in enumerate(even)))) is None
    assert even_cut(boxes(*even[:4])) is None
    assert even_cut(boxes(*even, (150, 120, 40))) is None
    astray = [(25 + 30 * column, 95 + 3 * column, 7) for column in range(3)]
    assert even_cut(boxes(*even, *astray)) is None, "another grid may have little ink"
    assert even_cut(boxes(*even, *((11 + 30 * column, 85, 7) for column in range(3)))) == cut
    line = even_cut(boxes(*((10 + 30 * column, 8, 12) for column in range(6))))
    assert line == Cut("", 12, 12, 10, 8, 18, 18)


@given(st.integers(0, 2**31), st.integers(3, 7), st.integers(2, 4), st.integers(3, 30), st.integers(4, 30))
def test_things_in_the_cells_of_columns_and_rows_far_apart_tell_the_distances_of_the_cells(
    seed, columns, rows, right, below
):
    """Each fills most of its cell, a full one stands in each column and row, and the rest lies anywhere in theirs."""
    random, side = np.random.default_rng(seed), 24
    art = np.zeros((6 + rows * (side + below), 5 + columns * (side + right)), bool)
    for row in range(rows):
        for column in range(columns):
            wide, high = (side, side) if row == 0 or column == 0 else random.integers(20, side + 1, 2)
            left, top = random.integers(0, side - wide + 1), random.integers(0, side - high + 1)
            y, x = 6 + row * (side + below) + top, 5 + column * (side + right) + left
            art[y : y + high, x : x + wide] = True
    assert even_bands(art) == Cut("", side, side, 5, 6, right, below)


def test_things_put_down_anywhere_stand_in_no_even_columns_and_rows():
    assert even_bands(np.asarray(scattered()[..., 3] > 0)) is None
    uneven = np.zeros((60, 200), bool)
    for row in (2, 34):
        for x, wide in ((3, 20), (31, 30), (90, 22), (120, 34), (165, 21)):
            uneven[row : row + 20, x : x + wide] = True
    assert even_bands(uneven) is None
    assert even_bands(np.zeros((40, 40), bool)) is None


def scattered() -> np.ndarray:
    """Eleven round and square things of all sizes, put down by hand."""
    image = Image.new("RGBA", (260, 190), (0, 0, 0, 0))
    draw = ImageDraw.Draw(image)
    for number, (x, y, wide, high) in enumerate((
        (3, 5, 51, 47), (61, 2, 17, 39), (90, 9, 33, 21), (131, 4, 62, 58), (204, 11, 40, 28),
        (9, 70, 29, 44), (47, 62, 71, 35), (126, 77, 23, 23), (160, 71, 58, 49), (22, 128, 44, 51), (85, 119, 37, 66),
    )):  # fmt: skip
        colour = (30 + 20 * number, 200 - 15 * number, 90 + 60 * (number % 3), 255)
        (draw.ellipse, draw.rectangle)[number % 2]((x, y, x + wide - 1, y + high - 1), fill=colour)
    return np.array(image)


@pytest.mark.parametrize("size", [8, 12])
@pytest.mark.parametrize("things", [5, 10])
@pytest.mark.parametrize("titled", [False, True])
def test_things_of_many_sizes_are_cut_by_where_their_captions_stand(size, things, titled):
    picture, places = captioned(things, size, level=38)
    high = 24 if titled else 0
    image = Image.fromarray(np.vstack([np.broadcast_to(picture[0, 0], (high, *picture.shape[1:])), picture]))
    if titled:
        ImageDraw.Draw(image).text(
            (12, 4), "Tools of the roof", fill=(30, 26, 24, 255), font=ImageFont.load_default(14)
        )
    guesses, parts = look_over(np.array(image))
    (cut,) = parts or [guesses[0].as_cut("")]
    assert cut.pitch_x == 58
    assert things == 5 or cut.pitch_y == 66
    grid = grid_of(cut, image.width, image.height)
    tiles = [tile_rect(cut, column, row) for row, column in np.ndindex(grid.rows, grid.columns)]
    for x, y, side, _ in places:
        thing = Rect(x, y + high, side, side)
        assert sum(tile.with_other(thing) == tile for tile in tiles) == 1, "a thing is whole in one tile"
        assert not any(tile.touches(Rect(x, y + high + 40, 20, size - 4)) for tile in tiles), "its name in none"


def test_text_that_belongs_to_no_tiles_tells_no_cut():
    image = Image.new("RGBA", (300, 200), (150, 190, 200, 255))
    draw = ImageDraw.Draw(image)
    draw.rectangle((20, 20, 90, 90), fill=(90, 40, 60, 255))
    for line in range(8):
        words = " ".join(NAMES[(3 * line + k) % 10] for k in range(6))
        draw.text((110, 20 + 18 * line), words, fill=(30, 26, 24, 255), font=ImageFont.load_default(10))
    colour = np.array(image).astype(np.int16)
    art = art_of(colour)
    written = writing_of(colour, art)
    assert written.any()
    assert captioned_cut(art & ~written, written) is None


@pytest.mark.parametrize("size", [1, 2, 3])
def test_small_marks_in_a_row_are_things_and_no_writing(size):
    image = Image.new("RGBA", (200, 130), (150, 190, 200, 255))
    draw = ImageDraw.Draw(image)
    for number, wide in enumerate((6, 7, 6, 8)):
        x, y = 30 + 40 * number, 100 + 2 * (number % 2)
        draw.line([(x - wide, y - 3), (x, y), (x + wide, y - 4)], fill=(250, 250, 250, 255), width=2)
    image.paste(Image.fromarray(sheet_of_tiles(6, 3, 20, 0, 2, seed=7)), (9, 8))
    picture = np.array(image).repeat(size, axis=0).repeat(size, axis=1)
    colour = picture.astype(np.int16)
    assert not writing_of(colour, art_of(colour)).any()
    grid, loose = look_over(picture).parts
    assert (grid.tile_width, grid.spacing_x) == (20 * size, 2 * size)
    assert len(loose.pieces) == 4


@pytest.mark.parametrize("side", [16, 20, 28])
def test_slopes_side_by_side_are_tiles_and_no_writing(side):
    """Two beside one another are as low, long and of one ink as a word, but thick."""
    ground, stone = (58, 24, 70, 255), (104, 116, 132, 255)
    picture = np.full((side + 30, 8 * (side + 3) + 20, 4), ground, np.uint8)
    rows, columns = np.mgrid[:side, :side]
    for number in range(6):
        tile = np.full((side, side, 4), stone, np.uint8)
        if number > 3:
            tile[rows < (side - 1 - columns if number == 4 else columns)] = ground
        left = 10 + (number + number // 4) * (side + 3)
        picture[12 : 12 + side, left : left + side] = tile
    colour = picture.astype(np.int16)
    assert not writing_of(colour, art_of(colour)).any()
