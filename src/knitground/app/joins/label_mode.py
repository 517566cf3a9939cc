"""Painting labels straight on the tiles of the sheet."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter

from knitground.app.canvas.sheet_view import SheetMode, SheetView
from knitground.app.joins.marks import draw_marks, draw_threads, place_at, stitch_line
from knitground.app.session import Session
from knitground.core.errors import BadRequest
from knitground.core.project.operations import label_tiles, set_labels
from knitground.core.tiles.tile import TileRef


class LabelMode(SheetMode):
    """Drag to label corners or edges, with Shift whole tiles; the right button takes labels away."""

    smallest_tile = 40

    def __init__(self, session: Session) -> None:
        self._session = session
        self._under: tuple[TileRef, int] | None = None
        self._erase = False
        self._painting = False
        self._last: QPointF | None = None

    def paint(self, painter: QPainter, view: SheetView) -> None:
        view.draw_lines(painter)
        join_set, sheet, cut, grid = self._session.join_set, view.sheet, view.cut, view.grid
        if join_set is None or sheet is None or cut is None or grid is None:
            return
        seen = view.rect().toRectF()
        mine = [
            (view.tile_on_widget(ref.column, ref.row), labels)
            for ref, labels in join_set.labels.items()
            if (ref.sheet, ref.cut) == (sheet.id, cut.id) and ref.column < grid.columns and ref.row < grid.rows
        ]
        draw_marks(painter, [tile for tile in mine if tile[0].intersects(seen)], join_set.kind, join_set.terrains)
        if self._session.tile is not None:
            view.draw_frame(painter, self._session.tile)
        if self._under is not None and join_set.terrains:
            self._paint_hover(painter, view)

    def press(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._session.join_set is None:
            raise BadRequest("There is no join set yet; make one at the right of the sheet first.")
        if self._session.wanted is not None and event.button() == Qt.MouseButton.LeftButton:
            self._give_wanted(view, point)
            return
        self._erase = event.button() == Qt.MouseButton.RightButton
        self._painting = True
        self._last = point
        self._session.document.begin("unlabel" if self._erase else "label")
        self._label(view, point, event)
        ref = view.ref_at(point)
        if ref:
            self._session.choose(tile=ref)

    def drag(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if not self._painting or self._last is None:
            return
        way = point - self._last
        # A quick drag reports few points: those between are labelled as well.
        steps = max(1, int(max(abs(way.x()), abs(way.y())) * 4 / max(1, view.cut.tile_width if view.cut else 1)))
        for step in range(1, steps + 1):
            self._label(view, self._last + way * (step / steps), event)
        self._last = point
        self.hover(view, point)

    def release(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._painting:
            self._painting = False
            self._session.document.commit()

    def hover(self, view: SheetView, point: QPointF | None) -> None:
        self._under = self._place_at(view, point) if point is not None else None

    def key(self, view: SheetView, event: QKeyEvent) -> bool:
        join_set = self._session.join_set
        if event.key() == Qt.Key.Key_Escape and self._session.wanted is not None:
            self._session.choose(wanted=None)
            return True
        if join_set is None or event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier or not event.text():
            return False
        for number, terrain in enumerate(join_set.terrains, start=1):
            if terrain.letter.lower() == event.text().lower():
                self._session.choose(terrain=number)
                return True
        return False

    def _give_wanted(self, view: SheetView, point: QPointF) -> None:
        """Labels a tile with the whole combination that was asked for in the chart."""
        ref, join_set = view.ref_at(point), self._session.join_set
        if ref is not None:
            label_tiles(self._session.document, join_set.id, {ref: self._session.wanted}, "label")
            self._session.choose(tile=ref, wanted=None)

    def _label(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        join_set, spot = self._session.join_set, self._place_at(view, point)
        if join_set is None or spot is None:
            return
        if not join_set.terrains:
            raise BadRequest(f"“{join_set.name}” has no terrain yet; add one at the right.")
        ref, place = spot
        terrain = 0 if self._erase else min(self._session.terrain, len(join_set.terrains))
        labels = join_set.labels.get(ref, join_set.blank)
        whole = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        places = range(len(labels)) if whole else (place,)
        if any(labels[one] != terrain for one in places):
            set_labels(self._session.document, join_set.id, [(ref, one) for one in places], terrain)

    def _place_at(self, view: SheetView, point: QPointF) -> tuple[TileRef, int] | None:
        ref, join_set = view.ref_at(point), self._session.join_set
        if ref is None or join_set is None:
            return None
        rect = view.tile_on_widget(ref.column, ref.row)
        return ref, place_at(rect, join_set.kind, view.to_widget(point.x(), point.y()))

    def _paint_hover(self, painter: QPainter, view: SheetView) -> None:
        """The stitch that a click would make, lighter than those that are."""
        join_set = self._session.join_set
        ref, place = self._under
        rect = view.tile_on_widget(ref.column, ref.row)
        if self._session.wanted is not None:
            view.draw_frame(painter, ref, "thread")
            draw_marks(painter, [(rect, self._session.wanted)], join_set.kind, join_set.terrains)
            return
        terrain = join_set.terrains[min(self._session.terrain, len(join_set.terrains)) - 1]
        painter.save()
        painter.setOpacity(0.75)
        draw_threads(
            painter,
            {QColor(terrain.colour).lighter(115).name(): [stitch_line(rect, join_set.kind, place)]},
            rect.width(),
        )
        painter.restore()
