"""Cutting in the real window: parts, cells in and out, loose pieces, better numbers, what is transparent."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QSpinBox

from knitground.app.ground.usual_cell import usual_cell, usual_grid
from knitground.app.sheet.exchange_dialog import ExchangeDialog
from knitground.app.sheet.magnifier import Magnifier
from knitground.core.edits.cuts import set_parts
from knitground.core.edits.sheets import set_cut
from knitground.core.sheet.cut import Cell, Cut, Rect
from making import add_sheet, png, sheet_of_tiles
from window.choosing import bring, draw_part
from window.finding import in_dialog, named, open_menu, press, says

LEFT = Qt.MouseButton.LeftButton
SMALL = Rect(109, 3, 80, 80)
"""Round the small tiles."""


def two_grids() -> np.ndarray:
    """Tiles of 16 on the left, and of 8 with gutters on the right."""
    picture = np.zeros((96, 200, 4), dtype=np.uint8)
    picture[:, :96] = sheet_of_tiles(6, 6, 16, seed=1)
    small = sheet_of_tiles(8, 8, 8, 0, 2, seed=2)
    picture[4 : 4 + small.shape[0], 110 : 110 + small.shape[1]] = small
    return picture


@pytest.fixture
def panel(window, tmp_path):
    """The sheet stage on a strange sheet with two grids, cut by one."""
    path = tmp_path / "two.png"
    path.write_bytes(png(two_grids()))
    bring(window, path)
    made = window.panels["sheet"]
    set_parts(window.session.document, "two", [Cut("tiles", 16, 16)])
    return made


def cut_of(window, number: int = 0) -> Cut:
    return window.session.document.project.sheets[0].cuts[number]


def at(panel, x: float, y: float) -> QPointF:
    return panel.view.to_widget(x, y)


def middle(panel, column: int, row: int) -> QPointF:
    return panel.view.tile_on_widget(column, row).center()


def test_a_part_is_drawn_and_cut_by_numbers_of_its_own(window, hand, panel, qtbot):
    draw_part(window, hand, qtbot, SMALL)
    part = cut_of(window, 1)
    assert (part.tile_width, part.spacing_x) == (8, 2)
    assert part.region == (110, 4, 78, 78)
    assert panel.view.cut == part
    assert not panel.cut_card.add.isChecked()
    # Back to the other by a click on it.
    hand.click(panel.view, middle_of_first(panel))
    assert panel.view.cut.id == "tiles"
    press(panel, part.id)
    assert panel.view.cut == part
    panel.cut_card.pages.show_page("Part")
    assert panel.cut_card.part.boxes["part_x"].value() == 110
    press(panel, "Remove this part")
    assert len(window.session.document.project.sheets[0].cuts) == 1


def middle_of_first(panel) -> QPointF:
    return at(panel, 24, 24)


def test_tiles_of_all_parts_can_be_chosen_in_the_other_stages(window, hand, panel, qtbot):
    draw_part(window, hand, qtbot, SMALL)
    window.session.set_stage("ground")
    view = window.panels["ground"].view
    for x, y, cut in ((24, 24, "tiles"), (124, 18, cut_of(window, 1).id)):
        hand.click(view, view.to_widget(x, y))
        assert window.session.choices.tile.cut == cut


def test_a_part_is_dragged_by_its_corners(window, hand, panel):
    panel.cut_card.pages.show_page("Part")
    panel.cut_card.part.boxes["part_x"].setValue(16)
    panel.cut_card.part.boxes["part_width"].setValue(64)
    assert cut_of(window).region == (16, 0, 64, 96)
    handle = panel.mode.handles(panel.view)["part size"]
    hand.drag(panel.view, handle, handle + QPointF(16, 0) * panel.view.zoom)
    assert cut_of(window).region == (16, 0, 80, 96)
    press(panel, "The whole picture")
    assert cut_of(window).region is None


def test_a_click_leaves_a_cell_out_and_takes_it_in(window, hand, panel):
    hand.click(panel.view, middle(panel, 3, 2))
    assert cut_of(window).left_out == (Cell(3, 2),)
    assert "1 left out" in says(panel)
    hand.click(panel.view, middle(panel, 3, 2))
    assert cut_of(window).left_out == ()
    window.undo()
    assert cut_of(window).left_out == (Cell(3, 2),)


def test_arrows_nudge_the_handle_that_was_touched_last(window, hand, panel):
    view = panel.view
    hand.key(view, Qt.Key.Key_Right)
    hand.key(view, Qt.Key.Key_Down)
    assert (cut_of(window).margin_x, cut_of(window).margin_y) == (1, 1)
    hand.key(view, Qt.Key.Key_H)
    hand.key(view, Qt.Key.Key_Left)
    assert cut_of(window).tile_width == 15
    hand.click(view, panel.mode.handles(view)["spacing"])
    hand.key(view, Qt.Key.Key_Right)
    assert cut_of(window).spacing_x == 1


def test_a_sheet_with_two_grids_is_cut_in_two_parts_which_a_guess_brings_back(window, tmp_path, qtbot):
    (tmp_path / "two.png").write_bytes(png(two_grids()))
    said = []
    window.session.said.connect(lambda sentence, problem: said.append(sentence))
    bring(window, tmp_path / "two.png")
    sheet = lambda: window.session.document.project.sheets[0]  # noqa: E731
    parts = sheet().cuts
    assert [(cut.tile_width, cut.spacing_x, cut.region) for cut in parts] == [
        (16, 0, Rect(0, 0, 96, 96)),
        (8, 2, Rect(110, 4, 78, 78)),
    ]
    assert any("shows 2 grids" in sentence for sentence in said)
    set_parts(window.session.document, "two", [Cut("tiles", 24, 24)])
    QTest.mouseClick(named(window.panels["sheet"], QAbstractButton, "Guess the numbers"), LEFT)
    qtbot.waitUntil(lambda: sheet().cuts == parts, timeout=20_000)
    menu = QApplication.activePopupWidget()
    lines = [action.text() for action in menu.actions()]
    assert lines[0] == "2 grids, each a part: 16 x 16, 8 x 8"
    next(action for action in menu.actions() if "%" in action.text()).trigger()
    menu.close()
    assert len(sheet().cuts) == 1
    window.undo()
    assert sheet().cuts == parts


def test_better_numbers_are_offered_and_taken_by_a_click(window, qtbot, tmp_path):
    picture = sheet_of_tiles(14, 10, 16, 2, 2, seed=3)
    picture[..., :3] = picture[..., :3] // 60 * 60
    (tmp_path / "a.png").write_bytes(png(picture))
    bring(window, tmp_path / "a.png")
    grid = window.panels["sheet"].cut_card.grid
    right = Cut("tiles", 16, 16, 2, 2, 2, 2)
    set_cut(window.session.document, "a", replace(right, spacing_x=3))
    qtbot.waitUntil(grid.fix.isVisible)
    assert "1 px less spacing across cuts " in says(grid)
    QTest.mouseClick(grid.fix, LEFT)
    assert cut_of(window) == right
    qtbot.waitUntil(lambda: not grid.fix.isVisible())


def test_loose_pieces_are_found_and_told_apart_by_the_gap(window, hand, panel):
    set_cut(window.session.document, "two", replace(cut_of(window), region=Rect(100, 0, 100, 96)))
    QTest.mouseClick(panel.cut_card.grid.loose, LEFT)
    assert len(cut_of(window).pieces) == 64
    named(panel, QSpinBox, "gap").setValue(2)
    assert len(cut_of(window).pieces) == 1
    panel.view.grab()
    QTest.mouseClick(panel.cut_card.grid.loose, LEFT)
    assert cut_of(window).pieces == ()


def test_the_backdrop_changes_what_shows_through(window, hand, panel):
    box = named(panel, QComboBox, "Backdrop")
    colours = set()
    for index in range(3):
        box.setCurrentIndex(index)
        box.activated.emit(index)
        colours.add(QColor(panel.view.grab().toImage().pixel(at(panel, 105, 50).toPoint())).name())
    assert {"#f2f2f2", "#1c1c1c"} < colours


def take(box: QComboBox, data: str) -> None:
    """Takes an entry of a list that opens, by the keyboard."""
    box.setFocus()
    QTest.keyClick(box, Qt.Key.Key_Home)
    for _ in range(box.findData(data)):
        QTest.keyClick(box, Qt.Key.Key_Down)


def test_an_anchor_and_an_offset_say_how_tiles_stand(window, hand, panel):
    stand = panel.cut_card.stand
    panel.cut_card.pages.show_page("Standing")
    stand.picture.grab()
    QTest.mouseClick(stand.anchors["top-right"], LEFT)
    named(panel, QSpinBox, "offset x").setValue(-7)
    take(stand.shape, "isometric")
    cut = cut_of(window)
    assert (cut.anchor, cut.offset_x, cut.shape) == ("top-right", -7, "isometric")
    stand.picture.grab()
    panel.view.grab()
    window.undo()
    assert stand.shape.currentData() == "square"
    take(stand.shape, "hex-flat")
    assert (cut_of(window).shape, cut_of(window).footprint) == ("hex-flat", (16, 16))
    panel.view.grab()


def test_tiles_are_dragged_to_where_they_stand_and_moved_by_keys(window, hand, panel):
    stand = panel.cut_card.stand
    panel.cut_card.pages.show_page("Standing")
    stand.picture.grab()
    before = cut_of(window)
    scale = stand.picture._scale
    hand.drag(stand.picture, QPointF(60, 60), QPointF(60 + 2 * scale, 60), QPointF(60 + 3 * scale, 60 - 5 * scale))
    assert (cut_of(window).offset_x, cut_of(window).offset_y) == (before.offset_x + 3, before.offset_y - 5)
    hand.key(stand.picture, Qt.Key.Key_Left)
    assert cut_of(window).offset_x == before.offset_x + 2
    window.undo()
    window.undo()
    assert cut_of(window) == before
    press(panel, "By their foot")
    assert cut_of(window).anchor == "bottom"
    window.undo()
    assert cut_of(window) == before


def test_the_magnifier_shows_the_far_corner(window, panel):
    far = panel.findChild(Magnifier)
    before = far.grab().toImage()
    set_cut(window.session.document, "two", replace(cut_of(window), spacing_x=1))
    QApplication.processEvents()
    assert far.grab().toImage() != before


def test_a_sheet_is_exchanged_only_after_its_mapping_was_shown(window, panel, tmp_path, qtbot):
    (tmp_path / "new.png").write_bytes(png(sheet_of_tiles(4, 9, 32, seed=8)))
    panel.exchange_for(tmp_path / "new.png")
    qtbot.waitUntil(lambda: isinstance(QApplication.activeModalWidget(), ExchangeDialog), timeout=5000)
    dialog = QApplication.activeModalWidget()
    assert "24 of " in says(dialog)
    dialog.way.setCurrentIndex(1)
    dialog.way.activated.emit(1)
    assert "36 of " in says(dialog)
    dialog.grab()
    dialog.take.click()
    qtbot.waitUntil(lambda: cut_of(window).tile_width == 32, timeout=5000)
    window.undo()
    assert cut_of(window).tile_width == 16


def test_a_sheet_is_packed_anew_from_its_dialog(window, panel, qtbot):
    def look(dialog) -> None:
        dialog.boxes["spacing"].setValue(3)
        dialog.boxes["extrude"].setValue(1)
        dialog.power.click()
        assert "Leave copies away first" in dialog.turned.toolTip()
        dialog.unique.click()
        dialog.turned.click()
        dialog.show_packed()
        qtbot.waitUntil(dialog.use.isEnabled, timeout=20_000)
        assert "256 x 128 px. 0 copies are left away." in says(dialog).splitlines()
        dialog.grab()
        dialog.use.click()

    in_dialog(look)
    panel.pack_anew()
    assert (cut_of(window).margin_x, cut_of(window).spacing_x) == (1, 5)
    assert panel.view.content_size() == (256, 128)


def test_the_menus_of_the_stage_open(window, panel):
    for name, first in (("More to do", "Tiles that look the same…"), ("Add ", "A sprite sheet, GIF or APNG…")):
        press(panel, name)
        menu = open_menu()
        assert menu.actions()[0].text() == first
        menu.close()


def test_handles_of_a_part_at_the_edge_of_the_view_can_be_taken_hold_of(window, hand, panel):
    panel.cut_card.part.boxes["part_width"].setValue(64)
    view = panel.view
    view.set_zoom(2)
    view._move_to(QPointF(4, 4))
    handles = panel.mode.handles(view)
    assert all(view.rect().adjusted(4, 4, -4, -4).contains(handles[name].toPoint()) for name in ("part", "margin"))
    hand.drag(view, handles["part"], handles["part"] + QPointF(16, 0))
    assert cut_of(window).region.x == 8


def test_a_new_ground_for_isometric_tiles_is_isometric_before_one_is_in_hand(window):
    document = window.session.document
    add_sheet(document, "floors.png", png(np.full((40, 120, 4), 255, np.uint8)))
    cut = document.project.sheets[-1].cuts[0].id
    set_cut(document, "floors", Cut(cut, 40, 40, shape="isometric", anchor="bottom"))
    window.session.choose(sheet_id="floors", cut_id=cut, tile=None)
    assert usual_grid(window.session) == "diamond"
    assert usual_cell(window.session, "diamond") == (40, 20)
    set_cut(document, "floors", Cut(cut, 40, 40))
    assert usual_grid(window.session) == "square"
    assert usual_cell(window.session, "square") == (40, 40)


def test_a_new_ground_is_of_the_tiles_at_hand_and_never_of_a_cut_that_has_none(window, hand, panel, qtbot):
    def new() -> tuple[int, int]:
        return usual_cell(window.session, "square")

    assert new() == (16, 16)
    draw_part(window, hand, qtbot, SMALL)
    panel.show_work("Tiles")
    hand.click(panel.view, at(panel, 114, 8))
    assert new() == (8, 8)
    window.session.choose(tile=None)
    assert new() == (16, 16)
    window.session.document.state.pictures["two"].pixels[:, :100] = 0
    window.session.document.redrawn(panel.view.sheet, window.session.document.state.pictures["two"])
    panel.cut_card.grid.boxes["margin_x"].setValue(1)
    assert new() == (8, 8)


def test_guessing_the_whole_again_leaves_the_parts_that_were_drawn(window, hand, panel, qtbot):
    draw_part(window, hand, qtbot, SMALL)
    drawn = cut_of(window, 1)
    set_cut(window.session.document, "two", Cut("tiles", 24, 24))
    window.session.choose(cut_id="tiles")
    QTest.mouseClick(named(panel, QAbstractButton, "Guess the numbers"), LEFT)
    qtbot.waitUntil(lambda: QApplication.activePopupWidget() is not None, timeout=20_000)
    menu = QApplication.activePopupWidget()
    menu.actions()[-1].trigger()
    menu.close()
    assert cut_of(window).tile_width != 24
    assert cut_of(window, 1) == drawn


def test_the_part_that_was_clicked_keeps_the_keys(window, tmp_path):
    (tmp_path / "two.png").write_bytes(png(two_grids()))
    bring(window, tmp_path / "two.png")
    window.activateWindow()
    chip = named(window.panels["sheet"], QAbstractButton, "part-2")
    chip.setFocus()
    QTest.mouseClick(chip, LEFT)
    QApplication.processEvents()
    assert window.session.choices.cut_id == "part-2"
    focused = window.panels["sheet"].focusWidget()
    assert focused.text() == "part-2"
    assert focused.isChecked()
