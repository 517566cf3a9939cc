"""Choosing things, and moving, turning and scaling them by hand."""

import math
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import QApplication

from knitground.app.canvas.thing_marks import KNOB, draw_frames, draw_knobs, draw_things, knobs, twice
from knitground.app.tools import held_down
from knitground.app.tools.things import Place, ThingTool
from knitground.core.edits.painting import Spot
from knitground.core.edits.placing import change, move, scaled, thing_at, things_in, things_on
from knitground.core.layers.thing import LARGEST_SCALE, Corner, Thing, shifted

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_EVEN_TURN = 15
_EVEN_SCALE, _FINE_SCALE = 4, 100
_MOST_SHOWN = 400


class ChooseThings(ThingTool):
    """Chooses things; what is chosen is moved, turned and scaled by hand."""

    name, title, icon, key = "select", "Select", "select", "S"
    tip = "Select: click a thing or drag round some, Shift adds, Ctrl takes away; drag chosen ones to move them"
    verb = "takes hold of things"
    options = ("snap",)

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._start: Place | None = None
        self._end: Place = (0.0, 0.0)
        self._grabbed: Thing | None = None
        self._knob = ""

    def press(self, at: Spot, *, erase: bool = False) -> None:
        session = self.session
        layer, _ = things_on(*self.here)
        self._start = self._end = self.pixel(at)
        self._grabbed, self._knob = None, self._knob_at(self._start)
        if self._knob:
            return
        hit = thing_at(layer, *self._start, self.within(), session.sizes())
        chosen, keys = session.choices.things, QApplication.keyboardModifiers()
        if hit is None:
            if not keys & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier):
                session.choose(things=frozenset())
            return
        if keys & Qt.KeyboardModifier.ControlModifier:
            session.choose(things=chosen - {hit.id})
        elif keys & Qt.KeyboardModifier.ShiftModifier:
            session.choose(things=chosen | {hit.id})
        elif hit.id not in chosen:
            session.choose(things=frozenset({hit.id}))
        self._grabbed = None if keys & Qt.KeyboardModifier.ControlModifier else hit

    def drag(self, at: Spot) -> None:
        if self._start is not None:
            self._end = self.pixel(at)

    def release(self, at: Spot) -> None:
        if self._start is None:
            return
        session, far = self.session, self._far()
        if self._knob:
            thing = self.chosen.things[0]
            change(*self.here, {thing.id}, f"{self._knob.split()[0]} a thing", self._by_knob)
        elif self._grabbed is not None:
            if far != (0, 0):
                move(*self.here, session.choices.things, far)
        elif math.dist(self._start, self._end) > self.within():
            self._take_boxed()
        self._start, self._grabbed, self._knob = None, None, ""

    def leave(self) -> None:
        super().leave()
        if self._start is None:
            self.session.choose(things=frozenset())
        self._start, self._grabbed, self._knob = None, None, ""

    def key_pressed(self, event: QKeyEvent) -> bool:
        steps = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
        }  # fmt: skip
        ground, ids = self.session.ground, self.session.choices.things
        if event.key() not in steps or not ids or ground is None:
            return False
        across, down = steps[Qt.Key(event.key())]
        far = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        by = (across * ground.tile_width, down * ground.tile_height) if far else (across, down)
        self.session.attempt(lambda: move(*self.here, ids, by))
        return True

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        super().paint(painter, view)
        chosen, sizes = self.chosen.things, self.session.sizes()
        moving = self._grabbed is not None and self._far() != (0, 0)
        if moving:
            chosen = [shifted(thing, *self._far()) for thing in chosen]
        elif self._knob and chosen:
            chosen = [self._by_knob(chosen[0])]
        if (moving or self._knob) and len(chosen) <= _MOST_SHOWN:
            draw_things(painter, view, self.session, chosen)
        draw_frames(painter, view, chosen[: 10 * _MOST_SHOWN], sizes)
        if len(chosen) == 1:
            draw_knobs(painter, knobs(view, chosen[0], sizes).values())
        if self._start is not None and self._grabbed is None and not self._knob:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            box = QRectF(view.to_widget(*self._start), view.to_widget(*self._end)).normalized()
            twice(painter, lambda: painter.drawRect(box))

    def _far(self) -> Place:
        """How far what was taken hold of is moved, so that it snaps."""
        if self._grabbed is None or self._start is None or self._end == self._start:
            return 0.0, 0.0
        x, y = self._grabbed.x + self._end[0] - self._start[0], self._grabbed.y + self._end[1] - self._start[1]
        if held_down():
            level = abs(x - self._grabbed.x) >= abs(y - self._grabbed.y)
            x, y = (x, self._grabbed.y) if level else (self._grabbed.x, y)
        x, y = self.snapped((x, y), self._grabbed.form)
        return x - self._grabbed.x, y - self._grabbed.y

    def _take_boxed(self) -> None:
        session, layer = self.session, self.session.props
        if layer is None or self._start is None:
            return
        xs, ys = sorted((self._start[0], self._end[0])), sorted((self._start[1], self._end[1]))
        found = frozenset(things_in(layer, xs[0], ys[0], xs[1], ys[1], session.sizes()))
        keys, chosen = QApplication.keyboardModifiers(), session.choices.things
        if keys & Qt.KeyboardModifier.ControlModifier:
            session.choose(things=chosen - found)
        else:
            session.choose(things=chosen | found if keys & Qt.KeyboardModifier.ShiftModifier else found)

    def _knob_at(self, at: Place) -> str:
        chosen, view = self.chosen.things, self.view
        if len(chosen) != 1 or view is None:
            return ""
        spot = view.to_widget(*at)
        for name, knob in knobs(view, chosen[0], self.session.sizes()).items():
            apart: QPointF = knob - spot
            if math.hypot(apart.x(), apart.y()) <= KNOB + 3:
                return name
        return ""

    def _by_knob(self, thing: Thing) -> Thing:
        """A thing as the knob that is dragged makes it."""
        start, end = self._start or (0.0, 0.0), self._end
        if self._knob.startswith("corner"):
            return self._with_corner(thing, int(self._knob.split()[1]))
        if self._knob == "scale":
            before, now = math.dist(start, (thing.x, thing.y)), math.dist(end, (thing.x, thing.y))
            scale = thing.scale * now / before if before else thing.scale
            parts = _EVEN_SCALE if held_down() else _FINE_SCALE
            return scaled(thing, min(max(round(scale * parts) / parts, 1 / _EVEN_SCALE / 5), LARGEST_SCALE))
        turns = [math.degrees(math.atan2(y - thing.y, x - thing.x)) for x, y in (start, end)]
        turn = thing.turn + turns[1] - turns[0]
        step = _EVEN_TURN if held_down() else 1
        return replace(thing, turn=round(turn / step) * step % 360)

    def _with_corner(self, thing: Thing, number: int) -> Thing:
        x, y = self.snapped(self._end, "point")
        turn = math.radians(-thing.turn)
        across, down = (x - thing.x) / thing.scale, (y - thing.y) / thing.scale
        u, v = across * math.cos(turn) - down * math.sin(turn), across * math.sin(turn) + down * math.cos(turn)
        corner = Corner(round(-u if thing.mirrored else u, 3), round(v, 3))
        return replace(thing, points=(*thing.points[:number], corner, *thing.points[number + 1 :]))
