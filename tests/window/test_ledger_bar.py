"""The line at the foot of the window: what is wrong and what lies at the pointer share its room."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QListWidget

from knitground.core.check.check import Finding
from knitground.core.edits.notes import set_collision
from knitground.core.tiles.notes import Point
from making import SIDE, add_sheet, make_document, png, sheet_of_tiles, tile
from window.finding import named, press, says

LONG = "Brook: stitches 198 and 362 look at the same and lay different things beside the stepping stones"


@pytest.fixture
def told(working):
    """The window with twenty findings, the first of them long."""
    session = working.session
    says = [LONG, *(f"Brook: stitch {number} never fires" for number in range(19))]
    session.findings = [Finding("stitch", "stitches", one, "stitches") for one in says]
    session.findings_changed.emit()
    return working


@pytest.mark.parametrize(("width", "whole"), [(1920, True), (1100, False)])
def test_the_first_finding_takes_as_much_of_the_line_as_there_is(told, width, whole):
    told.resize(width, 800)
    QApplication.processEvents()
    button = told.ledger._findings
    assert (LONG in button.text()) == whole
    assert button.text().startswith("20 findings: Brook")
    assert whole or button.text().endswith("…")
    assert button.width() <= 0.6 * told.ledger.width()
    assert told.width() == width


def test_long_findings_are_whole_in_the_list(told):
    told.ledger.open_list()
    QApplication.processEvents()
    popup = QApplication.activePopupWidget()
    assert popup is not None
    entries = named(popup, QListWidget, "Findings")
    line = entries.visualItemRect(entries.item(1)).height()
    assert entries.visualItemRect(entries.item(0)).height() > 1.4 * line, "two lines, none cut off"
    popup.close()


def test_a_finding_about_a_stitch_shows_the_sheet_that_holds_its_tile(window):
    window.session.open(make_document())
    add_sheet(window.session.document, "other.png", png(sheet_of_tiles(3, 3)))
    window.session.choose(sheet_id="other")
    window.session.go_to.emit(Finding("order", "stitches", "Walls: a stitch", "walls", index=1))
    choices = window.session.choices
    assert (choices.stage, choices.stitch_id, choices.sheet_id, choices.tile) == ("stitches", "top", "art", tile(1, 2))
    assert window.panels["stitches"].view.sheet.id == "art"


@pytest.mark.parametrize("times", [1, 12], ids=["short", "as long as the bar"])
def test_what_is_offered_stays_in_its_place_when_the_findings_come_back(told, times):
    told.session.say("It is on the list. " * times, "All findings")
    QApplication.processEvents()
    (offer,) = [one for one in told.ledger.findChildren(QAbstractButton) if one.text() == "All findings"]
    before = offer.mapTo(told.ledger, QPoint(0, 0))
    assert not told.ledger._findings.isVisible()
    told.ledger._timer.timeout.emit()
    QApplication.processEvents()
    assert told.ledger._findings.isVisible() is (times == 1)
    assert offer.isVisible()
    assert offer.mapTo(told.ledger, QPoint(0, 0)) == before


def test_what_is_offered_does_not_go_from_under_the_pointer(told):
    told.session.say("It is on the list.", "All findings")
    told.session.set_stage("joins")  # something was done since, so that its time is all it has
    QApplication.processEvents()
    (offer,) = [one for one in told.ledger.findChildren(QAbstractButton) if one.text() == "All findings"]
    QTest.mouseMove(offer)
    QApplication.processEvents()
    told.ledger._timer.timeout.emit()
    assert offer.isVisible()
    QTest.mouseMove(told.ground.view)
    QApplication.processEvents()
    told.ledger._timer.timeout.emit()
    assert "It is on the list." not in says(told.ledger)


def test_a_finding_one_went_to_is_mended_beside_its_sentence(window, qtbot):
    window.session.open(make_document())
    box = tuple(Point(x, y) for x, y in ((0, 4), (9, 4), (9, 8), (0, 8)))
    set_collision(window.session.document, {tile(1, 2): (box,)})
    qtbot.waitUntil(lambda: any(f.kind == "shape sticks out" for f in window.session.findings), timeout=5000)
    window.ledger.open_list()
    listed = named(QApplication.activePopupWidget(), QListWidget, "Findings")
    listed.setCurrentRow([f.kind for f in window.session.findings].index("shape sticks out"))
    QTest.keyClick(listed, Qt.Key.Key_Return)
    assert "sticks out" in says(window.ledger)
    press(window.ledger, "Snap these shapes to the borders of their tiles")
    assert max(point.x for point in window.session.document.project.tiles[tile(1, 2)].collision[0]) == SIDE
    assert "Mended 1 tile" in says(window.ledger)
    press(window.ledger, "Undo")
    assert window.session.document.project.tiles[tile(1, 2)].collision == (box,)
