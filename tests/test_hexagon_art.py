"""Hexagons, as single images and on sheets: how they lie, the size of their cells, and where each stands."""

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw, ImageFont

from knitground.core.edits.grounds import add_ground
from knitground.core.edits.importing import add_collection
from knitground.core.edits.layers import add_layer
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.shapes import inside_polygon
from knitground.core.ground.ground import grid_of_tiles
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.footed import footed_cut
from knitground.core.sheet.footing import footing_of, with_shape
from knitground.core.sheet.gutters import gutter_key
from knitground.core.sheet.hexagons import Hexagon, hexagon_in
from knitground.core.sheet.isometric import usual_foot
from knitground.core.sheet.parts import look_over
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.whole import border_of
from making import poke, together
from test_footing import block

SHAPES = {"hex-pointed": "pointed", "hex-flat": "lying"}
shapes = st.sampled_from(sorted(SHAPES))
rooms = st.tuples(*[st.integers(0, 9)] * 4)


def hexagon(shape: str, width: int, height: int, below: int = 0, seed: int = 0, room=(0, 0, 0, 0)) -> np.ndarray:
    """A hexagon of speckled ground, so many pixels thick; clear pixels at its left, above, at its right and below."""
    corners = np.array([(y, x) for x, y in border_of((width, height), SHAPES[shape])])
    rows, columns = np.mgrid[:height, :width] + 0.5
    face = inside_polygon(corners, rows, columns)
    art = np.zeros((height + below, width, 4), np.uint8)
    for step in range(below, 0, -1):
        art[step : step + height][face] = (90, 70, 60, 255)
    art[:height][face] = (140, 160, 90, 255)
    art[..., :3] += np.random.default_rng(seed).integers(0, 40, art.shape[:2], np.uint8)[..., None]
    left, top, right, under = room
    return np.pad(art, ((top, under), (left, right), (0, 0)))


def tree(shape: str, width: int, height: int) -> np.ndarray:
    """A hexagon with a round crown on a trunk in its middle, which reaches above and aside."""
    up, aside = height, width // 5
    art = np.pad(hexagon(shape, width, height), ((up, 0), (aside, aside), (0, 0)))
    rows, columns = np.mgrid[: len(art), : art.shape[1]]
    crown = (rows - up * 0.7) ** 2 + (columns - art.shape[1] / 2) ** 2 < (0.6 * width) ** 2
    art[crown] = (40, 90, 50, 255)
    return art


@given(shape=shapes, width=st.integers(12, 60), squeezed=st.floats(0.7, 1.2), below=st.integers(0, 12), data=st.data())
@settings(max_examples=80, deadline=None)
def test_the_cell_and_each_foot_are_found_whatever_room_is_round_them(shape, width, squeezed, below, data):
    width = 2 * width
    height = 2 * round(width * squeezed * (0.5 if shape == "hex-pointed" else 0.42))
    assume(height >= 16)
    # What is a little thicker than its face might as well be a little higher.
    assume(below == 0 or 0.1 * height < below < 0.4 * height)
    round_them = [data.draw(rooms) for _ in range(3)]
    found = footing_of([hexagon(shape, width, height, below, n, room) for n, room in enumerate(round_them)])
    assert found is not None
    assert (found.shape, found.cell) == (shape, (width, height))
    for (left, top, _, _), foot in zip(round_them, found.feet, strict=True):
        assert foot is not None
        assert (foot.x, foot.y) == (left + width / 2, top + height)


def test_a_tree_on_a_hexagon_does_not_move_it():
    images = [hexagon("hex-flat", 64, 56, 0, n) for n in range(3)] + [tree("hex-flat", 64, 56)]
    found = footing_of(images)
    assert found is not None
    assert found.corners[3] == (32 + 64 // 5, 112)


def test_blocks_seen_from_a_corner_are_none_though_their_outline_is_a_hexagon():
    art = block(64, 32, 32)
    lit = [art.copy() for _ in range(4)]
    for number, one in enumerate(lit):
        one[32:, :32, :3] = 70 + 10 * number
        one[32:, 32:, :3] = 120 + 10 * number
        one[:16, :, :3] = 200
    assert hexagon_in(lit) is None
    found = footing_of(lit)
    assert found is not None
    assert (found.shape, found.cell) == ("isometric", (64, 32))


@pytest.mark.parametrize("side", [24, 32, 48, 96])
def test_round_things_and_crates_are_no_hexagons(side):
    rows, columns = np.mgrid[:side, :side] + 0.5 - side / 2
    disc = np.zeros((side, side, 4), np.uint8)
    disc[rows**2 + columns**2 <= (side / 2) ** 2] = 200
    octagon = np.zeros((side, side, 4), np.uint8)
    octagon[np.abs(rows) + np.abs(columns) <= side * 0.7] = 200
    for art in (disc, octagon, np.full((side, side, 4), 200, np.uint8)):
        assert hexagon_in([art] * 4) is None


def test_a_few_hexagons_among_many_things_tell_only_if_large():
    things = [np.full((20 + n, 10 + n, 4), 200, np.uint8) for n in range(12)]
    small, large = (
        footing_of([*things, *(hexagon("hex-flat", width, width, 0, n) for n in range(2))]) for width in (32, 72)
    )
    assert small is None or small.shape == "isometric"
    assert large is not None
    assert large.cell == (72, 72)


@pytest.mark.parametrize(("shape", "width", "height"), [("hex-pointed", 48, 56), ("hex-flat", 64, 56)])
def test_images_of_hexagons_lie_on_their_ground_without_a_gap(shape, width, height):
    document, room = Document(), (3, 8, 5, 2)
    images = {f"{n}.png": hexagon(shape, width, height, 0, n, room) for n in range(3)}
    add_collection(document, "comb", together(images))
    foot = usual_foot(document.project.sheets[0].cuts)
    assert foot == (shape, (width, height))
    ground = add_ground(document, "Comb", 8, 8, foot.cell, grid_of_tiles(foot.shape))
    layer = add_layer(document, ground, "Floor")
    poke(document, layer, "cells", np.s_[:], document.palette.code(TileRef("comb", "0", 0, 0)), ground)
    drawn = Derived(document).pixels(ground, PixelRect(width, height, 4 * width, 4 * height))
    assert drawn[..., 3].all()


def test_a_sheet_of_hexagons_of_several_heights_is_cut_by_their_feet_and_knows_their_cell():
    art, pitch = np.zeros((2 * 80, 4 * 66, 4), np.uint8), (66, 80)
    for place in range(8):
        below = 6 + 12 * (place % 3 == 1)
        one = hexagon("hex-flat", 64, 56, below, place)
        x, y = place % 4 * pitch[0] + 1, (place // 4 + 1) * pitch[1] - len(one)
        art[y : y + len(one), x : x + 64] = one
    cut = footed_cut(art[..., 3] > 0)
    assert cut is not None
    assert (cut.pitch_x, cut.pitch_y) == pitch
    shaped = with_shape(art, cut)
    assert (shaped.shape, shaped.footprint) == ("hex-flat", (64, 56))
    assert shaped.offset_y == 6


def test_a_sheet_of_tight_hexagons_needs_no_anchor():
    art = np.concatenate([hexagon("hex-pointed", 48, 56, 0, n) for n in range(5)], axis=1)
    assert with_shape(art, Cut("a", 48, 56)) == Cut("a", 48, 56, shape="hex-pointed")


def test_the_colour_behind_hexagons_that_lie_side_by_side_is_told():
    art = np.concatenate([hexagon("hex-pointed", 48, 56, 0, n) for n in range(5)], axis=1)
    art = np.where(art[..., 3:] > 0, art, np.uint8([214, 190, 232, 255]))
    assert gutter_key(art, [Cut("a", 48, 56, shape="hex-pointed")]) == "#d6bee8"
    # All corners of square tiles may as well be their ground.
    assert gutter_key(art, [Cut("a", 48, 56)]) is None


def test_what_is_known_of_a_hexagon_says_how_much_lies_below_its_face():
    assert hexagon_in([hexagon("hex-flat", 80, 70, 14, n) for n in range(4)]) == Hexagon("hex-flat", 80, 70, 14)


@pytest.mark.parametrize(("size", "gap", "rows"), [((36, 40), 5, 3), ((40, 46), 4, 4)])
def test_titles_between_rows_of_hexagons_are_in_no_tile_and_no_row_is_left_out(size, gap, rows):
    art = [hexagon("hex-pointed", *size, below=7, seed=seed) for seed in range(6 * rows)]
    high, wide = art[0].shape[:2]
    down, across = high + gap + 16, wide + gap
    sheet = Image.new("RGBA", (18 + 6 * across - gap, 18 + rows * down - gap), (196, 226, 214, 255))
    for number, pixels in enumerate(art):
        tile = Image.fromarray(pixels)
        sheet.paste(tile, (9 + number % 6 * across, 25 + number // 6 * down), tile)
    for row, title in zip(
        range(rows), ("plain tiles", "worn, with pebbles", "things on them", "at night"), strict=False
    ):
        ImageDraw.Draw(sheet).text((9, 9 + row * down), title, (40, 40, 44, 255), ImageFont.load_default(11))
    guesses, parts = look_over(np.array(sheet))
    cut = guesses[0].as_cut("")
    assert not parts
    assert (cut.tile_width, cut.tile_height, cut.pitch_x, cut.pitch_y) == (wide, high, across, down)
    assert (cut.margin_x, cut.margin_y, guesses[0].columns, guesses[0].rows) == (9, 25, 6, rows)
