"""Drawing and erasing freehand."""

from contextlib import suppress
from typing import TYPE_CHECKING, ClassVar

from PySide6.QtGui import QPainter

from knitground.app.theme.colours import theme
from knitground.app.tools.preview import draw_brush, draw_tiles, hand_colour
from knitground.app.tools.stroke import Stroke
from knitground.core.edits.painting import Spot, paintable, stroke, stroke_shapes
from knitground.core.errors import KnitGroundError

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

_PALE = 0.7


class Draw(Stroke):
    """Lays under the pointer; the right button erases."""

    name, title, icon, key = "draw", "Draw", "draw", "D"
    tip = "Draw: drag to lay, right button erases"
    erases: ClassVar[bool] = False

    def press(self, at: Spot, *, erase: bool = False) -> None:
        paintable(self.session.document, self.session.choices.ground_id, self.session.choices.layer_id)
        erase = erase or self.erases
        self.begin(at, "erase" if erase else "draw", erase=erase)

    def stroke(self, start: Spot, end: Spot) -> None:
        session = self.session
        stroke(
            session.document,
            session.choices.ground_id,
            session.choices.layer_id,
            session.hand,
            start,
            end,
            erase=self._erase,
        )

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        ground, layer = self.session.ground, self.session.layer
        if self._hover is None or layer is None or ground is None:
            return
        painter.save()
        if layer.holds_tiles and not self.erases:
            # The tiles that a click would lay, a little paler than those that lie there; if none is chosen, a
            # click says so.
            painter.setOpacity(_PALE)
            with suppress(KnitGroundError):
                shapes = stroke_shapes(ground.board, layer, self.session.hand, self._hover, self._hover)
                draw_tiles(painter, view, self.session, shapes)
            painter.setOpacity(1.0)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = theme().colour("thread") if self.erases else hand_colour(self.session, layer)
        draw_brush(painter, view, layer, self.session.hand, self._hover, colour)
        painter.restore()


class Erase(Draw):
    """Takes away under the pointer."""

    name, title, icon, key = "erase", "Erase", "erase", "X"
    tip = "Erase: drag to take away"
    erases = True
