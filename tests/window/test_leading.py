"""What is said, and what is found, leads to what it names."""

import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit, QListWidget, QPushButton

from knitground.app.finder import Finder
from knitground.core.check.check import Finding
from knitground.core.edits.notes import set_collision
from knitground.core.edits.removing import remove_join_set
from knitground.core.grow.recipe import Recipe
from knitground.core.layers.props import as_props
from knitground.core.lookup import OTHER_WORDS, found, meant
from knitground.core.project.named import named as named_in
from knitground.core.tiles.notes import Point
from making import make_document, tile
from window.finding import layer_button, named

CONTROL = Qt.KeyboardModifier.ControlModifier


def leads(window):
    QApplication.processEvents()
    return [one.text() for one in window.ledger.findChildren(QPushButton) if one.isVisible() and "“" in one.text()]


def follow(window, title):
    QTest.mouseClick(named(window.ledger, QPushButton, title), Qt.MouseButton.LeftButton)


def test_a_refusal_leads_to_what_stands_in_the_way(working):
    session = working.session
    session.set_stage("joins")
    used = session.join_set
    session.attempt(lambda: remove_join_set(session.document, used.id))
    (lead,) = leads(working)
    follow(working, lead)
    assert session.choices.stage == "ground"
    assert session.layer.set_id == used.id
    assert f"“{session.layer.name}”" in lead
    assert not leads(working), "one is there now"


def test_what_is_at_hand_is_not_led_to(working):
    session = working.session
    session.say(f"“{session.layer.name}” is locked.")
    assert not leads(working)
    session.set_stage("sheet")
    session.say(f"“{session.layer.name}” is locked.")
    assert len(leads(working)) >= 1
    session.say("Nothing of the “Nowhere” is here.")
    assert not leads(working)


def test_a_refused_mix_leads_to_its_recipe(growing):
    session = growing.session
    session.put_recipe(Recipe("r", "Meadow", "ground"))
    session.say("“M” is laid by “Meadow”; take it out there first.")
    assert leads(growing) == [], "both are at hand on this ground"
    session.set_stage("sheet")
    session.say("“M” is laid by “Meadow”; take it out there first.")
    assert leads(growing) == ["Mix “M”", "Recipe “Meadow”"]
    follow(growing, "Recipe “Meadow”")
    assert session.choices.stage == "grow"


def test_a_finding_about_shapes_leads_to_the_tiles_and_their_shapes(working):
    session, document = working.session, working.session.document
    sliver = (Point(0.0, 0.0), Point(8.0, 0.0), Point(8.0, 0.2))
    set_collision(document, {tile(3, 1): (sliver,), tile(5, 1): (sliver,)}, "sight")
    (finding,) = [one for one in session.findings if one.kind == "sliver"]
    session.set_stage("grow")
    session.go_to.emit(finding)
    panel = working.panels["sheet"]
    assert session.choices.stage == "sheet"
    assert session.choices.selection == {tile(3, 1), tile(5, 1)}
    assert panel.tile_card.shape.isVisible()
    assert panel.tile_card.shape.kind.currentData() == "sight"
    assert panel.tile_card.shape.view.collision == (sliver,)


def test_a_name_may_be_borne_by_several_and_a_layer_is_sought_on_its_ground():
    project = make_document().project
    assert [one.what for one in named_in(project, "“Areas” is here.", "ground")[0]] == ["layer", "join set"]
    assert [one.what for one in named_in(project, "“Areas” is here.")[0]] == ["join set"]
    ((found,),) = named_in(project, "“Areas” of “Ground” is here.")
    assert found.at_hand == {"ground_id": "ground", "layer_id": "areas"}
    assert named_in(project, "“” and “Nobody”, or “Areas", "ground") == []


@pytest.mark.parametrize("stage", ["sheet", "ground"])
def test_who_has_chosen_a_tile_changes_the_tool_by_its_key_at_once(working, hand, stage):
    working.session.set_stage(stage)
    if stage == "sheet":
        working.panels["sheet"].show_work("Tiles")
    sheet = working.panels[stage].view
    ref = tile(5, 2)
    hand.click(sheet, sheet.rect_of(ref).center())
    assert working.session.choices.tile == ref
    hand.key(sheet, Qt.Key.Key_F)
    assert working.ground.view.tool.name == "fill"
    hand.key(sheet, Qt.Key.Key_Right)
    assert working.session.choices.tile == tile(6, 2), "arrows go on choosing"
    hand.key(sheet, Qt.Key.Key_K, Qt.KeyboardModifier.ShiftModifier)
    assert [swatch.tile for swatch in working.session.document.project.swatches] == [tile(6, 2)]


def test_who_has_chosen_a_layer_or_a_sheet_keeps_the_keys_of_the_ground(demo):
    demo.session.set_stage("ground")
    for name in ("Plants", "Basins"):
        QTest.mouseClick(layer_button(demo, name), Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
        QApplication.processEvents()
        assert demo.ground.isAncestorOf(QApplication.focusWidget())
        assert demo.session.layer.name == name
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_X)
        assert demo.ground.view.tool.name == "erase"
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_D)


def test_the_finder_knows_every_command_and_does_it(demo, qtbot):
    QTest.keyClick(demo, Qt.Key.Key_K, CONTROL)
    finder = demo.findChild(Finder)
    rows = finder.findChild(QListWidget)
    assert rows.count() == len(demo.commands.actions)
    # Also what says why a command can't be used is read whole.
    assert max(len(rows.item(row).text()) for row in range(rows.count())) > 70
    for row in range(rows.count()):
        place = rows.visualItemRect(rows.item(row)).adjusted(8, 0, -8, 0)
        assert place.right() <= rows.viewport().width()
        wraps = int(Qt.TextFlag.TextWordWrap)
        assert rows.fontMetrics().boundingRect(place, wraps, rows.item(row).text()).height() <= place.height()
    QTest.keyClicks(finder.findChild(QLineEdit), "stage grow")
    assert finder.findChild(QListWidget).count() == 1
    QTest.keyClick(finder, Qt.Key.Key_Return)
    assert demo.session.choices.stage == "grow"


def test_the_finder_leads_to_whatever_has_a_name(demo):
    project, chosen = demo.session.document.project, demo.session.choices
    owner = next(one for one in project.stitch_sets if any(stitch.name for stitch in one.stitches))
    stitch = [one for one in owner.stitches if one.name][-1]
    # Findings speak of stitches by their numbers, as most have no names.
    other, number = next(
        (one, place) for one in project.stitch_sets for place, stitch in enumerate(one.stitches) if not stitch.name
    )
    by_number = {"stitch_set_id": other.id, "stitch_id": other.stitches[number].id}
    ground = project.grounds[-1]
    layer = ground.layers[0]
    props = [as_props(one) for one in project.grounds[0].layers]
    hive = next(one for layer in props if layer for one in layer.things if one.name == "Hive 17")
    for what, at_hand, stage in (
        ("hive 17", {"things": frozenset({hive.id})}, "ground"),
        (f"stitch {stitch.name} {owner.name}", {"stitch_set_id": owner.id, "stitch_id": stitch.id}, "stitches"),
        (f"stitch {number + 1} {other.name}", by_number, "stitches"),
        (f"layer {layer.name} {ground.name}", {"ground_id": ground.id, "layer_id": layer.id}, "ground"),
        (f"sheet {project.sheets[-1].id}", {"sheet_id": project.sheets[-1].id}, "sheet"),
        (f"delivery {project.deliveries[-1].name}", {}, "deliver"),
    ):
        QTest.keyClick(demo, Qt.Key.Key_K, CONTROL)
        finder = next(one for one in demo.findChildren(Finder) if one.isVisible())
        QTest.keyClicks(finder.findChild(QLineEdit), what)
        QTest.keyClick(finder, Qt.Key.Key_Return)
        assert chosen.stage == stage
        assert {name: getattr(chosen, name) for name in at_hand} == at_hand
        if what == "hive 17":
            view = demo.ground.view
            spot = view.to_widget(hive.x, hive.y)
            assert view.rect().adjusted(60, 60, -60, -60).contains(spot.toPoint())
    QTest.keyClick(demo, Qt.Key.Key_K, CONTROL)
    finder = next(one for one in demo.findChildren(Finder) if one.isVisible())
    QTest.keyClicks(finder.findChild(QLineEdit), "xyzzy")
    assert finder.findChild(QListWidget).item(0).text().startswith("Nothing is called so")
    QTest.keyClick(finder, Qt.Key.Key_Return)
    assert finder.isVisible()


def test_the_finder_understands_what_the_trade_calls_otherwise_and_what_is_misspelt(demo):
    names = [action.text() for action in demo.commands.actions]
    for word in OTHER_WORDS:
        assert found(word, names) or meant(word, names), f"nothing for {word}"
    for typed, stage in (("stage delvier", "deliver"), ("replace picture", "ground")):
        QTest.keyClick(demo, Qt.Key.Key_K, CONTROL)
        finder = next(one for one in demo.findChildren(Finder) if one.isVisible())
        QTest.keyClicks(finder.findChild(QLineEdit), typed)
        first = finder.findChild(QListWidget).item(0).text()
        assert first.startswith("Exchange the picture") if stage == "ground" else "comes near" in first
        if stage == "deliver":
            QTest.keyClick(finder, Qt.Key.Key_Return)
            assert demo.session.choices.stage == stage


@pytest.mark.parametrize(
    ("command", "stage"),
    [("Find sets on this sheet", "joins"), ("Read labels off the pixels", "joins"), ("Add a stitch", "stitches"),
     ("Copy the stitch at hand", "stitches")],
)  # fmt: skip
def test_what_is_done_by_name_is_done_where_it_is_seen(demo, command, stage, qtbot):
    jobs = []
    demo.session.job_started.connect(jobs.append)
    demo.session.set_stage("sheet")
    demo.commands.action(command).trigger()
    assert demo.session.choices.stage == stage
    for job in jobs:
        job.cancel()  # where it is seen is known by now
    qtbot.waitUntil(lambda: not any(job.running for job in jobs), timeout=20_000)


def test_an_offer_stays_until_something_is_done_and_a_mere_word_goes(working, hand):
    shown = lambda: {one.text() for one in working.ledger.findChildren(QLabel) if one.isVisible()}  # noqa: E731
    working.session.say("It is so.")
    assert "It is so." in shown()
    timers = working.ledger.findChildren(QTimer, options=Qt.FindChildOption.FindDirectChildrenOnly)
    (clock,) = [timer for timer in timers if timer.isActive()]
    clock.timeout.emit()
    assert "It is so." not in shown()
    working.session.say("It could be so.", "Stage Grow")
    working.session.choose(layer_id="areas", terrain=2)
    hand.on_ground((3.5, 3.5), (3.5, 6.5))
    clock.timeout.emit()
    assert "It could be so." not in shown(), "a stroke was painted since"
    working.session.say("It could be so.", "Stage Grow")
    clock.timeout.emit()
    hand.move(working.ground.view, hand.cell(4, 4))
    assert {"It could be so.", "x 4  y 4"} <= shown()
    QApplication.processEvents()
    assert named(working.ledger, QPushButton, "Stage Grow").isVisible()
    working.session.set_stage("joins")
    assert "It could be so." not in shown()


def test_a_finding_about_tiles_leads_to_their_shapes_only_where_it_is_about_those(working):
    named_tile = str(tile(1, 1))
    card = working.panels["sheet"].tile_card
    card.pages.show_page("Notes")
    working.session.go_to.emit(Finding("open", "sheet", "gaps", "art", tiles=(named_tile,)))
    assert card.notes.isVisible()
    working.session.go_to.emit(Finding("sliver", "sheet", "thin", "art", tiles=(named_tile,), shape_kind="sight"))
    assert card.shape.isVisible()
