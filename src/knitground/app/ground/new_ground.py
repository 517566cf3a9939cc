"""Asking for a ground's name and size."""

from collections.abc import Callable
from itertools import product

from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QGridLayout,
    QLineEdit,
    QSpinBox,
    QToolButton,
    QWidget,
)

from knitground.app.widgets import ChoiceBox, fill_box, number, quiet
from knitground.core.grid import GRIDS, GridKind
from knitground.core.ground.ground import LARGEST_GROUND

_DOWN = {0.0: "upper", 0.5: "middle", 1.0: "lower"}
_ACROSS = {0.0: "left", 0.5: "middle", 1.0: "right"}


class AnchorChoice(QWidget):
    """Nine places of a ground, of which one stays where it is when the ground gets another size."""

    def __init__(self, changed: Callable[[], None]) -> None:
        super().__init__()
        self._buttons: dict[tuple[float, float], QToolButton] = {}
        layout, group = QGridLayout(self), QButtonGroup(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        for row, (down, across) in enumerate(product(_DOWN.items(), _ACROSS.items())):
            entry = QToolButton()
            entry.setCheckable(True)
            entry.setFixedSize(24, 24)
            tip = f"What stays: {down[1]} {across[1]}".replace("middle middle", "the middle")
            entry.setToolTip(tip)
            entry.setAccessibleName(tip)
            entry.setChecked((across[0], down[0]) == (0.0, 0.0))
            entry.clicked.connect(lambda _: changed())
            group.addButton(entry)
            layout.addWidget(entry, row // 3, row % 3)
            self._buttons[across[0], down[0]] = entry
        layout.setColumnStretch(3, 1)

    @property
    def place(self) -> tuple[float, float]:
        """How far across and down what stays lies, from 0 to 1."""
        return next(place for place, entry in self._buttons.items() if entry.isChecked())


class GroundDialog(QDialog):
    """Name, width and height; for a new ground the grid and the size of a tile besides."""

    def __init__(
        self,
        parent: QWidget,
        title: str,
        name: str,
        size: tuple[int, int],
        cell: Callable[[GridKind], tuple[int, int]] | None,
        grid: GridKind = "square",
        lost: Callable[[int, int, tuple[float, float]], int] | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        form = QFormLayout(self)
        self.name = QLineEdit(name)
        self.name.setMaxLength(80)
        self.name.setAccessibleName("Name")
        self.name.selectAll()
        form.addRow("Name", self.name)
        self._tile: list[QSpinBox] = []
        self._grid = ChoiceBox("Grid")
        fill_box(self._grid, [(kind.title, key) for key, kind in GRIDS.items()], grid)
        self._grid.setMinimumContentsLength(26)
        self._grid.currentIndexChanged.connect(self._follow_grid)
        self._cell = cell
        if cell is not None:
            form.addRow("Grid", self._grid)
        self._lost: Callable[[int, int, tuple[float, float]], int] | None = None
        self.anchor, self._says = AnchorChoice(self._show_lost), quiet()
        self._sides = [
            number(1, LARGEST_GROUND, lambda value: self._show_lost(), what) for what in ("cells across", "cells down")
        ]
        for title_, box, side in zip(("Cells across", "Cells down"), self._sides, size, strict=True):
            box.setValue(side)
            form.addRow(title_, box)
        for title_, side in zip(("Tile width", "Tile height"), cell(grid) if cell else (), strict=False):
            box = number(1, 1024, lambda value: None, title_, " px")
            box.setValue(side)
            self._tile.append(box)
            form.addRow(title_, box)
        if lost is not None:
            form.addRow("What stays", self.anchor)
            form.addRow("", self._says)
            self._lost = lost
            self._show_lost()
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel, self)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def _follow_grid(self) -> None:
        """Proposes cells that suit the grid that is chosen."""
        for box, side in zip(self._tile, self._cell(self.grid) if self._cell else (), strict=False):
            box.setValue(side)

    def _show_lost(self) -> None:
        """Tells what would fall away in the size that is asked for."""
        if self._lost is None:
            return
        count = self._lost(*self.size_in_cells, self.anchor.place)
        says = f"{count:,} painted places would fall away." if count else "Nothing painted would fall away."
        self._says.setText(says)

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
