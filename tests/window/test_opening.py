"""The window as it comes up, and its stages as they are seen first."""

import gc
import weakref
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QDialogButtonBox,
    QFileDialog,
    QInputDialog,
    QLabel,
    QWidget,
)

from knitground.app.ground.about_ground import AboutGround
from knitground.app.ground.beside_dialog import BesideDialog
from knitground.app.jobs import Job, are_running, wait_for_jobs
from knitground.app.theme.colours import theme
from knitground.app.window import Window
from knitground.core.project.file import FILE_NAME
from making import make_document, png, sheet_of_tiles, tile
from window.choosing import bring
from window.finding import named, painted, press, says


def test_while_the_window_comes_up_and_its_stages_are_seen_first_nothing_else_flashes_up(qapp, window):
    shown = []

    class Watch(QObject):
        def eventFilter(self, watched, event):
            if event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and watched.isWindow():
                shown.append(type(watched).__name__)
            return False

    watch = Watch()
    qapp.installEventFilter(watch)
    other = Window()
    other.show()
    for stage in other.panels:
        other.session.set_stage(stage)
        qapp.processEvents()
    qapp.removeEventFilter(watch)
    assert shown == ["Window"]
    other.close()
    other.deleteLater()


def test_a_stage_that_is_seen_late_shows_what_was_done_before(window):
    window.session.open(make_document())
    window.session.choose(tile=tile(3, 2))
    seen = {}
    for stage in ("ground", "grow"):
        window.session.set_stage(stage)
        view = window.panels[stage].view
        assert view.image.width() == 16 * 8
        seen[stage] = painted(view)
        assert seen[stage].std() > 0
    document = window.session.document
    window.session.open(document)
    for stage, picture in seen.items():
        window.session.set_stage(stage)
        window.session.choose(tile=tile(3, 2))
        assert (painted(window.panels[stage].view) == picture).all()


@pytest.mark.parametrize("stage", ["sheet", "joins", "stitches", "ground", "grow"])
def test_every_stage_that_shows_tiles_asks_for_a_sheet_while_there_is_none(window, tmp_path, monkeypatch, qtbot, stage):
    sheet = tmp_path / "hive.png"
    sheet.write_bytes(png(sheet_of_tiles(4, 4, seed=1)))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(sheet)], ""))
    window.session.set_stage(stage)
    assert "on the sheet" not in says(window)
    press(window.panels[stage], "Choose a file…" if stage == "sheet" else "Add a sprite sheet…")
    qtbot.waitUntil(lambda: bool(window.session.document.project.sheets), timeout=20_000)
    window.session.set_stage(stage)
    tab = named(window.panels[stage], QAbstractButton, "hive")
    assert not [one for one in tab.parentWidget().findChildren(QAbstractButton) if "Add" in one.text()]


def test_sets_are_looked_for_only_on_a_sheet_that_is_there(window):
    window.session.set_stage("joins")
    find = named(window.panels["joins"], QAbstractButton, "Find sets")
    assert not find.isEnabled()
    assert "Add a sprite sheet first" in find.toolTip()
    assert window.commands.action("Find sets on this sheet").toolTip() == "Add a sprite sheet first."
    window.session.open(make_document())
    assert find.isEnabled()
    assert window.commands.action("Find sets on this sheet").isEnabled()


def test_dialogs_are_dressed_as_the_window_is(working):
    for made in (QInputDialog(working), AboutGround(working, working.session), BesideDialog(working, working.session)):
        made.show()
        QApplication.processEvents()
        buttons = made.findChild(QDialogButtonBox).buttons()
        assert buttons
        assert all(button.icon().isNull() for button in buttons), "words say enough"
        assert made.grab().toImage().pixelColor(2, 2) == theme().colour("window")
        assert {label.fontInfo().pixelSize() for label in made.findChildren(QLabel)} <= {12, 13, 14}
        made.close()
        made.deleteLater()


def test_files_are_asked_for_where_the_last_one_was_as_long_as_that_folder_is_there(
    window, tmp_path, monkeypatch, qtbot
):
    begun = []
    (tmp_path / "art").mkdir()
    picked = tmp_path / "art" / "rocks.png"
    picked.write_bytes(png(sheet_of_tiles(2, 2, 8)))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *args: begun.append(args[2]) or ([str(picked)], ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *args: begun.append(args[2]) or "")
    home, art = str(Path.home()), str(tmp_path / "art")
    added = lambda: len(window.session.document.project.sheets) == 1  # noqa: E731
    window.commands.action("Add a sprite sheet…").trigger()
    qtbot.waitUntil(added, timeout=20_000)
    window.undo()
    window.commands.action("Add a folder of images as one tileset…").trigger()
    window.commands.action("Open a project…").trigger()
    assert begun == [home, art, home], "projects are asked for where projects are"
    picked.rename(tmp_path / "rocks.png")
    (tmp_path / "art").rmdir()
    window.commands.action("Add a folder of images as one tileset…").trigger()
    assert begun[-1] == home


def test_a_project_gets_its_name_from_the_folder_it_is_first_saved_in(window, tmp_path, monkeypatch):
    works, proposed = tmp_path / "deep" / "works", []
    answers = [tmp_path / "notes.txt", tmp_path / ("long" * 80), works, works / FILE_NAME]
    (tmp_path / "notes.txt").write_text("mine")
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *_: (proposed.append(Path(_[2])) or str(answers.pop(0)), "")
    )
    (tmp_path / "brine.png").write_bytes(png(sheet_of_tiles(4, 3)))
    bring(window, tmp_path / "brine.png")
    assert not window.keeper.save()
    assert "notes.txt is a file" in says(window.ledger)
    assert (tmp_path / "notes.txt").read_text() == "mine"
    assert not window.keeper.save(), "a name that no folder can have"
    assert "is too long; give a shorter one" in says(window.ledger)
    assert window.keeper.save()
    assert window.windowTitle() == "works – Knit Ground"
    assert (works / FILE_NAME).exists()
    assert window.keeper.save_as()
    assert [path.name for path in proposed] == ["brine map", "brine map", "brine map", "works"]
    assert proposed[3].parent == tmp_path / "deep"
    assert window.session.document.folder == works


def test_nothing_of_a_window_stays_when_it_is_gone(qapp, qtbot):
    def all_seen() -> list[weakref.ref[object]]:
        made = Window()
        made.session.open(make_document())
        made.show()
        for name in ("sheet", "joins", "stitches", "ground", "grow", "deliver"):
            made.session.set_stage(name)
            QApplication.processEvents()
        made.session.choose(radius=3)
        made.session.document.discard_changes()
        made.close()
        made.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        return [weakref.ref(part) for part in (made.session, made.session.document, made.ground, made.trial)]

    parts = all_seen()
    qtbot.waitUntil(lambda: gc.collect() >= 0 and not any(part() for part in parts))


def test_nothing_of_what_was_done_beside_the_interface_stays_however_short_it_was(qapp, qtbot):
    class Work:
        def begin(self) -> int:
            return 1

    begun = []
    for _ in range(600):
        work = Work()
        begun.append(weakref.ref(work))
        Job("Working", lambda report, work=work: work.begin()).start()
        del work
    wait_for_jobs()
    qtbot.waitUntil(lambda: not are_running())
    qtbot.waitUntil(lambda: gc.collect() >= 0 and not any(work() for work in begun))
