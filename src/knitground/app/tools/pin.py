"""Pinning tiles to a derived layer, where they stay through every re-knit."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from knitground.app.canvas.lines import DARK, draw_line_twice
from knitground.app.theme.colours import theme
from knitground.app.tools import held_down
from knitground.app.tools.stroke import Stroke
from knitground.core.edits.painting import Spot, cell_of, paintable
from knitground.core.edits.pins import pin, pin_seen, pins_in
from knitground.core.errors import BadRequest

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

_SMALLEST = 8


class Pin(Stroke):
    """Pins the tile in hand; with Shift what is seen; the right button takes pins out."""

    name, title, icon, key = "pin", "Pin", "pin", "N"
    tip = "Pin: drag to lay the chosen tile for good, Shift pins what is seen, right button takes pins out"
    options = ("radius",)
    pins = True

    def drag(self, at: Spot) -> None:
        # Shift has its own meaning here.
        self._hover = at
        if self._last is not None:
            self._go(self._last, at)
            self._last = at

    def press(self, at: Spot, *, erase: bool = False) -> None:
        layer = self.session.layer
        if layer is None or not layer.pinnable:
            raise BadRequest("Pins hold tiles on a layer that is knit or stitched; choose such a layer at the right.")
        paintable(self.session.document, self.session.choices.ground_id, layer.id, pins=True)
        if not erase and not held_down() and self.session.choices.tile is None:
            raise BadRequest("No tile is chosen; click one on the sheet, or hold Shift to pin what is seen.")
        self.begin(at, "take pins out" if erase else "pin", erase=erase)

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        """Heads of pins on the layer at hand, and the cell under the pointer."""
        session, ground, layer = self.session, self.session.ground, self.session.layer
        if ground is None or layer is None or not layer.pinnable:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        cell = view.cell_on_widget()
        if min(cell.width(), cell.height()) >= _SMALLEST:
            planes = session.document.state.planes[ground.id][layer.id]
            for row, column in pins_in(planes, view.cells_in_view()).tolist():
                _draw_head(painter, view.rect_on_widget(*ground.projection.box(row, column)), ground.isometric)
        if self._hover is not None:
            y, x = cell_of(self._hover)
            outline = view.outline(y, x, y + 1, x + 1)
            draw_line_twice(painter, theme().colour("thread"), lambda: painter.drawPolygon(outline))
        painter.restore()

    def stroke(self, start: Spot, end: Spot) -> None:
        session, ground = self.session, self.session.ground
        assert ground is not None  # a stroke begins on one
        shape = ground.board.disc("cells", cell_of(start), cell_of(end), session.choices.radius)
        if shape.window.is_empty:
            return
        if held_down() and not self._erase:
            pin_seen(session.derived, ground.id, session.choices.layer_id, shape)
        else:
            hand = session.hand
            code = 0 if self._erase else session.document.palette.code(hand.tile, hand.orientation)
            pin(session.document, ground.id, session.choices.layer_id, shape, code)


def _draw_head(painter: QPainter, rect: QRectF, isometric: bool) -> None:
    """The head of a pin at the upper right of a cell; in the middle of a diamond."""
    radius = max(2.0, min(5.0, rect.width() / 7))
    corner = QPointF(rect.right() - radius - 2, rect.top() + radius + 2)
    painter.setPen(QPen(DARK, 1.5))
    painter.setBrush(theme().colour("thread"))
    painter.drawEllipse(rect.center() if isometric else corner, radius, radius)
    painter.setBrush(Qt.BrushStyle.NoBrush)
