"""Parts of a picture, loose pieces, cells in and out, anchors, and numbers that cut through less."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.cuts import add_cut, as_grid, guess_in, remove_cut, take_loose, toggle_cell, with_clearing
from knitground.core.edits.sheets import insert_sheet, set_cut
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest, BadSheet
from knitground.core.project.collecting import loose_pieces
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.sheet.cut import (
    Anchor,
    Cell,
    Cut,
    Rect,
    grid_of,
    parts_over,
    stands_at,
    tile_at,
    tile_rect,
    tile_rects,
)
from knitground.core.sheet.footing import with_shape
from knitground.core.sheet.guess import guess_part
from knitground.core.sheet.isometric import shape_of
from knitground.core.sheet.picture import Clearing, cleared
from knitground.core.sheet.pieces import find_pieces, kept_in_place
from knitground.core.sheet.severed import Severing
from knitground.core.sheet.shelves import shelved
from knitground.core.sheet.slices import Slices, left_over
from knitground.core.tiles.tile import TileRef
from making import make_document, png, sheet_of_tiles

sides = st.integers(1, 12)


def two_grids() -> np.ndarray:
    """A picture with tiles of 16 on its left and tiles of 8 with spacing on its right."""
    picture = np.zeros((64, 140, 4), dtype=np.uint8)
    picture[:, :64] = sheet_of_tiles(4, 4, 16, seed=1)
    small = sheet_of_tiles(6, 6, 8, 0, 2, seed=2)
    picture[2 : 2 + small.shape[0], 74 : 74 + small.shape[1]] = small
    return picture


@pytest.fixture
def document() -> Document:
    made = Document()
    pixels = two_grids()
    insert_sheet(made, "art.png", Picture(png(pixels), pixels), Cut("tiles", 16, 16))
    return made


@given(x=st.integers(0, 20), y=st.integers(0, 20), tile=sides, margin=st.integers(0, 3), spacing=st.integers(0, 3))
def test_a_cut_on_a_part_is_the_same_as_a_cut_of_that_part_alone(x, y, tile, margin, spacing):
    picture = np.random.Generator(np.random.PCG64(3)).integers(0, 256, (60, 70, 4), dtype=np.uint8)
    region = Rect(x, y, 40, 35)
    numbers = tile, tile, margin, margin, spacing, spacing
    part = Slices(picture, Cut("a", *numbers, region=region))
    alone = Slices(picture[y : y + 35, x : x + 40], Cut("a", *numbers))
    assert part.grid == alone.grid
    assert np.array_equal(part.held, alone.held)
    cells = list(alone.cells())[:20]
    rects = tile_rects(part.cut, np.array(cells, dtype=np.intp).reshape(-1, 2))
    assert rects.tolist() == [list(tile_rect(part.cut, *cell)) for cell in cells]
    for cell in cells:
        assert np.array_equal(part.tile(*cell), alone.tile(*cell))
        rect = tile_rect(part.cut, *cell)
        assert tile_at(part.cut, part.grid, rect.x + 0.5, rect.y + 0.5) == cell


def test_a_part_beyond_a_picture_that_shrank_says_so():
    with pytest.raises(BadSheet, match="beyond the picture"):
        grid_of(Cut("a", 8, 8, region=Rect(40, 0, 8, 8)), 32, 32)
    assert grid_of(Cut("a", 8, 8, region=Rect(16, 0, 32, 32)), 40, 16)[:2] == (3, 2)


def test_empty_cells_are_no_tiles_and_cells_go_out_and_in(document):
    sheet = document.project.sheets[0]
    set_cut(document, sheet.id, Cut(sheet.cuts[0].id, 16, 16))
    ref, blank = TileRef(sheet.id, sheet.cuts[0].id, 1, 1), TileRef(sheet.id, sheet.cuts[0].id, 4, 3)
    picture = document.state.pictures[sheet.id].pixels
    picture[48:64, 64:80] = 0
    derived = Derived(document)
    assert derived.usable([ref, blank]) == {ref}
    assert not toggle_cell(document, ref)
    assert derived.tile(ref) is None
    assert toggle_cell(document, blank)
    assert derived.usable([ref, blank]) == {blank}
    assert document.project.sheets[0].cuts[0].left_out == (Cell(1, 1),)
    assert toggle_cell(document, ref)
    assert not toggle_cell(document, blank)
    assert document.project.sheets[0].cuts[0] == Cut(sheet.cuts[0].id, 16, 16)


def test_a_part_is_guessed_for_itself_and_the_last_cut_stays(document):
    sheet = document.project.sheets[0].id
    name = add_cut(document, sheet, Rect(74, 2, 60, 60))
    cut = next(one for one in document.project.sheets[0].cuts if one.id == name)
    assert (cut.tile_width, cut.tile_height, cut.spacing_x, cut.spacing_y) == (8, 8, 2, 2)
    assert Slices(document.state.pictures[sheet].pixels, cut).held.sum() == 36
    remove_cut(document, sheet, name)
    with pytest.raises(BadRequest, match="keeps one cut"):
        remove_cut(document, sheet, document.project.sheets[0].cuts[0].id)
    with pytest.raises(BadRequest, match="too small"):
        add_cut(document, sheet, Rect(0, 0, 2, 2))


def test_guessing_keeps_what_else_is_said_of_a_cut(document):
    cut = Cut("a", 5, 5, region=Rect(74, 2, 60, 60), anchor="top", offset_x=3)
    sheet = document.project.sheets[0]
    best, reason, confidence = guess_in(document.state.pictures[sheet.id].pixels, sheet, cut).cuts[0]
    assert (best.tile_width, best.region, best.anchor, best.offset_x) == (8, cut.region, "top", 3)
    assert reason
    assert 0 < confidence <= 1


rects = st.lists(
    st.tuples(st.integers(0, 5), st.integers(0, 5), st.integers(2, 7), st.integers(2, 7)), min_size=1, max_size=12
)


@given(data=rects, gap=st.integers(0, 2))
def test_separate_shapes_are_found_whole_each_once(data, gap):
    picture = np.zeros((64, 64, 4), dtype=np.uint8)
    drawn = []
    for number, (x, y, width, height) in enumerate(data):
        left, top = number % 4 * 16 + x, number // 4 * 16 + y
        picture[top : top + height, left : left + width, 3] = 255
        drawn.append(Rect(left, top, width, height))
    # Shapes of different blocks are at least three pixels apart.
    assert set(find_pieces(picture, gap=gap)) == set(drawn)


@pytest.mark.parametrize(("apart", "gap", "count"), [(1, 0, 2), (1, 1, 1), (3, 2, 2), (3, 3, 1), (4, 3, 2)])
def test_the_gap_says_how_far_apart_parts_of_one_piece_may_be(apart, gap, count):
    picture = np.zeros((20, 40, 4), dtype=np.uint8)
    picture[4:8, 4:8, 3] = picture[4:8, 8 + apart : 12 + apart, 3] = 255
    assert len(find_pieces(picture, gap=gap)) == count
    assert len(find_pieces(picture.swapaxes(0, 1), gap=gap)) == count


def test_specks_and_bare_pictures_are_no_pieces():
    picture = np.zeros((9, 9, 4), dtype=np.uint8)
    with pytest.raises(BadSheet, match="Nothing on this sheet"):
        find_pieces(picture)
    picture[4, 4] = 255
    with pytest.raises(BadSheet, match="0 shapes"):
        find_pieces(picture)


def test_pieces_found_anew_keep_their_numbers():
    before = [Rect(0, 0, 10, 10), Rect(20, 0, 10, 10), Rect(40, 0, 10, 10)]
    found = [Rect(60, 0, 4, 4), Rect(41, 2, 12, 9), Rect(1, 0, 9, 14)]
    assert kept_in_place(before, found) == [
        Rect(1, 0, 9, 14),
        Rect(20, 0, 10, 10),
        Rect(41, 2, 12, 9),
        Rect(60, 0, 4, 4),
    ]
    assert kept_in_place([], found) == found


def test_loose_pieces_of_a_sheet_are_tiles_of_their_own_size_and_can_be_a_grid_again(document):
    sheet = document.project.sheets[0]
    set_cut(document, sheet.id, replace(sheet.cuts[0], region=Rect(70, 0, 70, 64)))
    for gap, count in ((0, 36), (2, 1)):
        cut = replace(document.project.sheets[0].cuts[0], gap=gap)
        found = loose_pieces(document.state.pictures[sheet.id].pixels, cut)
        assert take_loose(document, sheet.id, cut.id, gap, found) == count
    cut = document.project.sheets[0].cuts[0]
    tile = Derived(document).tile(TileRef(sheet.id, cut.id, 0, 0))
    assert tile.shape[:2] == (58, 58)
    assert cut.anchor == "bottom"
    as_grid(document, sheet.id, cut.id)
    assert not document.project.sheets[0].cuts[0].pieces


def test_a_small_piece_within_a_large_one_is_hit_first():
    cut = Cut("a", 1, 1, pieces=(Rect(0, 0, 30, 30), Rect(10, 10, 5, 5)))
    assert tile_at(cut, grid_of(cut, 30, 30), 12, 12) == (1, 0)
    assert tile_at(cut, grid_of(cut, 30, 30), 2, 2) == (0, 0)
    assert tile_at(cut, grid_of(cut, 30, 30), 31, 2) is None


@pytest.mark.parametrize(
    ("anchor", "place"),
    [
        (None, (0, -24)),
        ("bottom-left", (0, -24)),
        ("bottom", (-8, -24)),
        ("top-right", (-16, 0)),
        ("middle", (-8, -12)),
    ],
)
def test_a_tile_stands_where_its_anchor_says(anchor: Anchor | None, place):
    cut = Cut("a", 32, 40, anchor=anchor)
    assert stands_at(cut, (32, 40), (16, 16)) == place
    moved = replace(cut, offset_x=3, offset_y=-5)
    assert stands_at(moved, (32, 40), (16, 16)) == (place[0] + 3, place[1] - 5)


def test_colours_near_a_key_and_faint_pixels_are_cleared():
    picture = np.zeros((1, 5, 4), dtype=np.uint8)
    picture[0] = [(255, 0, 255, 255), (250, 4, 255, 255), (240, 0, 255, 255), (10, 10, 10, 40), (10, 10, 10, 255)]
    assert (cleared(picture, Clearing(("#ff00ff",)))[0, :, 3] > 0).tolist() == [False, True, True, True, True]
    assert (cleared(picture, Clearing(("#ff00ff",), 5))[0, :, 3] > 0).tolist() == [False, False, True, True, True]
    assert (cleared(picture, Clearing((), 0, 41))[0, :, 3] > 0).tolist() == [True, True, True, False, True]
    assert cleared(picture, Clearing((), 9)) is picture


def test_numbers_out_of_range_are_refused_and_change_nothing(document):
    sheet = document.project.sheets[0]
    with pytest.raises(BadSheet, match="tolerance is 300"):
        with_clearing(sheet, tolerance=300)
    changed = with_clearing(sheet, keys=["#010203", "#010203"], clear_below=9)
    assert (changed.keys, changed.tolerance, changed.clear_below) == (("#010203",), 0, 9)


@pytest.mark.parametrize("change", [{"spacing_x": 3}, {"spacing_y": 1}, {"margin_x": 4, "margin_y": 4}])
def test_numbers_off_by_a_pixel_are_noticed_and_the_better_ones_are_right(change):
    picture = sheet_of_tiles(12, 9, 16, 3, 2, seed=4)
    picture[..., :3] = picture[..., :3] // 60 * 60
    right = Cut("a", 16, 16, 3, 3, 2, 2)
    severing = Severing(picture)
    assert severing.better(right) is None
    better = severing.better(replace(right, **change))
    assert better is not None
    assert better.cut == right
    assert better.sentence.endswith(f"cuts {better.fewer} fewer shapes")
    assert severing.count(right) < severing.count(replace(right, **change))


def test_the_sentence_names_the_number():
    picture = sheet_of_tiles(12, 9, 16, 0, 2, seed=5)
    picture[..., :3] = picture[..., :3] // 60 * 60
    better = Severing(picture).better(Cut("a", 16, 16, 0, 0, 3, 3))
    assert better.sentence.startswith("1 px less spacing cuts ")


def test_what_a_margin_or_spacing_explains_is_not_left_over():
    cut = Cut("a", 8, 8, 3, 3, 2, 2)
    art = np.full((3 + 8 + 2, 3 + 8 * 4 + 2 * 3 + 3, 4), 255, dtype=np.uint8)
    assert not any(left_over(Slices(art, cut)))
    assert str(left_over(Slices(art[:11, : 3 + 8 + 7], cut))) == "7 px at the right"
    art[:, 11:] = 0
    assert not any(left_over(Slices(art[:11, : 3 + 8 + 7], cut)))


@given(sizes=st.lists(st.tuples(sides, sides), min_size=1, max_size=30), apart=st.integers(0, 3))
def test_shelves_hold_all_without_overlap(sizes, apart):
    places, (width, height) = shelved(sizes, apart=apart)
    taken = np.zeros((height, width), dtype=int)
    for place, (wide, high) in zip(places, sizes, strict=True):
        assert (place.width, place.height) == (wide, high)
        taken[place.y : place.y + high, place.x : place.x + wide] += 1
    assert taken.max() == 1
    assert taken.sum() == sum(wide * high for wide, high in sizes)


def test_what_is_said_of_a_cut_survives_saving(tmp_path):
    document = make_document()
    sheet = document.project.sheets[0]
    cut = replace(sheet.cuts[0], left_out=(Cell(1, 0),), taken_in=(Cell(2, 3),), anchor="top", offset_y=-4)
    loose = Cut("loose", 8, 8, pieces=(Rect(0, 0, 20, 9), Rect(30, 0, 4, 4)), gap=2, shape="isometric")
    part = Cut("part", 4, 4, region=Rect(8, 8, 40, 16))
    changed = replace(sheet, cuts=(cut, loose, part), keys=("#112233",), tolerance=7, clear_below=20, soft_edges=True)
    put(document, "x", "sheets", changed)
    document.save(tmp_path)
    assert Document.load(tmp_path).project == document.project
    text = (tmp_path / "knitground.json").read_text()
    assert '"margin_x"' not in text


def test_a_part_drawn_roughly_is_drawn_in_to_its_tiles_but_never_past_art(document):
    sheet = document.project.sheets[0].id
    name = add_cut(document, sheet, Rect(71, 0, 66, 63))
    part = next(one for one in document.project.sheets[0].cuts if one.id == name)
    assert (part.region, part.margin_x) == ((74, 2, 58, 58), 0)
    document.state.pictures[sheet].pixels[62, 90] = 255
    name = add_cut(document, sheet, Rect(71, 0, 66, 63))
    part = next(one for one in document.project.sheets[0].cuts if one.id == name)
    assert part.region == (71, 0, 66, 63)


def test_isometric_tiles_are_told_from_square_ones():
    diamonds = np.zeros((3 * 40, 5 * 32, 4), dtype=np.uint8)
    rows, columns = np.mgrid[0:16, 0:32] + 0.5
    foot = np.abs(rows - 8) / 8 + np.abs(columns - 16) / 16 <= 1
    for row in range(3):
        for column in range(5):
            tile = diamonds[row * 40 :, column * 32 :][:40, :32]
            tile[24:][foot] = 255
            tile[10 : 24 + 8, 12:20] = 200
    cut = Cut("a", 32, 40)
    assert shape_of(diamonds, cut) == "isometric"
    assert (with_shape(diamonds, cut).anchor, with_shape(diamonds, cut).shape) == ("bottom", "isometric")
    assert shape_of(sheet_of_tiles(5, 3, 32), Cut("a", 32, 32)) == "square"
    assert shape_of(diamonds[:20], cut) == "square"


def test_a_piece_beyond_a_picture_that_shrank_is_no_tile_even_if_taken_in():
    cut = Cut("a", 8, 8, pieces=(Rect(0, 0, 8, 8), Rect(30, 0, 8, 8)), taken_in=(Cell(0, 0), Cell(1, 0)))
    slices = Slices(np.zeros((8, 16, 4), dtype=np.uint8), cut)
    assert slices.held.tolist() == [[True, False]]
    assert slices.tile(1, 0) is None


spots = st.integers(0, 40)


@given(
    x=spots, y=spots, wide=st.integers(1, 20), high=st.integers(1, 20), margin=st.integers(0, 5), gap=st.integers(0, 3)
)
def test_cells_that_a_part_lies_over_are_no_tiles_of_the_cut_beneath(x, y, wide, high, margin, gap):
    picture = np.full((60, 60, 4), 255, dtype=np.uint8)
    part = Rect(x, y, wide, high)
    beneath = Cut("a", 7, 7, margin, margin, gap, gap)
    slices = Slices(picture, beneath, parts_over(beneath, (beneath, Cut("b", 1, 1, region=part))))
    for row in range(slices.grid.rows):
        for column in range(slices.grid.columns):
            assert slices.holds(column, row) != tile_rect(beneath, column, row).touches(part)


def test_the_smaller_part_lies_over_the_larger_and_nothing_over_itself():
    whole, large, small = (
        Cut("w", 8, 8),
        Cut("l", 8, 8, region=Rect(0, 0, 40, 40)),
        Cut("s", 4, 4, region=Rect(8, 8, 8, 8)),
    )
    cuts = whole, large, small
    assert parts_over(whole, cuts) == (large.region, small.region)
    assert parts_over(large, cuts) == (small.region,)
    assert parts_over(small, cuts) == ()


def test_what_fills_the_margin_is_not_left_over_below_a_heading():
    sheet = np.full((14 + 3 + 2 * 8 + 3, 3 + 2 * 8 + 3, 4), (40, 40, 50, 255), np.uint8)
    sheet[17:33, 3:19] = sheet_of_tiles(2, 2, 8)
    cut = Cut("a", 8, 8, 3, 17)
    assert not any(left_over(Slices(sheet, cut)))
    # Gutters of a pixel leave one more behind the last tiles.
    apart = sheet.copy()
    apart[[24, 32]] = (40, 40, 50, 255)
    apart[:, [10, 18]] = (40, 40, 50, 255)
    assert not any(left_over(Slices(apart, Cut("a", 7, 7, 3, 17, 1, 1))))
    sheet[-1, 4] = (200, 40, 50, 255)
    assert str(left_over(Slices(sheet, cut))) == "3 px at the bottom"


def test_art_under_another_part_is_not_left_over():
    art = np.full((16, 30, 4), 255, dtype=np.uint8)
    assert any(left_over(Slices(art, Cut("a", 8, 8))))
    assert not any(left_over(Slices(art, Cut("a", 8, 8), (Rect(20, 0, 10, 16),))))


def test_a_part_takes_its_cells_from_the_cut_beneath_and_gives_them_back(document):
    sheet = document.project.sheets[0]
    set_cut(document, sheet.id, Cut(sheet.cuts[0].id, 16, 16))
    ref = TileRef(sheet.id, sheet.cuts[0].id, 0, 0)
    name = add_cut(document, sheet.id, Rect(0, 0, 32, 32))
    assert Derived(document).tile(ref) is None
    assert Derived(document).tile(ref._replace(column=3)) is not None
    remove_cut(document, sheet.id, name)
    assert Derived(document).tile(ref) is not None


@pytest.mark.parametrize("ground", [(0, 0, 0, 0), (10, 120, 140, 255)])
@pytest.mark.parametrize("rough", [(5, 3, 4, 6), (0, 7, 9, 1), (2, 2, 0, 0)])
def test_how_roughly_a_part_is_drawn_round_its_tiles_does_not_matter(ground, rough):
    random = np.random.default_rng(sum(rough))
    left, top, right, bottom = rough
    picture = np.zeros((top + 4 * 23 - 3 + bottom, left + 8 * 23 - 3 + right, 4), np.uint8)
    picture[:] = ground
    for row in range(4):
        for column in range(8):
            base = random.integers(40, 220, 3)
            art = np.clip(base + random.integers(-12, 12, (20, 20, 1)), 0, 255)
            picture[top + 23 * row :, left + 23 * column :][:20, :20] = np.dstack([art, np.full((20, 20), 255)])
    best = guess_part(picture)[0]
    assert (best.tile_width, best.tile_height, best.spacing_x, best.spacing_y) == (20, 20, 3, 3)
    assert (best.margin_x, best.margin_y) == (left, top)
    assert sum(one.confidence for one in guess_part(picture)) <= 1.001
