"""The command finder: every action by its name."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget


class Finder(QDialog):
    """Type some letters of an action, Return does it."""

    def __init__(self, parent: QWidget, actions: list[QAction]) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self._actions = actions
        self._line = QLineEdit()
        self._line.setPlaceholderText("Find a command")
        self._line.textChanged.connect(self._filter)
        self._list = QListWidget()
        self._list.itemActivated.connect(self._do)
        self._list.itemClicked.connect(self._do)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.addWidget(self._line)
        layout.addWidget(self._list)
        self.setFixedSize(420, 380)
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
        named = [(action.text().replace("&", ""), action) for action in self._actions]
        if words:
            # What begins with the words, or nearly so, is meant rather than what mentions them at its end.
            named.sort(key=lambda one: one[0].lower().find(words[0]))
        for name, action in named:
            if all(word in name.lower() for word in words):
                keys = action.shortcut().toString()
                item = QListWidgetItem(f"{name}    {keys}" if keys else name)
                item.setData(Qt.ItemDataRole.UserRole, action)
                if not action.isEnabled():
                    item.setFlags(Qt.ItemFlag.NoItemFlags)
                    item.setText(f"{name}: {action.toolTip()}")
                    item.setToolTip(action.toolTip())
                self._list.addItem(item)
        self._list.setCurrentRow(0)

    def _do(self, item: QListWidgetItem | None) -> None:
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.close()
            item.data(Qt.ItemDataRole.UserRole).trigger()
