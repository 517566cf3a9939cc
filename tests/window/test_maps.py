"""Several maps: duplicated, removed, cropped, gone through by keys; finding one's way on a map."""

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QColorDialog,
    QComboBox,
    QDialogButtonBox,
    QFileDialog,
    QInputDialog,
    QLabel,
    QSpinBox,
    QToolButton,
)

from knitground.app.ground.about_ground import AboutGround
from knitground.app.ground.beside_dialog import BesideDialog
from knitground.app.ground.colour_dialog import ColourDialog
from knitground.app.ground.drawn_map import DrawnMapDialog
from knitground.app.ground.new_ground import GroundDialog
from knitground.core.edits.grounds import duplicate_ground, resize_ground
from knitground.core.ground.ground import Neighbour
from making import poke, tile
from window.choosing import choose, plane
from window.finding import entry, layer_button, menu_of, named, open_menu, painted, press, says, take

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


def test_a_ground_grows_about_its_middle_and_tells_what_would_fall_away(working, monkeypatch):
    session = working.session
    poke(session.document, "things", "cells", np.s_[0, 0], session.document.palette.code(tile(2, 3)))
    told = []

    def answer(dialog) -> bool:
        named(dialog, QToolButton, "What stays: the middle", shown=False).click()
        for box, side in zip(dialog.findChildren(QSpinBox), (10, 9), strict=False):
            box.setValue(side)
        told.append(" ".join(label.text() for label in dialog.findChildren(QLabel)))
        for box, side in zip(dialog.findChildren(QSpinBox), (30, 21), strict=False):
            box.setValue(side)
        told.append(" ".join(label.text() for label in dialog.findChildren(QLabel)))
        return True

    monkeypatch.setattr(GroundDialog, "exec", answer)
    press(working.panels["ground"], "Name and size…")
    assert "1 painted places would fall away" in told[0]
    assert "Nothing painted would fall away" in told[1]
    assert (session.ground.width, session.ground.height) == (30, 21)
    assert plane(working, "things", "cells")[3, 5]
    working.undo()
    assert (session.ground.width, session.ground.height) == (20, 15)


def test_a_ground_is_shifted_and_described_from_its_menu(working, monkeypatch):
    session, panel = working.session, working.panels["ground"]
    poke(session.document, "things", "cells", np.s_[0, 0], session.document.palette.code(tile(2, 3)))
    answers = iter([("three", True), ("-3, 2", True)])
    monkeypatch.setattr(QInputDialog, "getText", lambda *of, **more: next(answers))
    for _ in range(2):
        press(panel, "More to do with this ground")
        take(open_menu(), "Shift the ground")
    assert plane(working, "things", "cells")[2, 17]
    monkeypatch.setattr(QColorDialog, "getColor", lambda *of: QColor("#445566"))

    def describe(dialog) -> int:
        press(dialog, "Background")
        dialog.said.new_tag.setText("roof")
        dialog.said.new_tag.setModified(True)
        QTest.keyClick(dialog.said.new_tag, Qt.Key.Key_Return)
        dialog.said.new_name.setText("music")
        dialog.said.new_name.setModified(True)
        QTest.keyClick(dialog.said.new_name, Qt.Key.Key_Return)
        return 0

    monkeypatch.setattr(AboutGround, "exec", lambda dialog: (dialog.show(), describe(dialog), dialog.close())[1])
    press(panel, "More to do with this ground")
    take(open_menu(), "Background, tags")
    ground = session.ground
    assert (ground.background, ground.tags, list(ground.properties)) == ("#445566", ("roof",), ["music"])


def test_grounds_are_pictured_and_moved_in_their_list(working):
    panel = working.panels["ground"]
    press(panel, "More to do with this ground")
    take(open_menu(), "Duplicate the ground")
    first, second = names(working)
    box = named(panel, QComboBox, "Ground")
    box.showPopup()
    assert not box.itemIcon(0).isNull()
    box.hidePopup()
    press(panel, "More to do with this ground")
    take(open_menu(), "Move the ground up")
    assert names(working) == [second, first]


def test_a_layer_goes_out_as_a_picture_and_comes_in_with_what_its_colours_stand_for(working, monkeypatch, tmp_path):
    session, file = working.session, tmp_path / "areas.png"
    second = session.document.project.join_sets[0].terrains[1]
    poke(session.document, "areas", "corners", np.s_[3:6, 4:9], 2)
    before = plane(working, "areas", "corners").copy()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *of: (str(file), ""))
    take(menu_of(layer_button(working, "Areas")), "Write as a picture")
    assert Image.open(file).mode == "P"
    assert second.name in session.document.project.colours.values()
    poke(session.document, "areas", "corners", np.s_[:, :], 1)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *of: (str(file), ""))
    asked = []

    def answer(dialog) -> bool:
        asked.append(dialog.table)
        return True

    monkeypatch.setattr(ColourDialog, "exec", answer)
    take(menu_of(layer_button(working, "Areas")), "Paint by a picture")
    assert second.name in asked[0].values()
    assert np.array_equal(plane(working, "areas", "corners"), before)
    working.undo()
    assert (plane(working, "areas", "corners") == 1).all()
    file.write_bytes(b"no picture")
    take(menu_of(layer_button(working, "Areas")), "Paint by a picture")
    assert "areas.png" in says(working.ledger)


def test_a_map_is_put_beside_another_and_shows_there_dimmed(working, monkeypatch):
    session, view = working.session, working.ground.view
    other = duplicate_ground(session.document, "ground")
    poke(session.document, "things", "cells", np.s_[:, :], session.document.palette.code(tile(3, 3)), other)
    view.centre_on(160, 60)
    alone = painted(view)

    def answer(dialog) -> bool:
        box = dialog.maps["east"]
        box.setCurrentIndex(box.findData(other))
        box.activated.emit(box.currentIndex())
        dialog.shifts["east"].setValue(5)
        return True

    monkeypatch.setattr(BesideDialog, "exec", answer)
    press(working.panels["ground"], "More to do with this ground")
    take(open_menu(), "Maps beside this one")
    assert session.ground.east == Neighbour(other, 5)
    shown = painted(view)
    while not np.array_equal(shown, again := painted(view)):
        shown = again
    right = view.point(6, 21).toPoint(), view.point(2, 21).toPoint()
    beside, above = (shown[at.y(), at.x()].astype(int) for at in right)
    assert np.abs(beside - alone[right[0].y(), right[0].x()]).max() > 3
    assert np.array_equal(above, alone[right[1].y(), right[1].x()])
    # What is painted on the common border is painted on both, and undone in one step.
    choose(working, "areas", "draw", terrain=2, radius=0)
    before = session.document.state.planes
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.point(8, 20).toPoint() - QPoint(1, 0))
    assert plane(working, "areas", "corners")[8, 20] == 2
    assert np.asarray(session.document.state.planes[other]["areas"]["corners"])[3, 0] == 2
    working.undo()
    assert session.document.state.planes == before
    working.undo()
    working.undo()
    assert session.ground.east is None


def test_a_layer_goes_out_as_rows_of_names_and_comes_in_again(working, monkeypatch, tmp_path):
    file = tmp_path / "areas.csv"
    poke(working.session.document, "areas", "corners", np.s_[3:6, 4:9], 2)
    before = plane(working, "areas", "corners").copy()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *of: (str(file), ""))
    take(menu_of(layer_button(working, "Areas")), "Write as rows")
    assert working.session.document.project.join_sets[0].terrains[1].name in file.read_text()
    poke(working.session.document, "areas", "corners", np.s_[:, :], 1)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *of: (str(file), ""))
    take(menu_of(layer_button(working, "Areas")), "Paint by rows")
    assert np.array_equal(plane(working, "areas", "corners"), before)
    file.write_bytes(b"\xff\xfe\x00")
    take(menu_of(layer_button(working, "Areas")), "Paint by rows")
    assert "no text in UTF-8" in says(working.ledger)


def test_a_drawn_map_becomes_a_ground_of_its_tiles(working, monkeypatch, qtbot, tmp_path):
    file, session = tmp_path / "yard.png", working.session
    colours = np.random.default_rng(3).integers(0, 4, (6, 9))
    pixels = np.array([[200, 20, 20, 255], [20, 200, 20, 255], [20, 20, 200, 255], [0, 0, 0, 0]], dtype=np.uint8)
    Image.fromarray(pixels[colours].repeat(12, axis=0).repeat(10, axis=1)).save(file)
    before = names(working)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *of: (str(file), ""))

    def answer(dialog) -> bool:
        okay = dialog.findChild(QDialogButtonBox).button(QDialogButtonBox.StandardButton.Ok)
        dialog.width_box.setValue(7)
        assert not okay.isEnabled()
        dialog.width_box.setValue(10)
        dialog.height_box.setValue(12)
        assert okay.isEnabled()
        return True

    monkeypatch.setattr(DrawnMapDialog, "exec", answer)
    press(working.panels["ground"], "More to do with this ground")
    take(open_menu(), "New ground from a drawn map")
    qtbot.waitUntil(lambda: names(working) == [*before, "yard"], timeout=20_000)
    ground = session.ground
    assert (ground.name, ground.width, ground.height) == ("yard", 9, 6)
    laid = np.asarray(session.document.state.planes[ground.id][ground.layers[0].id]["cells"])
    assert np.array_equal(laid > 0, colours < 3)
    assert len(np.unique(laid[laid > 0])) == len(np.unique(colours[colours < 3]))
    working.undo()
    assert names(working) == before
    file.write_bytes(b"no picture")
    press(working.panels["ground"], "More to do with this ground")
    take(open_menu(), "New ground from a drawn map")
    assert "yard.png" in says(working.ledger)
