"""Several grids on one sheet, writing beside the tiles, and what is guessed of both."""

import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont

from knitground.core.edits.cuts import guess_in, set_parts
from knitground.core.edits.image_files import Source, read_images
from knitground.core.edits.sheets import insert_sheet, shown_in
from knitground.core.errors import Cancelled
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.profile import art_of
from knitground.core.sheet.writing import writing_of
from making import block, png, sheet_of_tiles
from test_moving import shore

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "bench"))
from block_cases import is_left_whole, make_case
from part_cases import cornered_case, judged

CLEAR, TEAL = (0, 0, 0, 0), (10, 120, 140, 255)


def cuts_read(picture: np.ndarray, report=lambda share: None) -> tuple[Cut, ...]:
    """How a sheet is cut that is read from a file."""
    return read_images([Source("sheet.png", png(picture))], report).read[0].cuts


def laid(size: tuple[int, int], ground: tuple[int, ...], *arts: tuple[int, int, np.ndarray]) -> np.ndarray:
    """A picture with art at some places, on a ground."""
    picture = np.zeros((*size, 4), np.uint8)
    picture[:] = ground
    for x, y, art in arts:
        spot = picture[y : y + art.shape[0], x : x + art.shape[1]]
        spot[:] = np.where(art[..., 3:] > 0, art, spot)
    return picture


def written(picture: np.ndarray, *lines: tuple[int, int, str]) -> np.ndarray:
    """The same with words on it."""
    image = Image.fromarray(picture)
    for x, y, words in lines:
        ImageDraw.Draw(image).text((x, y), words, fill=(240, 240, 200, 255))
    return np.asarray(image)


def two_grids(ground: tuple[int, ...], beside: bool) -> tuple[np.ndarray, list[tuple[int, int, Rect]]]:
    """Tiles of 20 with gutters of 3, and of 12 with gutters of 2."""
    large, small = sheet_of_tiles(8, 4, 20, 0, 3, seed=4), sheet_of_tiles(9, 5, 12, 0, 2, seed=5)
    at = (230, 31) if beside else (12, 170)
    picture = laid((260, 380), ground, (9, 34, large), (*at, small))
    return picture, [(20, 3, Rect(9, 34, 181, 89)), (12, 2, Rect(*at, 124, 68))]


@pytest.mark.parametrize("ground", [CLEAR, TEAL])
@pytest.mark.parametrize("beside", [True, False])
@pytest.mark.parametrize("titled", [True, False])
def test_two_grids_are_found_each_where_it_lies(ground, beside, titled):
    picture, truth = two_grids(ground, beside)
    if titled:
        words = (
            (9, 4, "TARN ground 20px"),
            (9, 18, "scree / ice, x2"),
            (truth[1][2].x, truth[1][2].y - 15, "small ones"),
        )
        picture = written(picture, *words, (300, 240, "v3 draft"))
    parts = look_over(picture).parts
    assert {(cut.tile_width, cut.spacing_x, cut.region) for cut in parts} == set(truth)


@pytest.mark.parametrize("down", [False, True])
def test_tiles_that_touch_are_parted_from_things_far_apart_whose_own_gaps_are_as_wide(down):
    """What is usual of the gaps is told by the things alone, as the tiles have none."""
    tiles, things = sheet_of_tiles(6, 4, 18, 0, seed=3), sheet_of_tiles(4, 2, 26, 0, 22, seed=9)
    picture = laid((120, 340), TEAL, (9, 12, tiles), (148, 15, things))
    ground, *_ = look_over(picture.swapaxes(0, 1).copy() if down else picture).parts
    assert (ground.tile_width, ground.tile_height, ground.spacing_x) == (18, 18, 0)
    assert tuple(ground.region[:2]) == ((12, 9) if down else (9, 12))


@pytest.mark.parametrize("seed", [25, 28])
def test_a_grid_below_two_others_hides_neither_of_them(seed):
    picture, grids, _ = cornered_case(seed)
    parts = look_over(picture).parts
    assert sum(judged(grid, picture, parts)[2] for grid in grids) >= 2


@pytest.mark.parametrize("ground", [CLEAR, TEAL])
@pytest.mark.parametrize("spacing", [0, 2, 4])
def test_one_grid_with_a_wide_gap_in_it_stays_one(ground, spacing):
    art = sheet_of_tiles(12, 9, 16, 0, spacing, seed=6)
    pitch = 16 + spacing
    art[4 * pitch : 6 * pitch] = 0
    art[:, 7 * pitch : 8 * pitch] = 0
    overview = look_over(laid((art.shape[0] + 8, art.shape[1] + 8), ground, (4, 4, art)))
    assert overview.parts == []
    best = overview.guesses[0]
    assert (best.tile_width, best.tile_height, best.margin_x, best.margin_y) == (16, 16, 4, 4)


@pytest.mark.parametrize("apart", [0, 1])
def test_a_part_keeps_the_numbers_that_all_of_the_sheet_shows_more_surely(apart):
    side, pitch = 28, 30
    low = 24 + 4 * pitch
    ragged = [(12 + at % 4 * pitch, 24 + at // 4 * pitch, art) for at, art in enumerate(block(1, 4, 4, side))]
    ring = sheet_of_tiles(3, 3, side, 0, 2, seed=1).copy()
    ring[pitch + 4 : pitch + side - 4, pitch + 4 : pitch + side - 4] = 0
    things = [np.full((34 - 3 * k, 30, 4), (200, 40 * k, 90, 255), np.uint8) for k in range(5)]
    chairs = [(16 + 48 * k, low + 24 + 3 * k, thing) for k, thing in enumerate(things)]
    arts = *ragged, (12 + (4 + apart) * pitch, 24, ring), *chairs
    picture = laid((low + 118, 9 * pitch + 22), (0, 150, 160, 255), *arts)
    first, second = look_over(written(picture, (10, 8, "SHELF STONE"), (10, low + 6, "FURNITURE"))).parts
    assert (first.tile_width, first.spacing_x, first.region.x, first.region.y) == (side, 2, 12, 24)
    assert second.region.y > low


@pytest.mark.parametrize(("above", "below"), [(12, 20), (24, 16), (20, 28), (40, 18)])
@pytest.mark.parametrize("gap", [5, 10])
def test_two_grids_of_touching_tiles_are_told_however_close_they_lie(above, below, gap):
    one, other = sheet_of_tiles(9, 3, above, 0, 0, seed=4), sheet_of_tiles(8, 3, below, 0, 0, seed=5)
    size = one.shape[0] + other.shape[0] + gap + 12, max(one.shape[1], other.shape[1]) + 20
    parts = look_over(laid(size, CLEAR, (5, 6, one), (9, 6 + one.shape[0] + gap, other))).parts
    assert [(cut.tile_width, cut.tile_height, cut.spacing_x) for cut in parts] == [(above, above, 0), (below, below, 0)]
    assert [tuple(cut.region)[:2] for cut in parts if cut.region] == [(5, 6), (9, 6 + one.shape[0] + gap)]


def marsh() -> np.ndarray:
    """A small ground of two grained colours, crates and a tree below it, and six birds with captions at the right."""
    random = np.random.default_rng(0)
    colours = np.array([(150, 160, 96), (70, 120, 140), (120, 84, 50)])
    image = Image.new("RGBA", (330, 250), TEAL)
    draw, (ys, xs) = ImageDraw.Draw(image), np.mgrid[:18, :18] / 18
    weights = ((1 - xs) * (1 - ys), xs * (1 - ys), (1 - xs) * ys, xs * ys)
    for place in range(16):
        inside = sum((place >> bit & 1) * weight for bit, weight in enumerate(weights)) > 0.5
        floor = np.full((18, 18, 4), 255, np.uint8)
        floor[..., :3] = colours[np.asarray(inside, dtype=int)] + random.integers(-6, 7, (18, 18, 1))
        image.paste(Image.fromarray(floor), (6 + place % 8 * 18, 26 + place // 8 * 18))
    for place in range(10):
        crate = np.full((26, 26, 4), 255, np.uint8)
        crate[..., :3] = colours[2] + random.integers(-12, 13, (26, 26, 1))
        crate[[0, 12, 13, -1]] = crate[:, [0, -1]] = (40, 26, 16, 255)
        image.paste(Image.fromarray(crate), (8 + place % 5 * 26, 71 + place // 5 * 26))
    draw.ellipse((20, 150, 110, 248), fill=(60, 90, 60, 255), outline=(20, 30, 20, 255))
    for place, name in enumerate(("heron", "snipe", "rail", "teal", "crane", "ibis")):
        x, y = 176 + place % 3 * 48, 34 + place // 3 * 58
        fill = (220 - 20 * place, 200, 120, 255)
        draw.ellipse((x, y + 14 - place, x + 20 + 2 * place, y + 32), fill=fill, outline=(30, 20, 40, 255))
        draw.text((x, y + 36), name, fill=(250, 240, 220, 255), font=ImageFont.load_default(10))
    return np.asarray(image)


def test_a_ground_of_few_tiles_is_told_in_a_column_of_other_things():
    parts = look_over(marsh()).parts
    assert [(cut.tile_width, cut.tile_height, cut.region) for cut in parts[:1]] == [(18, 18, Rect(6, 26, 144, 36))]
    assert [cut.pitch_x for cut in parts[1:] if not cut.pieces] == [48], "and the birds by their captions"
    assert Rect(20, 150, 91, 99) in {piece for cut in parts for piece in cut.pieces}, "the tree is whole"
    loose = [cut for cut in parts if cut.pieces]
    assert shown_in([*parts[:2], *loose]) == "2 grids and 2 loose pieces"
    assert shown_in([parts[0], replace(loose[0], pieces=loose[0].pieces[:1])]) == "a grid and 1 loose piece"


@pytest.mark.parametrize("beside", [False, True])
def test_large_letters_are_a_title_where_nothing_else_lies_beside_them(beside):
    tiles = sheet_of_tiles(8, 3, 16, 0, 2, seed=7)
    picture = laid((150, 220), TEAL, (6, 70, tiles), *([(190, 20, tiles[:20, :20])] if beside else []))
    image = Image.fromarray(picture)
    ImageDraw.Draw(image).text((6, 12), "meadow", fill=(40, 20, 60, 255), font=ImageFont.load_default(36))
    colour = np.asarray(image).astype(np.int16)
    found = writing_of(colour, art_of(colour))
    assert not found[70:].any()
    assert found[:60].any() != beside


def test_bold_letters_and_the_comma_of_a_caption_are_writing_too():
    odd, usual = sheet_of_tiles(5, 4, 36, 0, 4, seed=7), sheet_of_tiles(6, 3, 16, 0, 2, seed=8)
    image = Image.fromarray(laid((260, 360), TEAL, (14, 58, odd), (240, 70, usual)))
    draw, ink = ImageDraw.Draw(image), (20, 40, 60, 255)
    draw.text((14, 8), "SHUNTING YARD", fill=ink, font=ImageFont.load_default(20), stroke_width=1, stroke_fill=ink)
    draw.text((14, 40), "floor 36 px, enamel", fill=ink, font=ImageFont.load_default(11))
    colour = np.asarray(image).astype(np.int16)
    art = art_of(colour)
    assert (art & ~writing_of(colour, art))[:58].sum() == 0
    first, second = look_over(np.asarray(image)).parts
    assert (first.tile_width, first.spacing_x, first.region.x, first.region.y) == (36, 4, 14, 58)
    assert (second.tile_width, second.spacing_x) == (16, 2)


@pytest.mark.parametrize("gap", [1, 4, 8])
@pytest.mark.parametrize("left", [True, False])
def test_a_title_that_ends_close_to_a_thing_is_writing_and_the_thing_is_none(gap, left):
    tiles = sheet_of_tiles(6, 3, 20, 0, 2, seed=7)
    image = Image.fromarray(laid((180, 330), TEAL, (90, 70, tiles)))
    draw, font = ImageDraw.Draw(image), ImageFont.load_default(12)
    first, _, last, _ = draw.textbbox((80, 8), "Snow and frozen brook", font=font)
    at = first - gap - 54 if left else last + gap
    thing = (at, 4, at + 53, 60)
    draw.text((80, 8), "Snow and frozen brook", fill=(60, 40, 20, 255), font=font)
    draw.ellipse(thing, fill=(240, 244, 250, 255), outline=(90, 90, 120, 255))
    colour = np.asarray(image).astype(np.int16)
    art = art_of(colour)
    words, written_on = np.zeros_like(art), writing_of(colour, art)
    words[:30, first - 2 : last + 2] = True
    assert not (written_on & ~words).any(), "the thing and the tiles are none"
    assert (art & words & ~written_on).sum() < 0.1 * (art & words).sum()
    grid, loose = look_over(np.asarray(image)).parts
    assert (grid.tile_width, grid.spacing_x, grid.region) == (20, 2, Rect(90, 70, 130, 64))
    assert list(loose.pieces) == [Rect(thing[0], thing[1], 54, 57)]


def test_writing_is_told_from_tiles():
    tiles = sheet_of_tiles(8, 3, 16, 0, 2, seed=7)
    picture = written(laid((110, 220), TEAL, (6, 40, tiles)), (6, 4, "Rocks and sand"), (160, 60, "by nobody"))
    colour = picture.astype(np.int16)
    found = writing_of(colour, art_of(colour))
    assert found[:20].any()
    assert found[55:75, 158:].any()
    assert not found[40:92, 6:148].any()


def test_a_title_above_the_tiles_is_no_part_of_the_grid():
    picture = written(laid((190, 200), CLEAR, (3, 33, sheet_of_tiles(9, 7, 18, 0, 2, seed=8))), (3, 2, "Marsh 18"))
    best = look_over(picture).guesses[0]
    assert (best.tile_width, best.spacing_x, best.margin_x, best.margin_y) == (18, 2, 3, 33)


def test_a_grid_begins_where_its_lines_do_though_its_first_row_and_column_are_bare():
    random = np.random.default_rng(8)
    image = Image.new("RGBA", (236, 184))
    draw = ImageDraw.Draw(image)
    for place in range(0, 240, 26):
        draw.rectangle((place, 0, place + 1, 184), fill=(0, 255, 0, 255))
        draw.rectangle((0, place, 236, place + 1), fill=(0, 255, 0, 255))
    for row, column in np.ndindex(6, 8):
        x, y = 28 + 26 * column, 28 + 26 * row
        if random.random() < 0.8:
            box = (x + 3, y + 4 + int(random.integers(0, 8)), x + int(random.integers(12, 22)), y + 21)
            draw.ellipse(box, fill=(*random.integers(0, 255, 3).tolist(), 255), outline=(0, 0, 0, 255))
        else:
            draw.text((x + 3, y + 6), f"{random.integers(10, 99)}", fill=(255, 255, 0, 255))
    draw.text((57, 6), "abc", fill=(255, 255, 255, 255))
    guesses = look_over(np.asarray(image)).guesses
    assert guesses[0].as_cut("") == Cut("", 24, 24, 2, 2, 2, 2)
    assert len({guess.as_cut("") for guess in guesses}) == len(guesses), "none is proposed twice"


def test_a_read_sheet_has_its_parts_and_a_guess_gives_them_names():
    picture, _ = two_grids(TEAL, beside=False)
    cuts = cuts_read(picture)
    assert [(cut.id, cut.tile_width) for cut in cuts] == [("tiles", 20), ("part-2", 12)]
    one = Cut("ground", 16, 16, anchor="top", offset_x=3)
    parts = guess_in(picture, Sheet("s", "s.png", (one,)), one).parts
    assert [(cut.id, cut.anchor, cut.offset_x) for cut in parts] == [("ground", "top", 3), ("part-2", "top", 3)]
    known = Sheet("s", "s.png", (one, Cut("things", 8, 8, region=Rect(0, 0, 40, 40))))
    assert guess_in(picture, known, one).parts == (), "parts that somebody drew are not thrown away"


def test_things_that_are_scattered_are_not_looked_at_for_ever():
    random = np.random.Generator(np.random.PCG64(1))
    picture, shares = np.zeros((220, 300, 4), np.uint8), list[float]()
    for _ in range(26):
        wide, high = int(random.integers(8, 26)), int(random.integers(8, 34))
        y, x = int(random.integers(0, 220 - high)), int(random.integers(0, 300 - wide))
        part = picture[y : y + high, x : x + wide]
        part[..., :3] = random.integers(40, 220, 3) + random.integers(-20, 20, (high, wide, 1))
        part[..., 3] = 255
    assert look_over(picture, shares.append).parts == []
    assert len(shares) < 40


@pytest.mark.parametrize("beside", [True, False])
def test_looking_says_how_far_it_is_and_stops_when_told_to(beside):
    picture, _ = two_grids(CLEAR, beside)
    shares: list[float] = []

    def stop_late(share: float) -> None:
        if share > 0.4:
            raise Cancelled("Stopped.")

    cuts_read(picture, shares.append)
    assert len(shares) >= 3
    assert shares == sorted(shares)
    assert 0 < shares[0] < shares[-1] <= 1
    with pytest.raises(Cancelled):
        cuts_read(picture, stop_late)


def test_parts_are_set_as_one_step():
    document = Document()
    picture, _ = two_grids(CLEAR, beside=True)
    made = insert_sheet(document, "a.png", Picture(png(picture), picture), Cut("tiles", 16, 16))
    set_parts(document, made, cuts_read(picture))
    assert len(document.project.sheets[0].cuts) == 2
    document.undo()
    assert document.project.sheets[0].cuts == (Cut("tiles", 16, 16),)


@pytest.mark.parametrize("shape", [(4, 4), (7, 40), (6, 6)])
def test_tiny_pictures_are_looked_over_as_far_as_can_be(shape):
    picture = np.full((*shape, 4), 200, np.uint8)
    if min(shape) >= 6:
        assert look_over(picture).parts == []
    else:
        with pytest.raises(Exception, match="too small"):
            look_over(picture)


@pytest.mark.parametrize("ground", [CLEAR, TEAL])
def test_diamonds_are_told_on_any_ground(ground):
    ys, xs = np.mgrid[0:20, 0:40]
    inside = np.abs(2 * (xs + 0.5) / 40 - 1) + np.abs(2 * (ys + 0.5) / 20 - 1) <= 1
    tiles = [
        (2 + 42 * column, 2 + 22 * row, sheet_of_tiles(1, 1, 40, seed=6 * row + column)[:20] * inside[..., None])
        for row in range(4)
        for column in range(6)
    ]
    picture = laid((90, 254), ground, *tiles)
    (cut,) = cuts_read(picture)
    assert (cut.tile_width, cut.tile_height, cut.shape) == (40, 20, "isometric")
    flat, _ = two_grids(ground, beside=False)
    assert {cut.shape for cut in cuts_read(flat)} == {"square"}


def test_of_parts_that_each_lie_in_no_grid_of_the_other_one_is_a_grid():
    sheet, _, _ = cornered_case(2026)
    cuts = look_over(sheet).parts
    assert {bool(cut.pieces) for cut in cuts} == {True, False}


@pytest.mark.parametrize(("side", "gutter"), [(28, 4), (28, 6), (36, 4)])
def test_full_tiles_keep_their_gutter_though_a_usual_size_would_take_it_in(side, gutter):
    odd = sheet_of_tiles(7, 4, side, 0, gutter, seed=3)
    usual = sheet_of_tiles(9, 3, 24, seed=4)
    picture = np.zeros((odd.shape[0] + usual.shape[0] + 40, odd.shape[1] + 30, 4), dtype=np.uint8)
    picture[9 : 9 + odd.shape[0], 12 : 12 + odd.shape[1]] = odd
    picture[27 + odd.shape[0] : 27 + odd.shape[0] + usual.shape[0], 5 : 5 + usual.shape[1]] = usual
    cuts = look_over(picture).parts
    assert [(cut.tile_width, cut.tile_height, cut.spacing_x, cut.spacing_y) for cut in cuts] == [
        (side, side, gutter, gutter),
        (24, 24, 0, 0),
    ]


@pytest.mark.parametrize("spacing", [0, 2])
def test_blocks_of_one_size_that_begin_anywhere_are_cut_where_each_begins(spacing):
    # Flat art, mostly of the colour that all of a block shares, is no ground with things on it.
    pitch = 16 + spacing
    places = [5, 5 + 4 * pitch + 13, 5 + 9 * pitch + 3]
    colours = [(214, 190, 130), (232, 238, 244), (120, 150, 60)]
    arts = []
    for place, colour in zip(places, colours, strict=True):
        tiles = shore(1, "waves", colour)[0].reshape(4, 4, 16, 16, 4)
        arts += [(place + x * pitch, 6 + y * pitch, tiles[y, x]) for y, x in np.ndindex(4, 4)]
    parts = look_over(laid((4 * pitch + 12, places[-1] + 4 * pitch + 7), CLEAR, *arts)).parts
    assert [(part.tile_width, part.spacing_x, part.region.x, part.region.y) for part in parts] == [
        (16, spacing, place, 6) for place in places
    ]


@pytest.mark.parametrize("seed", [2, 33, 54, 9901, 9916])
def test_blocks_apart_are_no_large_tiles_and_begin_to_the_pixel(seed):
    sheet, blocks = make_case(seed)
    parts = look_over(sheet).parts
    assert len(parts) == len(blocks)
    assert all(any(block.is_in(part) for part in parts) for block in blocks)


@pytest.mark.parametrize("seed", [17, 19, 102])
def test_pictures_apart_are_not_cut_into_tiles_that_one_of_them_shows(seed):
    assert is_left_whole(seed)


@pytest.mark.parametrize("seed", [2, 3, 21, 54])
def test_things_below_blocks_that_lie_apart_are_loose_pieces_and_hide_none_of_them(seed):
    sheet, blocks = make_case(seed)
    below = sheet.shape[0] + 6
    sheet = np.pad(sheet, ((0, 50), (0, 60), (0, 0)))
    things = [Rect(4, below + 3, 30, 31), Rect(48, below, 26, 35), Rect(92, below + 6, 33, 28)]
    ys, xs = np.mgrid[: sheet.shape[0], : sheet.shape[1]]
    for number, (x, y, wide, high) in enumerate(things):
        away = ((xs - x) * 2 - wide + 1) ** 2 / wide**2 + ((ys - y) * 2 - high + 1) ** 2 / high**2
        sheet[away <= 1] = (180 - 50 * number, 90, 40 + 60 * number, 255)
    *grids, loose = look_over(sheet).parts
    assert len(grids) == len(blocks)
    assert all(any(block.is_in(part) for part in grids) for block in blocks)
    assert list(loose.pieces) == things
