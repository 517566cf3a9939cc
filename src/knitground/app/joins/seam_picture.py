"""Two tiles that meet with a seam, side by side and large."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from knitground.app.guard import guarded
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_checker, fitted, image_of
from knitground.core.check.check import Finding
from knitground.core.tiles.tile import TileRef

_ROOM = 10


class SeamPicture(QWidget):
    """Shows the finding of a seam; ticks at the border point to where the tiles meet."""

    def __init__(self, session: Session, size: int) -> None:
        super().__init__()
        self._session = session
        self.finding: Finding | None = None
        self.setFixedSize(2 * size, size)
        self.setAccessibleName("Seam between two tiles")

    def show_finding(self, finding: Finding | None) -> None:
        """Shows a seam, or nothing."""
        self.finding = finding
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        draw_checker(painter, QRectF(self.rect()), 8)
        if self.finding is None:
            return
        tiles = [self._session.derived.tile(TileRef.parse(name)) for name in self.finding.tiles]
        if any(tile is None for tile in tiles) or len(tiles) != 2:
            return
        level = bool(self.finding.index)
        image = image_of(np.concatenate([np.array(tile) for tile in tiles], axis=1 if level else 0))
        rect = fitted(image.size(), QRectF(self.rect()).adjusted(_ROOM, _ROOM, -_ROOM, -_ROOM))
        painter.drawImage(rect, image)
        painter.setPen(QPen(theme().colour("warning"), 2))
        middle, reach = rect.center(), _ROOM - 2
        for side in (-1, 1):
            if level:
                end = QPointF(middle.x(), rect.top() if side < 0 else rect.bottom())
                painter.drawLine(end, end + QPointF(0, side * reach))
            else:
                end = QPointF(rect.left() if side < 0 else rect.right(), middle.y())
                painter.drawLine(end, end + QPointF(side * reach, 0))
