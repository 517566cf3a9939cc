"""What lies behind a ground: its own sheet of paper, and the well round it."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPainterPath, QPolygonF, QTransform

from knitground.app.theme.colours import theme
from knitground.core.grid.projection import Projection

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView


class Backdrop:
    """Draws it, and knows the outline of all cells."""

    def __init__(self, view: "GroundView") -> None:
        self._view = view
        self._outline: tuple[Projection, QPolygonF] | None = None

    def border(self) -> QPainterPath:
        """The outline of all cells on the widget."""
        path, view = QPainterPath(), self._view
        knitted = view.knitted
        if knitted is not None:
            projection = knitted.ground.projection
            if self._outline is None or self._outline[0] != projection:
                # A ground of staggered rows has a border of thousands of corners, so it is made once.
                self._outline = projection, QPolygonF([QPointF(*spot) for spot in projection.border()])
            place = QTransform(view.zoom, 0, 0, view.zoom, view.origin.x(), view.origin.y())
            path.addPolygon(place.map(self._outline[1]))
            path.closeSubpath()
        return path

    def draw(self, painter: QPainter, part: QRectF) -> None:
        """Draws what lies behind a part of the widget."""
        view = self._view
        knitted = view.knitted
        if knitted is None:
            return
        whole = view.rect_on_widget(0, 0, *view.content_size()).intersected(part)
        corners = (part.topLeft(), part.topRight(), part.bottomLeft(), part.bottomRight())
        inside = all(
            knitted.ground.board.holds(*knitted.ground.projection.place(at.x(), at.y()))
            for at in map(view.to_content, corners)
        )
        if inside or knitted.ground.outline == "box":
            painter.fillRect(part if inside else whole, theme().colour("panel"))
            return
        painter.fillRect(part, theme().colour("well"))
        painter.save()
        painter.setClipRect(whole)
        painter.fillPath(self.border(), theme().colour("panel"))
        painter.restore()
