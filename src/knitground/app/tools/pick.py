"""Picking what lies on the ground, to lay it again: a tile or terrain with a click, a block with a drag."""

from typing import TYPE_CHECKING

from PySide6.QtGui import QPainter

from knitground.app.known import known
from knitground.app.theme.colours import theme
from knitground.app.tools import Tool
from knitground.app.tools.preview import draw_outline, outline_path
from knitground.core.edits.blocks import lift
from knitground.core.edits.painting import Spot, cell_of
from knitground.core.edits.picking import pick_seen
from knitground.core.edits.selecting import boxed
from knitground.core.grid.shapes import Shape

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session


class Pick(Tool):
    """Takes what lies under the pointer into the hand, and goes back to the tool that was in hand before."""

    name, title, icon, key = "pick", "Pick", "pick", "K"
    tip = "Pick: click to take what lies there, drag to take a block of it"
    verb = "takes in hand"
    lays = False
    options = ("across",)

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._start: Spot | None = None
        self._end: Spot = (0.0, 0.0)

    def press(self, at: Spot, *, erase: bool = False) -> None:
        self._start = self._end = at

    def drag(self, at: Spot) -> None:
        self._end = at

    def release(self, at: Spot) -> None:
        start, self._start = self._start, None
        if start is None or self.session.layer is None:
            return
        if cell_of(start) == cell_of(at):
            self._pick(at)
        else:
            self._lift(self._dragged(start, at))

    @property
    def measured(self) -> tuple[Spot, Spot] | None:
        return None if self._start is None or self._start == self._end else (self._start, self._end)

    def leave(self) -> None:
        self._start = None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        if self._start is not None and self.session.ground is not None:
            path = outline_path(view, "cells", self._dragged(self._start, self._end)).simplified()
            draw_outline(painter, theme().colour("focus"), path)

    def _dragged(self, start: Spot, end: Spot) -> Shape:
        return boxed(known(self.session.ground).board, start, end)

    def _lift(self, shape: Shape) -> None:
        session, ground = self.session, known(self.session.ground)
        block, _ = lift(ground, session.document.state.planes[ground.id], session.layers_worked_on, shape)
        session.choose(lifted=block, repeats=True, lays_mix=False)
        session.tool_wanted.emit("place")

    def _pick(self, at: Spot) -> None:
        session = self.session
        found = pick_seen(session.derived, session.choices.ground_id, session.choices.layer_id, session.hand, at)
        if found is None:
            session.say("Nothing lies there to be picked; click a tile or something painted.")
            return
        if found.tile is not None:
            session.choose(tile=found.tile, orientation=found.orientation, lays_mix=False, layer_id=found.layer)
        elif found.terrain is not None:
            session.choose(terrain=found.terrain)
        session.tool_wanted.emit("")
