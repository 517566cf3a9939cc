"""Pinning tiles to a derived layer, where they stay through every re-knit."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from knitground.app.theme.colours import theme
from knitground.app.tools import Pointer
from knitground.app.tools.stroke import Stroke
from knitground.core.errors import BadRequest
from knitground.core.ground.layers import PINS, TileLayer
from knitground.core.ground.shapes import Shape, swept_disc
from knitground.core.ground.window import Window
from knitground.core.project.fixing import pin, pin_seen

_SMALLEST = 8


class Pin(Stroke):
    """Pins the tile in hand; with Shift what is seen; the right button takes pins out."""

    name, title, icon, key = "pin", "Pin", "pin", "N"
    tip = "Pin: drag to lay the chosen tile for good, Shift pins what is seen, right button takes pins out"

    def press(self, at: Pointer, *, erase: bool = False) -> None:
        layer = self.session.layer
        if layer is None or isinstance(layer, TileLayer):
            raise BadRequest("Pins hold tiles on a layer that is knit or stitched; choose such a layer at the right.")
        if not erase and not self._seen_wanted() and self.session.tile is None:
            raise BadRequest("No tile is chosen; click one on the sheet, or hold Shift to pin what is seen.")
        self.begin(at, "take pins out" if erase else "pin", erase=erase)

    def paint(self, painter: QPainter, view) -> None:
        """Heads of pins on the layer at hand, and the cell under the pointer."""
        session, ground, layer = self.session, self.session.ground, self.session.layer
        if ground is None or layer is None or isinstance(layer, TileLayer):
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        pins = session.document.state.planes[ground.id][layer.id].get(PINS)
        cell = view.cells_rect(Window(0, 0, 1, 1))
        if pins is not None and min(cell.width(), cell.height()) >= _SMALLEST:
            seen = view.seen_cells()
            rows, columns = pins[seen.rows, seen.columns].nonzero()
            for row, column in zip(rows.tolist(), columns.tolist(), strict=True):
                _draw_head(painter, view.cells_rect(Window(seen.top + row, seen.left + column, 1, 1)))
        if self._hover is not None:
            rect = view.cells_rect(Window(self._hover.row, self._hover.column, 1, 1))
            for colour, width in ((QColor(20, 16, 14), 4), (theme().colour("thread"), 2)):
                painter.setPen(QPen(colour, width))
                painter.drawRoundedRect(rect, 3, 3)
        painter.restore()

    def stroke(self, start: Pointer, end: Pointer) -> None:
        session, ground, layer = self.session, self.session.ground, self.session.layer
        size = ground.height, ground.width
        shape: Shape = swept_disc(size, (start.row, start.column), (end.row, end.column), session.radius)
        if shape.window.is_empty:
            return
        if self._seen_wanted() and not self._erase:
            pin_seen(session.derived, ground.id, layer.id, shape)
        else:
            code = 0 if self._erase else session.document.palette.code(session.tile)
            pin(session.document, ground.id, layer.id, shape, code)

    def _seen_wanted(self) -> bool:
        from PySide6.QtWidgets import QApplication

        return bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)


def _draw_head(painter: QPainter, rect) -> None:
    """The head of a pin at the upper right of a cell."""
    radius = max(2.0, min(5.0, rect.width() / 7))
    centre = QPointF(rect.right() - radius - 2, rect.top() + radius + 2)
    painter.setPen(QPen(QColor(20, 16, 14), 1.5))
    painter.setBrush(theme().colour("thread"))
    painter.drawEllipse(centre, radius, radius)
    painter.setBrush(Qt.BrushStyle.NoBrush)
