"""The real window, driven by mouse and keyboard."""

import shutil
from collections.abc import Iterator

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from knitground.app.keys.focus_ring import FocusRings
from knitground.app.main import make_application
from knitground.app.theme.colours import follow_system
from knitground.app.window import Window
from knitground.core.edits.notes import notes_of
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.project.document import Document
from making import DEMO, make_document, tile

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton


class Hand:
    """A mouse and a keyboard on the window."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def move(self, widget: QWidget, at: QPointF | QPoint, button: Qt.MouseButton = Qt.MouseButton.NoButton) -> None:
        """Moves the pointer, with or without a button down."""
        place = QPointF(at)
        buttons = button if button != Qt.MouseButton.NoButton else Qt.MouseButton.NoButton
        event = QMouseEvent(
            QEvent.Type.MouseMove,
            place,
            widget.mapToGlobal(place),
            Qt.MouseButton.NoButton,
            buttons,
            Qt.KeyboardModifier.NoModifier,
        )
        QApplication.sendEvent(widget, event)

    def click(
        self, widget: QWidget, at: QPointF, button: Qt.MouseButton = LEFT, modifier=Qt.KeyboardModifier.NoModifier
    ) -> None:
        """Presses and lets go."""
        self.move(widget, at)
        QTest.mouseClick(widget, button, modifier, at.toPoint())

    def drag(self, widget: QWidget, *way: QPointF, button: Qt.MouseButton = LEFT) -> None:
        """Presses at the first point, moves over the others and lets go at the last."""
        self.move(widget, way[0])
        QTest.mousePress(widget, button, Qt.KeyboardModifier.NoModifier, way[0].toPoint())
        for place in way[1:]:
            self.move(widget, place, button)
        QTest.mouseRelease(widget, button, Qt.KeyboardModifier.NoModifier, way[-1].toPoint())

    def cell(self, row: float, column: float) -> QPointF:
        """The middle of a cell of the ground, on the view; halves reach lattice points."""
        return self.window.ground.view.point(row + 0.5, column + 0.5)

    def on_ground(self, *cells: tuple[float, float], button: Qt.MouseButton = LEFT) -> None:
        """Drags over cells of the ground, or clicks the only one."""
        view, way = self.window.ground.view, [self.cell(*cell) for cell in cells]
        if len(way) == 1:
            self.click(view, way[0], button)
        else:
            self.drag(view, *way, button=button)

    def key(self, widget: QWidget, key: Qt.Key | str, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        """Presses a key with the focus on a widget."""
        widget.setFocus()
        QTest.keyClick(widget, key, modifier)


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    """The application as the program makes it."""
    app = make_application()
    follow_system(app)
    return app


@pytest.fixture
def window(qtbot, tmp_path) -> Iterator[Window]:
    QSettings.setPath(QSettings.Format.NativeFormat, QSettings.Scope.UserScope, str(tmp_path / "settings"))
    for rings in QApplication.instance().findChildren(FocusRings):
        rings.take_off()  # whoever went about by keys in another test left one
    made = Window()
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.session.document.commit()
    made.session.document.discard_changes()
    made.close()
    made.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def hand(window) -> Hand:
    return Hand(window)


@pytest.fixture
def working(window, qtbot) -> Window:
    """The window on the test project, with the ground in view."""
    window.session.open(make_document())
    window.session.set_stage("ground")
    window.ground.view.set_zoom(3)
    window.ground.view.centre_on(80, 60)
    return window


@pytest.fixture
def demo(window, tmp_path_factory) -> Window:
    """The window on a copy of the demo, so that nobody else has it open."""
    window.session.open(Document.load(shutil.copytree(DEMO, tmp_path_factory.mktemp("demo") / "apiary")))
    return window


@pytest.fixture
def card(working):
    working.session.set_stage("sheet")
    working.panels["sheet"].show_work("Tiles")
    return working.panels["sheet"].tile_card


@pytest.fixture
def notes(working):
    return lambda *place: notes_of(working.session.document, tile(*place))


@pytest.fixture
def growing(working):
    working.session.put_mix(
        Mix("m", "M", (MixPart(tile(2, 3), 1), MixPart(tile(5, 3), 1), MixPart(None, 2))), "add mix"
    )
    working.session.set_stage("grow")
    return working
