"""The tray, by mouse and keyboard."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QInputDialog

from knitground.core.edits.blocks import lift
from knitground.core.edits.keeping import keep_block, keep_tile
from knitground.core.edits.selecting import boxed
from making import make_document, poke, tile
from window.finding import named, open_menu, press, says, take

SHIFT = Qt.KeyboardModifier.ShiftModifier
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def swatches(window):
    return window.session.document.project.swatches


def test_what_is_selected_or_in_hand_is_kept_and_taken_again(working, hand):
    window, view = working, working.ground.view
    window.session.set_stage("ground")
    window.session.choose(layer_id="areas")
    press(window, "Select")
    hand.drag(view, hand.cell(3, 3), hand.cell(4, 4), hand.cell(5, 6))
    QTest.keyClick(view, Qt.Key.Key_K, SHIFT)
    window.session.select(None)
    window.session.choose(tile=tile(2, 1))
    QTest.keyClick(view, Qt.Key.Key_K, SHIFT)
    assert [one.clip is not None for one in swatches(window)] == [True, False]
    tray = window.panels["ground"].tray
    assert not tray.isVisible()
    QTest.keyClick(view, Qt.Key.Key_T, SHIFT)
    assert tray.isVisible()
    window.session.choose(tile=None)
    QTest.mouseClick(tray.view, LEFT, NONE, tray.view.slot(1, 0).center())
    assert window.session.choices.tile == tile(2, 1)
    assert window.ground.view.tool.name == "draw"
    QTest.mouseClick(tray.view, LEFT, NONE, tray.view.slot(0, 0).center())
    assert window.session.choices.lifted is not None
    assert window.ground.view.tool.name == "place"
    press(window, "Tray")
    assert not tray.isVisible()


def test_a_click_on_the_sheet_that_is_at_hand_leaves_the_tray_and_what_was_found(working, qtbot):
    working.session.set_stage("ground")
    panel, sheet = working.panels["ground"], working.session.choices.sheet_id

    def marked() -> list[str]:
        return [one.text() for one in panel.findChildren(QAbstractButton) if one.isVisible() and one.isChecked()
                and one.text() in (sheet, "Tray")]  # fmt: skip

    assert marked() == [sheet]
    press(panel, "Tray")
    assert panel.tray.isVisible()
    assert marked() == ["Tray"]
    QTest.mouseClick(named(panel, QAbstractButton, sheet), LEFT)
    assert panel.view.isVisible()
    assert not panel.tray.isVisible()
    assert marked() == [sheet]
    QTest.keyClicks(panel.at_hand.words, "zzz")
    qtbot.waitUntil(lambda: not panel.view.isVisible())
    QTest.mouseClick(named(panel, QAbstractButton, sheet), LEFT)
    assert panel.view.isVisible()
    assert panel.at_hand.words.text() == ""
    assert marked() == [sheet]


def test_swatches_are_dragged_renamed_and_taken_off(working, monkeypatch):
    document = working.session.document
    working.session.set_stage("ground")
    for number in range(2):
        keep_tile(document, tile(number, 0))
    working.panels["ground"].toggle_tray()
    view = working.panels["ground"].tray.view
    start, end = view.slot(0, 0).center(), view.slot(3, 2).center()
    QTest.mousePress(view, LEFT, NONE, start)
    for part in (0.3, 0.7, 1.0):
        QTest.mouseMove(view, start + (end - start) * part)
    QTest.mouseRelease(view, LEFT, NONE, end)
    assert (swatches(working)[0].x, swatches(working)[0].y) == (3, 2)
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Left)
    QTest.keyClick(view, Qt.Key.Key_Right)
    monkeypatch.setattr(QInputDialog, "getText", lambda *of, **more: ("Well", True))
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, end, view.mapToGlobal(end))
    QApplication.sendEvent(view, event)
    take(open_menu(), "Rename…")
    assert swatches(working)[0].name == "Well"
    working.session.choose(tile=None)
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert working.session.choices.tile == tile(0, 0)
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert [one.tile for one in swatches(working)] == [tile(1, 0)]


def test_nothing_in_hand_is_told(working):
    working.session.set_stage("ground")
    working.session.choose(tile=None)
    QTest.keyClick(working.ground.view, Qt.Key.Key_K, SHIFT)
    assert "Nothing is selected or in hand" in says(working.ledger)
    assert swatches(working) == ()


def copied(window, column: int) -> None:
    """Copies what lies at a place of the tray, by its menu."""
    tray = window.panels["ground"].tray.view
    at = tray.slot(column, 0).center()
    QApplication.sendEvent(tray, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, tray.mapToGlobal(at)))
    take(open_menu(), "Copy for another project")
    assert "is copied" in says(window)


def test_swatches_are_copied_and_kept_in_another_project(working):
    session, view = working.session, working.ground.view
    control = Qt.KeyboardModifier.ControlModifier
    document = session.document
    poke(document, "things", "cells", np.s_[3, 4:6], document.palette.code(tile(5, 2)))
    keep_tile(document, tile(3, 1), 1)
    block, _ = lift(
        session.ground, document.state.planes["ground"], ["things"], boxed(session.ground.board, (3.5, 4.5), (3.5, 5.5))
    )
    keep_block(document, block)
    working.panels["ground"].toggle_tray()
    for column, wanted, cells in ((0, tile(3, 1), 1), (1, tile(5, 2), 2)):
        session.open(document)
        session.set_stage("ground")
        copied(working, column)
        session.open(make_document())
        session.set_stage("ground")
        session.choose(layer_id="things", tile=tile(0, 0))
        QTest.keyClick(view, Qt.Key.Key_V, control)
        QTest.keyClick(view, Qt.Key.Key_K, SHIFT)
        (kept,) = swatches(working)
        assert kept.tiles == (wanted,)
        assert sum(row.count("x") for row in kept.clip.cells) == cells
        # A tile that is taken in hand afterwards is what is kept next.
        session.choose(tile=tile(8, 0))
        QTest.keyClick(view, Qt.Key.Key_K, SHIFT)
        assert swatches(working)[1].tile == tile(8, 0)
