"""A row of things that may be longer than there is room."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent, QShowEvent, QWheelEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from knitground.app.known import known


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

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.keep_in_view(self.kept)

    def keep_in_view(self, part: QWidget | None) -> None:
        """Lets a part stay in view from now on, whatever is put in the row and however long it gets."""
        self.kept = part
        if part is not None:
            QTimer.singleShot(0, part, self.show_kept)

    def show_kept(self) -> None:
        """Moves so that what has to stay in view is."""
        if self.kept is not None:
            # What is new there has its place only once it is laid out.
            known(known(self.widget()).layout()).activate()
            self.ensureWidgetVisible(self.kept)

    def wheelEvent(self, event: QWheelEvent) -> None:
        bar = self.horizontalScrollBar()
        bar.setValue(bar.value() - event.angleDelta().y() // 2)
        event.accept()
