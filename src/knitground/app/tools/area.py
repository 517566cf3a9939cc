"""Boxes, frames, rounds, rings and lines: seen while they are dragged, laid when the button goes up."""

from typing import TYPE_CHECKING

from PySide6.QtGui import QPainter, QPainterPath

from knitground.app.canvas.lines import draw_line_twice
from knitground.app.theme.colours import theme
from knitground.app.tools import Tool, held_down
from knitground.app.tools.advice import advise_all_over
from knitground.app.tools.preview import Preview, draw_cover, draw_outline, hand_colour, outline_path
from knitground.core.edits.forms import FORMS
from knitground.core.edits.painting import Spot, area, area_shapes, held, on_points, paintable, spot_on

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session


class Area(Tool):
    """Lays the form that is chosen; on edges a run."""

    name, title, icon, key = "area", "Area", "area", "A"
    tip = "Area: drag a form, Shift keeps it even, right button erases it"
    options = ("form", "radius", "symmetry", "turning")
    lays_what_is_in_hand = True

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._start: Spot | None = None
        self._end: Spot = (0.0, 0.0)
        self._erase = False
        self._preview = Preview(session)

    def press(self, at: Spot, *, erase: bool = False) -> None:
        paintable(self.session.document, self.session.choices.ground_id, self.session.choices.layer_id)
        self._start = self._end = at
        self._erase = erase

    def drag(self, at: Spot) -> None:
        self._end = self._held(at)

    def release(self, at: Spot) -> None:
        if self._start is None:
            return
        start, self._start = self._start, None
        session = self.session
        before = session.document.state
        area(
            session.document,
            session.choices.ground_id,
            session.choices.layer_id,
            session.hand,
            start,
            self._held(at, start),
            erase=self._erase,
        )
        if session.document.state is not before and not self._erase:
            advise_all_over(session, at)

    def _held(self, at: Spot, start: Spot | None = None) -> Spot:
        """The place that counts: with Shift it makes the form even."""
        start, layer, ground = start or self._start, self.session.layer, self.session.ground
        if start is None or layer is None or ground is None or not held_down():
            return at
        return held(ground.board, layer, self.session.hand, start, at)

    @property
    def measured(self) -> tuple[Spot, Spot] | None:
        return None if self._start is None else (self._start, self._end)

    def leave(self) -> None:
        self._start = None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        session, ground, layer = self.session, self.session.ground, self.session.layer
        if self._start is None or layer is None or ground is None:
            return
        hand, start, end = session.hand, self._start, self._end
        spots = [spot_on(layer, hand, start), spot_on(layer, hand, end)]
        self._preview.draw(
            painter, view, lambda: area_shapes(ground.board, layer, hand, start, end), *spots, erase=self._erase
        )
        if layer.lays_runs(hand.runs):
            for on, shape in area_shapes(ground.board, layer, hand, start, end)[0].shapes.items():
                path = outline_path(view, on, shape)  # type: ignore[arg-type]
                draw_outline(painter, theme().colour("thread"), path)
            return
        shown = area_shapes(ground.board, layer, hand, start, end)[0].shapes
        if not ground.projection.straight:
            whole = QPainterPath()
            for name, shape in shown.items():
                whole.addPath(outline_path(view, layer.specs[name].on, shape))
            border = whole.simplified()
            draw_outline(painter, theme().colour("thread"), border)
        elif FORMS[hand.form].solid or layer.holds_tiles or layer.knits:
            back = 0.5 if on_points(layer, hand) else 0.0
            (top, bottom), (left, right) = (sorted(spot[axis] for spot in spots) for axis in (0, 1))
            frame = view.outline(top - back, left - back, bottom + 1 - back, right + 1 - back)
            draw_line_twice(painter, theme().colour("thread"), lambda: painter.drawPolygon(frame))
        else:
            for name, shape in shown.items():
                draw_cover(painter, view, layer.specs[name].on, shape, hand_colour(session, layer))
