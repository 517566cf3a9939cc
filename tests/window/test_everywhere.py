"""What has to hold on every page of every stage."""

from itertools import product

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QButtonGroup, QCheckBox, QLineEdit, QListWidget

from knitground.app.allowed import allow, allow_entry, why_not
from knitground.app.one_of import OneOf, Tab
from knitground.app.session import STAGES
from knitground.app.widgets import button, in_row
from knitground.core.check.check import Finding
from knitground.core.edits.layers import add_layer
from knitground.core.edits.sheets import set_cut
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut
from making import add_sheet, make_document, png, sheet_of_tiles
from window.choosing import bring
from window.finding import entry, halves, layer_button, menu_of, named, open_menu, press
from window.looking import controls, cut_off, pages, told


@pytest.fixture(params=["the demo", "the demo on a low screen", "nothing"])
def any_window(window, request):
    """The window on the demo, on a screen of 1440 lines at 200 %, and on a project in which there is nothing yet."""
    if request.param == "nothing":
        window.session.open(Document())
        return window
    demo = request.getfixturevalue("demo")
    if "low" in request.param:
        demo.resize(1280, 690)
    return demo


@pytest.fixture
def crowded(window):
    """The window on 40 sheets and 40 layers of long names."""
    document = make_document()
    while len(document.project.sheets) < 40:
        add_sheet(document, f"of a rather long name {len(document.project.sheets)}.png", png(sheet_of_tiles(2, 2)))
    while (count := len(document.project.grounds[0].layers)) < 40:
        add_layer(document, "ground", f"What hangs in the air {count}")
    window.session.open(document)
    return window


def test_everything_is_named_and_whole_and_what_cannot_be_used_says_why(any_window, qtbot):
    size, sizes = any_window.size(), halves(any_window).sizes()
    for where in pages(any_window):
        for one in controls(any_window):
            named = one.accessibleName() or (isinstance(one, QAbstractButton) and one.text())
            assert named, f"{where}: {told(one)} in {told(one.parentWidget())} has no name"
            assert one.isEnabled() or (why_not(one) and why_not(one) in one.toolTip()), f"{where}: {told(one)}"
        # What a page holds is laid out once it shows.
        qtbot.waitUntil(lambda: cut_off(any_window) == [], timeout=1000)
        assert (any_window.size(), halves(any_window).sizes()) == (size, sizes), where


def test_many_sheets_and_layers_of_long_names_find_room_and_what_is_chosen_shows(crowded, qtbot):
    session, sizes = crowded.session, halves(crowded).sizes()
    sheets = [sheet.id for sheet in session.document.project.sheets]
    assert (len(sheets), len(session.ground.layers)) == (40, 40)
    for stage in ("sheet", "joins", "ground", "grow"):
        session.set_stage(stage)
        for at in (0, 20, 39):
            session.choose(layer_id=session.ground.layers[at].id)
            session.choose(sheet_id=sheets[at])
            tab = named(crowded.panels[stage], QAbstractButton, sheets[at])
            chosen = layer_button(crowded, session.ground.layers[at].name)
            for one in (tab, chosen):
                qtbot.waitUntil(lambda one=one: one.visibleRegion().boundingRect() == one.rect(), timeout=1000)
            # Names of any length end in dots in the row of tools.
            qtbot.waitUntil(lambda: all("Elided" in one for one in cut_off(crowded)), timeout=1000)
            assert halves(crowded).sizes() == sizes
    press(crowded.panels["grow"], "All sheets")
    entry(open_menu(), sheets[7]).trigger()
    assert session.choices.sheet_id == sheets[7]


def test_a_click_on_what_is_chosen_leaves_it_chosen(demo):
    def chosen() -> dict[str, QAbstractButton]:
        every = demo.findChildren(OneOf) + demo.findChildren(Tab)
        return {one.accessibleName(): one for one in every if one.isVisible() and one.isChecked()}

    clicked = {"Tray"}  # it leads back to the sheet
    for where in pages(demo):
        for group in demo.findChildren(QButtonGroup):
            assert sum(one.isChecked() for one in group.buttons()) <= 1, f"{where}: several of one are marked"
        for name in sorted(chosen().keys() - clicked):
            QTest.mouseClick(chosen()[name], Qt.MouseButton.LeftButton)
            QApplication.processEvents()
            assert name in chosen(), where
            clicked.add(name)
    assert {"Ground", "roofs", "Layer Cover", "Slate"} <= clicked


def test_keys_stay_with_what_they_chose(demo):
    def there() -> dict[str, QAbstractButton]:
        every = demo.findChildren(OneOf) + demo.findChildren(Tab)
        return {one.accessibleName(): one for one in every if one.isVisible() and one.isEnabled()}

    pressed = set()
    for stage in STAGES:
        demo.session.set_stage(stage)
        while left := sorted(there().keys() - pressed):
            one = there()[left[0]]
            one.setFocus()
            QTest.keyClick(one, Qt.Key.Key_Space)
            QApplication.processEvents()
            assert QApplication.focusWidget().accessibleName() == left[0], stage
            pressed.add(left[0])
    assert {"Layer Walks", "Parapet", "Ground", "Notes"} <= pressed


def test_a_stitch_that_is_switched_leaves_the_keys_with_the_list(demo):
    demo.session.set_stage("stitches")
    tick = named(demo.panels["stitches"], QCheckBox, "Stitch 3 counts")
    QTest.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(9, tick.height() // 2))
    assert not demo.session.document.project.stitch_sets[0].stitches[2].active
    assert QApplication.focusWidget() is demo.panels["stitches"].list


def test_what_is_not_allowed_says_why_and_forgets_it_again(window, qtbot):
    inner, outer = button("Do", lambda: None, "Does it"), None
    outer = in_row(inner)
    allow(outer, "Do something else first.")
    allow(inner, "There is nothing to do.")
    assert inner.toolTip() == "Does it\nThere is nothing to do."
    allow(inner, "")
    assert (inner.isEnabled(), inner.toolTip()) == (False, "Does it\nDo something else first.")
    inner.setToolTip("Does that")
    allow(outer, "")
    assert (inner.isEnabled(), inner.toolTip(), inner.accessibleDescription()) == (True, "Does that", "")


def test_entries_of_menus_say_why_they_cannot_be_chosen(demo):
    demo.session.choose(layer_id=demo.session.ground.layers[-1].id)
    menu = menu_of(layer_button(demo, demo.session.ground.layers[-1].name))
    up = entry(menu, "Move up")
    assert (up.isEnabled(), up.toolTip(), menu.toolTipsVisible()) == (False, "It is the uppermost already.", True)
    assert allow_entry(up, "").isEnabled()
    menu.close()


def test_three_hundred_findings_are_searched_and_the_one_found_is_led_to(working, qtbot):
    went: list[Finding] = []
    working.session.go_to.connect(went.append)
    working.session.findings = tuple(
        Finding("gap", "ground", f"There is no tile at {n}, {n}", "ground", row=n % 15, column=n % 20)
        for n in range(300)
    )
    working.ledger.open_list()
    popup = QApplication.activePopupWidget()
    assert cut_off(popup) == []
    line, listed = named(popup, QLineEdit, "Search the findings"), named(popup, QListWidget, "Findings")
    QTest.keyClicks(line, "nowhere")
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert went == []
    line.clear()
    QTest.keyClicks(line, "tile 217")
    assert [listed.item(n).text() for n in range(300) if not listed.item(n).isHidden()] == [
        "Ground:  There is no tile at 217, 217"
    ]
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert [one.sentence for one in went] == ["There is no tile at 217, 217"]


def test_cards_of_what_is_chosen_are_whole_and_move_nothing(demo, qtbot):
    session, sizes = demo.session, halves(demo).sizes()
    session.set_stage("ground")
    session.choose(layer_id="yard")
    demo.ground.choose_tool("select")
    session.choose(things=frozenset({"22"}))
    qtbot.waitUntil(lambda: cut_off(demo) == [], timeout=1000)
    session.set_stage("stitches")
    session.choose(layer_id="walls", stitch_id="fern")
    demo.panels["stitches"].chart.look_at("Cover")
    qtbot.waitUntil(lambda: all("Elided" in one for one in cut_off(demo)), timeout=1000)
    assert halves(demo).sizes() == sizes


def test_the_form_of_a_step_shows_whole_before_the_sheet_gets_more_than_a_strip(demo, qtbot):
    demo.session.set_stage("grow")
    form = demo.panels["grow"].recipe.form
    qtbot.waitUntil(lambda: form.visibleRegion().boundingRect().height() >= 130, timeout=1000)
    demo.resize(1280, 690)
    qtbot.waitUntil(lambda: demo.panels["grow"].view.height() <= 90, timeout=1000)
    assert demo.height() == 690


def test_a_low_strip_shows_three_rows_of_a_sheet_rather_than_one_large_one(window, qtbot):
    session = window.session
    session.open(make_document())
    add_sheet(session.document, "rocks.png", png(sheet_of_tiles(8, 5, 24)))
    set_cut(session.document, "rocks", Cut(session.document.project.sheets[-1].cuts[0].id, 24, 24))
    session.choose(sheet_id="rocks")
    heights = {}
    for stage in ("sheet", "grow"):
        session.set_stage(stage)
        view = window.panels[stage].view
        qtbot.waitUntil(lambda view=view: view.isVisible() and view.height() > 20)
        view.replace_content()
        view.grab()
        heights[stage] = [view.tile_on_widget(0, row).bottom() for row in range(3)], view.height(), view.zoom
    strip, sheet = heights["grow"], heights["sheet"]
    assert sheet[2] > strip[2] >= 1
    assert sum(bottom <= strip[1] + 24 for bottom in strip[0]) == 3


def test_the_offer_to_clear_a_key_colour_is_whole_and_leaves_the_keys_near_it(window, tmp_path, qtbot):
    sheet = np.zeros((90, 134, 4), dtype=np.uint8)
    sheet[:] = (200, 0, 200, 255)
    tiles = sheet_of_tiles(6, 3, 20, seed=2)
    for row, column in product(range(3), range(6)):
        tile = tiles[row * 20 : row * 20 + 20, column * 20 : column * 20 + 20]
        sheet[2 + row * 22 :][:20, 2 + column * 22 :][:, :20] = tile if row + column < 7 else (200, 0, 200, 255)
    (tmp_path / "key.png").write_bytes(png(sheet))
    bring(window, tmp_path / "key.png")
    qtbot.waitUntil(lambda: len(window.session.document.project.sheets) == 1, timeout=5000)
    offer = named(window.panels["sheet"], QAbstractButton, "Clear #c800c8")
    assert offer.isVisible()
    qtbot.waitUntil(lambda: cut_off(window) == [], timeout=1000)
    place = offer.mapTo(window, offer.rect().center())
    offer.setFocus()
    QTest.keyClick(offer, Qt.Key.Key_Space)
    QApplication.processEvents()
    assert not offer.isVisible()
    now = QApplication.focusWidget()
    assert (now.mapTo(window, now.rect().center()) - place).manhattanLength() < 250
