"""The ground, always live."""

from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QApplication

from knitground.app.canvas.backdrop import Backdrop
from knitground.app.canvas.beyond import Beyond
from knitground.app.canvas.chunks import BARE_SECONDS, Chunks, detail_for
from knitground.app.canvas.flat_view import FlatView
from knitground.app.canvas.glows import Glows
from knitground.app.canvas.ground_marks import draw_axes, draw_grid, draw_mark, draw_measure, draw_rulers
from knitground.app.canvas.moving import Moving
from knitground.app.canvas.overview import Overview
from knitground.app.canvas.pixel_view import Place
from knitground.app.canvas.strips import Strips
from knitground.app.canvas.thing_marks import draw_shapes
from knitground.app.guard import guarded
from knitground.app.jobs import are_running, put_off_jobs
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.tools import Tool
from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.ground.bare import is_bare
from knitground.core.ground.knitted import Knitted
from knitground.core.ground.stepping import place_beside
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import MANY_CELLS
from knitground.core.project.document import Change, Document
from knitground.core.render.compositor import render
from knitground.core.render.scale import Scale
from knitground.core.render.scrolled import scrolls

_MANY, _FAR, _WAIT_MS = 64, 5, 60


class _Left(NamedTuple):
    """A ground as it was looked at when a proof took its place: where, and what is drawn of it already."""

    document: Document
    drawn: tuple[str, Projection]
    place: Place
    chunks: Chunks


class GroundView(FlatView):
    """Draws a ground in chunks, and hands the pointer to the tool in use."""

    pointed = Signal(object)
    cell_clicked = Signal(float, float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName("Ground")
        self._session = session
        self._chunks = Chunks(BARE_SECONDS)
        self._soon = QTimer(self, singleShot=True, interval=0)
        self._soon.timeout.connect(self.update)
        self._ahead = QTimer(self, singleShot=True)
        self._ahead.timeout.connect(self._draw_ahead)
        self._seen_before = PixelRect(0, 0, 0, 0)
        self.draws_on = True
        """Whether something in view is still to be drawn."""
        self._proof: Knitted | None = None
        self._left: _Left | None = None
        self._mark: tuple[int, int] | None = None
        self._backdrop = Backdrop(self)
        self.tool: Tool | None = None
        self._drawn: tuple[str, Projection] | None = None
        self.grid = self.rulers = self.repeats = False
        self.overlays: list[Callable[[QPainter, GroundView], None]] = []
        """What other parts of the window draw over the ground."""
        self.overview = Overview(session, self)
        self._moving, self._beyond = Moving(session.clock), Beyond(session, self)
        self._strips, self._glows = Strips(session, self), Glows(session.clock, self._moving.moves_in)
        self.camera: Callable[[], PixelRect | None] = lambda: None
        """What of the ground a game shows, while somebody walks."""
        session.clock.ticked.connect(self.update)
        session.changed.connect(self._on_change)
        session.opened.connect(self.show_again)
        session.on_choice(self.show_again, "ground_id")

    @property
    def knitted(self) -> Knitted | None:
        """What is shown: the proof, or the ground that is chosen."""
        if self._proof is not None:
            return self._proof
        ground = self._session.ground
        return self._session.derived.knitted(ground.id) if ground else None

    @property
    def shows_proof(self) -> bool:
        """Whether the proof is shown in place of the ground."""
        return self._proof is not None

    def set_proof(self, proof: Knitted | None, *, keep_place: bool = False) -> None:
        """Shows a proof, or with None the ground again, where it was left."""
        ground = self._session.ground
        if proof is not None and self._proof is None and ground is not None:
            self._left = _Left(self._session.document, (ground.id, ground.projection), self.place, self._chunks)
        keep_place = keep_place and _size_of(proof) == _size_of(self._proof)
        self._proof, self._chunks = proof, Chunks(BARE_SECONDS)
        self._moving.forget()
        self._glows.forget()
        if keep_place:
            self.update()
        else:
            self.show_again()
        left = self._left
        if proof is None and left is not None and ground is not None:
            self._left = None
            if (left.document, left.drawn[0]) == (self._session.document, ground.id):
                self.return_to(left.place)
                if left.drawn == self._drawn:
                    self._chunks = left.chunks

    def show_again(self) -> None:
        """Draws everything anew and begins at the first place."""
        ground = self._session.ground
        self._drawn = None if ground is None else (ground.id, ground.projection)
        self._chunks.clear()
        self._beyond.forget()
        self._moving.forget()
        self._glows.forget()
        self._mark = None
        self.replace_content()

    def set_tool(self, tool: Tool) -> None:
        """Exchanges the tool; what the last one had begun is dropped."""
        if self.tool is not None:
            self.tool.leave()
        self.tool = tool
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.update()

    def mark_cell(self, row: int, column: int) -> None:
        """Goes to a cell and puts a ring round it until the next click."""
        self._mark = (row, column)
        knitted = self.knitted
        if knitted:
            if self.zoom < 2:
                self.set_zoom(2)
            box = knitted.ground.projection.box(row, column)
            self.centre_on(box.x + box.width / 2, box.y + box.height / 2)

    def place_first(self) -> None:
        if self._proof is not None:
            self.fit(most=3)
        else:
            self.fit(most=3, least=1)

    def pressed(self, point: QPointF, event: QMouseEvent) -> None:
        self._mark = None
        spot, tool = self.spot_at(point), self.tool
        self.cell_clicked.emit(*spot)
        if self._works and tool is not None:
            erase = event.button() == Qt.MouseButton.RightButton
            self._session.attempt(lambda: tool.press(spot, erase=erase))
            tool.warn_of_hidden()
            self.update()

    def dragged(self, point: QPointF, event: QMouseEvent) -> None:
        spot, tool = self.spot_at(point), self.tool
        if self._works and tool is not None:
            self._session.attempt(lambda: tool.drag(spot))
            self.update()
        self.pointed.emit(spot)

    def released(self, point: QPointF, event: QMouseEvent) -> None:
        spot, tool = self.spot_at(point), self.tool
        if self._works and tool is not None:
            self._session.attempt(lambda: tool.release(spot))
            self.update()
        self.pointed.emit(spot)

    def hovered(self, point: QPointF | None) -> None:
        spot = None if point is None else self.spot_at(point)
        self.pointed.emit(spot)
        if self.tool is not None:
            self.tool.hover(spot if self._works else None)
            self.update()

    def beside(self, point: QPointF, step: tuple[int, int], *, far: bool) -> QPointF:
        if self.knitted is None:
            return point
        ground, steps = self.knitted.ground, _FAR if far else 1
        points = self.tool is not None and self.tool.on_points
        place = place_beside(ground, self.spot_at(point), (step[0] * steps, step[1] * steps), points=points)
        return self.content_at(*place)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.overview.place()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.tool is not None and self._works and self.tool.key_pressed(event):
            self.update()
        elif event.key() == Qt.Key.Key_Escape and self.tool is not None:
            self.tool.leave()
            self.update()
        else:
            super().keyPressEvent(event)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        self.sharp(painter)
        painter.fillRect(self.rect(), theme().colour("well"))
        knitted = self.knitted
        if knitted is None:
            return
        self._backdrop.draw(painter, QRectF(self.rect()))
        beyond = self._proof is not None or self._beyond.draw_beside(painter, knitted.ground)
        if self.repeats:
            beyond = self._beyond.draw_again(painter, knitted, self._chunks) and beyond
        seen, projection = self.seen_pixels(), knitted.ground.projection
        if not seen.is_empty:
            detail = detail_for(self.zoom, projection)
            camera = self.camera() if scrolls(knitted.ground.shown()) else None
            if camera is None:
                complete = self._chunks.draw(painter, self.on_widget, seen, projection.size, detail, self.rendered)
            else:
                complete = self._strips.draw(painter, seen, detail, camera)
            if detail.scale.cells == 1 and (complete or (camera is None and self._chunks.covered)):
                atlas = self._session.derived.atlas(knitted.ground)
                lights = self._session.derived.lights(knitted.ground)
                self._moving.paint(
                    painter, knitted, atlas, seen, detail, self.on_widget, self._backdrop.draw, lights, camera
                )
                if camera is None:
                    self._glows.paint(
                        painter, knitted, atlas, lights, seen, detail, self.on_widget, self._backdrop.draw
                    )
            self.draws_on = not (complete and beyond)
            if self.draws_on:
                put_off_jobs()  # all of it is waited for
                self._soon.start()
            elif seen != self._seen_before:
                # Only where the view moved: what a stroke changes is drawn with it.
                self._seen_before = seen
                self._ahead.start(0)
        if self.grid or is_bare(knitted):
            # The cells of a new ground are all there is to see of it.
            draw_grid(painter, self, knitted.ground, self._backdrop.border())
        draw_shapes(painter, self, knitted.ground.shown(), self._session.document.project.thing_kinds)
        for overlay in self.overlays if self._works else ():
            overlay(painter, self)
        if self.tool is not None and self._works:
            with self.moved_with(self.worked_on):
                self._draw_hand(painter, self.tool)
        if self._mark:
            with self.moved_with(self.worked_on):
                draw_mark(painter, self, *self._mark)
        if self.rulers:
            draw_rulers(painter, self, knitted.ground)

    def _draw_hand(self, painter: QPainter, tool: Tool) -> None:
        symmetry = self._session.symmetry
        if symmetry is not None and "symmetry" in tool.options:
            draw_axes(painter, self, symmetry)
        tool.paint(painter, self)
        if tool.measured is not None:
            draw_measure(painter, self, *tool.measured)

    def _draw_ahead(self) -> None:
        """Draws what lies just beyond the view while nothing else is to be done, so that panning finds it ready."""
        knitted = self.knitted
        if knitted is None or not self.isVisible() or QApplication.mouseButtons() != Qt.MouseButton.NoButton:
            return
        if are_running():
            # Both would take twice as long together, and this can wait.
            self._ahead.start(_WAIT_MS)
            return
        projection = knitted.ground.projection
        detail = detail_for(self.zoom, projection)
        if self._chunks.make_ahead(self.seen_pixels(), projection.size, detail, self.rendered):
            self._ahead.start(0)

    @property
    def worked_on(self) -> Layer | None:
        return self._session.layer if self._works and self.tool is not None else None

    @property
    def _works(self) -> bool:
        return self._proof is None and self._session.ground is not None

    def rendered(self, area: PixelRect, scale: Scale) -> NDArray[np.uint8]:
        """Pixels of a part of what is shown, (height, width, 4) uint8 with premultiplied alpha.

        Parameters
        ----------
        area : PixelRect
            In pixels of the scale.
        scale : Scale
        """
        knitted = self.knitted
        assert knitted is not None  # chunks are drawn of a ground alone
        return render(self._session.derived.scene(knitted), area, scale)

    def _draw_anew(self) -> None:
        """Draws everything again: at once from nothing where cells lie elsewhere now, else over what is shown."""
        before, ground = self._drawn, self._session.ground
        self._drawn = None if ground is None else (ground.id, ground.projection)
        if self._drawn is not None and self._drawn == before:
            self._chunks.renew()
        else:
            self._chunks.clear()
        self.update()

    def _on_change(self, change: Change) -> None:
        self._moving.forget()
        self._glows.forget()
        self._strips.forget()
        self._beyond.changed(change)
        if self._proof is not None:
            if self._left is not None:
                self._left.chunks.renew()
            return
        if change.defined:
            self._draw_anew()
            return
        ground = self._session.ground
        if ground is None:
            return
        detail = detail_for(self.zoom, ground.projection)
        far = self._session.derived.atlas(ground).overhang
        reached = self._session.derived.reached
        if len(reached) > _MANY or sum(one.cells.height * one.cells.width for one in reached) > MANY_CELLS:
            # What changes far and wide is drawn anew as it comes into view.
            self._chunks.renew()
            self.update()
            return
        for ground_id, layer_id, cells in reached:
            if ground_id == ground.id and not cells.is_empty:
                layer: Any = ground.layer(layer_id)
                area = ground.projection.bounds(cells).grown(*far)
                area = area._replace(x=area.x + layer.offset_x, y=area.y + layer.offset_y)
                self._chunks.touched(area, detail, self.rendered)
        for ground_id, area in self._session.derived.relit:
            if ground_id == ground.id:
                self._chunks.touched(area, detail, self.rendered)
        self.update()


def _size_of(knitted: Knitted | None) -> tuple[int, int] | None:
    """Columns and rows of what is shown."""
    return None if knitted is None else (knitted.ground.width, knitted.ground.height)
