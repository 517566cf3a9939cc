"""Tilesets from single images and from pictures that move."""

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from scipy import ndimage

from knitground.core.edits.animations import add_frames, blocks_from
from knitground.core.edits.grounds import add_ground
from knitground.core.edits.image_files import Source, insert_reads, read_images
from knitground.core.edits.importing import (
    add_collection,
    extend_collection,
    images_in,
    images_of,
    read_collection,
    read_folder,
)
from knitground.core.edits.notes import animate
from knitground.core.edits.redrawing import read_again, take_over, watched
from knitground.core.edits.sheets import insert_sheet, sizes_known
from knitground.core.edits.standing import move_standing
from knitground.core.errors import BadProject, BadRequest, BadSheet
from knitground.core.grid.rect import CellRect
from knitground.core.project.collecting import MOST_IMAGES
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import Picture
from knitground.core.project.playing import Playing, playing
from knitground.core.sheet.cut import LARGEST_TILE, Cut
from knitground.core.sheet.frames import USUAL_MS, count_frames, decode_frames
from knitground.core.tiles.notes import Frame
from knitground.core.tiles.tile import NUMBER_MASK, TileRef, cell_code
from making import make_document, plane_of, png, poke, tile, together


def solid(width: int, height: int, *colour: int) -> np.ndarray:
    return np.full((height, width, 4), (*colour, 255), dtype=np.uint8)


FRAMES = [solid(6, 8, 200, 40 * number, 10) for number in range(4)]


def moving_file(kind: str, durations=(50, 120, 80, 200)) -> bytes:
    """Four frames as a GIF, APNG or WebP."""
    buffer, images = io.BytesIO(), [Image.fromarray(frame) for frame in FRAMES]
    more = {"lossless": True} if kind == "WEBP" else {}
    images[0].save(buffer, kind, save_all=True, append_images=images[1:], duration=list(durations), loop=0, **more)
    return buffer.getvalue()


@pytest.mark.parametrize("kind", ["GIF", "PNG", "WEBP"])
def test_all_frames_of_a_moving_picture_are_read_with_their_times(kind):
    data = moving_file(kind)
    assert count_frames(data) == 4
    frames = decode_frames(data, "x")
    assert [frame.ms for frame in frames] == [50, 120, 80, 200]
    for frame, drawn in zip(frames, FRAMES, strict=True):
        assert np.abs(frame.pixels.astype(int) - drawn).max() <= 8


def test_a_picture_that_stands_still_is_one_frame():
    (frame,) = decode_frames(png(FRAMES[0]), "x")
    assert frame.ms == USUAL_MS
    assert np.array_equal(frame.pixels, FRAMES[0])


def test_a_moving_picture_cut_short_is_refused_in_a_sentence():
    with pytest.raises(BadSheet, match="damaged or cut short"):
        decode_frames(moving_file("WEBP")[:150], "x.webp")
    assert count_frames(b"nonsense") == 1


def test_a_gif_becomes_a_sheet_whose_first_tile_plays(tmp_path):
    document = make_document()
    (sheet,) = insert_reads(document, read_images([Source("steam.gif", moving_file("GIF"))]).read)
    refs = [TileRef(sheet, "frames", column, 0) for column in range(4)]
    notes = document.project.tiles[refs[0]]
    assert [(frame.tile, frame.ms) for frame in notes.frames] == list(zip(refs, (50, 120, 80, 200), strict=True))
    document.save(tmp_path)
    again = Document.load(tmp_path)
    assert Derived(again).tile(refs[2]).shape == (8, 6, 4)
    document.undo()
    assert [one.id for one in document.project.sheets] == ["art"]


def test_frames_of_different_sizes_stand_on_the_same_ground():
    document = make_document()
    frames = decode_frames(png(solid(4, 4, 255, 0, 0)), "a") + decode_frames(png(solid(8, 6, 0, 255, 0)), "b")
    sheet = add_frames(document, "x", frames, tile(0, 0))
    first = Derived(document).tile(TileRef(sheet, "frames", 0, 0))
    assert first.shape == (6, 8, 4)
    assert first[2:, 2:6, 3].all()
    assert not first[:2, :, 3].any()
    assert len(document.project.tiles[tile(0, 0)].frames) == 2


def test_on_the_ground_a_tile_looks_like_the_frame_that_shows_in_its_own_turn():
    document = make_document()
    insert_reads(document, read_images([Source("steam.gif", moving_file("GIF"))]).read)
    ref = TileRef("steam", "frames", 0, 0)
    poke(document, "things", "cells", np.s_[2, 3], document.palette.code(ref))
    poke(document, "things", "cells", np.s_[4, 5], document.palette.code(ref, 5))
    cells = plane_of(document, "things", "cells")
    derived = Derived(document)
    moved = playing(derived)
    assert np.argwhere(moved.moves(cells)).tolist() == [[2, 3], [4, 5]]
    frame = document.palette.number(ref._replace(column=2))
    now = moved.exchange_at(50 + 120 + 10)(cells, CellRect(0, 0, *cells.shape))
    assert (now[2, 3], now[4, 5]) == (frame, cell_code(frame, 5))
    assert np.array_equal(now == 0, cells == 0)
    assert moved.shortest_ms == 50


def test_a_project_without_animations_plays_nothing():
    document = make_document()
    moved = Playing(document.project, document.palette)
    codes = np.array([[0, 1, 2]], dtype=np.int32)
    assert not moved.moves(codes).any()
    assert np.array_equal(moved.exchange_at(999)(codes, CellRect(0, 0, 1, 3)), codes)


def test_frames_along_a_row_and_down_a_column_end_at_the_first_cell_that_is_none():
    derived, first = Derived(make_document()), tile(13, 1)
    assert blocks_from(derived, [first], down=False) == {first: [tile(13, 1), tile(14, 1), tile(15, 1)]}
    assert blocks_from(derived, [first], down=True) == {first: [tile(13, 1), tile(13, 2), tile(13, 3)]}


def test_frames_in_blocks_end_where_one_of_the_tiles_is_lacking():
    derived = Derived(make_document())
    block = [tile(10, 1), tile(11, 1), tile(10, 2)]
    assert blocks_from(derived, block, down=False) == {
        ref: [ref, ref._replace(column=ref.column + 2), ref._replace(column=ref.column + 4)] for ref in block
    }
    with pytest.raises(BadRequest, match="No other whole block follows below the chosen one"):
        blocks_from(derived, [tile(10, 1), tile(10, 2)], down=True)
    with pytest.raises(BadRequest, match="several cuts"):
        blocks_from(derived, [tile(13, 1), tile(1, 1)._replace(cut="other")], down=True)


@pytest.fixture
def folder(tmp_path) -> Path:
    """Images of different sizes and kinds, and something that is none."""
    made = tmp_path / "yard"
    made.mkdir()
    (made / "tall.png").write_bytes(png(solid(5, 20, 255, 0, 0)))
    (made / "wide.png").write_bytes(png(solid(30, 4, 0, 255, 0)))
    Image.fromarray(solid(9, 9, 0, 0, 255)).convert("RGB").save(made / "blue.bmp")
    (made / "notes.txt").write_text("not an image")
    return made


def collected(folder: Path) -> tuple[Document, str]:
    document = make_document()
    return document, add_collection(document, folder.name, read_collection(images_in(folder)))


def test_a_folder_of_images_is_one_tileset_with_tiles_of_their_own_sizes(folder):
    document, name = collected(folder)
    derived = Derived(document)
    sizes = {image: derived.tile(TileRef(name, image, 0, 0)).shape[1::-1] for image in ("blue", "tall", "wide")}
    assert sizes == {"blue": (9, 9), "tall": (5, 20), "wide": (30, 4)}
    assert (derived.tile(TileRef(name, "tall", 0, 0)) == (255, 0, 0, 255)).all()


def test_a_collection_is_saved_as_its_images_and_comes_back(folder, tmp_path):
    document, name = collected(folder)
    document.save(tmp_path / "p")
    assert sorted(path.name for path in (tmp_path / "p" / "sheets" / name).iterdir()) == [
        "blue.png",
        "tall.png",
        "wide.png",
    ]
    again = Document.load(tmp_path / "p")
    assert again.project == document.project
    assert np.array_equal(again.state.pictures[name].pixels, document.state.pictures[name].pixels)


def extended(document: Document, name: str, *paths: Path) -> int:
    found = read_collection(paths, images_of(document, name))
    return extend_collection(document, name, found)


def test_images_are_put_into_a_collection_that_there_is(folder, tmp_path):
    document, name = collected(folder)
    document.save(tmp_path / "p")
    poke(document, "things", "cells", np.s_[3, 3], document.palette.code(TileRef(name, "wide", 0, 0)))
    before = document.project
    (tmp_path / "new").mkdir()
    (tmp_path / "new" / "wide.png").write_bytes(png(solid(60, 8, 9, 9, 9)))
    (tmp_path / "new" / "round.png").write_bytes(png(solid(3, 3, 1, 2, 3)))
    assert extended(document, name, *sorted((tmp_path / "new").iterdir())) == 2
    derived = Derived(document)
    assert (derived.tile(TileRef(name, "wide", 0, 0)) == (0, 255, 0, 255)).all(), "the old ones stay what they are"
    assert derived.tile(TileRef(name, "wide-2", 0, 0)).shape == (8, 60, 4)
    assert (derived.tile(TileRef(name, "round", 0, 0)) == (1, 2, 3, 255)).all()
    document.save()
    again = Document.load(tmp_path / "p")
    assert again.project == document.project
    assert Derived(again).tile(TileRef(name, "wide-2", 0, 0)).shape == (8, 60, 4)
    document.undo()
    assert document.project == before
    assert Derived(document).tile(TileRef(name, "round", 0, 0)) is None


def test_an_image_of_another_size_moves_no_other_tile(folder, tmp_path):
    document, name = collected(folder)
    document.save(tmp_path / "p")
    (tmp_path / "p" / "sheets" / name / "blue.png").write_bytes(png(solid(40, 13, 7, 7, 7)))
    one = next(one for one in watched(document) if one.sheet.id == name)
    assert take_over(document, one, read_again(one)) == "taken"
    assert take_over(document, one, read_again(one)) == "same"
    derived = Derived(document)
    assert derived.tile(TileRef(name, "blue", 0, 0)).shape == (13, 40, 4)
    assert (derived.tile(TileRef(name, "wide", 0, 0)) == (0, 255, 0, 255)).all()
    assert not document.changed
    again = Document.load(tmp_path / "p")
    assert Derived(again).tile(TileRef(name, "blue", 0, 0)).shape == (13, 40, 4)


def test_images_with_one_name_are_told_apart_and_bad_ones_refused(folder, tmp_path):
    other = tmp_path / "other"
    other.mkdir()
    (other / "tall.png").write_bytes(png(solid(3, 3, 1, 1, 1)))
    found = read_collection([folder / "tall.png", other / "tall.png"])
    assert list(found.files) == ["tall.png", "tall-2.png"]
    (other / "tall.png").write_bytes(b"\x89PNG nothing")
    with pytest.raises(BadSheet, match="tall"):
        read_collection(images_in(other))
    (tmp_path / "bare").mkdir()
    with pytest.raises(BadSheet, match="neither a project nor an image"):
        images_in(tmp_path / "bare")


def test_what_cannot_be_a_tile_is_left_out_of_a_folder_and_told(folder):
    (folder / "broken.png").write_bytes(b"\x89PNG nothing")
    (folder / "all of it.png").write_bytes(png(solid(LARGEST_TILE + 1, 4, 1, 1, 1)))
    found = read_collection(images_in(folder))
    assert list(found.files) == ["blue.png", "tall.png", "wide.png"]
    assert ["all of it" in found.left_out[0], "broken" in found.left_out[1]] == [True, True]


def test_a_folder_gives_its_own_images_and_those_of_all_folders_in_it_numbers_in_order(tmp_path):
    for name in ("pack/sea 10", "pack/sea 9", "pack/Sea 2", "pack/more/deep/red", "pack/.hidden/red", "red"):
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / f"{name}.png").write_bytes(png(solid(8, 8, 255, 0, 0)))
    (tmp_path / "pack" / "red.png").write_bytes(png(solid(8, 8, 0, 0, 255)))
    (tmp_path / "pack" / "link").symlink_to(tmp_path, target_is_directory=True)
    folders: list[float] = []
    names = [str(path.relative_to(tmp_path / "pack")) for path in images_in(tmp_path / "pack", folders.append)]
    assert names == ["red.png", "Sea 2.png", "sea 9.png", "sea 10.png", "more/deep/red.png"]
    assert len(folders) == 3, "one that is stopped stops in the next folder"
    assert list(read_folder(tmp_path / "pack").files)[-1] == "red-2.png"


def test_a_folder_with_far_too_many_images_is_refused_with_a_way_out(tmp_path):
    for number in range(MOST_IMAGES + 1):
        (tmp_path / f"{number}.png").touch()
    with pytest.raises(BadSheet, match="choose a folder in it"):
        images_in(tmp_path)


@pytest.mark.parametrize("times", [1, 3])
@pytest.mark.parametrize("opaque", [True, False])
def test_a_picture_that_shows_the_others_is_left_out_of_a_folder_and_told(tmp_path, times, opaque):
    drawn = np.random.default_rng(3).integers(0, 255, (12, 20, 16, 4), dtype=np.uint8)
    drawn[..., 3] = 255
    for number, image in enumerate(drawn):
        (tmp_path / f"{number}.png").write_bytes(png(image))
    shown = 3 if opaque else 5
    preview = np.full((120, 120, 4), 255 if opaque else 0, dtype=np.uint8)
    for number in range(shown):
        preview[5 + 15 * number : 25 + 15 * number, 7 + 11 * number : 23 + 11 * number] = drawn[number]
    (tmp_path / "preview.png").write_bytes(png(preview.repeat(times, 0).repeat(times, 1)))
    found = read_folder(tmp_path)
    assert list(found.files) == [f"{number}.png" for number in range(12)]
    assert "preview.png shows several of the others" in found.left_out[0]
    assert "preview.png" in read_collection(images_in(tmp_path)).files, "who names it gets it"


def test_what_is_drawn_of_some_others_stays_in_a_folder(tmp_path):
    drawn = np.random.default_rng(4).integers(0, 255, (12, 20, 16, 4), dtype=np.uint8)
    drawn[..., 3] = 255
    house = np.zeros((70, 40, 4), dtype=np.uint8)
    for number in range(3):
        house[2 + 20 * number : 22 + 20 * number, 10:26] = drawn[number]
    board = np.full((60, 60, 4), 90, dtype=np.uint8)
    board[..., 3] = 255
    for name, image in (*((str(n), image) for n, image in enumerate(drawn)), ("house", house), ("board", board)):
        (tmp_path / f"{name}.png").write_bytes(png(image))
    found = read_folder(tmp_path)
    assert {"house.png", "board.png"} <= set(found.files)
    assert found.left_out == ()


def test_a_file_cannot_name_two_images_alike(folder, tmp_path):
    document, name = collected(folder)
    document.save(tmp_path / "p")
    path = tmp_path / "p" / "knitground.json"
    path.write_text(path.read_text().replace(f"sheets/{name}/wide.png", f"sheets/{name}/more/tall.png"))
    with pytest.raises(BadProject, match="bear the same name"):
        Document.load(tmp_path / "p")


def test_a_labelled_tile_moves_wherever_it_is_knit():
    document = make_document()
    derived = Derived(document)
    whole = CellRect(0, 0, 15, 20)
    codes = derived.knitted("ground").codes("areas", whole)
    laid = document.palette.ref(int(codes[0, 0]) & NUMBER_MASK)
    animate(document, {laid: [Frame(laid, 100), Frame(tile(9, 3), 100)]})
    moved = playing(derived)
    spots = moved.moves(codes)
    assert spots.any()
    now = moved.exchange_at(150)(codes, whole)
    assert {document.palette.ref(int(code)) for code in np.unique(now[spots])} == {tile(9, 3)}
    assert np.array_equal(moved.exchange_at(50)(codes, whole), codes)


@pytest.mark.parametrize("side", [16, 32])
def test_a_second_sheet_is_cut_as_the_first_where_little_shows(side):
    shape = ndimage.gaussian_filter(np.random.default_rng(5).random((96, 128)), 5)
    picture = np.where((shape > np.median(shape))[..., None], np.array([120, 90, 60, 255], np.uint8), np.uint8(0))
    picture[shape > np.quantile(shape, 0.75)] = (150, 120, 80, 255)
    document = Document()
    insert_sheet(document, "moss", Picture.decode(png(solid(96, 96, 9, 9, 9)), "moss.png"), Cut("tiles", side, side))
    insert_reads(document, read_images([Source("cliff.png", png(picture))], project=document.project).read)
    (cut,) = document.project.sheets[1].cuts
    assert (cut.tile_width, cut.tile_height, cut.margin_x, cut.margin_y, cut.spacing_x) == (side, side, 0, 0, 0)


def test_where_sheets_differ_a_sheet_is_cut_as_the_cells_of_the_ground_are():
    document = Document()
    for side in (16, 32):
        insert_sheet(document, "a", Picture.decode(png(solid(96, 96, 9, 9, 9)), "a.png"), Cut("tiles", side, side))
    assert sizes_known(document.project) == {(16, 16), (32, 32)}
    assert sizes_known(document.project, "a") == {(32, 32)}, "a sheet says nothing of itself"
    add_ground(document, "Yard", 8, 8, (32, 32))
    assert sizes_known(document.project) == {(32, 32)}
    document.undo()
    add_ground(document, "Plan", 8, 8, (64, 32))
    assert sizes_known(document.project) == {(16, 16), (32, 32)}


def test_of_isometric_images_narrow_ones_stand_with_their_foot_in_a_cell():
    flat = np.zeros((24, 48, 4), np.uint8)
    y, x = np.mgrid[:24, :48] + 0.5
    flat[np.abs(x - 24) / 24 + np.abs(y - 12) / 12 <= 1] = (90, 140, 80, 255)
    post = np.zeros((40, 12, 4), np.uint8)
    post[4:38, 5:8] = (80, 60, 40, 255)
    images = {"grass.png": flat, "moss.png": flat, "post.png": post}
    document = Document()
    name = add_collection(document, "yard", together(images))

    def foot(image):
        cut = next(cut for cut in document.project.sheets[0].cuts if cut.id == image)
        return cut.offset_x, cut.offset_y

    assert foot("grass") == foot("moss") == (0, 0)
    # Two clear rows below it, and a quarter of the cell up from its lower corner.
    assert foot("post") == (0, 2 - 6)
    move_standing(document, [(name, "post")], 3, 0)
    extend_collection(document, name, together(images | {"rail.png": post[::-1]}))
    assert foot("post") == (3, -4), "what somebody set stays"
    assert foot("rail") == (0, 4 - 6)
    document.undo()
    document.undo()
    document.undo()
    assert not document.project.sheets


def test_of_square_images_none_is_moved(folder):
    document, name = collected(folder)
    sheet = next(sheet for sheet in document.project.sheets if sheet.id == name)
    assert all((cut.offset_x, cut.offset_y) == (0, 0) for cut in sheet.cuts)
