"""Platforms and the jumps between them, drawn over a ground that is seen from the side."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from knitground.app.canvas.lines import DARK
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.core.project.document import Change
from knitground.core.walk.figure import Figure
from knitground.core.walk.goals import spawn_of
from knitground.core.walk.leaps import Leaps, leaps_of
from knitground.core.walk.side import BODY, seen_from_side

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

_REACHED, _LOST, _TRAP = QColor("#2f7f8f"), QColor("#c0392b"), QColor("#e0a030")
_ARROW = 7.0


class Leaping(QObject):
    """Looks through a ground beside the interface, and draws what was found until something changes."""

    tried = Signal()
    """All jumps were tried anew."""

    def __init__(self, session: Session, view: "GroundView") -> None:
        super().__init__(view)
        self._session, self._view = session, view
        self.leaps: Leaps | None = None
        self._ways: list[QPolygonF] = []
        self._job: Job | None = None
        self._stale = True
        session.changed.connect(self._on_change)
        session.opened.connect(self.forget)
        session.on_choice(self.forget, "ground_id")

    @property
    def here(self) -> bool:
        """Whether the ground at hand is seen from the side."""
        ground = self._session.ground
        return ground is not None and seen_from_side(ground)

    def forget(self, *_: object) -> None:
        """Nothing is known any more."""
        if self._job is not None:
            self._job.cancel()
        self._job, self.leaps, self._stale = None, None, True

    def look(self) -> Leaps | None:
        """What is known of the ground as it is now; none while it is looked through."""
        self._look()
        return self.leaps if self._job is None else None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        """Draws platforms in the colour of whether they are reached, and the jumps by which they are."""
        self._look()
        leaps, ground = self.leaps, self._session.ground
        if leaps is None or ground is None:
            return
        spawn = spawn_of(ground, self._session.document.project.thing_kinds)
        start = leaps.below(spawn, ground.projection.size[1]) if spawn is not None else -1
        there = leaps.reached(start) if start >= 0 else frozenset(range(len(leaps.platforms)))
        traps = {id(leap) for leap in leaps.traps(start)} if start >= 0 else set()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        place = QTransform(view.zoom, 0, 0, view.zoom, view.origin.x(), view.origin.y())
        for leap, way in zip(leaps.leaps, self._ways, strict=True):
            if leap.start in there:
                _draw_leap(painter, place.map(way), _TRAP if id(leap) in traps else _REACHED)
        low = BODY.height / 2
        for number, one in enumerate(leaps.platforms):
            line = QPolygonF([view.to_widget(x, y + low) for x, y in one.points.tolist()])
            for colour, width in ((DARK, 6.0), (_REACHED if number in there else _LOST, 3.5)):
                painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
                painter.drawPolyline(line)

    def _look(self) -> None:
        ground = self._session.ground
        if not self._stale or self._job is not None or ground is None:
            return
        self._stale = False
        frozen, name = self._session.derived.at_this_moment(), ground.id

        def work(progress: Callable[[float], None]) -> Leaps:
            there = frozen.knitted(name).ground
            return leaps_of(Figure(frozen, there, side=True), there, progress)

        job = Job("Trying all jumps", work)
        job.ended.connect(partial(self._end, job))
        self._job = job
        self._session.run(job, self._take)

    def _take(self, leaps: Leaps) -> None:
        self._job, self.leaps = None, leaps
        self._ways = [QPolygonF([QPointF(*spot) for spot in (*leap.way[::3], leap.way[-1])]) for leap in leaps.leaps]
        self.tried.emit()
        self._view.update()

    def _end(self, job: Job) -> None:
        """It may have been stopped, too; then it is tried again after the next change."""
        if self._job is job:
            self._job = None

    def _on_change(self, change: Change) -> None:
        ground = self._session.ground
        mine = change.defined or any(one.ground == ground.id for one in self._session.derived.reached if ground)
        # What was found stays in view until it is found anew.
        self._stale |= bool(mine)


def _draw_leap(painter: QPainter, way: QPolygonF, colour: QColor) -> None:
    """The way of a body on the widget, with an arrow where it lands."""
    veiled = QColor(colour)
    veiled.setAlpha(170)
    painter.setPen(QPen(veiled, 1.5))
    painter.drawPolyline(way)
    tip = way.last()
    painter.drawPolyline(QPolygonF([tip + QPointF(-_ARROW / 2, -_ARROW), tip, tip + QPointF(_ARROW / 2, -_ARROW)]))
