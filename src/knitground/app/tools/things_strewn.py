"""Scattering things: sprites strewn over the cells that a stroke goes over, each somewhere in its cell."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtGui import QPainter

from knitground.app.canvas.lines import draw_line_twice
from knitground.app.canvas.thing_marks import draw_things
from knitground.app.theme.colours import theme
from knitground.app.tools.things import PlaceThing
from knitground.core.chance import chance
from knitground.core.edits.painting import Spot, cell_of
from knitground.core.edits.placing import place
from knitground.core.layers.thing import Thing

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_ACROSS, _DOWN, _WHICH = 0x2A17, 0x5B0D, 0x71C3
_MOST_SHOWN = 400


class StrewThings(PlaceThing):
    """Strews the tile or mix in hand; every stroke falls otherwise."""

    name, title, icon, key = "spray", "Scatter", "spray", "Y"
    tip = "Scatter: drag to strew, each stroke falls otherwise"
    verb = "strews"
    options = ("radius", "density")

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._strewn: dict[tuple[int, int], Thing | None] = {}
        self._strews = False
        self._strokes = 0
        self._spot: Spot | None = None

    def begin(self, at: Spot) -> None:
        self._strewn, self._strews, self._spot = {}, True, at
        self.drag(at)

    def drag(self, at: Spot) -> None:
        before, self._spot = self._spot or at, at
        ground = self.session.ground
        if not self._strews or ground is None:
            return
        # Also what lies between, as a quick pointer leaps.
        shape = ground.board.disc("cells", cell_of(before), cell_of(at), self.session.choices.radius)
        for row, column in np.argwhere(shape.mask).tolist():
            cell = shape.window.top + row, shape.window.left + column
            if cell not in self._strewn:
                self._strewn[cell] = self._thrown(*cell)

    def hover(self, at: Spot | None) -> None:
        super().hover(at)
        self._spot = at

    def release(self, at: Spot) -> None:
        if not self._strews:
            return
        self._strews = False
        found = [thing for thing in self._strewn.values() if thing is not None]
        self._strewn = {}
        self._strokes += 1
        if found:
            place(*self.here, found, f"strew {len(found):,} things")

    def leave(self) -> None:
        super().leave()
        self._strewn, self._strews, self._spot = {}, False, None

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        self.view = view
        found = [thing for thing in self._strewn.values() if thing is not None]
        draw_things(painter, view, self.session, found[:_MOST_SHOWN])
        if self._spot is not None:
            ring = view.ring(*self._spot, self.session.choices.radius + 0.5)
            draw_line_twice(painter, theme().colour("thread"), lambda: painter.drawPolygon(ring))

    def _thrown(self, row: int, column: int) -> Thing | None:
        """What falls into a cell, somewhere in it; by the place and the stroke alone."""
        ground = self.session.ground
        throw = self.session.choices.throw + self._strokes

        def number(salt: int) -> float:
            return float(chance(throw ^ salt, [row], [column])[0])

        if ground is None or not ground.board.whole.holds(row, column) or number(0) >= self.session.choices.density:
            return None
        y, x = ground.board.flat("cells", row, column)
        at = self.pixel((float(y) + number(_DOWN), float(x) + number(_ACROSS)))
        return self.made_at(at, number(_WHICH))
