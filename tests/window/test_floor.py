"""What stands on the floor of the program, in the window: grids, layers' looks, commands, and work that goes on."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction, QCursor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QDoubleSpinBox, QFileDialog, QPushButton, QSlider

from knitground.app.commands import Command, Commands
from knitground.app.layers.layer_dialog import LayerDialog
from knitground.app.main import open_window
from knitground.app.session import STAGES
from knitground.core.edits.grounds import resize_ground
from knitground.core.edits.layers import add_layer, change_layer
from knitground.core.edits.sheets import set_cut
from knitground.core.edits.things import put
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from making import make_document, plane_of, png, poke, sheet_of_tiles, tile
from window.choosing import bring
from window.conftest import Hand
from window.finding import named, painted, press, says
from window.test_ground import choose


@pytest.fixture(params=["diamond", "staggered"])
def leaning(window, request):
    """The window on an isometric ground."""
    window.session.open(make_document(grid=request.param))
    window.session.set_stage("ground")
    window.ground.view.set_zoom(3)
    board = window.session.document.project.grounds[0].board
    window.ground.view.centre_on(*board.flat("cells", 7, 9))
    return window


def spot(window, row, column, on="cells"):
    """Where a cell's middle, or a corner, of the ground lies in the view."""
    board = window.session.document.project.grounds[0].board
    y, x = board.flat(on, row, column)
    middle = 0.5 if on == "cells" else 0
    return window.ground.view.point(y + middle, x + middle)


def test_terrain_is_painted_on_a_leaning_ground_and_taken_back(leaning, hand):
    choose(leaning, "areas", terrain=2, radius=0)
    before = painted(leaning.ground.view)
    hand.drag(leaning.ground.view, spot(leaning, 7, 9, "corners"), spot(leaning, 7, 11, "corners"))
    corners = plane_of(leaning.session.document, "areas", "corners")
    assert corners[7, 9] == corners[7, 11] == 2
    hand.move(leaning.ground.view, QPoint(1, 1))
    assert (painted(leaning.ground.view) != before).any()
    leaning.undo()
    assert not (plane_of(leaning.session.document, "areas", "corners") == 2).any()


def test_tiles_are_laid_picked_filled_and_erased_on_a_leaning_ground(leaning, hand):
    view, document = leaning.ground.view, leaning.session.document
    choose(leaning, "things", tile=tile(2, 3))
    hand.click(view, spot(leaning, 6, 8))
    cells = plane_of(document, "things", "cells")
    assert [tuple(place) for place in np.argwhere(cells)] == [(6, 8)]
    leaning.session.choose(tile=tile(5, 3))
    leaning.ground.choose_tool("pick")
    hand.click(view, spot(leaning, 6, 8))
    assert leaning.session.choices.tile == tile(2, 3)
    leaning.ground.choose_tool("area")
    hand.drag(view, spot(leaning, 5, 7), spot(leaning, 8, 10))
    laid = plane_of(document, "things", "cells")
    assert (laid > 0).sum() > 8
    leaning.ground.choose_tool("fill")
    hand.click(view, spot(leaning, 6, 8))
    leaning.ground.choose_tool("erase")
    hand.click(view, spot(leaning, 6, 8))
    assert plane_of(document, "things", "cells")[6, 8] == 0
    for _ in range(3):
        leaning.undo()
    assert (plane_of(document, "things", "cells") == cells).sum() >= cells.size - 16


def test_a_shade_darkens_what_lies_below_smoothly(working, hand):
    document = working.session.document
    shade = add_layer(document, "ground", "Dusk", None, "shade")
    choose(working, "things", "fill", tile=tile(3, 3))
    hand.on_ground((3, 3))
    bright = painted(working.ground.view)
    choose(working, shade, terrain=1, radius=0)
    hand.on_ground((4.5, 5.5), (4.5, 9.5))
    hand.move(working.ground.view, QPoint(1, 1))
    dark = painted(working.ground.view)
    at = hand.cell(4.5, 7.5).toPoint()
    sums = [int(picture[at.y(), at.x(), :3].astype(int).sum()) for picture in (bright, dark)]
    assert sums[1] < sums[0]
    far = hand.cell(9, 12).toPoint()
    assert (bright[far.y(), far.x()] == dark[far.y(), far.x()]).all()


def test_a_layers_look_is_seen_while_it_is_changed_and_can_be_taken_back(working, qtbot):
    document = working.session.document
    layer = document.project.grounds[0].layer("things")
    for ending in ("reject", "accept"):
        dialog = LayerDialog(working, working.session, layer)
        dialog.show()
        named(dialog, QSlider, "Opacity in per cent").setValue(40)
        assert document.project.grounds[0].layer("things").opacity == 0.4
        getattr(dialog, ending)()
        assert document.project.grounds[0].layer("things").opacity == (1.0 if ending == "reject" else 0.4)
    working.undo()
    assert document.project.grounds[0].layer("things").opacity == 1.0


def test_the_ground_can_be_asked_for_while_there_is_none(working, hand):
    document = working.session.document
    document.define("remove", replace(document.project, grounds=(), recipes=()))
    working.session.set_stage("joins")
    assert named(working, QPushButton, "Proof").isChecked()
    QTest.mouseClick(named(working, QPushButton, "Ground"), Qt.MouseButton.LeftButton)
    assert named(working, QPushButton, "Ground").isChecked()
    assert named(working, QAbstractButton, "New ground…").isVisible()
    QTest.mouseClick(named(working, QPushButton, "Proof"), Qt.MouseButton.LeftButton)
    assert working.ground.view.shows_proof


def test_no_weight_is_told_or_taken_while_no_tile_is_chosen(working):
    working.session.set_stage("joins")
    weight = named(working, QDoubleSpinBox, "Weight")
    working.session.choose(tile=None)
    assert not weight.isEnabled()
    assert weight.text() == ""
    working.session.choose(tile=tile(2, 0))
    assert weight.isEnabled()
    assert weight.text().replace(",", ".") == "1.00"


def test_an_empty_start_leaves_the_projects_name_alone(window, tmp_path, qtbot):
    window.activateWindow()
    project = named(window, QAbstractButton, "Project")
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None)
    assert not project.hasFocus()
    (tmp_path / "art.png").write_bytes(png(sheet_of_tiles(4, 4)))
    bring(window, tmp_path / "art.png")
    assert not project.hasFocus()
    assert not window.windowIcon().isNull()


def test_alt_p_opens_the_menu_of_the_project(window, qtbot):
    QTest.keyClick(window.ground.view, Qt.Key.Key_P, Qt.KeyboardModifier.AltModifier)
    qtbot.waitUntil(lambda: QApplication.activePopupWidget() is not None)
    menu = QApplication.activePopupWidget()
    assert "Save" in [action.text() for action in menu.actions()]
    menu.close()


def test_commands_that_clash_are_refused(working):
    commands = Commands(working, working.ground.view)
    commands.extend([Command("Knit", print, ("Ctrl+K",))])
    with pytest.raises(ValueError, match="called Knit"):
        commands.extend([Command("Knit", print)])
    with pytest.raises(ValueError, match="same key"):
        commands.extend([Command("Purl", print, ("Ctrl+K",), "ground")])


def test_all_keys_are_those_of_commands_which_are_free_of_clashes(working):
    """A button with a key of its own would clash unseen, and then neither is done."""
    for stage in STAGES:
        working.session.set_stage(stage)
    own = [one.text() or one.toolTip() for one in working.findChildren(QAbstractButton) if not one.shortcut().isEmpty()]
    assert own == []
    keys = [key.toString() for action in working.findChildren(QAction) for key in action.shortcuts()]
    assert "Ctrl+Shift+G" in keys


@pytest.mark.parametrize("focus", ["sheet", "ground"])
def test_the_numbers_of_a_cut_are_guessed_by_key_wherever_the_focus_is(working, focus, qtbot):
    working.session.set_stage("sheet")
    set_cut(working.session.document, "art", Cut("tiles", 11, 13))
    on = working.ground.view if focus == "ground" else working.panels["sheet"].view
    on.setFocus()
    QTest.keyClick(on, Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: working.session.document.project.sheets[0].cuts[0].tile_width == 8, timeout=20_000)
    QApplication.activePopupWidget().close()


def test_a_second_window_on_a_project_is_read_only_and_says_why(window, qapp, tmp_path, monkeypatch):
    folder = tmp_path / "shared"
    make_document().save(folder)
    assert window.keeper.open_path(folder)
    other = open_window(qapp, None)
    said = []
    other.session.said.connect(lambda text, bad: said.append(text))
    other.keeper.open_path(folder)
    assert other.keeper.read_only
    assert not window.keeper.read_only
    assert "another window" in said[-1]
    said.clear()
    theirs, before = Hand(other), other.session.document.state
    choose(other, "things", "draw", tile=tile(2, 3))
    theirs.on_ground((2, 2), (6, 6))
    assert other.session.document.state == before
    assert "save it in another folder" in said[-1]
    assert not other.keeper.save()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *args: (str(tmp_path / "copy"), ""))
    assert other.keeper.save_as()
    theirs.on_ground((2, 2), (6, 6))
    assert other.session.document.changed
    other.session.document.discard_changes()
    other.close()
    other.deleteLater()


def begin_a_large_fill(window, hand):
    window.session.open(make_document(1200, 1100))
    window.session.set_stage("ground")
    choose(window, "things", "fill", tile=tile(3, 3))
    hand.on_ground((4, 4))
    assert window.session.document.gesture is None


def test_a_ground_is_resized_while_it_is_filled(window, hand, qtbot):
    said = []
    window.session.said.connect(lambda text, bad: said.append(text))
    begin_a_large_fill(window, hand)
    document = window.session.document
    resize_ground(document, "ground", 30, 20)
    window.session.wait_for_checks()
    qtbot.waitUntil(lambda: bool(said) or bool(plane_of(document, "things", "cells").any()), timeout=20_000)
    assert plane_of(document, "things", "cells").shape == (20, 30)
    window.undo()
    assert document.project.grounds[0].width == 1200
    window.session.choose(tile=tile(1, 3))
    window.ground.choose_tool("draw")
    hand.on_ground((4, 4))
    assert plane_of(document, "things", "cells")[4, 4] > 0


def test_another_project_is_opened_while_a_ground_is_filled(window, hand):
    begin_a_large_fill(window, hand)
    first = window.session.document
    window.session.open(make_document())
    window.session.wait_for_checks()
    QApplication.processEvents()
    assert not plane_of(window.session.document, "things", "cells").any()
    assert not first.changed or not plane_of(first, "things", "cells").any()
    assert isinstance(window.session.document, Document)


@pytest.mark.parametrize("grid", ["square", "diamond", "staggered"])
def test_what_a_fill_would_reach_is_tinted_where_it_lies_also_from_afar(window, hand, qtbot, grid):
    document = make_document(400, 400, grid=grid)
    island = np.zeros((400, 400), dtype=np.int32)
    island[100:300, 50:250] = document.palette.code(tile(1, 3))
    island[150:200, 100:150] = 0
    poke(document, "things", "cells", np.s_[:], island)
    window.session.open(document)
    window.session.set_stage("ground")
    choose(window, "things", tile=tile(5, 3))
    view = window.ground.view
    window.commands.action("See the whole ground").trigger()
    QApplication.processEvents()
    hand.move(view, QPoint(1, 1))
    qtbot.waitUntil(lambda: (painted(view) == painted(view)).all(), timeout=5000)  # it is drawn bit by bit
    before = painted(view)
    window.ground.choose_tool("fill")
    hand.move(view, spot(window, 280, 200))
    tinted = (painted(view) != before).any(axis=2)
    for row, column, inside in (
        (120, 60, True),
        (120, 240, True),
        (290, 60, True),
        (175, 125, False),
        (60, 200, False),
    ):
        at = spot(window, row, column).toPoint()
        near = tinted[at.y() - 3 : at.y() + 4, at.x() - 3 : at.x() + 4]
        assert near.all() if inside else not near.any(), (row, column)


def _with_a_wall(leaning, hand):
    """Lays a wall twice as high as its cell, and takes a layer for roofs in hand; its id."""
    session, ground = leaning.session, leaning.session.ground
    sheet = session.document.project.sheets[0]
    set_cut(session.document, sheet.id, replace(sheet.cuts[0], anchor="bottom"))
    put(session.document, "cells", "grounds", replace(ground, tile_height=ground.tile_height // 2))
    change_layer(session.document, ground.id, "areas", "hide", visible=False)
    choose(leaning, "things", tile=tile(2, 3))
    hand.click(leaning.ground.view, spot(leaning, 6, 8))
    roofs = add_layer(session.document, ground.id, "Roofs")
    choose(leaning, roofs, tile=tile(5, 3))
    return roofs


def test_a_roof_laid_within_walls_is_told_and_lifted_onto_them_at_a_click(leaning, hand):
    session, view, ground = leaning.session, leaning.ground.view, leaning.session.ground
    roofs = _with_a_wall(leaning, hand)
    hand.click(view, spot(leaning, 6, 10))
    assert "stands inside" not in says(leaning.ledger)
    hand.click(view, spot(leaning, 6, 8))
    assert f"It stands inside of what “{ground.layer('things').name}” holds there." in says(leaning.ledger)
    press(leaning.ledger, "Lay the layer at hand on top of what stands below")
    assert session.ground.layer(roofs).offset_y == -ground.tile_height // 2
    leaning.undo()
    hand.click(view, spot(leaning, 6, 8))
    assert session.ground.layer(roofs).offset_y == 0


def test_a_roof_laid_where_a_wall_is_seen_is_brought_onto_it_at_a_click(leaning, hand):
    session, view, ground = leaning.session, leaning.ground.view, leaning.session.ground
    roofs = _with_a_wall(leaning, hand)
    y, x = ground.board.flat("cells", 6, 8)
    hand.click(view, spot(leaning, *ground.board.stored("cells", y - 1, x - 1)))
    assert f"It lies on the ground behind what “{ground.layer('things').name}” holds there" in says(leaning.ledger)
    press(leaning.ledger, "Lay the last stroke on top of what stands there")
    cells = session.document.state.planes[ground.id][roofs]["cells"].read(ground.board.whole)
    assert np.argwhere(cells).tolist() == [[6, 8]]
    assert "px higher than what it stands on" in says(leaning.ledger)
    hand.click(view, spot(leaning, 7, 8))
    assert "It lies on the ground" not in says(leaning.ledger), "it is lifted now"


def test_a_thing_placed_where_a_wall_is_seen_is_brought_onto_it_at_a_click(leaning, hand):
    session, view, ground = leaning.session, leaning.ground.view, leaning.session.ground
    _with_a_wall(leaning, hand)
    props = add_layer(session.document, ground.id, "Lamps", kind="props")
    choose(leaning, props, tile=tile(5, 3))
    hand.click(view, spot(leaning, 6, 10))
    assert "It lies on the ground" not in says(leaning.ledger)
    y, x = ground.board.flat("cells", 6, 8)
    hand.click(view, spot(leaning, *ground.board.stored("cells", y - 1, x - 1)))
    assert f"It lies on the ground behind what “{ground.layer('things').name}” holds there" in says(leaning.ledger)
    press(leaning.ledger, "Stand the chosen things on top of what they are seen on")
    assert session.layer.name == "Lamps on top"
    assert "“Lamps on top” lies" in says(leaning.ledger)
    assert session.choices.things == {one.id for one in session.layer.things}
    assert len(session.ground.layer(props).things) == 1


def test_a_figure_stands_on_top_of_the_wall_at_which_one_points(leaning, hand, monkeypatch):
    session, view, walker = leaning.session, leaning.ground.view, leaning.walker
    _with_a_wall(leaning, hand)
    ground = session.ground
    rises = {}
    for name, lift in (("below", 0), ("on top", ground.tile_height)):
        at = spot(leaning, 6, 11 if name == "below" else 8).toPoint() - QPoint(0, 3 * lift)
        monkeypatch.setattr(QCursor, "pos", lambda *_, at=at: view.mapToGlobal(at))
        leaning.commands.action("Walk from the pointer").trigger()
        walker._timer.stop()
        cell = ground.board.cell_at(*ground.projection.place(*walker.spot))
        assert cell == ((6, 11) if name == "below" else (6, 8))
        walked, foot = painted(view).copy(), view.rect_on_widget(*walker.spot, 1, 1).top()
        walker.end()
        rises[name] = foot - np.argwhere((painted(view) != walked).any(axis=2))[:, 0].min()
    assert rises["on top"] - rises["below"] == pytest.approx(ground.tile_height * view.zoom, abs=view.zoom)
