"""What means to be clear is made so in the real window: key colours, a checker drawn in, a haze."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QSpinBox

from knitground.core.edits.cuts import guess_in
from making import on_checker, png, sheet_of_tiles
from test_bared import growing, hazy_shells, shells_on
from test_footing import block
from window.choosing import bring, wait_until_read
from window.finding import named, press, says
from window.test_cutting import two_grids

LEFT = Qt.MouseButton.LeftButton


def test_several_key_colours_with_tolerance_and_an_alpha_threshold(window, hand, tmp_path):
    picture = sheet_of_tiles(4, 4, 16, 0, 4, seed=3)
    picture[picture[..., 3] == 0] = (255, 0, 255, 255)
    picture[16, ::2] = (250, 5, 250, 255)
    picture[36, :] = (0, 0, 0, 30)
    (tmp_path / "a.png").write_bytes(png(picture))
    bring(window, tmp_path / "a.png")
    panel = window.panels["sheet"]
    page = panel.cut_card.clear
    panel.cut_card.pages.show_page("Transparent")
    QTest.mouseClick(page.pick, LEFT)
    hand.click(panel.view, panel.view.to_widget(17.5, 1.5), modifier=Qt.KeyboardModifier.ControlModifier)
    assert page.pick.isChecked()
    hand.click(panel.view, panel.view.to_widget(16.5, 16.5))
    sheet = panel.view.sheet
    assert sheet.keys == ("#ff00ff", "#fa05fa")
    assert not page.pick.isChecked()
    press(panel, "#fa05fa")
    named(panel, QSpinBox, "tolerance").setValue(5)
    named(panel, QSpinBox, "alpha threshold").setValue(31)
    seen = window.session.document.state.pictures["a"].cleared(panel.view.sheet)
    assert not seen[16:20].any()
    assert not seen[36].any()


def test_images_on_a_colour_stand_on_their_cells_and_are_made_clear_at_a_click(window, tmp_path):
    folder = tmp_path / "terraces"
    folder.mkdir()
    for name, up in (("moss", 0), ("slate", 0), ("wall", 24)):
        image = block(48, 24, up, (5, 3, 2, 4))
        image = np.where(image[..., 3:] > 0, image, np.uint8([255, 0, 200, 255]))
        (folder / f"{name}.png").write_bytes(png(image))
    (folder / "torn.png").write_bytes(b"nothing")
    window.keeper.adder.add_images([folder])
    wait_until_read(1)
    assert "3 images are one tileset now; #ff00c8 fills the rest. Left out: torn.png is" in says(window.ledger)
    cuts = window.panels["sheet"].view.sheet.cuts
    assert [(cut.offset_y, cut.footprint) for cut in cuts] == [(4, (48, 24))] * 3
    QTest.mouseClick(named(window.ledger, QPushButton, "Clear what lies round the tiles"), LEFT)
    assert window.panels["sheet"].view.sheet.keys == ("#ff00c8",)
    assert not window.panels["sheet"].cut_card.key.isVisible()


def test_a_colour_that_fills_the_gutters_is_made_clear_at_a_click(window, tmp_path):
    pixels = np.zeros((2 * 20 + 3 * 4, 4 * 20 + 5 * 4, 4), dtype=np.uint8)
    pixels[:] = (255, 0, 255, 255)
    rng = np.random.default_rng(1)
    for row in range(2):
        for column in range(4):
            y, x = 4 + row * 24, 4 + column * 24
            part = slice(y, y + 20), slice(x, x + 20)
            pixels[part][..., :3] = rng.integers(60, 120, (20, 20, 3)) if row or column else (255, 0, 255)
    (tmp_path / "s.png").write_bytes(png(pixels))
    window.session.set_stage("sheet")
    assert window.keeper.open_path(tmp_path / "s.png")
    wait_until_read(1)
    card = window.panels["sheet"].cut_card
    assert "#ff00ff fills the rest" in says(window.ledger)
    offer = named(window.ledger, QPushButton, "Clear what lies round the tiles")
    assert offer.isVisible()
    assert card.key.isVisible()
    press(card, "Clear #ff00ff")
    assert window.session.document.project.sheets[0].keys == ("#ff00ff",)
    assert not card.key.isVisible()
    QApplication.processEvents()
    assert not offer.isVisible(), "it was done elsewhere"


def test_a_checker_that_is_drawn_in_is_made_clear_at_a_click_or_picked(window, hand, tmp_path):
    (tmp_path / "s.png").write_bytes(png(on_checker(two_grids())))
    bring(window, tmp_path / "s.png")
    panel = window.panels["sheet"]
    sheet = lambda: window.session.document.project.sheets[0]  # noqa: E731
    assert len(sheet().cuts) == 2, "it hides nothing"
    assert "a checker is drawn in round its tiles" in says(window.ledger)
    press(panel, "Clear checker")
    assert sheet().keys == ("checker",)
    assert not panel.cut_card.key.isVisible()
    press(panel, "Transparent")
    press(panel, "checker")
    assert sheet().keys == (), "its chip takes it back"
    assert panel.cut_card.key.isVisible()
    press(panel, "Pick key colour")
    hand.click(panel.view, panel.view.to_widget(100, 4))
    assert sheet().keys == ("checker",)


def test_a_haze_is_made_clear_at_a_click_on_what_tells_it(window, tmp_path):
    (tmp_path / "s.png").write_bytes(png(hazy_shells()))
    bring(window, tmp_path / "s.png")
    assert "a haze lies where it should be clear" in says(window.ledger)
    QTest.mouseClick(named(window.ledger, QPushButton, "Clear what lies round the tiles"), LEFT)
    assert window.session.document.project.sheets[0].clear_below == 9
    assert not window.panels["sheet"].cut_card.key.isVisible()
    window.session.document.undo()
    assert window.panels["sheet"].cut_card.key.text() == "Clear haze"
    assert window.panels["sheet"].cut_card.key.isVisible()


def test_a_ground_that_grows_lighter_is_cleared_at_a_click_and_still_found_then(window, tmp_path):
    (tmp_path / "s.png").write_bytes(png(shells_on(growing(1, 60))))
    bring(window, tmp_path / "s.png")
    panel = window.panels["sheet"]
    before = window.session.document.project.sheets[0].cuts
    press(panel, "Clear ground")
    sheet = window.session.document.project.sheets[0]
    assert sheet.keys == ("ground",)
    guessed = guess_in(window.session.document.state.pictures[sheet.id].pixels, sheet, sheet.cuts[0])
    assert guessed.cuts[0][0].pitch_x == before[0].pitch_x
    press(panel, "Transparent")
    press(panel, "ground")
    assert window.session.document.project.sheets[0].keys == (), "its chip takes it back"
