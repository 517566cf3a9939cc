"""Asking for a ground's name and size."""

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLineEdit, QWidget

from knitground.app.widgets import ChoiceBox, fill_box, number
from knitground.core.grid import GRIDS, GridKind
from knitground.core.ground.ground import LARGEST_GROUND


class GroundDialog(QDialog):
    """Name, width and height; for a new ground the grid and the size of a tile besides."""

    def __init__(
        self,
        parent: QWidget,
        title: str,
        name: str,
        size: tuple[int, int],
        tile: tuple[int, int] | None,
        grid: GridKind = "square",
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        form = QFormLayout(self)
        self.name = QLineEdit(name)
        self.name.setMaxLength(80)
        form.addRow("Name", self.name)
        self._grid = ChoiceBox("Grid")
        fill_box(self._grid, [(kind.title, key) for key, kind in GRIDS.items()], grid)
        if tile is not None:
            form.addRow("Grid", self._grid)
        self._sides = [number(1, LARGEST_GROUND, lambda value: None, what) for what in ("cells across", "cells down")]
        for title_, box, side in zip(("Cells across", "Cells down"), self._sides, size, strict=True):
            box.setValue(side)
            form.addRow(title_, box)
        self._tile = []
        for title_, side in zip(("Tile width", "Tile height"), tile or (), strict=False):
            box = number(1, 1024, lambda value: None, title_, " px")
            box.setValue(side)
            self._tile.append(box)
            form.addRow(title_, box)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    @property
    def size_in_cells(self) -> tuple[int, int]:
        """Width and height."""
        return self._sides[0].value(), self._sides[1].value()

    @property
    def grid(self) -> GridKind:
        """The kind of grid."""
        chosen: GridKind = self._grid.currentData()
        return chosen

    @property
    def tile_size(self) -> tuple[int, int]:
        """Width and height of a tile in pixels."""
        return self._tile[0].value(), self._tile[1].value()
