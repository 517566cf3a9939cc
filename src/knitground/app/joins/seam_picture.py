"""Two tiles that meet with a seam, side by side and large."""

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from knitground.app.guard import guarded
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_checker, fitted, image_of
from knitground.core.check.check import Finding
from knitground.core.sheet.cut import Cut
from knitground.core.sheet.isometric import on_foot
from knitground.core.tiles.tile import TileRef

Pixels = NDArray[np.uint8]
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
        ref = TileRef.parse(self.finding.tiles[0])
        cut = self._session.document.project.cuts[ref.sheet, ref.cut]
        pixels, begin, end = _side_by_side([np.array(tile) for tile in tiles], cut, level=bool(self.finding.index))
        image = image_of(pixels)
        rect = fitted(image.size(), QRectF(self.rect()).adjusted(_ROOM, _ROOM, -_ROOM, -_ROOM))
        painter.drawImage(rect, image)
        painter.setPen(QPen(theme().colour("warning"), 2))
        scale = rect.width() / image.width()
        border = QLineF(rect.topLeft() + begin * scale, rect.topLeft() + end * scale)
        reach = (_ROOM - 2) / max(border.length(), 1.0)
        painter.drawLine(border.p1(), border.pointAt(-reach))
        painter.drawLine(border.p2(), border.pointAt(1 + reach))


def _side_by_side(tiles: list[Pixels], cut: Cut, *, level: bool) -> tuple[Pixels, QPointF, QPointF]:
    """Two tiles as they meet, the second to the east or the south, and from where to where their border runs."""
    if cut.shape != "isometric":
        both = np.concatenate(tiles, axis=1 if level else 0)
        height, width = tiles[0].shape[:2]
        return both, QPointF(width, 0) if level else QPointF(0, height), QPointF(width, height)
    first, second = (on_foot(tile, cut) for tile in tiles)
    height, width = first.shape[:2]
    across, down = cut.footprint[0] // 2, cut.footprint[1] // 2
    both = np.zeros((height + down, width + across, 4), np.uint8)
    left = 0 if level else across
    for pixels, x, y in ((first, left, 0), (second, across - left, down)):
        part = both[y : y + height, x : x + width]
        part[pixels[..., 3] > 0] = pixels[pixels[..., 3] > 0]
    low = QPointF(left + across, height)
    return both, low, low + QPointF(across if level else -across, -down)
