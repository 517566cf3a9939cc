"""Collision shapes in the real window."""

from dataclasses import replace

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QLineEdit, QToolButton

from knitground.app.sheet.shape_kinds_dialog import ShapeKindsDialog
from knitground.core.edits.cuts import set_cut
from knitground.core.edits.notes import set_collision
from knitground.core.sheet.cut import Cell
from knitground.core.tiles.notes import Point
from making import tile
from window.choosing import click
from window.finding import in_dialog, press, says

LEFT = Qt.MouseButton.LeftButton
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def draw(hand, view, *points: tuple[float, float]) -> None:
    for x, y in points:
        hand.click(view, spot(view, x, y))


def spot(view, x: float, y: float) -> QPointF:
    return view.to_widget(Point(x, y))


def test_a_collision_shape_is_drawn_dragged_mirrored_and_copied(working, hand, card, notes):
    click(working, hand, 1, 1)
    card.pages.show_page("Blocks")
    QApplication.processEvents()
    page, view = card.shape, card.shape.view
    draw(hand, view, (1, 1), (6, 1), (6, 4))
    assert notes(1, 1).collision == "none"
    draw(hand, view, (1, 1))
    assert notes(1, 1).collision == (((1, 1), (6, 1), (6, 4)),)
    hand.drag(view, spot(view, 6, 4), spot(view, 5, 6), spot(view, 3.4, 7.2))
    assert notes(1, 1).collision == (((1, 1), (6, 1), (3, 7)),)
    press(page, "Half pixels")
    hand.drag(view, spot(view, 3, 7), spot(view, 3.4, 7.4))
    assert notes(1, 1).collision[0][2] == (3.5, 7.5)
    press(page, "Mirror the shape left to right")
    assert notes(1, 1).collision == (((4.5, 7.5), (2, 1), (7, 1)),)
    click(working, hand, 3, 1, CONTROL)
    working.session.choose(tile=tile(1, 1))
    page.copy()
    assert notes(3, 1).collision == notes(1, 1).collision
    view.grab()
    hand.click(view, spot(view, 7, 1), Qt.MouseButton.RightButton)
    assert notes(1, 1).collision == "none"


def test_an_outline_that_crosses_itself_is_refused(working, hand, card, notes):
    click(working, hand, 1, 1)
    card.pages.show_page("Blocks")
    QApplication.processEvents()
    view = card.shape.view
    draw(hand, view, (1, 1), (6, 6), (6, 1), (1, 6), (1, 1))
    assert notes(1, 1).collision == "none"
    assert "crosses itself" in says(working.ledger)
    hand.key(view, Qt.Key.Key_Escape)


def test_a_shape_is_traced_shown_and_only_then_taken(working, hand, card, notes):
    click(working, hand, 1, 1)
    card.pages.show_page("Blocks")
    QTest.mouseClick(card.shape.trace, LEFT)
    assert notes(1, 1).collision == "none"
    assert card.shape.view.proposed
    card.shape.simple.setValue(0)
    view = card.shape.view
    view.grab()
    QTest.mouseClick(card.shape.take, LEFT)
    (shape,) = notes(1, 1).collision
    assert set(shape) == {(0, 0), (8, 0), (8, 8), (0, 8)}
    click(working, hand, 2, 1, CONTROL)
    press(card.shape, "All of it")
    assert notes(1, 1).collision == notes(2, 1).collision == "whole"


def test_a_collision_shape_is_drawn_by_keys_alone(working, hand, card, notes):
    click(working, hand, 1, 1)
    card.pages.show_page("Blocks")
    view = card.shape.view
    keys = {
        ">": Qt.Key.Key_Right,
        "v": Qt.Key.Key_Down,
        "<": Qt.Key.Key_Left,
        ".": Qt.Key.Key_Space,
        "x": Qt.Key.Key_Backspace,
    }
    for sign in ">v.>>.vv.<.x":
        hand.key(view, keys[sign])
    view.grab()
    hand.key(view, Qt.Key.Key_Return)
    assert notes(1, 1).collision == (((1, 1), (3, 1), (3, 3)),)


def test_what_blocks_is_seen_on_the_sheet_while_shapes_are_made(working, hand, card):
    set_collision(
        working.session.document, {tile(4, 1): "whole", tile(6, 1): ((Point(0, 0), Point(8, 0), Point(8, 8)),)}
    )
    view = working.panels["sheet"].view

    def colours():
        image = view.grab().toImage()
        return [image.pixel(view.tile_on_widget(*cell).center().toPoint()) for cell in ((4, 1), (6, 1), (8, 1))]

    before = colours()
    card.pages.show_page("Blocks")
    after = colours()
    assert [one != other for one, other in zip(before, after, strict=True)] == [True, True, False]
    card.pages.show_page("Notes")
    assert colours() == before


def test_shapes_of_another_kind_are_drawn_beside_those_that_stop_feet(working, hand, card, notes, monkeypatch):
    click(working, hand, 1, 1)
    card.pages.show_page("Blocks")
    QApplication.processEvents()
    page, view = card.shape, card.shape.view
    draw(hand, view, (1, 1), (6, 1), (6, 4), (1, 1))
    page.kind.activated.emit(1)
    assert page.kind.currentText() == "Stops sight"
    press(page, "All of it")
    assert (notes(1, 1).shape("sight"), notes(1, 1).collision) == ("whole", (((1, 1), (6, 1), (6, 4)),))
    view.grab()
    monkeypatch.setattr(QInputDialog, "getText", lambda *of: ("Stops arrows", True))

    def made(dialog) -> int:
        dialog.show()
        press(dialog, "New kind…")
        name = next(field for field in dialog.findChildren(QLineEdit) if field.text() == "Stops sight")
        name.setText("Stops light")
        name.editingFinished.emit()
        QApplication.processEvents()
        take = [one for one in dialog.findChildren(QToolButton) if "Take this kind out" in one.toolTip()]
        assert [one.isEnabled() for one in take] == [False, False, True]
        assert "Every project has this kind" in take[0].toolTip()
        dialog.close()
        return 1

    monkeypatch.setattr(ShapeKindsDialog, "exec", made)
    page.kind.activated.emit(page.kind.count() - 1)
    assert [page.kind.itemText(at) for at in range(page.kind.count())] == [
        "Stops feet", "Stops light", "Stops arrows", "Kinds…",
    ]  # fmt: skip
    page.kind.activated.emit(2)
    draw(hand, view, (2, 2), (5, 2), (5, 6), (2, 2))
    assert set(notes(1, 1).all_shapes()) == {"feet", "sight", "stops-arrows"}
    working.undo()
    assert set(notes(1, 1).all_shapes()) == {"feet", "sight"}


def test_each_kind_of_shapes_is_shown_over_the_ground_in_turn(working):
    blocked = working.blocked
    working.session.set_stage("ground")
    for wanted in ("stops feet", "stops sight", "stops feet"):
        blocked.next_kind()
        assert wanted in says(working.ledger)
        working.ground.view.grab()
    assert blocked.shows_shapes


def test_shapes_are_shown_before_they_snap_and_where_none_would_a_sentence_says_so(working, qtbot):
    document = working.session.document
    before = (tuple(Point(*at) for at in ((0.3, 0), (8, 0), (8, 8), (0.3, 8))),)
    set_collision(document, {tile(1, 1): before})
    command = working.commands.action("Snap shapes to the borders of their tiles…")
    seen = []
    in_dialog(lambda dialog: (seen.append(says(dialog)), press(dialog, "Snap")))
    command.trigger()
    qtbot.waitUntil(lambda: document.project.tiles[tile(1, 1)].collision != before)
    assert "1 shape would be brought" in seen[0]
    assert document.project.tiles[tile(1, 1)].collision == (((0, 0), (8, 0), (8, 8), (0, 8)),)
    command.trigger()
    assert QApplication.activeModalWidget() is None
    assert "lie well on the borders" in says(working.ledger)


def test_a_shape_is_copied_to_those_of_the_chosen_tiles_that_are_still_there(working, hand, card):
    click(working, hand, 1, 1)
    card.pages.show_page("Blocks")
    document = working.session.document
    set_collision(document, {tile(1, 1): "whole"})
    working.session.choose(selection=frozenset({tile(1, 1), tile(3, 1)}))
    working.session.set_stage("ground")
    sheet = document.project.sheets[0]
    set_cut(document, sheet.id, replace(sheet.cuts[0], left_out=(Cell(3, 1),)))
    working.commands.action("Copy the collision shape to all chosen tiles").trigger()
    assert "1 tile has this shape now" in says(working.ledger)
    assert tile(3, 1) not in document.project.tiles
