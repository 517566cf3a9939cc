"""Several maps: duplicated, removed, cropped, gone through by keys; finding one's way on a map."""

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from knitground.core.edits.grounds import resize_ground
from window.choosing import choose
from window.finding import entry, open_menu, press, take

CTRL = Qt.KeyboardModifier.ControlModifier


def names(window) -> list[str]:
    return [one.name for one in window.session.document.project.grounds]


def test_a_ground_is_duplicated_gone_to_by_keys_and_removed(working):
    (first,) = names(working)
    panel = working.panels["ground"]
    press(panel, "More to do with this ground")
    assert not entry(open_menu(), "Crop the ground").isEnabled()
    take(open_menu(), "Duplicate the ground")
    assert names(working) == [first, f"{first} copy"]
    assert working.session.ground.name == f"{first} copy"
    QTest.keyClick(working, Qt.Key.Key_PageDown, CTRL)
    assert working.session.ground.name == first
    press(panel, "More to do with this ground")
    take(open_menu(), "Remove the ground")
    assert names(working) == [f"{first} copy"]
    assert working.session.ground.name == f"{first} copy"
    working.undo()
    assert names(working) == [first, f"{first} copy"]


def test_a_ground_is_cropped_to_what_is_selected(working, hand):
    choose(working, "things", "select")
    hand.on_ground((3, 4), (8, 11))
    press(working.panels["ground"], "More to do with this ground")
    take(open_menu(), "Crop the ground")
    assert (working.session.ground.width, working.session.ground.height) == (8, 6)
    assert working.session.selected is None
    working.undo()
    assert (working.session.ground.width, working.session.ground.height) == (20, 15)


def test_the_view_goes_to_what_is_selected(working, hand):
    choose(working, "things", "select")
    hand.on_ground((3, 4), (4, 5))
    before = working.ground.view.zoom
    QTest.keyClick(working, Qt.Key.Key_8, CTRL)
    view = working.ground.view
    assert view.zoom > before
    middle = view.to_content(QPointF(view.width() / 2, view.height() / 2))
    y, x = view.spot_at(middle)
    assert (y, x) == pytest.approx((4, 5), abs=0.2)


@pytest.mark.parametrize("text", ["19, 14", "19 14"])
def test_one_goes_to_a_cell_by_its_numbers(working, monkeypatch, text):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: (text, True))
    QTest.keyClick(working, Qt.Key.Key_G, CTRL)
    y, x = working.ground.view.spot_at(
        working.ground.view.to_content(QPointF(working.ground.view.width() / 2, working.ground.view.height() / 2))
    )
    assert (y, x) == pytest.approx((14.5, 19.5), abs=4)


@pytest.mark.parametrize("text", ["", "20, 3", "a, b", "1", "99999999999999999999, 1", "1, 2, 3"])
def test_a_cell_that_is_not_there_is_told(working, monkeypatch, text):
    said = []
    working.session.said.connect(lambda sentence, problem: said.append(sentence))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: (text, True))
    QTest.keyClick(working, Qt.Key.Key_G, CTRL)
    assert "from 0, 0 to 19, 14" in said[-1]


def test_a_selection_that_a_smaller_ground_does_not_hold_is_none(working, hand):
    choose(working, "things", "select")
    hand.on_ground((8, 12), (13, 18))
    assert working.session.selected.count == 42
    resize_ground(working.session.document, "ground", 10, 10)
    assert working.session.selected is None
    working.ground.view.setFocus()
    QTest.keyClick(working.ground.view, Qt.Key.Key_Delete)
    working.ground.view.grab()
    working.undo()
    assert working.session.selected.count == 42
