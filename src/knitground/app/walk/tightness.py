"""Where it is tight for a figure, drawn over the ground: narrow places, and ways that lead nowhere."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QObject, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from knitground.app.commands import Command
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.walk.blocked import Blocked, path_of
from knitground.core.check.check import many
from knitground.core.project.document import Change
from knitground.core.walk.goals import marks_of
from knitground.core.walk.tight import Tight, dead_ends, narrow_places

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

_SPARE = 5.0
"""Half of the figure's width."""
_NARROW, _END = QColor(214, 120, 20, 150), QColor(120, 60, 140, 130)
_RING = 11.0


class Shown(NamedTuple):
    """What was found."""

    narrow: list[Tight]
    ends: list[Tight]


class Tightness(QObject):
    """Draws them from when they are asked for until something changes or they are asked for again."""

    def __init__(self, session: Session, view: "GroundView", blocked: Blocked) -> None:
        super().__init__(view)
        self._session, self._view, self._blocked = session, view, blocked
        self._asked = False
        self._job: Job | None = None
        self.shown: Shown | None = None
        view.overlays.append(self.paint)
        blocked.surveyed.connect(self._look)
        session.changed.connect(self._on_change)
        session.opened.connect(self.hide)
        session.on_choice(self.hide, "ground_id")

    def commands(self) -> list[Command]:
        """What one can ask for."""
        return [Command("Show or hide narrow places and dead ends", self.toggle, ("Ctrl+Shift+J",))]

    def toggle(self) -> None:
        """Looks for them, or shows them no longer."""
        if self._asked:
            self.hide()
            return
        self._asked = True
        self._blocked.want(self)
        self._look()

    def hide(self, *_: object) -> None:
        """Shows them no longer."""
        if self._job is not None:
            self._job.cancel()
        self._asked, self._job, self.shown = False, None, None
        self._blocked.want(self, wanted=False)
        self._view.update()

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        """Draws each as the places in which the middle of the foot can be, with a ring round it."""
        if self.shown is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for places, colour in ((self.shown.narrow, _NARROW), (self.shown.ends, _END)):
            for one in places:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour)
                painter.drawPath(path_of(one.shape, view))
                at = view.to_widget(*one.spot)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                for ink, width in ((QColor(30, 26, 22), 4.0), (QColor(250, 246, 238), 2.0)):
                    painter.setPen(QPen(ink, width))
                    painter.drawEllipse(QPointF(at.x(), at.y()), _RING, _RING)
        painter.restore()

    def _look(self) -> None:
        """Looks as soon as the ground is looked through, beside the interface."""
        ground = self._session.ground
        if not self._asked or ground is None or self._job is not None:
            return
        survey = self._blocked.look()
        if survey is None:
            return
        marks = tuple(marks_of(ground, self._session.document.project.thing_kinds))

        def work(progress: Callable[[float], None]) -> Shown:
            narrow = narrow_places(survey, _SPARE)
            progress(0.5)
            return Shown(narrow, dead_ends(survey, marks))

        job = Job("Looking for what is tight", work)
        self._job = job
        job.ended.connect(partial(self._end, job))
        self._session.run(job, partial(self._take, job))

    def _take(self, job: Job, shown: Shown) -> None:
        if job is not self._job:
            return
        self.shown = shown
        narrow = many(len(shown.narrow), "narrow place", "narrow places")
        ends = many(len(shown.ends), "dead end", "dead ends")
        self._session.say(f"{narrow}, with less than {_SPARE:g} pixels to spare, and {ends} for a figure.")
        self._view.update()

    def _end(self, job: Job) -> None:
        """Notes that a job is over, also one that was stopped."""
        if job is self._job:
            self._job = None

    def _on_change(self, change: Change) -> None:
        if self._asked:
            self._job = None
            self._look()
