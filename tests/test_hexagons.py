"""Grounds of hexagons: neighbours, gestures, selections and pictures, measured against distances on the screen."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knitground.core.deliver import EXPORTERS
from knitground.core.edits.blocks import Move, lift, pattern_of, put
from knitground.core.edits.grounds import set_wraps
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.painting import Hand, area, fill, fill_shape, stroke
from knitground.core.edits.pins import read_back
from knitground.core.edits.selecting import boxed, grown, lassoed, shifted
from knitground.core.errors import BadRequest
from knitground.core.grid import GRIDS
from knitground.core.grid.board import Board
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME, load_project
from knitground.core.render.compositor import render
from knitground.core.render.pixels import straight
from making import CORNERED, make_document, plane_of, poke, tile
from readers import drawn

WIDE, HIGH = 16, 13
HEXAGONS = [grid for grid in GRIDS if grid not in CORNERED]
hexagons = pytest.mark.parametrize("grid", HEXAGONS)
at = st.tuples(st.integers(0, HIGH - 1), st.integers(0, WIDE - 1))


def middles(grid: str, height: int = HIGH, width: int = WIDE) -> np.ndarray:
    """Where the middles of regular hexagons lie, (height, width, 2), neighbours being 1 apart."""
    rows, columns = np.mgrid[0:height, 0:width].astype(float)
    near = math.sqrt(0.75)
    if grid == "hex-pointed":
        return np.stack([rows * near, columns + rows % 2 / 2], axis=-1)
    return np.stack([rows + columns % 2 / 2, columns * near], axis=-1)


def beside(grid: str, mask: np.ndarray) -> np.ndarray:
    """The cells that touch some cells, or are among them."""
    places = middles(grid, *mask.shape).reshape(-1, 2)
    far = np.hypot(*(places[:, None] - places[mask.ravel()][None]).transpose(2, 0, 1))
    return (far < 1.1).any(axis=1).reshape(mask.shape)


def full(board: Board, shape: Shape) -> np.ndarray:
    found = np.zeros((board.height, board.width), dtype=bool)
    found[shape.window.rows, shape.window.columns] = shape.mask
    return found


def spot(board: Board, cell: tuple[int, int]) -> tuple[float, float]:
    y, x = board.flat("cells", *cell)
    return y + 0.5, x + 0.5


def made(grid: str) -> tuple[Document, Board]:
    document = make_document(WIDE, HIGH, grid)
    return document, document.project.grounds[0].board


def laid(document: Document) -> np.ndarray:
    return plane_of(document, "things", "cells") > 0


@hexagons
@given(cell=at, steps=st.integers(1, 3))
def test_a_selection_grows_by_the_six_cells_round_each_and_shrinks_again(grid, cell, steps):
    board = GRIDS[grid].board(HIGH, WIDE)
    shape = boxed(board, spot(board, cell), spot(board, cell))
    expected = full(board, shape)
    for _ in range(steps):
        expected = beside(grid, expected)
    wide = grown(board, shape, steps)
    assert np.array_equal(full(board, wide), expected)
    if 3 <= cell[0] < HIGH - 3 and 3 <= cell[1] < WIDE - 3:
        assert wide.mask.sum() == 1 + 3 * steps * (steps + 1)
    assert full(board, grown(board, wide, -steps))[cell]


@hexagons
@given(start=at, end=at)
def test_a_stroke_leads_from_each_cell_to_one_that_touches_it_and_no_longer_than_need_be(grid, start, end):
    document, board = made(grid)
    stroke(document, "ground", "things", Hand(tile(1, 1)), spot(board, start), spot(board, end))
    cells = laid(document)
    reached = np.zeros_like(cells)
    reached[start] = True
    steps = 0
    while not reached[end]:
        grew = beside(grid, reached) & cells
        assert not np.array_equal(grew, reached), "the stroke has a hole"
        reached, steps = grew, steps + 1
    assert cells.sum() == steps + 1
    alone = np.zeros_like(cells)
    alone[start] = True
    straight_there = 0
    while not alone[end]:
        alone, straight_there = beside(grid, alone), straight_there + 1
    assert steps == straight_there


@hexagons
@given(cell=at, radius=st.integers(0, 4))
def test_a_brush_is_as_round_as_hexagons_let_it_be(grid, cell, radius):
    document, board = made(grid)
    stroke(document, "ground", "things", Hand(tile(1, 1), radius=radius), spot(board, cell), spot(board, cell))
    away = np.hypot(*(middles(grid) - middles(grid)[cell]).transpose(2, 0, 1))
    cells = laid(document)
    assert cells[away <= radius].all()
    assert not cells[away > radius + 0.5].any()


@hexagons
@given(inside=at)
@settings(deadline=None)
def test_a_fill_stops_at_a_line_one_cell_wide_and_goes_on_through_a_gap(grid, inside):
    document, board = made(grid)
    ring = np.zeros((HIGH, WIDE), bool)
    ring[6, 8] = True
    core = beside(grid, beside(grid, ring))
    wall = beside(grid, core) & ~core
    poke(document, "things", "cells", np.nonzero(wall), document.palette.code(tile(2, 2)))
    fill(document, "ground", "things", Hand(tile(1, 1)), spot(board, (6, 8)))
    code = document.palette.code(tile(1, 1))
    assert np.array_equal(plane_of(document, "things", "cells") == code, core)
    fill(document, "ground", "things", Hand(tile(3, 3)), spot(board, inside))
    assert laid(document)[inside]


@hexagons
@given(data=st.data())
def test_the_pointer_is_in_the_cell_whose_middle_is_nearest(grid, data):
    # In boxes of this size the hexagons are all but regular.
    tall = (52, 60) if grid == "hex-pointed" else (60, 52)
    board = GRIDS[grid].board(HIGH, WIDE)
    projection = GRIDS[grid].projection(board, *tall)
    x, y = data.draw(st.integers(30, projection.size[0] - 30)), data.draw(st.integers(30, projection.size[1] - 30))
    centres = middles(grid) * 52 + np.array([tall[1] / 2, tall[0] / 2])
    away = np.hypot(*(centres - np.array([y + 0.5, x + 0.5])).transpose(2, 0, 1))
    cell = board.cell_at(*projection.place(x + 0.5, y + 0.5))
    if cell is None:
        assert away.min() > 25
    else:
        assert away[cell] <= away.min() + 1


@hexagons
@given(by=st.tuples(st.integers(-3, 3), st.integers(-3, 3)))
@settings(deadline=None, max_examples=25)
def test_what_is_moved_keeps_its_form(grid, by):
    document, board = made(grid)
    ring = np.zeros((HIGH, WIDE), bool)
    ring[6, 8] = True
    cells = beside(grid, ring)
    poke(document, "things", "cells", np.nonzero(cells), document.palette.code(tile(2, 2)))
    ground = document.project.grounds[0]
    shape = Shape(board.whole, cells)
    move = Move(document.project, ground, document.state.planes["ground"], ["things"], shape)
    put(document, "move", "ground", move.to(by))
    there = full(board, shifted(board, shape, by))
    assert np.array_equal(laid(document), there)
    y, x = board.flat("cells", 6, 8)
    moved = np.zeros_like(ring)
    row, column = (int(n) for n in board.stored("cells", y + by[0], x + by[1]))
    if 1 <= row < HIGH - 1 and 1 <= column < WIDE - 1:
        moved[row, column] = True
        assert np.array_equal(there, beside(grid, moved))


@hexagons
def test_a_lasso_takes_the_cells_whose_middles_it_goes_round(grid):
    document, board = made(grid)
    projection = document.project.grounds[0].projection
    width, height = projection.size
    corners = [(width * 0.2, height * 0.3), (width * 0.9, height * 0.2), (width * 0.5, height * 0.85)]
    found = full(board, lassoed(board, [projection.place(*corner) for corner in corners]))
    inside = 0
    for row in range(HIGH):
        for column in range(WIDE):
            box = projection.box(row, column)
            x, y = box.x + box.width / 2, box.y + box.height / 2
            sides = [
                (b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])
                for a, b in zip(corners, corners[1:] + corners[:1], strict=True)
            ]
            if min(sides) > 2 * width or max(sides) < -2 * width:
                assert found[row, column]
                inside += 1
            elif min(sides) < -2 * width < 2 * width < max(sides):
                assert not found[row, column]
    assert inside > 20


@hexagons
def test_boxes_and_forms_lie_in_rows_and_columns(grid):
    document, board = made(grid)
    area(document, "ground", "things", Hand(tile(1, 1)), spot(board, (3, 4)), spot(board, (7, 10)))
    expected = np.zeros((HIGH, WIDE), bool)
    expected[3:8, 4:11] = True
    assert np.array_equal(laid(document), expected)
    area(document, "ground", "things", Hand(tile(1, 1), form="frame"), spot(board, (1, 1)), spot(board, (11, 14)))
    expected[[1, 11], 1:15] = True
    expected[1:12, [1, 14]] = True
    assert np.array_equal(laid(document), expected)


@hexagons
def test_a_block_is_laid_as_a_pattern_that_joins(grid):
    document, board = made(grid)
    codes = [document.palette.code(tile(n, 0)) for n in range(3)]
    ys, xs = board.flat("cells", *np.mgrid[0:HIGH, 0:WIDE])
    expected = np.array(codes)[(ys + xs) % 3]
    poke(document, "things", "cells", np.s_[:, :], expected)
    ground = document.project.grounds[0]
    y, x = board.flat("cells", 6, 6)
    # Three columns from a multiple of three on, so that the pattern begins there as it lies.
    shape = boxed(board, (y + 0.5, x + 0.5), (y + 0.5, x + 0.5))
    for further in (1, 2):
        more = boxed(board, (y + 0.5, x + further + 0.5), (y + 0.5, x + further + 0.5))
        shape = Shape(board.whole, full(board, shape) | full(board, more))
    block, _ = lift(ground, document.state.planes["ground"], ["things"], shape)
    pattern = pattern_of(block, ground.layer("things"), board)
    assert pattern is not None
    poke(document, "things", "cells", np.s_[:, :], 0)
    fill_shape(document, "ground", "things", Hand(pattern=pattern), Shape(board.whole, np.ones((HIGH, WIDE), bool)))
    rows = plane_of(document, "things", "cells")
    for cell in ((5, 5), (6, 9), (8, 3)):
        y, x = board.flat("cells", *cell)
        row, column = (int(n) for n in board.stored("cells", y, x + 3))
        assert rows[cell] == rows[row, column]
    assert len(np.unique(rows)) == 3


@hexagons
def test_what_needs_corners_is_refused_in_a_sentence_and_in_a_file(grid, tmp_path):
    document, _ = made(grid)
    for set_id in ("areas", "lines", "walls"):
        with pytest.raises(BadRequest, match="hexagons can't be painted on yet"):
            add_layer(document, "ground", "New", set_id)
    poke(document, "things", "cells", np.s_[2:5, 2:5], document.palette.code(tile(0, 0)))
    with pytest.raises(BadRequest, match="hexagons can't be painted on yet"):
        read_back(Derived(document), "ground", "things", "areas")
    shade = add_layer(document, "ground", "Dusk", kind="shade")
    fill(document, "ground", shade, Hand(terrain=2), spot(document.project.grounds[0].board, (3, 3)))
    document.save(tmp_path)
    assert Document.load(tmp_path).project.grounds == document.project.grounds
    text = (tmp_path / FILE_NAME).read_text()
    assert '"on": "cells"' in text
    file = tmp_path / FILE_NAME
    file.write_text(text.replace(f'"{grid}"', '"square"'))
    load_project(tmp_path)
    file.write_text(text.replace('"on": "cells"', '"on": "corners"'))
    with pytest.raises(Exception, match="hexagons"):
        load_project(tmp_path)


@hexagons
def test_it_goes_round_with_an_even_number_of_lines(grid):
    document = make_document(WIDE, HIGH - 1, grid)
    set_wraps(document, "ground", x=True, y=True)
    board = document.project.grounds[0].board
    stroke(document, "ground", "things", Hand(tile(1, 1), radius=1), spot(board, (0, 0)), spot(board, (0, 0)))
    assert laid(document).sum() == 7
    odd, _ = made(grid)
    if grid == "hex-pointed":
        with pytest.raises(BadRequest, match="even number of rows"):
            set_wraps(odd, "ground", y=True)
    set_wraps(odd, "ground", x=True)


@hexagons
@pytest.mark.parametrize("stacking", ["whole", "depth"])
def test_a_reader_draws_the_same_from_the_delivered_file(grid, stacking, tmp_path):
    document, _ = made(grid)
    change_layer(document, "ground", "things", "stack", stacking=stacking)
    random = np.random.default_rng(5)
    codes = [0, *(document.palette.code(tile(n, 3)) for n in range(5))]
    poke(document, "things", "cells", np.s_[:, :], random.choice(codes, (HIGH, WIDE)))
    derived = Derived(document)
    EXPORTERS["json"].write(derived, "ground", tmp_path / "map.json", lambda share: None)
    ground = document.project.grounds[0]
    whole = straight(render(derived.scene(derived.knitted("ground")), PixelRect(0, 0, *ground.projection.size)))
    assert np.array_equal(drawn(tmp_path / "map.json"), whole)


@hexagons
def test_a_shade_colours_whole_cells_and_nothing_beside_them(grid):
    document, board = made(grid)
    poke(document, "things", "cells", np.s_[:, :], document.palette.code(tile(3, 3)))
    shade = add_layer(document, "ground", "Dusk", kind="shade")
    derived = Derived(document)
    ground = document.project.grounds[0]
    every = PixelRect(0, 0, *ground.projection.size)
    before = render(derived.scene(derived.knitted("ground")), every).astype(int)
    stroke(document, "ground", shade, Hand(terrain=2), spot(board, (6, 8)), spot(board, (6, 8)))
    after = render(derived.scene(derived.knitted("ground")), every).astype(int)
    changed = np.argwhere((before != after).any(axis=-1))
    box = ground.projection.box(6, 8)
    assert changed.min(axis=0).tolist() >= [box.y, box.x]
    assert len(changed) == pytest.approx(box.width * box.height * 0.75, abs=box.width)
    for y, x in changed.tolist():
        assert board.cell_at(*ground.projection.place(x + 0.5, y + 0.5)) == (6, 8)
    assert CellRect(6, 8, 1, 1) == ground.projection.cells_in(box).inside(CellRect(6, 8, 1, 1))
