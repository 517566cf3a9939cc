"""A tile, magnified, with its collision shapes to draw and drag."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from knitground.app.guard import guarded
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_backdrop, image_of
from knitground.core.render.pixels import Pixels
from knitground.core.tiles.notes import Collision, Point
from knitground.core.tiles.outline import snapped

_GRAB = 9
_ROOM = 10
_STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class ShapeView(QWidget):
    """Click for the points of a shape, click its first point to close it; drag points; the right button takes one."""

    def __init__(self, session: Session, put: Callable[[Collision], None]) -> None:
        super().__init__()
        self._session, self._put = session, put
        self.setMinimumSize(172, 172)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setToolTip(
            "Click points, click the first again to close; drag a point; right button removes one. "
            "By keys: arrows, Space for a point, Return to close"
        )
        self.setAccessibleName("Collision shape")
        self.step = 1.0
        self.collision: Collision = "none"
        self.proposed: tuple[tuple[Point, ...], ...] = ()
        self._colour: QColor = theme().colour("thread")
        self._others: Sequence[tuple[str, Collision]] = ()
        self._pixels: Pixels | None = None
        self._whole: list[Point] = []
        self._begun: list[Point] = []
        self._held: tuple[int, int] | None = None
        self._pointer: Point | None = None

    def show_tile(
        self,
        pixels: Pixels | None,
        whole: Sequence[tuple[float, float]],
        collision: Collision,
        colour: str,
        others: Sequence[tuple[str, Collision]] = (),
    ) -> None:
        """Shows a tile with its shape in a colour, and the outlines of others in theirs; `whole` is all of it."""
        self._whole = [Point(*corner) for corner in whole]
        self._colour, self._others = QColor(colour), others
        if pixels is not self._pixels or collision != self.collision:
            self._begun, self._held, self.proposed = [], None, ()
        self._pixels, self.collision = pixels, collision
        self.update()

    @property
    def size_in_pixels(self) -> tuple[int, int]:
        """Width and height of the tile."""
        return (self._pixels.shape[1], self._pixels.shape[0]) if self._pixels is not None else (1, 1)

    def to_widget(self, point: Point) -> QPointF:
        """Where a point of the tile lies on the widget."""
        rect, (width, height) = self._room(), self.size_in_pixels
        return QPointF(rect.left() + point.x * rect.width() / width, rect.top() + point.y * rect.height() / height)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme().colour("well"))
        if self._pixels is None:
            return
        rect = self._room()
        draw_backdrop(painter, rect, self._session.choices.backdrop)
        painter.drawImage(rect, image_of(self._pixels))
        self._paint_raster(painter, rect)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for colour, other in self._others:
            painter.setPen(QPen(QColor(colour), 1.5, Qt.PenStyle.DashLine))
            for shape in self._outlines(other):
                painter.drawPolygon(QPolygonF([self.to_widget(point) for point in shape]))
        for shape in self._outlines(self.collision):
            self._paint_shape(painter, shape, self._colour, knots=self.collision != "whole")
        for proposed in self.proposed:
            self._paint_shape(painter, list(proposed), theme().colour("focus"), knots=True)
        if self._begun:
            self._paint_begun(painter)
        elif self._pointer is not None and self.hasFocus():
            painter.setPen(QPen(theme().colour("thread"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self.to_widget(self._pointer), 4, 4)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self._pixels is None:
            return
        spot, near = self._snapped(event.position()), self._point_at(event.position())
        if event.button() == Qt.MouseButton.RightButton:
            if self._begun:
                self._begun.pop()
            elif near is not None:
                self._take_out(*near)
        elif near is not None and not self._begun:
            self._held = near
        elif self._begun and (self.to_widget(self._begun[0]) - event.position()).manhattanLength() <= _GRAB:
            self._close()
        else:
            self._add(spot)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pointer = self._snapped(event.position())
        if self._held is not None:
            # Only drawn until the button goes up, so that an outline may cross itself on the way.
            self.collision = self._with_moved(*self._held, self._pointer)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held, moved = None, self.collision
            self._put(moved)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._begun, self.proposed = [], ()
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and len(self._begun) > 2:
            self._close()
        elif event.key() in _STEPS and self._pixels is not None:
            x, y = self._pointer or Point(0, 0)
            across, along = _STEPS[Qt.Key(event.key())]
            self._pointer = snapped(x + across * self.step, y + along * self.step, self.step, self.size_in_pixels)
            self.update()
        elif event.key() == Qt.Key.Key_Space and self._pointer is not None:
            self._add(self._pointer)
        elif event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete) and self._begun:
            self._begun.pop()
            self.update()
        else:
            super().keyPressEvent(event)

    def _add(self, spot: Point) -> None:
        """One more point of the shape that is drawn; its first point closes it."""
        if self._begun and spot == self._begun[0]:
            self._close()
        elif not self._begun or self._begun[-1] != spot:
            self._begun.append(spot)
        self.update()

    def _close(self) -> None:
        shapes = () if isinstance(self.collision, str) else self.collision
        begun, self._begun = tuple(self._begun), []
        self._put((*shapes, begun))
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._pointer = None
        self.update()

    def _room(self) -> QRectF:
        """The tile in whole multiples of its pixels, in the middle."""
        width, height = self.size_in_pixels
        scale = min((self.width() - 2 * _ROOM) / width, (self.height() - 2 * _ROOM) / height)
        scale = int(scale) if scale >= 1 else scale
        rect = QRectF(0, 0, width * scale, height * scale)
        rect.moveCenter(QRectF(self.rect()).center())
        return QRectF(round(rect.left()), round(rect.top()), rect.width(), rect.height())

    def _snapped(self, place: QPointF) -> Point:
        rect, (width, height) = self._room(), self.size_in_pixels
        x, y = (place.x() - rect.left()) * width / rect.width(), (place.y() - rect.top()) * height / rect.height()
        return snapped(x, y, self.step, (width, height))

    def _point_at(self, place: QPointF) -> tuple[int, int] | None:
        if isinstance(self.collision, str):
            return None
        near = [
            ((self.to_widget(point) - place).manhattanLength(), (number, index))
            for number, shape in enumerate(self.collision)
            for index, point in enumerate(shape)
        ]
        distance, found = min(near, default=(_GRAB + 1, None))
        return found if distance <= _GRAB else None

    def _shapes(self) -> tuple[tuple[Point, ...], ...]:
        """The shapes that are drawn; none where nothing or all of the tile blocks."""
        return () if isinstance(self.collision, str) else self.collision

    def _with_moved(self, number: int, index: int, spot: Point) -> Collision:
        shape: list[Point] = list(self._shapes()[number])
        shape[index] = spot
        return tuple(tuple(shape) if place == number else one for place, one in enumerate(self._shapes()))

    def _take_out(self, number: int, index: int) -> None:
        """Takes a point out; a triangle goes as a whole."""
        shape = [point for place, point in enumerate(self._shapes()[number]) if place != index]
        others = [one for place, one in enumerate(self._shapes()) if place != number]
        shapes = [*others[:number], tuple(shape), *others[number:]] if len(shape) > 2 else others
        self._put(tuple(shapes) or "none")

    def _paint_raster(self, painter: QPainter, rect: QRectF) -> None:
        scale = rect.width() / self.size_in_pixels[0]
        if scale < 7:
            return
        painter.setPen(QPen(theme().colour("ink", 40), 1))
        for column in range(1, self.size_in_pixels[0]):
            x = rect.left() + column * scale
            painter.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
        for row in range(1, self.size_in_pixels[1]):
            y = rect.top() + row * scale
            painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y))

    def _outlines(self, collision: Collision) -> list[list[Point]]:
        """The corners of all that a shape covers."""
        if isinstance(collision, str):
            return [self._whole] if collision == "whole" else []
        return [list(shape) for shape in collision]

    def _paint_shape(self, painter: QPainter, shape: list[Point], colour: QColor, *, knots: bool) -> None:
        places = [self.to_widget(point) for point in shape]
        veil = QColor(colour)
        veil.setAlpha(70)
        painter.setBrush(veil)
        for line, width in ((theme().colour("panel"), 4), (colour, 2)):
            painter.setPen(QPen(line, width))
            painter.drawPolygon(QPolygonF(places))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setBrush(theme().colour("panel"))
        painter.setPen(QPen(colour, 1.5))
        for place in places if knots else []:
            painter.drawEllipse(place, 3.5, 3.5)

    def _paint_begun(self, painter: QPainter) -> None:
        places = [self.to_widget(point) for point in self._begun]
        if self._pointer is not None:
            places.append(self.to_widget(self._pointer))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line, width in (("panel", 4), ("thread", 2)):
            painter.setPen(QPen(theme().colour(line), width))
            painter.drawPolyline(QPolygonF(places))
        painter.setBrush(theme().colour("thread"))
        painter.drawEllipse(places[0], 5, 5)
