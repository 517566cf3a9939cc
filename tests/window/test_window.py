import json
import shutil
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QListWidget, QPushButton, QSpinBox

from knitground.app.session import STAGES
from knitground.app.strip import StageStrip
from knitground.app.theme import colours
from knitground.core.edits.layers import change_layer
from knitground.core.edits.notes import set_collision
from knitground.core.edits.things import put
from knitground.core.project.document import Document
from knitground.core.project.file import FILE_NAME
from knitground.core.project.journal import left_behind
from knitground.core.tiles.notes import Point
from making import DEMO, make_document, png, poke, rectangle, sheet_of_tiles, tile
from window.finding import halves, in_dialog, named, open_menu, painted, press, says, take

CONTROL = Qt.KeyboardModifier.ControlModifier


def test_every_stage_is_one_click_and_one_key_away(demo):
    strip = demo.findChild(StageStrip)
    for index, stage in enumerate(STAGES):
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(index * 100 + 30, 20))
        assert demo.session.choices.stage == stage
        assert demo.panels[stage].isVisible()
    for index, stage in enumerate(STAGES):
        QTest.keyClick(demo, Qt.Key(Qt.Key.Key_1 + index), CONTROL)
        assert demo.session.choices.stage == stage


@pytest.mark.parametrize("theme", [colours.LIGHT, colours.DARK])
def test_every_stage_draws_in_light_and_dark_full_and_empty(window, qapp, theme):
    colours.use(qapp, theme)
    seen = []
    for document in (Document(), make_document()):
        window.session.open(document)
        for stage in STAGES:
            window.session.set_stage(stage)
            seen.append(painted(window))
    colours.use(qapp, colours.LIGHT)
    assert not any(np.array_equal(one, other) for place, one in enumerate(seen) for other in seen[:place])


def test_text_contrasts_with_what_is_behind_it():
    def light(name: str) -> float:
        parts = [int(name[n : n + 2], 16) / 255 for n in (1, 3, 5)]
        linear = [part / 12.92 if part <= 0.03928 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    def contrast(one: str, other: str) -> float:
        high, low = sorted((light(one), light(other)), reverse=True)
        return (high + 0.05) / (low + 0.05)

    for theme in (colours.LIGHT, colours.DARK):
        for text in (theme.ink, theme.quiet, theme.warning):
            for behind in (theme.window, theme.panel, theme.well):
                assert contrast(text, behind) >= 4.5, (text, behind)
        assert contrast(theme.on_thread, theme.thread) >= 4.5


def test_either_half_takes_the_window_and_gives_it_back(demo):
    both = halves(demo)
    for key, hidden in ((Qt.Key.Key_F7, 1), (Qt.Key.Key_F8, 0)):
        QTest.keyClick(demo, key)
        assert not both.widget(hidden).isVisible()
        assert both.widget(1 - hidden).isVisible()
        QTest.keyClick(demo, key)
        assert both.widget(0).isVisible()
        assert both.widget(1).isVisible()


def test_every_command_has_a_name_of_its_own_and_no_two_share_a_key(demo):
    names = [action.text() for action in demo.commands.actions]
    assert len(set(names)) == len(names)
    keys = [key.toString() for action in demo.commands.actions for key in action.shortcuts()]
    assert len(set(keys)) == len(keys)


def test_findings_lead_to_their_spot(demo, qtbot):
    qtbot.waitUntil(lambda: len(demo.session.findings) == 1, timeout=5000)
    demo.ledger.open_list()
    popup = QApplication.activePopupWidget()
    listed = popup.findChild(QListWidget)
    assert "Plank walks" in listed.item(0).text()
    listed.itemActivated.emit(listed.item(0))
    assert demo.session.choices.stage == "joins"
    assert demo.session.choices.join_set_id == "walks"
    assert "Draw these tiles" in says(demo.ledger)


def test_a_finding_is_mended_with_a_click_where_that_can_be_done(working, qtbot):
    document = working.session.document
    ref = next(iter(document.project.join_sets[0].labels))
    box = tuple(Point(x, y) for x, y in ((0, 4), (9, 4), (9, 8), (0, 8)))
    set_collision(document, {ref: (box,)})
    qtbot.waitUntil(lambda: any(f.kind == "shape sticks out" for f in working.session.findings), timeout=5000)
    working.ledger.open_list()
    popup = QApplication.activePopupWidget()
    listed = popup.findChild(QListWidget)
    at = next(n for n in range(listed.count()) if "sticks out" in listed.item(n).text())
    listed.setCurrentRow(at)
    press(popup, "Snap these shapes to the borders of their tiles")
    assert max(point.x for point in document.project.tiles[ref].collision[0]) == 8
    assert "Mended 1 tile" in says(working)
    document.undo()
    assert document.project.tiles[ref].collision == (box,)


def test_a_gap_on_the_ground_is_found_while_working_and_shown(working, hand, qtbot):
    labels = dict(list(working.session.join_set.labels.items())[:-1])
    put(working.session.document, "x", "join_sets", replace(working.session.join_set, labels=labels))
    working.session.choose(layer_id="areas", terrain=2, radius=2)
    hand.on_ground((10.5, 15.5))
    qtbot.waitUntil(lambda: any(f.kind == "gap" for f in working.session.findings), timeout=5000)
    finding = next(f for f in working.session.findings if f.kind == "gap")
    working.ground.view.centre_on(0, 0)
    working.session.go_to.emit(finding)
    shown = working.ground.view.visible_content()
    assert shown.contains((finding.column + 0.5) * 8, (finding.row + 0.5) * 8)


def test_saving_asks_once_for_a_folder_and_tells_of_changes(working, hand, tmp_path, monkeypatch):
    folder = tmp_path / "mine"
    proposed = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: proposed.append(_[2]) or (str(folder), ""))
    working.session.choose(layer_id="things", tile=tile(2, 3))
    hand.on_ground((3, 3))
    assert "•" in working.windowTitle()
    QTest.keyClick(working, Qt.Key.Key_S, CONTROL)
    assert "•" not in working.windowTitle()
    assert [Path(path).name for path in proposed] == ["Test"]
    assert json.loads((folder / FILE_NAME).read_text())["project"]["name"] == "Test"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: pytest.fail("asked again"))
    hand.on_ground((4, 4))
    QTest.keyClick(working, Qt.Key.Key_S, CONTROL)
    again = Document.load(folder)
    assert int((np.asarray(again.state.planes["ground"]["things"]["cells"]) > 0).sum()) == 2
    assert working.keeper.recent() == [folder.resolve()]


def test_a_project_that_cannot_be_opened_leaves_the_open_one(working, tmp_path):
    path = tmp_path / FILE_NAME
    path.write_text('{"format": "knitground-project", "version": 99}')
    said = []
    working.session.said.connect(lambda sentence, problem: said.append(sentence))
    assert not working.keeper.open_path(path)
    assert working.session.document.project.name == "Test"
    assert "newer" in said[-1]


def test_closing_with_unsaved_work_asks(working, hand):
    working.session.choose(layer_id="things", tile=tile(2, 3))
    hand.on_ground((3, 3))
    asked = answering(Qt.Key.Key_Escape)
    working.close()
    assert working.isVisible()
    assert "not saved" in asked[0]


def answering(key):
    """Presses a key in the box that comes next; the sentences that it asks."""
    asked = []

    def press(box):
        asked.append(box.text())
        QTest.keyClick(box, key)

    in_dialog(press)
    return asked


def test_unsaved_work_is_kept_and_offered_again(working, hand, qtbot, tmp_path):
    working.session.choose(layer_id="things", tile=tile(2, 3))
    hand.on_ground((3, 3))
    working.keeper.scribe.write_now()
    root = working.keeper.scribe.root
    qtbot.waitUntil(lambda: any(one.stat().st_size for one in root.glob("*/records")), timeout=5000)
    assert left_behind(root) == []
    # As the program would leave it behind if it were ended now.
    orphan = shutil.copytree(next(root.iterdir()), root / "orphan")
    working.session.open(Document())
    asked = answering(Qt.Key.Key_Escape)
    working.keeper.offer_recovery()
    assert "“Test” was not saved" in asked[0]
    assert orphan.exists(), "who does not answer loses nothing"
    assert not working.session.document.project.grounds
    answering(Qt.Key.Key_Return)
    working.keeper.offer_recovery()
    assert int((np.asarray(working.session.document.state.planes["ground"]["things"]["cells"]) > 0).sum()) == 1
    assert working.session.document.changed
    assert orphan.exists()
    # What is done from here on goes into the same journal; it is gone once the work is saved.
    working.session.choose(layer_id="things", tile=tile(2, 3))
    hand.on_ground((4, 4))
    before = (orphan / "records").stat().st_size
    working.keeper.scribe.write_now()
    qtbot.waitUntil(lambda: (orphan / "records").stat().st_size > before, timeout=5000)
    working.session.document.folder = tmp_path / "saved"
    assert working.keeper.save()
    assert not orphan.exists()


def test_delivering_writes_what_is_on_the_screen(demo, tmp_path, qtbot):
    demo.session.set_stage("deliver")
    for name, ending in (("png", ".png"), ("json", ".json")):
        job = demo.panels["deliver"].deliver(name, tmp_path / f"out{ending}")
        with qtbot.waitSignal(job.ended, timeout=20_000):
            pass
        assert (tmp_path / f"out{ending}").stat().st_size > 1000
    qtbot.waitUntil(lambda: "out.json" in says(demo.panels["deliver"]), timeout=5000)


def test_delivering_begins_in_the_projects_folder_whatever_a_ground_is_called(window, tmp_path, monkeypatch):
    document = make_document()
    ground = replace(document.project.grounds[0], id="../../away")
    state = document.state
    project = replace(state.project, grounds=(ground,))
    state = state._replace(project=project, planes={ground.id: state.planes["ground"]})
    window.session.open(Document(state, document.palette, tmp_path))
    asked = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *args: asked.append(Path(args[2])) or ("", ""))
    for name in ("png", "json"):
        window.panels["deliver"].ask(name)
    assert [path.resolve().parent for path in asked] == [tmp_path, tmp_path]


def test_a_delivery_that_cannot_be_written_is_told(demo, tmp_path, qtbot):
    (tmp_path / "file").write_text("in the way")
    said = []
    demo.session.said.connect(lambda sentence, problem: said.append((sentence, problem)))
    job = demo.panels["deliver"].deliver("png", tmp_path / "file" / "x.png")
    with qtbot.waitSignal(job.ended, timeout=20_000):
        pass
    qtbot.waitUntil(lambda: bool(said), timeout=5000)
    assert "could not be written" in said[-1][0]
    assert said[-1][1]


def test_the_demo_opens_from_its_folder_and_nothing_is_changed(window):
    before = (DEMO / FILE_NAME).read_bytes()
    assert window.keeper.open_path(DEMO)
    assert window.session.document.project.name == "Rooftop Apiary"
    assert window.session.document.folder == DEMO
    assert not window.session.document.changed
    assert (DEMO / FILE_NAME).read_bytes() == before


def test_a_ground_is_made_resized_and_renamed(working, monkeypatch, qtbot):
    from knitground.app.ground.new_ground import GroundDialog

    def accept(dialog) -> int:
        dialog.name.setText("Cellar")
        for side, value in (("cells across", 31), ("cells down", 22)):
            named(dialog, QSpinBox, side, shown=False).setValue(value)
        return 1

    monkeypatch.setattr(GroundDialog, "exec", accept)
    panel = working.panels["ground"]
    working.commands.action("New ground…").trigger()
    made = working.session.ground
    assert (made.name, made.width, made.height, made.tile_width) == ("Cellar", 31, 22, 8)
    working.session.choose(ground_id="ground")
    working.session.set_stage("ground")
    press(panel, "Name and size…")
    changed = working.session.ground
    assert (changed.id, changed.name, changed.width, changed.height) == ("ground", "Cellar", 31, 22)
    working.undo()
    assert working.session.ground.width == 20


def test_layers_are_added_from_the_sets_there_are_above_the_one_at_hand_and_in_its_group(working):
    column, session = working.ground.layers, working.session
    change_layer(session.document, "ground", "areas", "group", group="Floor")
    session.choose(layer_id="areas")
    for text in ("Tile layer", "Terrain layer knit from “Areas”", "Stitched layer of “Walls”", "Shade layer"):
        column.open_add_menu()
        next(action for action in column.add_menu.actions() if action.text() == text).trigger()
    at = [layer.id for layer in session.ground.layers].index("areas") + 1
    added, rest = session.ground.layers[at : at + 4], session.ground.layers[at + 4 :]
    assert [layer.kind for layer in added] == ["tiles", "terrain", "stitched", "shade"]
    assert {layer.group for layer in added} == {"Floor"}
    assert rest
    assert {layer.group for layer in rest} == {""}
    assert session.layer.name == "Shade"


def test_a_large_project_opens_and_saves_beside_the_window(window, tmp_path, qtbot):
    document = make_document(900, 900)
    cells = np.random.Generator(np.random.PCG64(4)).integers(0, 2, (900, 900)) * document.palette.code(tile(3, 3))
    cells[:, ::2] = document.palette.code(tile(5, 3))
    poke(document, "things", "cells", np.s_[:], cells)
    document.save(tmp_path / "large")
    with qtbot.waitSignal(window.session.opened, timeout=20_000):
        assert window.keeper.open_path(tmp_path / "large")
    assert window.session.ground.width == 900
    window.session.document.paint("p", "ground", "things", "cells", rectangle((900, 900), (0, 0), (9, 9)), 0)
    with qtbot.waitSignal(window.keeper.saved, timeout=20_000):
        assert window.keeper.save()
    assert not window.session.document.changed
    again = Document.load(tmp_path / "large").state.planes["ground"]["things"]["cells"]
    assert np.array_equal(again, window.session.document.state.planes["ground"]["things"]["cells"])


def test_a_large_sheet_is_read_beside_the_window(window, tmp_path, qtbot):
    path = tmp_path / "large.png"
    path.write_bytes(png(sheet_of_tiles(30, 30, 16, 1, 1)))
    assert path.stat().st_size > 500_000
    assert window.keeper.open_path(path)
    qtbot.waitUntil(lambda: len(window.session.document.project.sheets) == 1, timeout=20_000)
    assert window.session.document.project.sheets[0].cuts[0].tile_width == 16


@pytest.mark.parametrize("spoil", [b"", b"\x89PNG broken", b"{}"])
def test_a_spoilt_sheet_in_a_project_is_told_when_it_is_opened(window, tmp_path, spoil):
    make_document().save(tmp_path / "p")
    (tmp_path / "p" / "sheets" / "art.png").write_bytes(spoil)
    said = []
    window.session.said.connect(lambda sentence, problem: said.append(sentence))
    assert not window.keeper.open_path(tmp_path / "p")
    assert "The project needs this sheet" in said[-1]
    assert window.session.document.project.grounds == ()


def test_recent_projects_stand_in_the_menu_and_open(window, tmp_path):
    for name in ("one", "two"):
        make_document().save(tmp_path / name)
        window.keeper.open_path(tmp_path / name)
    assert window.keeper.recent() == [(tmp_path / "two").resolve(), (tmp_path / "one").resolve()]
    press(window, "Project")
    take(open_menu(), "one ")
    assert window.session.document.folder == (tmp_path / "one").resolve()


def test_the_window_remembers_its_halves(window, qtbot):
    halves(window).setSizes([760, 500])
    sizes = halves(window).sizes()
    window.close()
    other = type(window)()
    other.resize(window.size())
    other.show()
    qtbot.waitExposed(other)
    assert abs(halves(other).sizes()[0] - sizes[0]) <= 2
    other.close()
    other.deleteLater()


def test_pointing_at_a_view_lets_plain_keys_count_there_unless_text_is_typed(demo):
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QEnterEvent

    view = demo.ground.view
    at = QPointF(50, 50)
    demo.session.set_stage("sheet")
    named(demo.panels["sheet"], QPushButton, "Guess the numbers").setFocus()
    QApplication.sendEvent(view, QEnterEvent(at, at, view.mapToGlobal(at)))
    assert view.hasFocus()
    box = demo.panels["sheet"].cut_card.grid.boxes["tile_width"]
    box.setFocus()
    QApplication.sendEvent(view, QEnterEvent(at, at, view.mapToGlobal(at)))
    assert box.hasFocus()


def test_a_fault_of_the_program_is_told_and_the_work_copied(working, hand, qtbot):
    import sys

    from knitground.app.main import _report_faults

    working.session.choose(layer_id="things", tile=tile(2, 3))
    hand.on_ground((3, 3))
    before = sys.excepthook
    try:
        _report_faults(working)
        said = []
        working.session.said.connect(lambda sentence, problem: said.append(sentence))
        try:
            raise RuntimeError("a fault")
        except RuntimeError as fault:
            sys.excepthook(type(fault), fault, fault.__traceback__)
    finally:
        sys.excepthook = before
    assert "your work is kept" in said[-1]
    root = working.keeper.scribe.root
    qtbot.waitUntil(lambda: any(one.stat().st_size for one in root.glob("*/records")), timeout=5000)
