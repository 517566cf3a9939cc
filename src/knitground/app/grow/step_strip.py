"""The steps of a recipe as a row of small pictures of the ground after each of them."""

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from knitground.app.guard import guarded
from knitground.app.theme.colours import theme
from knitground.app.widgets import fitted, image_of
from knitground.core.grow.recipe import Recipe

WIDTH, HEIGHT = 92, 96
_PICTURE, _GAP, _FAR = 64, 6, 6
_PALE = 0.35
_ARROWS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}


class StepStrip(QWidget):
    """Chooses a step; dragging, or Ctrl with an arrow, moves it, Space switches it on or off, Delete takes it out."""

    chosen = Signal(int)
    moved = Signal(int, int)
    switched = Signal(int)
    removed = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.step = 0
        self._recipe: Recipe | None = None
        self._images: dict[int, QImage] = {}
        self._without = ""
        self._held: float | None = None
        self._over: int | None = None
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Steps of the recipe")
        self.setToolTip(
            "Choose a step (left, right) to see the ground as of there; drag it, or Ctrl+left and right, to move it; "
            "Space switches it on or off, Delete takes it out"
        )

    def sizeHint(self) -> QSize:
        count = len(self._recipe.steps) if self._recipe else 0
        return QSize(max(1, count) * (WIDTH + _GAP), HEIGHT)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def show_recipe(self, recipe: Recipe | None, step: int) -> None:
        """Shows the steps of a recipe, one of them chosen."""
        self._recipe, self.step = recipe, step
        self.updateGeometry()
        self.update()

    def show_pictures(self, pictures: dict[int, NDArray[np.uint8]], without: str) -> None:
        """Shows small pictures, (h, w, 4) uint8 premultiplied, by the number of the step that they come after.

        `without` is said where there is none.
        """
        self._without = without
        self._images = {step: image_of(pixels, premultiplied=True) for step, pixels in pictures.items()}
        self.update()

    def pictured(self) -> list[int]:
        """The steps of which a picture shows."""
        return list(self._images)

    def place_of(self, step: int) -> QRectF:
        """Where a step is drawn."""
        return QRectF(step * (WIDTH + _GAP), 0, WIDTH, HEIGHT)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        for number, step in enumerate(self._recipe.steps if self._recipe else ()):
            room = self.place_of(number)
            painter.setOpacity(1.0 if step.on else _PALE)
            box = QRectF(room.x() + 1, 1, WIDTH - 2, _PICTURE + 2)
            painter.fillRect(box, theme().colour("well"))
            image = self._images.get(number)
            if image is not None:
                painter.drawImage(fitted(image.size(), box.adjusted(2, 2, -2, -2)), image)
            elif self._without:
                painter.setPen(theme().colour("quiet"))
                wrapped = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(box.adjusted(6, 2, -6, -2), wrapped, self._without)
            painter.setOpacity(1.0)
            lit = number == self.step
            colour = "focus" if lit and self.hasFocus() else "thread" if lit else "line"
            painter.setPen(QPen(theme().colour(colour), 2 if lit else 1))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(theme().colour("ink" if lit else "quiet"))
            text = f"{number + 1}  {step.title}" if step.on else f"{number + 1}  {step.title}, off"
            below = QRectF(room.x(), _PICTURE + 6, WIDTH, 20)
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, WIDTH - 4)
            painter.drawText(below, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, shown)
        if self._over is not None and self._over != self.step:
            side = self.place_of(self._over)
            x = side.right() + _GAP / 2 if self._over > self.step else side.x() - _GAP / 2
            painter.setPen(QPen(theme().colour("thread"), 3))
            painter.drawLine(QPointF(x, 2), QPointF(x, _PICTURE + 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        step = self._at(event.position().x())
        if step is not None:
            self._held = event.position().x()
            self.chosen.emit(step)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None and abs(event.position().x() - self._held) > _FAR:
            self._over = self._at(event.position().x())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        over, self._held, self._over = self._over, None, None
        if over is not None and over != self.step:
            self.moved.emit(self.step, over)
        self.update()

    def event(self, event: QEvent) -> bool:
        # Arrows with Ctrl move a step here, whatever they do elsewhere in the window.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in _ARROWS:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        count = len(self._recipe.steps) if self._recipe else 0
        by = _ARROWS.get(Qt.Key(event.key()))
        if by is not None and 0 <= self.step + by < count:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self.moved.emit(self.step, self.step + by)
            else:
                self.chosen.emit(self.step + by)
        elif event.key() == Qt.Key.Key_Space and count:
            self.switched.emit(self.step)
        elif event.key() == Qt.Key.Key_Delete and count:
            self.removed.emit(self.step)
        else:
            super().keyPressEvent(event)

    def _at(self, x: float) -> int | None:
        step = int(x // (WIDTH + _GAP))
        return step if self._recipe and 0 <= step < len(self._recipe.steps) else None
