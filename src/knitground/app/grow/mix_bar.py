"""A mix as a bar: its tiles side by side, each as wide as its weight; the borders are dragged."""

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from knitground.app.guard import guarded
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_checker, image_of
from knitground.core.grow.mix import Mix, MixPart
from knitground.core.tiles.tile import MIRRORED, orient, turned_further

_GRAB = 6
_HEIGHT = 64
_BAND = 44
_LEAST = 0.002
_TURNS = {Qt.Key.Key_T: 1, Qt.Key.Key_M: MIRRORED}


class MixBar(QWidget):
    """Shows the mix that is chosen in the session."""

    part_chosen = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(_HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Mix")
        self.setToolTip(
            "Drag the borders to change how often each tile comes; left and right choose, up and down weigh, "
            "T turns, M mirrors"
        )
        self.part = 0
        self._held: int | None = None

    def sizeHint(self) -> QSize:
        return QSize(300, _HEIGHT)

    @property
    def _mix(self) -> Mix | None:
        return self._session.mix

    def _bounds(self) -> list[float]:
        """Where the parts begin and end on the widget."""
        weights = np.array([part.weight for part in known(self._mix).parts], dtype=float)
        share = weights / weights.sum() if weights.sum() > 0 else np.full(len(weights), 1 / max(1, len(weights)))
        return [0.0, *(np.cumsum(share) * (self.width() - 1)).tolist()]

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._mix is None or not self._mix.parts:
            painter.setPen(QPen(theme().colour("quiet"), 1, Qt.PenStyle.DashLine))
            painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, _BAND), 6, 6)
            painter.drawText(
                QRectF(0, 0, self.width(), _BAND),
                Qt.AlignmentFlag.AlignCenter,
                "Click tiles on the sheet to put them in",
            )
            return
        bounds, total = self._bounds(), sum(part.weight for part in self._mix.parts) or 1
        for index, part in enumerate(self._mix.parts):
            rect = QRectF(bounds[index], 0, bounds[index + 1] - bounds[index], _BAND)
            self._paint_part(painter, rect, part)
            share = part.weight / total
            if rect.width() >= 30:
                painter.setPen(theme().colour("ink" if index == self.part else "quiet"))
                painter.drawText(
                    QRectF(rect.x(), _BAND + 2, rect.width(), 18), Qt.AlignmentFlag.AlignCenter, f"{share:.0%}"
                )
        for bound in bounds[1:-1]:
            painter.fillRect(QRectF(bound - 1.5, 0, 3, _BAND), QColor(22, 17, 15))
            painter.fillRect(QRectF(bound - 0.5, 0, 1, _BAND), QColor("white"))
        if self.part < len(self._mix.parts):
            painter.setPen(QPen(theme().colour("focus" if self.hasFocus() else "thread"), 2))
            painter.drawRect(QRectF(bounds[self.part] + 1, 1, bounds[self.part + 1] - bounds[self.part] - 2, _BAND - 2))

    def _paint_part(self, painter: QPainter, rect: QRectF, part: MixPart) -> None:
        painter.save()
        painter.setClipRect(rect)
        draw_checker(painter, rect, 8)
        pixels = self._session.derived.tile(part.tile) if part.tile else None
        if pixels is not None:
            image: QImage = image_of(orient(np.array(pixels), part.orientation))
            side = max(1, int(_BAND // max(1, image.height()))) * image.height()
            width = side * image.width() / image.height()
            x = rect.x()
            while x < rect.right():
                painter.drawImage(QRectF(x, (_BAND - side) / 2, width, side), image)
                x += width
        else:
            painter.setPen(theme().colour("quiet"))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, "bare")
        painter.restore()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._mix is None or not self._mix.parts:
            return
        x, bounds = event.position().x(), self._bounds()
        near = [index for index in range(1, len(bounds) - 1) if abs(bounds[index] - x) <= _GRAB]
        if near:
            self._held = min(near, key=lambda index: abs(bounds[index] - x))
            self._session.document.begin("weigh mix")
            return
        for index in range(len(self._mix.parts)):
            if bounds[index] <= x <= bounds[index + 1]:
                self._choose(index)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._mix is None or not self._mix.parts:
            return
        x, bounds = event.position().x(), self._bounds()
        if self._held is None:
            near = any(abs(bound - x) <= _GRAB for bound in bounds[1:-1])
            self.setCursor(Qt.CursorShape.SplitHCursor if near else Qt.CursorShape.ArrowCursor)
            return
        total = sum(part.weight for part in self._mix.parts) or float(len(self._mix.parts))
        left, right = self._held - 1, self._held
        both = (bounds[right + 1] - bounds[left]) / (self.width() - 1)
        share = min(max((x - bounds[left]) / (self.width() - 1), _LEAST), max(both - _LEAST, _LEAST))
        self._weigh({left: round(share * total, 3), right: round((both - share) * total, 3)})

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held = None
            self._session.document.commit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        count = len(self._mix.parts) if self._mix else 0
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and count:
            self._choose((self.part + (1 if event.key() == Qt.Key.Key_Right else -1)) % count)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and count:
            weight = known(self._mix).parts[self.part].weight
            self._weigh({self.part: round(max(weight * (1.1 if event.key() == Qt.Key.Key_Up else 1 / 1.1), 0.01), 3)})
        elif event.key() in _TURNS and count:
            self._turn(_TURNS[Qt.Key(event.key())])
        elif event.key() == Qt.Key.Key_Delete and count:
            self.remove_part()
        else:
            super().keyPressEvent(event)

    def _turn(self, by: int) -> None:
        """Turns or mirrors the chosen tile; one that is not square is turned by half."""
        mix = known(self._mix)
        part = mix.parts[self.part]
        pixels = self._session.derived.tile(part.tile) if part.tile else None
        if pixels is None:
            return
        by = 2 if by == 1 and pixels.shape[0] != pixels.shape[1] else by
        parts = list(mix.parts)
        parts[self.part] = replace(part, orientation=turned_further(part.orientation, by))
        self._session.put_mix(replace(mix, parts=tuple(parts)), "turn in mix")
        self.update()

    def remove_part(self) -> None:
        """Takes the chosen part out of the mix."""
        mix = self._mix
        if mix and self.part < len(mix.parts):
            self._session.put_mix(
                replace(mix, parts=mix.parts[: self.part] + mix.parts[self.part + 1 :]), "take out of mix"
            )
            self._choose(max(0, self.part - 1))

    def _choose(self, index: int) -> None:
        self.part = index
        self.part_chosen.emit(index)
        self.update()

    def _weigh(self, weights: dict[int, float]) -> None:
        parts = tuple(
            replace(part, weight=weights[index]) if index in weights else part
            for index, part in enumerate(known(self._mix).parts)
        )
        self._session.put_mix(replace(known(self._mix), parts=parts), "weigh mix")
        self.update()
