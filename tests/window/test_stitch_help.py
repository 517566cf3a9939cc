"""The table of neighbourhoods, the proof of stitches, and stitches that are proposed, in the window."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialogButtonBox, QInputDialog, QSplitter

from knitground.app.stitches.proposals import Proposals, from_example
from knitground.app.widgets import ChoiceBox, Tick
from knitground.core.edits.layers import remove_layer
from knitground.core.edits.selecting import boxed
from knitground.core.edits.sets import add_stitch_set
from knitground.core.edits.stitching import put_set, with_chart
from knitground.core.edits.thing_notes import add_kind
from knitground.core.stitches.charts import chart_of
from knitground.core.stitches.rules import Course, new_stitch
from knitground.core.tiles.notes import Property, TileNotes
from making import poke, rectangle, tile, with_stitches
from window.finding import entry, named, open_menu, press, says


@pytest.fixture
def planned(working):
    working.session.document.paint("p", "ground", "walls", "plan", rectangle((15, 20), (3, 3), (8, 12)), 1)
    working.session.set_stage("stitches")
    return working


def page(window):
    panel = window.panels["stitches"]
    panel.pages.show_page("All cells")
    return panel.table


def stitches(window):
    return window.session.stitch_set.stitches


def test_the_table_shows_every_neighbourhood_and_leads_to_it(planned, qtbot):
    table = page(planned)
    qtbot.waitUntil(lambda: len(table.entries) == 9)
    assert "9 neighbourhoods, 0 without a stitch" in says(table)
    assert table.entries[0].found.neighbourhood.cells == 4 * 8
    QTest.mouseClick(table.entries[0], Qt.MouseButton.LeftButton)
    assert planned.ground.view._mark == (4, 4)


def test_what_no_stitch_takes_comes_first_and_a_click_makes_a_stitch_of_it(planned, qtbot):
    session = planned.session
    put_set(session.document, "x", with_stitches(session.stitch_set, stitches(planned)[0]))
    table = page(planned)
    qtbot.waitUntil(lambda: "6 without a stitch" in says(table))
    first = table.entries[0].found.neighbourhood
    assert first.untaken
    session.choose(tile=tile(7, 3))
    QTest.mouseClick(table.entries[0], Qt.MouseButton.LeftButton)
    press(table, "Make a stitch of it")
    made = session.stitch
    assert made.pieces[0].tile == tile(7, 3)
    code = session.derived.knitted("ground").codes("walls", session.ground.board.whole)[first.row, first.column]
    assert session.document.palette.ref(int(code)) == tile(7, 3)
    qtbot.waitUntil(lambda: "5 without a stitch" in says(table))


def test_the_proof_shows_the_stitches_of_the_set_at_hand(planned):
    planned.ground.change_over(to_proof=True)
    assert planned.ground.view.shows_proof
    assert planned.ground.view.knitted.ground.name == "Walls"
    before = planned.ground.view.knitted.ground
    planned.panels["stitches"].list.setCurrentRow(0)
    planned.panels["stitches"].remove()
    assert planned.ground.view.knitted.ground != before, "the proof follows its set"
    planned.session.set_stage("joins")
    assert planned.ground.view.knitted.ground.name != "Walls" or not planned.ground.view.shows_proof


def test_stitches_are_taken_from_an_example_one_by_one(planned, hand):
    session = planned.session
    panel = planned.panels["stitches"]
    poke(session.document, "things", "cells", np.s_[3:9, 3:13], session.document.palette.code(tile(2, 3)))
    poke(session.document, "things", "cells", np.s_[8, 3:13], session.document.palette.code(tile(3, 3)))
    assert from_example(panel, session, list) is None, "nothing is selected"
    session.select(boxed(session.ground.board, (2.5, 2.5), (9.5, 13.5)))
    session.choose(layer_id="things")
    press(panel, "Stitches out of an example")
    entry(open_menu(), "The example that is selected").trigger()
    dialog = panel.findChild(Proposals)
    assert len(dialog.rows) == 2
    dialog._list.setCurrentRow(0)
    assert session.selected.shape.mask.sum() in (10, 50), "its cells are selected"
    named(dialog, Tick, "Stitch 2 counts").click()
    before = len(stitches(planned))
    dialog.findChild(QDialogButtonBox).accepted.emit()
    assert len(stitches(planned)) == before + 1
    planned.undo()
    assert len(stitches(planned)) == before


def test_the_tiles_of_a_join_set_become_stitches(planned):
    panel = planned.panels["stitches"]
    press(panel, "Stitches out of an example")
    entry(open_menu(), "The tiles of “Lines” for Line").trigger()
    dialog = panel.findChild(Proposals)
    assert len(dialog.rows) == 15
    dialog.findChild(QDialogButtonBox).accepted.emit()
    assert len(stitches(planned)) == 17


def test_a_mark_is_taken_out_of_plans_and_charts(planned, monkeypatch):
    panel, session = planned.panels["stitches"], planned.session
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Door", True))
    press(panel, "Add a mark")
    session.document.paint("p", "ground", "walls", "plan", rectangle((15, 20), (3, 3), (4, 4)), 2)
    panel._remove_mark(1)
    assert [mark.name for mark in session.stitch_set.marks] == ["Door"]
    assert set(np.unique(np.asarray(session.document.state.planes["ground"]["walls"]["plan"])).tolist()) == {0, 1}
    assert stitches(planned)[0].charts[0].rows == (". . .", ". . .", ". - .")
    panel._remove_mark(1)
    assert [mark.name for mark in session.stitch_set.marks] == ["Door"], "one mark stays"
    planned.undo()
    assert [mark.name for mark in session.stitch_set.marks] == ["Wall", "Door"]


def test_a_set_that_lays_a_layer_stays_and_else_it_goes(planned):
    panel, session = planned.panels["stitches"], planned.session
    panel.remove_set()
    assert len(session.document.project.stitch_sets) == 1
    remove_layer(session.document, "ground", "walls")
    panel.remove_set()
    assert session.document.project.stitch_sets == ()


def test_which_layer_a_view_sees_can_be_chosen(planned):
    panel, session = planned.panels["stitches"], planned.session
    planned.panels["stitches"].list.setCurrentRow(1)
    press(panel, "Let charts look")
    entry(open_menu(), "The tiles on “Things”").trigger()
    open_menu().close()
    box = named(panel, ChoiceBox, "Layer of this ground that the view sees")
    assert box.currentText() == "sees Things"
    box.activated.emit(box.findText("sees Lines"))
    assert session.ground.layer("walls").sees == {"Things": "lines"}
    box.activated.emit(box.findText("sees Walls"))
    assert session.ground.layer("walls").sees == {"Things": "lines"}, "it can't see its own tiles"


def test_a_new_layer_to_lay_onto_is_there_at_once(planned, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Tops", True))
    panel, session = planned.panels["stitches"], planned.session
    planned.panels["stitches"].list.setCurrentRow(1)
    panel.pages.show_page("Lays")
    box = named(panel, ChoiceBox, "Layer that it is laid onto")
    box.activated.emit(box.findText("another…"))
    made = next(one for one in session.ground.layers if one.name == "Tops")
    laid = session.derived.knitted("ground").codes(made.id, session.ground.board.whole)
    assert (laid[3:8, 3:13] == session.document.palette.code(tile(1, 2))).all()
    assert not any("no layer shows" in one.sentence for one in session.findings)


def test_courses_are_copied_with_stitches_of_their_own(planned, qtbot):
    panel = planned.panels["stitches"]
    press(panel, "Courses:")
    entry(open_menu(), "Copy this course").trigger()
    open_menu().close()
    courses = planned.session.stitch_set.courses
    assert [course.name for course in courses] == ["Stitches", "Stitches copy"]
    assert len({stitch.id for stitch in stitches(planned)}) == 4
    assert [one.charts for one in courses[0].stitches] == [one.charts for one in courses[1].stitches]


def test_signs_name_tiles_tags_and_properties(planned, monkeypatch):
    panel, session = planned.panels["stitches"], planned.session
    press(panel, "Let charts look")
    entry(open_menu(), "The tiles on “Things”").trigger()
    open_menu().close()
    notes = {tile(1, 3): TileNotes(tags=("wet",), properties={"deep": Property("yes-no", True)})}
    session.document.define("say", replace(session.document.project, tiles=notes))
    session.choose(tile=tile(5, 3))

    def add(what: str, typed: str) -> None:
        monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: (typed, True))
        press(panel, "Let charts look")
        entry(open_menu(), what).trigger()
        open_menu().close()

    add("Add a sign for the tile at hand", "Stone")
    add("Add a sign for a tag", "wet")
    add("Add a sign for a property", "deep = yes")
    add("Add a sign for a property", "deep = perhaps")
    signs = session.stitch_set.views[0].signs
    assert [sign.name for sign in signs] == ["Stone", "wet", "deep = yes"], "no tile says perhaps"
    panel.chart._take("1")
    session.choose(tile=tile(6, 3))
    add("Let “Stone” name the tile at hand, too", "")
    assert session.stitch_set.views[0].signs[0].tiles == (tile(5, 3), tile(6, 3))
    panel.list.setCurrentRow(0)
    panel.chart._put(lambda one: with_chart(one, chart_of((("1", "2", "3"),), "Things")), "x")
    panel.chart._take("1")
    add("Take the sign “Stone” out", "")
    assert session.stitch_set.stitches[0].charts[1].rows == (". 1 2",)


def test_a_tile_can_be_laid_as_a_thing(planned):
    panel, session = planned.panels["stitches"], planned.session
    add_kind(session.document, "Chest")
    panel.list.setCurrentRow(1)
    panel.pages.show_page("Lays")
    box = named(panel, ChoiceBox, "Kind of things that it is laid as")
    box.activated.emit(box.findText("a Chest"))
    assert stitches(planned)[1].pieces[0].thing == "chest"


def test_courses_are_dragged_and_moved_by_keys(planned):
    panel, session = planned.panels["stitches"], planned.session
    names = ("Walls", "Doors", "Dressing")
    first = session.stitch_set.courses[0].stitches
    courses = (Course(names[0], first[:1]), Course(names[1], first[1:]), Course(names[2]))
    put_set(session.document, "x", replace(session.stitch_set, courses=courses))
    listed = panel.list

    def order() -> list[str]:
        return [course.name for course in session.stitch_set.courses]

    def drop(source: int, line: int, *, lower: bool) -> None:
        listed.setCurrentRow(source)
        data = listed.model().mimeData([listed.indexFromItem(listed.item(source))])
        room = listed.visualItemRect(listed.item(line))
        at = QPointF(room.left() + 20, room.bottom() - 2 if lower else room.top() + 2)
        none, buttons = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
        listed.dropEvent(QDropEvent(at, Qt.DropAction.MoveAction, data, buttons, none))

    # The lines: Walls, a stitch, Doors, a stitch, Dressing.
    drop(4, 0, lower=False)
    assert order() == ["Dressing", "Walls", "Doors"]
    planned.undo()
    drop(0, 3, lower=True)
    assert order() == ["Doors", "Walls", "Dressing"]
    assert [len(course.stitches) for course in session.stitch_set.courses] == [1, 1, 0]
    listed.setCurrentRow(0)
    listed.setFocus()
    QTest.keyClick(listed, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert order() == ["Walls", "Doors", "Dressing"]


def test_a_long_list_is_there_at_once_and_its_lines_follow(planned, qtbot):
    window, panel = planned, planned.panels["stitches"]
    session = window.session
    many = [replace(new_stitch(f"many-{n}", 1, tile(n % 16, 2)), name=f"No. {n}") for n in range(90)]
    put_set(session.document, "many", with_stitches(session.stitch_set, *many))
    assert panel.list.count() == 90
    assert 5 < len(panel.list.rows) < 90
    bottom = panel.list.viewport().height()
    seen = [n for n in range(90) if panel.list.visualItemRect(panel.list.item(n)).top() < bottom]
    assert all(panel.list.itemWidget(panel.list.item(n)) for n in seen), "those in view come first"
    panel.list.setCurrentRow(80)
    assert session.stitch.name == "No. 80"
    qtbot.waitUntil(lambda: len(panel.list.rows) == 90, timeout=5000)
    lines = [says(line) for line in panel.list.rows]
    assert all(f"{number + 1}" in line.splitlines() for number, line in enumerate(lines))
    put_set(session.document, "few", with_stitches(session.stitch_set, *many[:3]))
    qtbot.waitUntil(lambda: [line.stitch.name for line in panel.list.rows] == ["No. 0", "No. 1", "No. 2"])


def test_the_sheet_has_the_room_that_few_stitches_leave_until_the_parts_are_moved(window, qtbot):
    session = window.session
    session.set_stage("stitches")
    panel = window.panels["stitches"]
    qtbot.waitUntil(lambda: panel.view.height() > panel.height() * 0.7)
    set_id = add_stitch_set(session.document, "Fence", ("Fence",))
    session.choose(stitch_set_id=set_id)
    heights = []
    for count in (1, 2, 3):
        panel.add()
        qtbot.waitUntil(
            lambda n=count: panel.list.visualItemRect(panel.list.item(n - 1)).bottom() < panel.list.height()
        )
        heights.append(panel.view.height())
    assert heights[0] > heights[1] > heights[2] > 0.2 * panel.height()
    splitter = panel.findChild(QSplitter)
    handle = splitter.handle(1)
    QTest.mousePress(handle, Qt.MouseButton.LeftButton, pos=handle.rect().center())
    QTest.mouseMove(handle, handle.rect().center() + QPoint(0, 30))
    QTest.mouseRelease(handle, Qt.MouseButton.LeftButton, pos=handle.rect().center() + QPoint(0, 30))
    sizes = splitter.sizes()
    panel.add()
    QApplication.processEvents()
    assert splitter.sizes() == sizes
