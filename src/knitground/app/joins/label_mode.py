"""Painting labels straight on the tiles of the sheet."""

from collections.abc import Iterable, Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen

from knitground.app.canvas.faces import Face
from knitground.app.canvas.lines import draw_band, draw_chosen
from knitground.app.canvas.sheet_view import SheetMode, SheetView
from knitground.app.joins.marks import draw_marks, draw_threads, place_at, stitch_line
from knitground.app.joins.reading import Reading
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.core.edits.sets import label_tiles, set_labels
from knitground.core.errors import BadRequest
from knitground.core.joins.layouts import arranged
from knitground.core.joins.sets import Labels
from knitground.core.tiles.tile import TileRef


class LabelMode(SheetMode):
    """Drag to label corners or edges, with Shift whole tiles; the right button takes labels away.

    With Ctrl a drag chooses cells. What was asked for elsewhere (a combination of the chart, an arrangement) goes to
    the tile that is clicked next; of what is proposed a click or a drag takes the tiles that it touches.
    """

    smallest_tile = 40

    def __init__(self, session: Session, reading: Reading) -> None:
        self._session = session
        self._reading = reading
        self._under: tuple[TileRef, int] | None = None
        self._erase = False
        self._painting = False
        self._last: QPointF | None = None
        self._band: tuple[QPointF, QPointF] | None = None
        self._takes = False
        """Whether the band takes what is proposed; else it chooses."""

    def paint(self, painter: QPainter, view: SheetView) -> None:
        view.draw_lines(painter)
        join_set = self._session.join_set
        if join_set is None or view.sheet is None:
            return
        proposal = self._reading.proposal
        proposed = proposal.labels if proposal else {}
        known = {ref: row for ref, row in join_set.labels.items() if ref not in proposed}
        draw_marks(painter, self._seen(view, known), join_set.kind, join_set.terrains)
        if proposal is not None:
            draw_marks(painter, self._seen(view, proposed), join_set.kind, self._reading.terrains)
            self._frame(painter, view, proposal.unsure(), "warning", Qt.PenStyle.DashLine)
        self._paint_selection(painter, view)
        if self._session.choices.tile is not None:
            view.draw_frame(painter, self._session.choices.tile)
        if self._session.choices.arrangement is not None:
            self._paint_arrangement(painter, view)
        elif self._under is not None and join_set.terrains and proposal is None:
            self._paint_hover(painter, view)

    def press(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        session, ref = self._session, view.ref_at(point)
        if session.join_set is None:
            session.say("There is no join set yet; make one at the right of the sheet first.", "New join set…")
            return
        left = event.button() == Qt.MouseButton.LeftButton
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._band, self._takes, self._under = (point, point), False, None
        elif left and (wanted := session.choices.wanted) is not None and ref is not None:
            label_tiles(session.document, session.join_set.id, {ref: wanted}, "label")
            session.choose(tile=ref, wanted=None)
        elif left and session.choices.arrangement is not None and ref is not None:
            label_tiles(session.document, session.join_set.id, self._arranged(view, ref), "lay arrangement")
            session.choose(tile=ref, arrangement=None)
        elif self._reading.proposal is not None:
            self._band, self._takes = (point, point), True
        else:
            self._begin(view, point, event)

    def drag(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._band is not None:
            self._band = self._band[0], point
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
        if self._band is not None:
            (self._take if self._takes else self._select)(view, self._band[0], point)
            self._band = None
        if self._painting:
            self._painting = False
            self._session.document.commit()

    def hover(self, view: SheetView, point: QPointF | None) -> None:
        self._under = self._place_at(view, point) if point is not None else None

    def key(self, view: SheetView, event: QKeyEvent) -> bool:
        join_set = self._session.join_set
        if event.key() == Qt.Key.Key_Escape:
            self._reading.drop()
            self._session.choose(wanted=None, arrangement=None, selection=frozenset())
            return True
        if join_set is None or event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier or not event.text():
            return False
        for number, terrain in enumerate(join_set.terrains, start=1):
            if terrain.letter.lower() == event.text().lower():
                self._session.choose(terrain=number)
                return True
        return False

    def _begin(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        """Begins to paint labels."""
        self._erase = event.button() == Qt.MouseButton.RightButton
        self._painting = True
        self._last = point
        self._session.document.begin("unlabel" if self._erase else "label")
        self._label(view, point, event)
        ref = view.ref_at(point)
        if ref:
            self._session.choose(tile=ref)

    def _label(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        join_set, spot = self._session.join_set, self._place_at(view, point)
        if join_set is None or spot is None:
            return
        if not join_set.terrains:
            raise BadRequest(f"“{join_set.name}” has no terrain yet; add one at the right.")
        ref, place = spot
        terrain = 0 if self._erase else min(self._session.choices.terrain, len(join_set.terrains))
        labels = join_set.labels.get(ref, join_set.blank)
        whole = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        places = range(len(labels)) if whole else (place,)
        if any(labels[one] != terrain for one in places):
            set_labels(self._session.document, join_set.id, [(ref, one) for one in places], terrain)

    def _take(self, view: SheetView, start: QPointF, end: QPointF) -> None:
        """Takes what is proposed for the tiles that a band touches."""
        proposal = self._reading.proposal
        some = [ref for ref in view.tiles_in(start, end) if proposal is not None and ref in proposal.labels]
        if some:
            self._reading.take(some)
            self._session.choose(tile=some[0])

    def _select(self, view: SheetView, start: QPointF, end: QPointF) -> None:
        """Chooses the tiles that a band touches; a single one is taken in or let go."""
        cells = frozenset(view.tiles_in(start, end))
        old = self._session.choices.selection
        if not cells:
            self._session.choose(selection=frozenset())
        else:
            self._session.choose(selection=old ^ cells if len(cells) == 1 else old | cells)

    def _arranged(self, view: SheetView, first: TileRef) -> dict[TileRef, Labels]:
        """The labels that the arrangement in hand gives to the block from a tile on, as far as the sheet goes."""
        session = self._session
        join_set, arrangement = known(session.join_set), known(session.choices.arrangement)
        count = len(join_set.terrains)
        inside = min(session.choices.terrain, count)
        others = [number for number in range(1, count + 1) if number != inside]
        if arrangement.terrains > 1:
            numbers, outside = list(range(1, count + 1)), 0
        else:
            numbers, outside = [inside], 0 if 0 in join_set.numbers else (others[0] if others else 0)
        if not count or len(numbers) < arrangement.terrains or (not outside and 0 not in join_set.numbers):
            raise BadRequest(f"“{arrangement.name}” needs more terrains than “{join_set.name}” has; add one.")
        labels = arranged(arrangement, first, numbers, outside)
        usable = session.derived.usable(labels)
        return {ref: row for ref, row in labels.items() if ref in usable}

    def _place_at(self, view: SheetView, point: QPointF) -> tuple[TileRef, int] | None:
        ref, join_set = view.ref_at(point), self._session.join_set
        if ref is None or join_set is None:
            return None
        face = view.face_of(ref, known(view.rect_of(ref)))
        return ref, place_at(face, join_set.kind, view.to_widget(point.x(), point.y()))

    def _seen(self, view: SheetView, labels: Mapping[TileRef, Labels]) -> list[tuple[Face, Labels]]:
        """The faces of the tiles of this sheet that are in view, with their labels."""
        return [(face, labels[ref]) for ref, face in view.faces_of(labels).items()]

    def _frame(
        self, painter: QPainter, view: SheetView, refs: Iterable[TileRef], colour: str, style: Qt.PenStyle
    ) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme().colour(colour), 3, style))
        painter.drawRects([rect.adjusted(1, 1, -1, -1) for rect in view.rects_of(refs, in_view=True).values()])

    def _paint_selection(self, painter: QPainter, view: SheetView) -> None:
        chosen = list(view.rects_of(self._session.choices.selection, in_view=True).values())
        draw_chosen(painter, chosen)
        if self._band is not None:
            draw_band(painter, QRectF(*(view.to_widget(spot.x(), spot.y()) for spot in self._band)).normalized())

    def _paint_arrangement(self, painter: QPainter, view: SheetView) -> None:
        """What a click would lay."""
        join_set = known(self._session.join_set)
        if self._under is None:
            return
        try:
            labels = self._arranged(view, self._under[0])
        except BadRequest:
            return  # a click says why
        painter.setPen(QPen(theme().colour("thread"), 2))
        painter.setBrush(theme().colour("panel", 120))
        painter.drawRects(list(view.rects_of(labels, in_view=True).values()))
        draw_marks(painter, self._seen(view, labels), join_set.kind, join_set.terrains)

    def _paint_hover(self, painter: QPainter, view: SheetView) -> None:
        """The stitch that a click would make, lighter than those that are."""
        join_set = known(self._session.join_set)
        ref, place = known(self._under)
        rect = view.rect_of(ref)
        if rect is None:
            return  # another sheet shows, and the pointer has not moved since
        face = view.face_of(ref, rect)
        if self._session.choices.wanted is not None:
            view.draw_frame(painter, ref, "thread")
            draw_marks(painter, [(face, self._session.choices.wanted)], join_set.kind, join_set.terrains)
            return
        terrain = join_set.terrains[min(self._session.choices.terrain, len(join_set.terrains)) - 1]
        painter.save()
        painter.setOpacity(0.75)
        draw_threads(
            painter,
            {QColor(terrain.colour).lighter(115).name(): [stitch_line(face, join_set.kind, place)]},
            face.size,
        )
        painter.restore()
