"""Every combination of a set as a small picture: present, by several tiles, or missing."""

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from knitground.app.joins.marks import draw_marks
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import image_of
from knitground.core.check.findings import letters
from knitground.core.joins.coverage import Coverage, coverage
from knitground.core.joins.sets import Labels

_LARGEST, _SMALLEST, _SPACE = 30, 8, 2
_MOST = 625
_NOTHING = Coverage({}, range(1, 1))


class CoverageChart(QWidget):
    """A click on a combination goes to its tile."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.coverage = _NOTHING
        self.entries: list[Labels] = []
        self._images: dict = {}
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Coverage")

    def refresh(self) -> None:
        """Looks at the set anew."""
        join_set = self._session.join_set
        derived = self._session.derived
        usable = derived.usable(join_set.labels) if join_set else set()
        self.coverage = coverage(join_set, usable) if join_set else _NOTHING
        # A chart of very many combinations would be a mist: then only those that there are stand in it.
        few = self.coverage.total <= _MOST
        self.entries = list(self.coverage.combinations()) if few else sorted(self.coverage.tiles)
        self._images = {}
        for refs in self.coverage.tiles.values():
            for ref in refs[:1]:
                pixels = derived.tile(ref)
                if pixels is not None:
                    self._images[ref] = image_of(np.array(pixels))
        self.setFixedHeight(self._height())
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(190, self._height())

    def resizeEvent(self, event: object) -> None:
        if self.height() != self._height():
            self.setFixedHeight(self._height())

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            labels = self._labels_at(event.pos().x(), event.pos().y())
            QToolTip.showText(event.globalPos(), self._says(labels) if labels else "", self)
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        labels = self._labels_at(event.position().x(), event.position().y())
        if labels is None:
            return
        refs = self.coverage.tiles.get(labels, ())
        if refs:
            self._session.choose(tile=refs[0], sheet_id=refs[0].sheet)
        else:
            self._session.say(f"{self._says(labels)}. Label a tile with it, or leave it out of what you paint.")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        join_set = self._session.join_set
        if join_set is None:
            return
        for number, labels in enumerate(self.entries):
            rect, refs = self._rect(number), self.coverage.tiles.get(labels, ())
            if refs and refs[0] in self._images:
                painter.drawImage(rect, self._images[refs[0]])
                if len(refs) > 1:
                    # Several tiles show as a pile.
                    painter.setPen(QPen(theme().colour("focus"), 2))
                    painter.drawLine(rect.topRight() + QPointF(1, 2), rect.bottomRight() + QPointF(1, 1))
                    painter.drawLine(rect.bottomLeft() + QPointF(2, 1), rect.bottomRight() + QPointF(1, 1))
            else:
                painter.fillRect(rect, theme().colour("panel"))
                painter.setPen(QPen(theme().colour("warning"), 1, Qt.PenStyle.DashLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5))
                if rect.width() >= 16:
                    draw_marks(painter, [(rect, labels)], join_set.kind, join_set.terrains)

    def _side(self) -> tuple[int, int]:
        """Side of a cell and how many stand in a row."""
        count, width = max(1, len(self.entries)), max(60, self.width())
        columns = next((n for n in (4, 8, 9, 10, 16, 25) if n * n >= count), 27)
        side = (width + _SPACE) // columns - _SPACE
        side = max(_SMALLEST, min(_LARGEST, side))
        return side, max(1, (width + _SPACE) // (side + _SPACE)) if side == _SMALLEST else columns

    def _rect(self, number: int) -> QRectF:
        side, columns = self._side()
        return QRectF(number % columns * (side + _SPACE), number // columns * (side + _SPACE), side, side)

    def _height(self) -> int:
        side, columns = self._side()
        lines = -(-len(self.entries) // columns)
        return max(8, lines * (side + _SPACE) + 2)

    def _labels_at(self, x: float, y: float) -> Labels | None:
        for number, labels in enumerate(self.entries):
            if self._rect(number).contains(x, y):
                return labels
        return None

    def _says(self, labels: Labels) -> str:
        join_set, refs = self._session.join_set, self.coverage.tiles.get(labels, ())
        name = letters(join_set, labels)
        if not refs:
            return f"{name} is missing"
        return f"{name}: {refs[0].sheet} {refs[0].column}, {refs[0].row}" + (
            f" and {len(refs) - 1} more" if refs[1:] else ""
        )
