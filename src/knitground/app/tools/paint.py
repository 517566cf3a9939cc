"""Drawing and erasing freehand."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from knitground.app.theme.colours import theme
from knitground.app.tools import Pointer
from knitground.app.tools.laying import lay, lays_runs, plane_of, rounds, spot_at, strokes, values
from knitground.app.tools.preview import draw_tiles
from knitground.app.tools.stroke import Stroke
from knitground.core.errors import BadRequest
from knitground.core.ground.layers import TileLayer
from knitground.core.ground.window import Window

_PALE = 0.7


class Draw(Stroke):
    """Lays under the pointer; the right button erases."""

    name, title, icon, key = "draw", "Draw", "draw", "D"
    tip = "Draw: drag to lay, right button erases"
    erases = False

    def press(self, at: Pointer, *, erase: bool = False) -> None:
        if self.session.layer is None:
            raise BadRequest("This ground has no layer yet; add one with the plus at the right.")
        erase = erase or self.erases
        self.begin(at, "erase" if erase else "draw", erase=erase)

    def stroke(self, start: Pointer, end: Pointer) -> None:
        session, layer = self.session, self.session.layer
        for one, other in rounds(session, start, end):
            # With runs a cell is rubbed out whole: all four of its edges.
            rubs = self._erase and lays_runs(session, layer)
            shapes = _edges_round(session, layer, other) if rubs else strokes(session, layer, one, other)
            lay(session, layer, shapes, "draw", erase=self._erase)

    def paint(self, painter: QPainter, view) -> None:
        layer = self.session.layer
        if self._hover is None or layer is None:
            return
        if isinstance(layer, TileLayer) and not self.erases:
            self._show_tiles(painter, view, layer)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        runs = lays_runs(self.session, layer)
        row, column = (self._hover.row, self._hover.column) if runs else spot_at(layer, self._hover)
        reach = 0 if runs else self.session.radius
        rect = view.cells_rect(Window(row - reach, column - reach, 2 * reach + 1, 2 * reach + 1))
        if plane_of(layer) == "corners" and not runs:
            cell = view.cells_rect(Window(0, 0, 1, 1))
            rect = QRectF(rect).translated(-cell.width() / 2, -cell.height() / 2)
        terrains = self.session.terrains_of(layer)
        colour = theme().colour("thread")
        if terrains and not self.erases:
            colour = QColor(terrains[min(self.session.terrain, len(terrains)) - 1].colour)
        for line, width in ((QColor(20, 16, 14), 4), (colour, 2)):
            painter.setPen(QPen(line, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            if reach:
                painter.drawEllipse(rect)
            elif plane_of(layer) == "corners" and not runs:
                _cross(painter, rect.center(), min(rect.width(), rect.height()) / 3)
            else:
                painter.drawRoundedRect(rect, 3, 3)
        painter.restore()

    def _show_tiles(self, painter: QPainter, view, layer: TileLayer) -> None:
        """The tiles that a click would lay, a little paler than those that lie there."""
        session = self.session
        if session.tile is None and not (session.lays_mix and session.mix):
            return
        painter.save()
        painter.setOpacity(_PALE)
        for shape in strokes(session, layer, self._hover, self._hover).values():
            draw_tiles(painter, view, session, shape, lambda part: values(session, layer, part, erase=False))
        painter.restore()


class Erase(Draw):
    """Takes away under the pointer."""

    name, title, icon, key = "erase", "Erase", "erase", "X"
    tip = "Erase: drag to take away"
    erases = True


def _edges_round(session, layer, at: Pointer):
    from knitground.core.ground.layers import plane_shapes
    from knitground.core.ground.shapes import edge_shapes

    row, column = at.row, at.column
    edges = [("across", row, column), ("across", row + 1, column), ("along", row, column), ("along", row, column + 1)]
    return edge_shapes(edges, plane_shapes(layer, session.ground.height, session.ground.width))


def _cross(painter: QPainter, centre: QPointF, reach: float) -> None:
    painter.drawLine(centre - QPointF(reach, 0), centre + QPointF(reach, 0))
    painter.drawLine(centre - QPointF(0, reach), centre + QPointF(0, reach))
