"""Single isometric images: the cell that they are drawn for, and where their foot is, whatever lies round it."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.edits.grounds import add_ground
from knitground.core.edits.importing import add_collection
from knitground.core.edits.layers import add_layer
from knitground.core.edits.standing import stand
from knitground.core.grid.projection import PixelRect
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut, foot_in
from knitground.core.sheet.footing import footing, footing_of, with_shape
from knitground.core.sheet.isometric import on_foot, usual_foot
from knitground.core.tiles.tile import TileRef
from making import poke, together

widths = st.integers(6, 30).map(lambda quarter: 4 * quarter)
rooms = st.tuples(*[st.integers(0, 9)] * 4)


def block(width: int, height: int, up: int = 0, room: tuple[int, int, int, int] = (0, 0, 0, 0)) -> np.ndarray:
    """A block on a diamond, with so many clear pixels at its left, above, at its right and below."""
    high = height + up
    rows, columns = np.mgrid[:high, :width] + 0.5
    away = (np.abs(columns - width / 2) - 0.5) / width * height
    art = np.zeros((high, width, 4), np.uint8)
    art[(rows >= height / 2 - (height / 2 - away)) & (rows <= high - away)] = (150, 120, 90, 255)
    # The sides of a block are in the shade.
    sides = (rows > height - away) & (art[..., 3] > 0)
    art[sides, :3] = np.where(columns < width / 2, 90, 60)[sides][:, None]
    left, top, right, below = room
    return np.pad(art, ((top, below), (left, right), (0, 0)))


def post(width: int, high: int) -> np.ndarray:
    """A thin thing with a ball on it."""
    art = np.zeros((high, width, 4), np.uint8)
    art[:, width // 2 - 1 : width // 2 + 2] = 255
    art[: width // 2] = 255
    return art


@given(width=widths, ups=st.lists(st.integers(0, 90), min_size=3, max_size=6), data=st.data())
@settings(max_examples=60)
def test_the_cell_and_each_foot_are_found_whatever_room_is_round_them(width, ups, data):
    round_them = [data.draw(rooms) for _ in ups]
    images = [block(width, width // 2, up, room) for up, room in zip(ups, round_them, strict=True)]
    found = footing_of(images)
    assert found is not None
    assert found.cell == (width, width // 2)
    for image, (left, _, _, below), foot in zip(images, round_them, found.feet, strict=True):
        assert foot is not None
        assert abs(foot.x - (left + width / 2)) <= 1
        assert abs(foot.y - (image.shape[0] - below)) <= 1


@pytest.mark.parametrize("width", [40, 64, 128])
@pytest.mark.parametrize("slope", [0.577, 0.66, 0.75])
def test_another_angle_is_told(width, slope):
    height = 2 * round(width * slope / 2)
    found = footing_of([block(width, height, up, (3, 2, 5, 1)) for up in (0, 0, 0, 30)])
    assert found is not None
    assert found.cell == (width, height)


def test_the_upright_sides_of_blocks_tell_how_wide_a_cell_is_where_floors_end_a_pixel_early():
    floor = block(56, 32)
    floor[:, [0, -1]] = 0
    found = footing_of([floor, floor, floor, block(56, 32, 18), block(56, 32, 40)])
    assert found is not None
    assert found.cell == (56, 32)


def test_neither_a_soft_shadow_nor_tufts_nor_a_key_move_a_foot():
    plain = [block(64, 32, up, (6, 4, 30, 8)) for up in (0, 20, 40)]
    shaded = [image.copy() for image in plain]
    for image in shaded:
        ground = image[-20:-4, 40:95]
        ground[ground[..., 3] == 0] = (0, 0, 0, 70)
    tufted = [image.copy() for image in plain]
    for image in tufted:
        for column in (20, 31, 44, 57):
            lowest = np.flatnonzero(image[:, column, 3])[-1]
            image[lowest : lowest + 4, column] = (90, 140, 60, 255)
    keyed = [np.where(image[..., 3:] > 0, image, np.uint8([255, 0, 255, 255])) for image in plain]
    expected = footing_of(plain)
    assert expected is not None
    for images in (shaded, tufted, keyed):
        found = footing_of(images)
        assert found is not None
        assert found.cell == (64, 32)
        for foot, right in zip(found.feet, expected.feet, strict=True):
            assert np.abs(np.subtract(foot, right)[:2]).max() <= 1


def test_what_shares_a_canvas_keeps_its_place_and_what_does_not_stands_by_its_foot():
    floor, tower = block(64, 32, 0, (4, 48, 4, 6)), block(64, 32, 48, (4, 0, 4, 6))
    beside = np.zeros_like(floor)
    beside[20:60, 50:54] = 255
    loose = np.pad(post(9, 40), ((0, 0), (3, 0), (0, 0)))
    images = {"floor.png": floor, "tower.png": tower, "beside.png": beside, "loose.png": loose}
    document = Document()
    add_collection(document, "yard", together(images))
    floor_cut, tower_cut, beside_cut, loose_cut = document.project.sheets[0].cuts
    assert (floor_cut.offset_x, floor_cut.offset_y) == (0, 6)
    assert (tower_cut.offset_x, tower_cut.offset_y) == (beside_cut.offset_x, beside_cut.offset_y) == (0, 6)
    assert foot_in(tower_cut, (72, 86)) == (4, 48, 64, 32)
    assert [cut.shape for cut in (floor_cut, tower_cut, beside_cut, loose_cut)] == ["isometric"] * 2 + ["square"] * 2
    # Half a cell is 32; the middle of the post lies at 7.5 of its 12.
    assert (loose_cut.offset_x, loose_cut.offset_y) == (-1, -8)
    assert usual_foot(document.project.sheets[0].cuts) == ("isometric", (64, 32))


def test_a_stall_over_four_cells_among_floors_leaves_the_usual_cell_as_it_is():
    images = {f"floor {n}.png": block(48, 24) for n in range(4)} | {"wall.png": block(48, 24, 42)}
    document = Document()
    add_collection(document, "market", together({**images, "stall.png": block(92, 46, 28)}))
    sheet = document.project.sheets[0]
    assert {cut.id: cut.foot for cut in sheet.cuts if cut.foot} == {"stall": (96, 48)}
    assert usual_foot(sheet.cuts) == ("isometric", (48, 24))


def test_a_padded_floor_lies_on_the_ground_without_a_gap():
    document = Document()
    add_collection(document, "yard", together({f"{one}.png": block(48, 24, 0, (7, 9, 2, 5)) for one in "abc"}))
    assert usual_foot(document.project.sheets[0].cuts) == ("isometric", (48, 24))
    ground = add_ground(document, "Yard", 10, 10, (48, 24), "diamond")
    layer = add_layer(document, ground, "Floor")
    poke(document, layer, "cells", np.s_[:], document.palette.code(TileRef("yard", "a", 0, 0)), ground)
    drawn = Derived(document).pixels(ground, PixelRect(24 * 8, 12 * 8, 96, 48))
    assert drawn[..., 3].all()


@pytest.mark.parametrize("left", [True, False])
def test_a_wall_at_a_far_side_of_a_cell_comes_to_lie_along_it(left):
    rows, columns = np.mgrid[:72, :32] + 0.5
    level = 72 - columns / 2 if left else 56 + columns / 2
    wall = np.zeros((72, 32, 4), np.uint8)
    wall[(rows <= level) & (rows > level - 56)] = 255
    found = footing_of([block(64, 32), block(64, 32, 20), wall])
    assert found is not None
    corner = found.corners[2]
    assert found.feet[2] is None
    assert corner is not None
    # The far corner of the cell is where the wall's foot is highest.
    assert abs(corner[0] - (32 if left else 0)) <= 1
    assert abs(corner[1] - (56 + 32)) <= 1


def test_what_takes_several_cells_stands_at_their_lowest_corner():
    document = Document()
    images = {"a.png": block(32, 16), "b.png": block(32, 16), "hall.png": block(64, 32, 30, (5, 0, 2, 3))}
    add_collection(document, "yard", together(images))
    hall = document.project.sheets[0].cuts[2]
    assert hall.footprint == (64, 32)
    assert foot_in(hall, (71, 65)) == (5, 30, 64, 32)


@given(st.integers(0, 2**32 - 1))
@settings(max_examples=40)
def test_round_and_boxed_things_are_no_isometric_images(seed):
    random = np.random.default_rng(seed)
    images = []
    for _ in range(6):
        side = int(random.integers(24, 60))
        rows, columns = np.mgrid[:side, :side] + 0.5 - side / 2
        art = np.zeros((side, side), np.uint8)
        art[(rows**2 + columns**2 < side**2 / 4) if random.random() < 0.5 else (np.abs(columns) < side / 3)] = 255
        images.append(art)
    assert footing(images) is None


def test_strange_images_are_borne_with():
    assert footing([]) is None
    assert footing_of([]) is None
    clear = np.zeros((8, 8, 4), np.uint8)
    assert footing_of([clear, np.zeros((1, 1, 4), np.uint8), np.full((300, 1, 4), 255, np.uint8)]) is None
    assert footing_of([np.full((1, 300, 4), 255, np.uint8), np.full((40, 40, 4), 255, np.uint8)]) is None


def grid_of_tiles(tiles: list[np.ndarray], columns: int, gap: int = 0) -> np.ndarray:
    """A sheet of tiles of one size, so many in a row."""
    height, width = tiles[0].shape[:2]
    rows = -(-len(tiles) // columns)
    sheet = np.zeros((rows * (height + gap), columns * (width + gap), 4), np.uint8)
    for number, one in enumerate(tiles):
        y, x = number // columns * (height + gap), number % columns * (width + gap)
        sheet[y : y + height, x : x + width] = one
    return sheet


@given(width=widths, room=rooms, ups=st.lists(st.integers(0, 40), min_size=4, max_size=9))
@settings(max_examples=40)
def test_tiles_of_a_grid_with_room_round_their_feet_are_isometric_and_read_without_it(width, room, ups):
    left, _, right, below = room
    highest = max(ups)
    tiles = [block(width, width // 2, up, (left, highest - up, right, below)) for up in ups]
    height, wide = tiles[0].shape[:2]
    cut = with_shape(grid_of_tiles(tiles, 3), Cut("tiles", wide, height))
    assert cut.shape == "isometric"
    assert cut.footprint[1] == cut.footprint[0] // 2
    place = np.subtract(foot_in(cut, (wide, height)), (left, height - below - width // 2, width, width // 2))
    assert np.abs(place).max() <= 2
    part = on_foot(tiles[0], cut)
    assert part.shape == (height - below + place[1] + place[3], cut.footprint[0], 4)
    if not place.any():
        assert (part[..., 3] > 0).sum() == (tiles[0][..., 3] > 0).sum()


def test_square_tiles_and_hexagons_stay_what_they_are():
    rows, columns = np.mgrid[:36, :40] + 0.5
    inside = np.abs(columns - 20) / 20 <= np.minimum(1, 2 * np.minimum(rows, 36 - rows) / 24)
    hexagon = np.zeros((36, 40, 4), np.uint8)
    hexagon[inside] = (90, 140, 60, 255)
    for tile in (hexagon, np.full((36, 40, 4), 255, np.uint8)):
        cut = Cut("tiles", 44, 40)
        padded = np.pad(tile, ((2, 2), (2, 2), (0, 0)))
        assert with_shape(grid_of_tiles([padded] * 8, 4), cut) == cut
        assert on_foot(padded, cut) is padded


def test_the_shape_that_somebody_says_takes_the_foot_away():
    document = Document()
    add_collection(document, "yard", together({f"{one}.png": block(48, 24, 0, (7, 9, 2, 5)) for one in "abc"}))
    assert document.project.sheets[0].cuts[0].foot == (48, 24)
    stand(document, [("yard", "a")], shape="square")
    stand(document, [("yard", "a")], shape="isometric")
    assert document.project.sheets[0].cuts[0].foot is None
    assert document.project.sheets[0].cuts[1].foot == (48, 24)


@given(
    size=st.tuples(st.integers(1, 60), st.integers(1, 60)),
    foot=st.tuples(st.integers(1, 4096), st.integers(1, 4096)),
    offset=st.tuples(st.integers(-4096, 4096), st.integers(-4096, 4096)),
)
def test_a_foot_that_a_damaged_project_puts_anywhere_costs_no_more_than_its_tile(size, foot, offset):
    tile = np.full((*size, 4), 255, np.uint8)
    cut = Cut("tiles", size[1], size[0], shape="isometric", offset_x=offset[0], offset_y=offset[1], foot=foot)
    assert on_foot(tile, cut).size <= 4 * tile.size
