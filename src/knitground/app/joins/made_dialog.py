"""Tiles that could be made for what a set lacks, looked at before they are added."""

import numpy as np
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QKeyEvent, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QDialog, QListWidget, QListWidgetItem, QWidget

from knitground.app.allowed import allow
from knitground.app.widgets import button, column, image_of, in_row, quiet
from knitground.core.check.check import many
from knitground.core.joins.beyond import told_beyond
from knitground.core.joins.coverage import Coverage
from knitground.core.joins.make import MadeTile
from knitground.core.joins.sets import JoinSet, letters

_SIDE = 56
_CARD = 124, _SIDE + 62
_SAID = 4
"""How many letters of a combination can be taken in."""


class _Choices(QListWidget):
    """A list that leaves Return to its dialog, also where one of its items is at hand."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.ignore()
        else:
            super().keyPressEvent(event)


class MadeDialog(QDialog):
    """Every tile, all chosen at first; those that stay chosen are added."""

    def __init__(self, parent: QWidget, join_set: JoinSet, made: list[MadeTile], coverage: Coverage) -> None:
        super().__init__(parent)
        self.setWindowTitle("Make missing tiles")
        self.resize(620, 480)
        self._made = made
        self.list = _Choices()
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.MultiSelection)
        self.list.setIconSize(QSize(_SIDE, _SIDE))
        self.list.setGridSize(QSize(_CARD[0] + 8, _CARD[1] + 8))
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Tiles that can be made")
        self.list.setObjectName("pictures")
        for one in made:
            self._add(join_set, one)
        lacking = coverage.lacking or coverage.beyond
        rest = lacking - len(made)
        says = f"“{join_set.name}” lacks {many(lacking, 'tile', 'tiles')}; these can be made of the ones there are."
        if not coverage.lacking:
            says = f"“{join_set.name}” lacks none; {told_beyond(join_set, coverage)}. These would change that."
        if rest:
            says += f" For {rest} there is nothing to make them of."
        hint = quiet(says + " They go to a sheet of their own, and give way as soon as you draw the real ones.")
        self._add_them = button("", self.accept, "Add the chosen tiles, labelled", name="primary")
        buttons = in_row(
            button("Choose all", self.list.selectAll, "Add every tile"),
            button("Choose none", self.list.clearSelection, "Begin with none"),
            None,
            button("Cancel", self.reject, "Make nothing"),
            self._add_them,
        )
        self.list.itemSelectionChanged.connect(self._count)
        self.list.selectAll()
        layout = column(hint, self.list, buttons)
        layout.setContentsMargins(16, 16, 16, 16)
        self.setLayout(layout)
        self._add_them.setDefault(True)

    @property
    def chosen(self) -> list[MadeTile]:
        """The tiles that are to be added."""
        return [one for number, one in enumerate(self._made) if self.list.item(number).isSelected()]

    def _add(self, join_set: JoinSet, one: MadeTile) -> None:
        side = max(one.pixels.shape[:2])
        times = max(1, _SIDE // side)
        large = np.repeat(np.repeat(one.pixels, times, axis=0), times, axis=1)
        picture = QIcon()
        # The same in every mode: a choice must not tint the art.
        for mode in (QIcon.Mode.Normal, QIcon.Mode.Selected):
            picture.addPixmap(QPixmap.fromImage(image_of(large)), mode)
        shows = letters(join_set, one.labels)
        # What nine letters say is better seen.
        item = QListWidgetItem(picture, one.way if len(one.labels) > _SAID else f"{shows}\n{one.way}")
        item.setToolTip(shows)
        item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{shows}, {one.way}")
        item.setSizeHint(QSize(*_CARD))
        self.list.addItem(item)

    def _count(self) -> None:
        count = len(self.list.selectedItems())
        self._add_them.setText("Add 1 tile" if count == 1 else f"Add {count} tiles")
        allow(self._add_them, "" if count > 0 else "Choose at least one of them.")
