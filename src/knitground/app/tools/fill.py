"""Filling what hangs together, seen under the pointer before it is laid."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtGui import QPainter

from knitground.app.jobs import Job
from knitground.app.tools import Tool
from knitground.app.tools.advice import advise_all_over
from knitground.app.tools.preview import Preview, draw_cover, hand_colour
from knitground.core.edits.painting import Covered, Shapes, Spot, filled, paintable, region_shapes
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.project.model import State

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_AT_ONCE = 1 << 20
_SEEN = 400
"""How far from the pointer the region is shown, in cells; further off a click reaches, but the eye does not."""


class Fill(Tool):
    """Lays on all cells of one kind that hang together with the one under the pointer, or on all of that kind."""

    name, title, icon, key = "fill", "Fill", "fill", "F"
    tip = "Fill: click to lay what you see; R throws a mix again"
    options = ("alike", "turning")
    lays_what_is_in_hand = True

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._at: Spot | None = None
        self._region: Shapes = {}
        self._found_for: tuple[str, str, bool] | None = None
        self._preview = Preview(session)
        session.changed.connect(lambda change: self._forget())

    def press(self, at: Spot, *, erase: bool = False) -> None:
        session, document = self.session, self.session.document
        ground, layer = paintable(document, session.choices.ground_id, session.choices.layer_id)
        before, palette, hand = document.state, document.palette, session.hand
        label = "erase region" if erase else "fill"

        def work(progress: Callable[[float], None]) -> dict[str, Plane]:
            return filled(before, palette, ground.id, layer.id, hand, at, erase=erase)

        def lay(planes: dict[str, Plane]) -> None:
            if _fits(before, document.state, ground.id, layer.id) and document is session.document:
                document.put_planes(label, ground.id, {layer.id: planes})
                if document.state is not before and not erase:
                    advise_all_over(session, at)
            else:
                session.say(f"“{layer.name}” was changed meanwhile, so nothing was filled; click again.")

        if ground.height * ground.width <= _AT_ONCE:
            lay(work(lambda share: None))
        else:
            session.run(Job("Filling", work), lay)

    def hover(self, at: Spot | None) -> None:
        self._at = at
        if at is not None:
            self._find(at)

    def leave(self) -> None:
        self._at = None
        self._forget()

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        layer = self.session.layer
        if self._at is None or layer is None:
            return
        self._find(self._at)
        region = self._region
        if self._preview.draw(painter, view, lambda: [Covered(region, 0)], region):
            return
        for name, shape in region.items():
            draw_cover(painter, view, layer.specs[name].on, shape, hand_colour(self.session, layer))

    def _find(self, at: Spot) -> None:
        """Works out what is seen of the region, unless it is the one that is known already."""
        session, ground, layer = self.session, self.session.ground, self.session.layer
        if layer is None or ground is None or layer.refuses:
            self._forget()
            return
        row, column = (int(n) for n in ground.board.stored("cells", int(at[0] // 1), int(at[1] // 1)))
        if self._found_for == (ground.id, layer.id, session.hand.alike) and self._inside(row, column):
            return
        self._found_for = ground.id, layer.id, session.hand.alike
        near = CellRect(row - _SEEN, column - _SEEN, 2 * _SEEN + 1, 2 * _SEEN + 1)
        planes = session.document.state.planes[ground.id][layer.id]
        self._region = region_shapes(ground.board, layer, planes, session.hand, at, near)

    def _inside(self, row: int, column: int) -> bool:
        """Whether a cell is in the region that is known; where points or edges are painted it is looked for anew."""
        layer = self.session.layer
        cells = [shape for name, shape in self._region.items() if layer and layer.specs[name].on == "cells"]
        shape = cells[0] if cells else None
        return bool(
            shape and shape.window.holds(row, column) and shape.mask[row - shape.window.top, column - shape.window.left]
        )

    def _forget(self) -> None:
        self._region, self._found_for = {}, None


def _fits(before: State, now: State, ground_id: str, layer_id: str) -> bool:
    """Whether what was worked out on one state may still be laid on another."""
    return (
        ground_id in now.planes
        and now.planes[ground_id].get(layer_id) is before.planes[ground_id][layer_id]
        and now.project.join_sets is before.project.join_sets
    )
