"""Pictures in rows, of which one is chosen and some are lit: tiles, or pairs of tiles as they would lie."""

from collections.abc import Collection, Sequence

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from knitground.app.guard import guarded
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_checker, fitted

_GAP = 6
_DIM = 0.3


class PictureGrid(QWidget):
    """A click or Space tells which picture was meant; arrows go from one to the next."""

    picked = Signal(int)

    def __init__(self, name: str, side: QSize, tip: str = "", nothing: str = "bare") -> None:
        super().__init__()
        self._nothing = nothing
        self._side, self._images, self._says = side, list[QImage | None](), ""
        self._lit: frozenset[int] | None = None
        self.at = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(tip)

    def show_pictures(
        self, images: Sequence[QImage | None], lit: Collection[int] | None = None, at: int | None = None, says: str = ""
    ) -> None:
        """Shows pictures; those that are lit bright and the others dim, all bright without."""
        self._images, self._says = list(images), says
        self._lit = None if lit is None else frozenset(lit)
        self.at = min(self.at if at is None else at, max(0, len(self._images) - 1))
        self._lay_out()
        self.update()

    def choose(self, number: int) -> None:
        """Makes a picture the chosen one, without telling that it was picked."""
        self.at = number
        self.update()

    def place_of(self, number: int) -> QRectF:
        """Where a picture lies."""
        across = self._across()
        wide, high = self._side.width() + _GAP, self._side.height() + _GAP
        return QRectF(number % across * wide + 2, number // across * high + 2, self._side.width(), self._side.height())

    def _across(self) -> int:
        return max(1, (self.width() - 4 + _GAP) // (self._side.width() + _GAP))

    def _lay_out(self) -> None:
        rows = -(-max(1, len(self._images)) // self._across())
        self.setMinimumHeight(rows * (self._side.height() + _GAP) + 4)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if not self._images:
            painter.setPen(theme().colour("quiet"))
            flags = Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(self.rect()).adjusted(4, 4, -4, -4), int(flags), self._says)
        for number, image in enumerate(self._images):
            room = self.place_of(number)
            if not room.intersects(QRectF(event.rect())):
                continue
            draw_checker(painter, room, 8)
            lit = self._lit is None or number in self._lit
            painter.setOpacity(1.0 if lit else _DIM)
            if image is not None:
                painter.drawImage(fitted(image.size(), room), image)
            painter.setOpacity(1.0)
            if image is None:
                painter.setPen(theme().colour("quiet"))
                painter.drawText(room, Qt.AlignmentFlag.AlignCenter, self._nothing)
            chosen = number == self.at and (self._lit is None or self.hasFocus())
            colour = "focus" if chosen and self.hasFocus() else "thread" if chosen or (lit and self._lit) else "line"
            painter.setPen(QPen(theme().colour(colour), 2 if colour != "line" else 1))
            painter.drawRect(room.adjusted(0.5, 0.5, -0.5, -0.5))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spot = event.position()
        for number in range(len(self._images)):
            if self.place_of(number).contains(spot):
                self.at = number
                self.update()
                self.picked.emit(number)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -self._across(),
            Qt.Key.Key_Down: self._across(),
        }
        step = steps.get(Qt.Key(event.key()))
        if step is not None and self._images:
            self.at = min(max(self.at + step, 0), len(self._images) - 1)
            if self._lit is None:
                self.picked.emit(self.at)
            self.update()
        elif event.key() == Qt.Key.Key_Space and self._images:
            self.picked.emit(self.at)
        else:
            super().keyPressEvent(event)
