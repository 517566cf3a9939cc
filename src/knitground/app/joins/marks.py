"""Half-stitches: how a label looks on a tile.

A corner label runs from its corner inwards, an edge label crosses the middle of its edge. Where two tiles agree the
halves meet in one whole stitch. A middle label is a short thread that lies in the tile alone.
"""

from collections.abc import Iterable, Mapping

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from knitground.core.joins.sets import MIDDLE, JoinKind, Labels, Terrain

_LETTERS_FROM = 60
_NEAR_EDGE = 0.2
_IN_MIDDLE = 0.16
OUTLINE = QColor(22, 17, 15)


def stitch_line(rect: QRectF, kind: JoinKind, place: int) -> QLineF:
    """The half-stitch of a place of a tile, from its outer end inwards."""
    if place == MIDDLE:
        half = QPointF(rect.width() * 0.07, 0)
        return QLineF(rect.center() - half, rect.center() + half)
    if kind in ("full", "cell"):
        # Eight stitches need to be shorter to stay apart.
        line = stitch_line(rect, "corner" if place < 4 else "edge", place % 4)
        line.setLength(line.length() * 0.72)
        return line
    if kind == "corner":
        outer = (rect.topLeft(), rect.topRight(), rect.bottomRight(), rect.bottomLeft())[place]
        centre = rect.center()
        return QLineF(outer + (centre - outer) * 0.14, outer + (centre - outer) * 0.52)
    middle = rect.center()
    outer = (
        QPointF(middle.x(), rect.top()), QPointF(rect.right(), middle.y()),
        QPointF(middle.x(), rect.bottom()), QPointF(rect.left(), middle.y()),
    )[place]  # fmt: skip
    return QLineF(outer + (middle - outer) * 0.04, outer + (middle - outer) * 0.5)


def place_at(rect: QRectF, kind: JoinKind, point: QPointF) -> int:
    """The place of a tile that a point is nearest to: its quarter for corners, its side for edges."""
    x, y = point.x() - rect.center().x(), point.y() - rect.center().y()
    across, down = abs(x) / max(rect.width(), 1), abs(y) / max(rect.height(), 1)
    if kind == "cell" and max(across, down) < _IN_MIDDLE:
        return MIDDLE
    if kind in ("full", "cell"):
        on_corner = min(across, down) > _NEAR_EDGE
        return place_at(rect, "corner", point) if on_corner else 4 + place_at(rect, "edge", point)
    if kind == "corner":
        return (1 if x >= 0 else 0) if y < 0 else (2 if x >= 0 else 3)
    x, y = x / max(rect.width(), 1), y / max(rect.height(), 1)
    if abs(y) >= abs(x):
        return 0 if y < 0 else 2
    return 1 if x >= 0 else 3


def draw_marks(
    painter: QPainter, tiles: Iterable[tuple[QRectF, Labels]], kind: JoinKind, terrains: tuple[Terrain, ...]
) -> None:
    """Draws the half-stitches of many tiles, thread by thread."""
    lines: dict[int, list[QLineF]] = {}
    letters: list[tuple[QPointF, str]] = []
    size = 0.0
    for rect, labels in tiles:
        size = rect.width()
        for place, number in enumerate(labels):
            if 0 < number <= len(terrains):
                line = stitch_line(rect, kind, place)
                lines.setdefault(number, []).append(line)
                letters.append((line.p2() + (rect.center() - line.p2()) * 0.32, terrains[number - 1].letter))
    draw_threads(painter, {terrains[number - 1].colour: some for number, some in lines.items()}, size)
    if size >= _LETTERS_FROM:
        _draw_letters(painter, letters)


def draw_threads(painter: QPainter, lines: Mapping[str, list[QLineF]], size: float) -> None:
    """Short thick threads with round ends, dark round the edge so that they show on any art."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    width = max(2.0, min(size * 0.1, 9.0))
    every = [line for some in lines.values() for line in some]
    painter.setPen(_thread(OUTLINE, width + max(1.5, width * 0.45)))
    painter.drawLines(every)
    for colour, some in lines.items():
        painter.setPen(_thread(QColor(colour), width))
        painter.drawLines(some)
    painter.restore()


def _thread(colour: QColor, width: float) -> QPen:
    return QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)


def _draw_letters(painter: QPainter, letters: list[tuple[QPointF, str]]) -> None:
    painter.save()
    font = QFont(painter.font())
    font.setPixelSize(11)
    font.setBold(True)
    painter.setFont(font)
    for place, letter in letters:
        rect = QRectF(place.x() - 8, place.y() - 8, 16, 16)
        for dx, dy in ((-1, 0), (1, 0), (0, -1), (0, 1)):
            painter.setPen(OUTLINE)
            painter.drawText(rect.translated(dx, dy), Qt.AlignmentFlag.AlignCenter, letter)
        painter.setPen(QColor("white"))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, letter)
    painter.restore()
