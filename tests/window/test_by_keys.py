"""A whole project by keyboard alone, from an empty window to files for a game."""

import shutil

import numpy as np
import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QLineEdit, QSpacerItem, QWidgetItem
from shiboken6 import Shiboken

from knitground.app.finder import Finder
from knitground.app.keys.tab_order import stops
from knitground.app.session import STAGES
from making import DEMO, plane_of
from window.finding import says

NONE, CONTROL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier


def test_tab_keeps_nothing_of_a_layout_that_would_outlive_what_it_stands_for(demo):
    def kept() -> int:
        return sum(type(one) in (QWidgetItem, QSpacerItem) for one in Shiboken.getAllValidWrappers())

    before = kept()
    for stage in STAGES:
        demo.session.set_stage(stage)
        QTest.keyClick(demo, Qt.Key.Key_Tab)
        assert list(stops(demo))
    assert kept() == before


class Keys:
    """A keyboard, and nothing else."""

    def __init__(self, window, qtbot) -> None:
        self.window, self.qtbot = window, qtbot
        self.expected = 0

    def press(self, *keys: Qt.Key, modifier=NONE) -> None:
        if QApplication.activeWindow() is None:
            # As a window manager does once a dialog is gone.
            self.window.activateWindow()
        for key in keys:
            QTest.keyClick(QApplication.activePopupWidget() or QApplication.focusWidget() or self.window, key, modifier)
            QApplication.processEvents()

    def type(self, text: str) -> None:
        QTest.keyClicks(QApplication.focusWidget(), text)

    def hold(self, key: Qt.Key, *meanwhile: Qt.Key) -> None:
        QTest.keyPress(QApplication.focusWidget(), key)
        self.press(*meanwhile)
        QTest.keyRelease(QApplication.focusWidget(), key)

    def find(self, command: str) -> None:
        """Does a command by the finder."""
        self.press(Qt.Key.Key_K, modifier=CONTROL)
        finder = next(one for one in self.window.findChildren(Finder) if one.isVisible())
        QTest.keyClicks(finder.findChild(QLineEdit), command)
        QTest.keyClick(finder, Qt.Key.Key_Return)
        QApplication.processEvents()

    def go_to(self, name: str) -> None:
        """Presses Tab until something of that name has the focus."""
        for _ in range(150):
            at = QApplication.focusWidget()
            if at is not None and name in (at.accessibleName(), getattr(at, "text", str)()):
                return
            self.press(Qt.Key.Key_Tab)
        found = [one.accessibleName() or getattr(one, "text", str)() for one in stops(self.window)]
        raise AssertionError(f"no Tab leads to {name}, but to {found}")

    def accept_next(self) -> None:
        """Presses Return in the dialog that comes next; there has to be one."""
        self.expected += 1

        def when_there(patience: int = 200) -> None:
            dialog = QApplication.activeModalWidget()
            if isinstance(dialog, QDialog):
                self.expected -= 1
                QTest.keyClick(dialog, Qt.Key.Key_Return)
            elif patience:
                QTimer.singleShot(20, self.window, lambda: when_there(patience - 1))

        when_there()


@pytest.fixture
def keys(window, qtbot):
    window.activateWindow()
    window.ground.take_focus()
    return Keys(window, qtbot)


def test_from_an_empty_window_to_a_delivered_map(window, keys, tmp_path, qtbot, monkeypatch):
    session = window.session
    sheet = shutil.copy(DEMO / "sheets" / "roofs.png", tmp_path)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_, **__: ([str(sheet)], ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / "mine"), ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_, **__: str(tmp_path / "mine"))

    # 1: the sheet and its cut.
    keys.press(Qt.Key.Key_I, modifier=CONTROL)
    qtbot.waitUntil(lambda: bool(session.document.project.sheets), timeout=10_000)
    keys.go_to("tile width")
    assert session.document.project.sheets[0].cuts[0].tile_width == 16

    # 2: join sets, found and taken.
    keys.press(Qt.Key.Key_2, modifier=CONTROL)
    keys.find("Find sets on this sheet")
    qtbot.waitUntil(lambda: bool(window.panels["joins"].searching.proposed), timeout=20_000)
    keys.press(Qt.Key.Key_Return)
    assert len(session.document.project.join_sets) == 1
    keys.go_to("Paint with it")
    keys.press(Qt.Key.Key_Space)
    assert session.layer.knits

    # 3: a stroke of the second terrain, from cell to cell.
    keys.press(Qt.Key.Key_4, modifier=CONTROL)
    before = plane_of(session.document, session.layer.id, "corners", session.ground.id).copy()
    session.choose(terrain=2)
    window.ground.take_focus()
    keys.press(Qt.Key.Key_F9)
    assert window.pointer.on is window.ground.view
    keys.hold(Qt.Key.Key_Space, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Down)
    after = plane_of(session.document, session.layer.id, "corners", session.ground.id)
    assert 3 <= np.count_nonzero(before != after) <= 12
    assert len(session.document.history.done) >= 3
    keys.press(Qt.Key.Key_Escape)
    assert window.pointer.on is None

    # 4: a set of stitches with a mark, and what its first stitch lays.
    keys.press(Qt.Key.Key_3, modifier=CONTROL)
    keys.accept_next()
    keys.go_to("New stitch set")
    keys.press(Qt.Key.Key_Space)
    keys.go_to("Add a stitch")
    keys.press(Qt.Key.Key_Space)
    keys.go_to("Sheet")
    keys.press(Qt.Key.Key_F9, Qt.Key.Key_Right, Qt.Key.Key_Space, Qt.Key.Key_Escape)
    (made,) = session.document.project.stitch_sets
    assert made.stitches[0].pieces[0].tile is not None

    # 5: a mix of two tiles, and a recipe with a step that is kept.
    keys.press(Qt.Key.Key_5, modifier=CONTROL)
    keys.accept_next()
    keys.go_to("New recipe: another list of steps for this ground")
    keys.press(Qt.Key.Key_Space)
    keys.go_to("Add a step")
    keys.press(Qt.Key.Key_Space)
    keys.press(Qt.Key.Key_Down, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.trial.running, timeout=10_000)
    keys.go_to("Keep")
    keys.press(Qt.Key.Key_Space)
    assert not np.array_equal(after, plane_of(session.document, session.layer.id, "corners", session.ground.id))
    assert session.document.project.recipes[0].steps

    # 6: saved, and a delivery that is run.
    keys.press(Qt.Key.Key_S, modifier=CONTROL)
    qtbot.waitUntil(lambda: not session.document.changed, timeout=10_000)
    keys.press(Qt.Key.Key_6, modifier=CONTROL)
    keys.find("New delivery")
    keys.press(Qt.Key.Key_Return)
    assert len(session.document.project.deliveries) == 1
    assert keys.expected == 0
    keys.go_to("Run")
    keys.press(Qt.Key.Key_Space)
    written = tmp_path / "mine"
    qtbot.waitUntil(lambda: any(written.rglob("*.png")), timeout=20_000)


def test_labels_are_painted_on_the_sheet_by_keys(working, qtbot):
    """Of the nine places of a tile its upper left corner and the one to the right of it, at one stroke."""
    session, view = working.session, working.panels["joins"].view
    session.set_stage("joins")
    session.choose(terrain=2)
    ref = next(ref for ref, labels in session.join_set.labels.items() if labels[0] == 1)
    session.choose(tile=ref)
    before = session.join_set.labels[ref]
    working.activateWindow()
    keys = Keys(working, qtbot)
    view.setFocus()
    keys.press(Qt.Key.Key_F9)
    middle = view.to_content(view.rect_of(ref).center())
    for _ in range(80):
        across, below = middle.x() - working.pointer.at.x(), middle.y() - working.pointer.at.y()
        if abs(across) > 1:
            keys.press(Qt.Key.Key_Right if across > 0 else Qt.Key.Key_Left)
        if abs(below) > 1:
            keys.press(Qt.Key.Key_Down if below > 0 else Qt.Key.Key_Up)
    keys.press(Qt.Key.Key_Up, Qt.Key.Key_Left, Qt.Key.Key_Space)
    after = session.join_set.labels[ref]
    assert [at for at, (old, new) in enumerate(zip(before, after, strict=True)) if old != new] == [0]
    assert after[0] == 2
    keys.press(Qt.Key.Key_Escape)
    session.document.undo()


def test_moving_the_mouse_points_by_it_again(working, hand):
    working.ground.view.setFocus()
    QTest.keyClick(working.ground.view, Qt.Key.Key_F9)
    assert working.pointer.on is working.ground.view
    hand.move(working.ground.view, hand.cell(3, 3))
    assert working.pointer.on is None
    QTest.keyClick(working.ground.view, Qt.Key.Key_F9)
    QTest.keyClick(working.ground.view, Qt.Key.Key_F9)
    assert working.pointer.on is None


def test_where_points_are_painted_the_keys_point_at_points(working):
    session, view = working.session, working.ground.view
    session.choose(layer_id="areas", terrain=2)
    for tool, whole in (("draw", True), ("area", True), ("pin", False), ("select", False)):
        working.ground.choose_tool(tool)
        view.setFocus()
        QTest.keyClick(view, Qt.Key.Key_F9)
        QTest.keyClick(view, Qt.Key.Key_Right)
        assert all(place.is_integer() == whole for place in view.spot_at(working.pointer.at))
        QTest.keyClick(view, Qt.Key.Key_Escape)
        assert "The mouse points again" in says(working.ledger)
    working.ground.choose_tool("draw")
    before = plane_of(session.document, "areas", "corners").copy()
    QTest.keyClick(view, Qt.Key.Key_F9)
    row, column = (int(place) for place in view.spot_at(working.pointer.at))
    QTest.keyClick(view, Qt.Key.Key_Space)
    after = plane_of(session.document, "areas", "corners")
    assert np.argwhere(before != after).tolist() == [[row, column]], "the one that was pointed at"
