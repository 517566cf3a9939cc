"""The list of deliveries, by mouse and keyboard."""

import json
import threading

import numpy as np
from PIL import Image
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QProgressBar, QPushButton
from websockets.sync.client import connect

from knitground.app.jobs import Job, are_running
from knitground.core.deliver import EXPORTERS
from knitground.core.edits.delivering import add_delivery, set_option
from knitground.core.edits.selecting import boxed
from knitground.core.errors import Cancelled
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from making import SIDE, make_document, poke, tile
from window.finding import named, open_menu, press, says, take


def opened(window, tmp_path):
    """The window at its last stage, with a project that lies somewhere."""
    window.session.document.save(tmp_path / "project")
    window.session.set_stage("deliver")
    return window.panels["deliver"], tmp_path / "project"


def test_a_delivery_is_made_changed_and_run(working, tmp_path, qtbot):
    panel, folder = opened(working, tmp_path)
    assert "Choose what the first one is to be" in says(panel)
    QTest.mouseClick(named(panel, QPushButton, "New delivery"), Qt.MouseButton.LeftButton)
    take(open_menu(), "JSON for games")
    card = panel.card
    qtbot.waitUntil(lambda: "ground.json" in says(card), timeout=5000)
    assert "new or changed" in says(card)
    card.pattern.selectAll()
    QTest.keyClicks(card.pattern, "map-{{ground}")
    QTest.keyClick(card.pattern, Qt.Key.Key_Return)
    assert card.pattern.text() == "{ground}", "what makes no name is put back"
    card.pattern.selectAll()
    QTest.keyClicks(card.pattern, "map-{ground}")
    QTest.keyClick(card.pattern, Qt.Key.Key_Return)
    assert card.options.controls["side"].text() == "one picture"
    edge = card.options.controls["edge"]
    edge.lineEdit().selectAll()
    QTest.keyClicks(edge, "2")
    QTest.keyClick(edge, Qt.Key.Key_Return)
    QTest.mouseClick(named(panel, QPushButton, "Run"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "wrote 2 files" in panel.list.item(0).text(), timeout=5000)
    assert working.keeper.save()
    working.session.open(Document.load(folder))
    assert "wrote 2 files" in panel.list.item(0).text(), "it is remembered"
    content = json.loads((folder / "delivered" / "map-ground.json").read_text())
    assert content["tileset"]["edge"] == 2
    assert working.session.document.project.deliveries[0].options == {"edge": 2}
    set_option(working.session.document, working.session.document.project.deliveries[0].id, "edge", 0, 0)
    assert card.options.controls["edge"].value() == 0
    working.session.document.undo()
    assert card.options.controls["edge"].value() == 2


def test_saving_and_resting_write_what_follows_them(working, tmp_path, qtbot):
    _, folder = opened(working, tmp_path)
    document = working.session.document
    add_delivery(document, "Saved", "png", when="save", pattern="saved")
    assert working.keeper.save()
    qtbot.waitUntil(lambda: (folder / "delivered" / "saved.png").exists(), timeout=5000)
    add_delivery(document, "Followed", "csv", when="change", pattern="{part}")
    followed = folder / "delivered" / "things.csv"
    qtbot.waitUntil(followed.exists, timeout=5000)
    before = followed.read_text()
    poke(document, "things", "cells", np.s_[2:5, 2:5], document.palette.code(tile(6, 3)))
    qtbot.waitUntil(lambda: followed.read_text() != before, timeout=5000)


def test_what_lies_outside_is_not_written_by_itself_before_it_was_run_by_hand(working, tmp_path, qtbot):
    panel, _ = opened(working, tmp_path)
    document, outside = working.session.document, tmp_path / "game"
    made = add_delivery(document, "Game", "png", when="save", folder=str(outside))
    assert working.keeper.save()
    qtbot.waitUntil(lambda: "run it once by hand" in panel.list.item(0).text(), timeout=5000)
    assert not outside.exists()
    panel.choose(made)
    panel.run_chosen()
    qtbot.waitUntil(lambda: "wrote 1 file" in panel.list.item(0).text(), timeout=5000)
    (outside / "ground.png").unlink()
    assert working.keeper.save()
    qtbot.waitUntil((outside / "ground.png").exists, timeout=5000)


def test_a_piece_is_what_is_selected(working, tmp_path, qtbot):
    panel, folder = opened(working, tmp_path)
    panel.add("gif")
    QTest.mouseClick(panel.card.piece, Qt.MouseButton.LeftButton)
    assert not working.session.document.project.deliveries[0].options
    board = working.session.ground.board
    working.session.select(boxed(board, (2.5, 3.5), (4.5, 7.5)))
    QTest.mouseClick(panel.card.piece, Qt.MouseButton.LeftButton)
    panel.run_chosen()
    qtbot.waitUntil(lambda: "wrote 1 file" in panel.list.item(0).text(), timeout=5000)
    with Image.open(folder / "delivered" / "ground.gif") as image:
        assert image.size == (5 * SIDE, 3 * SIDE)


def test_what_was_delivered_by_hand_is_told_in_any_stage(working, tmp_path, qtbot):
    panel, folder = opened(working, tmp_path)
    for name in ("One", "Two", "Three"):
        add_delivery(working.session.document, name, "csv", folder=name)
    working.session.set_stage("ground")
    working.commands.action("Run all deliveries").trigger()
    qtbot.waitUntil(lambda: "“One”: wrote" in says(working.ledger), timeout=5000)
    assert "“Two”: wrote" in says(working.ledger)
    assert "and 1 more" in says(working.ledger)
    press(working.ledger, "Stage Deliver")
    assert working.session.choices.stage == "deliver"
    assert (folder / "Three").is_dir()
    working.session.say("")
    panel.run_all()
    qtbot.waitUntil(lambda: "“One”: nothing to write" in says(working.ledger), timeout=5000)


def test_each_delivery_says_whether_it_runs_or_waits_for_its_turn(working, tmp_path, qtbot):
    panel, _ = opened(working, tmp_path)
    for name in ("One", "Two", "Three"):
        add_delivery(working.session.document, name, "csv", folder=name)
    seen = []
    panel.runs.changed.connect(lambda: seen.append([panel.list.item(row).text() for row in range(3)]))
    panel.run_all()
    qtbot.waitUntil(lambda: "wrote" in panel.list.item(2).text() and not are_running(), timeout=5000)
    assert ["running…" in text for text in seen[0]] == [True, False, False]
    assert ["waits for its turn" in text for text in seen[2]] == [False, True, True]
    second = [texts for texts in seen if "running…" in texts[1]]
    assert second
    assert all("running…" not in texts[0] and "wrote" in texts[0] and "waits" in texts[2] for texts in second[:1])
    assert not any("…" in text for text in seen[-1])


def test_options_that_no_box_can_hold_are_told_when_they_are_run(working, tmp_path, qtbot):
    panel, _ = opened(working, tmp_path)
    wrong = {"edge": 2**31 - 1, "turned": "sideways", "side": -5.5, "wool": True}
    add_delivery(working.session.document, "Odd", "json", options=wrong, unit=1e-9)
    add_delivery(working.session.document, "Nowhere", "png", folder=" ", when="save")
    panel.run_all()
    qtbot.waitUntil(lambda: "no option “wool”" in panel.list.item(0).text(), timeout=5000)
    qtbot.waitUntil(lambda: "no folder to write to" in panel.list.item(1).text(), timeout=5000)
    assert working.keeper.save()
    qtbot.waitUntil(lambda: "wool" in says(panel.card), timeout=5000)


def test_what_cannot_be_written_is_told_where_it_stands_and_grounds_and_layers_are_ticked(working, tmp_path, qtbot):
    panel, folder = opened(working, tmp_path)
    (folder / "delivered").write_text("in the way")
    panel.add("png")
    panel.run_all()
    qtbot.waitUntil(lambda: "could not be written" in panel.list.item(0).text(), timeout=5000)
    for menu_button, entry, field in ((panel.card.grounds, 0, "grounds"), (panel.card.layers, 0, "layers")):
        menu = menu_button.menu()
        menu.popup(panel.mapToGlobal(QPoint(5, 5)))
        menu.actions()[entry].trigger()
        menu.close()
        assert len(getattr(working.session.document.project.deliveries[0], field)) == 1
    QTest.mouseClick(named(panel, QPushButton, "Remove"), Qt.MouseButton.LeftButton)
    assert not working.session.document.project.deliveries
    assert panel.list.isHidden()


def test_what_is_painted_is_followed_live_and_the_game_points_at_places(working, hand, tmp_path, qtbot):
    panel, _ = opened(working, tmp_path)
    live = panel.live
    QTest.mouseClick(live.tick, Qt.MouseButton.LeftButton, pos=QPoint(8, 14))
    assert live.link.address in says(live)
    press(live, "Copy for a game")
    assert QApplication.clipboard().text() == live.link.socket_address
    assert live.link.socket_address in says(working.ledger)
    heard: list[dict] = []

    def game(address: str) -> None:
        with connect(address, max_size=2**26) as socket:
            for text in socket:
                heard.append(json.loads(text))
                if heard[-1]["type"] in ("cells", "tiles"):
                    socket.send(json.dumps({"type": "here", "x": 80, "y": 60}))
                    socket.send(json.dumps({"type": "look", "x": 20, "y": 100}))
                    socket.send("that is answered, so all before it was heard")

    follower = threading.Thread(target=game, args=(live.link.socket_address,), daemon=True)
    follower.start()
    qtbot.waitUntil(lambda: [one["type"] for one in heard] == ["hello", "whole"], timeout=5000)
    qtbot.waitUntil(lambda: "1 follows" in says(live), timeout=5000)
    working.session.set_stage("ground")
    working.session.choose(layer_id="things", tile=tile(6, 3))
    hand.on_ground((4, 4))
    qtbot.waitUntil(lambda: any(one["type"] == "said" for one in heard), timeout=5000)
    QApplication.processEvents()
    assert live.here is None, "it may not point here yet"
    working.session.set_stage("deliver")
    QTest.mouseClick(live.points, Qt.MouseButton.LeftButton, pos=QPoint(8, 14))
    hand.on_ground((4, 6))
    view = working.ground.view
    qtbot.waitUntil(
        lambda: live.here is not None and abs(view.to_widget(20, 100).x() - view.width() / 2) < 2, timeout=5000
    )
    QTest.mouseClick(live.tick, Qt.MouseButton.LeftButton, pos=QPoint(8, 14))
    follower.join(timeout=5)
    assert not follower.is_alive()
    assert live.link is None


def test_a_delivered_map_and_a_layered_picture_open_in_the_window(demo, tmp_path, qtbot):
    derived = demo.session.derived
    EXPORTERS["json"].write(derived, "chimneys", tmp_path / "map.json")
    EXPORTERS["ora"].write(Derived(make_document()), "ground", tmp_path / "painted.ora")
    assert demo.keeper.open_path(tmp_path / "map.json")
    assert [one.name for one in demo.session.document.project.grounds] == ["Chimneys"]
    sheets = len(demo.session.document.project.sheets)
    assert demo.keeper.open_path(tmp_path / "painted.ora")
    assert len(demo.session.document.project.sheets) == sheets, "it is read beside the window"
    qtbot.waitUntil(lambda: len(demo.session.document.project.sheets) > sheets, timeout=10_000)
    assert "cut by a first guess" in says(demo.ledger)


def test_what_is_not_saved_yet_is_asked_for_once(working, qtbot):
    working.session.set_stage("deliver")
    panel = working.panels["deliver"]
    press(panel, "JSON for games")
    (clock,) = panel.card.findChildren(QTimer, options=Qt.FindChildOption.FindDirectChildrenOnly)
    qtbot.waitUntil(lambda: not clock.isActive() and not are_running(), timeout=5000)
    assert says(panel).count("Save the project first") == 1
    press(panel, "Run")
    qtbot.waitUntil(lambda: "in folders seen from its own." in panel.list.item(0).toolTip(), timeout=5000)
    panel.list.setFixedWidth(200)
    assert not panel.list.horizontalScrollBar().isVisible(), "it would cover what is told"


def test_the_first_delivery_is_chosen_from_what_there_is(working, tmp_path):
    panel, _ = opened(working, tmp_path)
    for exporter in EXPORTERS.values():
        assert exporter.about in says(panel)
    press(panel, "Keep a delivery with the project: Tables (CSV)")
    (kept,) = working.session.document.project.deliveries
    assert kept.format == "csv"
    assert EXPORTERS["svg"].about not in says(panel)
    working.undo()
    assert EXPORTERS["svg"].about in says(panel)


def test_work_that_begins_as_other_work_ends_shows_and_can_be_stopped(working, qtbot):
    gate, stopped = threading.Event(), []

    def wait(report):
        while not gate.wait(0.005):
            try:
                report(0.5)
            except Cancelled:
                stopped.append(True)
                raise

    first = Job("First work", lambda report: None)
    first.ended.connect(lambda: working.session.run(Job("Second work", wait), lambda done: None))
    working.session.run(first, lambda done: None)
    ledger = working.ledger
    try:
        qtbot.waitUntil(lambda: "Second work" in says(ledger), timeout=5000)
        bar = ledger.findChild(QProgressBar)
        qtbot.waitUntil(lambda: bar.isVisible() and bar.value() == 50, timeout=5000)
        press(ledger, "Stop this")
        qtbot.waitUntil(lambda: not bar.isVisible(), timeout=5000)
        assert stopped
    finally:
        gate.set()
