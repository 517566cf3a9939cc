"""Selecting cells on the ground by mouse and keyboard, and what can be done with them."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox

from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.notes import add_tag
from knitground.core.edits.placing import place
from knitground.core.grid.rect import CellRect
from knitground.core.layers.thing import Thing
from making import make_document, poke, tile
from window.choosing import choose, plane
from window.finding import named, painted, press, says

RIGHT = Qt.MouseButton.RightButton
NONE, SHIFT, CTRL = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
)  # fmt: skip


@pytest.fixture
def laid(working):
    """Six tiles in a row on a layer of single tiles, and Select in hand."""
    document = working.session.document
    poke(document, "things", "cells", np.s_[4, 3:9], [document.palette.code(tile(n, 3)) for n in range(6)])
    choose(working, "things", "select")
    working.ground.view.setFocus()
    return working


@pytest.fixture
def modified(monkeypatch):
    """Holds keys down while the mouse is used."""
    held = [NONE]
    monkeypatch.setattr(QApplication, "keyboardModifiers", staticmethod(lambda: held[0]))
    return held


def cells(window) -> np.ndarray:
    return plane(window, "things", "cells")


def test_what_is_selected_is_moved_seen_while_it_moves_and_is_one_step(laid, hand):
    before = cells(laid).copy()
    view = laid.ground.view
    hand.on_ground((3, 3), (5, 5))
    assert laid.session.selected.count == 9
    bare = painted(view)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, NONE, hand.cell(4, 4).toPoint())
    hand.move(view, hand.cell(8, 6), Qt.MouseButton.LeftButton)
    at = hand.cell(8, 6).toPoint()
    assert (painted(view)[at.y(), at.x()] != bare[at.y(), at.x()]).any()
    assert (cells(laid) == before).all()
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, NONE, hand.cell(8, 6).toPoint())
    assert (cells(laid)[8, 5:8] == before[4, 3:6]).all()
    assert not cells(laid)[4, 3:6].any()
    assert (cells(laid)[4, 6:9] == before[4, 6:9]).all()
    assert laid.session.selected.shape.window[:2] == (7, 5)
    laid.undo()
    assert (cells(laid) == before).all()


def test_what_is_selected_goes_back_and_forth_with_its_moves(laid, hand):
    at = lambda: tuple(laid.session.selected.shape.window[:2])  # noqa: E731
    hand.on_ground((3, 3), (5, 5))
    hand.on_ground((4, 4), (8, 6))
    hand.on_ground((8, 6), (9, 6))
    assert at() == (8, 5)
    for step, wanted in ((laid.undo, (7, 5)), (laid.undo, (3, 3)), (laid.redo, (7, 5)), (laid.redo, (8, 5))):
        step()
        assert at() == wanted
    hand.on_ground((0, 0), (1, 1))
    laid.undo()
    assert at() == (0, 0), "that is what was selected since"


def test_keys_copy_cut_paste_turn_mirror_and_clear(laid, hand):
    before = cells(laid).copy()
    view = laid.ground.view
    hand.on_ground((4, 3), (4, 5))
    QTest.keyClick(view, Qt.Key.Key_X, CTRL)
    assert not cells(laid)[4, 3:6].any()
    QTest.keyClick(view, Qt.Key.Key_V, CTRL)
    assert laid.ground.view.tool.name == "place"
    assert "lays the block" in says(laid.ground)
    hand.on_ground((9, 9))
    assert (cells(laid)[9, 8:11] == before[4, 3:6]).all()
    QTest.keyClick(view, Qt.Key.Key_M)
    hand.on_ground((11, 9))
    numbers = before[4, 3:6] & 0xFFFFFF
    assert (cells(laid)[11, 8:11] & 0xFFFFFF == numbers[::-1]).all()
    assert len({*(cells(laid)[11, 8:11] - numbers[::-1]).tolist()}) == 1
    QTest.keyClick(view, Qt.Key.Key_T)
    hand.on_ground((6, 15))
    assert (cells(laid)[5:8, 15] > 0).all()
    hand.move(view, QPointF(2, 2))
    laid.ground.choose_tool("select")
    QTest.keyClick(view, Qt.Key.Key_A, CTRL)
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert not cells(laid).any()


def test_a_block_dragged_goes_on_without_gap_and_escape_takes_the_stroke_back(laid, hand):
    hand.on_ground((4, 3), (4, 4))
    QTest.keyClick(laid.ground.view, Qt.Key.Key_D, CTRL)
    hand.on_ground((9, 3), (9, 5), (9, 7), (9, 9))
    row = cells(laid)[9]
    assert (row[3:11] > 0).all()
    assert (row[3:11].reshape(-1, 2) == row[3:5]).all()
    laid.undo()
    assert not cells(laid)[9].any()
    hand.on_ground((9, 3), button=RIGHT)
    said = []
    laid.session.said.connect(lambda sentence, problem: said.append(sentence))
    hand.on_ground((9, 3))
    assert "No block is in hand" in said[-1]


def test_selecting_adds_with_shift_takes_away_with_ctrl_and_by_what_lies_there(laid, hand, modified):
    hand.on_ground((2, 2), (3, 3))
    modified[0] = SHIFT
    hand.on_ground((2, 6), (3, 7))
    assert laid.session.selected.count == 8
    modified[0] = CTRL
    hand.on_ground((2, 2), (3, 2))
    assert laid.session.selected.count == 6
    modified[0] = NONE
    hand.on_ground((10, 10))
    assert laid.session.selected is None
    poke(laid.session.document, "things", "cells", np.s_[9, 12], cells(laid)[4, 3])
    for _ in range(3):
        QTest.keyClick(laid.ground.view, Qt.Key.Key_S, SHIFT)
    assert named(laid.ground, QAbstractButton, "Selects all that is alike")
    hand.on_ground((4, 3))
    assert laid.session.selected.count == 2
    QTest.keyClick(laid.ground.view, Qt.Key.Key_I, SHIFT)
    assert laid.session.selected.count == 20 * 15 - 2


def test_a_lasso_goes_round_cells(laid, hand):
    press(laid.ground, "Selects what is dragged over")
    hand.on_ground((2, 2), (2, 6), (6, 6), (6, 2))
    assert laid.session.selected.count >= 9


def test_painted_terrain_moves_and_its_joins_heal(working, hand):
    session = working.session
    choose(working, "areas", "area", terrain=2)
    hand.on_ground((3.5, 3.5), (5.5, 6.5))
    whole = session.ground.board.whole
    before = session.derived.knitted("ground").codes("areas", whole).copy()
    working.ground.choose_tool("select")
    hand.on_ground((3, 3), (6, 7))
    hand.on_ground((4, 4), (9, 12))
    after = session.derived.knitted("ground").codes("areas", whole)
    corners = plane(working, "areas", "corners")
    assert (corners[9:12, 12:16] == 2).all()
    assert (corners[4:7, 4:8] == 1).all()
    assert (after[9:11, 12:15] > 0).all()
    assert (after != before).any()


def test_all_layers_that_show_are_taken_and_locked_ones_stay(laid, hand):
    document = laid.session.document
    QTest.keyClick(laid.ground.view, Qt.Key.Key_B, SHIFT)
    assert "from all layers that show" in says(laid.ground)
    change_layer(document, "ground", "areas", "lock", locked=True)
    hand.on_ground((3, 3), (5, 5))
    before = plane(laid, "areas", "corners").copy()
    hand.on_ground((4, 4), (9, 9))
    assert (plane(laid, "areas", "corners") == before).all()
    assert (cells(laid)[9, 8:11] > 0).all()
    QTest.keyClick(laid.ground.view, Qt.Key.Key_B, SHIFT)
    change_layer(document, "ground", "things", "lock", locked=True)
    said = []
    laid.session.said.connect(lambda sentence, problem: said.append(sentence))
    QTest.keyClick(laid.ground.view, Qt.Key.Key_Delete)
    assert "locked" in said[-1]


def test_a_selection_is_filled_by_a_key_and_other_text_on_the_clipboard_is_told(laid, hand):
    laid.session.choose(tile=tile(7, 3))
    hand.on_ground((7, 3), (8, 6))
    QTest.keyClick(laid.ground.view, Qt.Key.Key_Return, SHIFT)
    assert (cells(laid)[7:9, 3:7] == laid.session.document.palette.code(tile(7, 3))).all()
    said = []
    laid.session.said.connect(lambda sentence, problem: said.append(sentence))
    QApplication.clipboard().setText("nothing of ours")
    QTest.keyClick(laid.ground.view, Qt.Key.Key_V, CTRL)
    assert "holds no block" in said[-1]


def test_a_block_in_hand_fills_as_a_pattern_whose_strokes_join(laid, hand):
    hand.on_ground((4, 3), (4, 4))
    QTest.keyClick(laid.ground.view, Qt.Key.Key_C, CTRL)
    pair = cells(laid)[4, 3:5].copy()
    box = next(box for box in laid.panels["ground"].findChildren(QComboBox) if box.findText("The block in hand") >= 0)
    box.setCurrentIndex(box.findText("The block in hand"))
    box.activated.emit(box.currentIndex())
    laid.ground.choose_tool("area")
    assert "the block, repeated" in says(laid.ground)
    hand.on_ground((7, 2), (8, 6))
    hand.on_ground((9, 5), (9, 9))
    rows = cells(laid)[7:10]
    for row, first, last in ((0, 2, 7), (1, 2, 7), (2, 5, 10)):
        assert rows[row, first:last].tolist() == [pair[column % 2] for column in range(first, last)]
    laid.session.choose(tile=tile(7, 3))
    hand.on_ground((11, 2), (11, 4))
    assert (cells(laid)[11, 2:5] == laid.session.document.palette.code(tile(7, 3))).all()


def test_tiles_that_share_a_tag_are_selected_with_a_click(laid, hand):
    session = laid.session
    add_tag(session.document, [tile(0, 3), tile(2, 3), tile(5, 3)], "stone")
    hand.click(laid.ground.view, hand.cell(1, 1))
    for _ in range(4):
        hand.key(laid.ground.view, Qt.Key.Key_S, SHIFT)
    assert session.choices.selecting == "tagged"
    hand.on_ground((4, 5))
    assert session.selected is not None
    columns = np.nonzero(session.selected.shape.mask)[1] + session.selected.shape.window.left
    assert columns.tolist() == [3, 5, 8]
    hand.on_ground((4, 4))
    assert "No tile with a tag lies there" in says(laid)


def test_what_is_selected_is_held_as_it_is_and_knit_anew(working, hand):
    session, view = working.session, working.ground.view
    choose(working, "areas", "select")
    hand.on_ground((2, 2), (4, 5))
    before = session.derived.knitted("ground").codes("areas", CellRect(0, 0, 15, 20)).copy()
    hand.key(view, Qt.Key.Key_B, Qt.KeyboardModifier.AltModifier)
    assert (plane(working, "areas", "pins") > 0).sum() == 12
    poke(session.document, "areas", "corners", np.s_[:, :], 2)
    after = session.derived.knitted("ground").codes("areas", CellRect(0, 0, 15, 20))
    assert np.array_equal(after[2:5, 2:6], before[2:5, 2:6])
    assert (after[7:] != before[7:]).all()
    hand.key(view, Qt.Key.Key_K, Qt.KeyboardModifier.AltModifier)
    assert not plane(working, "areas", "pins").any()
    after = session.derived.knitted("ground").codes("areas", CellRect(0, 0, 15, 20))
    assert (after != before).all()
    session.choose(layer_id="things")
    hand.key(view, Qt.Key.Key_B, Qt.KeyboardModifier.AltModifier)
    assert "Only terrains and plans are knit" in says(working)


def test_a_drag_picks_a_block_and_a_click_goes_back_to_what_was_in_hand(laid, hand):
    session, pane = laid.session, laid.ground
    pane.choose_tool("fill")
    hand.key(pane.view, Qt.Key.Key_K)
    assert pane.view.tool.name == "pick"
    hand.on_ground((4, 5))
    assert session.choices.tile == tile(2, 3)
    assert pane.view.tool.name == "fill"
    hand.key(pane.view, Qt.Key.Key_K)
    hand.on_ground((3, 3), (4, 4))
    assert pane.view.tool.name == "place"
    hand.on_ground((10, 10))
    found = cells(laid)
    assert np.array_equal(found[9:12, 9:12][found[9:12, 9:12] > 0], found[4, 3:5])
    hand.key(pane.view, Qt.Key.Key_K)
    hand.on_ground((13, 13))
    assert "Nothing lies there" in says(laid)
    assert pane.view.tool.name == "pick"


def test_a_block_of_all_layers_takes_along_what_stands_in_it(laid, hand):
    session, view = laid.session, laid.ground.view
    layer = add_layer(session.document, "ground", "Props", kind="props")
    place(session.document, "ground", layer, [Thing("n", 5 * 8 + 4.0, 5 * 8.0, tile=tile(7, 3))])
    session.choose(layer_id="things", across=True)
    laid.ground.choose_tool("select")
    hand.on_ground((4, 5), (4, 6))
    still = painted(view)
    while not np.array_equal(still, again := painted(view)):
        still = again
    start, end = hand.cell(4, 5), hand.cell(8, 5)
    hand.move(view, start)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start.toPoint())
    hand.move(view, end, Qt.MouseButton.LeftButton)
    moving = painted(view)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end.toPoint())
    props = session.ground.layer(layer)
    assert [(one.x, one.y) for one in props.things] == [(44.0, 72.0)]
    # On its way it showed where it came to lie, through what lay there.
    assert not np.array_equal(moving, still)
    hand.key(view, Qt.Key.Key_C, CTRL)
    hand.key(view, Qt.Key.Key_V, CTRL)
    hand.on_ground((12, 12))
    assert len(session.ground.layer(layer).things) == 2
    session.document.undo()
    assert len(session.ground.layer(layer).things) == 1


def all_selected(window, hand, width: int, height: int):
    """A ground full of one tile, all of it selected: its document and the view."""
    window.session.open(make_document(width, height))
    window.session.set_stage("ground")
    choose(window, "things", "select")
    document, view = window.session.document, window.ground.view
    poke(document, "things", "cells", np.s_[:, :], document.palette.code(tile(3, 3)))
    hand.key(view, Qt.Key.Key_A, CTRL)
    return document, view


def test_a_very_large_piece_is_copied_beside_the_window(window, hand, qtbot):
    _, view = all_selected(window, hand, 300, 260)
    hand.key(view, Qt.Key.Key_C, CTRL)
    qtbot.waitUntil(lambda: "78,000 cells copied" in says(window), timeout=20_000)
    hand.key(view, Qt.Key.Key_Delete)
    assert not plane(window, "things", "cells").any()
    hand.key(view, Qt.Key.Key_V, CTRL)
    assert window.session.choices.lifted.cells.shape == (260, 300)


@pytest.mark.parametrize("meanwhile", [False, True])
def test_a_very_large_piece_is_cleared_beside_the_window_unless_the_ground_is_changed_meanwhile(
    window, hand, qtbot, meanwhile
):
    document, view = all_selected(window, hand, 1100, 1000)
    hand.key(view, Qt.Key.Key_Delete)
    if meanwhile:
        poke(document, "things", "cells", np.s_[0, 0], 0)
        qtbot.waitUntil(lambda: "nothing was cleared" in says(window), timeout=20_000)
        assert np.count_nonzero(plane(window, "things", "cells")) == 1100 * 1000 - 1
        return
    qtbot.waitUntil(lambda: not plane(window, "things", "cells").any(), timeout=20_000)
    document.undo()
    assert plane(window, "things", "cells").all()


def test_what_stitches_lay_elsewhere_is_not_selected_by_what_was_painted_and_that_is_said(demo, hand):
    session = demo.session
    session.choose(ground_id="long-roof", layer_id="tops", selecting="touching")
    demo.ground.choose_tool("select")
    assert session.document.state.planes[session.ground.id]["tops"] == {}
    hand.on_ground((21, 41))
    assert session.selected is None
    assert "Nothing is painted on “Tops of the walls” itself" in says(demo)
