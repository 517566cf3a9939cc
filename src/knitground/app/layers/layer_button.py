"""One layer in the column: a picture of it, its name, and an eye."""

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QApplication

from knitground.app.guard import guarded
from knitground.app.one_of import OneOf
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon
from knitground.app.widgets import draw_button_frame, fitted
from knitground.core.layers.layer import Layer

WIDTH = 76
_PICTURE = 44


class LayerButton(OneOf):
    """One layer: a picture of it, its name, and an eye."""

    eye_clicked = Signal()
    dragged = Signal(int)
    dropped = Signal(int)

    def __init__(self, layer: Layer, chosen: bool) -> None:
        super().__init__()
        self.layer = layer
        self.picture: QImage | None = None
        self._pressed: QPoint | None = None
        self._drags = False
        self.setChecked(chosen)
        self.setFixedSize(WIDTH - 12, _PICTURE + 26)
        self.setAccessibleName(f"Layer {layer.name}")
        self.setToolTip(f"{layer.name}: {layer.title}; drag to reorder, right click for more")

    def sizeHint(self) -> QSize:
        return QSize(WIDTH - 12, _PICTURE + 26)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._eye().contains(event.position()):
            self.eye_clicked.emit()
        else:
            self._pressed = event.position().toPoint()
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        far = QApplication.startDragDistance()
        if self._pressed is not None and abs(event.position().y() - self._pressed.y()) > far:
            self._drags = True
        if self._drags:
            self.dragged.emit(self.mapToParent(event.position().toPoint()).y())
        else:
            super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drags, self._drags, self._pressed = self._drags, False, None
        if drags:
            self.setDown(False)
            self.dropped.emit(self.mapToParent(event.position().toPoint()).y())
        else:
            super().mouseReleaseEvent(event)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_button_frame(painter, self)
        room = QRectF(6, 5, self.width() - 12, _PICTURE)
        painter.fillRect(room, theme().colour("well"))
        if self.picture is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.setOpacity(1.0 if self.layer.visible else 0.3)
            painter.drawImage(fitted(self.picture.size(), room), self.picture)
            painter.setOpacity(1.0)
        painter.setPen(theme().colour("ink" if self.isChecked() else "quiet"))
        text = QRectF(4, _PICTURE + 5, self.width() - 24, 18)
        font = painter.font()
        font.setPixelSize(11)
        painter.setFont(font)
        name = painter.fontMetrics().elidedText(self.layer.name, Qt.TextElideMode.ElideRight, int(text.width()))
        painter.drawText(text.adjusted(2, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
        draw_icon(
            painter,
            "show" if self.layer.visible else "hide",
            self._eye().adjusted(1, 1, -1, -1),
            theme().colour("quiet"),
        )

    def _eye(self) -> QRectF:
        return QRectF(self.width() - 21, _PICTURE + 6, 16, 16)
