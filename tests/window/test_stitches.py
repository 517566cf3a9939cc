"""The stage of stitches: its list, its charts, what is laid and when, and how it is seen on the ground."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDoubleSpinBox, QInputDialog, QLabel, QLineEdit, QSpinBox

from knitground.app.terrain_list import TerrainButton
from knitground.app.widgets import ChoiceBox, Tick
from knitground.core.edits.selecting import boxed
from knitground.core.grid.rect import CellRect as Cells
from knitground.core.stitches.rules import Piece
from making import rectangle, tile
from window.finding import entry, named, open_menu, press, says

ALT, SHIFT = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier


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


def chart(window, number: int) -> tuple[str, ...]:
    return stitches(window)[number].charts[0].rows


def editor(window):
    return window.panels["stitches"].chart.editor


def take(window, number: int) -> None:
    """Chooses a stitch in the list."""
    window.panels["stitches"].list.setCurrentRow(number)


def test_a_drag_over_the_chart_writes_the_sign_in_hand_and_the_right_button_clears(stitching, hand):
    take(stitching, 1)
    chosen = editor(stitching)
    way = [chosen.cell_rect(step).center() for step in ((-1, -1), (-1, 0), (-1, 1))]
    hand.drag(chosen, *way)
    assert chart(stitching, 1) == ("V V V", ". 1 .", ". . .")
    hand.click(chosen, way[1], Qt.MouseButton.RightButton)
    assert chart(stitching, 1)[0] == "V . V"
    stitching.undo()
    stitching.undo()
    assert chart(stitching, 1)[0] == ". . ."


def test_signs_are_taken_in_hand_from_the_palette(stitching, hand):
    take(stitching, 1)
    for name, word in (("another", "-"), ("nothing", "0"), ("off map", "x"), ("Wall", "1")):
        press(stitching.panels["stitches"], name)
        hand.click(editor(stitching), editor(stitching).cell_rect((1, 0)).center())
        assert chart(stitching, 1)[2] == f". {word} ."


def test_the_ground_follows_a_changed_chart_at_once(stitching, hand):
    take(stitching, 0)
    before = codes(stitching)
    hand.click(editor(stitching), editor(stitching).cell_rect((1, 0)).center(), Qt.MouseButton.RightButton)
    assert chart(stitching, 0) == (". . .", ". 1 .", ". . .")
    after = codes(stitching)
    assert not np.array_equal(before, after)
    assert (after[3:9, 3:13] == stitching.session.document.palette.code(tile(0, 2))).all()


def test_charts_are_written_by_keyboard_alone(stitching, hand):
    take(stitching, 1)
    chosen = editor(stitching)
    for key in (Qt.Key.Key_Up, Qt.Key.Key_Right):
        hand.key(chosen, key)
    for typed, row in (("v", ". . V"), ("-", ". . -"), ("0", ". . 0"), ("x", ". . x"), ("w", ". . 1"), ("!", ". . !1")):
        hand.key(chosen, typed)
        assert chart(stitching, 1)[0] == row
    hand.key(chosen, "0")
    chosen.word = "1"
    hand.key(chosen, "+")
    assert chart(stitching, 1)[0] == ". . 0/1"
    hand.key(chosen, Qt.Key.Key_Delete)
    assert chart(stitching, 1)[0] == ". . ."


def test_a_chart_grows_by_its_border_and_by_keys(stitching, hand):
    take(stitching, 0)
    chosen = editor(stitching)
    hand.key(chosen, Qt.Key.Key_Right, SHIFT)
    assert chart(stitching, 0) == (". . . . .", ". . 1 . .", ". . - . .")
    room = chosen.room()
    hand.drag(chosen, QPointF(room.center().x(), room.bottom() + 3), QPointF(room.center().x(), room.bottom() + 40))
    assert len(chart(stitching, 0)) == 5
    assert chart(stitching, 0)[3] == ". . - . ."
    hand.key(chosen, Qt.Key.Key_Left, SHIFT)
    hand.key(chosen, Qt.Key.Key_Up, SHIFT)
    assert chart(stitching, 0) == (". . .", ". 1 .", ". - .")


def test_the_order_counts_and_alt_with_arrows_changes_it(stitching, qtbot):
    listed = stitching.panels["stitches"].list
    first, second = stitches(stitching)
    before = codes(stitching)
    take(stitching, 1)
    listed.setFocus()
    QTest.keyClick(listed, Qt.Key.Key_Up, ALT)
    assert stitches(stitching) == (second, first)
    assert not np.array_equal(codes(stitching), before)
    qtbot.waitUntil(lambda: any("never fires, hidden by 1" in one.text() for one in listed.findChildren(QLabel)))
    assert "dead stitch" in [finding.kind for finding in stitching.session.findings]
    QTest.keyClick(listed, Qt.Key.Key_Down, ALT)
    assert stitches(stitching) == (first, second)
    assert np.array_equal(codes(stitching), before)


def test_lines_are_dragged_into_another_order(stitching):
    listed = stitching.panels["stitches"].list
    first, second = stitches(stitching)
    take(stitching, 0)
    data: QMimeData = listed.model().mimeData([listed.indexFromItem(listed.item(0))])
    at = listed.visualItemRect(listed.item(1)).bottomLeft()
    place = QPointF(at.x() + 20, at.y() - 2)
    none, buttons = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
    listed.dropEvent(QDropEvent(place, Qt.DropAction.MoveAction, data, buttons, none))
    assert stitches(stitching) == (second, first)
    stitching.undo()
    assert stitches(stitching) == (first, second)


def test_stitches_are_added_copied_switched_off_and_taken_out(stitching):
    panel = stitching.panels["stitches"]
    take(stitching, 0)
    press(panel, "Add a copy")
    assert stitches(stitching)[1].charts == stitches(stitching)[0].charts
    assert stitching.session.choices.stitch_id == stitches(stitching)[1].id
    panel.add()
    assert len(stitches(stitching)) == 4
    assert stitches(stitching)[2].charts[0].rows == (". . .", ". 1 .", ". . .")
    panel.list.setFocus()
    QTest.keyClick(panel.list, Qt.Key.Key_Delete)
    assert len(stitches(stitching)) == 3
    before = codes(stitching)
    for number in (1, 2):
        named(panel, Tick, f"Stitch {number} counts").click()
    assert [one.active for one in stitches(stitching)] == [False, False, True]
    assert not np.array_equal(codes(stitching), before)


def test_courses_are_added_switched_off_and_moved(stitching, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Dressing", True))
    panel = stitching.panels["stitches"]
    take(stitching, 1)
    press(panel, "Courses:")
    entry(open_menu(), "Add a course below").trigger()
    open_menu().close()
    assert [course.name for course in stitching.session.stitch_set.courses] == ["Stitches", "Dressing"]
    panel.list.setFocus()
    QTest.keyClick(panel.list, Qt.Key.Key_Down, ALT)
    assert [len(course.stitches) for course in stitching.session.stitch_set.courses] == [1, 1]
    named(panel, Tick, "Course Dressing runs").click()
    assert not stitching.session.stitch_set.courses[1].active
    assert "Course 2: Dressing" in says(panel)


def test_a_click_on_the_sheet_gives_the_chosen_stitch_its_tile(stitching, hand):
    panel = stitching.panels["stitches"]
    take(stitching, 1)
    hand.click(panel.view, panel.view.tile_on_widget(4, 1).center())
    assert stitches(stitching)[1].pieces == (Piece(tile(4, 1)),)
    assert stitching.session.document.palette.code(tile(4, 1)) in codes(stitching)


def test_a_drag_on_the_sheet_makes_a_block_and_so_does_a_selection_of_the_ground(stitching, hand):
    panel, session = stitching.panels["stitches"], stitching.session
    take(stitching, 1)
    hand.drag(panel.view, *(panel.view.tile_on_widget(*place).center() for place in ((4, 1), (5, 2))))
    assert stitches(stitching)[1].pieces[0].rows == ("1 2", "3 4")
    panel.pages.show_page("Lays")
    stitching.undo()
    session.select(boxed(session.ground.board, (8.5, 3.5), (8.5, 4.5)))
    press(panel, "Block from selection")
    assert stitches(stitching)[1].pieces[0].rows == ("1 1",)
    session.select(None)
    press(panel, "Block from selection")
    assert stitches(stitching)[1].pieces[0].rows == ("1 1",), "without a selection nothing changes"


def test_pieces_are_added_moved_turned_and_laid_onto_another_layer(stitching, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Tops", True))
    panel = stitching.panels["stitches"]
    take(stitching, 1)
    panel.pages.show_page("Lays")
    press(panel, "Lay something else besides")
    assert len(stitches(stitching)[1].pieces) == 2
    named(panel, QSpinBox, "Columns to the right").setValue(2)
    named(panel, QSpinBox, "Rows down").setValue(-1)
    press(panel, "Lay the tile turned")
    box = named(panel, ChoiceBox, "Layer that it is laid onto")
    box.activated.emit(box.findText("another…"))
    piece = stitches(stitching)[1].pieces[1]
    assert (piece.across, piece.down, piece.orientation, piece.onto) == (2, -1, 1, "Tops")
    assert stitching.session.stitch_set.parts == ("Tops",)
    press(panel, "Take this piece out")
    assert len(stitches(stitching)[1].pieces) == 1


def test_chance_places_and_turns_are_set(stitching):
    panel = stitching.panels["stitches"]
    take(stitching, 0)
    panel.pages.show_page("When")
    named(panel, QDoubleSpinBox, "Chance").setValue(25)
    named(panel, QSpinBox, "Cells apart", shown=False).setValue(3)
    named(panel, QSpinBox, "Every so many rows").setValue(2)
    for name in ("chequered", "quarter turns", "left-right", "tiles as drawn", "not over blocks"):
        named(panel, Tick, name).click()
    one = stitches(stitching)[0]
    assert (one.chance, one.apart, one.places.rows, one.places.chequered) == (25, 3, 2, True)
    assert (one.turns, one.mirrors_x, one.mirrors_y, one.as_drawn, one.spares_blocks) == (True, True, False, True, True)
    assert "25%" in says(panel)


def test_charts_look_at_other_layers(stitching, hand):
    panel = stitching.panels["stitches"]
    take(stitching, 1)
    press(panel, "Let charts look")
    entry(open_menu(), "What “Areas” paints").trigger()
    open_menu().close()
    assert [view.of for view in stitching.session.stitch_set.views] == ["areas"]
    press(panel, "Terrain B")
    hand.click(editor(stitching), editor(stitching).cell_rect((0, 0)).center())
    assert [one.of for one in stitches(stitching)[1].charts] == ["", "Areas"]
    assert (codes(stitching)[3:8, 3:13] == -1).all(), "no cell bears the second terrain yet"
    stitching.session.document.paint("p", "ground", "areas", "corners", rectangle((16, 21), (3, 3), (5, 5)), 2)
    assert (codes(stitching)[3:5, 3:5] > 0).all()
    assert (codes(stitching)[5, 6:13] == -1).all()


def test_a_set_begins_with_a_mark_and_takes_more(stitching, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Hedge", True))
    panel = stitching.panels["stitches"]
    press(panel, "New stitch set")
    assert stitching.session.stitch_set.name == "Hedge"
    press(panel, "Add a mark")
    assert [mark.name for mark in stitching.session.stitch_set.marks] == ["Hedge", "Hedge"], (
        "a set begins with a mark of its name"
    )
    QTest.mouseClick(panel.findChildren(TerrainButton)[1], Qt.MouseButton.LeftButton)
    panel.add()
    assert stitches(stitching)[0].charts[0].rows[1] == ". 2 ."


def test_the_pointer_on_the_ground_tells_which_stitch_lies_there_and_why_others_do_not(stitching, hand, qtbot):
    panel = stitching.panels["stitches"]
    take(stitching, 0)
    hand.move(stitching.ground.view, hand.cell(5, 6))
    qtbot.waitUntil(lambda: "laid what lies under the pointer" in says(panel))
    lines = [line for row in panel.list.rows for line in [says(row)]]
    assert "the framed sign does not fit here" in lines[0]
    assert editor(stitching).wrong == (1, 0)
    hand.move(stitching.ground.view, hand.cell(8, 6))
    qtbot.waitUntil(lambda: "laid what lies" in says(panel.list.rows[0]))
    assert editor(stitching).wrong is None


def test_where_the_chosen_stitch_fires_is_outlined_and_where_another_does_instead_too(stitching):
    view, session = stitching.ground.view, stitching.session
    view.set_zoom(4)

    def picture() -> np.ndarray:
        view.tool.hover(None)
        image = view.grab().toImage().convertToFormat(view.grab().toImage().Format.Format_RGBA8888)
        return np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4).copy()

    session.choose(stitch_id="none")
    view.overlays, kept = [], view.overlays
    plain = picture()
    view.overlays = kept
    for number, cell, other in ((0, (8, 5), (5, 5)), (1, (5, 5), (0, 0))):
        session.choose(stitch_id=stitches(stitching)[number].id)
        drawn = picture() != plain
        box, free = (view.cells_rect(Cells(*one, 1, 1)).toRect() for one in (cell, other))
        assert drawn[box.top() : box.bottom(), box.left() : box.right()].any(), number
        assert not drawn[free.top() : free.bottom(), free.left() : free.right()].any(), number
    # The second fits in the last row, too, where the first fires.
    box = view.cells_rect(Cells(8, 5, 1, 1)).toRect()
    assert drawn[box.top() : box.bottom(), box.left() : box.right()].any()


def test_what_can_not_be_is_told_and_changes_nothing(stitching):
    panel, before = stitching.panels["stitches"], stitching.session.stitch_set
    panel._put(replace(before, otherwise={7: Piece()}), "x")
    assert stitching.session.stitch_set is before


def test_the_stage_takes_a_layer_in_hand_that_shows_it(demo):
    demo.session.choose(layer_id="cover")
    demo.session.set_stage("stitches")
    assert demo.session.choices.layer_id == "walls"
    demo.session.set_stage("joins")
    assert demo.session.choices.layer_id == "cover"
    demo.session.choose(layer_id="gutters")
    assert demo.session.choices.join_set_id == "gutters"
    demo.session.choose(join_set_id="cover")
    assert demo.session.choices.layer_id == "cover", "another set brings its layer along, as a layer does its set"


def test_what_nothing_fits_gets_what_is_laid_otherwise(stitching):
    panel, session = stitching.panels["stitches"], stitching.session
    for _ in range(2):
        panel.remove()
    assert (codes(stitching)[3:9, 3:13] == -1).all()
    session.choose(tile=tile(6, 3))
    press(panel, "What cells of this mark get")
    entry(open_menu(), "Lay the tile at hand").trigger()
    open_menu().close()
    assert (codes(stitching)[3:9, 3:13] == session.document.palette.code(tile(6, 3))).all()
    press(panel, "What cells of this mark get")
    entry(open_menu(), "Leave a gap").trigger()
    open_menu().close()
    assert session.stitch_set.otherwise == {}


def test_a_chart_is_pasted_off_the_selected_cells(stitching, hand):
    take(stitching, 1)
    session = stitching.session
    session.select(boxed(session.ground.board, (2.5, 2.5), (4.5, 4.5)))
    hand.key(editor(stitching), "v", Qt.KeyboardModifier.ControlModifier)
    assert chart(stitching, 1) == ("0 0 0", "0 1 1", "0 1 1")
    session.select(boxed(session.ground.board, (0.5, 0.5), (12.5, 12.5)))
    press(stitching.panels["stitches"], "Like selection")
    assert chart(stitching, 1) == ("0 0 0", "0 1 1", "0 1 1"), "13 x 13 cells are too many for a chart"


def test_what_is_laid_in_one_orientation_can_be_named(stitching, hand):
    panel = stitching.panels["stitches"]
    take(stitching, 0)
    panel.pages.show_page("When")
    named(panel, Tick, "quarter turns").click()
    panel.pages.show_page("Lays")
    ways = named(panel, ChoiceBox, "Orientation that it is laid in")
    assert ways.count() == 4
    ways.activated.emit(ways.findText("turned by a quarter"))
    hand.click(panel.view, panel.view.tile_on_widget(9, 3).center())
    one = stitches(stitching)[0]
    assert one.pieces[0].tile == tile(0, 2)
    assert one.forms == {1: (Piece(tile(9, 3)),)}
    # The sign below is to the left after a quarter turn: the left border of the plan.
    assert (codes(stitching)[4:8, 3] == stitching.session.document.palette.code(tile(9, 3))).all()


def test_stitches_of_a_group_fold_together(stitching, qtbot):
    panel = stitching.panels["stitches"]
    for number in (0, 1):
        take(stitching, number if number == 0 else 2)
        panel.pages.show_page("When")
        field = named(panel, QLineEdit, "Group of the stitch")
        field.setText("Fronts")
        field.editingFinished.emit()
    assert [one.group for one in stitches(stitching)] == ["Fronts", "Fronts"]
    assert [row.isVisible() for row in panel.list.rows] == [True, True]
    press(panel.list, "Fold the stitches of this group")
    qtbot.waitUntil(lambda: not any(row.isVisible() for row in panel.list.rows))
    press(panel.list, "Show the stitches of this group")
    qtbot.waitUntil(lambda: all(row.isVisible() for row in panel.list.rows))


def test_rubbing_out_a_block_takes_away_the_mark_that_lays_it(stitching, hand):
    session = stitching.session
    panel = stitching.panels["stitches"]
    take(stitching, 0)
    panel.remove()
    block = replace(stitches(stitching)[0], pieces=(Piece(tiles=(tile(3, 3),), rows=("1 1 1",)),))
    panel._exchange(block, "x")
    session.document.paint("p", "ground", "walls", "plan", rectangle((15, 20), (3, 3), (8, 12)), 0)
    session.document.paint("p", "ground", "walls", "plan", rectangle((15, 20), (5, 5), (5, 5)), 1)
    assert (codes(stitching)[5, 5:8] > 0).all()
    session.choose(layer_id="walls")
    stitching.ground.choose_tool("erase")
    hand.on_ground((5, 7))
    assert not (codes(stitching) > 0).any()
    stitching.undo()
    assert (codes(stitching)[5, 5:8] > 0).all(), "one step"
