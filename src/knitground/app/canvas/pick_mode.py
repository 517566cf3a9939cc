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
        current, step = self._current(), _STEPS.get(Qt.Key(event.key()))
        if step is None or current is None or view.sheet is None or current.sheet != view.sheet.id:
            return False
        beside = beside_in(view, current, step)
        if beside is not None:
            self._chosen(beside)
        return True


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
