"""Choosing and describing tiles in the real window."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QDialog, QLineEdit, QPushButton

from knitground.app.ground.new_ground import GroundDialog
from knitground.app.widgets import Elided
from knitground.core.edits.importing import add_collection
from knitground.core.edits.notes import add_tag, set_property, set_weight
from knitground.core.grid.rect import CellRect as Cells
from knitground.core.project.model import Picture
from knitground.core.tiles.notes import property_of
from knitground.core.tiles.tile import TileRef
from making import SIDE, add_sheet, cell_pixels, plane_of, png, sheet_of_tiles, tile, together
from window.choosing import click
from window.finding import in_dialog, named, press, says

LEFT = Qt.MouseButton.LeftButton
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def chosen(working) -> set[tuple[int, int]]:
    return {(ref.column, ref.row) for ref in working.session.choices.selection}


def typed(line: QLineEdit, text: str) -> None:
    line.setFocus()
    line.selectAll()
    QTest.keyClicks(line, text)
    QTest.keyClick(line, Qt.Key.Key_Return)


def test_tiles_are_chosen_one_by_one_as_a_block_and_by_a_band(working, hand, card):
    click(working, hand, 2, 1)
    assert chosen(working) == {(2, 1)}
    click(working, hand, 4, 2, SHIFT)
    assert chosen(working) == {(column, row) for column in (2, 3, 4) for row in (1, 2)}
    click(working, hand, 3, 1, CONTROL)
    assert (3, 1) not in chosen(working)
    click(working, hand, 9, 3, CONTROL)
    assert (9, 3) in chosen(working)
    view = working.panels["sheet"].view
    hand.drag(view, *(view.tile_on_widget(*cell).center() for cell in ((6, 0), (7, 0), (7, 1))))
    assert chosen(working) == {(6, 0), (7, 0), (6, 1), (7, 1)}
    assert "4 tiles chosen" in says(working.panels["sheet"])
    hand.key(view, Qt.Key.Key_A, CONTROL)
    assert len(chosen(working)) == 64
    hand.key(view, Qt.Key.Key_Escape)
    assert not chosen(working)


def test_chosen_tiles_are_mixed_and_laid_by_chance_until_one_is_clicked_again(working, hand, card):
    session = working.session
    click(working, hand, 2, 1)
    assert not named(card, QPushButton, "Mix them").isEnabled()
    click(working, hand, 4, 1, SHIFT)
    set_weight(session.document, [tile(3, 1)], 5)
    session.choose(layer_id="things")
    press(card, "Mix them")
    assert {part.tile: part.weight for part in session.mix.parts} == {tile(2, 1): 1, tile(3, 1): 5, tile(4, 1): 1}
    view = working.ground.view
    hand.click(view, view.to_widget(8, 8))
    laid = {
        session.document.palette.ref(int(code)) for code in np.unique(plane_of(session.document, "things", "cells"))
    }
    assert {tile(2, 1), tile(3, 1), tile(4, 1)} <= laid
    press(card, "Mix them")
    assert len(session.document.project.mixes) == 1, "the same tiles are the same mix"
    click(working, hand, 6, 0)
    assert not session.choices.lays_mix


def test_a_long_name_of_a_sheet_leaves_room_for_where_the_tile_lies(working, hand, card):
    name = add_sheet(working.session.document, f"{'a rather long name ' * 3}.png", png(sheet_of_tiles(2, 2)))
    working.session.choose(sheet_id=name, tile=TileRef(name, "tiles", 1, 0), selection=frozenset())
    title = next(one for one in card.findChildren(Elided) if " px" in one.text())
    assert "… 1, 0" in title.text()
    assert title.fontMetrics().horizontalAdvance(title.text().split("\n")[0]) <= title.width()


def test_arrows_move_the_choice_and_with_shift_widen_it(working, hand, card):
    click(working, hand, 2, 1)
    view = working.panels["sheet"].view
    hand.key(view, Qt.Key.Key_Right)
    assert chosen(working) == {(3, 1)}
    hand.key(view, Qt.Key.Key_Down, SHIFT)
    assert chosen(working) == {(3, 1), (3, 2)}


def test_empty_cells_cannot_be_chosen(working, hand, card):
    pixels = working.session.document.state.pictures["art"].pixels.copy()
    pixels[:SIDE, :SIDE] = 0
    working.session.document.redrawn(working.session.document.project.sheets[0], Picture(png(pixels), pixels))
    click(working, hand, 0, 0)
    assert not chosen(working)


def test_all_like_one_are_chosen_flipped_copies_too(working, hand, card):
    pixels = working.session.document.state.pictures["art"].pixels.copy()
    pixels[3 * SIDE :, 5 * SIDE : 6 * SIDE] = pixels[:SIDE, :SIDE][:, ::-1]
    working.session.document.redrawn(working.session.document.project.sheets[0], Picture(png(pixels), pixels))
    click(working, hand, 0, 0)
    QTest.mouseClick(next(one for one in card.findChildren(QPushButton) if one.text() == "All like this"), LEFT)
    assert chosen(working) == {(0, 0), (5, 3)}


def test_mixed_values_show_as_mixed_and_are_not_overwritten_by_accident(working, hand, card, notes):
    document = working.session.document
    set_weight(document, [tile(1, 1)], 4)
    add_tag(document, [tile(1, 1), tile(2, 1)], "roof")
    add_tag(document, [tile(2, 1)], "old")
    set_property(document, [tile(1, 1)], "height", property_of("whole", "3"))
    click(working, hand, 1, 1)
    click(working, hand, 2, 1, CONTROL)
    page = card.notes
    assert (page.weight.text(), page.weight.placeholderText()) == ("", "mixed")
    page.weight.setFocus()
    QTest.keyClick(page.weight, Qt.Key.Key_Return)
    page.said.new_tag.setFocus()
    assert [notes(1, 1).weight, notes(2, 1).weight] == [4, 1]
    line = next(one for one in page.findChildren(QLineEdit) if one.accessibleName() == "height")
    assert line.placeholderText() == "on 1 of 2"
    chips = {chip.text() for chip in page.findChildren(QPushButton)}
    assert {"old  1 of 2", "roof  ×"} <= chips
    typed(line, "7")
    assert [notes(*at).properties["height"].value for at in ((1, 1), (2, 1))] == [7, 7]
    typed(page.weight, "2,5")
    assert [notes(1, 1).weight, notes(2, 1).weight] == [2.5, 2.5]


def test_a_click_on_a_partial_tag_gives_it_to_all_and_the_next_takes_it_off(working, hand, card, notes):
    add_tag(working.session.document, [tile(2, 1)], "old")
    click(working, hand, 1, 1)
    click(working, hand, 2, 1, CONTROL)
    for text, tags in (("old  1 of 2", ("old",)), ("old  ×", ())):
        chip = next(one for one in card.notes.findChildren(QPushButton) if one.text() == text)
        QTest.mouseClick(chip, LEFT)
        assert notes(1, 1).tags == notes(2, 1).tags == tags


def test_tags_properties_and_walking_are_typed_and_ticked(working, hand, card, notes):
    click(working, hand, 1, 1)
    page = card.notes
    typed(page.said.new_tag, "wall")
    kind = named(page, QComboBox, "Kind of the new property", shown=False)
    kind.setCurrentIndex(kind.findData("yes-no"))
    typed(page.said.new_name, "opens")
    QTest.mouseClick(page.walkable, LEFT)
    assert notes(1, 1).tags == ("wall",)
    assert notes(1, 1).properties["opens"].value is False
    assert not notes(1, 1).walkable
    working.undo()
    assert notes(1, 1).walkable
    assert page.walkable.isChecked()


def test_nonsense_is_refused_in_a_sentence_and_changes_nothing(working, hand, card, notes):
    click(working, hand, 1, 1)
    said = []
    working.session.said.connect(lambda sentence, problem: said.append((sentence, problem)))
    typed(card.notes.weight, "heavy")
    assert said[-1] == ("“heavy” is no weight; write a number such as 2.5.", True)
    assert card.notes.weight.text() == "1"
    assert not working.session.document.project.tiles


def test_tiles_are_chosen_by_their_tag(working, hand, card):
    add_tag(working.session.document, [tile(4, 1), tile(9, 3)], "odd")
    card.offer_tags()
    menu = QApplication.activePopupWidget()
    assert menu.actions()[0].text() == "odd   2"
    menu.actions()[0].trigger()
    menu.close()
    assert chosen(working) == {(4, 1), (9, 3)}


def test_a_dropped_folder_of_images_is_a_collection_whose_tiles_can_be_laid(working, hand, qtbot, tmp_path):
    folder = tmp_path / "yard"
    folder.mkdir()
    for number, size in enumerate((6, 20)):
        (folder / f"thing {number}.png").write_bytes(png(sheet_of_tiles(1, 1, size, seed=number)))
    working.keeper.adder.add_images([folder])
    qtbot.waitUntil(lambda: working.session.choices.sheet_id == "yard")
    assert working.session.derived.tile(TileRef("yard", "thing 1", 0, 0)).shape == (20, 20, 4)
    panel = working.panels["sheet"]
    panel.show_work("Tiles")
    hand.click(panel.view, panel.view.rect_of(TileRef("yard", "thing 1", 0, 0)).center())
    working.session.set_stage("ground")
    working.session.choose(layer_id="things")
    before = cell_pixels(working.session.derived, Cells(4, 4, 1, 1)).copy()
    hand.on_ground((6, 4))
    # Twenty pixels on cells of eight: it stands two cells high above its own.
    assert not np.array_equal(cell_pixels(working.session.derived, Cells(4, 4, 1, 1)), before)
    shown = working.ground.view.grab().toImage().pixelColor(hand.cell(4, 4).toPoint())
    pixels = cell_pixels(working.session.derived, Cells(4, 4, 1, 1))[4, 4]
    assert max(abs(shown.red() - int(pixels[0])), abs(shown.green() - int(pixels[1]))) <= 1


def test_twins_are_listed_and_merged(working, card, qtbot):
    pixels = working.session.document.state.pictures["art"].pixels.copy()
    pixels[3 * SIDE :, 5 * SIDE : 6 * SIDE] = pixels[3 * SIDE :, 6 * SIDE : 7 * SIDE]
    document = working.session.document
    document.redrawn(document.project.sheets[0], Picture(png(pixels), pixels))

    def look(dialog) -> None:
        qtbot.waitUntil(dialog.merge.isEnabled, timeout=20_000)
        assert dialog.list.count() == 1
        dialog.grab()
        dialog.merge.click()

    in_dialog(look)
    working.panels["sheet"].show_twins()
    assert document.project.sheets[0].cuts[0].left_out == ((6, 3),)
    assert "1 tile merged" in says(working.ledger)


def test_the_finder_knows_what_can_be_done_with_tiles(working, hand, card, notes):
    actions = {action.text(): action for action in working.commands.actions}
    click(working, hand, 1, 1)
    working.session.set_stage("ground")
    actions["Trace a collision shape"].trigger()
    assert working.session.choices.stage == "sheet"
    assert card.shape.view.proposed
    actions["Animate the chosen tiles"].trigger()
    assert "two tiles or more" in says(working.ledger)
    click(working, hand, 2, 1, CONTROL)
    actions["Animate the chosen tiles"].trigger()
    assert len(notes(2, 1).frames) == 2
    actions["Play animations, or hold them"].trigger()
    assert not working.session.clock.runs
    actions["Play animations, or hold them"].trigger()
    assert working.session.clock.runs
    actions["Copy the collision shape to all chosen tiles"].trigger()
    actions["Cut a part of the sheet by numbers of its own"].trigger()
    assert working.panels["sheet"].mode.draws_part
    hand.key(working.panels["sheet"].view, Qt.Key.Key_Escape)
    assert not working.panels["sheet"].mode.draws_part


def test_the_tile_in_hand_shows_under_the_pointer_before_it_is_laid(working, hand):
    view = working.ground.view
    working.session.choose(layer_id="things", tile=tile(9, 3))
    before = view.grab().toImage()
    hand.move(view, hand.cell(6, 5))
    spot_in_cell = (hand.cell(6, 5) + QPointF(3, 3)).toPoint()
    shown = view.grab().toImage()
    assert shown.pixel(spot_in_cell) != before.pixel(spot_in_cell)
    assert not np.asarray(working.session.document.state.planes["ground"]["things"]["cells"]).any()
    working.session.choose(tile=None)
    hand.move(view, hand.cell(6, 6))
    assert view.grab().toImage().pixel(spot_in_cell) == before.pixel(spot_in_cell)


@pytest.mark.parametrize("work", ["Cut", "Tiles"])
def test_images_of_a_collection_are_let_stand_several_at_once(working, hand, work):
    session, panel = working.session, working.panels["sheet"]
    art = np.zeros((20, 12, 4), np.uint8)
    art[2:17, 3:8] = (90, 120, 60, 255)
    images = {f"{name}.png": np.roll(art, across, axis=1) for name, across in (("fir", 0), ("oak", 3), ("elm", 1))}
    sheet_id = add_collection(session.document, "woods", together(images))
    working.session.set_stage("sheet")
    panel.show_work(work)
    refs = [TileRef(sheet_id, name, 0, 0) for name in ("fir", "oak", "elm")]
    session.choose(sheet_id=sheet_id)
    for ref, modifier in zip(refs, (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier), strict=False):
        hand.click(panel.view, panel.view.rects_of([ref])[ref].center(), modifier=modifier)
    assert session.choices.selection == frozenset(refs[:2])
    card = panel.tile_card if work == "Tiles" else panel.cut_card
    card.pages.show_page("Stands" if work == "Tiles" else "Standing")

    def offsets() -> list[tuple[int, int]]:
        cuts = session.document.project.cuts
        return [(cuts[sheet_id, ref.cut].offset_x, cuts[sheet_id, ref.cut].offset_y) for ref in refs]

    assert "For 2 images at once." in says(card)
    before = offsets()
    press(card, "By their foot")
    after = offsets()
    assert after[0][0] - after[1][0] == 3
    assert after[0][1] == after[1][1] == 3
    assert after[2] == before[2]
    hand.key(card.stand.picture, Qt.Key.Key_Up)
    assert offsets()[:2] == [(x, y - 1) for x, y in after[:2]]
    working.undo()
    working.undo()
    assert offsets() == before


def diamond(width: int, height: int, rise: int = 0) -> np.ndarray:
    """A diamond of half its width, with sides as high as is said below it."""
    pixels = np.zeros((height + rise, width, 4), dtype=np.uint8)
    rows, columns = np.mgrid[0:height, 0:width] + 0.5
    inside = np.abs(rows / height * 2 - 1) + np.abs(columns / width * 2 - 1) <= 1
    for down in range(rise + 1):
        pixels[down : down + height][inside] = (120 + down, 90, 60, 255)
    return pixels


def test_images_that_stand_on_diamonds_get_an_isometric_ground_of_their_size(window, tmp_path, qtbot, monkeypatch):
    folder = tmp_path / "harbour"
    folder.mkdir()
    pole = np.zeros((50, 20, 4), dtype=np.uint8)
    pole[:, 8:12] = (90, 70, 50, 255)
    for name, pixels in {
        "a-crate": diamond(32, 16, 10), "b-quay": diamond(48, 24), "c-sand": diamond(48, 24), "d-pole": pole,
        "e-wall": diamond(48, 24, 36),
    }.items():  # fmt: skip
        (folder / f"{name}.png").write_bytes(png(pixels))
    window.keeper.adder.add_images([folder])
    qtbot.waitUntil(lambda: len(window.session.document.project.sheets) == 1, timeout=5000)
    (sheet,) = window.session.document.project.sheets
    assert [cut.shape for cut in sheet.cuts] == ["square", "isometric", "isometric", "square", "isometric"]
    # The crate, on a diamond of 32 x 16, stands in the middle of its cell.
    assert sheet.cuts[0].offset_y == -4
    card = window.panels["sheet"].cut_card.stand
    card.refresh()
    assert "On a cell of 48 x 24 px." in says(card)
    monkeypatch.setattr(GroundDialog, "exec", lambda dialog: QDialog.DialogCode.Accepted)
    window.commands.action("New ground…").trigger()
    ground = window.session.ground
    assert (ground.grid, ground.tile_width, ground.tile_height) == ("diamond", 48, 24)


def test_of_a_wall_on_diamonds_the_cell_is_shown_to_block(window, tmp_path, qtbot):
    (tmp_path / "walls").mkdir()
    (tmp_path / "walls" / "wall.png").write_bytes(png(diamond(48, 24, 36)))
    window.keeper.adder.add_images([tmp_path / "walls"])
    qtbot.waitUntil(lambda: len(window.session.document.project.sheets) == 1, timeout=5000)
    session, panel = window.session, window.panels["sheet"]
    wall = TileRef(session.document.project.sheets[0].id, session.document.project.sheets[0].cuts[0].id, 0, 0)
    press(panel, "Tiles")
    session.choose(tile=wall, selection=frozenset({wall}))
    panel.tile_card.pages.show_page("Blocks")
    view = panel.view

    def colours():
        image = view.grab().toImage()
        return [
            image.pixel(view.rect_on_widget(x, y, 1, 1).center().toPoint()) for x, y in ((24, 47), (24, 20), (3, 57))
        ]

    before = colours()
    press(panel.tile_card.shape, "All of it")
    assert session.document.project.tiles[wall].collision == "whole"
    assert [one != other for one, other in zip(before, colours(), strict=True)] == [True, False, False]
