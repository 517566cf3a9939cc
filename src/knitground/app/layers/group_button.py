"""The head of a group in the column of layers: it folds and unfolds the group, and shows or hides all of it."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton

from knitground.app.guard import guarded
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon

_HEIGHT = 22


class GroupButton(QAbstractButton):
    """A group by its path; a click folds or unfolds it."""

    eye_clicked = Signal()

    def __init__(self, path: str, width: int, *, folded: bool, shown: bool) -> None:
        super().__init__()
        self.path, self._folded, self._shown = path, folded, shown
        self.setFixedSize(width, _HEIGHT)
        says = "unfold" if folded else "fold"
        self.setAccessibleName(f"Group {path}")
        self.setToolTip(f"Group {path}: click to {says} it, right click for more")

    def sizeHint(self) -> QSize:
        return self.size()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._eye().contains(event.position()):
            self.eye_clicked.emit()
        else:
            super().mousePressEvent(event)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        depth = self.path.count("/")
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().colour("line"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(3 * depth, 1, 0, -1), 4, 4)
        draw_icon(
            painter, "onward_small" if self._folded else "down", QRectF(2 + 3 * depth, 4, 13, 13), theme().colour("ink")
        )
        font = painter.font()
        font.setPixelSize(11)
        painter.setFont(font)
        painter.setPen(theme().colour("ink"))
        text = QRectF(16 + 3 * depth, 0, self.width() - 34 - 3 * depth, _HEIGHT)
        name = self.path.rsplit("/", 1)[-1]
        shown = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(text.width()))
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, shown)
        draw_icon(painter, "show" if self._shown else "hide", self._eye().adjusted(1, 1, -1, -1), theme().colour("ink"))

    def _eye(self) -> QRectF:
        return QRectF(self.width() - 18, 3, 16, 16)
