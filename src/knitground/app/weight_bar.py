"""Weights as a bar: what comes by chance side by side, each as wide as its weight; the borders are dragged."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from knitground.app.guard import guarded
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_checker

_GRAB = 6
_SAYS = 20
_LEAST = 0.002


class BarPart(NamedTuple):
    """A part of a bar: its pictures, repeated side by side, what is said where there are none, and its weight."""

    pictures: Sequence[QImage]
    says: str
    weight: float


class WeightBar(QWidget):
    """Shows weights and lets them be dragged; several parts may be chosen, and are weighed together.

    A subclass gives the parts and takes over what was weighed.
    """

    part_chosen = Signal(int)
    label = "weigh"

    def __init__(self, session: Session, name: str, band: int = 44, tip: str = "") -> None:
        super().__init__()
        self._session, self._band = session, band
        self.setFixedHeight(band + _SAYS)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(
            "Drag the borders to change how often each comes; left and right choose, up and down weigh, Ctrl and "
            f"Shift choose several{tip}"
        )
        self.part = 0
        self.chosen: set[int] = {0}
        self._held: int | None = None

    def parts(self) -> Sequence[BarPart]:
        """What is shown."""
        raise NotImplementedError

    def put(self, weights: Mapping[int, float]) -> None:
        """Takes over other weights for some parts."""
        raise NotImplementedError

    def empty_says(self) -> str:
        """What stands there where there is no part."""
        return ""

    def sizeHint(self) -> QSize:
        return QSize(300, self.height())

    def choose(self, index: int, *, also: bool = False, up_to: bool = False) -> None:
        """Chooses a part, alone or with those chosen before, or all from the last one up to it."""
        if up_to:
            self.chosen |= set(range(min(self.part, index), max(self.part, index) + 1))
        elif also:
            self.chosen ^= {index}
            self.chosen = self.chosen or {index}
        else:
            self.chosen = {index}
        self.part = index if index in self.chosen else min(self.chosen)
        self.part_chosen.emit(self.part)
        self.update()

    def weigh(self, weight: float) -> None:
        """Gives all chosen parts one weight."""
        count = len(self.parts())
        self.put({index: weight for index in self.chosen if index < count})
        self.update()

    def _bounds(self, parts: Sequence[BarPart]) -> list[float]:
        """Where the parts begin and end on the widget."""
        weights = np.array([part.weight for part in parts], dtype=float)
        share = weights / weights.sum() if weights.sum() > 0 else np.full(len(weights), 1 / max(1, len(weights)))
        return [0.0, *(np.cumsum(share) * (self.width() - 1)).tolist()]

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter, parts = QPainter(self), self.parts()
        if not parts:
            painter.setPen(QPen(theme().colour("quiet"), 1, Qt.PenStyle.DashLine))
            painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self._band), 6, 6)
            room = QRectF(0, 0, self.width(), self._band)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, self.empty_says())
            return
        bounds, total = self._bounds(parts), sum(part.weight for part in parts) or 1
        for index, part in enumerate(parts):
            rect = QRectF(bounds[index], 0, bounds[index + 1] - bounds[index], self._band)
            self._paint_part(painter, rect, part)
            if rect.width() >= 30:
                painter.setPen(theme().colour("ink" if index in self.chosen else "quiet"))
                below = QRectF(rect.x(), self._band + 2, rect.width(), 18)
                painter.drawText(below, Qt.AlignmentFlag.AlignCenter, f"{part.weight / total:.0%}")
        for bound in bounds[1:-1]:
            painter.fillRect(QRectF(bound - 1.5, 0, 3, self._band), QColor(22, 17, 15))
            painter.fillRect(QRectF(bound - 0.5, 0, 1, self._band), QColor("white"))
        for index in sorted(self.chosen):
            if index < len(parts):
                painter.setPen(QPen(theme().colour("focus" if self.hasFocus() else "thread"), 2))
                wide = max(2.0, bounds[index + 1] - bounds[index] - 2)
                painter.drawRect(QRectF(bounds[index] + 1, 1, wide, self._band - 2))

    def _paint_part(self, painter: QPainter, rect: QRectF, part: BarPart) -> None:
        painter.save()
        painter.setClipRect(rect)
        draw_checker(painter, rect, 8)
        x, number = rect.x(), 0
        while part.pictures and x < rect.right():
            image = part.pictures[number % len(part.pictures)]
            fits = self._band / max(1, image.height())
            high = image.height() * (int(fits) if fits >= 1 else fits)
            wide = max(1.0, high * image.width() / max(1, image.height()))
            painter.drawImage(QRectF(x, (self._band - high) / 2, wide, high), image)
            x, number = x + wide, number + 1
        if not part.pictures:
            painter.setPen(theme().colour("quiet"))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, part.says)
        painter.restore()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        parts = self.parts()
        x, bounds = event.position().x(), self._bounds(parts)
        near = [index for index in range(1, len(bounds) - 1) if abs(bounds[index] - x) <= _GRAB]
        keys = event.modifiers()
        also, up_to = bool(keys & Qt.KeyboardModifier.ControlModifier), bool(keys & Qt.KeyboardModifier.ShiftModifier)
        if near and not also and not up_to:
            self._held = min(near, key=lambda index: abs(bounds[index] - x))
            self._session.document.begin(self.label)
            return
        hit = next((index for index in range(len(parts)) if bounds[index] <= x <= bounds[index + 1]), None)
        if hit is not None:
            self.choose(hit, also=also, up_to=up_to)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        parts = self.parts()
        x, bounds = event.position().x(), self._bounds(parts)
        if self._held is None or self._held >= len(parts):
            near = any(abs(bound - x) <= _GRAB for bound in bounds[1:-1])
            self.setCursor(Qt.CursorShape.SplitHCursor if near else Qt.CursorShape.ArrowCursor)
            return
        total = sum(part.weight for part in parts) or float(len(parts))
        left, right = self._held - 1, self._held
        both = (bounds[right + 1] - bounds[left]) / (self.width() - 1)
        share = min(max((x - bounds[left]) / (self.width() - 1), _LEAST), max(both - _LEAST, _LEAST))
        self.put({left: round(share * total, 3), right: round((both - share) * total, 3)})
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held = None
            self._session.document.commit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        parts, key = self.parts(), event.key()
        if not parts:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            to = (self.part + (1 if key == Qt.Key.Key_Right else -1)) % len(parts)
            self.choose(to, up_to=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            by = 1.1 if key == Qt.Key.Key_Up else 1 / 1.1
            chosen = [index for index in self.chosen if index < len(parts)]
            self.put({index: round(max(parts[index].weight * by, 0.01), 3) for index in chosen})
            self.update()
        elif key == Qt.Key.Key_A and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.chosen = set(range(len(parts)))
            self.part_chosen.emit(self.part)
            self.update()
        else:
            super().keyPressEvent(event)
