"""The finder: every action, and all of the project that has a name."""

from collections.abc import Callable, Iterator
from typing import TypeVar

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QAction, QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from knitground.core.project.named import Named

_MOST_THINGS = 60
_WIDTH, _BESIDE, _ABOVE = 420, 56, 12
T = TypeVar("T")


class Finder(QDialog):
    """Type some letters of an action or a name, Return does it, or goes there."""

    def __init__(
        self, parent: QWidget, actions: list[QAction], things: list[Named], go_to: Callable[[Named], object]
    ) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self._actions, self._things, self._go_to = actions, things, go_to
        self._line = QLineEdit()
        self._line.setPlaceholderText("A command, or the name of something")
        self._line.setAccessibleName("Find")
        self._line.textChanged.connect(self._filter)
        self._list = QListWidget()
        self._list.setWordWrap(True)
        self._list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._list.itemActivated.connect(self._do)
        self._list.itemClicked.connect(self._do)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.addWidget(self._line)
        layout.addWidget(self._list)
        self.setFixedSize(_WIDTH, 380)
        self.setObjectName("card")
        self._filter("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self._list.setCurrentRow(min(max(self._list.currentRow() + step, 0), self._list.count() - 1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._do(self._list.currentItem())
        else:
            super().keyPressEvent(event)

    def showEvent(self, event: object) -> None:
        self._line.setFocus()

    def _filter(self, text: str) -> None:
        self._list.clear()
        words = text.lower().split()
        for name, action in _having(words, [(one.text().replace("&", ""), one) for one in self._actions]):
            keys = action.shortcut().toString()
            if action.isEnabled():
                self._add(f"{name}    {keys}" if keys else name, action.trigger)
                continue
            item = self._add(f"{name}: {action.toolTip()}", action.trigger)
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            item.setToolTip(action.toolTip())
        if words:
            found = list(_having(words, [(one.title, one) for one in self._things]))
            for title, one in found[:_MOST_THINGS]:
                self._add(title, lambda to=one: self._go_to(to))  # type: ignore[misc]
        if not self._list.count():
            self._add("Nothing is called so; a part of a name is enough.", lambda: None).setFlags(
                Qt.ItemFlag.NoItemFlags
            )
        self._list.setCurrentRow(0)

    def _add(self, text: str, act: Callable[[], object]) -> QListWidgetItem:
        item = QListWidgetItem(text)
        # A row wraps its text within its borders, but asks for the height of a text that wraps without them.
        room = QRect(0, 0, _WIDTH - _BESIDE, 1000)
        high = self._list.fontMetrics().boundingRect(room, int(Qt.TextFlag.TextWordWrap), text).height()
        item.setSizeHint(QSize(room.width(), high + _ABOVE))
        item.setData(Qt.ItemDataRole.UserRole, act)
        self._list.addItem(item)
        return item

    def _do(self, item: QListWidgetItem | None) -> None:
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.close()
            item.data(Qt.ItemDataRole.UserRole)()


def _having(words: list[str], named: list[tuple[str, T]]) -> Iterator[tuple[str, T]]:
    """Those whose names hold all of some words; what begins with them, or nearly so, first."""
    if words:
        named = sorted(named, key=lambda one: one[0].lower().find(words[0]))
    return ((name, one) for name, one in named if all(word in name.lower() for word in words))
