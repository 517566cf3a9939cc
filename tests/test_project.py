import json
import os
from dataclasses import replace
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from knitground.core.edits.grounds import add_ground
from knitground.core.edits.notes import set_weight
from knitground.core.edits.sets import add_join_set
from knitground.core.edits.sheets import remove_sheet, set_cut
from knitground.core.errors import BadProject, BadRequest, BadSheet, CannotWrite
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.layers.tiles import TileLayer
from knitground.core.project.atomic import write_atomically
from knitground.core.project.cells import MOST_PLAIN, Packed, read, written
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME, PREVIOUS_NAME, VERSION, document_bytes, schema
from knitground.core.project.model import fresh_id
from knitground.core.tiles.tile import TileRef, cell_code, orient
from making import DEMO, add_sheet, cell_pixels, corner_set, make_document, png, poke, rectangle, sheet_of_tiles, tile


@pytest.fixture
def saved(document, tmp_path) -> Path:
    folder = tmp_path / "project"
    document.save(folder)
    return folder


def change(folder: Path, act) -> None:
    """Edits the JSON of a saved project by hand."""
    path = folder / FILE_NAME
    content = json.loads(path.read_text())
    act(content)
    path.write_text(json.dumps(content))


def test_a_project_comes_back_as_it_was_saved(document, tmp_path):
    random = np.random.Generator(np.random.PCG64(1))
    poke(document, "areas", "corners", np.s_[:], random.integers(0, 3, (16, 21)))
    poke(document, "things", "cells", np.s_[2, 3], cell_code(document.palette.code(tile(4, 1)), 5))
    planes = document.state.planes["ground"]
    document.save(tmp_path / "p")
    again = Document.load(tmp_path / "p")
    assert again.project == document.project
    assert again.palette.refs == [tile(4, 1)]
    for layer, kept in planes.items():
        for name, plane in kept.items():
            assert np.array_equal(plane, again.state.planes["ground"][layer][name])
            assert plane.dtype == again.state.planes["ground"][layer][name].dtype
    assert document_bytes(again.state, again.palette) == (tmp_path / "p" / FILE_NAME).read_bytes()


def test_saving_again_writes_the_same_bytes_whatever_was_looked_at_meanwhile(document, tmp_path):
    poke(document, "things", "cells", np.s_[2, 3], cell_code(document.palette.code(tile(4, 1)), 5))
    document.save(tmp_path / "p")
    first = (tmp_path / "p" / FILE_NAME).read_bytes()
    again = Document.load(tmp_path / "p")
    cell_pixels(Derived(again), CellRect(0, 0, 15, 20))
    again.save()
    assert (tmp_path / "p" / FILE_NAME).read_bytes() == first
    poke(again, "things", "cells", np.s_[5, 5], again.palette.code(tile(9, 2)))
    again.save()
    lines = (tmp_path / "p" / FILE_NAME).read_text().splitlines()
    assert len(set(lines) - set(first.decode().splitlines())) <= 3
    last = Document.load(tmp_path / "p")
    cells = last.state.planes["ground"]["things"]["cells"]
    assert last.palette.refs == [tile(4, 1), tile(9, 2)]
    assert (cells[2, 3], cells[5, 5]) == (cell_code(1, 5), 2)


def test_a_painted_row_is_one_changed_line(document, tmp_path):
    before = document_bytes(document.state, document.palette).splitlines()
    shape = rectangle((16, 21), (4, 2), (4, 9))
    document.paint("paint", "ground", "areas", "corners", shape, 2)
    after = document_bytes(document.state, document.palette).splitlines()
    assert len(before) == len(after)
    assert sum(one != other for one, other in zip(before, after, strict=True)) == 1


@given(
    plane=hnp.arrays(np.int32, hnp.array_shapes(min_dims=2, max_dims=2, max_side=12), elements=st.integers(0, 2**27))
)
def test_rows_of_numbers_come_back(plane):
    assert np.array_equal(read(written(Plane.of(plane)), "int32", plane.shape, "here"), plane)


def test_a_large_plane_is_packed_and_comes_back():
    plane = np.arange(MOST_PLAIN + 300, dtype=np.int32).reshape(-1, 4)
    cells = written(Plane.of(plane))
    assert isinstance(cells, Packed)
    assert np.array_equal(read(cells, "int32", plane.shape, "here"), plane)
    with pytest.raises(BadProject, match="wrong size"):
        read(cells, "int32", (plane.shape[0] - 1, 4), "here")
    with pytest.raises(BadProject, match="damage"):
        read(Packed("!!" + cells.packed), "int32", plane.shape, "here")


def test_the_file_fits_its_schema_and_the_shipped_one_is_current(saved):
    content = json.loads((saved / FILE_NAME).read_text())
    jsonschema.Draft202012Validator.check_schema(schema())
    jsonschema.validate(content, schema(), cls=jsonschema.Draft202012Validator)
    shipped = DEMO.parents[1] / "docs" / "knitground.schema.json"
    assert json.loads(shipped.read_text()) == schema()
    jsonschema.validate(json.loads((DEMO / FILE_NAME).read_text()), schema(), cls=jsonschema.Draft202012Validator)


def test_the_version_before_is_kept(document, saved):
    first = (saved / FILE_NAME).read_bytes()
    add_ground(document, "Second", 4, 4, (8, 8))
    document.save()
    assert (saved / PREVIOUS_NAME).read_bytes() == first
    assert len(Document.load(saved).project.grounds) == 2


def _no_sheet(content):
    content["project"]["sheets"][0]["file"] = "../art.png"


def _absolute(content):
    content["project"]["sheets"][0]["file"] = "/etc/passwd"


def _newer(content):
    content["version"] = 99


def _wrong_format(content):
    content["format"] = "something else"


def _short_row(content):
    content["maps"]["ground"]["areas"]["corners"][3] = "1 1 1"


def _no_number(content):
    content["maps"]["ground"]["areas"]["corners"][3] = "1 1 x"


def _high_terrain(content):
    rows = content["maps"]["ground"]["areas"]["corners"]
    rows[0] = rows[0].replace("1", "9", 1)


def _high_tile(content):
    rows = content["maps"]["ground"]["things"]["cells"]
    rows[0] = rows[0].replace("0", "77", 1)


def _huge_ground(content):
    content["project"]["grounds"][0]["width"] = 10**7


def _missing_set(content):
    content["project"]["grounds"][0]["layers"][0]["join_set"] = "nowhere"


def _twice(content):
    content["project"]["join_sets"].append(content["project"]["join_sets"][0])


def _unknown_field(content):
    content["project"]["surprise"] = 1


def _bad_label(content):
    content["project"]["join_sets"][0]["labels"]["art/tiles/0,0"] = [1, 2, 7, 1]


def _bad_ref(content):
    content["project"]["join_sets"][0]["labels"]["art/tiles"] = [1, 2, 1, 1]


def _negative_spacing(content):
    content["project"]["sheets"][0]["cuts"][0]["spacing_x"] = -3


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (_no_sheet, "outside the project's folder"), (_absolute, "outside the project's folder"), (_newer, "newer"),
        (_wrong_format, "not a Knit Ground project"), (_short_row, "16 rows of 21"), (_no_number, "corners"),
        (_high_terrain, "number 9"), (_high_tile, "number 77"), (_huge_ground, "width"), (_missing_set, "nowhere"),
        (_twice, "2 join sets"), (_unknown_field, "surprise"), (_bad_label, "terrain that is not there"),
        (_bad_ref, "labels"), (_negative_spacing, "spacing_x"),
    ],
)  # fmt: skip
def test_a_spoilt_project_gets_one_sentence_and_is_left_alone(saved, spoil, says):
    change(saved, spoil)
    bytes_before = (saved / FILE_NAME).read_bytes()
    with pytest.raises(BadProject, match=says) as problem:
        Document.load(saved)
    assert "\n" not in str(problem.value)
    assert (saved / FILE_NAME).read_bytes() == bytes_before


@pytest.mark.parametrize("share", [0.0, 0.2, 0.5, 0.99])
def test_json_cut_short_is_told_and_the_previous_version_offered(document, saved, share):
    document.save()
    whole = (saved / FILE_NAME).read_bytes()
    (saved / FILE_NAME).write_bytes(whole[: int(len(whole) * share)])
    with pytest.raises(BadProject, match=PREVIOUS_NAME):
        Document.load(saved)
    assert Document.load(saved / PREVIOUS_NAME).project == document.project


@pytest.mark.parametrize("content", ["[]", "null", "[" * 100_000, '{"format": 3}', "\x00\xff"])
def test_other_json_is_no_project(saved, content):
    (saved / FILE_NAME).write_text(content)
    with pytest.raises(BadProject):
        Document.load(saved)


def test_a_link_out_of_the_folder_is_not_followed(saved, tmp_path):
    outside = tmp_path / "outside.png"
    outside.write_bytes(png(sheet_of_tiles(2, 2)))
    (saved / "sheets" / "art.png").unlink()
    (saved / "sheets" / "art.png").symlink_to(outside)
    with pytest.raises(BadProject, match="outside"):
        Document.load(saved)


def test_a_missing_or_damaged_sheet_is_named(saved):
    (saved / "sheets" / "art.png").write_bytes(b"no picture")
    with pytest.raises(BadSheet, match=r"art\.png"):
        Document.load(saved)
    (saved / "sheets" / "art.png").unlink()
    with pytest.raises(BadSheet, match="needs this sheet"):
        Document.load(saved)


def test_a_write_that_fails_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "a.json"
    path.write_text("old")

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(CannotWrite, match="disk is full"):
        write_atomically(path, b"new")
    assert path.read_text() == "old"
    assert [entry.name for entry in tmp_path.iterdir()] == ["a.json"]


def test_a_place_that_cannot_be_written_is_told(tmp_path):
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(CannotWrite, match="could not be written"):
        write_atomically(tmp_path / "file" / "a.json", b"x")


def test_a_sheet_is_copied_into_the_project_and_cut_by_a_guess(tmp_path):
    document = Document()
    made = add_sheet(document, "My Tiles!.png", png(sheet_of_tiles(6, 5, 16, 3, 2)))
    cut = document.project.sheets[0].cuts[0]
    assert (cut.tile_width, cut.margin_x, cut.spacing_x) == (16, 3, 2)
    document.save(tmp_path / "p")
    assert (tmp_path / "p" / "sheets" / f"{made}.png").exists()
    assert Document.load(tmp_path / "p").project == document.project


def test_a_sheet_taken_out_comes_back_with_its_tiles(document):
    remove_sheet(document, "art")
    assert document.state.pictures == {}
    document.undo()
    assert "art" in document.state.pictures


def test_a_cut_that_does_not_fit_changes_nothing(document):
    cut = document.project.sheets[0].cuts[0]
    with pytest.raises(BadSheet, match="does not fit"):
        set_cut(document, "art", replace(cut, tile_width=4000))
    assert document.project.sheets[0].cuts[0] == cut


def test_terrains_get_letters_of_their_own(document):
    set_id = add_join_set(document, "More", "corner", ("Sand", "Stone", "Snow", "S"))
    letters = [terrain.letter for terrain in document.project.join_sets[-1].terrains]
    assert set_id == "more"
    assert len(set(letters)) == 4
    assert letters[0] == "S"
    with pytest.raises(BadRequest, match="at most 32"):
        add_join_set(document, "Too many", "corner", [f"T{n}" for n in range(33)])


def test_ids_are_never_given_twice():
    assert fresh_id("Été & Co", []) == "été---co"
    assert fresh_id("a", [TileLayer("a", "A"), TileLayer("a-2", "A")]) == "a-3"


@given(column=st.integers(0, 2**16 - 1), row=st.integers(0, 2**16 - 1))
def test_a_tile_is_read_back_from_its_name(column, row):
    ref = TileRef("a sheet", "cut-2", column, row)
    assert TileRef.parse(str(ref)) == ref


@pytest.mark.parametrize("text", ["", "a/b", "a/b/1", "a/b/1,x", "a/b/1,2,3", "a/b/c/1,2", "a/b/-1,2", "a/b/99999,0"])
def test_what_names_no_tile_is_refused(text):
    with pytest.raises(ValueError):
        TileRef.parse(text)


def test_the_eight_orientations_are_the_symmetries_of_the_square():
    pixels = np.arange(16, dtype=np.uint8).reshape(2, 2, 4)
    turned = {orient(pixels, n).tobytes() for n in range(8)}
    assert len(turned) == 8
    assert np.array_equal(orient(orient(pixels, 1), 3), pixels)
    assert np.array_equal(orient(orient(pixels, 4), 4), pixels)
    assert np.array_equal(orient(pixels, 1)[0, 1], pixels[0, 0])


def test_a_weight_belongs_to_the_tile_and_not_to_its_set(document):
    set_weight(document, [tile(0, 0)], 4.0)
    assert document.project.tiles[tile(0, 0)].weight == 4.0
    assert document.project.join_sets[0] == corner_set()
    with pytest.raises(BadRequest, match="out of range"):
        set_weight(document, [tile(0, 0)], -1)


def test_documents_made_alike_are_written_alike():
    one, other = make_document(), make_document()
    assert document_bytes(one.state, one.palette) == document_bytes(other.state, other.palette)


def test_a_file_of_the_first_version_is_still_read(tmp_path):
    document = make_document()
    document.save(tmp_path)
    path = tmp_path / "knitground.json"
    text = path.read_text()
    assert f'"version": {VERSION}' in text
    first = text.replace(f'"version": {VERSION}', '"version": 1')
    path.write_text(first.replace('"tile_width": 8,', '"tile_width": 8, "margin_x": 0,', 1))
    assert Document.load(tmp_path).project == document.project
