"""The tray, by mouse and keyboard."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from knitground.core.edits.keeping import keep_tile
from making import tile
from window.finding import open_menu, press, says, take

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
