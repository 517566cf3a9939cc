"""Choosing a tile on the sheet, to lay it or to put it into a stitch or a mix."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath

from knitground.app.canvas.sheet_view import SheetMode, SheetView
from knitground.app.theme.colours import theme
from knitground.app.tools import adding
from knitground.app.tools.preview import draw_outline
from knitground.core.tiles.tile import TileRef

_STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class PickMode(SheetMode):
    """A click chooses a tile, and the arrow keys move the choice; a drag takes all tiles that it goes over as a block.

    With Shift a drag adds to the block that was taken last, with Ctrl it takes away; Shift and an arrow key grow it.
    """

    smallest_tile = 24

    def __init__(
        self,
        chosen: Callable[[TileRef], object],
        current: Callable[[], TileRef | None],
        lifted: Callable[[frozenset[TileRef]], object] | None = None,
    ) -> None:
        self._chosen = chosen
        self._current = current
        self._lifted = lifted
        self._under: TileRef | None = None
        self._from: QPointF | None = None
        self._band: frozenset[TileRef] = frozenset()
        self._block: frozenset[TileRef] = frozenset()

    def paint(self, painter: QPainter, view: SheetView) -> None:
        view.draw_lines(painter)
        if self._under:
            view.draw_frame(painter, self._under, "fine")
        current = self._current()
        if current:
            view.draw_frame(painter, current, "thread")
        self._draw_block(painter, view, self._block if self._from is None else self._taken(view))

    def press(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        ref = view.ref_at(point)
        self._from, self._band = point, frozenset()
        if ref and not adding():
            self._block = frozenset()
            self._chosen(ref)

    def drag(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._from is None or self._lifted is None:
            return
        found = view.tiles_in(self._from, point)
        first = view.ref_at(self._from) or next(iter(found), None)
        self._band = frozenset(ref for ref in found if first is not None and _go_together(view, ref, first))

    def release(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._from is None:
            return
        if adding() and not self._band:
            self._band = frozenset(ref for ref in (view.ref_at(point),) if ref is not None)
        taken, self._from, self._band = self._taken(view), None, frozenset()
        if len(taken) > 1 or (taken and adding()):
            self._take(taken)

    def hover(self, view: SheetView, point: QPointF | None) -> None:
        self._under = view.ref_at(point) if point is not None else None

    def key(self, view: SheetView, event: QKeyEvent) -> bool:
        current, step = self._current(), _STEPS.get(Qt.Key(event.key()))
        if step is None or current is None or view.sheet is None or current.sheet != view.sheet.id:
            return False
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self._lifted is not None:
            self._grow(view, current, step)
            return True
        beside = beside_in(view, current, step)
        if beside is not None:
            self._block = frozenset()
            self._chosen(beside)
        return True

    def _take(self, refs: frozenset[TileRef]) -> None:
        if self._lifted is not None:
            self._block = refs
            self._lifted(refs)

    def _taken(self, view: SheetView) -> frozenset[TileRef]:
        """What is taken if the button goes up now."""
        modifiers = adding()
        known = frozenset(one for one in self._block if any(_go_together(view, one, other) for other in self._band))
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            return known - self._band
        return known | self._band if modifiers else self._band

    def _grow(self, view: SheetView, current: TileRef, step: tuple[int, int]) -> None:
        """Takes the block between the tile at hand and the place a step beyond the corner that lies opposite."""
        mine = [ref for ref in self._block if ref[:2] == current[:2]] or [current]
        columns, rows = {ref.column for ref in mine}, {ref.row for ref in mine}
        far_column = max(columns) if current.column == min(columns) else min(columns)
        far_row = max(rows) if current.row == min(rows) else min(rows)
        across = sorted((current.column, max(0, far_column + step[0])))
        down = sorted((current.row, max(0, far_row + step[1])))
        every = [
            current._replace(column=column, row=row)
            for column in range(across[0], across[1] + 1)
            for row in range(down[0], down[1] + 1)
        ]
        self._take(frozenset(view.session.derived.usable(every)))

    def _draw_block(self, painter: QPainter, view: SheetView, refs: frozenset[TileRef]) -> None:
        if view.sheet is None or not refs:
            return
        path = QPainterPath()
        path.setFillRule(Qt.FillRule.WindingFill)
        for rect in view.rects_of(refs).values():
            path.addRect(rect.adjusted(-1, -1, 1, 1))
        outline = path.simplified()
        draw_outline(painter, theme().colour("thread"), outline)


def _go_together(view: SheetView, one: TileRef, other: TileRef) -> bool:
    """Whether two tiles may be of one block: they are single images, or of one cut, as another has its own grid."""
    images = view.sheet is not None and bool(view.sheet.images)
    return one.sheet == other.sheet and (images or one.cut == other.cut)


def beside_in(view: SheetView, ref: TileRef, step: tuple[int, int]) -> TileRef | None:
    """The next tile of the same cut in a direction, cells that are no tiles left out."""
    slices = next((one for one in view.all_slices if one.cut.id == ref.cut), None)
    if slices is None:
        return None
    column, row = ref.column + step[0], ref.row + step[1]
    while 0 <= column < slices.grid.columns and 0 <= row < slices.grid.rows:
        if slices.held[row, column]:
            return ref._replace(column=column, row=row)
        column, row = column + step[0], row + step[1]
    return None
