"""Drawing, scattering and erasing freehand."""

from dataclasses import replace
from typing import TYPE_CHECKING, ClassVar

from PySide6.QtGui import QPainter

from knitground.app.theme.colours import theme
from knitground.app.tools.preview import Preview, draw_brush, hand_colour
from knitground.app.tools.stroke import Stroke
from knitground.core.edits.painting import Hand, Spot, cell_of, paintable, spot_on, stroke, stroke_shapes
from knitground.core.edits.unpicking import marks_under, unpick

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session


class Draw(Stroke):
    """Lays under the pointer; the right button erases."""

    name, title, icon, key = "draw", "Draw", "draw", "D"
    tip = "Draw: drag to lay, Shift keeps it straight, right button erases"
    options: ClassVar[tuple[str, ...]] = ("radius", "symmetry", "turning")
    erases: ClassVar[bool] = False
    lays_what_is_in_hand = True

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._preview = Preview(session)

    @property
    def hand(self) -> Hand:
        """What is in hand, as this tool lays it."""
        return self.session.hand

    def press(self, at: Spot, *, erase: bool = False) -> None:
        paintable(self.session.document, self.session.choices.ground_id, self.session.choices.layer_id)
        erase = erase or self.erases
        self.begin(at, "erase" if erase else "draw", erase=erase)

    def stroke(self, start: Spot, end: Spot) -> None:
        session = self.session
        under = self._marks_under(start, end) if self._erase else []
        stroke(
            session.document,
            session.choices.ground_id,
            session.choices.layer_id,
            self.hand,
            start,
            end,
            erase=self._erase,
        )
        unpick(session.derived, session.choices.ground_id, session.choices.layer_id, under)

    def _marks_under(self, start: Spot, end: Spot) -> list[tuple[int, int]]:
        """The marks by which stitches lay what is rubbed out."""
        session, ground, layer = self.session, self.session.ground, self.session.layer
        if ground is None or layer is None or layer.takes_terrains_of != "stitch_sets":
            return []
        covered = stroke_shapes(ground.board, layer, self.hand, start, end, erase=True)
        return marks_under(session.derived, ground.id, layer.id, covered)

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        ground, layer, at = self.session.ground, self.session.layer, self._hover
        if at is None or layer is None or ground is None:
            return
        painter.save()
        if self._last is None and not layer.locked and not layer.refuses:
            hand, board = self.hand, ground.board
            self._preview.draw(
                painter,
                view,
                lambda: stroke_shapes(board, layer, hand, at, at, erase=self.erases),
                cell_of(at) if layer.lays_runs(hand.runs) else spot_on(layer, hand, at),
                hand,
                erase=self.erases,
            )
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = theme().colour("thread") if self.erases else hand_colour(self.session, layer)
        draw_brush(painter, view, layer, self.hand, at, colour)
        painter.restore()


class Erase(Draw):
    """Takes away under the pointer."""

    name, title, icon, key = "erase", "Erase", "erase", "X"
    tip = "Erase: drag to take away"
    erases = True


class Spray(Draw):
    """Scatters what is in hand; every stroke another throw."""

    name, title, icon, key = "spray", "Scatter", "spray", "Y"
    tip = "Scatter: drag to strew, each stroke falls otherwise, right button erases"
    options = ("radius", "density", "symmetry", "turning")

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._strokes = 0

    @property
    def hand(self) -> Hand:
        hand = self.session.hand
        density = 1.0 if self._erase and self._last is not None else self.session.choices.density
        return replace(hand, throw=hand.throw + self._strokes, density=density)

    def release(self, at: Spot) -> None:
        super().release(at)
        self._strokes += 1
        self._erase = False
