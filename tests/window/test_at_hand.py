"""Tiles at hand on the ground stage: found by words, taken again, and sheets left where they were looked at."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QListWidget

from knitground.core.tiles.tile import TileRef
from window.finding import named, says

HIVES = {TileRef("props", "things", *place) for place in ((2, 0), (3, 0), (4, 0), (0, 1))}
NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture
def panel(demo):
    demo.session.set_stage("ground")
    return demo.panels["ground"]


def items(panel) -> list[TileRef]:
    listed = panel.findChild(QListWidget)
    return [TileRef(*listed.item(n).data(Qt.ItemDataRole.UserRole)) for n in range(listed.count())]


def asked(demo, text: str, qtbot) -> QLineEdit:
    """Looks for tiles as one does: a key, and words."""
    demo.ground.view.setFocus()
    QTest.keyClick(demo.ground.view, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    field = named(demo, QLineEdit, "Find tiles by tag or name")
    assert field.hasFocus()
    QTest.keyClicks(field, text)
    qtbot.waitUntil(lambda: "tile" in says(demo.panels["ground"].at_hand))
    return field


def test_a_sheet_stays_where_it_is_while_the_card_of_a_thing_comes_and_goes(demo, panel):
    demo.session.choose(sheet_id="roofs", layer_id="cover")
    QApplication.processEvents()
    view = panel.view
    room, seen = view.height(), view.to_widget(0, 0)
    assert view.content_size()[1] * view.zoom < room
    demo.session.choose(layer_id="yard")
    QApplication.processEvents()
    assert view.height() < room
    assert view.to_widget(0, 0) == seen


def test_tiles_are_found_across_sheets_taken_by_keys_and_the_sheet_comes_back(demo, panel, qtbot):
    demo.session.choose(sheet_id="roofs", layer_id="props")
    field = asked(demo, "hive", qtbot)
    assert set(items(panel)) == HIVES
    assert "4 tiles" in says(panel)
    assert not panel.view.isVisible()
    QTest.keyClick(field, Qt.Key.Key_Down)
    QTest.keyClick(panel.findChild(QListWidget), Qt.Key.Key_Right)
    QTest.keyClick(panel.findChild(QListWidget), Qt.Key.Key_Return)
    assert demo.session.choices.tile == items(panel)[1]
    assert demo.session.choices.sheet_id == "props"
    field.setFocus()
    QTest.keyClick(field, Qt.Key.Key_Escape)
    qtbot.waitUntil(panel.view.isVisible)
    assert not panel.findChild(QListWidget).isVisible()


def test_words_that_no_tile_has_are_answered_and_the_tray_comes_back(demo, panel, qtbot):
    panel.toggle_tray()
    field = asked(demo, "xylophone", qtbot)
    assert "No tile is called so" in says(panel)
    assert not panel.tray.isVisible()
    field.clear()
    qtbot.waitUntil(panel.tray.isVisible)
    assert not panel.view.isVisible()
    panel.toggle_tray()
    assert panel.view.isVisible()


def test_the_tiles_used_last_stand_ready_and_stay_in_place(demo, panel):
    session = demo.session
    first, second = TileRef("props", "things", 2, 0), TileRef("comb", "cells", 1, 1)
    for ref in (first, second):
        session.choose(tile=ref, sheet_id=ref.sheet)
    again = named(panel, QAbstractButton, "Take props 2, 0 in hand again")
    before = again.x()
    QTest.mouseClick(again, Qt.MouseButton.LeftButton)
    assert session.choices.tile == first
    assert named(panel, QAbstractButton, "Take props 2, 0 in hand again").x() == before
    for column in range(8):
        session.choose(tile=TileRef("yard", "pieces", column, 0))
    with pytest.raises(AssertionError):
        named(panel, QAbstractButton, "Take comb 1, 1 in hand again")
    session.open(type(session.document)())
    with pytest.raises(AssertionError):
        named(panel, QAbstractButton, "Take yard")


def test_each_sheet_is_found_as_it_was_left(demo, panel):
    view = panel.view
    demo.session.choose(sheet_id="roofs")
    view.set_zoom(6)
    view.centre_on(100, 40)
    place = view.zoom, view.origin
    demo.session.choose(sheet_id="props")
    assert view.zoom != 6
    fitted = view.zoom, view.origin
    demo.session.choose(sheet_id="roofs")
    assert (view.zoom, view.origin) == place
    demo.session.choose(sheet_id="props")
    assert (view.zoom, view.origin) == fitted
