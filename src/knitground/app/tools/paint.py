"""Drawing and erasing freehand."""

from typing import TYPE_CHECKING, ClassVar

from PySide6.QtGui import QPainter

from knitground.app.theme.colours import theme
from knitground.app.tools.preview import Preview, draw_brush, hand_colour
from knitground.app.tools.stroke import Stroke
from knitground.core.edits.painting import Spot, cell_of, paintable, spot_on, stroke, stroke_shapes

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session


class Draw(Stroke):
    """Lays under the pointer; the right button erases."""

    name, title, icon, key = "draw", "Draw", "draw", "D"
    tip = "Draw: drag to lay, right button erases"
    erases: ClassVar[bool] = False

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._preview = Preview(session)

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
        ground, layer, at = self.session.ground, self.session.layer, self._hover
        if at is None or layer is None or ground is None:
            return
        painter.save()
        if self._last is None and not layer.locked:
            hand, board = self.session.hand, ground.board
            self._preview.draw(
                painter,
                view,
                lambda: stroke_shapes(board, layer, hand, at, at, erase=self.erases),
                cell_of(at) if layer.lays_runs(hand.runs) else spot_on(layer, hand, at),
                erase=self.erases,
            )
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = theme().colour("thread") if self.erases else hand_colour(self.session, layer)
        draw_brush(painter, view, layer, self.session.hand, at, colour)
        painter.restore()


class Erase(Draw):
    """Takes away under the pointer."""

    name, title, icon, key = "erase", "Erase", "erase", "X"
    tip = "Erase: drag to take away"
    erases = True
