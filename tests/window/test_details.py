"""Smaller things that a user would notice."""

import ast
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QColorDialog, QInputDialog, QLabel, QPushButton

from knitground.app import window as window_module
from knitground.app.canvas.chunks import CHUNK_PIXELS, Chunks, detail_for
from knitground.app.canvas.ground_view import GroundView
from knitground.app.canvas.pixel_view import ZOOMS
from knitground.app.terrain_list import TerrainButton
from knitground.core.edits.grounds import remove_ground
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.grid import GRIDS
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.square import SquareBoard, SquareProjection
from knitground.core.tiles.tile import TileRef
from making import make_document, rectangle, tile
from window.finding import layer_button, menu_of, named, painted, press, says, take


@pytest.mark.parametrize("zoom", [1 / 16, 1 / 4, 1 / 2, 1, 3])
def test_after_edits_the_view_shows_what_a_fresh_view_shows(window, hand, qtbot, zoom):
    window.session.open(make_document(150, 130))
    view, document = window.ground.view, window.session.document
    view.set_zoom(zoom)
    view.centre_on(600, 500)
    view.grab()
    for number, (start, end) in enumerate((((10, 10), (90, 70)), ((50, 60), (52, 149)), ((0, 0), (129, 3)))):
        document.paint("p", "ground", "areas", "corners", rectangle((131, 151), start, end), 1 + number % 2)
        document.paint("p", "ground", "walls", "plan", rectangle((130, 150), end, end), 1)
    document.undo()
    fresh = GroundView(window.session)
    fresh.resize(view.size())
    fresh.show()
    fresh.set_zoom(zoom)
    fresh.centre_on(600, 500)
    # Chunks come in bit by bit, in both.
    qtbot.waitUntil(lambda: np.array_equal(painted(view), painted(fresh)), timeout=5000)
    fresh.deleteLater()


@pytest.mark.parametrize("side", [8, 16, 24, 32, 48])
@pytest.mark.parametrize("grid", list(GRIDS))
def test_a_frame_never_needs_more_than_a_few_hundred_chunks(grid, side):
    for zoom in ZOOMS:
        detail = detail_for(zoom, GRIDS[grid].projection(GRIDS[grid].board(4096, 4096), side, side))
        assert detail.side >= 1
        assert detail.side * detail.across * zoom >= 8 or zoom * side * 4096 < 1300


def test_what_lies_just_beyond_the_view_is_made_ahead_so_that_panning_makes_nothing():
    chunks, made = Chunks(), []

    def render(area, scale):
        made.append(area)
        return np.zeros((area.height, area.width, 4), dtype=np.uint8)

    detail = detail_for(1, SquareProjection(SquareBoard(64, 64), 16, 16))
    size, sheet = (1024, 1024), QImage(300, 300, QImage.Format.Format_ARGB32_Premultiplied)
    while chunks.make_ahead(PixelRect(300, 300, 300, 300), size, detail, render):
        pass
    known, painter = len(made), QPainter(sheet)
    for x, y in ((300, 300), (300 + CHUNK_PIXELS, 300), (300, 300 - CHUNK_PIXELS)):
        assert chunks.draw(painter, lambda area: area, PixelRect(x, y, 300, 300), size, detail, render)
    painter.end()
    assert len(made) == known > 0


def test_the_arrows_move_the_choice_on_the_sheet(working, hand):
    view = working.panels["ground"].view
    working.session.choose(layer_id="things")
    hand.click(view, view.tile_on_widget(3, 1).center())
    assert working.session.choices.tile == tile(3, 1)
    keys = Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Up
    for key, place in zip(keys, ((4, 1), (4, 2), (3, 2), (3, 1)), strict=True):
        QTest.keyClick(view, key)
        assert working.session.choices.tile == tile(*place)


def test_the_arrows_stop_at_the_border_of_the_sheet(working, hand):
    view = working.panels["ground"].view
    working.session.choose(tile=tile(0, 0))
    view.setFocus()
    for key in (Qt.Key.Key_Left, Qt.Key.Key_Up):
        QTest.keyClick(view, key)
    assert working.session.choices.tile == tile(0, 0)


def test_choosing_a_tile_for_a_derived_layer_says_where_it_can_lie(working, hand):
    said = []
    working.session.said.connect(lambda sentence, problem: said.append(sentence))
    working.session.choose(layer_id="areas")
    view = working.panels["ground"].view
    hand.click(view, view.tile_on_widget(3, 1).center())
    assert "a layer of tiles holds this one" in said[-1]
    press(working, "Lay the tile in hand on a layer of tiles")
    assert working.session.layer.holds_tiles


def test_a_click_takes_a_layer_in_hand(working):
    QTest.mouseClick(layer_button(working, "Walls"), Qt.MouseButton.LeftButton, pos=QPointF(20, 20).toPoint())
    assert working.session.choices.layer_id == "walls"
    assert "Wall" in says(working.ground).splitlines()
    QTest.mouseClick(layer_button(working, "Areas"), Qt.MouseButton.LeftButton, pos=QPointF(20, 20).toPoint())
    assert "Terrain A" in says(working.ground).splitlines()


def test_a_layer_is_moved_renamed_and_removed_by_its_menu(working, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Fence", True))

    def do(name: str, action: str) -> None:
        take(menu_of(layer_button(working, name)), action)

    do("Lines", "Rename…")
    do("Fence", "Move up")
    assert [layer.name for layer in working.session.ground.layers] == ["Areas", "Walls", "Fence", "Things"]
    do("Fence", "Remove")
    assert [layer.name for layer in working.session.ground.layers] == ["Areas", "Walls", "Things"]
    for _ in range(3):
        working.undo()
    assert [layer.name for layer in working.session.ground.layers] == ["Areas", "Lines", "Walls", "Things"]


def test_layers_show_small_pictures_of_what_they_hold(working, qtbot):
    working.session.document.paint(
        "p",
        "ground",
        "things",
        "cells",
        rectangle((15, 20), (0, 0), (14, 19)),
        working.session.document.palette.code(tile(3, 3)),
    )
    qtbot.waitUntil(lambda: layer_button(working, "Things").picture is not None, timeout=3000)
    qtbot.waitUntil(lambda: layer_button(working, "Things").picture.pixelColor(20, 20).alpha() == 255, timeout=3000)
    qtbot.waitUntil(lambda: layer_button(working, "Lines").picture is not None, timeout=3000)
    assert layer_button(working, "Lines").picture.pixelColor(20, 20).alpha() == 0


def test_the_small_picture_of_a_layer_that_lies_higher_shows_what_is_seen_of_it(working, qtbot):
    """It goes to what the layer holds where that is seen, and not to the cells below."""
    document = working.session.document
    change_layer(document, "ground", "things", "raise", offset_y=-60)
    code = document.palette.code(tile(3, 3))
    document.paint("p", "ground", "things", "cells", rectangle((15, 20), (8, 8), (8, 11)), code)

    def seen() -> bool:
        picture = layer_button(working, "Things").picture or QImage()
        return any(picture.pixelColor(x, y).alpha() for x in range(picture.width()) for y in range(picture.height()))

    qtbot.waitUntil(seen, timeout=3000)


def test_a_terrain_is_renamed_recoloured_and_given_another_letter(working, monkeypatch):
    working.session.set_stage("joins")
    panel = working.panels["joins"]
    first = working.session.join_set.terrains[0]
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("heath", True))
    monkeypatch.setattr(QColorDialog, "getColor", lambda *_: QColor("#123456"))
    QTest.mouseDClick(panel.findChild(TerrainButton), Qt.MouseButton.LeftButton)
    assert working.session.join_set.terrains[0].name == "heath"
    take(menu_of(panel.findChild(TerrainButton)), "Letter")
    take(menu_of(panel.findChild(TerrainButton)), "Colour")
    changed = working.session.join_set.terrains[0]
    assert (changed.name, changed.letter, changed.colour) == ("heath", "H", "#123456")
    for _ in range(3):
        working.undo()
    assert working.session.join_set.terrains[0] == first


def test_messages_give_the_foot_back_to_the_findings(demo):
    demo.session.say("Something happened.")
    assert says(demo.ledger).splitlines()[0] == "Something happened."
    findings = named(demo.ledger, QPushButton, "All findings", shown=False)
    assert not findings.isVisible()
    demo.session.say("")
    assert findings.isVisible()


def test_an_empty_project_explains_itself_in_every_stage(window):
    expected = {
        "joins": "add a sprite sheet first",
        "stitches": "make a set",
        "ground": "no ground yet",
        "grow": "Make a ground first",
        "deliver": "no ground to deliver",
    }
    for stage, words in expected.items():
        window.session.set_stage(stage)
        texts = " ".join(label.text() for label in window.panels[stage].findChildren(QLabel) if label.isVisible())
        assert words in texts, stage


def test_the_choice_follows_undo_when_what_was_chosen_is_gone(working):
    add_layer(working.session.document, "ground", "More")
    working.session.choose(layer_id="more")
    assert working.session.layer.name == "More"
    working.undo()
    assert working.session.layer is not None
    assert working.session.choices.layer_id in {layer.id for layer in working.session.ground.layers}


def test_a_chosen_tile_out_of_view_is_brought_in_and_one_in_view_moves_nothing(demo):
    demo.session.set_stage("joins")
    view = demo.panels["joins"].view
    before = view.to_widget(0, 0)
    demo.session.choose(tile=TileRef("roofs", "tops", 2, 2))
    assert view.to_widget(0, 0) == before
    demo.session.choose(tile=TileRef("roofs", "tops", 2, 16))
    after = view.to_widget(0, 0)
    assert view.rect().toRectF().contains(view.tile_on_widget(2, 16))
    assert after.x() == before.x()
    assert after.y() < before.y()


def test_the_ground_comes_back_from_its_proof_as_it_was_left(working):
    next(one for one in working.commands.actions if one.text() == "Play animations, or hold them").trigger()
    view = working.ground.view
    view.set_zoom(3)
    view.centre_on(70, 50)
    before = painted(view)
    for proof in (True, False):
        working.ground.change_over(to_proof=proof)
        assert view.shows_proof == proof
    assert np.array_equal(painted(view), before)


def test_a_ground_that_comes_back_from_a_proof_is_there_at_the_first_drawing(demo, qtbot):
    next(one for one in demo.commands.actions if one.text() == "Play animations, or hold them").trigger()
    demo.resize(1800, 1100)
    demo.show()
    view, pictures = demo.ground.view, list[QImage]()

    def comes_to_rest() -> bool:
        pictures.append(view.grab().toImage())
        return len(pictures) > 1 and pictures[-1] == pictures[-2]

    qtbot.waitUntil(comes_to_rest, timeout=10000)
    demo.ground.change_over(to_proof=True)
    assert view.grab().toImage() != pictures[-1]
    demo.ground.change_over(to_proof=False)
    assert view.grab().toImage() == pictures[-1]


def test_what_is_said_leads_to_the_commands_that_it_names(window):
    """No sentence names a command that there is not, and those that can be done now stand beside it."""
    known = {action.text() for action in window.commands.actions}
    led = [
        lead.value
        for path in Path(window_module.__file__).parent.rglob("*.py")
        for call in ast.walk(ast.parse(path.read_text()))
        if isinstance(call, ast.Call) and getattr(call.func, "attr", "") == "say"
        for lead in call.args[1:]
        if isinstance(lead, ast.Constant)
    ]
    assert len(led) > 10
    assert set(led) <= known
    window.session.say("There is no ground yet.", "New ground…", "Undo")
    QApplication.processEvents()
    shown = [one.text() for one in window.ledger.findChildren(QPushButton) if one.isVisible()]
    assert "New ground…" in shown
    assert "Undo" not in shown, "nothing was done yet"
    window.commands.action("Stage Joins").trigger()
    window.session.say("Labels come first.", "Stage Sheet")
    QTest.mouseClick(named(window.ledger, QPushButton, "Stage Sheet"), Qt.MouseButton.LeftButton)
    assert window.session.choices.stage == "sheet"
    window.session.say("Something else.")
    QApplication.processEvents()
    assert "Stage Sheet" not in [one.text() for one in window.ledger.findChildren(QPushButton) if one.isVisible()]


def test_a_set_that_no_ground_has_says_where_it_goes(working):
    session, document = working.session, working.session.document
    for stage, unused, used in (
        ("joins", "on no ground yet: “Paint with it”", "corner joins of 16 tiles"),
        ("stitches", "No ground has a plan of this set yet", "The first stitch of a course that fits a cell"),
    ):
        session.set_stage(stage)
        assert used in says(working.panels[stage])
        assert unused not in says(working.panels[stage])
        remove_ground(document, "ground")
        assert unused in says(working.panels[stage])
        press(working.panels[stage], "Paint with it")
        assert session.choices.stage == "ground"
        session.set_stage(stage)
        assert unused not in says(working.panels[stage])
        document.undo()
        document.undo()


def test_on_the_ground_terrains_are_chosen_by_their_numbers_for_letters_are_tools(working):
    session, view = working.session, working.ground.view
    session.choose(layer_id="areas", terrain=1)
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_2)
    assert session.choices.terrain == 2
    second = named(working.panels["ground"], TerrainButton, "Terrain B")
    assert second.isChecked()
    assert "(2)" in second.toolTip()
    QTest.keyClick(view, Qt.Key.Key_9)
    assert session.choices.terrain == 2
    action = working.commands.action("Paint with terrain 9 of the layer")
    assert "has no terrain 9" in action.toolTip()
    session.set_stage("joins")
    assert "(A)" in named(working.panels["joins"], TerrainButton, "Terrain A").toolTip()
