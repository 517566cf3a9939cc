"""The finder: every action, and all of the project that has a name."""

from collections.abc import Callable

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QAction, QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListView, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from knitground.core.lookup import found, meant, near
from knitground.core.project.named import Named

_MOST_THINGS = 60
_WIDTH, _BESIDE, _ABOVE = 420, 56, 12
_NOTHING = "Nothing is called so; a part of a name is enough."
_NEAR = "Nothing is called just so; this comes near:"


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
        self._list.setResizeMode(QListView.ResizeMode.Adjust)
        self._list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._list.itemActivated.connect(self._do)
        self._list.itemClicked.connect(self._do)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.addWidget(self._line)
        layout.addWidget(self._list)
        self.setFixedSize(_WIDTH, 380)
        self.setObjectName("popup")
        self._filter("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self._step(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._do(self._list.currentItem())
        else:
            super().keyPressEvent(event)

    def showEvent(self, event: object) -> None:
        self._line.setFocus()

    def _filter(self, text: str) -> None:
        self._list.clear()
        names = [one.text().replace("&", "") for one in self._actions]
        for place in sorted(found(text, names), key=lambda place: not self._actions[place].isEnabled()):
            self._offer(names[place], self._actions[place])
        if text.strip():
            for place in found(text, [one.title for one in self._things])[:_MOST_THINGS]:
                thing = self._things[place]
                self._add(thing.title, lambda to=thing: self._go_to(to))  # type: ignore[misc]
        for place in meant(text, names):
            self._offer(names[place], self._actions[place])
        if not self._list.count():
            close = near(text, names)
            self._say(_NEAR if close else _NOTHING)
            for place in close:
                self._offer(names[place], self._actions[place])
        self._list.setCurrentRow(-1)
        self._step(1)

    def _offer(self, name: str, action: QAction) -> None:
        """Adds a line for an action, with its keys, or why it can't be done."""
        keys = action.shortcut().toString()
        if action.isEnabled():
            self._add(f"{name}    {keys}" if keys else name, action.trigger)
            return
        item = self._add(f"{name}: {action.toolTip()}", action.trigger)
        item.setFlags(Qt.ItemFlag.NoItemFlags)
        item.setToolTip(action.toolTip())

    def _step(self, by: int) -> None:
        """Goes to the next line up or down of those that can be done."""
        at = self._list.currentRow()
        lines = (self._list.item(row) for row in range(self._list.count()))
        beyond = [
            row for row, line in enumerate(lines) if (row - at) * by > 0 and line.flags() & Qt.ItemFlag.ItemIsEnabled
        ]
        if beyond:
            self._list.setCurrentRow(min(beyond, key=lambda row: abs(row - at)))

    def _say(self, text: str) -> None:
        self._add(text, lambda: None).setFlags(Qt.ItemFlag.NoItemFlags)

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
