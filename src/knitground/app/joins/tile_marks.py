"""The tile at hand, large, with its half-stitches; labels are painted on it as on the sheet."""

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from knitground.app.canvas.faces import Face, face_of
from knitground.app.guard import guarded
from knitground.app.joins.marks import draw_marks, place_at
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_checker, fitted, image_of
from knitground.core.edits.sets import set_labels


class TileMarks(QWidget):
    """A click paints the terrain in hand, the right button takes a label off."""

    def __init__(self, session: Session, size: int) -> None:
        super().__init__()
        self._session = session
        self.setFixedSize(size, size)
        self.setAccessibleName("Labels of the tile at hand")
        self.setToolTip("The tile at hand: click to label a place, right button takes the label off")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        draw_checker(painter, QRectF(self.rect()), 8)
        rect, join_set = self._tile_rect(), self._session.join_set
        if rect is not None:
            painter.drawImage(rect, image_of(np.array(self._session.derived.tile(known(self._session.choices.tile)))))
            labels = join_set.labels.get(known(self._session.choices.tile)) if join_set else None
            if labels:
                draw_marks(painter, [(self._face_in(rect), labels)], known(join_set).kind, known(join_set).terrains)
        painter.setPen(theme().colour("line"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        rect, join_set = self._tile_rect(), self._session.join_set
        tile = self._session.choices.tile
        if rect is None or tile is None or join_set is None or not join_set.terrains:
            return
        place = place_at(self._face_in(rect), join_set.kind, event.position())
        erase = event.button() == Qt.MouseButton.RightButton
        terrain = 0 if erase else min(self._session.choices.terrain, len(join_set.terrains))
        set_labels(self._session.document, join_set.id, [(tile, place)], terrain)

    def _face_in(self, rect: QRectF) -> Face:
        ref = known(self._session.choices.tile)
        return face_of(rect, self._session.document.project.cuts.get((ref.sheet, ref.cut)))

    def _tile_rect(self) -> QRectF | None:
        ref = self._session.choices.tile
        pixels = self._session.derived.tile(ref) if ref else None
        if pixels is None:
            return None
        room = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        return fitted(image_of(np.array(pixels)).size(), room)
