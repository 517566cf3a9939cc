"""Exchanging a sheet's picture, packing sheets anew, and tiles that reach beyond their cells."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.exchange import cut_otherwise, exchange, exchanged, new_cut, same_layout, take_exchanged
from knitground.core.edits.importing import add_collection
from knitground.core.edits.notes import add_tag
from knitground.core.edits.redrawing import read_again, take_over, watched
from knitground.core.edits.repacking import move_over, pack_anew
from knitground.core.edits.sheets import set_cut
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.ledger import all_findings
from knitground.core.project.model import Picture
from knitground.core.render.atlas import Atlas
from knitground.core.render.compositor import render
from knitground.core.sheet.cut import Cut, Rect
from knitground.core.sheet.repack import Gaps
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.tile import TileRef, cell_code
from making import SIDE, cell_pixels, make_document, png, poke, scene_of_codes, sheet_of_tiles, tile, together


def picture(pixels: np.ndarray) -> Picture:
    return Picture(png(pixels), pixels)


def look(document: Document) -> np.ndarray:
    return cell_pixels(Derived(document), CellRect(0, 0, 15, 20))


@pytest.fixture
def document() -> Document:
    """A ground with all kinds of layers painted, and turned tiles by hand."""
    made = make_document()
    poke(made, "areas", "corners", np.s_[3:9, 4:12], 2)
    poke(made, "lines", "across", np.s_[6, 3:9], 1)
    poke(made, "walls", "plan", np.s_[10:12, 3:9], 1)
    for number in range(8):
        poke(made, "things", "cells", np.s_[13, number], made.palette.code(tile(number, 3), number))
    return made


def sheet_of(document: Document):
    return document.project.sheets[0]


def enlarged(pixels: np.ndarray, by: int) -> np.ndarray:
    return pixels.repeat(by, axis=0).repeat(by, axis=1)


def test_a_picture_twice_as_large_keeps_every_tile_in_its_place(document):
    before, pixels = look(document), document.state.pictures["art"].pixels
    wanted = same_layout(sheet_of(document), document.state.pictures["art"], picture(enlarged(pixels, 2)))
    exchange(document, wanted, grounds=True)
    assert sheet_of(document).cuts[0].tile_width == 2 * SIDE
    assert document.project.grounds[0].tile_width == 2 * SIDE
    assert np.array_equal(look(document), enlarged(before, 2))
    document.undo()
    assert np.array_equal(look(document), before)


def test_what_is_made_ready_beside_draws_the_same_and_so_do_undo_and_redo(document):
    derived = Derived(document)
    before = cell_pixels(derived, CellRect(0, 0, 15, 20))
    cut = Cut("tiles", SIDE, SIDE)
    wanted = cut_otherwise(
        sheet_of(document), document.state.pictures["art"], picture(sheet_of_tiles(16, 4, seed=9)), cut, "order"
    )
    made = exchanged(document, wanted)
    ready = derived.made_ready(made.state)
    assert np.array_equal(cell_pixels(derived, CellRect(0, 0, 15, 20)), before)
    derived.take_over(ready)
    take_exchanged(document, made)
    after = cell_pixels(derived, CellRect(0, 0, 15, 20))
    assert not np.array_equal(after, before)
    assert np.array_equal(after, look(document))
    for _ in range(2):
        document.undo()
        assert np.array_equal(cell_pixels(derived, CellRect(0, 0, 15, 20)), before)
        document.redo()
        assert np.array_equal(cell_pixels(derived, CellRect(0, 0, 15, 20)), after)


def test_a_picture_of_other_proportions_is_no_same_layout(document):
    before = document.state.pictures["art"]
    for size in ((40, 30), (256, 60), (64, 16)):
        assert same_layout(sheet_of(document), before, picture(np.zeros((*size, 4), np.uint8))) is None


@pytest.mark.parametrize("way", ["order", "look"])
def test_the_same_tiles_in_another_layout_are_matched_and_nothing_changes_on_the_maps(document, way):
    before = look(document)
    tiles = Slices(document.state.pictures["art"].pixels, sheet_of(document).cuts[0])
    shuffled = list(tiles.cells())
    if way == "look":
        np.random.Generator(np.random.PCG64(3)).shuffle(shuffled)
    new = np.zeros((7 * (SIDE + 1), 10 * (SIDE + 1), 4), dtype=np.uint8)
    for number, cell in enumerate(shuffled):
        row, column = divmod(number, 10)
        new[row * (SIDE + 1) :, column * (SIDE + 1) :][:SIDE, :SIDE] = tiles.cell(*cell)
    cut = Cut("tiles", SIDE, SIDE, spacing_x=1, spacing_y=1)
    add_tag(document, [tile(5, 0)], "kept")
    wanted = cut_otherwise(sheet_of(document), document.state.pictures["art"], picture(new), cut, way)
    assert wanted.matched == 64
    exchange(document, wanted)
    assert np.array_equal(look(document), before)
    (tagged,) = document.project.tiles
    assert np.array_equal(Derived(document).tile(tagged), tiles.cell(5, 0))
    assert not [one for one in all_findings(Derived(document)) if one.kind == "fell away"]


def test_tiles_that_find_no_place_are_told_and_never_taken_for_others(document):
    smaller = picture(sheet_of_tiles(16, 2, SIDE, seed=9))
    cut = replace(sheet_of(document).cuts[0])
    wanted = cut_otherwise(sheet_of(document), document.state.pictures["art"], smaller, cut, "place")
    assert wanted.matched == 32
    exchange(document, wanted)
    (finding,) = [one for one in all_findings(Derived(document)) if one.kind == "fell away"]
    assert "stitches Walls (2)" in finding.sentence
    assert "8 cells of Ground, Things, first at 0, 13" in finding.sentence


def test_single_tiles_are_matched_by_hand_whatever_the_way_says(document):
    add_tag(document, [tile(5, 0)], "five")
    before = look(document)
    art = document.state.pictures["art"]
    cut = sheet_of(document).cuts[0]
    by_hand = {(5, 0): (6, 0), (6, 0): (5, 0), (7, 0): None, (8, 0): (99, 0)}
    wanted = cut_otherwise(sheet_of(document), art, art, cut, "place", by_hand)
    assert wanted.matched == 63
    exchange(document, wanted)
    (tagged,) = document.project.tiles
    assert (tagged.column, tagged.row) == (6, 0)
    assert wanted.mapping[tile(8, 0)][2:] == (8, 0), "what is no tile takes nobody's place"
    document.undo()
    assert np.array_equal(look(document), before)


def test_a_sheet_of_several_parts_is_only_exchanged_for_the_same_layout(document):
    sheet = sheet_of(document)
    several = replace(sheet, cuts=(*sheet.cuts, Cut("b", 4, 4, region=Rect(0, 0, 8, 8))))
    with pytest.raises(BadRequest, match="several parts"):
        new_cut(several, picture(sheet_of_tiles(3, 3)))
    doubled = same_layout(several, document.state.pictures["art"], picture(np.zeros((64, 256, 4), np.uint8)))
    assert doubled.sheet.cuts[1].region == (0, 0, 16, 16)


def test_an_exchange_that_is_not_saved_is_not_undone_by_the_file(document, tmp_path):
    document.save(tmp_path)
    new = picture(sheet_of_tiles(16, 4, seed=5))
    exchange(document, same_layout(sheet_of(document), document.state.pictures["art"], new))
    (tmp_path / "sheets" / "art.png").write_bytes(png(sheet_of_tiles(16, 4, seed=6)))
    (one,) = watched(document)
    assert take_over(document, one, read_again(one)) == "kept"
    assert document.state.pictures["art"] is new
    document.save()
    # What the paint program wrote stays where it is; the project names another file now.
    assert sheet_of(document).file == "sheets/art-2.png"
    assert (tmp_path / sheet_of(document).file).read_bytes() == new.files[0]
    assert (tmp_path / "sheets" / "art.png").exists()
    assert np.array_equal(Document.load(tmp_path).state.pictures["art"].pixels, new.pixels)


@given(
    margin=st.integers(0, 4),
    spacing=st.integers(0, 3),
    extrude=st.integers(0, 2),
    power=st.booleans(),
    unique=st.booleans(),
)
def test_moving_over_to_a_sheet_packed_anew_shifts_nothing(margin, spacing, extrude, power, unique):
    document = make_document()
    poke(document, "areas", "corners", np.s_[3:9, 4:12], 2)
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(7, 3), 6))
    before = look(document)
    packed = pack_anew(document, "art", Gaps(margin, spacing, extrude, power), unique=unique)
    move_over(document, packed)
    assert np.array_equal(look(document), before)
    height, width = packed.pixels.shape[:2]
    if power:
        assert height & (height - 1) == width & (width - 1) == 0
    if not unique:
        assert sheet_of(document).cuts[0].id == "tiles"
        assert Derived(document).usable(document.project.join_sets[0].labels) == set(
            document.project.join_sets[0].labels
        )


def test_copies_are_left_away_and_those_behind_move_up(document):
    pixels = document.state.pictures["art"].pixels.copy()
    pixels[SIDE : 2 * SIDE, 8 * SIDE : 16 * SIDE] = pixels[:SIDE, : 8 * SIDE]
    labels = {ref: row for ref, row in document.project.join_sets[1].labels.items() if ref.column < 8}
    sets = document.project.join_sets[0], replace(document.project.join_sets[1], labels=labels)
    document.define("x", replace(document.project, join_sets=sets), pictures={"art": picture(pixels)})
    before = look(document)
    packed = pack_anew(document, "art", Gaps(), unique=True)
    assert packed.gone == 8
    assert packed.pixels.shape[0] == 4 * SIDE
    move_over(document, packed)
    assert np.array_equal(look(document), before)
    document.undo()
    assert np.array_equal(look(document), before)


def test_a_sheet_of_several_parts_and_loose_pieces_can_be_packed(document):
    sheet = sheet_of(document)
    cuts = (
        replace(sheet.cuts[0], region=Rect(0, 0, 64, 32)),
        Cut("loose", 8, 8, pieces=(Rect(64, 0, 20, 9), Rect(90, 5, 4, 4))),
    )
    put(document, "x", "sheets", replace(sheet, cuts=cuts))
    refs = [TileRef("art", "tiles", 3, 1), TileRef("art", "loose", 0, 0), TileRef("art", "loose", 1, 0)]
    before = [np.array(Derived(document).tile(ref)) for ref in refs]
    packed = pack_anew(document, "art", Gaps(3, 2, 1))
    move_over(document, packed)
    for ref, drawn in zip(refs, before, strict=True):
        assert np.array_equal(Derived(document).tile(ref), drawn)


@pytest.mark.parametrize("sheet", ["grid", "pieces"])
def test_gaps_out_of_range_are_refused_whatever_the_cut(document, sheet):
    if sheet == "pieces":
        cut = replace(sheet_of(document).cuts[0], pieces=(Rect(0, 0, 8, 8),))
        set_cut(document, "art", cut)
    with pytest.raises(BadRequest, match="spacing is 2000"):
        pack_anew(document, "art", Gaps(spacing=2000))


def test_clear_pixels_that_fill_up_to_a_power_of_two_are_no_finding(document):
    move_over(document, pack_anew(document, "art", Gaps(spacing=3, power_of_two=True)))
    assert document.state.pictures["art"].size == (256, 64)
    assert "left over" not in [one.kind for one in all_findings(Derived(document))]


def test_a_collection_becomes_one_sheet_under_the_same_names(tmp_path):
    document = make_document()
    images = {f"{name}.png": sheet_of_tiles(1, 1, side, seed=side) for name, side in (("a", 5), ("b", 11), ("c", 7))}
    name = add_collection(document, "things", together(images))
    refs = [TileRef(name, image, 0, 0) for image in "abc"]
    before = [np.array(Derived(document).tile(ref)) for ref in refs]
    move_over(document, pack_anew(document, name, Gaps(2, 2, 1)))
    document.save(tmp_path)
    again = Derived(Document.load(tmp_path))
    for ref, drawn in zip(refs, before, strict=True):
        assert np.array_equal(again.tile(ref), drawn)


@given(data=st.data())
def test_tiles_that_reach_beyond_their_cells_are_drawn_whole_whatever_the_window(data):
    random = np.random.Generator(np.random.PCG64(data.draw(st.integers(0, 99))))
    sheet = random.integers(1, 256, (20, 40, 4), dtype=np.uint8)
    sheet[..., 3] = random.choice([0, 255], sheet.shape[:2])
    sizes = [data.draw(st.tuples(st.integers(1, 12), st.integers(1, 12))) for _ in range(3)]
    anchors = st.sampled_from(["top-left", "bottom", "middle", "right", None])
    offsets = st.integers(-4, 4)
    sliced, refs = {}, []
    for number, (width, height) in enumerate(sizes):
        cut = Cut(
            f"c{number}",
            width,
            height,
            anchor=data.draw(anchors),
            offset_x=data.draw(offsets),
            offset_y=data.draw(offsets),
        )
        sliced["s", cut.id] = Slices(sheet, replace(cut, taken_in=((0, 0),)))
        refs.append(TileRef("s", cut.id, 0, 0))
    atlas = Atlas(5, 4)
    atlas.follow(sliced, refs)
    numbers = random.integers(0, 4, (6, 7))
    codes = np.where(numbers, numbers | random.integers(0, 8, (6, 7)) << 24, 0).astype(np.int32)
    scene = scene_of_codes(codes, atlas)
    whole = render(scene, PixelRect(0, 0, 7 * 5, 6 * 4))
    assert np.array_equal(whole, painted_one_by_one(codes, atlas))
    top, left = data.draw(st.integers(0, 23)), data.draw(st.integers(0, 34))
    part = PixelRect(left, top, data.draw(st.integers(1, 35 - left)), data.draw(st.integers(1, 24 - top)))
    assert np.array_equal(render(scene, part), whole[top : part.bottom, left : part.right])


def painted_one_by_one(codes: np.ndarray, atlas: Atlas) -> np.ndarray:
    """All tiles that fill their cells, then the others in reading order, pixel by pixel."""
    canvas = np.zeros((6 * 4, 7 * 5, 4), dtype=np.uint8)
    for filling in (True, False):
        for (row, column), code in np.ndenumerate(codes):
            sprite, left, top = atlas.sprite(int(code))
            if not code or (sprite.shape[:2] == (4, 5) and not left and not top) != filling:
                continue
            for y, x in np.ndindex(*sprite.shape[:2]):
                at = row * 4 + top + y, column * 5 + left + x
                if sprite[y, x, 3] and 0 <= at[0] < canvas.shape[0] and 0 <= at[1] < canvas.shape[1]:
                    canvas[at] = sprite[y, x]
    return canvas


def test_tall_tiles_are_no_finding_once_it_is_said_how_they_stand(document):
    sheet = sheet_of(document)
    put(document, "x", "sheets", replace(sheet, cuts=(*sheet.cuts, Cut("tall", SIDE, 2 * SIDE))))
    poke(document, "things", "cells", np.s_[5, 5], document.palette.code(TileRef("art", "tall", 0, 0)))
    kinds = [one.kind for one in all_findings(Derived(document))]
    assert "tile size" in kinds
    sheet = sheet_of(document)
    set_cut(document, "art", replace(sheet.cuts[1], anchor="bottom"))
    assert "tile size" not in [one.kind for one in all_findings(Derived(document))]
    assert cell_code(1, 0) == 1
