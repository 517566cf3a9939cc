"""Finding the way between two places that are clicked."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF

from knitground.app.commands import Command
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.walk.blocked import Blocked
from knitground.core.project.document import Change
from knitground.core.walk.motion import Spot
from knitground.core.walk.side import usual_strength
from knitground.core.walk.wayfinding import Found, find_way, find_way_from_side

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

_AT_ONCE = 64 * 64
_ASKS = "Click where the way begins and where it ends; Escape ends it."


class Wayfinder(QObject):
    """Takes clicks on the ground while it is asked for, and draws the way between the last two."""

    def __init__(self, session: Session, view: "GroundView", blocked: Blocked) -> None:
        super().__init__(view)
        self._session, self._view, self._blocked = session, view, blocked
        self.asks = False
        """Whether clicks are taken."""
        self.spots: list[Spot] = []
        """The places clicked so far, two at most."""
        self.found: Found | None = None
        self._job: Job | None = None
        view.installEventFilter(self)
        view.overlays.append(self.paint)
        blocked.surveyed.connect(self._find)
        blocked.leaping.tried.connect(self._find)
        session.changed.connect(self._on_change)
        session.opened.connect(self.end)
        session.on_choice(self.end, "ground_id")

    def commands(self) -> list[Command]:
        """What one can ask for."""
        return [Command("Find the way between two places", self.toggle, ("F6",), refused=self._refused)]

    def _refused(self) -> str:
        ground = self._session.ground
        return "There is no ground to find a way on yet; make one first." if ground is None else ""

    def toggle(self) -> None:
        """Takes clicks from now on, or no longer."""
        if self.asks:
            self.end()
            return
        if why_not := self._refused():
            self._session.say(why_not)
            return
        self.asks = True
        self._blocked.want(self)
        self._view.setFocus()
        self._session.say(_ASKS)

    def end(self, *_: object) -> None:
        """Takes no more clicks, and shows no way."""
        if self.asks:
            self._forget()
            self.spots.clear()
            self.asks = False
            self._blocked.want(self, wanted=False)
            self._view.update()

    def choose(self, spot: Spot) -> None:
        """Begins a way at a place, or ends it there."""
        self._forget()
        if len(self.spots) == 2:
            self.spots.clear()
        self.spots.append(spot)
        if len(self.spots) == 1:
            self._session.say("Click where the way ends; Escape ends it.")
        self._find()
        self._view.update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not self.asks:
            return False
        if isinstance(event, QMouseEvent) and event.button() == Qt.MouseButton.LeftButton:
            if event.type() in (QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonDblClick):
                place = self._view.to_content(event.position())
                self.choose(Spot(place.x(), place.y()))
            return True
        if isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            if event.type() == QEvent.Type.KeyPress:
                self.end()
            event.accept()
            return True
        return False

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        """Draws the places, and the way."""
        if not self.spots:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for line in self.found.lines if self.found is not None else ():
            way = QPolygonF([view.to_widget(spot.x, spot.y) for spot in line])
            for colour, width in ((QColor(30, 26, 22, 220), 6.0), (QColor(250, 246, 238), 3.0)):
                painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
                painter.drawPolyline(way)
        none = self.found is not None and not self.found.spots
        for spot in self.spots:
            at = view.to_widget(spot.x, spot.y)
            painter.setPen(QPen(QColor(30, 26, 22, 220), 1.5))
            painter.setBrush(theme().colour("thread" if none else "focus"))
            painter.drawEllipse(QRectF(at.x() - 6, at.y() - 6, 12, 12))
            painter.setBrush(QColor(250, 246, 238))
            painter.drawEllipse(QPointF(at.x(), at.y()), 2.0, 2.0)
        painter.restore()

    def _find(self) -> None:
        """Looks for the way, as soon as the ground is looked through; on a large ground beside the interface."""
        ground = self._session.ground
        if len(self.spots) < 2 or ground is None or self.found is not None or self._job is not None:
            return
        if self._blocked.leaping.here:
            leaps, (start, end) = self._blocked.leaping.look(), self.spots
            if leaps is not None:
                self._take(None, find_way_from_side(leaps, ground, usual_strength(ground), start, end))
            return
        survey = self._blocked.look()
        if survey is None:
            return
        frozen, (start, end) = self._session.derived.at_this_moment(), self.spots

        def work(progress: Callable[[float], None]) -> Found:
            return find_way(frozen, survey, start, end)

        if ground.height * ground.width <= _AT_ONCE:
            found = self._session.attempt(lambda: work(lambda share: None))
            if found is not None:
                self._take(None, found)
            return
        job = Job("Looking for the way", work)
        self._job = job
        job.ended.connect(partial(self._end, job))
        self._session.run(job, partial(self._take, job))

    def _take(self, job: Job | None, found: Found) -> None:
        if job is self._job:
            self.found = found
            self._session.say(found.says)
            self._view.update()

    def _end(self, job: Job) -> None:
        """Notes that a job is over, also one that was stopped."""
        if job is self._job:
            self._job = None

    def _forget(self, *_: object) -> None:
        if self._job is not None:
            self._job.cancel()
        self._job = self.found = None

    def _on_change(self, change: Change) -> None:
        """What is painted may open a way or close it."""
        if self.asks and len(self.spots) == 2:
            self._forget()
            self._find()
            self._view.update()
