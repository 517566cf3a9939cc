"""The live link in the window: a switch, the address, who follows, and what the game points at."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt, QUrl, Signal
from PySide6.QtGui import QDesktopServices, QGuiApplication, QPainter, QPen
from PySide6.QtWidgets import QWidget

from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import Tick, button, column, in_row, quiet
from knitground.core.deliver.hub import Hub
from knitground.core.ground.ground import by_id
from knitground.core.project.document import Change

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.core.deliver.link import Link

_MARK = 9


class LiveSwitch(QWidget):
    """Serves the open project while it is switched on."""

    needed = Signal()
    heard = Signal(object)
    counted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._view: GroundView | None = None
        self._hub: Hub | None = None
        self.link: Link | None = None
        self.here: dict[str, object] | None = None
        """Where the game says that its player is."""
        self.tick = Tick("Live link", "Games and browsers of this machine follow what is drawn, as it is drawn")
        self.tick.toggled.connect(self._toggle)
        self.points = Tick("The game may point here", "It may show a place in this window, and where its player is")
        self.points.toggled.connect(self._forget_here)
        self._told = quiet()
        self._told.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._open = button("Open the page", self._browse, "See the map in a browser, following what is drawn")
        self._copy = button("Copy for a game", self._take_address, "The address to connect to, with ws: for http:")
        self.setLayout(column(in_row(self.tick, self.points, None, self._open, self._copy), self._told, spacing=2))
        self.needed.connect(self._follow)
        self.heard.connect(self._on_heard)
        self.counted.connect(self._refresh)
        session.opened.connect(self._on_opened)
        self._refresh()

    def show_on(self, view: "GroundView") -> None:
        """Tells where places are shown that the game points at."""
        self._view = view
        view.overlays.append(self._paint)

    def _toggle(self, on: bool) -> None:
        if not on:
            self.stop()
            return
        from knitground.core.deliver.link import USUAL_PORT, Link  # slow to import

        hub = Hub(self._session.derived)
        link = Link(hub, self.needed.emit, self.heard.emit, self.counted.emit)
        if self._session.attempt(link.start) is None:
            self.tick.setChecked(False)
            return
        self._hub, self.link = hub, link
        self._session.changed.connect(self._on_change)
        if link.port != USUAL_PORT:
            self._session.say(f"Port {USUAL_PORT} is in use, so the link took {link.port}.")
        self._refresh()

    def stop(self) -> None:
        """Ends the link, if there is one."""
        if self.link is not None:
            self._session.changed.disconnect(self._on_change)
            self.link.stop()
        self._hub = self.link = None
        self._forget_here()
        self._refresh()

    def _on_change(self, change: Change) -> None:
        if self._hub is not None:
            self._hub.update(change)

    def _on_opened(self) -> None:
        if self._hub is not None:
            self._hub.update(Change(True), self._session.derived)
        self._forget_here()

    def _follow(self) -> None:
        if self._hub is not None:
            self._hub.follow()

    def _on_heard(self, message: dict[str, object]) -> None:
        """The game points at a place, if it may."""
        if not self.points.isChecked() or self._view is None or self.link is None:
            return
        ground = str(message["ground"])
        if all(one.id != ground for one in self._session.document.project.grounds):
            return
        x, y = float(str(message["x"])), float(str(message["y"]))
        if message["type"] == "here":
            self.here = message
        else:
            self._session.choose(ground_id=ground)
            width, height = by_id(self._session.document.project.grounds, ground).projection.size
            self._view.centre_on(min(max(x, 0), width), min(max(y, 0), height))
        self._view.update()

    def _forget_here(self, *_: object) -> None:
        self.here = None
        if self._view is not None:
            self._view.update()

    def _paint(self, painter: QPainter, view: "GroundView") -> None:
        if self.here is None or self.here["ground"] != self._session.choices.ground_id:
            return
        at = view.to_widget(float(str(self.here["x"])), float(str(self.here["y"])))
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for colour, width in ((theme().colour("panel"), 5), (theme().colour("thread"), 2)):
            painter.setPen(QPen(colour, width))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, _MARK, _MARK)
            painter.drawLine(at + QPointF(0, _MARK), at + QPointF(0, 2 * _MARK))
        painter.restore()

    def _browse(self) -> None:
        if self.link is not None:
            QDesktopServices.openUrl(QUrl(self.link.address))

    def _take_address(self) -> None:
        if self.link is not None:
            QGuiApplication.clipboard().setText(self.link.socket_address)
            self._session.say(f"For a game, {self.link.socket_address} is on the clipboard.")

    def _refresh(self) -> None:
        on = self.link is not None
        for part in (self._open, self._copy, self._told, self.points):
            part.setVisible(on)
        if self.link is not None and self._hub is not None:
            count = self._hub.count
            follow = "nobody follows yet" if not count else f"{count} follow{'s' * (count == 1)}"
            self._told.setText(f"{self.link.address}  ({follow})")
