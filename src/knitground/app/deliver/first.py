"""What can be delivered, while no delivery is kept yet: each format, and what it is for."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QWidget

from knitground.app.widgets import button, quiet
from knitground.core.deliver import EXPORTERS

_TITLE = 208


class FirstDelivery(QWidget):
    """A button for each format, which keeps a delivery of it."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        for row, (name, exporter) in enumerate(EXPORTERS.items()):
            title = button(
                exporter.title,
                lambda name=name: self.chosen.emit(name),  # type: ignore[misc]
                f"Keep a delivery with the project: {exporter.title}",
            )
            title.setFixedWidth(_TITLE)
            grid.addWidget(title, row, 0, Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(quiet(exporter.about), row, 1, Qt.AlignmentFlag.AlignVCenter)
        self.setLayout(grid)
