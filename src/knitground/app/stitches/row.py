"""A stitch as one line of the list: its chart, its mark, and the tile it lays."""

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLabel, QWidget

from knitground.app.guard import guarded
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import TilePicture, quiet, row
from knitground.core.joins.sets import Terrain
from knitground.core.stitches.rules import ANY, NEIGHBOURS, OTHER, SAME, Stitch

CHART = 60
_NEXT = {ANY: SAME, SAME: OTHER, OTHER: ANY}


class ChartEditor(QWidget):
    """A knitting chart of three by three: V the same, a dash another, blank whichever; a click goes to the next."""

    changed = Signal(str)

    def __init__(self, chart: str, mark: Terrain | None) -> None:
        super().__init__()
        self._chart = chart
        self._mark = mark
        self.setFixedSize(CHART, CHART)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Pattern of neighbours")
        self.setToolTip("Click a neighbour: V the same mark, - another, blank either")
        self._at = 0

    def mousePressEvent(self, event: QMouseEvent) -> None:
        side = CHART / 3
        place = (int(event.position().y() // side) - 1, int(event.position().x() // side) - 1)
        if place in NEIGHBOURS:
            self._turn(NEIGHBOURS.index(place), back=event.button() == Qt.MouseButton.RightButton)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Right:
            self._at = (self._at + 1) % 8
        elif event.key() == Qt.Key.Key_Left:
            self._at = (self._at - 1) % 8
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self._turn(self._at)
            return
        else:
            super().keyPressEvent(event)
            return
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()

    def _turn(self, place: int, *, back: bool = False) -> None:
        sign = _NEXT[self._chart[place]]
        if back:
            sign = _NEXT[sign]
        self._chart = self._chart[:place] + sign + self._chart[place + 1 :]
        self.update()
        self.changed.emit(self._chart)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        side = (CHART - 1) / 3
        painter.fillRect(self.rect(), theme().colour("panel"))
        for place, (down, right) in enumerate(NEIGHBOURS):
            cell = QRectF((right + 1) * side, (down + 1) * side, side, side)
            if self._chart[place] == SAME:
                painter.fillRect(cell, theme().colour("thread", 40))
            self._sign(painter, cell, self._chart[place])
            if self.hasFocus() and place == self._at:
                painter.setPen(QPen(theme().colour("focus"), 2))
                painter.drawRect(cell.adjusted(2, 2, -2, -2))
        centre = QRectF(side, side, side, side)
        painter.fillRect(centre, QColor(self._mark.colour) if self._mark else theme().colour("line"))
        if self._mark:
            painter.setPen(QColor(22, 17, 15))
            painter.drawText(centre, Qt.AlignmentFlag.AlignCenter, self._mark.letter)
        painter.setPen(QPen(theme().colour("line"), 1))
        for line in range(4):
            painter.drawLine(QPointF(line * side, 0), QPointF(line * side, CHART))
            painter.drawLine(QPointF(0, line * side), QPointF(CHART, line * side))

    def _sign(self, painter: QPainter, cell: QRectF, sign: str) -> None:
        """V and dash as strokes, in one line weight."""
        centre, reach = cell.center(), cell.width() * 0.26
        colour = theme().colour("thread" if sign == SAME else "ink")
        painter.setPen(QPen(colour, 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        if sign == SAME:
            painter.drawPolyline(
                [centre + QPointF(-reach, -reach), centre + QPointF(0, reach), centre + QPointF(reach, -reach)]
            )
        elif sign == OTHER:
            painter.drawLine(centre - QPointF(reach, 0), centre + QPointF(reach, 0))


class StitchRow(QWidget):
    """One stitch of a list."""

    changed = Signal(object)

    def __init__(self, session: Session, number: int, stitch: Stitch, marks: tuple[Terrain, ...], dead: str) -> None:
        super().__init__()
        self._stitch = stitch
        place = QLabel(str(number))
        place.setObjectName("quiet")
        place.setFixedWidth(22)
        place.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        mark = marks[stitch.mark - 1] if stitch.mark <= len(marks) else None
        chart = ChartEditor(stitch.chart, mark)
        chart.changed.connect(lambda signs: self.changed.emit(replace(self._stitch, chart=signs)))
        tile = TilePicture(CHART, "The tile that this stitch lays; choose the line and click a tile on the sheet")
        pixels = session.derived.tile(stitch.tile) if stitch.tile else None
        tile.show_tile(None if pixels is None else np.array(pixels))
        tile.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        words = quiet(
            dead
            or (
                f"{mark.name}: {stitch.tile.sheet} {stitch.tile.column}, {stitch.tile.row}"
                if mark and stitch.tile
                else "lays nothing"
            )
        )
        if dead:
            words.setObjectName("warning")
        layout = row(place, chart, _Arrow(), tile, words, spacing=8)
        layout.setContentsMargins(4, 4, 4, 4)
        layout.setStretch(4, 1)
        self.setLayout(layout)

    def sizeHint(self) -> QSize:
        return QSize(240, CHART + 10)


class _Arrow(QWidget):
    """Leads from the pattern to the tile."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(18, CHART)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme().colour("quiet"), 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        y = self.height() / 2
        painter.drawLine(QPointF(2, y), QPointF(15, y))
        painter.drawPolyline([QPointF(10, y - 4), QPointF(15, y), QPointF(10, y + 4)])
