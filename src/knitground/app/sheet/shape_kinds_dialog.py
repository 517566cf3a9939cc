"""Kinds of collision shapes: their names and colours, and such as a game asks for besides."""

from PySide6.QtCore import QTimer
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QColorDialog, QDialog, QInputDialog, QLineEdit, QWidget

from knitground.app.allowed import allow
from knitground.app.session import Session
from knitground.app.widgets import button, clear, column, icon_button, in_row, in_widget, quiet, scrolling
from knitground.core.edits.shape_kinds import add_shape_kind, change_shape_kind, remove_shape_kind
from knitground.core.tiles.shape_kinds import FEET, SIGHT, ShapeKind


def patch_of(colour: str) -> QIcon:
    """A small square of a colour."""
    patch = QPixmap(14, 14)
    patch.fill(QColor(colour))
    return QIcon(patch)


class ShapeKindsDialog(QDialog):
    """A line for each kind; every change is one step of the history."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("Kinds of shapes")
        self.resize(420, 320)
        self._rows = column(spacing=6)
        self._soon = QTimer(self, singleShot=True, interval=0)
        self._soon.timeout.connect(self._refresh)
        says = quiet(
            "What stops feet counts when something walks, what stops sight when a light shines. All kinds are drawn, "
            "traced, snapped and delivered alike; what your own mean is for the game to say."
        )
        layout = column(
            says,
            scrolling(in_widget(self._rows)),
            in_row(
                button("New kind…", self._add, "Such as what stops arrows, or water"), None,
                button("Close", self.accept, "Escape", name="primary"),
            ),
        )  # fmt: skip
        layout.setStretch(1, 1)
        layout.setContentsMargins(16, 12, 16, 12)
        self.setLayout(layout)
        self._refresh()

    def _refresh(self) -> None:
        clear(self._rows)
        for kind in self._session.document.project.shape_kinds:
            self._rows.addWidget(self._row(kind))
        self._rows.addStretch(1)

    def _row(self, kind: ShapeKind) -> QWidget:
        name = QLineEdit(kind.name)
        name.setMaxLength(80)
        name.setAccessibleName(f"Name of the kind {kind.id}")
        name.editingFinished.connect(lambda: self._rename(kind, name))
        colour = button("", lambda: self._ask_colour(kind), "Choose the colour in which it is drawn")
        colour.setAccessibleName(f"Colour of {kind.name}")
        colour.setIcon(patch_of(kind.colour))
        take = icon_button("close", lambda: self._remove(kind), "Take this kind out, and its shapes with it")
        allow(take, "Every project has this kind." if kind.id in (FEET, SIGHT) else "")
        return in_row(name, colour, take)

    def _add(self) -> None:
        name, ok = QInputDialog.getText(self, "New kind of shapes", "Name")
        if ok:
            self._session.attempt(lambda: add_shape_kind(self._session.document, name))
            self._refresh()

    def _rename(self, kind: ShapeKind, field: QLineEdit) -> None:
        if field.text().strip() != kind.name:
            self._session.attempt(lambda: change_shape_kind(self._session.document, kind.id, name=field.text()))
            # Not at once: the field that is left is one of those that are made anew.
            self._soon.start()

    def _ask_colour(self, kind: ShapeKind) -> None:
        colour = QColorDialog.getColor(QColor(kind.colour), self, f"Colour of {kind.name}")
        if colour.isValid():
            self._session.attempt(lambda: change_shape_kind(self._session.document, kind.id, colour=colour.name()))
            self._refresh()

    def _remove(self, kind: ShapeKind) -> None:
        count = self._session.attempt(lambda: remove_shape_kind(self._session.document, kind.id))
        if count is not None:
            self._session.say(f"“{kind.name}” is gone, with the shapes of {count} tiles.", "Undo")
        self._refresh()
