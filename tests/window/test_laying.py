"""Laying by mouse and keyboard: forms, straight strokes, scattering, fills of all that is alike."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QInputDialog

from knitground.app.layers.group_button import GroupButton
from knitground.app.layers.layer_button import LayerButton
from knitground.core.edits.layers import add_layer, change_layer, remove_layer
from knitground.core.edits.things import put
from knitground.core.layers.props import as_props
from knitground.core.tiles.tile import TileRef
from making import make_document, poke, tile
from window.choosing import choose, plane
from window.finding import layer_button, menu_of, named, press, says, take

SHIFT = Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


def cells(window) -> np.ndarray:
    return plane(window, "things", "cells") > 0


def test_the_form_of_areas_changes_by_button_and_key_and_is_laid(working, hand):
    choose(working, "things", "area", tile=tile(3, 3))
    press(working.ground, "Form: box")
    hand.on_ground((2, 3), (8, 10))
    framed = cells(working)
    assert framed[2, 3:11].all()
    assert framed[3:8, 3].all()
    assert not framed[3:8, 4:10].any()
    hand.key(working.ground.view, "a", SHIFT)
    assert named(working.ground, QAbstractButton, "Form: round")
    hand.on_ground((10, 2), (14, 6))
    assert cells(working)[12, 4]
    assert not cells(working)[10, 2]
    working.undo()
    assert not cells(working)[12, 4]
    assert cells(working)[2, 3]


def test_a_fill_exchanges_all_tiles_alike(working, hand):
    document = working.session.document
    one, other = (document.palette.code(tile(n, 3)) for n in (2, 5))
    poke(document, "things", "cells", np.s_[1, 1], one)
    poke(document, "things", "cells", np.s_[9, 12], one)
    choose(working, "things", "fill", tile=tile(5, 3))
    hand.key(working.ground.view, "f", SHIFT)
    hand.on_ground((1, 1))
    found = plane(working, "things", "cells")
    assert found[1, 1] == found[9, 12] == other
    assert (found > 0).sum() == 2


def test_on_a_layer_that_is_moved_a_tile_lands_where_the_pointer_is_and_shows_there_before(working, hand):
    choose(working, "things", "draw", tile=tile(3, 3), radius=0)
    view, ground = working.ground.view, working.session.ground
    moved = ground.tile_height * 2
    change_layer(working.session.document, ground.id, "things", "move", offset_x=4, offset_y=-moved)
    box = ground.projection.box(5, 6)
    spot = view.to_widget(box.x + 4 + box.width / 2, box.y - moved + box.height / 2)

    def seen() -> tuple[int, ...]:
        return view.grab().toImage().pixelColor(spot.toPoint()).getRgb()

    bare = seen()
    hand.move(view, spot)
    assert seen() != bare, "it is shown under the pointer"
    hand.click(view, spot)
    assert np.argwhere(cells(working)).tolist() == [[5, 6]]
    working.session.tool_wanted.emit("pick")
    working.session.choose(tile=None)
    hand.click(view, spot)
    assert working.session.choices.tile == tile(3, 3)


def test_what_is_scattered_is_seen_before_and_falls_otherwise_next_time(working, hand):
    choose(working, "things", "spray", tile=tile(3, 3), radius=4, density=0.3)
    assert "on Things" in says(working.ground)
    hand.on_ground((7, 9))
    first = cells(working)
    assert 3 < first.sum() < 40
    working.undo()
    hand.on_ground((7, 9))
    assert (cells(working) != first).any()
    hand.on_ground((7, 9), button=Qt.MouseButton.RightButton)
    assert not cells(working)[4:11, 6:13].any()


def test_shift_keeps_a_stroke_level(working, hand, monkeypatch):
    monkeypatch.setattr(QApplication, "keyboardModifiers", staticmethod(lambda: SHIFT))
    choose(working, "things", "draw", tile=tile(3, 3), radius=0)
    hand.on_ground((7, 3), (8, 9), (6, 14))
    assert cells(working)[7, 3:15].all()
    assert cells(working).sum() == 12
    choose(working, "things", "area", form="box")
    hand.on_ground((10, 3), (11, 7))
    assert cells(working)[10:15, 3:8].all()


def test_the_row_tells_of_a_layer_that_is_locked_or_hidden(working):
    choose(working, "things", "draw", tile=tile(3, 3))
    for change, word in (({"visible": False}, "hidden"), ({"locked": True}, "locked")):
        change_layer(working.session.document, "ground", "things", "look", **change)
        assert word in says(working.ground)


def test_the_last_stroke_moves_to_the_layer_where_it_should_lie_as_one_step(working, hand):
    session, document = working.session, working.session.document
    above = add_layer(document, "ground", "Above", None, "tiles")
    said = []
    session.said.connect(lambda sentence, problem: said.append(sentence))
    poke(document, "things", "cells", np.s_[5, 5], document.palette.code(tile(2, 3)))
    choose(working, "things", "draw", tile=tile(3, 3), radius=0)
    hand.on_ground((5, 3), (5, 8))
    take(menu_of(layer_button(working, "Above")), "Move the last stroke here")
    assert session.layer.id == above
    assert cells(working).sum() == 1
    assert (plane(working, above, "cells") > 0)[5, 3:9].all()
    working.undo()
    assert cells(working)[5, 3:9].all()
    working.redo()
    hand.key(working.ground.view, "l", SHIFT)
    assert "one layer" in said[-1] or "no stroke" in said[-1]
    choose(working, "things", "draw")
    hand.on_ground((9, 3))
    hand.key(working.ground.view, "l", SHIFT)
    assert "lies on “Things” already" in said[-1]
    session.choose(layer_id="areas")
    hand.key(working.ground.view, "l", SHIFT)
    assert "another kind" in said[-1]


def test_layers_are_shown_alone_duplicated_and_taken_in_hand_by_keys(working, hand):
    session = working.session
    choose(working, "things", "draw", tile=tile(3, 3), radius=0)
    hand.on_ground((5, 3))
    view = working.ground.view
    hand.key(view, "v", SHIFT)
    assert [layer.id for layer in session.ground.shown()] == ["things"]
    hand.key(view, "v", SHIFT)
    assert len(session.ground.shown()) == len(session.ground.layers)
    hand.key(view, "d", SHIFT)
    assert session.layer.name == "Things copy"
    assert np.array_equal(plane(working, session.layer.id, "cells"), plane(working, "things", "cells"))
    hand.key(view, Qt.Key.Key_PageDown)
    assert session.layer.id == "things"
    hand.key(view, Qt.Key.Key_PageUp)
    assert session.layer.name == "Things copy"
    working.undo()
    assert "Things copy" not in [layer.name for layer in session.ground.layers]


def test_a_layer_is_dragged_to_another_place_in_the_stack(working, hand):
    order = [layer.id for layer in working.session.ground.layers]
    top, bottom = (layer_button(working, layer.name) for layer in (working.session.ground.layers[n] for n in (-1, 0)))
    start = QPointF(top.rect().center())
    under = QPointF(top.mapFromGlobal(bottom.mapToGlobal(bottom.rect().bottomLeft()))) + QPointF(20, 4)
    hand.drag(top, start, start + QPointF(0, 30), under)
    assert [layer.id for layer in working.session.ground.layers] == [order[-1], *order[:-1]]
    working.undo()
    assert [layer.id for layer in working.session.ground.layers] == order


def test_the_picture_of_a_sparse_layer_shows_where_its_content_is(window, qtbot):
    document = make_document(200, 150)
    poke(document, "things", "cells", np.s_[140, 190], document.palette.code(tile(3, 3)))
    window.session.open(document)
    window.ground.view.set_zoom(2)
    window.ground.view.centre_on(40, 40)
    entry = layer_button(window, "Things")
    qtbot.waitUntil(lambda: entry.picture is not None and not entry.picture.isNull())

    def opaque() -> bool:
        picture = layer_button(window, "Things").picture
        spots = [(x, y) for x in range(0, picture.width(), 2) for y in range(0, picture.height(), 2)]
        return any(picture.pixelColor(*spot).alpha() for spot in spots)

    qtbot.waitUntil(opaque)


def test_groups_fold_are_hidden_as_one_renamed_and_taken_apart(working, monkeypatch):
    session = working.session
    for layer, group in (("lines", "Yard"), ("walls", "Yard"), ("things", "Yard/Pots")):
        change_layer(session.document, "ground", layer, "group", group=group)
    session.choose(layer_id="areas")

    def settle() -> None:
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        QApplication.processEvents()

    def seen() -> list[str]:
        settle()
        return [one.layer.id for one in working.ground.layers.findChildren(LayerButton) if one.isVisible()]

    def head(path: str) -> GroupButton:
        settle()
        return next(one for one in working.ground.layers.findChildren(GroupButton) if one.path == path)

    assert set(seen()) == {"things", "walls", "lines", "areas"}
    QTest.mouseClick(head("Yard/Pots"), LEFT)
    assert set(seen()) == {"walls", "lines", "areas"}
    QTest.mouseClick(head("Yard"), LEFT)
    assert set(seen()) == {"areas"}
    yard = head("Yard")
    yard.grab()
    QTest.mouseClick(yard, LEFT, pos=QPoint(yard.width() - 8, 10))
    shown = {layer.id: layer.visible for layer in session.ground.layers}
    assert shown == {"areas": True, "lines": False, "walls": False, "things": False}
    working.undo()
    QTest.mouseClick(head("Yard"), LEFT)
    monkeypatch.setattr(QInputDialog, "getText", lambda *of, **more: ("Court", True))
    take(menu_of(head("Yard")), "Rename the group")
    assert [layer.group for layer in session.ground.layers] == ["", "Court", "Court", "Court/Pots"]
    take(menu_of(head("Court")), "Take the group apart")
    assert [layer.group for layer in session.ground.layers] == ["", "", "", "Pots"]
    monkeypatch.setattr(QInputDialog, "getText", lambda *of, **more: (" Shed / Back ", True))
    take(menu_of(layer_button(working, "Areas")), "Put in a group")
    assert session.ground.layers[0].group == "Shed/Back"


def test_a_tile_of_another_size_is_told_once_with_two_ways_to_mend_it(working, hand):
    session, said, leads = working.session, [], []
    session.said.connect(lambda sentence, problem: said.append(sentence))
    session.led.connect(leads.append)
    ground = session.ground
    put(session.document, "cells", "grounds", replace(ground, tile_height=ground.tile_height // 2))
    choose(working, "things", "draw", tile=tile(3, 3), radius=0)
    for row in (3, 5):
        hand.on_ground((row, 3))
    assert len([one for one in said if "This tile is 8 x 8" in one]) == 1
    assert leads[said.index(next(one for one in said if "This tile" in one))] == (
        "Give the cells the size of the tile in hand", "Let the tiles in hand stand on their cells"
    )  # fmt: skip
    hand.key(working.ground.view, "f", Qt.KeyboardModifier.AltModifier)
    assert session.document.project.sheets[0].cuts[0].anchor == "bottom"
    working.undo()
    hand.key(working.ground.view, "c", Qt.KeyboardModifier.AltModifier)
    assert session.ground.tile_height == ground.tile_height
    hand.key(working.ground.view, "c", Qt.KeyboardModifier.AltModifier)
    assert "fits the cells" in said[-1]


def test_an_offer_that_was_taken_is_made_no_longer(working, hand):
    choose(working, "areas", "draw")
    hand.click(working.panels["ground"].view, working.panels["ground"].view.tile_on_widget(3, 3).center())
    assert "a layer of tiles holds this one" in says(working.ledger)
    press(working.ledger, "Lay the tile in hand on a layer of tiles")
    assert "a layer of tiles holds this one" not in says(working.ledger)
    assert not [
        one for one in working.ledger.findChildren(QAbstractButton) if one.isVisible() and "Lay the" in one.text()
    ]
    assert working.session.layer.holds_tiles


def test_a_block_of_any_shape_is_dragged_off_the_sheet_and_laid(working, hand, monkeypatch):
    session, sheet = working.session, working.panels["ground"].view
    held = [Qt.KeyboardModifier.NoModifier]
    monkeypatch.setattr(QApplication, "keyboardModifiers", staticmethod(lambda: held[0]))
    choose(working, "things")
    middles = {(c, r): sheet.tile_on_widget(c, r).center() for c in range(8) for r in range(4)}
    hand.drag(sheet, middles[1, 0], middles[2, 0], middles[2, 1])
    assert working.ground.view.tool.name == "place"
    hand.on_ground((6, 6))

    def laid(column: int, row: int) -> tuple[TileRef | None, ...]:
        codes = plane(working, "things", "cells")[row : row + 3, column : column + 3]
        return tuple(session.document.palette.ref(int(code)) if code else None for code in codes.ravel())

    assert laid(6, 6) == (tile(1, 0), tile(2, 0), None, tile(1, 1), tile(2, 1), None, None, None, None)
    held[0] = Qt.KeyboardModifier.ShiftModifier
    hand.drag(sheet, middles[3, 2], middles[3, 2] + QPointF(1, 0))
    held[0] = Qt.KeyboardModifier.ControlModifier
    hand.click(sheet, middles[1, 0])
    held[0] = Qt.KeyboardModifier.NoModifier
    assert session.choices.lifted.cells.tolist() == [[False, True, False], [True, True, False], [False, False, True]]
    hand.on_ground((11, 11))
    assert laid(10, 10) == (None, tile(2, 0), None, tile(1, 1), tile(2, 1), None, None, None, tile(3, 2))
    # Whichever tool lays next lays what was taken last: the block again and again, or the tile that was clicked.
    hand.key(working.ground.view, Qt.Key.Key_A)
    hand.on_ground((0, 0), (5, 2))
    block = laid(10, 10)
    for row in (0, 3):
        assert [one if kept else None for one, kept in zip(laid(0, row), block, strict=True)] == list(block)
    hand.click(sheet, middles[5, 2])
    hand.on_ground((0, 0), (2, 2))
    assert set(laid(0, 0)) == {tile(5, 2)}
    # By keys: the tile at hand, and Shift with an arrow for more of them.
    hand.click(sheet, middles[4, 1])
    for code in (Qt.Key.Key_Right, Qt.Key.Key_Down):
        hand.key(sheet, code, Qt.KeyboardModifier.ShiftModifier)
    assert session.choices.lifted.cells.shape == (2, 2)
    hand.key(sheet, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert session.choices.lifted.cells.shape == (2, 1)


def test_any_tile_of_what_was_taken_off_the_sheet_is_laid_by_chance(working, hand):
    session, panel = working.session, working.panels["ground"]
    choose(working, "things")
    middles = {(c, r): panel.view.tile_on_widget(c, r).center() for c in range(8) for r in range(4)}
    hand.click(panel.view, middles[1, 0])
    box = named(panel, QComboBox, "Mix", shown=False)
    assert box.findText("Any tile of the block") < 0
    hand.drag(panel.view, middles[1, 0], middles[2, 1])
    box.setCurrentText("Any tile of the block")
    box.activated.emit(box.currentIndex())
    taken = {tile(column, row) for column in (1, 2) for row in (0, 1)}
    assert {part.tile for part in session.document.project.mixes[-1].parts} == taken
    assert "a click lays it" in says(working.ledger)
    working.ground.choose_tool("area")
    hand.on_ground((2, 2), (7, 7))
    laid = {session.document.palette.ref(int(code)) for code in np.unique(plane(working, "things", "cells")[2:8, 2:8])}
    assert laid == taken


def test_a_mix_that_is_taken_after_a_block_is_what_is_laid(growing, hand):
    session = growing.session
    session.set_stage("ground")
    choose(growing, "things")
    sheet = growing.panels["ground"].view
    hand.drag(sheet, sheet.tile_on_widget(1, 0).center(), sheet.tile_on_widget(2, 1).center())
    session.set_stage("grow")
    press(growing.panels["grow"], "Fill with it")
    growing.ground.choose_tool("area")
    hand.on_ground((2, 2), (9, 9))
    codes = np.unique(plane(growing, "things", "cells")[2:10, 2:10])
    assert {session.document.palette.ref(int(code)) for code in codes if code} == {tile(2, 3), tile(5, 3)}


def test_any_tile_of_what_was_taken_off_the_sheet_is_strewn_as_things(working, hand):
    session, panel = working.session, working.panels["ground"]
    session.choose(layer_id=add_layer(session.document, "ground", "People", kind="props"))
    middles = {(c, r): panel.view.tile_on_widget(c, r).center() for c in range(8) for r in range(4)}
    hand.drag(panel.view, middles[1, 0], middles[2, 1])
    assert "any tile of a block can be strewn" in says(working.ledger)
    press(working.ledger, "Lay any tile of the block in hand")
    assert "Drag over the ground" in says(working.ledger)
    session.choose(radius=2, density=0.6)
    hand.on_ground((2, 2), (9, 12))
    things = as_props(session.layer).things
    assert {thing.tile for thing in things} == {tile(column, row) for column in (1, 2) for row in (0, 1)}
    working.undo()
    assert as_props(session.layer).things == ()


@pytest.mark.parametrize(("name", "lines", "whole"), [
    ("Paths", 1, True), ("Tiles upright", 2, True), ("Roofs over the south wing", 2, False), ("Underneath", 1, False),
])  # fmt: skip
def test_the_name_of_a_layer_has_two_lines_and_is_cut_off_only_then(working, name, lines, whole):
    session = working.session
    change_layer(session.document, session.choices.ground_id, "things", "rename", name=name)
    shown = layer_button(working, name)
    assert len(shown.lines) == lines
    assert ("".join(shown.lines).replace(" ", "") == name.replace(" ", "")) == whole
    assert shown.lines[-1].endswith("…") != whole
    plain = layer_button(working, "Areas").height()
    assert (shown.height() > plain) == (lines > 1)


@pytest.mark.parametrize("there", [True, False])
def test_a_block_of_tiles_finds_its_layer_or_makes_one_as_one_step(working, hand, there):
    session, sheet = working.session, working.panels["ground"].view
    choose(working, "areas")
    if not there:
        for layer in [one.id for one in session.ground.layers if one.holds_tiles]:
            remove_layer(session.document, session.ground.id, layer)
    before = session.document.project
    lays = lambda: {one.currentText() for one in working.panels["ground"].findChildren(QComboBox)}  # noqa: E731
    assert "The block in hand" not in lays()
    hand.drag(sheet, sheet.tile_on_widget(1, 0).center(), sheet.tile_on_widget(2, 0).center())
    hand.on_ground((6, 6))
    assert session.layer.holds_tiles
    assert f"“{session.layer.name}” takes the block" in says(working.ledger)
    assert "The block in hand" in lays()
    codes = plane(working, session.layer.id, "cells")
    assert [session.document.palette.ref(int(code)) for code in codes[codes > 0]] == [tile(1, 0), tile(2, 0)]
    assert len(session.ground.layers) == len(before.grounds[0].layers) + (not there)
    working.undo()
    assert session.document.project.grounds == before.grounds
