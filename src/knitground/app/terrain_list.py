"""Terrains or marks to choose from, each with its thread, its name and the key that chooses it."""

from dataclasses import replace

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QColorDialog, QInputDialog, QMenu, QVBoxLayout, QWidget

from knitground.app.allowed import a_menu
from knitground.app.guard import guarded
from knitground.app.one_of import OneOf
from knitground.app.theme.colours import theme
from knitground.app.widgets import clear, draw_button_frame, draw_thread
from knitground.core.joins.sets import Terrain

MOST_NUMBERED = 9


class TerrainButton(OneOf):
    """A terrain: a thread of its colour, its name, its key."""

    renamed = Signal()

    def __init__(self, terrain: Terrain, chosen: bool, key: str) -> None:
        super().__init__()
        self.terrain, self._key = terrain, key
        self.setChecked(chosen)
        self.setAccessibleName(terrain.name)
        self.setToolTip(
            f"Paint {terrain.name} ({key}); double click renames"
            if key
            else f"Paint {terrain.name}; double click renames"
        )
        self.setFixedHeight(32)

    def sizeHint(self) -> QSize:
        return QSize(160, 32)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.renamed.emit()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_button_frame(painter, self)
        middle = self.height() / 2
        draw_thread(painter, QPointF(16, middle), QPointF(30, middle), self.terrain.colour)
        painter.setPen(theme().colour("ink"))
        room = self.rect().adjusted(46, 0, -28, 0)
        name = painter.fontMetrics().elidedText(self.terrain.name, Qt.TextElideMode.ElideRight, room.width())
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(theme().colour("quiet"))
        painter.drawText(
            self.rect().adjusted(0, 0, -12, 0),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            self._key,
        )


class TerrainList(QWidget):
    """Shows terrains; tells which is chosen, and how one is to be changed.

    Beside each stands the key that chooses it: its letter on sheets, or on the ground, where letters are tools, its
    number.
    """

    chosen = Signal(int)
    changed = Signal(int, object)
    removed = Signal(int)

    def __init__(self, *, numbered: bool = False) -> None:
        super().__init__()
        self._numbered = numbered
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(4)
        self._shown: tuple[object, ...] = ()

    def show_terrains(self, terrains: tuple[Terrain, ...], current: int) -> None:
        """Shows terrains, one of them (from 1) as chosen."""
        if self._shown == (terrains, current):
            return
        self._shown = (terrains, current)
        at_keys = any(entry.hasFocus() for entry in self.findChildren(TerrainButton))
        clear(self._layout)
        for number, terrain in enumerate(terrains, start=1):
            key = (str(number) if number <= MOST_NUMBERED else "") if self._numbered else terrain.letter
            entry = TerrainButton(terrain, number == min(current, len(terrains)), key)
            entry.clicked.connect(lambda _=False, n=number: self.chosen.emit(n))
            entry.renamed.connect(lambda t=terrain, n=number: self._rename(t, n))
            entry.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
            entry.customContextMenuRequested.connect(
                lambda at, e=entry, n=number: self._menu(e, n).popup(e.mapToGlobal(at))
            )
            self._layout.addWidget(entry)
            if at_keys and entry.isChecked():
                entry.show()
                entry.setFocus()

    def _menu(self, entry: TerrainButton, number: int) -> QMenu:
        menu = a_menu(entry)
        menu.addAction("Rename…", lambda: self._rename(entry.terrain, number))
        menu.addAction("Letter…", lambda: self._letter(entry.terrain, number))
        menu.addAction("Colour…", lambda: self._recolour(entry.terrain, number))
        menu.addSeparator()
        menu.addAction("Remove", lambda: self.removed.emit(number))
        return menu

    def _rename(self, terrain: Terrain, number: int) -> None:
        name, ok = QInputDialog.getText(self, "Rename", "Name of the terrain", text=terrain.name)
        if ok and name.strip():
            self.changed.emit(number, replace(terrain, name=name.strip()[:60]))

    def _letter(self, terrain: Terrain, number: int) -> None:
        letter, ok = QInputDialog.getText(self, "Letter", "One letter to show and to choose it by", text=terrain.letter)
        if ok and letter.strip():
            self.changed.emit(number, replace(terrain, letter=letter.strip()[0].upper()))

    def _recolour(self, terrain: Terrain, number: int) -> None:
        colour = QColorDialog.getColor(QColor(terrain.colour), self, "Colour of the thread")
        if colour.isValid():
            self.changed.emit(number, replace(terrain, colour=colour.name()))
