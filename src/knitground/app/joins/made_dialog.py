"""Tiles that could be made for what a set lacks, looked at before they are added."""

import numpy as np
from PySide6.QtCore import QSize
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QDialog, QListWidget, QListWidgetItem, QWidget

from knitground.app.allowed import allow
from knitground.app.widgets import button, column, image_of, in_row, quiet
from knitground.core.joins.make import MadeTile
from knitground.core.joins.sets import JoinSet, letters

_SIDE = 56


class MadeDialog(QDialog):
    """Every tile, all chosen at first; those that stay chosen are added."""

    def __init__(self, parent: QWidget, join_set: JoinSet, made: list[MadeTile], lacking: int) -> None:
        super().__init__(parent)
        self.setWindowTitle("Make missing tiles")
        self.resize(620, 480)
        self._made = made
        self.list = QListWidget()
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.MultiSelection)
        self.list.setIconSize(QSize(_SIDE, _SIDE))
        self.list.setGridSize(QSize(132, _SIDE + 44))
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Tiles that can be made")
        self.list.setObjectName("pictures")
        for one in made:
            self._add(join_set, one)
        rest = lacking - len(made)
        says = f"“{join_set.name}” lacks {lacking} tiles; these can be made of the ones there are."
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
        item = QListWidgetItem(picture, f"{letters(join_set, one.labels)}\n{one.way}")
        self.list.addItem(item)

    def _count(self) -> None:
        count = len(self.list.selectedItems())
        self._add_them.setText("Add 1 tile" if count == 1 else f"Add {count} tiles")
        allow(self._add_them, "" if count > 0 else "Choose at least one of them.")
