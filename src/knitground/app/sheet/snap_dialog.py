"""Snapping shapes to the borders of their tiles: seen before it is done."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QWidget

from knitground.app.picture_grid import PictureGrid
from knitground.app.session import Session
from knitground.app.widgets import column, image_of, quiet, scrolling
from knitground.core.edits.snapping import Changes, snap_shapes
from knitground.core.tiles.notes import Collision
from knitground.core.tiles.tile import TileRef

_SIDE = 88
_BEFORE, _AFTER = QColor(230, 150, 40), QColor(200, 40, 60)


class SnapDialog(QDialog):
    """Shows each tile with its shape as it is, pale, and as it would be."""

    def __init__(self, parent: QWidget, session: Session, sheet_id: str, changes: Changes) -> None:
        super().__init__(parent)
        self._session, self._sheet_id = session, sheet_id
        self.setWindowTitle("Snap shapes to the borders of their tiles")
        self.resize(560, 420)
        grid = PictureGrid("Shapes that would change", QSize(_SIDE, _SIDE))
        grid.show_pictures([self._picture(ref, *both) for (ref, _), both in changes.items()])
        count = len(changes)
        says = (
            f"{count} shape{'s' * (count != 1)} would be brought to the border of the tile, from the pale outline to "
            "the strong one."
        )
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel, self)
        buttons.addButton("Snap", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self._snap)
        buttons.rejected.connect(self.reject)
        layout = column(quiet(says), scrolling(grid), buttons)
        layout.setStretch(1, 1)
        layout.setContentsMargins(16, 12, 16, 12)
        self.setLayout(layout)

    def _snap(self) -> None:
        self._session.attempt(lambda: snap_shapes(self._session.document, self._sheet_id))
        self.accept()

    def _picture(self, ref: TileRef, before: Collision, after: Collision) -> QImage | None:
        pixels = self._session.derived.tile(ref)
        if pixels is None:
            return None
        high, wide = pixels.shape[:2]
        scale = _SIDE / max(high, wide)
        image = QImage(_SIDE, _SIDE, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.drawImage(QRectF(0, 0, wide * scale, high * scale), image_of(pixels))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for collision, colour, width in ((before, _BEFORE, 1), (after, _AFTER, 2)):
            painter.setPen(QPen(colour, width))
            for shape in () if isinstance(collision, str) else collision:
                painter.drawPolygon(QPolygonF([QPointF(x * scale, y * scale) for x, y in shape]))
        painter.end()
        return image
