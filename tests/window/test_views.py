"""What helps the eye: overview, rulers, repeats, the size of a drag, symmetry, the parts of a sheet."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtTest import QTest

from knitground.core.edits.grounds import set_wraps
from making import SIDE, png, sheet_of_tiles, things_below, tile
from window.choosing import bring, plane
from window.finding import painted, press, says

SHIFT = Qt.KeyboardModifier.ShiftModifier
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def key(window, code: Qt.Key, modifier=NONE) -> None:
    window.ground.view.setFocus()
    QTest.keyClick(window.ground.view, code, modifier)


def test_the_overview_shows_where_the_view_is_and_moves_it(working):
    view = working.ground.view
    view.set_zoom(8)
    overview = view.overview
    assert not overview.isVisible()
    key(working, Qt.Key.Key_O)
    assert overview.isVisible()
    assert view.rect().contains(overview.geometry())
    before = painted(overview)
    for spot, corner in ((QPoint(4, 4), (0, 0)), (QPoint(overview.width() - 4, overview.height() - 4), (20, 15))):
        QTest.mouseClick(overview, LEFT, NONE, spot)
        seen = view.visible_content()
        assert abs(seen.center().x() - corner[0] * SIDE) < seen.width() / 2 + 4 * SIDE
        assert abs(seen.center().y() - corner[1] * SIDE) < seen.height() / 2 + 4 * SIDE
    assert not np.array_equal(painted(overview), before)
    key(working, Qt.Key.Key_O)
    assert not overview.isVisible()


def test_rulers_and_grid_are_shown_and_hidden_by_keys(working):
    view = working.ground.view
    view.set_zoom(4)
    for code, modifier in ((Qt.Key.Key_R, SHIFT), (Qt.Key.Key_G, NONE)):
        before = painted(view)
        key(working, code, modifier)
        assert not np.array_equal(painted(view), before)
        key(working, code, modifier)
        assert np.array_equal(painted(view), before)


def test_a_ground_that_goes_round_is_seen_and_painted_on_in_every_copy(working, hand):
    view, session = working.ground.view, working.session
    session.choose(layer_id="things", tile=tile(3, 2))
    key(working, Qt.Key.Key_W, SHIFT)
    assert "does not go round" in says(working.ledger)
    set_wraps(session.document, "ground", x=True)
    view.set_zoom(2)
    view.centre_on(0, 60)
    before = painted(view)
    key(working, Qt.Key.Key_W, SHIFT)
    shown = painted(view)
    assert not np.array_equal(shown, before)
    left, middle = view.to_widget(-5 * SIDE, 6 * SIDE), view.to_widget(0, 6 * SIDE)
    own = view.to_widget(15 * SIDE, 6 * SIDE)
    assert left.x() < middle.x()
    hand.click(view, hand.cell(6, -5))
    assert plane(working, "things", "cells")[6, 15]
    after = painted(view)
    copy = after[int(left.y()) : int(left.y()) + 2 * SIDE, int(left.x()) : int(left.x()) + 2 * SIDE]
    assert not np.array_equal(copy, shown[int(left.y()) : int(left.y()) + 2 * SIDE, int(left.x()) :][:, : 2 * SIDE])
    assert own.x() > middle.x()


def test_the_size_of_what_is_dragged_is_written_at_the_pointer(working, hand):
    view = working.ground.view
    view.set_zoom(4)
    working.session.choose(layer_id="areas")
    working.ground.choose_tool("area")
    tool = view.tool
    assert tool.measured is None
    QTest.mousePress(view, LEFT, NONE, hand.cell(3, 3).toPoint())
    hand.move(view, hand.cell(6, 8), LEFT)
    start, end = tool.measured
    assert (int(end[1]) - int(start[1]) + 1, int(end[0]) - int(start[0]) + 1) == (6, 4)
    view.grab()
    QTest.mouseRelease(view, LEFT, NONE, hand.cell(6, 8).toPoint())
    assert tool.measured is None


def test_symmetry_is_chosen_by_key_and_shown_with_its_axis(working, hand):
    view = working.ground.view
    working.session.choose(layer_id="things", tile=tile(3, 2))
    working.ground.choose_tool("draw")
    before = painted(view)
    key(working, Qt.Key.Key_M, SHIFT)
    assert working.session.choices.symmetry == "across"
    assert not np.array_equal(painted(view), before)
    hand.click(view, hand.cell(4, 3))
    cells = plane(working, "things", "cells")
    assert (cells[4, 3] > 0, cells[4, 16] > 0) == (True, True)
    assert cells[4, 3] != cells[4, 16]
    for _ in range(5):
        key(working, Qt.Key.Key_M, SHIFT)
    assert working.session.choices.symmetry == "none"


def test_a_split_view_shows_two_places_and_both_are_painted_on(working, hand):
    pane, view, session = working.ground, working.ground.view, working.session
    session.choose(layer_id="things", tile=tile(3, 2))
    pane.choose_tool("draw")
    view.set_zoom(4)
    view.centre_on(30, 30)
    key(working, Qt.Key.Key_7, Qt.KeyboardModifier.ControlModifier)
    second = pane.second
    assert second.isVisible()
    second.setFocus()
    QTest.keyClick(second, Qt.Key.Key_Plus, Qt.KeyboardModifier.ControlModifier)
    assert second.zoom > view.zoom
    second.centre_on(110, 80)
    assert second.visible_content() != view.visible_content()
    before = painted(view)
    hand.click(second, second.point(10.5, 13.5))
    assert plane(working, "things", "cells")[10, 13]
    view.centre_on(110, 80)
    assert not np.array_equal(painted(view), before)
    hand.click(view, view.point(9.5, 12.5))
    assert plane(working, "things", "cells")[9, 12]
    pane.choose_tool("erase")
    hand.click(second, second.point(10.5, 13.5))
    assert not plane(working, "things", "cells")[10, 13]
    key(working, Qt.Key.Key_7, Qt.KeyboardModifier.ControlModifier)
    assert not second.isVisible()
    session.choose(layer_id="areas")
    working.undo()
    key(working, Qt.Key.Key_7, Qt.KeyboardModifier.ControlModifier)
    assert second.isVisible()


def test_a_part_that_is_taken_by_its_name_is_brought_into_view(window, tmp_path):
    picture, things = things_below(sheet_of_tiles(9, 20, 16, 3, 2, seed=1), (0, 0, 0, 0), seed=1)
    (tmp_path / "trees.png").write_bytes(png(picture))
    bring(window, tmp_path / "trees.png")
    panel = window.panels["sheet"]
    panel.view.set_zoom(4)
    panel.view.centre_on(40, 40)
    lowest = max(things, key=lambda thing: thing.y + thing.height)
    assert not panel.view.visible_content().contains(QRectF(*lowest))
    press(panel, "pieces")
    assert window.session.choices.cut_id == "pieces"
    assert panel.view.visible_content().top() <= lowest.y
    assert panel.view.visible_content().bottom() >= lowest.y + lowest.height


@pytest.mark.parametrize("other", [Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton])
def test_a_stroke_goes_on_until_its_own_button_is_let_go(working, hand, other):
    view, session = working.ground.view, working.session
    session.choose(layer_id="things", tile=tile(3, 2))
    working.ground.choose_tool("draw")
    before = plane(working, "things", "cells").copy()

    def at(column: int) -> QPoint:
        return hand.cell(5, column).toPoint()

    QTest.mousePress(view, LEFT, NONE, at(2))
    QTest.mousePress(view, other, NONE, at(2))
    QTest.mouseRelease(view, other, NONE, at(2))
    hand.move(view, hand.cell(5, 4), LEFT)
    assert plane(working, "things", "cells")[5, 2:5].all()
    QTest.mousePress(view, other, NONE, at(4))
    QTest.mouseRelease(view, LEFT, NONE, at(4))
    assert session.document.gesture is None, "the stroke has ended"
    laid = plane(working, "things", "cells").copy()
    QTest.mouseRelease(view, other, NONE, at(4))
    assert np.array_equal(plane(working, "things", "cells"), laid)
    working.undo()
    assert np.array_equal(plane(working, "things", "cells"), before)


def test_a_block_that_is_put_away_amid_a_stroke_is_not_laid(working, hand):
    view, session = working.ground.view, working.session
    session.choose(layer_id="things", tile=tile(3, 2))
    working.ground.choose_tool("draw")
    hand.on_ground((1, 1))
    working.ground.choose_tool("select")
    hand.on_ground((1, 1), (2, 2))
    working.commands.action("Copy what is selected").trigger()
    working.ground.choose_tool("place")
    before = plane(working, "things", "cells").copy()
    QTest.mousePress(view, LEFT, NONE, hand.cell(8, 8).toPoint())
    assert not np.array_equal(plane(working, "things", "cells"), before)
    session.choose(lifted=None)
    hand.move(view, hand.cell(10, 10), LEFT)
    QTest.mouseRelease(view, LEFT, NONE, hand.cell(10, 10).toPoint())
    assert np.array_equal(plane(working, "things", "cells"), before)
