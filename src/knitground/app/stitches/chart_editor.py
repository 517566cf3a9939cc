"""The chart of a stitch, to be written by hand: drags, keys, and a border that is pulled to make it larger."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QHelpEvent, QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from knitground.app.guard import guarded
from knitground.app.stitches.signs import Named, draw_sign, said, turned_round, with_another
from knitground.app.theme.colours import theme
from knitground.core.stitches.charts import ANY, LARGEST_CHART, OFF, OTHER, SAME, Chart, Step, resized, with_word

SIDE = 176
_EDGE = 7
_ARROWS = {Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0)}


def draw_chart(
    painter: QPainter, room: QRectF, chart: Chart, named: Sequence[Named], wrong: Step | None = None
) -> QRectF:
    """Draws a chart as large as it fits into some room; returns the rectangle that it takes."""
    rows, columns = chart.size
    side = min(room.width() / columns, room.height() / rows)
    whole = QRectF(0, 0, side * columns, side * rows)
    whole.moveCenter(room.center())
    painter.fillRect(whole, theme().colour("panel"))
    down, right = chart.reach
    for y, words in enumerate(chart.words):
        for x, word in enumerate(words):
            cell = QRectF(whole.x() + x * side, whole.y() + y * side, side, side)
            draw_sign(painter, cell, word, named)
            if (y - down, x - right) == wrong:
                painter.setPen(QPen(theme().colour("warning"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(cell.adjusted(1, 1, -1, -1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme().colour("line"), 1))
    for line in range(columns + 1):
        painter.drawLine(whole.topLeft() + QPointF(line * side, 0), whole.bottomLeft() + QPointF(line * side, 0))
    for line in range(rows + 1):
        painter.drawLine(whole.topLeft() + QPointF(0, line * side), whole.topRight() + QPointF(0, line * side))
    painter.setPen(QPen(theme().colour("quiet"), 1.6))
    painter.drawRect(QRectF(whole.x() + right * side, whole.y() + down * side, side, side))
    return whole


class ChartEditor(QWidget):
    """A chart: a drag writes the sign in hand, the right button clears, keys write where the frame stands."""

    changed = Signal(object)
    pasted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(SIDE, SIDE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Chart")
        self.word = SAME
        self._chart: Chart | None = None
        self._named: tuple[Named, ...] = ()
        self._at: Step = (0, 0)
        self._writes: str | None = None
        self._pulls: tuple[str, Chart] | None = None
        self.wrong: Step | None = None

    @property
    def chart(self) -> Chart | None:
        """What it shows, with what a drag has written so far."""
        return self._chart

    def show_chart(self, chart: Chart | None, named: Sequence[Named]) -> None:
        """Shows a chart; what a drag has written is kept until it ends."""
        if self._writes is None and self._pulls is None:
            self._chart, self._named = chart, tuple(named)
            self._clamp()
            self.update()

    def room(self) -> QRectF:
        """Where the chart lies."""
        if self._chart is None:
            return QRectF()
        rows, columns = self._chart.size
        inner = QRectF(self.rect()).adjusted(_EDGE, _EDGE, -_EDGE, -_EDGE)
        side = min(inner.width() / columns, inner.height() / rows, 34)
        whole = QRectF(0, 0, side * columns, side * rows)
        whole.moveCenter(inner.center())
        return whole

    def cell_rect(self, step: Step) -> QRectF:
        """Where a cell of the chart lies, by its step from the middle."""
        assert self._chart is not None
        whole, (rows, columns), (down, right) = self.room(), self._chart.size, self._chart.reach
        wide, high = whole.width() / columns, whole.height() / rows
        return QRectF(whole.x() + (step[1] + right) * wide, whole.y() + (step[0] + down) * high, wide, high)

    def sizeHint(self) -> QSize:
        return QSize(SIDE, SIDE)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._chart is None:
            return
        edge = self._edge_at(event.position())
        step = self._step_at(event.position())
        if edge:
            self._pulls = edge, self._chart
        elif step is not None:
            erases = event.button() == Qt.MouseButton.RightButton or self._word_at(step) == self.word
            self._writes = ANY if erases else self.word
            self._at = step
            self._write(step, event.modifiers())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pulls is not None:
            self._pull(event.position())
        elif self._writes is not None:
            step = self._step_at(event.position())
            if step is not None:
                self._at = step
                self._write(step, event.modifiers())
        else:
            edge = self._edge_at(event.position())
            shapes = {"x": Qt.CursorShape.SizeHorCursor, "y": Qt.CursorShape.SizeVerCursor}
            self.setCursor(shapes.get(edge, Qt.CursorShape.ArrowCursor))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._writes is not None or self._pulls is not None:
            self._writes, self._pulls = None, None
            self.changed.emit(self._chart)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        arrow = _ARROWS.get(Qt.Key(event.key()))
        if self._chart is None:
            super().keyPressEvent(event)
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.pasted.emit()
        elif arrow and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._grow(2 * arrow[0], 2 * arrow[1])
        elif arrow:
            self._at = self._at[0] + arrow[0], self._at[1] + arrow[1]
            self._clamp()
            self.update()
        elif (word := self._typed(event)) is not None:
            self._set(self._at, word)
            self.changed.emit(self._chart)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent) and self._chart is not None:
            step = self._step_at(QPointF(event.pos()))
            says = said(self._word_at(step), self._named) if step is not None else "Drag the border to look further"
            QToolTip.showText(event.globalPos(), says, self)
            return True
        return bool(super().event(event))  # type: ignore[arg-type]

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._chart is None:
            return
        whole = draw_chart(painter, self.room(), self._chart, self._named, self.wrong)
        painter.setPen(QPen(theme().colour("quiet"), 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        for end in (whole.right() + 4, whole.left() - 4):
            painter.drawLine(QPointF(end, whole.center().y() - 9), QPointF(end, whole.center().y() + 9))
        for end in (whole.bottom() + 4, whole.top() - 4):
            painter.drawLine(QPointF(whole.center().x() - 9, end), QPointF(whole.center().x() + 9, end))
        if self.hasFocus():
            painter.setPen(QPen(theme().colour("focus"), 2))
            painter.drawRect(self.cell_rect(self._at).adjusted(2, 2, -2, -2))

    def _typed(self, event: QKeyEvent) -> str | None:
        """The word that a key writes where the frame stands; None if the key means something else."""
        assert self._chart is not None
        if event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier):
            return None
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return ANY if self._word_at(self._at) == self.word else self.word
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            return ANY
        typed = event.text().upper()
        letters = {one.letter.upper(): str(number) for number, one in enumerate(self._named, start=1)}
        plain = {SAME: SAME, OTHER: OTHER, ANY: ANY, "0": "0", OFF.upper(): OFF}
        if typed == "!":
            return turned_round(self._word_at(self._at))
        if typed == "+":
            return with_another(self._word_at(self._at), self.word)
        # A mark's own letter counts more than what the letter means for all.
        return letters.get(typed, plain.get(typed)) if typed else None

    def _write(self, step: Step, modifiers: Qt.KeyboardModifier) -> None:
        assert self._writes is not None
        word = self._writes
        if modifiers & Qt.KeyboardModifier.ShiftModifier and word != ANY:
            word = with_another(self._word_at(step), word)
        self._set(step, word)

    def _set(self, step: Step, word: str) -> None:
        assert self._chart is not None
        self._chart = with_word(self._chart, step, word)
        self.update()

    def _word_at(self, step: Step) -> str:
        assert self._chart is not None
        down, right = self._chart.reach
        return self._chart.words[step[0] + down][step[1] + right]

    def _step_at(self, point: QPointF) -> Step | None:
        assert self._chart is not None
        whole, (rows, columns), (down, right) = self.room(), self._chart.size, self._chart.reach
        if not whole.contains(point):
            return None
        y = min(rows - 1, int((point.y() - whole.y()) / whole.height() * rows))
        x = min(columns - 1, int((point.x() - whole.x()) / whole.width() * columns))
        return y - down, x - right

    def _edge_at(self, point: QPointF) -> str:
        """Along which way the border under the pointer is pulled; nothing where there is none."""
        whole = self.room()
        wide = whole.adjusted(-_EDGE, -_EDGE, _EDGE, _EDGE)
        if not wide.contains(point) or whole.contains(point):
            return ""
        return "x" if not whole.left() <= point.x() <= whole.right() else "y"

    def _pull(self, point: QPointF) -> None:
        assert self._pulls is not None
        way, before = self._pulls
        rows, columns = before.size
        middle = QRectF(self.rect()).center()
        side = min((SIDE - 2 * _EDGE) / max(rows, columns), 34)
        away = abs(point.x() - middle.x()) if way == "x" else abs(point.y() - middle.y())
        known = columns if way == "x" else rows
        cells = min(LARGEST_CHART, max(1, known + 2 * round((away - known * side / 2) / side)))
        size = (rows, cells) if way == "x" else (cells, columns)
        self._chart = resized(before, *size)
        self._clamp()
        self.update()

    def _grow(self, rows: int, columns: int) -> None:
        assert self._chart is not None
        high, wide = self._chart.size
        size = min(LARGEST_CHART, max(1, high + rows)), min(LARGEST_CHART, max(1, wide + columns))
        if size != self._chart.size:
            self._chart = resized(self._chart, *size)
            self._clamp()
            self.update()
            self.changed.emit(self._chart)

    def _clamp(self) -> None:
        if self._chart is not None:
            down, right = self._chart.reach
            self._at = min(max(self._at[0], -down), down), min(max(self._at[1], -right), right)
