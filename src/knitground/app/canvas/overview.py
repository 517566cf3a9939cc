"""The overview: all of a ground, small, in a corner of the view; it shows where the view is, and moves it."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from knitground.app.canvas.chunks import Chunks, detail_for
from knitground.app.guard import guarded
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.core.grid.projection import PixelRect
from knitground.core.project.document import Change

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

_MOST_WIDE, _MOST_HIGH = 190, 140
_EDGE = 8
_SETTLE_MS = 300


class Overview(QWidget):
    """A small picture of the ground that the view shows; a click or drag moves the view there."""

    def __init__(self, session: Session, view: "GroundView") -> None:
        super().__init__(view)
        self._session, self._view = session, view
        self.setAccessibleName("Overview")
        self.setToolTip("The whole ground: click or drag to go there (O hides it)")
        self._chunks = Chunks()
        self._soon = QTimer(self, singleShot=True, interval=0)
        self._soon.timeout.connect(self.update)
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE_MS)
        self._settle.timeout.connect(self._renew)
        session.changed.connect(self._on_change)
        session.opened.connect(self._renew)
        session.on_choice(self._renew, "ground_id")
        view.moved.connect(self.update)
        view.zoomed.connect(lambda _: self.update())
        self.hide()

    def place(self) -> None:
        """Takes its place in the corner, as large as the ground's shape asks for."""
        width, height = self._view.content_size()
        share = min(_MOST_WIDE / max(1, width), _MOST_HIGH / max(1, height))
        self.resize(max(24, round(width * share)), max(24, round(height * share)))
        self.move(self._view.width() - self.width() - _EDGE, self._view.height() - self.height() - _EDGE)

    def _renew(self, *_: object) -> None:
        self._chunks.clear()
        self.place()
        self.update()

    def _on_change(self, change: Change) -> None:
        # Strokes would draw all of it anew again and again; it may lag a little.
        if self.isVisible():
            self._settle.start()

    @property
    def _share(self) -> float:
        return self.width() / max(1, self._view.content_size()[0])

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter, knitted, share = QPainter(self), self._view.knitted, self._share
        painter.fillRect(self.rect(), theme().colour("panel"))
        if knitted is None:
            return

        def on_widget(area: QRectF) -> QRectF:
            return QRectF(area.x() * share, area.y() * share, area.width() * share, area.height() * share)

        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        size, projection = self._view.content_size(), knitted.ground.projection
        detail = detail_for(share, projection)
        if not self._chunks.draw(painter, on_widget, PixelRect(0, 0, *size), size, detail, self._view.rendered):
            self._soon.start()
        seen = on_widget(self._view.visible_content()).intersected(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        for pen in (QPen(theme().colour("well"), 3), QPen(theme().colour("thread"), 1.5)):
            painter.setPen(pen)
            painter.drawRect(seen)
        painter.setPen(theme().colour("ink"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._go(event.position())

    def _go(self, at: QPointF) -> None:
        self._view.centre_on(at.x() / self._share, at.y() / self._share)
        self.update()
