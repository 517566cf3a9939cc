"""Dialogs that were closed: nothing of them is left, and nothing that they had begun comes back."""

import threading

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QDialog

from knitground.app.jobs import wait_for_jobs
from knitground.app.sheet import twins_dialog
from knitground.core.project.document import Document
from knitground.core.project.model import Palette, Project, State
from knitground.core.tiles.alike import Twin
from making import tile
from window.finding import in_dialog


def let_go() -> None:
    """Lets all that was to be deleted go."""
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()


@pytest.mark.parametrize(
    "command",
    [
        "Tiles that look the same…",
        "Pack the sheet anew…",
        "Name and size of the ground…",
        "Background, tags and properties of the ground…",
        "Maps beside this one…",
        "What blocks…",
    ],
)
def test_nothing_of_a_dialog_is_left_when_it_is_closed(working, qtbot, command):
    working.session.set_stage("sheet")
    seen = []

    def leave(dialog: QDialog) -> None:
        seen.append(dialog.windowTitle())
        dialog.reject()

    in_dialog(leave)
    working.commands.action(command).trigger()
    qtbot.waitUntil(lambda: len(seen) == 1)
    wait_for_jobs()
    let_go()
    assert not working.findChildren(QDialog)


def test_what_a_closed_dialog_had_begun_to_look_for_is_not_taken_for_the_project_at_hand(working, monkeypatch):
    closed = threading.Event()

    def late(tiles, *, turned):
        closed.wait(60)
        return [[Twin(tile(1, 1), 0), Twin(tile(2, 1), 1)]]

    monkeypatch.setattr(twins_dialog, "twins", late)

    def leave(dialog: QDialog) -> None:
        dialog.reject()
        working.session.open(Document(State(Project(name="Bare"), {}, {}), Palette()))
        closed.set()
        wait_for_jobs()
        QApplication.processEvents()

    in_dialog(leave)
    working.commands.action("Tiles that look the same…").trigger()
    assert closed.is_set()
