"""Working on the ground and on sheets by keys alone: a pointer that arrow keys move, and that Space sets down."""

from PySide6.QtCore import QEvent, QObject, QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QWidget

from knitground.app.canvas.lines import DARK
from knitground.app.canvas.pixel_view import PixelView
from knitground.app.commands import Command
from knitground.app.guard import guarded
from knitground.app.known import known
from knitground.app.session import Session

_STEPS = {
    Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0),
}  # fmt: skip
_BUTTONS = {
    Qt.Key.Key_Space: Qt.MouseButton.LeftButton, Qt.Key.Key_Delete: Qt.MouseButton.RightButton,
    Qt.Key.Key_Backspace: Qt.MouseButton.RightButton,
}  # fmt: skip
_MARGIN, _SIDE = 24, 35
_SAYS = (
    "Arrow keys point (with Shift in larger steps), Space does what a click does and draws while it is held, "
    "Delete does what the right button does; Escape ends it."
)


class _Cross(QWidget):
    """What shows the place that is pointed at."""

    def __init__(self, view: PixelView) -> None:
        super().__init__(view)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFixedSize(_SIDE, _SIDE)
        self.show()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter, middle = QPainter(self), QPointF(_SIDE / 2, _SIDE / 2)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        # Art may be of any colour: dark round light stands out on all of them.
        for colour, width in ((DARK, 5.0), (QColor("white"), 2.0)):
            painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(middle, 7.0, 7.0)
            for x, y in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                painter.drawLine(middle + QPointF(7 * x, 7 * y), middle + QPointF(14 * x, 14 * y))


class KeyPointer(QObject):
    """Moves, presses and lets go as a mouse does; whoever moves the mouse points by it again."""

    def __init__(self, session: Session, usual: PixelView, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._usual = session, usual
        self._view: PixelView | None = None
        self._cross: _Cross | None = None
        self._at = QPointF()
        self._held = Qt.MouseButton.NoButton
        session.opened.connect(self._end)
        session.on_choice(self._end, "ground_id", "stage")

    def commands(self) -> list[Command]:
        """What one can do with it."""
        return [Command("Point by keys, or end it", self.toggle, ("F9",))]

    @property
    def on(self) -> PixelView | None:
        """The view that is pointed at; none while the mouse points."""
        return self._view

    @property
    def at(self) -> QPointF:
        """The point of the view's content that is pointed at."""
        return self._at

    def toggle(self) -> None:
        """Begins in the middle of the view that has the keyboard, or ends."""
        if self._view is not None:
            self._end()
            return
        focus = QApplication.focusWidget()
        view = focus if isinstance(focus, PixelView) else self._usual
        view.setFocus()
        self._view, self._cross = view, _Cross(view)
        view.installEventFilter(self)
        view.moved.connect(self._place)
        self._go(view.beside(view.to_content(QPointF(view.rect().center())), (0, 0), far=False))
        self._session.say(_SAYS)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if isinstance(event, QKeyEvent):
            if kind == QEvent.Type.ShortcutOverride and _means(event):
                event.accept()
                return True
            if kind == QEvent.Type.KeyPress and _means(event):
                self._press(event)
                return True
            if kind == QEvent.Type.KeyRelease and Qt.Key(event.key()) in _BUTTONS:
                if not event.isAutoRepeat():
                    self._let_go()
                return True
        elif kind in (QEvent.Type.MouseMove, QEvent.Type.MouseButtonPress, QEvent.Type.FocusOut):
            self._end()
        return False

    def _press(self, event: QKeyEvent) -> None:
        key, view = Qt.Key(event.key()), known(self._view)
        if key == Qt.Key.Key_Escape:
            self._end()
        elif key in _STEPS:
            far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._go(view.beside(self._at, _STEPS[key], far=far))
        elif not event.isAutoRepeat() and self._held == Qt.MouseButton.NoButton:
            self._held = _BUTTONS[key]
            view.mousePressEvent(self._event(QEvent.Type.MouseButtonPress, self._held))

    def _go(self, at: QPointF) -> None:
        view, self._at = known(self._view), at
        shown = view.rect().adjusted(_MARGIN, _MARGIN, -_MARGIN, -_MARGIN)
        if not shown.contains(view.to_widget(at.x(), at.y()).toPoint()):
            view.centre_on(at.x(), at.y())
        if self._held != Qt.MouseButton.NoButton:
            view.mouseMoveEvent(self._event(QEvent.Type.MouseMove, Qt.MouseButton.NoButton))
        else:
            view.hovered(at)
        self._place()

    def _place(self) -> None:
        """Puts the cross where it belongs, also where the view was moved or made larger."""
        if self._view is not None and self._cross is not None:
            place = self._view.to_widget(self._at.x(), self._at.y()) - QPointF(_SIDE / 2, _SIDE / 2)
            self._cross.move(place.toPoint())

    def _let_go(self) -> None:
        if self._held != Qt.MouseButton.NoButton and self._view is not None:
            button, self._held = self._held, Qt.MouseButton.NoButton
            self._view.mouseReleaseEvent(self._event(QEvent.Type.MouseButtonRelease, button))

    def _end(self, *_: object) -> None:
        self._let_go()
        view, cross, self._view, self._cross = self._view, self._cross, None, None
        if view is not None and cross is not None:
            view.removeEventFilter(self)
            view.moved.disconnect(self._place)
            cross.hide()
            cross.deleteLater()
            view.hovered(None)
            self._session.say("The mouse points again.")

    def _event(self, kind: QEvent.Type, button: Qt.MouseButton) -> QMouseEvent:
        view = known(self._view)
        at = view.to_widget(self._at.x(), self._at.y())
        return QMouseEvent(kind, at, view.mapToGlobal(at), button, self._held, QApplication.keyboardModifiers())


def _means(event: QKeyEvent) -> bool:
    """Whether a key is one for pointing."""
    key, others = Qt.Key(event.key()), event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier
    return others in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier) and (
        key in _STEPS or key in _BUTTONS or key == Qt.Key.Key_Escape
    )
