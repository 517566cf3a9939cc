"""The ground, always live."""

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from knitground.app.canvas.chunks import Chunks, detail_for
from knitground.app.canvas.moving import Moving
from knitground.app.canvas.pixel_view import PixelView
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.tools import Pointer, Tool
from knitground.core.ground.knitted import Knitted
from knitground.core.ground.window import Window
from knitground.core.project.derived import knitted_pixels
from knitground.core.render.atlas import Atlas, Reach
from knitground.core.render.compose import grown

_GRID_FROM = 7


class GroundView(PixelView):
    """Draws a ground in chunks, and hands the pointer to the tool in use."""

    pointed = Signal(object)
    cell_clicked = Signal(int, int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName("Ground")
        self._session = session
        self._chunks = Chunks()
        self._soon = QTimer(self, singleShot=True, interval=0)
        self._soon.timeout.connect(self.update)
        self._proof: Knitted | None = None
        self._mark: tuple[int, int] | None = None
        self.tool: Tool | None = None
        self.grid = False
        self._moving = Moving(session.clock)
        session.clock.ticked.connect(self.update)
        session.changed.connect(self._on_change)
        session.opened.connect(self.show_again)

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
        """Shows a proof, or with None the ground again."""
        self._proof = proof
        self._chunks.clear()
        if keep_place:
            self.update()
        else:
            self.show_again()

    def show_again(self) -> None:
        """Draws everything anew and begins at the first place."""
        self._chunks.clear()
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
            ground = knitted.ground
            if self.zoom < 2:
                self.set_zoom(2)
            self.centre_on((column + 0.5) * ground.tile_width, (row + 0.5) * ground.tile_height)

    def content_size(self) -> tuple[int, int]:
        knitted = self.knitted
        if knitted is None:
            return 1, 1
        ground = knitted.ground
        return ground.width * ground.tile_width, ground.height * ground.tile_height

    def place_first(self) -> None:
        if self._proof is not None:
            self.fit(most=3)
        else:
            self.fit(most=3, least=1)

    def pointer_at(self, point: QPointF) -> Pointer:
        """A point of the content in cells."""
        ground = self.knitted.ground if self.knitted else None
        if ground is None:
            return Pointer(-1.0, -1.0)
        return Pointer(point.y() / ground.tile_height, point.x() / ground.tile_width)

    def pressed(self, point: QPointF, event: QMouseEvent) -> None:
        self._mark = None
        pointer = self.pointer_at(point)
        self.cell_clicked.emit(pointer.row, pointer.column)
        if self._works and self.tool is not None:
            erase = event.button() == Qt.MouseButton.RightButton
            self._session.attempt(lambda: self.tool.press(pointer, erase=erase))
            self.update()

    def dragged(self, point: QPointF, event: QMouseEvent) -> None:
        if self._works and self.tool is not None:
            self._session.attempt(lambda: self.tool.drag(self.pointer_at(point)))
            self.update()
        self.pointed.emit(self.pointer_at(point))

    def released(self, point: QPointF, event: QMouseEvent) -> None:
        if self._works and self.tool is not None:
            self._session.attempt(lambda: self.tool.release(self.pointer_at(point)))
            self.update()
        self.pointed.emit(self.pointer_at(point))

    def hovered(self, point: QPointF | None) -> None:
        self.pointed.emit(None if point is None else self.pointer_at(point))
        if self.tool is not None:
            self.tool.hover(None if point is None or not self._works else self.pointer_at(point))
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.tool is not None:
            self.tool.leave()
            self.update()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        self.sharp(painter)
        painter.fillRect(self.rect(), theme().colour("well"))
        knitted = self.knitted
        if knitted is None:
            return
        size = (knitted.ground.height, knitted.ground.width)
        seen = self._seen(knitted)
        painter.fillRect(self._cells_rect(Window(0, 0, *size)), theme().colour("panel"))
        if not seen.is_empty:
            detail = detail_for(self.zoom, knitted.ground.tile_width, knitted.ground.tile_height)
            painter.save()
            painter.setClipRect(self._cells_rect(Window(0, 0, *size)))
            complete = self._chunks.draw(painter, self._cells_rect, seen, size, detail, self._render)
            if detail.step == 1 and complete:
                self._moving.paint(painter, knitted, self._atlas(knitted), seen, detail.level, self._cells_rect)
            painter.restore()
            if not complete:
                self._soon.start()
        self._draw_grid(painter, seen, knitted)
        if self.tool is not None and self._works:
            self.tool.paint(painter, self)
        if self._mark:
            self._draw_mark(painter, *self._mark)

    def cells_rect(self, window: Window) -> QRectF:
        """Where a window of cells lies on the widget."""
        return self._cells_rect(window)

    def seen_cells(self) -> Window:
        """The cells in view."""
        return self._seen(self.knitted)

    @property
    def _works(self) -> bool:
        return self._proof is None and self._session.ground is not None

    def _seen(self, knitted: Knitted) -> Window:
        area, ground = self.visible_content(), knitted.ground
        top, left = int(area.top() // ground.tile_height), int(area.left() // ground.tile_width)
        bottom, right = int(-(-area.bottom() // ground.tile_height)), int(-(-area.right() // ground.tile_width))
        return Window(top, left, bottom - top, right - left).clipped(ground.height, ground.width)

    def _cells_rect(self, window: Window) -> QRectF:
        ground = self.knitted.ground
        return self.rect_on_widget(
            window.left * ground.tile_width, window.top * ground.tile_height,
            window.width * ground.tile_width, window.height * ground.tile_height,
        )  # fmt: skip

    def _render(self, window: Window, level: int, step: int):
        knitted = self.knitted
        return knitted_pixels(knitted, self._atlas(knitted), window, level, step)

    def _atlas(self, knitted: Knitted) -> Atlas:
        return self._session.derived.atlas(knitted.ground.tile_width, knitted.ground.tile_height)

    def _draw_grid(self, painter: QPainter, seen: Window, knitted: Knitted) -> None:
        ground = knitted.ground
        if not self.grid or min(ground.tile_width, ground.tile_height) * self.zoom < _GRID_FROM:
            return
        for colour in (QColor(0, 0, 0, 70), QColor(255, 255, 255, 70)):
            painter.setPen(QPen(colour, 1, Qt.PenStyle.SolidLine if colour.red() == 0 else Qt.PenStyle.DotLine))
            area = self._cells_rect(seen)
            for column in range(seen.left, seen.right + 1):
                x = self.to_widget(column * ground.tile_width, 0).x()
                painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
            for row in range(seen.top, seen.bottom + 1):
                y = self.to_widget(0, row * ground.tile_height).y()
                painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))

    def _draw_mark(self, painter: QPainter, row: int, column: int) -> None:
        rect = self._cells_rect(Window(row, column, 1, 1)).adjusted(-4, -4, 4, 4)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for colour, width in ((QColor(20, 16, 14), 5), (theme().colour("thread"), 3)):
            painter.setPen(QPen(colour, width))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect, 5, 5)

    def _on_change(self, change) -> None:
        self._moving.forget()
        if self._proof is not None:
            return
        if change.defined:
            self._chunks.clear()
            self.update()
            return
        ground = self._session.ground
        if ground is None:
            return
        detail = detail_for(self.zoom, ground.tile_width, ground.tile_height)
        for ground_id, window in self._session.derived.reached:
            if ground_id == ground.id:
                # A tile that reaches beyond its cell is seen in the cells beside it too.
                left, top, right, bottom = self._atlas(self.knitted).reach
                seen = grown(window, Reach(right, bottom, left, top)).clipped(ground.height, ground.width)
                self._chunks.touched(seen, detail, self._render)
        self.update()
