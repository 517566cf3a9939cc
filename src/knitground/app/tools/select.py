"""Selecting cells, and moving what lies in them."""

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPainterPath

from knitground.app.known import known
from knitground.app.theme.colours import theme
from knitground.app.tools import Tool, adding
from knitground.app.tools.preview import AfterView, draw_outline, outline_path
from knitground.core.edits.blocks import Move, put
from knitground.core.edits.painting import Spot, cell_of
from knitground.core.edits.placing import carry
from knitground.core.edits.selecting import Selected, added, alike, boxed, lassoed, shifted, tagged, without
from knitground.core.grid.shapes import Shape
from knitground.core.layers.layer import Layer
from knitground.core.project.model import State

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

SHAPES = ("box", "lasso", "touching", "alike", "tagged")
"""Ways to select: what is dragged over, what a line goes round, what hangs together, all that is alike, all tiles
that share a tag."""
_AT_ONCE = ("touching", "alike", "tagged")
_MOST_MOMENTS = 32


class Select(Tool):
    """Selects cells; dragging what is selected moves it."""

    name, title, icon, key = "select", "Select", "select", "S"
    tip = "Select: drag over cells, Shift adds, Ctrl takes away; drag what is selected to move it"
    verb = "takes"
    lays = False
    options = ("selecting", "across")

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._way: list[Spot] = []
        self._start: Spot | None = None
        self._moves = False
        self._lifted: tuple[State, Selected, list[str], Move] | None = None
        self._after = AfterView(session)
        self._outline: tuple[tuple[Any, ...], QPainterPath] | None = None
        self._then: dict[int, Selected] = {}
        """What was selected at the moments of the document before and after each move."""
        session.changed.connect(self._follow)
        session.opened.connect(self._then.clear)

    def where(self, layer: Layer) -> str:
        return "from all layers that show" if self.session.choices.across else f"from {layer.name}"

    def press(self, at: Spot, *, erase: bool = False) -> None:
        session = self.session
        if session.ground is None:
            return
        self._start, self._way = at, [at]
        self._moves = not erase and not adding() and self._inside(at)
        if not self._moves and session.choices.selecting in _AT_ONCE:
            self._select(at)
            self._start = None

    def drag(self, at: Spot) -> None:
        if self._start is not None:
            self._way.append(at)

    def release(self, at: Spot) -> None:
        if self._start is None:
            return
        if self._moves:
            self._move(self._by(at))
        else:
            self._select(at)
        self._start, self._way, self._moves, self._lifted = None, [], False, None

    @property
    def measured(self) -> tuple[Spot, Spot] | None:
        return (self._way[0], self._way[-1]) if len(self._way) > 1 and not self._moves else None

    def leave(self) -> None:
        self._start, self._way, self._moves = None, [], False

    def paint(self, painter: QPainter, view: "GroundView") -> None:
        ground, selected = self.session.ground, self.session.selected
        if ground is None:
            return
        by = self._by(self._way[-1]) if self._moves and self._way else (0, 0)
        if by != (0, 0) and selected is not None:
            seen = view.cells_in_view()
            move = self._move_of(selected)
            self._after.draw(painter, view, lambda: move.to(by, seen), lambda: move.ground_after(by), selected, by)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if selected is not None:
            away = view.point(*by) - view.point(0, 0)
            painter.translate(away)
            self._draw_outline(painter, view, selected)
            painter.translate(-away)
        if self._way and not self._moves:
            shape = self._dragged(self._way[-1])
            path = outline_path(view, "cells", shape).simplified()
            draw_outline(painter, theme().colour("focus"), path)
        painter.restore()

    def _draw_outline(self, painter: QPainter, view: "GroundView", selected: Selected) -> None:
        key = (selected, view.zoom, view.origin.x(), view.origin.y(), view.width(), view.height())
        if self._outline is None or self._outline[0] != key:
            self._outline = key, outline_path(view, "cells", selected.shape).simplified()
        path = self._outline[1]
        draw_outline(painter, theme().colour("thread"), path)

    def _inside(self, at: Spot) -> bool:
        ground, selected = self.session.ground, self.session.selected
        cell = known(ground).board.cell_at(*at)
        if selected is None or cell is None or not selected.shape.window.holds(*cell):
            return False
        window = selected.shape.window
        return bool(selected.shape.mask[cell[0] - window.top, cell[1] - window.left])

    def _by(self, at: Spot) -> tuple[int, int]:
        (y, x), (first_y, first_x) = cell_of(at), cell_of(self._start or at)
        return y - first_y, x - first_x

    def _move(self, by: tuple[int, int]) -> None:
        session, selected = self.session, known(self.session.selected)
        if by == (0, 0):
            return
        ground = known(session.ground)
        changed, before = self._move_of(selected).to(by), session.document.moment
        with session.document.step("move selection"):
            put(session.document, "move selection", ground.id, changed)
            carry(session.document, ground.id, session.layers_worked_on, selected.shape, by)
        session.select(shifted(ground.board, selected.shape, by))
        if session.selected is not None:
            self._then |= {before: selected, session.document.moment: session.selected}
            for moment in list(self._then)[:-_MOST_MOMENTS]:
                del self._then[moment]

    def _follow(self, change: object) -> None:
        """Goes back with what is selected when a move of it is taken back, and forth when it is done again."""
        then = self._then.get(self.session.document.moment)
        if then is not None and any(self.session.selected is one for one in self._then.values()):
            self.session.choose(selected=then)

    def _move_of(self, selected: Selected) -> Move:
        """What is selected, lifted; the same for as long as nothing changes."""
        session, ground, layers = self.session, known(self.session.ground), self.session.layers_worked_on
        state = session.document.state
        if self._lifted is None or self._lifted[0] is not state or self._lifted[1:3] != (selected, layers):
            move = Move(state.project, ground, state.planes[ground.id], layers, selected.shape)
            self._lifted = state, selected, layers, move
        return self._lifted[3]

    def _dragged(self, at: Spot) -> Shape:
        board = known(self.session.ground).board
        if self.session.choices.selecting == "lasso":
            return lassoed(board, self._way)
        return boxed(board, self._way[0], at)

    def _select(self, at: Spot) -> None:
        session, ground, layer = self.session, known(self.session.ground), self.session.layer
        way, modifiers = session.choices.selecting, adding()
        if way in ("box", "lasso"):
            if len({cell_of(spot) for spot in self._way}) == 1 and session.selected is not None and not modifiers:
                session.select(None)
                return
            shape = self._dragged(at)
        elif layer is None:
            return
        elif way == "tagged":
            shape = tagged(session.derived, ground.id, layer.id, at)
        else:
            planes = session.document.state.planes[ground.id][layer.id]
            shape = alike(ground, layer, planes, session.hand, at, everywhere=way == "alike")
        selected = session.selected
        if selected is not None and modifiers:
            change = added if modifiers & Qt.KeyboardModifier.ShiftModifier else without
            shape = change(ground.board, selected.shape, shape)
        session.select(shape)
