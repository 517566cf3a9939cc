"""A key colour picked off a smoothed sheet: what the window does about its edges, says, and takes back."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QSpinBox

from making import png
from test_unmixed import flat_on, pebbles
from window.finding import named, press, says
from window.test_sheet import drop


@pytest.fixture
def smoothed(tmp_path):
    path = tmp_path / "pebbles.png"
    path.write_bytes(png(flat_on(pebbles(3), "#ff00ff")))
    return path


def mixed(window):
    """How many pixels of the sheet are seen in part."""
    sheet = window.session.document.project.sheets[0]
    alpha = window.session.document.state.pictures[sheet.id].cleared(sheet)[..., 3]
    return int(((alpha > 0) & (alpha < 255)).sum())


def test_a_key_goes_out_of_soft_edges_and_comes_back_at_a_click(window, hand, smoothed):
    drop(window, smoothed)
    panel = window.panels["sheet"]
    clear = panel.cut_card.clear
    panel.cut_card.pages.show_page("Transparent")
    assert not clear._soft.isEnabled()
    assert "Pick a key colour first" in clear._soft.toolTip()
    press(panel, "Pick key colour")
    hand.click(panel.view, panel.view.to_widget(1, 1))
    assert "#ff00ff is transparent now, and taken out of soft edges." in says(window.ledger)
    assert clear._soft.isChecked()
    assert mixed(window) > 50
    QTest.mouseClick(clear._soft, Qt.MouseButton.LeftButton, pos=clear._soft.rect().center())
    assert mixed(window) == 0
    window.session.document.undo()
    assert mixed(window) > 50
    window.session.document.undo()
    assert not panel.view.sheet.keys
    assert not clear._soft.isEnabled()


def test_a_large_sheet_is_cleared_beside_the_interface(window, hand, qtbot, tmp_path):
    path = tmp_path / "many pebbles.png"
    art = np.tile(pebbles(3), (8, 8, 1))
    art[..., :3] += np.random.default_rng(3).integers(0, 9, art[..., :3].shape, dtype=np.uint8)
    path.write_bytes(png(flat_on(art, "#ff00ff")))
    drop(window, path)
    panel = window.panels["sheet"]
    panel.cut_card.pages.show_page("Transparent")
    press(panel, "Pick key colour")
    hand.click(panel.view, panel.view.to_widget(1, 1))
    assert not panel.view.sheet.keys, "the window goes on meanwhile"
    qtbot.waitUntil(lambda: bool(panel.view.sheet.keys), timeout=30_000)
    assert mixed(window) > 50 * 8 * 8
    assert "#ff00ff is transparent now, and taken out of soft edges." in says(window.ledger)


def test_what_is_asked_for_while_a_large_sheet_is_cleared_is_done_after_it(window, hand, qtbot, tmp_path):
    for name, key in (("left", "#ff00ff"), ("right", "#00ff00")):
        path = tmp_path / f"{name}.png"
        path.write_bytes(png(np.tile(flat_on(pebbles(3), key), (6, 6, 1))))
        drop(window, path)
    left, right = (sheet.id for sheet in window.session.document.project.sheets)
    panel = window.panels["sheet"]
    panel.cut_card.pages.show_page("Transparent")
    tolerance = named(panel, QSpinBox, "tolerance")
    window.session.choose(sheet_id=left)
    press(panel, "Pick key colour")
    hand.click(panel.view, panel.view.to_widget(1, 1))
    tolerance.setValue(3)
    tolerance.setValue(5)
    window.session.choose(sheet_id=right)
    press(panel, "Pick key colour")
    hand.click(panel.view, panel.view.to_widget(1, 1))

    def of(sheet_id):
        sheet = next(one for one in window.session.document.project.sheets if one.id == sheet_id)
        return sheet.keys, sheet.tolerance

    qtbot.waitUntil(lambda: bool(of(right)[0]) and of(left)[1] == 5, timeout=60_000)
    assert of(left) == (("#ff00ff",), 5), "neither the colour nor what came after it is lost"
    assert of(right) == (("#00ff00",), 0)
