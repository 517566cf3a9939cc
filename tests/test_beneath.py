"""What lies beneath the lines of edge sets: a ground is covered with it, and not with lines."""

from itertools import product

import numpy as np
import pytest

from knitground.core.edits.finding import Proposed, propose, take_sets
from knitground.core.edits.grounds import paint_with
from knitground.core.edits.reading import read_labels
from knitground.core.edits.sheets import set_cut
from knitground.core.grid.rect import CellRect
from knitground.core.joins.beneath import ground_first, lies_beneath
from knitground.core.joins.find import find_sets
from knitground.core.joins.sets import JoinSet
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef
from making import add_sheet, cell_pixels, png, poke

SIDE = 20
CUT = TileRef("duct", "tiles", 0, 0)
CORNERS = [row for row in product((1, 0), repeat=4) if any(row)]
SAND, DUSK = (214, 190, 150), (96, 84, 110)


def plain(colour: tuple[int, int, int], seed: int) -> np.ndarray:
    tile = np.full((SIDE, SIDE, 4), 255, np.uint8)
    tile[..., :3] = np.clip(colour + np.random.default_rng(seed).normal(0, 6, (SIDE, SIDE, 1)), 0, 255)
    return tile


def duct(row: tuple[int, ...], seed: int) -> np.ndarray:
    """A duct on sand to the sides that a row of four says, from the upper one clockwise."""
    tile = plain(SAND, seed)
    north, east, south, west = row
    arms = [(north, 0, 14, 6, 14), (east, 6, 14, 6, SIDE), (south, 6, SIDE, 6, 14), (west, 6, 14, 0, 14)]
    for there, top, bottom, left, right in arms:
        if there:
            tile[top:bottom, left:right, :3] = (90, 200, 190)
    return tile


def sheet(*others: tuple[int, int, np.ndarray], rows: list[tuple[int, ...]] = CORNERS) -> np.ndarray:
    """Ducts in a block of four columns from the upper left, and other tiles at columns and rows."""
    tiles = np.zeros((6, 9, SIDE, SIDE, 4), np.uint8)
    for number, row in enumerate(rows):
        tiles[number // 4, number % 4] = duct(row, number)
    for column, row, tile in others:
        tiles[row, column] = tile
    return tiles


def found_on(tiles: np.ndarray) -> list[Proposed]:
    held = tiles[..., 3].any(axis=(2, 3))
    refs = {CUT._replace(column=x, row=y): tiles[y, x] for y, x in np.argwhere(held).tolist()}
    return propose(find_sets(tiles, held), refs, CUT)


def painted_with(tiles: np.ndarray) -> Document:
    """A project in which the only set of a sheet was taken, and a new ground is painted with it."""
    (proposed,) = found_on(tiles)
    rows, columns = tiles.shape[:2]
    document = Document()
    sheet_id = add_sheet(document, "duct.png", png(tiles.swapaxes(1, 2).reshape(rows * SIDE, columns * SIDE, 4)))
    set_cut(document, sheet_id, Cut("tiles", SIDE, SIDE))
    (set_id,) = take_sets(document, [proposed])
    paint_with(document, None, set_id, "join_sets")
    return document


def drawn(document: Document) -> np.ndarray:
    """The first cells of the ground, (4, 6, SIDE, SIDE, 4)."""
    pixels = cell_pixels(Derived(document), CellRect(0, 0, 4, 6), "ground-1")
    return pixels.reshape(4, SIDE, 6, SIDE, 4).swapaxes(1, 2)


def test_a_new_ground_is_covered_with_what_lies_beneath_and_not_with_crossings():
    art = sheet(rows=[*CORNERS, (0, 0, 0, 0)])
    (proposed,) = found_on(art)
    assert proposed.join_set.labels[CUT] == (2, 2, 2, 2)
    cells = drawn(painted_with(art))
    assert (cells == art[3, 3]).all()


def test_a_tile_of_bare_ground_elsewhere_on_the_sheet_belongs_to_the_set():
    bare, another = plain(SAND, 40), plain(DUSK, 41)
    art = sheet((7, 1, bare), (8, 4, plain(SAND, 42)), (7, 3, another), (8, 0, plain((224, 176, 150), 43)))
    (proposed,) = found_on(art)
    added = {(ref.column, ref.row): row for ref, row in proposed.join_set.labels.items() if ref.column > 3}
    assert added == {(7, 1): (1, 1, 1, 1), (8, 4): (1, 1, 1, 1)}
    assert proposed.covered == 1.0
    shown = drawn(painted_with(art)).reshape(-1, SIDE, SIDE, 4)
    assert all((cell == art[1, 7]).all() or (cell == art[4, 8]).all() for cell in shown)


def test_without_such_a_tile_nothing_lies_where_no_line_is_painted():
    art = sheet((7, 3, plain(DUSK, 41)))
    (proposed,) = found_on(art)
    assert (len(proposed.join_set.terrains), proposed.covered) == (1, 1.0)
    document = painted_with(art)
    assert not drawn(document).any()
    (layer,) = document.project.grounds[0].layers
    poke(document, layer.id, "along", (1, slice(2, 4)), 1, "ground-1")
    cells = drawn(document)
    painted = {(int(y), int(x)) for y, x in np.argwhere(cells.any(axis=(2, 3, 4)))}
    assert painted == {(1, 1), (1, 2), (1, 3)}
    assert (cells[1, 2] == art[CORNERS.index((0, 1, 0, 1)) // 4, CORNERS.index((0, 1, 0, 1)) % 4]).all()


def test_labels_that_are_read_number_the_ground_before_its_lines():
    tiles = [duct(row, number) for number, row in enumerate([*CORNERS, (0, 0, 0, 0)])]
    refs = [CUT._replace(column=number) for number in range(16)]
    read = read_labels(JoinSet("ducts", "Ducts", "edge", ()), refs, tiles)
    assert (read.labels[refs[0]], read.labels[refs[15]]) == ((2, 2, 2, 2), (1, 1, 1, 1))


@pytest.mark.parametrize("clear", [False, True])
def test_what_lies_beneath_is_told_of_covered_art_alone(clear):
    tiles = np.stack([duct(row, number) for number, row in enumerate(CORNERS)])
    if clear:
        tiles[np.abs(tiles[..., 0].astype(int) - 90) > 4] = 0
    labels = np.array(CORNERS)
    assert lies_beneath("edge", labels, tiles) == (None if clear else 0)
    assert lies_beneath("corner", labels, tiles) is None


def test_terrains_that_no_tile_shows_alone_are_numbered_last():
    assert ground_first(np.array([[0, 1, 1, 0], [2, 2, 2, 2], [1, 1, 1, 1]]), None) == [1, 2, 0]
    assert ground_first(np.array([[0, 1, 1, 0], [2, 2, 2, 2], [1, 1, 1, 1]]), 2) == [2, 1, 0]
