"""Selecting cells of a ground, and lifting, moving, turning, laying and copying what lies there, on every grid."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from knitground.core.edits.block_tiles import block_of_tiles, tiles_of_block
from knitground.core.edits.blocks import Move, cleared, lay, lay_known, lift, put, turned
from knitground.core.edits.clipping import as_text, from_text
from knitground.core.edits.foresee import After
from knitground.core.edits.grounds import duplicate_ground, remove_ground, set_wraps
from knitground.core.edits.layers import add_layer
from knitground.core.edits.painting import Hand, area, fill_shape
from knitground.core.edits.reframing import crop_ground
from knitground.core.edits.selecting import (
    NOTHING,
    added,
    alike,
    boxed,
    grown,
    inverted,
    lassoed,
    shifted,
    without,
)
from knitground.core.errors import BadRequest
from knitground.core.grid.board import Board
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.tiles.tile import TileRef
from making import CORNERED, cell_set, make_document, plane_of, poke, tile


def planes(document: Document):
    return document.state.planes["ground"]


def full(board: Board, shape: Shape) -> np.ndarray:
    found = np.zeros((board.height, board.width), dtype=bool)
    found[shape.window.rows, shape.window.columns] = shape.mask
    return found


def around(board: Board, row: int, column: int, steps: int) -> Shape:
    y, x = board.flat("cells", row, column)
    return boxed(board, (y - steps + 0.5, x - steps + 0.5), (y + steps + 0.5, x + steps + 0.5))


@pytest.fixture(params=CORNERED)
def scattered(request) -> Document:
    """A ground with something painted on every layer."""
    document = make_document(grid=request.param)
    random = np.random.default_rng(3)
    codes = [document.palette.code(tile(n, 3), n % 8 if request.param == "square" else 0) for n in range(4)]
    poke(document, "things", "cells", np.s_[:, :], random.choice([0, 0, *codes], (15, 20)))
    corners = planes(document)["areas"]["corners"].shape
    poke(document, "areas", "corners", np.s_[:, :], random.integers(1, 3, corners))
    return document


def test_moving_there_and_back_changes_nothing_else(scattered):
    ground = scattered.project.grounds[0]
    selected = around(ground.board, 7, 9, 2)
    poke(
        scattered,
        "things",
        "cells",
        np.s_[:, :],
        plane_of(scattered, "things", "cells") * ~full(ground.board, around(ground.board, 7, 13, 2)),
    )
    before = plane_of(scattered, "things", "cells").copy()
    for by in ((0, 4), (0, -4)):
        changed = Move(scattered.project, ground, planes(scattered), ["things"], selected).to(by)
        put(scattered, "move", "ground", changed)
        selected = shifted(ground.board, selected, by)
        after = plane_of(scattered, "things", "cells")
        assert (
            after[~full(ground.board, around(ground.board, 7, 11, 6))]
            == before[~full(ground.board, around(ground.board, 7, 11, 6))]
        ).all()
    kept = full(ground.board, selected) & ~full(ground.board, around(ground.board, 7, 13, 2))
    assert (plane_of(scattered, "things", "cells")[kept] == before[kept]).all()
    scattered.undo()
    scattered.undo()
    assert (plane_of(scattered, "things", "cells") == before).all()


def test_what_is_painted_moves_with_its_corners_and_leaves_what_erasing_leaves(scattered):
    ground = scattered.project.grounds[0]
    selected = around(ground.board, 7, 9, 1)
    layer = ground.layer("areas")
    block, _ = lift(ground, planes(scattered), ["areas"], selected)
    _, values, there = block.pieces[0].planes["corners"]
    assert there.sum() == 16
    changed = Move(scattered.project, ground, planes(scattered), ["areas"], selected).to((0, 5))
    put(scattered, "move", "ground", changed)
    again, _ = lift(ground, planes(scattered), ["areas"], shifted(ground.board, selected, (0, 5)))
    assert (again.pieces[0].planes["corners"][1][there] == values[there]).all()
    left, _ = lift(ground, planes(scattered), ["areas"], selected)
    assert (left.pieces[0].planes["corners"][1][there] == layer.erased(scattered.project)).all()


@pytest.mark.parametrize("by", [(0, 0), (3, -2), (-6, 1), (0, 9)])
def test_a_move_worked_out_for_what_is_seen_looks_there_like_the_whole_move(scattered, by):
    ground, seen = scattered.project.grounds[0], CellRect(5, 6, 4, 6)
    move = Move(scattered.project, ground, planes(scattered), ["things", "areas"], around(ground.board, 7, 9, 3))
    knitted = Derived(scattered).knitted("ground")
    whole, part = (After(knitted, move.to(by, within)) for within in (None, seen))
    for layer in ("things", "areas"):
        assert np.array_equal(whole.codes(layer, seen), part.codes(layer, seen))


@pytest.mark.parametrize("orientation", range(8))
def test_a_turned_block_turned_back_is_the_same(scattered, orientation):
    if scattered.project.grounds[0].isometric:
        return
    ground = scattered.project.grounds[0]
    block, _ = lift(ground, planes(scattered), ["things", "areas"], around(ground.board, 7, 9, 2))
    back = orientation if orientation & 4 else (4 - orientation) % 4
    again = turned(turned(block, orientation), back)
    assert (again.cells == block.cells).all()
    for one, other in zip(again.pieces, block.pieces, strict=True):
        for name, (on, values, there) in one.planes.items():
            assert on == other.planes[name][0]
            assert (there == other.planes[name][2]).all()
            assert (values[there] == other.planes[name][1][there]).all()


def test_a_block_survives_the_clipboard_and_another_project_takes_it(scattered):
    ground = scattered.project.grounds[0]
    block, at = lift(ground, planes(scattered), ["things", "areas"], around(ground.board, 7, 9, 2))
    text = as_text(block, scattered.palette)
    other = make_document(grid=ground.grid)
    other.palette.code(tile(7, 3))
    sheets = [sheet.id for sheet in other.project.sheets]
    put(
        other,
        "paste",
        "ground",
        lay(other.project.grounds[0], planes(other), from_text(text, other.palette, sheets), at),
    )
    mine = full(ground.board, around(ground.board, 7, 9, 2))
    found, wanted = (plane_of(one, "things", "cells") for one in (other, scattered))
    names = [
        [None if code == 0 else (one.palette.ref(code & 0xFFFFFF), code >> 24) for code in cells[mine].tolist()]
        for one, cells in ((other, found), (scattered, wanted))
    ]
    assert names[0] == names[1]
    assert not found[~mine].any()
    with pytest.raises(BadRequest, match="add that sheet"):
        from_text(text, other.palette, [])


@given(text=st.one_of(st.text(max_size=60), st.sampled_from(['{"format": "knitground block"}', "[]", "null", "{"])))
def test_other_text_is_no_block_and_is_told_in_a_sentence(text):
    with pytest.raises(BadRequest, match="holds no block"):
        from_text(text, make_document().palette, [])


@given(data=st.data())
def test_damaged_blocks_are_refused_or_taken_but_never_break(data):
    document = make_document()
    poke(document, "things", "cells", np.s_[2:5, 2:5], document.palette.code(tile(3, 3), 2))
    ground = document.project.grounds[0]
    text = as_text(
        lift(ground, planes(document), ["things", "areas"], around(ground.board, 3, 3, 1))[0], document.palette
    )
    at = data.draw(st.integers(0, len(text) - 1))
    damaged = text[:at] + data.draw(st.sampled_from(["9", "-", " ", "x", '"', ""])) + text[at + 1 :]
    try:
        block = from_text(damaged, document.palette, [sheet.id for sheet in document.project.sheets])
        lay(ground, planes(document), block, (1, 1), "things")
    except BadRequest:
        pass


def test_a_block_goes_round_where_the_ground_does():
    document = make_document()
    set_wraps(document, "ground", x=True, y=False)
    code = document.palette.code(tile(3, 3))
    poke(document, "things", "cells", np.s_[4:6, 4:8], code)
    ground = document.project.grounds[0]
    block, _ = lift(ground, planes(document), ["things"], boxed(ground.board, (4.5, 4.5), (5.5, 7.5)))
    put(document, "lay", "ground", lay(ground, planes(document), block, (10, 18)))
    cells = plane_of(document, "things", "cells")
    assert (cells[10:12, [18, 19, 0, 1]] == code).all()
    assert (cells > 0).sum() == 16


def test_bare_cells_of_a_block_cover_nothing_and_locked_layers_stay():
    document = make_document()
    one, other = (document.palette.code(tile(n, 3)) for n in (2, 5))
    poke(document, "things", "cells", np.s_[2, 2], one)
    poke(document, "things", "cells", np.s_[8, 8:10], other)
    ground = document.project.grounds[0]
    block, _ = lift(ground, planes(document), ["things"], boxed(ground.board, (2.5, 2.5), (2.5, 3.5)))
    put(document, "lay", "ground", lay(ground, planes(document), block, (8, 8)))
    assert plane_of(document, "things", "cells")[8, 8:10].tolist() == [one, other]
    locked = replace(ground, layers=tuple(replace(layer, locked=True) for layer in ground.layers))
    with pytest.raises(BadRequest, match="locked"):
        lay(locked, planes(document), block, (8, 8))


def test_selections_are_joined_taken_away_widened_and_turned_round(scattered):
    board = scattered.project.grounds[0].board
    one, other = around(board, 7, 9, 2), around(board, 7, 11, 2)
    both = added(board, one, other)
    assert (full(board, both) == (full(board, one) | full(board, other))).all()
    assert (full(board, without(board, one, other)) == (full(board, one) & ~full(board, other))).all()
    assert (full(board, inverted(board, one)) == ~full(board, one)).all()
    assert full(board, inverted(board, NOTHING)).all()
    wide = grown(board, one, 1)
    assert (full(board, wide) >= full(board, one)).all()
    assert wide.mask.sum() > one.mask.sum()
    assert grown(board, inverted(board, NOTHING), -1).mask.all()


def test_a_lasso_takes_the_cells_whose_middles_it_goes_round(scattered):
    board = scattered.project.grounds[0].board
    y, x = (float(n) for n in board.flat("cells", 7, 9))
    round_it = [(y - 0.9, x - 0.9), (y - 0.9, x + 1.9), (y + 1.9, x + 1.9), (y + 1.9, x - 0.9)]
    assert lassoed(board, round_it).mask.sum() == 9
    assert full(board, lassoed(board, round_it))[7, 9]


def test_cells_are_selected_by_what_lies_there():
    document = make_document()
    code = document.palette.code(tile(3, 3))
    poke(document, "things", "cells", np.s_[2:4, 2:4], code)
    poke(document, "things", "cells", np.s_[9, 9], code)
    ground = document.project.grounds[0]
    layer = ground.layer("things")
    here = alike(ground, layer, planes(document)["things"], Hand(), (2.5, 2.5), everywhere=False)
    every = alike(ground, layer, planes(document)["things"], Hand(), (2.5, 2.5), everywhere=True)
    assert (here.mask.sum(), every.mask.sum()) == (4, 5)
    area(document, "ground", "areas", Hand(terrain=2), (4.0, 4.0), (7.0, 8.0))
    painted = alike(ground, ground.layer("areas"), planes(document)["areas"], Hand(), (5.0, 5.0), everywhere=False)
    assert painted.mask.sum() == 12


def test_a_selection_is_filled_and_cleared(scattered):
    ground = scattered.project.grounds[0]
    selected = around(ground.board, 7, 9, 1)
    mine = full(ground.board, selected)
    before = plane_of(scattered, "things", "cells").copy()
    fill_shape(scattered, "ground", "things", Hand(tile(9, 3)), selected)
    code = scattered.palette.code(tile(9, 3))
    assert ((plane_of(scattered, "things", "cells") == code) == mine).all()
    put(scattered, "clear", "ground", cleared(scattered.project, ground, planes(scattered), ["things"], selected))
    after = plane_of(scattered, "things", "cells")
    assert not after[mine].any()
    assert (after[~mine] == before[~mine]).all()
    fill_shape(scattered, "ground", "areas", Hand(terrain=2), selected)
    again, _ = lift(ground, planes(scattered), ["areas"], selected)
    _, values, there = again.pieces[0].planes["corners"]
    assert (values[there] == 2).all()


def test_cropping_leaves_what_was_painted_there(scattered):
    ground = scattered.project.grounds[0]
    derived = Derived(scattered)
    rect = CellRect(4, 3, 8, 12)
    before = {name: derived.knitted("ground").codes(name, rect).copy() for name in ("things", "areas")}
    old = lift(ground, planes(scattered), ["areas"], Shape(rect, np.ones(rect[2:], dtype=bool)))[0].pieces[0]
    crop_ground(scattered, "ground", rect)
    made = scattered.project.grounds[0]
    assert (made.height, made.width) == (8, 12)
    inner = CellRect(2, 2, 4, 8)
    assert (derived.knitted("ground").codes("things", made.board.whole) == before["things"]).all()
    corners = planes(scattered)["areas"]["corners"]
    assert corners.shape == made.board.shape("corners")
    after = derived.knitted("ground").codes("areas", made.board.whole)
    # Which of several variants lies where goes by the place on the ground; what they join does not.
    assert ((after > 0) == (before["areas"] > 0))[inner.rows, inner.columns].all()
    whole = Shape(made.board.whole, np.ones((8, 12), dtype=bool))
    new = lift(made, planes(scattered), ["areas"], whole)[0].pieces[0]
    (_, was, there), (_, values, _) = old.planes["corners"], new.planes["corners"]
    assert (values[there] == was[there]).all()
    scattered.undo()
    assert scattered.project.grounds[0] == ground


def test_a_staggered_ground_is_cropped_from_an_even_row_on():
    document = make_document(grid="staggered")
    with pytest.raises(BadRequest, match="a row higher"):
        crop_ground(document, "ground", CellRect(3, 3, 8, 12))


def test_a_ground_is_duplicated_and_removed_with_its_recipes():
    document = make_document()
    copy = duplicate_ground(document, "ground")
    assert [one.name for one in document.project.grounds][1].endswith("copy")
    poke(document, "things", "cells", np.s_[2, 2], document.palette.code(tile(3, 3)), ground=copy)
    assert not plane_of(document, "things", "cells").any()
    remove_ground(document, "ground")
    assert [one.id for one in document.project.grounds] == [copy]
    document.undo()
    assert len(document.project.grounds) == 2


def test_a_block_goes_only_where_its_numbers_mean_the_same():
    document = make_document()
    document.define("beds", replace(document.project, join_sets=(*document.project.join_sets, cell_set())))
    beds, shade = add_layer(document, "ground", "Beds", "beds"), add_layer(document, "ground", "Dusk", kind="shade")
    ground, planes = document.project.grounds[0], document.state.planes["ground"]
    tiles = block_of_tiles([tile(0, 0), tile(2, 1)], document.palette)
    assert lay_known(document.project, ground, planes, tiles, (2, 3), "things").keys() == {"things"}
    for onto in (beds, shade, "areas"):
        with pytest.raises(BadRequest, match="No layer"):
            lay_known(document.project, ground, planes, tiles, (2, 3), onto)
    # A third shade is more than the two terrains that lie on the corners of the other layer.
    poke(document, shade, "corners", np.s_[3:6, 3:6], 3)
    ground, planes = document.project.grounds[0], document.state.planes["ground"]
    block, _ = lift(ground, planes, [shade], around(ground.board, 4, 4, 1))
    with pytest.raises(BadRequest, match="lacks"):
        lay_known(document.project, ground, planes, block, (2, 3), "areas")


def test_single_images_come_side_by_side_off_their_sheet():
    document = make_document()
    images = [TileRef("market", name, 0, 0) for name in ("paving 2", "lamp", "paving 1")]
    block = block_of_tiles([*images, tile(2, 1), tile(3, 2)], document.palette)
    (piece,) = block.pieces
    ((_, codes, there),) = piece.planes.values()
    held = [document.palette.ref(int(code)) if code else None for code in codes[0]]
    assert held == [tile(2, 1), None, *sorted(images)]
    assert there.tolist() == [[True, False, True, True, True], [False, True, False, False, False]]
    assert tiles_of_block(block, document.palette) == {*images, tile(2, 1), tile(3, 2)}
    ground = document.project.grounds[0]
    lifted, _ = lift(ground, document.state.planes["ground"], ["things"], around(ground.board, 4, 4, 1))
    assert tiles_of_block(lifted, document.palette) == set()
