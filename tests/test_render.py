import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from PIL import Image

from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid import GRIDS, Outline
from knitground.core.grid.plane import Plane
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.shade import ShadeLayer
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.derived import Derived
from knitground.core.render.atlas import Atlas
from knitground.core.render.compositor import picture, render
from knitground.core.render.pixels import modulated, over, premultiplied, straight
from knitground.core.render.scale import Scale, pixels_per
from knitground.core.render.scene import scene_of, without_gaps
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import GAP, TileRef, cell_code, orient
from making import (
    CORNERED,
    SIDE,
    cell_pixels,
    make_document,
    poke,
    rectangle,
    scene_of_codes,
    sheet_of_tiles,
    tile,
    with_stitches,
)

pictures = hnp.arrays(np.uint8, (3, 5, 4))
REFS = [TileRef("s", "c", n, 0) for n in range(6)]
TALL = TileRef("s", "tall", 0, 0)


def sliced() -> dict:
    sheet = sheet_of_tiles(6, 1)
    sheet[:, 2 * SIDE : 3 * SIDE, 3] = 128
    sheet[: SIDE // 2, 3 * SIDE : 4 * SIDE] = 0
    tall = sheet_of_tiles(1, 1, 20, seed=5)
    tall[:6, :7] = 0
    return {
        ("s", "c"): Slices(sheet, Cut("c", SIDE, SIDE)),
        ("s", "tall"): Slices(tall, Cut("tall", 20, 20, anchor="bottom")),
    }


def made_atlas(width: int = SIDE, height: int = SIDE, outline: Outline = "box") -> Atlas:
    atlas = Atlas(width, height, outline=outline)
    atlas.follow(sliced(), [*REFS, TALL])
    return atlas


@pytest.fixture
def atlas() -> Atlas:
    return made_atlas()


def drawn(codes: np.ndarray, atlas: Atlas, **header) -> np.ndarray:
    """All of a square layer that holds these codes."""
    height, width = codes.shape
    return render(
        scene_of_codes(codes, atlas, **header), PixelRect(0, 0, width * atlas.tile_width, height * atlas.tile_height)
    )


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
    pixels = drawn(codes, made_atlas())
    tiles = [sliced()["s", "c"].cell(n, 0) for n in range(6)]
    for row in range(4):
        for column in range(5):
            cell = pixels[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE]
            code = int(codes[row, column])
            assert np.array_equal(cell, premultiplied(tiles[code - 1]) if code else np.zeros_like(cell))


def two_layers(below: TileLayer, above: TileLayer, codes: dict[str, np.ndarray], atlas: Atlas, grid="square"):
    height, width = codes[below.id].shape
    ground = Ground("g", "G", width, height, atlas.tile_width, atlas.tile_height, (below, above), grid)
    planes = {name: {"cells": Plane.of(np.asarray(cells, np.int32))} for name, cells in codes.items()}
    return scene_of(Knitted(ground, planes, {}, 1), atlas)


def test_layers_lie_over_one_another_as_an_image_library_says(atlas):
    codes = {"a": np.array([[1, 2]]), "b": np.array([[3, 4]])}
    scene = two_layers(TileLayer("a", "A"), TileLayer("b", "B"), codes, atlas)
    tiles = [sliced()["s", "c"].cell(n, 0) for n in range(6)]
    pixels = straight(render(scene, PixelRect(0, 0, 2 * SIDE, SIDE)))
    for column in range(2):
        low, high = (Image.fromarray(np.ascontiguousarray(tiles[codes[n][0, column] - 1])) for n in "ab")
        expected = np.asarray(Image.alpha_composite(low, high)).astype(int)
        found = pixels[:, column * SIDE : (column + 1) * SIDE].astype(int)
        assert np.abs(found - expected).max() <= 2


@pytest.mark.parametrize("orientation", range(8))
def test_turned_tiles_show_turned(atlas, orientation):
    pixels = drawn(np.array([[cell_code(4, orientation)]]), atlas)
    assert np.array_equal(pixels, orient(premultiplied(sliced()["s", "c"].cell(3, 0)), orientation))


@pytest.mark.parametrize("outline", ["box", "diamond", "pointed", "lying"])
def test_a_gap_shows_and_looks_like_none_of_the_art(outline):
    atlas = made_atlas(outline=outline)
    mark = drawn(np.array([[GAP]]), atlas)
    assert (mark[SIDE // 2 - 1 : SIDE // 2 + 1, ..., 3] > 128).all()
    assert (mark[0, 0, 3] == 0) == (outline != "box")
    assert all(
        not np.array_equal(mark, premultiplied(one)) for one in (sliced()["s", "c"].cell(n, 0) for n in range(6))
    )


def test_tiles_of_another_size_stand_on_the_cells_bottom_left():
    pixels = drawn(np.array([[1]]), made_atlas(SIDE + 4, SIDE + 3))
    assert (pixels[:3] == 0).all()
    assert (pixels[:, SIDE:] == 0).all()
    assert np.array_equal(pixels[3:, :SIDE], premultiplied(sliced()["s", "c"].cell(0, 0)))


@pytest.mark.parametrize(("level", "side"), [(1, 4), (2, 2), (3, 1), (9, 1)])
def test_reduced_tiles_keep_their_average(atlas, level, side):
    codes = np.array([[1, 2, 3, 4, 5, 6]])
    small = render(scene_of_codes(codes, atlas), PixelRect(0, 0, 6 * side, side), Scale(level))
    whole = drawn(codes, atlas)
    for number in range(6):
        part = small[:, number * side : (number + 1) * side].mean(axis=(0, 1))
        assert np.abs(part - whole[:, number * SIDE : (number + 1) * SIDE].mean(axis=(0, 1))).max() <= 1


@pytest.mark.parametrize("cells", [2, 4, 8])
def test_from_afar_a_pixel_is_near_the_average_of_its_cells(document, cells):
    shape = rectangle((15, 20), (0, 0), (14, 9))
    document.paint("p", "ground", "things", "cells", shape, document.palette.code(tile(3, 3)))
    derived = Derived(document)
    pixels = derived.pixels("ground", PixelRect(0, 0, -(-20 // cells), -(-15 // cells)), Scale(3, cells))
    tile_mean = derived.tile(tile(3, 3))[..., :3].mean(axis=(0, 1))
    assert np.abs(pixels[0, 0, :3] - tile_mean).max() < 3


def test_many_different_tiles_are_seen_from_afar_first(document):
    codes = np.array([[document.palette.code(tile(n % 16, n // 16)) for n in range(40)]], dtype=np.int32)
    poke(document, "things", "cells", np.s_[3:5, :], np.concatenate([codes[:, :20], codes[:, 20:]]))
    pixels = Derived(document).pixels("ground", PixelRect(0, 0, 10, 8), Scale(3, 2))
    assert (pixels[2, :, 3] == 255).all()


def test_an_overview_of_layers_that_hold_nothing_is_empty(document):
    derived = Derived(document)
    knitted = derived.knitted("ground")
    scene = derived.scene(knitted, [knitted.ground.layer("things")])
    assert (render(scene, PixelRect(0, 0, 5, 4), Scale(3, 4)) == 0).all()


@pytest.mark.parametrize("grid", CORNERED)
def test_a_part_is_a_part_of_the_whole_picture(grid):
    document = make_document(30, 25, grid)
    poke(document, "areas", "corners", np.s_[5:12, 4:20], 2)
    derived = Derived(document)
    scene = derived.scene(derived.knitted("ground"))
    whole = picture(scene, "Ground")
    for area in (PixelRect(24, 32, 88, 72), PixelRect(3, 5, 11, 50), PixelRect(0, 0, 1, 1)):
        assert np.array_equal(straight(render(scene, area)), whole[area.y : area.bottom, area.x : area.right])


@pytest.mark.parametrize("grid", list(GRIDS))
@given(data=st.data())
def test_a_scene_looks_as_if_each_tile_were_laid_by_hand(grid, data):
    """The golden picture: sprites pasted one by one from the back to the front."""
    random = np.random.Generator(np.random.PCG64(data.draw(st.integers(0, 99))))
    codes = {name: np.where(random.random((5, 4)) < 0.6, random.integers(1, 8, (5, 4)), 0) for name in "ab"}
    atlas = made_atlas(12, 6, GRIDS[grid].outline)
    depth = data.draw(st.booleans())
    stacking = "depth" if depth else "whole"
    layers = [TileLayer(name, name, stacking=stacking) for name in "ab"]
    scene = two_layers(*layers, codes, atlas, grid)
    width, height = scene.projection.size
    strips = scene.projection.strips(PixelRect(-50, -50, width + 100, height + 100))
    order = [(name, strip) for strip in strips for name in "ab"] if depth else [(n, s) for n in "ab" for s in strips]
    expected = np.zeros((height + 100, width + 100, 4), np.uint8)
    passes = (None,) if depth or grid != "square" else (True, False)
    for name in "ab" if not depth else ("",):
        for filling in passes:
            for layer, strip in order:
                if name and layer != name:
                    continue
                for row, column in zip(strip.rows.tolist(), strip.columns.tolist(), strict=True):
                    sprite, left, top = atlas.sprite(int(codes[layer][row, column]))
                    fills = sprite.shape[:2] == (6, 12)
                    if filling is not None and fills != filling:
                        continue
                    x, y = scene.projection.corner(row, column)
                    part = expected[50 + y + top :, 50 + x + left :][: sprite.shape[0], : sprite.shape[1]]
                    part[:] = over(sprite, part)
    found = render(scene, PixelRect(-50, -50, width + 100, height + 100))
    assert np.abs(found.astype(int) - expected).max() <= (0 if depth else 2)


def test_opacity_tint_and_offset_act_on_a_layer_as_a_whole(atlas):
    codes = np.array([[1, 0], [0, 5]])
    plain = drawn(codes, atlas)
    changed = drawn(codes, atlas, opacity=0.5, tint="#ff8000", offset_x=3, offset_y=-2)
    expected = np.zeros_like(plain)
    expected[:-2, 3:] = modulated(plain, 0.5, (255, 128, 0))[2:, :-3]
    assert np.array_equal(changed, expected)
    assert not drawn(codes, atlas, opacity=0).any()


@pytest.mark.parametrize("grid", CORNERED)
def test_a_shade_is_its_colour_at_a_corner_and_blends_between(grid):
    atlas = made_atlas(16, 16, GRIDS[grid].outline)
    layers = (TileLayer("a", "A"), ShadeLayer("s", "S"))
    ground = Ground("g", "G", 6, 6, 16, 16, layers, grid)
    cells = {"cells": Plane.of(np.full((6, 6), 1, np.int32))}
    corners = np.zeros(ground.board.shape("corners"), np.uint8)
    y, x = ground.board.flat("cells", 3, 3)
    corners[ground.board.stored("corners", y, x)] = 2
    planes = {"a": cells, "s": {"corners": Plane.of(corners)}}
    scene = scene_of(Knitted(ground, planes, {}, 1), atlas)
    bare = scene_of(Knitted(ground, {"a": cells}, {}, 1), atlas)
    area = PixelRect(0, 0, *ground.projection.size)
    shaded, plain = render(scene, area).astype(int), render(bare, area).astype(int)
    light = plain[..., 0] > 60
    factor = shaded[..., 0] / np.maximum(plain[..., 0], 1)
    at = ground.projection.point(y, x)
    rows, columns = np.mgrid[0 : area.height, 0 : area.width] + 0.5
    near = np.hypot(rows - at[1], columns - at[0])
    assert factor[light & (near < 1.5)].max() < 0.5
    assert abs(factor[light & (near > 33)].min() - 1) < 0.05
    assert np.array_equal(shaded[..., 3], plain[..., 3])


def test_a_tile_that_comes_later_costs_no_other(atlas):
    before = drawn(np.array([[1, 7]]), atlas)
    pages = [atlas.page(number, (SIDE, SIDE)) for number in range(2)]
    refs = [*REFS, TALL, TileRef("s", "c", 5, 0)]
    atlas.follow(atlas._sliced, refs)
    assert np.array_equal(drawn(np.array([[1, 7]]), atlas), before)
    assert all(atlas.page(number, (SIDE, SIDE)) is page for number, page in enumerate(pages))


def test_a_picture_too_large_to_hold_is_refused_with_advice(atlas):
    ground = Ground("g", "Wide", 4096, 4096, 16, 16)
    with pytest.raises(BadRequest, match="JSON instead"):
        picture(scene_of(Knitted(ground, {}, {}, 1), made_atlas(16, 16)), "Wide")


def test_gaps_stay_out_of_a_delivered_picture(document):
    poke(document, "walls", "plan", np.s_[:], 1)
    walls = document.project.stitch_sets[0]
    put(document, "x", "stitch_sets", with_stitches(walls))
    derived = Derived(document)
    knitted = derived.knitted("ground")
    scene = derived.scene(knitted, [knitted.ground.layer("walls")], lambda codes, cells: without_gaps(codes))
    assert (picture(scene, "Ground") == 0).all()
    assert cell_pixels(derived, CellRect(0, 0, 3, 3)).any()


@pytest.mark.parametrize("grid", CORNERED)
@pytest.mark.parametrize("scale", [Scale(), Scale(1), Scale(3), Scale(3, 4)])
def test_every_grid_can_be_seen_from_everywhere(grid, scale):
    document = make_document(37, 29, grid)
    derived = Derived(document)
    scene = derived.scene(derived.knitted("ground"))
    across, down = pixels_per(scene.projection, scale)
    width, height = scene.projection.size
    seen = render(scene, PixelRect(-3, -3, int(width / across) + 6, int(height / down) + 6), scale)
    assert (seen[..., 3] > 0).mean() > 0.2
