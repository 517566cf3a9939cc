"""Half-stitches: how a label looks on a tile.

A corner label runs from its corner inwards, an edge label crosses the middle of its edge. Where two tiles agree the
halves meet in one whole stitch. A middle label is a short thread that lies in the tile alone.
"""

from collections.abc import Iterable, Mapping

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from knitground.app.canvas.faces import Face
from knitground.app.canvas.lines import DARK
from knitground.core.joins.sets import MIDDLE, JoinKind, Labels, Terrain

_LETTERS_FROM = 60
_NEAR_EDGE = 0.2
_IN_MIDDLE = 0.16


def stitch_line(face: Face, kind: JoinKind, place: int) -> QLineF:
    """The half-stitch of a place of a tile, from its outer end inwards."""
    centre = face.centre
    if place == MIDDLE:
        half = QPointF(face.size * 0.07, 0)
        return QLineF(centre - half, centre + half)
    if kind in ("full", "cell"):
        # Eight stitches need to be shorter to stay apart.
        line = stitch_line(face, "corner" if place < 4 else "edge", place % 4)
        line.setLength(line.length() * 0.72)
        return line
    outer = face.corners[place]
    if kind == "corner":
        return QLineF(outer + (centre - outer) * 0.14, outer + (centre - outer) * 0.52)
    outer = (outer + face.corners[(place + 1) % 4]) / 2
    return QLineF(outer + (centre - outer) * 0.04, outer + (centre - outer) * 0.5)


def place_at(face: Face, kind: JoinKind, point: QPointF) -> int:
    """The place of a tile that a point is nearest to: its quarter for corners, its side for edges."""
    there = face.from_centre(point)
    x, y = there.x(), there.y()
    if kind == "cell" and max(abs(x), abs(y)) < _IN_MIDDLE:
        return MIDDLE
    if kind in ("full", "cell"):
        on_corner = min(abs(x), abs(y)) > _NEAR_EDGE
        return place_at(face, "corner", point) if on_corner else 4 + place_at(face, "edge", point)
    if kind == "corner":
        return (1 if x >= 0 else 0) if y < 0 else (2 if x >= 0 else 3)
    if abs(y) >= abs(x):
        return 0 if y < 0 else 2
    return 1 if x >= 0 else 3


def draw_marks(
    painter: QPainter, tiles: Iterable[tuple[Face, Labels]], kind: JoinKind, terrains: tuple[Terrain, ...]
) -> None:
    """Draws the half-stitches of many tiles, thread by thread."""
    lines: dict[int, list[QLineF]] = {}
    letters: list[tuple[QPointF, str]] = []
    size = 0.0
    for face, labels in tiles:
        size = face.size
        for place, number in enumerate(labels):
            if 0 < number <= len(terrains):
                line = stitch_line(face, kind, place)
                lines.setdefault(number, []).append(line)
                letters.append((line.p2() + (face.centre - line.p2()) * 0.32, terrains[number - 1].letter))
    draw_threads(painter, {terrains[number - 1].colour: some for number, some in lines.items()}, size)
    if size >= _LETTERS_FROM:
        _draw_letters(painter, letters)


def draw_threads(painter: QPainter, lines: Mapping[str, list[QLineF]], size: float) -> None:
    """Short thick threads with round ends, dark round the edge so that they show on any art."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    width = max(2.0, min(size * 0.1, 9.0))
    every = [line for some in lines.values() for line in some]
    painter.setPen(_thread(DARK, width + max(1.5, width * 0.45)))
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
            painter.setPen(DARK)
            painter.drawText(rect.translated(dx, dy), Qt.AlignmentFlag.AlignCenter, letter)
        painter.setPen(QColor("white"))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, letter)
    painter.restore()
