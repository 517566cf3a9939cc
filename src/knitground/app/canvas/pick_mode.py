"""Choosing a tile on the sheet, to lay it or to put it into a stitch or a mix."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter

from knitground.app.canvas.sheet_view import SheetMode, SheetView
from knitground.core.tiles.tile import TileRef

_STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class PickMode(SheetMode):
    """A click chooses a tile; the arrow keys move the choice."""

    smallest_tile = 24

    def __init__(self, chosen: Callable[[TileRef], object], current: Callable[[], TileRef | None]) -> None:
        self._chosen = chosen
        self._current = current
        self._under: TileRef | None = None

    def paint(self, painter: QPainter, view: SheetView) -> None:
        view.draw_lines(painter)
        if self._under:
            view.draw_frame(painter, self._under, "fine")
        current = self._current()
        if current:
            view.draw_frame(painter, current, "thread")

    def press(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        ref = view.ref_at(point)
        if ref:
            self._chosen(ref)

    def hover(self, view: SheetView, point: QPointF | None) -> None:
        self._under = view.ref_at(point) if point is not None else None

    def key(self, view: SheetView, event: QKeyEvent) -> bool:
        current, grid = self._current(), view.grid
        step = _STEPS.get(Qt.Key(event.key()))
        if step is None or current is None or grid is None or view.sheet is None or current.sheet != view.sheet.id:
            return False
        column, row = current.column + step[0], current.row + step[1]
        if 0 <= column < grid.columns and 0 <= row < grid.rows:
            self._chosen(current._replace(column=column, row=row))
        return True
