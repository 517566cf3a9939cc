"""Choosing tiles on the sheet, one or many."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPolygonF

from knitground.app.canvas.lines import draw_band, draw_chosen, draw_line_twice
from knitground.app.canvas.pick_mode import beside_in
from knitground.app.canvas.sheet_view import SheetMode, SheetView
from knitground.app.session import Session
from knitground.app.sheet.standing_cell import blocked_whole
from knitground.app.theme.colours import theme
from knitground.core.tiles.tile import TileRef

_STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
_CONTROL, _SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class SelectMode(SheetMode):
    """A click chooses a tile, Ctrl takes one more in or lets it go, Shift a block, a drag all that it touches."""

    smallest_tile = 24

    def __init__(self, session: Session) -> None:
        self._session = session
        self._under: TileRef | None = None
        self._band: tuple[QPointF, QPointF] | None = None
        self._before: frozenset[TileRef] = frozenset()
        self.shows_shapes = False
        """Whether what blocks is drawn over every tile."""

    def paint(self, painter: QPainter, view: SheetView) -> None:
        view.draw_lines(painter)
        draw_chosen(painter, view.chosen_in_view())
        if self.shows_shapes:
            self._paint_shapes(painter, view)
        if self._under:
            view.draw_frame(painter, self._under, "fine")
        if self._session.choices.tile is not None:
            view.draw_frame(painter, self._session.choices.tile, "thread")
        if self._band is not None:
            draw_band(painter, QRectF(*(view.to_widget(spot.x(), spot.y()) for spot in self._band)).normalized())

    def _paint_shapes(self, painter: QPainter, view: SheetView) -> None:
        """What blocks of the tiles in view, so that one that was forgotten is seen."""
        blocking = {ref: notes.collision for ref, notes in self._session.document.project.tiles.items()
                    if notes.collision != "none"}  # fmt: skip
        seen = view.rects_of(blocking, in_view=True)
        whole = blocked_whole(self._session, [ref for ref in seen if isinstance(blocking[ref], str)])
        outlines = []
        for ref, rect in seen.items():
            collision = blocking[ref]
            for shape in (whole[ref],) if isinstance(collision, str) else collision:
                outlines.append(QPolygonF([rect.topLeft() + QPointF(*point) * view.zoom for point in shape]))

        def draw() -> None:
            for outline in outlines:
                painter.drawPolygon(outline)

        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().colour("thread", 80))
        draw()
        draw_line_twice(painter, theme().colour("thread"), draw)

    def press(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        session, ref = self._session, view.ref_at(point)
        more = bool(event.modifiers() & _CONTROL)
        self._before = session.choices.selection if more else frozenset()
        if event.modifiers() & _SHIFT and ref and session.choices.tile:
            session.choose(selection=self._before | frozenset(self._block(view, session.choices.tile, ref)))
            return
        self._band = point, point
        if ref is None:
            if not more:
                session.choose(selection=frozenset())
        elif more and ref in session.choices.selection:
            self._before = session.choices.selection - {ref}
            session.choose(selection=self._before)
        else:
            session.choose(tile=ref, selection=self._before | {ref}, lays_mix=False)

    def drag(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._band is None:
            return
        self._band = self._band[0], point
        touched = frozenset(view.tiles_in(*self._band))
        if self._before | touched != self._session.choices.selection and touched:
            tile = self._session.choices.tile if self._session.choices.tile in touched else min(touched)
            self._session.choose(selection=self._before | touched, tile=tile, lays_mix=False)

    def release(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        self._band = None

    def hover(self, view: SheetView, point: QPointF | None) -> None:
        self._under = view.ref_at(point) if point is not None else None
        view.setCursor(Qt.CursorShape.ArrowCursor)

    def key(self, view: SheetView, event: QKeyEvent) -> bool:
        session, step = self._session, _STEPS.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape:
            session.choose(selection=frozenset())
        elif event.key() == Qt.Key.Key_A and event.modifiers() & _CONTROL and view.sheet:
            session.choose(selection=frozenset(view.tiles()))
        elif (
            step is not None
            and session.choices.tile is not None
            and view.sheet
            and session.choices.tile.sheet == view.sheet.id
        ):
            beside = beside_in(view, session.choices.tile, step)
            if beside is not None:
                kept = session.choices.selection if event.modifiers() & _SHIFT else frozenset()
                session.choose(tile=beside, selection=kept | {beside}, lays_mix=False)
        else:
            return False
        return True

    def _block(self, view: SheetView, start: TileRef, end: TileRef) -> list[TileRef]:
        """The tiles between two of one cut, as a block; of different cuts only the two."""
        if (start.sheet, start.cut) != (end.sheet, end.cut):
            return [start, end]
        columns, rows = sorted((start.column, end.column)), sorted((start.row, end.row))
        return [
            ref
            for ref in view.tiles()
            if ref.cut == start.cut and columns[0] <= ref.column <= columns[1] and rows[0] <= ref.row <= rows[1]
        ]
