"""Faces of walls and cliffs: found below a block, and laid where it ends."""

from dataclasses import replace

import numpy as np
import pytest

from knitground.core.edits.finding import propose, take_sets
from knitground.core.edits.grounds import paint_with
from knitground.core.edits.sheets import set_cut
from knitground.core.joins.find import find_sets
from knitground.core.joins.found import with_own_faces
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.sound_stitches import problem_of_stitches
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, png, poke

SIDE = 16
ROWS, COLUMNS = 9, 8


def top(inset: int = 0) -> np.ndarray:
    """Nine tiles of grass that touch, with a rim; the lower sides of the lowest are those of their cells."""
    art = np.zeros((3 * SIDE, 3 * SIDE, 4), np.uint8)
    art[inset:, inset : 3 * SIDE - inset] = (60, 90, 70, 255)
    within = art[inset + 3 : -3, inset + 3 : 3 * SIDE - inset - 3]
    within[..., :3] = (110, 160, 90)
    within[..., :3] += np.random.default_rng(3).integers(0, 9, (*within.shape[:2], 1)).astype(np.uint8)
    return art


def face(rows: int, inset: int = 0, *, ends: bool = True) -> np.ndarray:
    """Rows of stone, three tiles wide, with darker ends."""
    art = np.zeros((rows * SIDE, 3 * SIDE, 4), np.uint8)
    art[:, inset : 3 * SIDE - inset] = (150, 140, 130, 255)
    art[::8, inset : 3 * SIDE - inset, :3] = (110, 100, 95)
    art[:, inset : 3 * SIDE - inset : 8, :3] = (120, 110, 105)
    if ends:
        for at in (inset, 3 * SIDE - inset - 2):
            art[:, at : at + 2, :3] = (70, 66, 64)
    return art


def sheet(**art: np.ndarray) -> np.ndarray:
    """A picture with pieces of art, each where its name says: column and row."""
    pixels = np.zeros((ROWS * SIDE, COLUMNS * SIDE, 4), np.uint8)
    for name, one in art.items():
        column, row = map(int, name[1:].split("_"))
        pixels[row * SIDE :, column * SIDE :][: one.shape[0], : one.shape[1]] = one
    return pixels


def tiles_of(pixels: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    tiles = np.ascontiguousarray(pixels.reshape(ROWS, SIDE, COLUMNS, SIDE, 4).swapaxes(1, 2))
    return tiles, tiles[..., 3].any(axis=(2, 3))


def faces_on(pixels: np.ndarray) -> list[list[list[list[int]]]]:
    """The faces of each set that is found."""
    return [one.faces.tolist() for one in find_sets(*tiles_of(pixels))]


def rows_from(row: int, count: int) -> list[list[list[int]]]:
    return [[[1 + x, row + y] for x in range(3)] for y in range(count)]


@pytest.mark.parametrize("inset", [0, 2])
@pytest.mark.parametrize("rows", [1, 3])
@pytest.mark.parametrize("apart", [0, 1])
def test_rows_below_a_wall_or_a_cliff_are_its_faces(inset, rows, apart):
    pixels = sheet(a1_1=top(inset), **{f"a1_{4 + apart}": face(rows, inset)})
    assert faces_on(pixels) == [rows_from(4 + apart, rows)]


def on_ground(pixels: np.ndarray) -> np.ndarray:
    """The same with grass that has a grain wherever it is clear."""
    grass = np.full_like(pixels, 255)
    grass[..., :3] = np.array((150, 120, 60)) + np.random.default_rng(8).integers(0, 12, (*pixels.shape[:2], 1))
    return np.where(pixels[..., 3:] > 0, pixels, grass)


@pytest.mark.parametrize(("inset", "rows"), [(1, 1), (4, 2), (7, 2)])
def test_a_cliff_that_is_drawn_on_its_ground_has_its_face_and_no_plain_ground(inset, rows):
    pixels = on_ground(sheet(a1_1=top(inset), a1_4=face(rows, inset)))
    cells = [one for one in find_sets(*tiles_of(pixels)) if one.kind == "cell"]
    assert [one.faces.tolist() for one in cells] == [rows_from(4, rows)]
    assert sorted(cells[0].cells.tolist()) == [[x, y] for x in (1, 2, 3) for y in (1, 2, 3)]


def test_a_pond_on_the_ground_of_a_cliff_is_found_beside_it():
    pond = top(4)
    pond[..., :3] = 255 - pond[..., :3]
    pond[-4:] = 0
    around = np.zeros((2 * SIDE, 2 * SIDE, 4), np.uint8)
    around[:] = pond[2 * SIDE - 8, 2 * SIDE - 8]
    around[12:20, 12:20] = 0
    pixels = on_ground(sheet(a1_1=top(4), a1_4=face(2, 4), a5_0=pond, a5_4=around))
    cliff, *others = find_sets(*tiles_of(pixels))
    assert (cliff.kind, cliff.faces.tolist()) == ("cell", rows_from(4, 2))
    assert any({(6, 1), (5, 0), (7, 2)} <= set(map(tuple, one.cells.tolist())) for one in others)
    assert not any(set(map(tuple, one.cells.tolist())) & {(2, 2), (1, 1), (2, 4), (3, 5)} for one in others)


def test_floors_and_pictures_below_a_wall_are_no_faces():
    floor = face(2, ends=False)
    floor[5:9, 3:6, :3] = floor[20:24, 30:37, :3] = 90
    picture = face(2)
    picture[4:28, 10:40, :3] = np.random.default_rng(1).integers(0, 255, (24, 30, 3))
    table = face(1, 2)
    table[:5] = 0
    for below in (floor, picture, table):
        found = faces_on(sheet(a1_1=top(), a1_4=below))
        assert found
        assert not any(found)


def test_what_is_another_set_below_a_wall_is_no_face():
    other = top()
    other[..., :3] = 255 - other[..., :3]
    assert faces_on(sheet(a1_1=top(), a1_4=other)) == [[], []]


def test_a_row_of_which_another_set_has_a_tile_is_no_face_nor_is_what_lies_below_it():
    (one,) = find_sets(*tiles_of(sheet(a1_1=top(), a1_4=face(3))))
    other = replace(one, cells=one.faces[1, 2:], labels=one.labels[:1], faces=one.faces[:0])
    assert [found.faces.tolist() for found in with_own_faces([one, other])] == [rows_from(4, 1), []]


@pytest.fixture
def cliff() -> tuple[Document, str, str, str]:
    """A ground with a cliff of two rows of faces: its id and those of the layers of its top and of what is below."""
    document = Document()
    pixels = sheet(a1_1=top(2), a1_4=face(2, 2))
    sheet_id = add_sheet(document, "cliff.png", png(pixels))
    set_cut(document, sheet_id, Cut("tiles", SIDE, SIDE))
    tiles, held = tiles_of(pixels)
    refs = {TileRef(sheet_id, "tiles", x, y): tiles[y, x] for y, x in np.ndindex(ROWS, COLUMNS)}
    (set_id,) = take_sets(document, propose(find_sets(tiles, held), refs, next(iter(refs))))
    ground, layer, _ = paint_with(document, None, set_id, "join_sets")
    first, second = document.project.grounds[0].layers
    assert first.id == layer
    return document, ground, layer, second.id


def laid_below(cliff: tuple[Document, str, str, str]) -> dict[tuple[int, int], tuple[int, int]]:
    """Where tiles lie below the rim, row and column, each with its column and row on the sheet."""
    document, ground, _, below = cliff
    codes = Derived(document).knitted(ground).codes(below, document.project.grounds[0].board.whole)
    refs = {at: document.palette.ref(int(codes[at])) for at in zip(*np.nonzero(codes), strict=True)}
    return {(int(row), int(column)): (ref.column, ref.row) for (row, column), ref in refs.items()}


def test_a_cliff_has_its_face_below_it_and_nowhere_else(cliff):
    document, ground, layer, _ = cliff
    assert problem_of_stitches(document.project.stitch_sets[0], document.project) == ""
    poke(document, layer, "cells", np.s_[2:5, 3:8], 1, ground)
    across = {3: 1, **dict.fromkeys(range(4, 7), 2), 7: 3}
    assert laid_below(cliff) == {(5 + down, x): (at, 4 + down) for down in (0, 1) for x, at in across.items()}


def test_a_face_ends_where_the_wall_goes_on_below_it(cliff):
    document, ground, layer, _ = cliff
    poke(document, layer, "cells", np.s_[2:5, 3:8], 1, ground)
    poke(document, layer, "cells", np.s_[6:9, 3:8], 1, ground)
    rows = [row for row, _ in laid_below(cliff)]
    assert sorted(set(rows)) == [5, 9, 10], "of the upper one the second row would lie on the lower one"


def test_a_wall_a_cell_high_has_a_face_too_and_none_hangs_from_the_border_of_the_map(cliff):
    document, ground, layer, _ = cliff
    poke(document, layer, "cells", np.s_[2, 3:6], 1, ground)
    assert laid_below(cliff) == {(3 + down, x): (x - 2, 4 + down) for down in (0, 1) for x in (3, 4, 5)}


def test_what_goes_on_below_a_wall_is_laid_where_another_part_of_it_leads_down_beside_it(cliff):
    document, ground, layer, _ = cliff
    poke(document, layer, "cells", np.s_[2, 3:9], 1, ground)
    poke(document, layer, "cells", np.s_[3:12, 8], 1, ground)
    assert [laid_below(cliff).get((3, x)) for x in range(3, 9)] == [(1, 4), *[(2, 4)] * 4, None]


def test_a_wall_goes_on_beyond_the_border_of_the_map(cliff):
    document, ground, layer, _ = cliff
    poke(document, layer, "cells", np.s_[2:5, 45:48], 1, ground)
    poke(document, layer, "cells", np.s_[12:15, 47:48], 1, ground)
    laid = laid_below(cliff)
    assert [laid[5, x] for x in range(45, 48)] == [(1, 4), (2, 4), (2, 4)]
    assert laid[15, 47] == (1, 4), "a left end"
