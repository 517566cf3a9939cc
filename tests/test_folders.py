"""Folders with single images, sheets, or both; and what was taken for either."""

import os
from pathlib import Path

import numpy as np
import pytest

from knitground.core.edits.folders import (
    Contents,
    add_contents,
    cut_as_sheets,
    files_of_images,
    read_contents,
    take_out_images,
)
from knitground.core.edits.image_files import read_images
from knitground.core.errors import BadRequest, BadSheet
from knitground.core.project.derived import Derived
from knitground.core.sheet.sheets_among import large_among
from knitground.core.tiles.tile import TileRef
from making import make_document, plane_of, png, poke


def thing(seed: int, width: int = 30, height: int = 40) -> np.ndarray:
    """A round thing on clear ground."""
    random = np.random.default_rng(seed)
    rows, columns = np.mgrid[:height, :width]
    inside = ((rows + 0.5) / height * 2 - 1) ** 2 + ((columns + 0.5) / width * 2 - 1) ** 2 < 1
    pixels = np.zeros((height, width, 4), np.uint8)
    pixels[inside] = (*random.integers(0, 255, 3), 255)
    pixels[..., :3] += random.integers(0, 20, (height, width, 1), dtype=np.uint8)
    return pixels * inside[..., None]


def sheet(seed: int, columns: int = 5, rows: int = 4, spacing: int = 2) -> np.ndarray:
    """Tiles of 24 x 24 pixels with things in them, in a grid."""
    pitch = 24 + spacing
    pixels = np.zeros((rows * pitch, columns * pitch, 4), np.uint8)
    for number in range(rows * columns):
        y, x = number // columns * pitch, number % columns * pitch
        pixels[y : y + 24, x : x + 24] = thing(seed + number, 24, 24)
    return pixels


def put(folder: Path, **images: np.ndarray) -> Path:
    folder.mkdir(exist_ok=True, parents=True)
    for name, pixels in images.items():
        (folder / f"{name}.png").write_bytes(png(pixels))
    return folder


def read(folder: Path) -> tuple[list[str], list[str]]:
    """The names of single images, and of sheets."""
    found = read_contents(folder)
    images = [name.removesuffix(".png") for name in found.images.files] if found.images is not None else []
    return images, [one.name.removesuffix(".png") for one in found.sheets.read] if found.sheets is not None else []


def test_single_images_are_one_tileset_whatever_their_sizes(tmp_path):
    specks = np.zeros((60, 60, 4), np.uint8)
    specks[::6, ::6] = specks[1::6, ::6] = 255
    put(tmp_path, a=thing(1), b=thing(2, 200, 260), c=thing(3), specks=specks)
    assert read(tmp_path) == (["a", "b", "c", "specks"], [])


def test_a_folder_of_sheets_gives_sheets_also_one_whose_tiles_touch(tmp_path):
    full = np.random.default_rng(4).integers(0, 255, (96, 96, 4), dtype=np.uint8)
    full[..., 3] = 255
    put(tmp_path, ground=full)
    put(tmp_path / "more", things=sheet(10), others=sheet(50, 8, 3))
    assert read(tmp_path) == ([], ["ground", "others", "things"])


def test_a_sheet_among_single_images_is_a_sheet_and_a_cluster_of_their_size_is_none(tmp_path):
    put(tmp_path, **{f"one {n}": thing(n, 90, 80) for n in range(5)}, sheet=sheet(9, 12, 8))
    put(tmp_path, cluster=np.pad(sheet(70, 4, 3, 0)[::1], ((2, 6), (2, 4), (0, 0))))
    assert read(tmp_path) == (["cluster", *(f"one {n}" for n in range(5))], ["sheet"])


def test_a_folder_that_cannot_be_read_keeps_nothing_else_out(tmp_path, monkeypatch):
    put(tmp_path / "open", a=thing(1))
    put(tmp_path / "shut", b=thing(2))
    scan = os.scandir

    def refusing(path):
        if str(path).endswith(refused):
            raise PermissionError(13, "Permission denied", str(path))
        return scan(path)

    monkeypatch.setattr(os, "scandir", refusing)
    refused = "shut"
    found = read_contents(tmp_path)
    assert list(found.images.files) == ["a.png"]
    assert "shut cannot be read (Permission denied)" in found.images.left_out[0]
    refused = tmp_path.name
    with pytest.raises(BadSheet, match="check that you may open it"):
        read_contents(tmp_path)


def test_what_a_folder_holds_is_added_as_one_step(tmp_path):
    put(tmp_path / "yard", **{f"one {n}": thing(n) for n in range(4)}, sheet=sheet(9, 12, 8))
    document, told = make_document(), list[float]()
    before = document.project
    images, sheets = add_contents(document, "yard", read_contents(tmp_path / "yard", told.append))
    assert (images, sheets) == ("yard", ["sheet"])
    assert told == sorted(told), "the bar never goes back"
    assert {one.id for one in document.project.sheets} == {"art", "yard", "sheet"}
    (cut,) = document.project.sheets[-1].cuts
    assert (cut.tile_width, cut.spacing_x) == (24, 2)
    document.undo()
    assert document.project == before


@pytest.fixture
def yard(tmp_path):
    """A document with a collection of four things and a sheet that was taken for one, laid once each."""
    document = make_document()
    found = read_contents(put(tmp_path / "yard", **{f"one {n}": thing(n) for n in range(4)}))
    sheeted = read_contents(put(tmp_path / "more", wide=thing(7, 240, 200)))
    assert found.images is not None
    assert sheeted.images is not None
    add_contents(document, "yard", Contents(found.images, None))
    add_contents(document, "wide", Contents(sheeted.images, None))
    poke(document, "things", "cells", np.s_[3, 3], document.palette.code(TileRef("yard", "one 2", 0, 0)))
    return document


def test_images_are_taken_out_of_their_tileset_and_all_others_stay_what_they_are(yard):
    before, kept = yard.project, Derived(yard).tile(TileRef("yard", "one 2", 0, 0)).copy()
    assert list(take_out_images(yard, "yard", {"one 0", "one 3", "none"})) == ["one 0.png", "one 3.png"]
    derived = Derived(yard)
    assert [cut.id for cut in yard.project.sheets[1].cuts] == ["one 1", "one 2"]
    assert np.array_equal(derived.tile(TileRef("yard", "one 2", 0, 0)), kept)
    assert derived.tile(TileRef("yard", "one 0", 0, 0)) is None
    assert plane_of(yard, "things", "cells")[3, 3] == yard.palette.code(TileRef("yard", "one 2", 0, 0))
    yard.undo()
    assert yard.project == before
    with pytest.raises(BadRequest, match="made of images"):
        take_out_images(yard, "yard", {"none"})
    with pytest.raises(BadRequest, match="made of images"):
        files_of_images(yard, "art", {"tiles"})
    take_out_images(yard, "yard", {f"one {n}" for n in range(4)})
    assert [one.id for one in yard.project.sheets] == ["art", "wide"], "without images it is no tileset"


def test_images_are_cut_as_sheets_and_saved_as_such(yard, tmp_path):
    files = files_of_images(yard, "yard", {"one 1"})
    made = cut_as_sheets(yard, "yard", {"one 1"}, read_images(files).read)
    assert [one.id for one in yard.project.sheets] == ["art", "yard", "wide", *made]
    assert len(yard.project.sheets[1].images) == 3
    yard.save(tmp_path / "kept")
    again = type(yard).load(tmp_path / "kept")
    assert again.project == yard.project
    assert np.array_equal(again.state.pictures["yard"].pixels, yard.state.pictures["yard"].pixels)
    yard.undo()
    assert len(yard.project.sheets[1].images) == 4


def test_what_is_large_for_a_tile_is_told():
    small, large = thing(1), np.full((200, 160, 4), 255, dtype=np.uint8)
    large[-1, -1] = 0
    assert large_among([small, small, large], all_may=False) == [2]
    assert large_among([large, large], all_may=True) == [0, 1]
    assert large_among([large, large], all_may=False) == []
    assert large_among([small, large[:90, :60], thing(3, 200, 160)], all_may=True) == []
