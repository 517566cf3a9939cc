"""Tiles at hand: those used last, and those found by tag or name across all sheets."""

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPixmap
from PySide6.QtWidgets import QCompleter, QLineEdit, QListWidget, QListWidgetItem, QWidget

from knitground.app.session import Session
from knitground.app.widgets import clear, column, icon_button, image_of, quiet, row
from knitground.core.edits.tile_search import find_tiles, tags_of
from knitground.core.tiles.tile import TileRef

_USED, _SIDE, _FOUND = 8, 24, 48
_PAUSE_MS = 120


class AtHand(QWidget):
    """A field to find tiles with, the tiles used last beside it, and what was found in place of the sheet."""

    searching = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._used: list[TileRef] = []
        self._soon = QTimer(self, singleShot=True, interval=_PAUSE_MS)
        self._soon.timeout.connect(self._look)
        self.words = QLineEdit()
        self.words.setPlaceholderText("Find tiles by tag or name")
        self.words.setAccessibleName("Find tiles by tag or name")
        self.words.setToolTip("Words that tags, properties, sheets or images begin with (Ctrl+F)")
        self.words.setClearButtonEnabled(True)
        self.words.textChanged.connect(lambda _: self._soon.start())
        self.found = QListWidget()
        self.found.setAccessibleName("Tiles found")
        self.found.setViewMode(QListWidget.ViewMode.IconMode)
        self.found.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.found.setMovement(QListWidget.Movement.Static)
        self.found.setUniformItemSizes(True)
        self.found.setIconSize(QSize(_FOUND, _FOUND))
        self.found.itemClicked.connect(self._take)
        self.found.itemActivated.connect(self._take)
        self.says = quiet()
        self._last = row(spacing=2)
        self.found.hide()
        self.says.hide()
        bar = row(self.words, spacing=6)
        bar.setStretch(0, 1)
        bar.addLayout(self._last)
        layout = column(spacing=4)
        layout.addLayout(bar)
        layout.addWidget(self.says)
        layout.addWidget(self.found, 1)
        self.setLayout(layout)
        session.on_choice(self._on_tile, "tile")
        session.opened.connect(self._forget)
        session.defined.connect(self._follow)
        self._shown: tuple[object, ...] = ()
        self._refresh()

    def ask(self) -> None:
        """Leads to the field."""
        self.words.setFocus()
        self.words.selectAll()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.words.text():
            self.words.clear()
        elif event.key() == Qt.Key.Key_Down and self.found.isVisible() and self.words.hasFocus():
            self.found.setFocus()
            self.found.setCurrentRow(0)
        else:
            super().keyPressEvent(event)

    def _on_tile(self) -> None:
        tile = self._session.choices.tile
        if tile is not None and tile not in self._used:
            # One that is there already stays where it is, so that the row does not jump about under the pointer.
            self._used = [tile, *self._used][:_USED]
            self._refresh()

    def _forget(self) -> None:
        self._used = []
        self.words.clear()
        self._refresh()

    def _follow(self) -> None:
        """Refreshes if tiles are cut, drawn or described otherwise; not for each thing that is moved."""
        if any(now is not shown for now, shown in zip(self._looked_at(), self._shown, strict=True)):
            self._refresh()

    def _looked_at(self) -> tuple[object, ...]:
        state = self._session.document.state
        return state.project.sheets, state.project.tiles, state.pictures

    def _refresh(self) -> None:
        """Shows the tiles used last as they look now, and looks again for what is asked for."""
        derived = self._session.derived
        self._shown = self._looked_at()
        usable = derived.usable(self._used)
        self._used = [ref for ref in self._used if ref in usable]
        clear(self._last)
        for ref in self._used:
            name = self._session.derived.called(ref)
            taken = icon_button("pick", lambda ref=ref: self._choose(ref), f"Take {name} in hand again")  # type: ignore[misc]
            taken.setIcon(self._icon(ref))
            taken.setIconSize(QSize(_SIDE, _SIDE))
            self._last.addWidget(taken)
        completer = QCompleter(list(tags_of(self._session.document.project)), self.words)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.words.setCompleter(completer)
        if self.words.text():
            self._soon.start()

    def _look(self) -> None:
        """Shows what is found in place of the sheet, or the sheet where nothing is asked for."""
        session, text = self._session, self.words.text().strip()
        self.found.clear()
        tiles = find_tiles(session.document.project, session.derived.sliced(), text)
        for ref in tiles:
            item = QListWidgetItem(self._icon(ref), "")
            name, notes = session.derived.called(ref), session.document.project.tiles.get(ref)
            item.setToolTip(name + (f"\n{', '.join(notes.tags)}" if notes and notes.tags else ""))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, name)
            item.setData(Qt.ItemDataRole.UserRole, ref)
            self.found.addItem(item)
        self.says.setText(f"{len(tiles):,} tiles" if tiles else "No tile is called so; give tags in the Sheet stage.")
        self.says.setVisible(bool(text))
        self.found.setVisible(bool(text))
        self.searching.emit(bool(text))

    def _take(self, item: QListWidgetItem) -> None:
        self._choose(TileRef(*item.data(Qt.ItemDataRole.UserRole)))

    def _choose(self, ref: TileRef) -> None:
        self._session.choose(tile=ref, sheet_id=ref.sheet, lays_mix=False)

    def _icon(self, ref: TileRef) -> QIcon:
        tile = self._session.derived.tile(ref)
        if tile is None:
            return QIcon()
        picture = QPixmap.fromImage(image_of(tile))
        # By whole numbers, so that pixels stay square; smaller only where it has to be.
        times = max(1, _FOUND // max(picture.width(), picture.height()))
        room = QSize(min(_FOUND, picture.width() * times), min(_FOUND, picture.height() * times))
        return QIcon(picture.scaled(room, Qt.AspectRatioMode.KeepAspectRatio))
