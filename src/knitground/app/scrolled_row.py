"""A row of things that may be longer than there is room."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QScrollArea, QWidget


class ScrolledRow(QScrollArea):
    """A row that is moved sideways by the wheel where it is too long; one of its parts stays in view."""

    def __init__(self, inside: QWidget, height: int) -> None:
        super().__init__()
        self.kept: QWidget | None = None
        self.setWidgetResizable(True)
        self.setWidget(inside)
        self.setFixedHeight(height)
        self.setMinimumWidth(120)
        for policy in (self.setHorizontalScrollBarPolicy, self.setVerticalScrollBarPolicy):
            policy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.show_kept()

    def show_kept(self) -> None:
        """Moves so that what has to stay in view is."""
        if self.kept is not None:
            self.ensureWidgetVisible(self.kept)

    def wheelEvent(self, event: QWheelEvent) -> None:
        bar = self.horizontalScrollBar()
        bar.setValue(bar.value() - event.angleDelta().y() // 2)
        event.accept()
