import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDoubleSpinBox, QInputDialog, QPushButton

from knitground.app.canvas.faces import face_of
from knitground.app.joins.coverage_chart import CoverageChart
from knitground.app.joins.marks import place_at, stitch_line
from knitground.app.terrain_list import TerrainButton
from knitground.core.edits.sets import add_join_set
from knitground.core.edits.things import put
from making import add_sheet, png, sheet_of_tiles, tile
from window.finding import named, open_menu, press, says, take

SHIFT = Qt.KeyboardModifier.ShiftModifier
RIGHT = Qt.MouseButton.RightButton


@pytest.fixture
def labelling(window):
    """The joins stage on a sheet without a label, with an empty corner set and an empty edge set."""
    document = window.session.document
    add_sheet(document, "art.png", png(sheet_of_tiles(8, 6, 16)))
    add_join_set(document, "Areas", "corner", ("Grass", "Path"))
    add_join_set(document, "Lines", "edge", ("Fence",))
    window.session.choose(join_set_id="areas", terrain=1)
    window.session.set_stage("joins")
    return window


def test_a_sheet_that_is_shown_under_the_pointer_hides_the_hint_of_the_one_before(labelling, hand, caplog):
    other = add_sheet(labelling.session.document, "other.png", png(sheet_of_tiles(2, 2, 16)))
    view = labelling.panels["joins"].view
    QTest.mouseMove(view, spot(labelling, 5, 4, 0.2, 0.2).toPoint())
    view.grab()
    labelling.session.choose(sheet_id=other)
    view.grab()
    assert "failed" not in caplog.text


def spot(window, column: int, row: int, x: float, y: float) -> QPointF:
    """A point of a tile on the sheet; 0 to 1 from its left and top."""
    rect = window.panels["joins"].view.tile_on_widget(column, row)
    return QPointF(rect.x() + x * rect.width(), rect.y() + y * rect.height())


def labels(window, column: int, row: int):
    cut = window.session.document.project.sheets[0].cuts[0].id
    return window.session.join_set.labels.get(tile(column, row)._replace(cut=cut))


def test_clicks_label_the_nearest_corner(labelling, hand):
    view = labelling.panels["joins"].view
    for x, y in ((0.2, 0.2), (0.8, 0.1), (0.9, 0.7)):
        hand.click(view, spot(labelling, 1, 1, x, y))
    assert labels(labelling, 1, 1) == (1, 1, 1, 0)
    assert labels(labelling, 2, 1) is None


def test_clicks_label_the_nearest_edge(labelling, hand):
    labelling.session.choose(join_set_id="lines", terrain=1)
    view = labelling.panels["joins"].view
    hand.click(view, spot(labelling, 0, 0, 0.5, 0.1))
    hand.click(view, spot(labelling, 0, 0, 0.1, 0.5))
    assert labels(labelling, 0, 0) == (1, 0, 0, 1)


def test_a_drag_over_many_tiles_labels_all_it_passes_as_one_step(labelling, hand):
    view = labelling.panels["joins"].view
    hand.drag(view, spot(labelling, 0, 2, 0.1, 0.2), spot(labelling, 5, 2, 0.9, 0.2))
    for column in range(6):
        assert labels(labelling, column, 2) == (1, 1, 0, 0)
    labelling.undo()
    assert not labelling.session.join_set.labels


def test_shift_labels_whole_tiles_and_the_right_button_takes_off(labelling, hand):
    view = labelling.panels["joins"].view
    hand.click(view, spot(labelling, 3, 3, 0.3, 0.3), modifier=SHIFT)
    assert labels(labelling, 3, 3) == (1, 1, 1, 1)
    hand.click(view, spot(labelling, 3, 3, 0.2, 0.8), button=RIGHT)
    assert labels(labelling, 3, 3) == (1, 1, 1, 0)


def test_letters_choose_the_terrain_to_paint(labelling, hand):
    view = labelling.panels["joins"].view
    hand.key(view, "p")
    hand.click(view, spot(labelling, 1, 0, 0.2, 0.2))
    hand.key(view, "g")
    hand.click(view, spot(labelling, 1, 0, 0.8, 0.8))
    assert labels(labelling, 1, 0) == (2, 0, 1, 0)
    chosen = [one.terrain.name for one in labelling.panels["joins"].findChildren(TerrainButton) if one.isChecked()]
    assert chosen == ["Grass"]


def test_counts_and_ledger_follow_each_label(labelling, hand):
    panel = labelling.panels["joins"]
    for column in range(2):
        hand.click(panel.view, spot(labelling, column, 0, 0.3, 0.3), modifier=SHIFT)
    assert "1 of 16 present, 1 doubled, 15 missing" in says(panel)
    assert any("Areas: no tile for" in finding.sentence for finding in labelling.session.findings)


def test_a_complete_set_is_proved_in_the_right_half_and_clicks_lead_to_tiles(demo, hand):
    demo.session.set_stage("joins")
    assert demo.ground.view.shows_proof
    knitted = demo.ground.view.knitted
    assert (knitted.ground.width, knitted.ground.height) == (16, 16)
    hand.on_ground((3, 4))
    first = demo.session.choices.tile
    hand.on_ground((9, 9))
    assert first is not None
    assert demo.session.choices.tile != first
    demo.session.set_stage("ground")
    assert not demo.ground.view.shows_proof


def test_relabelling_changes_ground_and_proof_at_once(working, hand):
    working.session.set_stage("joins")
    assert working.ground.view.shows_proof
    before = working.ground.view.grab().toImage()
    view = working.panels["joins"].view
    working.session.choose(terrain=2)
    hand.click(view, spot(working, 0, 0, 0.3, 0.3), modifier=SHIFT)
    assert working.ground.view.grab().toImage() != before
    working.session.set_stage("ground")
    working.session.check_grounds()


def test_what_is_asked_for_of_one_set_is_forgotten_with_the_next(labelling, hand):
    labelling.session.choose(join_set_id="lines")
    chart = labelling.panels["joins"].findChild(CoverageChart)
    hand.click(chart, chart.rect_of(chart.groups["missing"][-1]).center())
    assert labelling.session.choices.wanted is not None
    labelling.session.document.undo()
    assert labelling.session.join_set.id == "areas"
    hand.click(labelling.panels["joins"].view, spot(labelling, 1, 1, 0.2, 0.2))
    assert labels(labelling, 1, 1) == (1, 0, 0, 0)


def test_the_coverage_chart_leads_to_tiles_and_names_what_is_missing(demo, hand):
    demo.session.set_stage("joins")
    chart = demo.panels["joins"].findChild(CoverageChart)
    combination = chart.groups["one"][37]
    hand.click(chart, chart.rect_of(combination).center())
    assert demo.session.join_set.labels[demo.session.choices.tile] == combination
    demo.session.choose(join_set_id="walks")
    said = []
    demo.session.said.connect(lambda sentence, problem: said.append(sentence))
    (missing,) = chart.groups["missing"]
    hand.click(chart, chart.rect_of(missing).center())
    assert "P P P P is missing" in said[-1]
    place = spot(demo, 0, 1, 0.5, 0.5)
    hand.click(demo.panels["joins"].view, place)
    assert demo.session.join_set.labels[demo.session.choices.tile] == missing
    assert chart.groups["missing"] == []


def test_weights_are_set_on_the_card_and_reknit_the_ground(demo):
    session = demo.session
    session.set_stage("joins")
    slate = next(ref for ref, row in session.join_set.labels.items() if row == (1, 1, 1, 1))
    session.choose(tile=slate)
    before = session.document.project.tiles[slate].weight
    named(demo.panels["joins"], QDoubleSpinBox, "Weight").setValue(before * 5)
    assert session.document.project.tiles[slate].weight == before * 5
    demo.undo()
    assert session.document.project.tiles[slate].weight == before


@pytest.mark.parametrize("kind", ["corner", "edge"])
def test_half_stitches_start_at_their_place_and_end_inside(kind):
    from PySide6.QtCore import QRectF

    rect = QRectF(10, 20, 40, 40)
    for place in range(4):
        line = stitch_line(face_of(rect), kind, place)
        assert place_at(face_of(rect), kind, line.p1()) == place
        assert rect.contains(line.p1())
        assert rect.contains(line.p2())


def test_a_set_and_a_terrain_are_made_by_name(labelling, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Water", True))
    panel = labelling.panels["joins"]
    press(panel, "Add a terrain")
    assert [terrain.name for terrain in labelling.session.join_set.terrains] == ["Grass", "Path", "Water"]
    assert labelling.session.choices.terrain == 3
    press(panel, "Make another join set")
    take(open_menu(), "Edge joins")
    assert labelling.session.join_set.name == "Water"
    assert labelling.session.join_set.kind == "edge"


def test_labelling_without_a_set_says_what_to_do(window, hand, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Water", True))
    add_sheet(window.session.document, "art.png", png(sheet_of_tiles(8, 6, 16)))
    window.session.set_stage("joins")
    said = []
    window.session.said.connect(lambda sentence, problem: said.append(sentence))
    hand.click(window.panels["joins"].view, spot(window, 1, 1, 0.5, 0.5))
    assert "no join set yet" in said[-1]
    QTest.keyClick(window.panels["joins"].view, "g")
    press(window.ledger, "New join set…")
    take(open_menu(), "Edge joins")
    assert window.session.join_set.kind == "edge"


def test_where_no_set_is_found_the_next_step_is_a_click_away(window, monkeypatch, qtbot):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Water", True))
    add_sheet(window.session.document, "art.png", png(np.full((64, 64, 4), 90, np.uint8)))
    window.session.set_stage("joins")
    press(window.panels["joins"], "Find sets")
    qtbot.waitUntil(lambda: "No set was found" in says(window.ledger))
    press(window.ledger, "New join set…")
    take(open_menu(), "Corner joins")
    assert window.session.join_set.kind == "corner"
    press(window.panels["joins"], "Find sets")
    qtbot.waitUntil(lambda: any("Read" in one.text() for one in window.ledger.findChildren(QPushButton)))
    assert named(window.ledger, QPushButton, "Read labels off the pixels").isEnabled()


def test_choosing_another_set_turns_to_its_proof_and_its_sheet(demo):
    demo.session.choose(sheet_id="roofs")
    demo.session.set_stage("joins")
    first = demo.ground.view.knitted.ground
    demo.session.choose(join_set_id="walks")
    assert demo.ground.view.shows_proof
    assert demo.ground.view.knitted.ground.name == "Plank walks" != first.name
    assert demo.session.choices.sheet_id == "trims"
    demo.session.choose(sheet_id="roofs")
    assert demo.session.choices.sheet_id == "roofs"


def test_a_set_of_very_many_terrains_stays_quick_to_show(labelling, hand):
    from knitground.core.joins.sets import Terrain

    terrains = tuple(Terrain(f"T{n}", chr(48 + n), "#808080") for n in range(32))
    from dataclasses import replace

    put(labelling.session.document, "x", "join_sets", replace(labelling.session.join_set, terrains=terrains))
    labelling.session.choose(terrain=31)
    hand.click(labelling.panels["joins"].view, spot(labelling, 1, 1, 0.5, 0.5), modifier=SHIFT)
    panel = labelling.panels["joins"]
    assert "1 of 1,048,576 present, 0 doubled, 1,048,575 missing" in says(panel)
    assert panel.findChild(CoverageChart).groups["one"] == [(31, 31, 31, 31)]
    assert any("and 1,048,572 more" in finding.sentence for finding in labelling.session.findings)
