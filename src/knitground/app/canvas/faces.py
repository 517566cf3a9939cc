"""Where the ground of a tile shows on a widget: in all of its rectangle, or in the diamond that it stands on."""

from collections.abc import Iterable
from math import hypot
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPolygonF

from knitground.core.sheet.cut import Cut, foot_in
from knitground.core.walk.whole import border_of


class Face(NamedTuple):
    """The north-west corner of the ground of a tile, and from there the ways to the north-east and the south-west."""

    north_west: QPointF
    east: QPointF
    south: QPointF

    @property
    def size(self) -> float:
        """How long its northern side is."""
        return hypot(self.east.x(), self.east.y())

    @property
    def corners(self) -> tuple[QPointF, QPointF, QPointF, QPointF]:
        """North-west, north-east, south-east and south-west."""
        beyond = self.north_west + self.east
        return self.north_west, beyond, beyond + self.south, self.north_west + self.south

    @property
    def centre(self) -> QPointF:
        """Its middle."""
        return self.north_west + (self.east + self.south) / 2

    @property
    def polygon(self) -> QPolygonF:
        """Its outline."""
        return QPolygonF(list(self.corners))

    def from_centre(self, point: QPointF) -> QPointF:
        """How far east and south of the middle a point lies, in lengths of the sides."""
        across = self.east.x() * self.south.y() - self.east.y() * self.south.x()
        if not across:
            return QPointF()
        there = point - self.centre
        return QPointF(
            (there.x() * self.south.y() - there.y() * self.south.x()) / across,
            (there.y() * self.east.x() - there.x() * self.east.y()) / across,
        )


def face_of(rect: QRectF, cut: Cut | None = None) -> Face:
    """The face of a tile that is drawn in a rectangle; without a cut that of a square one."""
    if cut is None or cut.shape != "isometric":
        return Face(rect.topLeft(), QPointF(rect.width(), 0), QPointF(0, rect.height()))
    scale = rect.width() / cut.tile_width
    left, top, width, height = (part * scale for part in foot_in(cut, (cut.tile_width, cut.tile_height)))
    return diamond_in(QRectF(rect.left() + left, rect.top() + top, width, height))


def cell_outlines(rects: Iterable[QRectF], cut: Cut) -> list[QPolygonF]:
    """The borders of the cells that tiles are drawn for, which are shown in some rectangles."""
    corners = [QPointF(x, y) for x, y in border_of(cut.footprint, cut.outline)]
    left, top, _, _ = foot_in(cut, (cut.tile_width, cut.tile_height))
    found = []
    for rect in rects:
        scale = rect.width() / cut.tile_width
        found.append(QPolygonF([rect.topLeft() + (QPointF(left, top) + corner) * scale for corner in corners]))
    return found


def diamond_in(rect: QRectF) -> Face:
    """The face of an isometric tile whose diamond fills a rectangle; its north-west corner is the one on top."""
    across, down = rect.width() / 2, rect.height() / 2
    return Face(QPointF(rect.center().x(), rect.top()), QPointF(across, down), QPointF(-across, down))
