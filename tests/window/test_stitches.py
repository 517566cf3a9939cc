import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QLabel

from knitground.app.stitches.row import CHART, ChartEditor
from knitground.app.terrain_list import TerrainButton
from knitground.core.grid.rect import CellRect as Cells
from making import rectangle, tile
from window.finding import named, press

ALT = Qt.KeyboardModifier.AltModifier


@pytest.fixture
def stitching(working):
    document = working.session.document
    document.paint("p", "ground", "walls", "plan", rectangle((15, 20), (3, 3), (8, 12)), 1)
    working.session.set_stage("stitches")
    return working


def codes(window) -> np.ndarray:
    return window.session.derived.knitted("ground").codes("walls", Cells(0, 0, 15, 20)).copy()


def stitches(window):
    return window.session.stitch_set.stitches


def charts(window) -> list[ChartEditor]:
    panel = window.panels["stitches"]
    return [panel.list.itemWidget(panel.list.item(n)).findChild(ChartEditor) for n in range(panel.list.count())]


def test_a_click_on_a_chart_goes_through_same_other_and_either(stitching, hand):
    seen = []
    for _ in range(3):
        hand.click(charts(stitching)[1], QPointF(CHART / 2, 5))
        seen.append(stitches(stitching)[1].chart[1])
    assert seen == ["V", "-", "."]


def test_the_ground_follows_a_changed_chart_at_once(stitching, hand):
    before = codes(stitching)
    hand.click(charts(stitching)[0], QPointF(CHART / 2, CHART - 5))
    after = codes(stitching)
    assert stitches(stitching)[0].chart == "........"
    assert not np.array_equal(before, after)
    assert (after[3:9, 3:13] == stitching.session.document.palette.code(tile(0, 2))).all()


def test_the_order_counts_and_alt_with_arrows_changes_it(stitching):
    listed = stitching.panels["stitches"].list
    first, second = stitches(stitching)
    before = codes(stitching)
    listed.setCurrentRow(1)
    listed.setFocus()
    QTest.keyClick(listed, Qt.Key.Key_Up, ALT)
    assert stitches(stitching) == (second, first)
    assert not np.array_equal(codes(stitching), before)
    assert any("never fires: hidden by 1" in label.text() for label in listed.findChildren(QLabel))
    assert [finding.kind for finding in stitching.session.findings] == ["dead stitch"]
    QTest.keyClick(listed, Qt.Key.Key_Down, ALT)
    assert stitches(stitching) == (first, second)
    assert np.array_equal(codes(stitching), before)


def test_lines_are_dragged_into_another_order(stitching):
    from PySide6.QtCore import QMimeData
    from PySide6.QtGui import QDropEvent

    listed = stitching.panels["stitches"].list
    first, second = stitches(stitching)
    listed.setCurrentRow(0)
    data: QMimeData = listed.model().mimeData([listed.indexFromItem(listed.item(0))])
    at = listed.visualItemRect(listed.item(1)).bottomLeft()
    place = QPointF(at.x() + 20, at.y() - 2)
    none, buttons = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
    listed.dropEvent(QDropEvent(place, Qt.DropAction.MoveAction, data, buttons, none))
    assert stitches(stitching) == (second, first)
    stitching.undo()
    assert stitches(stitching) == (first, second)


def test_stitches_are_added_turned_and_taken_out(stitching):
    panel = stitching.panels["stitches"]
    panel.list.setCurrentRow(0)
    press(panel, "Add this stitch's pattern turned")
    assert stitches(stitching)[1].chart == "...-...."
    panel.add()
    assert len(stitches(stitching)) == 4
    assert panel.list.currentRow() == 2
    assert stitches(stitching)[2].chart == "........"
    QTest.keyClick(panel.list, Qt.Key.Key_Delete)
    assert len(stitches(stitching)) == 3


def test_a_click_on_the_sheet_gives_the_chosen_stitch_its_tile(stitching, hand):
    panel = stitching.panels["stitches"]
    panel.list.setCurrentRow(1)
    hand.click(panel.view, panel.view.tile_on_widget(4, 1).center())
    assert stitches(stitching)[1].tile == tile(4, 1)
    assert stitching.session.document.palette.code(tile(4, 1)) in codes(stitching)


def test_charts_are_written_by_keyboard_alone(stitching):
    chart = charts(stitching)[1]
    chart.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Space):
        QTest.keyClick(chart, key)
    assert stitches(stitching)[1].chart == "..V....."


def test_a_set_begins_with_a_mark_and_takes_more(stitching, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Hedge", True))
    panel = stitching.panels["stitches"]
    press(panel, "New stitch set")
    assert stitching.session.stitch_set.name == "Hedge"
    press(panel, "Add a mark")
    assert [mark.name for mark in stitching.session.stitch_set.marks] == ["Wall", "Hedge"]
    panel.add()
    QTest.mouseClick(named(panel, TerrainButton, "Hedge"), Qt.MouseButton.LeftButton)
    assert stitches(stitching)[0].mark == 2


def test_the_stage_takes_a_layer_in_hand_that_shows_it(demo):
    demo.session.choose(layer_id="cover")
    demo.session.set_stage("stitches")
    assert demo.session.choices.layer_id == "walls"
    demo.session.set_stage("joins")
    assert demo.session.choices.layer_id == "cover"
    demo.session.choose(layer_id="gutters")
    assert demo.session.choices.join_set_id == "gutters"
