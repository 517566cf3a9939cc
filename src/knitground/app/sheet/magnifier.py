"""The far corner of a cut, enlarged: where a wrong pitch shows most."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from knitground.app.canvas.sheet_view import SheetView
from knitground.app.guard import guarded
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_backdrop
from knitground.core.sheet.cut import tile_rect

SIDE = 126
_SHOWN = 21
_CAPTION = 18


class Magnifier(QWidget):
    """Shows the last tile's far corner."""

    def __init__(self, view: SheetView) -> None:
        super().__init__()
        self._view = view
        self.setFixedSize(SIDE, SIDE + _CAPTION)
        self.setToolTip("The far corner of the last tile: does the grid still sit on the art there?")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        view, painter = self._view, QPainter(self)
        cut, grid = view.cut, view.grid
        room = QRectF(0, 0, SIDE, SIDE)
        painter.fillRect(room, theme().colour("well"))
        if cut is not None and grid is not None and not cut.pieces:
            left, top, width, height = tile_rect(cut, grid.columns - 1, grid.rows - 1)
            corner, scale = QPointF(left + width, top + height), SIDE / _SHOWN
            painter.save()
            painter.setClipRect(room)
            # Two thirds of what is shown lie inside the tile.
            painter.translate((QPointF(_SHOWN, _SHOWN) * 0.66 - corner) * scale)
            painter.scale(scale, scale)
            self._paint_art(painter, corner)
            for colour, wide in (("panel", 4.0), ("thread", 2.0)):
                pen = QPen(theme().colour(colour), wide)
                pen.setCosmetic(True)
                painter.setPen(pen)
                for column in range(max(0, grid.columns - 2), grid.columns):
                    for row in range(max(0, grid.rows - 2), grid.rows):
                        painter.drawRect(QRectF(*tile_rect(cut, column, row)))
            painter.restore()
            painter.setPen(theme().colour("quiet"))
            says = QRectF(0, SIDE, SIDE, _CAPTION)
            painter.drawText(says, Qt.AlignmentFlag.AlignCenter, f"far corner, {grid.columns - 1}, {grid.rows - 1}")
        painter.setPen(theme().colour("line"))
        painter.drawRect(room.adjusted(0, 0, -1, -1))

    def _paint_art(self, painter: QPainter, corner: QPointF) -> None:
        view = self._view
        shown = QRectF(corner.x() - _SHOWN, corner.y() - _SHOWN, 2 * _SHOWN, 2 * _SHOWN)
        draw_backdrop(painter, shown.intersected(QRectF(0, 0, *view.content_size())), view.session.choices.backdrop)
        view.sharp(painter)
        painter.drawImage(QPointF(0, 0), view.image)
        painter.setBrush(Qt.BrushStyle.NoBrush)
