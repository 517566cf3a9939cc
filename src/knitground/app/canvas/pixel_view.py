"""A view of something made of pixels: pan, zoom to the pointer, sharp at every size.

Zooming in goes by whole numbers and zooming out by halves, so that a pixel of the art is always the same number of
pixels on the screen, and a reduced picture fits the screen's pixels exactly.
"""

from typing import ClassVar

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractSpinBox, QApplication, QLineEdit, QSizePolicy, QWidget

ZOOMS = (1 / 256, 1 / 128, 1 / 64, 1 / 32, 1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 3, 4, 5, 6, 8, 10, 12, 16, 20, 24, 32)
_LARGE = 2
_ABOVE, _STRIP = 22, 160
Place = tuple[float, QPointF]
"""A zoom, and the point of the content in the middle."""
_NEAR = 8
_STEP = 64
_ROOM = 12


class PixelView(QWidget):
    """Base of the views. Subclasses say how large their content is, paint it, and handle the left button."""

    zoomed = Signal(float)
    moved = Signal()
    keeps_middle: ClassVar[bool] = True
    """Whether it is the middle that stays where it is when there is more room or less, or else the upper left."""

    def __init__(self) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(120, 120)
        self.zoom: float = 1
        self.origin = QPointF(0, 0)
        self._pan_from: QPointF | None = None
        self._pans = self._works_with = Qt.MouseButton.NoButton
        self._over: QPointF | None = None
        self._space = False
        self._placed = False
        self._moved_by_hand = False

    def content_size(self) -> tuple[int, int]:
        """Width and height of the content in its own pixels."""
        raise NotImplementedError

    def to_content(self, point: QPointF) -> QPointF:
        """From the widget's coordinates to the content's."""
        return (point - self.origin) / self.zoom

    def to_widget(self, x: float, y: float) -> QPointF:
        """From the content's coordinates to the widget's."""
        return QPointF(x * self.zoom + self.origin.x(), y * self.zoom + self.origin.y())

    def rect_on_widget(self, x: float, y: float, width: float, height: float) -> QRectF:
        """A rectangle of the content on the widget."""
        return QRectF(self.to_widget(x, y), self.to_widget(x + width, y + height))

    def set_zoom(self, zoom: float, about: QPointF | None = None) -> None:
        """Zooms; the content under a point of the widget (else its middle) stays where it is."""
        about = about or QPointF(self.width() / 2, self.height() / 2)
        self._moved_by_hand = True
        held = self.to_content(about)
        self.zoom = zoom
        self._move_to(about - held * zoom)
        self.zoomed.emit(zoom)

    def zoom_by(self, steps: int, about: QPointF | None = None) -> None:
        """Zooms by steps of the scale."""
        nearest = min(range(len(ZOOMS)), key=lambda i: abs(ZOOMS[i] - self.zoom))
        self.set_zoom(ZOOMS[min(max(nearest + steps, 0), len(ZOOMS) - 1)], about)
        if steps < 0:
            # Whoever steps back wants to see more of it, and not what is bare beyond one side.
            width, height = self.content_size()
            left = _inside(self.origin.x(), width * self.zoom, self.width())
            self._move_to(QPointF(left, _inside(self.origin.y(), height * self.zoom, self.height())))

    def fit(self, *, most: float = 32, least: float = 1 / 256) -> None:
        """Zooms so that all of the content is seen, and puts it in the middle."""
        width, height = self.content_size()
        room = min((self.width() - 4) / max(1, width), (self.height() - 4) / max(1, height))
        fitting = [zoom for zoom in ZOOMS if zoom <= max(room, ZOOMS[0])]
        self.zoom = max(min(fitting[-1], most), least)
        self._placed = True
        self._move_to(QPointF((self.width() - width * self.zoom) / 2, (self.height() - height * self.zoom) / 2))
        self.zoomed.emit(self.zoom)

    def fit_part(self, part: QRectF) -> None:
        """Zooms in whole steps so that a part of the content fills the view, and puts it as near the middle as can be.

        Nothing bare is shown at one side while content is hidden at the other.
        """
        room = min((self.width() - 4) / max(1.0, part.width()), (self.height() - 4) / max(1.0, part.height()))
        fitting = [zoom for zoom in ZOOMS if zoom <= max(room, ZOOMS[0])]
        self.set_zoom(fitting[-1])
        width, height = self.content_size()
        x = _centre(part.center().x(), self.width() / self.zoom, width)
        self.centre_on(x, _centre(part.center().y(), self.height() / self.zoom, height))

    def fit_width(self, *, at_least: float = 1, high: float = 0) -> None:
        """Zooms so that the content is as wide as the room allows, and begins at its top.

        Where all of it is seen at once if it is less large, and large enough, it is shown so. Of what is wider than
        high, as much as `high` of its own pixels from the top had better be seen.
        """
        width, height = self.content_size()
        fitting = [zoom for zoom in ZOOMS if zoom <= (self.width() - 4) / max(1, width)]
        above = _ABOVE if self.height() > _STRIP else _ABOVE // 4
        low = [zoom for zoom in ZOOMS if zoom * high <= self.height() - above]
        self.zoom = max(min(fitting[-1] if fitting else ZOOMS[0], low[-1] if low else ZOOMS[0]), at_least)
        whole = [zoom for zoom in fitting if zoom <= (self.height() - 4) / max(1, height)]
        if whole and whole[-1] >= max(at_least, _LARGE):
            self.zoom = whole[-1]
        self._placed = True
        left, bare = (self.width() - width * self.zoom) / 2, self.height() - height * self.zoom
        # At the top, also where there is more room, so that it stays when a card takes some of that.
        self._move_to(QPointF(max(2, left), max(2, min(above, bare / 2)) if bare > 0 else above))
        self.zoomed.emit(self.zoom)

    @property
    def place(self) -> Place:
        """What is looked at, and how closely; by the point that stays where it is when there is more room or less."""
        return self.zoom, self.to_content(self._anchor)

    @property
    def _anchor(self) -> QPointF:
        return QPointF(self.width() / 2, self.height() / 2) * self.keeps_middle

    def is_at(self, place: Place) -> bool:
        """Whether that is what is looked at."""
        zoom, away = self.zoom, self.place[1] - place[1]
        return zoom == place[0] and away.manhattanLength() * zoom < _NEAR

    def return_to(self, place: Place) -> None:
        """Looks again at what was looked at."""
        self.set_zoom(place[0])
        self._placed = self._moved_by_hand = True
        self._move_to(self._anchor - place[1] * self.zoom)

    def centre_on(self, x: float, y: float) -> None:
        """Moves a point of the content to the middle."""
        self._placed = self._moved_by_hand = True
        self._move_to(QPointF(self.width() / 2 - x * self.zoom, self.height() / 2 - y * self.zoom))

    def bring_into_view(self, rect: QRectF) -> None:
        """Moves the content just so far that a rectangle of the widget is seen, with some room round it."""
        wanted = rect.adjusted(-_ROOM, -_ROOM, _ROOM, _ROOM)
        x = max(0.0, -wanted.left()) - max(0.0, wanted.right() - self.width())
        y = max(0.0, -wanted.top()) - max(0.0, wanted.bottom() - self.height())
        if not QRectF(self.rect()).contains(rect):
            self._moved_by_hand = True
            self._move_to(self.origin + QPointF(x, y))

    def place_first(self) -> None:
        """Where to begin when the content is new; by default all of it is fitted in."""
        self.fit()

    def replace_content(self) -> None:
        """Begins anew with other content."""
        self._placed = self._moved_by_hand = False
        if self.isVisible():
            self.place_first()
            self._placed = True
        self.update()

    def pressed(self, point: QPointF, event: QMouseEvent) -> None:
        """The left or right button went down at a point of the content."""

    def dragged(self, point: QPointF, event: QMouseEvent) -> None:
        """The pointer moved with a button down."""

    def released(self, point: QPointF, event: QMouseEvent) -> None:
        """The button went up."""

    def hovered(self, point: QPointF | None) -> None:
        """The pointer moved without a button, or left (None)."""

    def beside(self, point: QPointF, step: tuple[int, int], *, far: bool) -> QPointF:
        """The point of the content where one is after a step (down, right) by keys; a far one with Shift."""
        raise NotImplementedError

    def showEvent(self, event: object) -> None:
        if not self._placed:
            self.place_first()
            self._placed = True

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._placed and not self._moved_by_hand:
            self.place_first()
        elif self._placed and event.oldSize().isValid():
            grown = event.size() - event.oldSize()
            self._move_to(self.origin + QPointF(grown.width() / 2, grown.height() / 2) * self.keeps_middle)

    def wheelEvent(self, event: QWheelEvent) -> None:
        turned = event.angleDelta().y() or event.angleDelta().x()
        if turned:
            self.zoom_by(1 if turned > 0 else -1, event.position())
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._over = None
        button = event.button()
        if button == Qt.MouseButton.MiddleButton or (self._space and button == Qt.MouseButton.LeftButton):
            self._pan_from, self._pans = event.position(), button
            self._moved_by_hand = True
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif button in (Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton) and (
            # What is being done goes on until its own button is let go.
            button == self._works_with or not event.buttons() & self._works_with
        ):
            self._works_with = button
            self.pressed(self.to_content(event.position()), event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pan_from is not None:
            self._move_to(self.origin + event.position() - self._pan_from)
            self._pan_from = event.position()
        elif event.buttons() & (Qt.MouseButton.LeftButton | Qt.MouseButton.RightButton):
            self.dragged(self.to_content(event.position()), event)
        else:
            self._over = event.position()
            self.hovered(self.to_content(self._over))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pan_from is not None and event.button() == self._pans:
            self._pan_from = None
            self.unsetCursor()
        elif event.button() == self._works_with:
            self._works_with = Qt.MouseButton.NoButton
            self.released(self.to_content(event.position()), event)

    def enterEvent(self, event: object) -> None:
        """Plain keys count where the pointer is, unless something is being typed."""
        if not isinstance(QApplication.focusWidget(), QLineEdit | QAbstractSpinBox):
            self.setFocus(Qt.FocusReason.MouseFocusReason)

    def leaveEvent(self, event: object) -> None:
        self._over = None
        self.hovered(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: QPoint(_STEP, 0), Qt.Key.Key_Right: QPoint(-_STEP, 0),
            Qt.Key.Key_Up: QPoint(0, _STEP), Qt.Key.Key_Down: QPoint(0, -_STEP),
        }  # fmt: skip
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif event.key() in steps:
            self._moved_by_hand = True
            self._move_to(self.origin + QPointF(steps[Qt.Key(event.key())]))
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.unsetCursor()
        else:
            super().keyReleaseEvent(event)

    def visible_content(self) -> QRectF:
        """The part of the content's plane that the widget shows."""
        return QRectF(self.to_content(QPointF(0, 0)), self.to_content(QPointF(self.width(), self.height())))

    def sharp(self, painter: QPainter) -> None:
        """Sets a painter up so that pixels stay sharp."""
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _move_to(self, origin: QPointF) -> None:
        """Moves the content, keeping some of it in view, on whole pixels of the screen."""
        width, height = (side * self.zoom for side in self.content_size())
        keep = 48
        x = min(max(origin.x(), keep - width), self.width() - keep)
        y = min(max(origin.y(), keep - height), self.height() - keep)
        self.origin = QPointF(round(x), round(y))
        self.update()
        self.moved.emit()
        if self._over is not None:
            # What moves away below a pointer that rests is not pointed at any more.
            self.hovered(self.to_content(self._over))


def _inside(begin: float, length: float, room: float) -> float:
    """Where a length begins if it is moved no farther than it takes to lie within a room, or to fill it."""
    free = room - length
    spare = _ABOVE if free < 0 else min(_ABOVE, free / 2)
    low, high = sorted((free - spare, spare))
    return min(max(begin, low), high)


def _centre(wanted: float, shown: float, length: int) -> float:
    """What of a length to look at in the middle, if so much of it is shown and some place in it is wanted there."""
    return length / 2 if shown >= length else min(max(wanted, shown / 2), length - shown / 2)
