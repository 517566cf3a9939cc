"""Recording what a figure walks, and letting it walk that again."""

from PySide6.QtCore import QObject, QPoint
from PySide6.QtWidgets import QInputDialog

from knitground.app.allowed import a_menu
from knitground.app.commands import Command
from knitground.app.session import Session
from knitground.app.walk.walker import Walker
from knitground.core.edits.routes import keep_route, remove_route
from knitground.core.walk.journey import KeptRoute, Route, Way, legs_held
from knitground.core.walk.motion import Spot


class Routes(QObject):
    """The routes of the ground at hand."""

    def __init__(self, session: Session, walker: Walker) -> None:
        super().__init__(walker)
        self._session, self._walker = session, walker
        self._start: Spot | None = None
        self._ways: list[Way] = []
        walker.stepped.connect(self._note)
        walker.changed.connect(self._on_walker)

    def commands(self) -> list[Command]:
        """What one can do with routes."""
        return [
            Command("Record a route, or keep it", self.record, ("Ctrl+F5",), refused=self._nobody),
            Command("Walk a route again…", self.offer, ("Ctrl+Shift+F5",), refused=self._none_kept),
        ]

    def _nobody(self) -> str:
        return "" if self._walker.walks else "Nobody walks; F5 begins."

    def _none_kept(self) -> str:
        return "" if self._mine() else "No route is kept for this ground; walk, and record one with Ctrl+F5."

    def _mine(self) -> list[KeptRoute]:
        ground = self._session.ground
        return [one for one in self._session.document.project.routes if ground is not None and one.ground == ground.id]

    def record(self) -> None:
        """Begins to record; the second time what was walked meanwhile is kept."""
        spot, ground = self._walker.spot, self._session.ground
        if spot is None or ground is None:
            return
        if self._start is None:
            self._start, self._ways = spot, []
            self._session.say("Recording; Ctrl+F5 keeps the route, Escape drops it.")
            return
        route, self._start = Route(x=self._start.x, y=self._start.y, legs=legs_held(self._ways)), None
        name, sure = QInputDialog.getText(self._walker.view, "Keep the route", "Name", text="Round")
        if sure:
            self._session.attempt(lambda: keep_route(self._session.document, ground.id, name, route, spot))

    def offer(self) -> None:
        """Lists the routes of this ground, to walk one again or take it out."""
        menu = a_menu(self._walker.view)
        mine = self._mine()
        for one in mine:
            walk = menu.addAction(f"Walk “{one.name}”")
            walk.triggered.connect(lambda _=False, one=one: self._walker.play(one.route))
        menu.addSeparator()
        for one in mine:
            remove = menu.addAction(f"Remove “{one.name}”")
            remove.triggered.connect(lambda _=False, one=one: remove_route(self._session.document, one.id))
        menu.popup(self._walker.view.mapToGlobal(QPoint(40, 40)))

    def _note(self, way: Way) -> None:
        if self._start is not None:
            self._ways.append(way)

    def _on_walker(self) -> None:
        if not self._walker.walks:
            self._start = None
