"""One layer in the column: a picture of it, its name, and an eye."""

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QFontMetrics, QImage, QMouseEvent, QPainter, QPaintEvent, QTextLayout
from PySide6.QtWidgets import QApplication

from knitground.app.guard import guarded
from knitground.app.one_of import OneOf
from knitground.app.theme.colours import theme
from knitground.app.theme.icons import draw_icon
from knitground.app.widgets import draw_button_frame, fitted
from knitground.core.layers.layer import Layer

WIDTH = 76
_PICTURE = 44
_LETTERS, _LINE, _BESIDE = 11, 13, 4


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
        self._font = QFont(self.font())
        self._font.setPixelSize(_LETTERS)
        self.lines = _in_two(layer.name, self._font, WIDTH - 12 - 2 * _BESIDE)
        self.setFixedSize(self.sizeHint())
        self.setAccessibleName(f"Layer {layer.name}")
        self.setToolTip(f"{layer.name}: {layer.title}; drag to reorder, right click for more")

    def sizeHint(self) -> QSize:
        return QSize(WIDTH - 12, _PICTURE + 13 + _LINE * len(self.lines))

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
        painter.setFont(self._font)
        for number, line in enumerate(self.lines):
            text = QRectF(_BESIDE, _PICTURE + 8 + _LINE * number, self.width() - _BESIDE, _LINE)
            painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, line)
        eye = self._eye()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().colour("panel"))
        painter.drawRoundedRect(eye, 4, 4)
        draw_icon(
            painter, "show" if self.layer.visible else "hide", eye.adjusted(1, 1, -1, -1), theme().colour("quiet")
        )

    def _eye(self) -> QRectF:
        """Where the eye lies: on the picture, so that the name has all of the row below."""
        return QRectF(self.width() - 24, 6, 17, 17)


def _in_two(name: str, font: QFont, width: int) -> list[str]:
    """A name in one line, or in two where it has several words; what doesn't fit into these is left out."""
    lines, layout, letters = [], QTextLayout(name, font), QFontMetrics(font)
    layout.beginLayout()
    while (line := layout.createLine()).isValid():
        line.setLineWidth(width)
        lines.append(name[line.textStart() : line.textStart() + line.textLength()].strip())
    layout.endLayout()
    shown = [*lines[:1], " ".join(lines[1:])]
    return [letters.elidedText(one, Qt.TextElideMode.ElideRight, width) for one in shown if one] or [""]
