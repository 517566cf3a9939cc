from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from PIL import Image

from knitground.core.errors import BadRequest
from knitground.core.ground.layers import Ground
from knitground.core.ground.shapes import rectangle
from knitground.core.ground.window import Window
from knitground.core.project.derived import Derived
from knitground.core.project.operations import put
from knitground.core.render.atlas import Atlas, premultiplied, straight
from knitground.core.render.compose import compose, compose_overview, whole_picture
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import GAP, TileRef, cell_code, orient
from making import SIDE, make_document, sheet_of_tiles, tile

pictures = hnp.arrays(np.uint8, (3, 5, 4))
REFS = [TileRef("s", "c", n, 0) for n in range(6)]


def sliced() -> dict:
    sheet = sheet_of_tiles(6, 1)
    sheet[:, 2 * SIDE : 3 * SIDE, 3] = 128
    sheet[: SIDE // 2, 3 * SIDE : 4 * SIDE] = 0
    return {("s", "c"): Slices(sheet, Cut("c", SIDE, SIDE))}


@pytest.fixture
def atlas() -> Atlas:
    return Atlas(sliced(), REFS, SIDE, SIDE)


@given(picture=pictures)
def test_solid_and_clear_pixels_survive_premultiplying_exactly(picture):
    picture[..., 3] = np.where(picture[..., 3] > 127, 255, 0)
    back = straight(premultiplied(picture))
    solid = picture[..., 3] == 255
    assert np.array_equal(back[solid], picture[solid])
    assert (back[~solid] == 0).all()


@given(picture=pictures)
def test_half_clear_pixels_come_back_as_near_as_their_alpha_lets_them(picture):
    back = straight(premultiplied(picture)).astype(int)
    alpha = picture[..., 3].astype(int)
    off = np.abs(back[..., :3] - picture[..., :3]).max(axis=-1)
    assert (off[alpha > 0] <= 128 / alpha[alpha > 0] + 1).all()


@given(codes=hnp.arrays(np.int32, (4, 5), elements=st.integers(0, 6)))
def test_each_cell_shows_the_pixels_of_its_tile(codes):
    atlas = Atlas(sliced(), REFS, SIDE, SIDE)
    pixels = compose([codes], atlas)
    tiles = [sliced()["s", "c"].cell(n, 0) for n in range(6)]
    for row in range(4):
        for column in range(5):
            cell = pixels[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE]
            code = int(codes[row, column])
            assert np.array_equal(cell, premultiplied(tiles[code - 1]) if code else np.zeros_like(cell))


def test_layers_lie_over_one_another_as_an_image_library_says(atlas):
    below, above = np.array([[1, 2]], np.int32), np.array([[3, 4]], np.int32)
    tiles = [sliced()["s", "c"].cell(n, 0) for n in range(6)]
    pixels = straight(compose([below, above], atlas))
    for column in range(2):
        low, high = (Image.fromarray(np.ascontiguousarray(tiles[n[0, column] - 1])) for n in (below, above))
        expected = np.asarray(Image.alpha_composite(low, high)).astype(int)
        found = pixels[:, column * SIDE : (column + 1) * SIDE].astype(int)
        assert np.abs(found - expected).max() <= 2


@pytest.mark.parametrize("orientation", range(8))
def test_turned_tiles_show_turned(atlas, orientation):
    pixels = compose([np.array([[cell_code(4, orientation)]], np.int32)], atlas)
    assert np.array_equal(pixels, orient(premultiplied(sliced()["s", "c"].cell(3, 0)), orientation))


def test_a_gap_shows_and_looks_like_none_of_the_art(atlas):
    mark = compose([np.array([[GAP]], np.int32)], atlas)
    assert (mark[..., 3] > 128).all()
    assert all(
        not np.array_equal(mark, premultiplied(one)) for one in (sliced()["s", "c"].cell(n, 0) for n in range(6))
    )


def test_tiles_of_another_size_stand_on_the_cells_bottom_left():
    small = Atlas(sliced(), REFS, SIDE + 4, SIDE + 3)
    pixels = compose([np.array([[1]], np.int32)], small)
    assert (pixels[:3] == 0).all()
    assert (pixels[:, SIDE:] == 0).all()
    assert np.array_equal(pixels[3:, :SIDE], premultiplied(sliced()["s", "c"].cell(0, 0)))


def test_reduced_tiles_keep_their_average(atlas):
    for level, side in ((1, 4), (2, 2), (3, 1), (9, 1)):
        pixels = atlas.pixels(level)
        assert pixels.shape[1:3] == (side, side)
        assert np.abs(pixels[1].mean(axis=(0, 1)) - atlas.pixels(0)[1].mean(axis=(0, 1))).max() <= 1


@pytest.mark.parametrize("step", [2, 4, 8])
def test_from_afar_a_pixel_is_near_the_average_of_its_cells(document, step):
    shape = rectangle((15, 20), (0, 0), (14, 9))
    document.paint("p", "ground", "things", "cells", shape, document.palette.code(tile(3, 3)))
    derived = Derived(document)
    pixels = derived.pixels("ground", Window(0, 0, 15, 20), step=step)
    assert pixels.shape == (-(-15 // step), -(-20 // step), 4)
    tile_mean = derived.tile(tile(3, 3))[..., :3].mean(axis=(0, 1))
    assert np.abs(pixels[0, 0, :3] - tile_mean).max() < 3


def test_an_overview_of_hidden_layers_is_empty(document):
    derived = Derived(document)
    knitted = derived.knitted("ground")
    pixels = compose_overview(knitted.codes, ["things"], derived.atlas(SIDE, SIDE), Window(0, 0, 15, 20), 4)
    assert (pixels == 0).all()


def test_a_window_of_pixels_is_part_of_the_whole_picture():
    document = make_document(30, 25)
    document.state.planes["ground"]["areas"]["corners"][5:12, 4:20] = 2
    derived = Derived(document)
    knitted = derived.knitted("ground")
    whole = whole_picture(knitted.codes, knitted.ground, ["areas"], derived.atlas(SIDE, SIDE))
    part = straight(derived.pixels("ground", Window(4, 3, 9, 11)))
    assert np.array_equal(part, whole[4 * SIDE : 13 * SIDE, 3 * SIDE : 14 * SIDE])


def test_a_picture_too_large_to_hold_is_refused_with_advice(atlas):
    ground = Ground("g", "Wide", 4096, 4096, 16, 16)
    with pytest.raises(BadRequest, match="JSON instead"):
        whole_picture(lambda layer, window: np.zeros(window[2:], np.int32), ground, [], atlas)


def test_gaps_stay_out_of_a_delivered_picture(document):
    document.state.planes["ground"]["walls"]["plan"][:] = 1
    walls = document.project.stitch_sets[0]
    put(document, "x", "stitch_sets", replace(walls, stitches=()))
    derived = Derived(document)
    knitted = derived.knitted("ground")
    picture = whole_picture(knitted.codes, knitted.ground, ["walls"], derived.atlas(SIDE, SIDE))
    assert (picture == 0).all()
    assert derived.pixels("ground", Window(0, 0, 3, 3)).any()
