"""Where the keyboard is: a ring on what has the focus, for who goes about by keys.

It shows once somebody has pressed Tab, and goes when the mouse is used: whoever points knows where they are.
"""

from PySide6.QtCore import QEvent, QObject, QRectF, Qt, Slot
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

from knitground.app.guard import guarded
from knitground.app.theme.colours import theme

_GOES_ON = (Qt.Key.Key_Tab, Qt.Key.Key_Backtab)
_WIDTH, _ROUND = 2.0, 5.0


class FocusRing(QWidget):
    """A ring along the border of a part of the window, in two colours so that it stands out on all of them."""

    def __init__(self, on: QWidget) -> None:
        super().__init__(on)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setGeometry(on.rect())
        self.show()
        self.raise_()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for colour, inside in (("panel", _WIDTH / 2), ("focus", 1.5 * _WIDTH)):
            painter.setPen(QPen(theme().colour(colour), _WIDTH))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(inside, inside, -inside, -inside), _ROUND, _ROUND)


class FocusRings(QObject):
    """Puts the ring on whatever has the focus, in all windows of the program.

    What has the focus is asked for whenever that matters and not kept: a window that was closed would not be thrown
    away for as long as something in it is held on to here.
    """

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        self._by_keys = False
        self._ring: FocusRing | None = None
        app.focusChanged.connect(self._move)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and event.key() in _GOES_ON:
            self._by_keys = True
        elif kind == QEvent.Type.MouseButtonPress:
            self.take_off()
        elif kind == QEvent.Type.Resize and self._ring is not None and isValid(self._ring):
            ringed = self._ring.parentWidget()
            if ringed is watched:
                self._ring.setGeometry(ringed.rect())
        return False

    @Slot()
    def _move(self) -> None:
        self._hide()
        if QApplication.mouseButtons() != Qt.MouseButton.NoButton:
            self._by_keys = False
        now = QApplication.focusWidget()
        if now is not None:
            now.installEventFilter(self)
            if self._by_keys:
                self._ring = FocusRing(now)

    def take_off(self) -> None:
        """Shows no ring until Tab is pressed again."""
        self._by_keys = False
        self._hide()

    def _hide(self) -> None:
        # What had the focus may be gone, and the ring with it.
        if self._ring is not None and isValid(self._ring):
            self._ring.hide()
            self._ring.deleteLater()
        self._ring = None
