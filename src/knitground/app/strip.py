"""The stages as one thread through six knots; a knot shows how many findings its stage has."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from knitground.app.guard import guarded
from knitground.app.session import STAGES, Session
from knitground.app.theme.colours import theme

_STEP = 100
_KNOT = 7


class StageStrip(QWidget):
    """Any stage, any time: a click or the arrow keys go there."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(40)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Stages")
        self.setToolTip("Stages of the work (Ctrl+1 to Ctrl+6)")
        session.stage_changed.connect(lambda stage: self.update())
        session.findings_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(_STEP * len(STAGES), 40)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._session.set_stage(STAGES[min(int(event.position().x() // _STEP), len(STAGES) - 1)])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self._session.set_stage(STAGES[(STAGES.index(self._session.choices.stage) + step) % len(STAGES)])

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        now = STAGES.index(self._session.choices.stage)
        middle = self.height() / 2
        metrics = painter.fontMetrics()
        for index, stage in enumerate(STAGES):
            knot = QPointF(index * _STEP + 14, middle)
            name = stage.capitalize()
            end = knot.x() + 14 + metrics.horizontalAdvance(name) + 10
            if index + 1 < len(STAGES):
                done = index < now
                pen = QPen(
                    theme().colour("thread" if done else "line"), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap
                )
                painter.setPen(pen)
                painter.drawLine(QPointF(end, middle), QPointF((index + 1) * _STEP, middle))
            self._paint_knot(painter, knot, index, now)
            font = QFont(painter.font())
            font.setBold(index == now)
            painter.setFont(font)
            painter.setPen(theme().colour("ink" if index == now else "quiet"))
            painter.drawText(QRectF(knot.x() + 13, 0, _STEP, self.height()), Qt.AlignmentFlag.AlignVCenter, name)
            font.setBold(False)
            painter.setFont(font)
        if self.hasFocus():
            painter.setPen(QPen(theme().colour("focus"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(now * _STEP + 1, 4, _STEP - 6, 32), 6, 6)

    def _paint_knot(self, painter: QPainter, knot: QPointF, index: int, now: int) -> None:
        colour = theme().colour("thread" if index <= now else "line")
        painter.setPen(QPen(colour, 2.2))
        painter.setBrush(colour if index == now else theme().colour("window"))
        painter.drawEllipse(knot, _KNOT, _KNOT)
        count = sum(1 for finding in self._session.findings if finding.stage == STAGES[index])
        if count:
            said = str(count) if count < 100 else "99+"
            wide = 9 + 7 * len(said)
            badge = QRectF(knot.x() - wide / 2, max(0.0, knot.y() - 21), wide, 13)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme().colour("warning"))
            painter.drawRoundedRect(badge, 6.5, 6.5)
            font = QFont(painter.font())
            small = QFont(font)
            small.setPixelSize(10)
            small.setBold(True)
            painter.setFont(small)
            painter.setPen(QColor(theme().window))
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, said)
            painter.setFont(font)
