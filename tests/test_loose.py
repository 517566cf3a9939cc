"""Things in no grid on a sheet: told from grids, kept whole, and what speaks against numbers that run through them."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from calling import fails_with_one_sentence, knitground
from knitground.core.edits.image_files import Source, read_images
from knitground.core.edits.sheets import named_parts, shown_in
from knitground.core.project.collecting import laid_out
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.guess import guess_cuts
from knitground.core.sheet.loose import fits_not, odds_of, over_gutters, things_on
from knitground.core.sheet.parts import look_over
from knitground.core.sheet.picture import Sheet
from making import png, sheet_of_tiles, things_below

CLEAR, MAGENTA = (0, 0, 0, 0), (255, 0, 255, 255)


def read(picture: np.ndarray) -> tuple[Cut, ...]:
    """How a sheet is cut that is read from a file."""
    return read_images([Source("sheet.png", png(picture))], lambda share: None).read[0].cuts


@pytest.mark.parametrize("ground", [CLEAR, MAGENTA])
@pytest.mark.parametrize("spacing", [0, 2])
@pytest.mark.parametrize("seed", [1, 2])
def test_things_below_a_ground_stay_whole_and_the_ground_keeps_its_grid(ground, spacing, seed):
    picture, things = things_below(sheet_of_tiles(9, 4, 16, 3, spacing, seed=seed), ground, seed=seed)
    grid, loose = read(picture)
    assert (grid.tile_width, grid.tile_height, grid.spacing_x, grid.pieces) == (16, 16, spacing, ())
    assert list(loose.pieces) == things
    assert loose.anchor == "bottom"
    assert (grid.id, loose.id) == ("tiles", "pieces")
    assert shown_in((grid, loose)) == f"a grid and {len(things)} loose pieces"


def test_things_on_a_colour_that_is_not_cleared_keep_their_numbers_when_the_sheet_is_drawn_anew():
    picture, things = things_below(sheet_of_tiles(9, 4, 16, 3, seed=1), MAGENTA, seed=1)
    sheet = Sheet("trees", "trees.png", read(picture))
    x, y, width, height = things[2]
    picture[y + height - 4 : y + height, x : x + width] = (90, 60, 30, 255)
    again = laid_out(sheet, Picture.decode(png(picture), "trees.png"))
    assert again.cuts[1].pieces == tuple(things)


def ground_with(side: int, spacing: int, ground: tuple[int, ...], *things: Rect) -> np.ndarray:
    """A ground of 6 x 3 tiles at (5, 4), and round things with a trunk where they are said to be."""
    art = sheet_of_tiles(6, 3, side, 0, spacing, seed=3)
    right, low = (max(of) + 9 for of in zip(*((x + wide, y + high) for x, y, wide, high in things), strict=True))
    picture = np.zeros((max(low, len(art) + 12), max(right, art.shape[1] + 12), 4), np.uint8)
    picture[:] = ground
    picture[4 : 4 + len(art), 5 : 5 + art.shape[1]] = np.where(art[..., 3:] > 0, art, np.array(ground, np.uint8))
    for x, y, wide, high in things:
        image = Image.fromarray(picture)
        draw = ImageDraw.Draw(image)
        draw.ellipse((x, y, x + wide - 1, y + 2 * high // 3), fill=(40, 120, 60, 255), outline=(10, 40, 20, 255))
        draw.rectangle((x + wide // 2 - 2, y + high // 2, x + wide // 2 + 2, y + high - 1), fill=(90, 60, 40, 255))
        picture = np.array(image)
    return picture


@pytest.mark.parametrize("ground", [CLEAR, MAGENTA])
@pytest.mark.parametrize("spacing", [0, 3])
@pytest.mark.parametrize("beside", [False, True])
def test_a_single_large_thing_leaves_the_ground_its_numbers_and_is_whole(ground, spacing, beside):
    wide = 6 * (24 + spacing) + 5
    tree = Rect(wide + 19, 20, 83, 92) if beside else Rect(44, 3 * (24 + spacing) + 21, 83, 92)
    grid, loose = read(ground_with(24, spacing, ground, tree))
    assert (grid.tile_width, grid.tile_height, grid.spacing_x) == (24, 24, spacing)
    assert (grid.region.x, grid.region.y) == (5, 4)
    assert loose.pieces == (tree,)
    assert (loose.tile_width, loose.tile_height) == (24, 24)


def test_things_on_two_sides_of_a_ground_are_whole():
    trees = Rect(20, 96, 60, 71), Rect(90, 96, 41, 55)
    baskets = Rect(190, 6, 19, 17), Rect(190, 30, 27, 24), Rect(190, 60, 22, 16)
    grid, *loose = read(ground_with(24, 2, MAGENTA, *trees, *baskets))
    assert (grid.tile_width, grid.spacing_x) == (24, 2)
    assert {thing for part in loose for thing in part.pieces} == {*trees, *baskets}


def test_a_thing_that_is_drawn_over_tiles_of_the_ground_stays_in_its_grid():
    """Two tiles wide and high, as a block of the ground is."""
    cuts = read(ground_with(24, 0, CLEAR, Rect(5 + 48, 4 + 4 * 24, 48, 48)))
    assert [(cut.tile_width, cut.pieces) for cut in cuts] == [(24, ())]


def test_a_second_ground_without_gutters_is_no_thing_though_it_is_one_block():
    other = sheet_of_tiles(5, 3, 18, 0, seed=8)
    picture = ground_with(24, 0, CLEAR, Rect(200, 150, 1, 1))[:, :190]
    picture[100 : 100 + len(other), 9 : 9 + other.shape[1]] = other
    assert [(cut.tile_width, cut.pieces) for cut in read(picture)] == [(24, ()), (18, ())]


@given(st.integers(9, 30), st.integers(1, 4), st.integers(0, 40), st.integers(0, 40))
def test_what_fills_gutters_goes_over_them_and_tiles_do_not(side, spacing, left, top):
    cut = Cut("tiles", side, side, left, top, spacing, spacing)
    tiles = np.zeros((top + 3 * (side + spacing), left + 3 * (side + spacing)), bool)
    for row in range(3):
        for column in range(3):
            y, x = top + row * (side + spacing), left + column * (side + spacing)
            tiles[y : y + side, x : x + side] = True
    room = Rect(left, top, tiles.shape[1] - left, tiles.shape[0] - top)
    assert over_gutters(tiles, [room], cut) == 0
    assert over_gutters(np.ones_like(tiles), [room], cut) == 2
    assert over_gutters(np.ones_like(tiles), [room._replace(height=side)], cut) == 1


def test_things_that_lie_in_a_grid_of_their_own_are_no_loose_pieces():
    picture, _ = things_below(sheet_of_tiles(9, 4, 16, seed=1), CLEAR, seed=1, pitch=40)
    ground, trees = read(picture)
    assert ground.tile_width == 16
    assert trees.pitch_x == pytest.approx(40, abs=3)
    assert ground.pieces == trees.pieces == ()


@given(st.integers(8, 40), st.integers(0, 4), st.integers(0, 9), st.data())
def test_what_was_drawn_into_tiles_never_speaks_against_their_grid(side, spacing, margin, data):
    cut = Cut("tiles", side, side, margin, margin, spacing, spacing)
    things = []
    for column in range(4):
        tiles = data.draw(st.integers(1, 3))
        width = data.draw(st.integers((tiles - 1) * cut.pitch_x + 1, (tiles - 1) * cut.pitch_x + side))
        room = (tiles - 1) * cut.pitch_x + side - width
        left = margin + 3 * column * cut.pitch_x + data.draw(st.integers(0, room))
        things.append(Rect(left, margin, width, side))
    # Each may fit less surely by a tenth than it would by chance, which is certain at best.
    assert odds_of(things, cut) >= 4 * np.log(0.9) - 1e-9
    assert not fits_not(things, cut)


def test_what_begins_on_the_same_lines_is_told_once():
    cut = Cut("tiles", 16, 16)
    row = [Rect(20 * place + 5, 15, 14, 20) for place in range(1, 9)]
    down = odds_of([Rect(0, 15, 1, 20)], cut)
    assert down < -0.5
    assert odds_of([Rect(x, 15, 1, 20) for x in (0, 16, 32)], cut) == pytest.approx(down)
    assert fits_not(row, cut)


def test_numbers_whose_borders_run_through_separate_things_are_not_the_first_guess():
    """Flat plates of which each fills most of a tile of 60 x 50; finer grids have many more borders in gaps."""
    random = np.random.default_rng(4)
    picture = np.zeros((200, 480, 4), np.uint8)
    for y in range(0, 200, 50):
        for x in range(0, 480, 60):
            wide, high = random.integers(40, 56), random.integers(34, 48)
            left, top = x + random.integers(1, 60 - wide), y + random.integers(1, 50 - high)
            picture[top : top + high, left : left + wide] = (*random.integers(40, 220, 3), 255)
    first = guess_cuts(picture)[0]
    things = things_on(picture[..., 3] > 0, Rect(0, 0, 480, 200))
    assert len(things) == 32
    assert odds_of(things, first.as_cut("")) > 0
    assert (first.tile_width + first.spacing_x, first.tile_height + first.spacing_y) == (60, 50)


def test_without_art_or_with_too_much_of_it_there_are_no_things():
    assert things_on(np.zeros((40, 40), bool), Rect(0, 0, 40, 40)) == []
    dots = np.zeros((400, 400), bool)
    dots[::3, ::3] = True
    assert things_on(dots, Rect(0, 0, 400, 400)) == []
    assert look_over(np.zeros((40, 40, 4), np.uint8)).parts == []


def test_loose_pieces_beside_a_grid_are_told(tmp_path):
    picture, things = things_below(sheet_of_tiles(9, 4, 16, seed=1), (0, 0, 0, 0), seed=1)
    sheet = tmp_path / "trees.png"
    sheet.write_bytes(png(picture))
    grid, loose = knitground("guess", sheet, "--parts").stdout.splitlines()
    assert grid.endswith("tile 16 x 16, spacing 0, 0")
    assert loose.endswith(f"  {len(things)} loose pieces")
    assert knitground("guess", sheet).stdout.startswith(f"a grid and {len(things)} loose pieces show, see --parts")
    told = json.loads(knitground("guess", sheet, "--parts", "--json").stdout)
    assert [len(part.get("pieces", ())) for part in told] == [0, len(things)]
    assert f"A grid and {len(things)} loose pieces" in fails_with_one_sentence(knitground("cut", sheet))


def test_the_largest_grid_among_parts_bears_the_first_name_and_no_two_bear_the_same():
    gear = Cut("", 14, 20, region=Rect(0, 0, 60, 20))
    tiles = Cut("", 22, 22, region=Rect(0, 30, 200, 120))
    hut = Cut("", 22, 22, region=Rect(0, 160, 400, 200), pieces=(Rect(0, 160, 90, 80),))
    assert [one.id for one in named_parts([gear, tiles, hut], "tiles")] == ["part-1", "tiles", "pieces"]
    assert [one.id for one in named_parts([tiles, gear, hut], "part-2")] == ["part-2", "part-2-2", "pieces"]
    assert [one.id for one in named_parts([hut], "tiles")] == ["tiles"]
    assert named_parts([], "tiles") == []
