"""What is drawn over a ground for the eye at work: grid lines, rulers, axes of symmetry, how large a drag is."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from knitground.app.canvas.lines import DARK
from knitground.app.theme.colours import theme
from knitground.core.edits.painting import Spot, cell_of
from knitground.core.edits.symmetry import Symmetry
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView

_GRID_FROM, _GRID_FULL = 5, 14
_GRID_ALPHA = 80
_RULER = 17
_APART = 34
_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)


def draw_grid(painter: QPainter, view: "GroundView", ground: Ground, border: QPainterPath) -> None:
    """Draws the borders of cells, paler the smaller they are."""
    side = min(ground.tile_width, ground.tile_height) * view.zoom
    if side < _GRID_FROM or (seen := view.cells_in_view()).is_empty:
        return
    alpha = round(_GRID_ALPHA * min(1.0, (side - _GRID_FROM + 1) / (_GRID_FULL - _GRID_FROM)))
    lines = [QPolygonF([view.to_widget(*spot) for spot in line]) for line in ground.projection.grid_lines(seen)]
    painter.save()
    painter.setClipPath(border)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, ground.outline != "box")
    for grey, style in ((0, Qt.PenStyle.SolidLine), (255, Qt.PenStyle.DotLine)):
        painter.setPen(QPen(QColor(grey, grey, grey, alpha), 1, style))
        for line in lines:
            painter.drawPolyline(line)
    painter.restore()


def draw_rulers(painter: QPainter, view: "GroundView", ground: Ground) -> None:
    """Draws the numbers of columns along the upper border of the view, and of rows along the left one."""
    painter.save()
    font = painter.font()
    font.setPixelSize(10)
    painter.setFont(font)
    top, left = QRectF(0, 0, view.width(), _RULER), QRectF(0, _RULER, _RULER + 8, view.height() - _RULER)
    for bar in (top, left):
        painter.fillRect(bar, theme().colour("panel", 240))
    painter.setPen(theme().colour("ink"))
    for number, x in _marks(view, ground, across=True):
        painter.drawText(QRectF(x - 20, 0, 40, _RULER), Qt.AlignmentFlag.AlignCenter, str(number))
    for number, y in _marks(view, ground, across=False):
        if y > _RULER:
            painter.drawText(QRectF(0, y - 8, _RULER + 8, 16), Qt.AlignmentFlag.AlignCenter, str(number))
    painter.restore()


def _marks(view: "GroundView", ground: Ground, *, across: bool) -> Iterator[tuple[int, float]]:
    """Numbers of columns or rows in view, far enough apart to be read, and where their middles lie."""
    seen = view.cells_in_view()
    if seen.is_empty:
        return
    first, last = (seen.left, seen.right) if across else (seen.top, seen.bottom)

    def middle(number: int) -> float:
        row, column = (seen.top, number) if across else (number, seen.left)
        if ground.grid == "diamond":
            # Columns are numbered along the upper right border, rows along the upper left one.
            row, column = (0, number) if across else (number, 0)
        box = view.cells_rect(CellRect(row, column, 1, 1))
        return box.center().x() if across else box.center().y()

    apart = abs(middle(first + 1) - middle(first)) if last - first > 1 else _APART
    step = next((one for one in _STEPS if one * apart >= (_APART if across else _APART / 2)), _STEPS[-1])
    for number in range(-(-first // step) * step, last, step):
        yield number, middle(number)


def draw_axes(painter: QPainter, view: "GroundView", symmetry: Symmetry) -> None:
    """Draws the lines about which strokes are mirrored."""
    for pen in (QPen(DARK, 3), QPen(theme().colour("thread"), 1.5, Qt.PenStyle.DashLine)):
        painter.setPen(pen)
        for start, end in symmetry.axes():
            painter.drawLine(view.to_widget(*start), view.to_widget(*end))


def draw_mark(painter: QPainter, view: "GroundView", row: int, column: int) -> None:
    """Draws a ring round a cell."""
    rect = view.cells_rect(CellRect(row, column, 1, 1)).adjusted(-4, -4, 4, 4)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for colour, width in ((DARK, 5), (theme().colour("thread"), 3)):
        painter.setPen(QPen(colour, width))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect, 5, 5)


def draw_measure(painter: QPainter, view: "GroundView", start: Spot, end: Spot) -> None:
    """Writes beside the pointer how many cells lie between two places, both counted."""
    ends = [cell_of(start), cell_of(end)]
    if view.knitted is not None and view.knitted.ground.board.in_rows:
        ends = [view.knitted.ground.board.stored("cells", *cell) for cell in ends]
    (y0, x0), (y1, x1) = ends
    says = f"{abs(x1 - x0) + 1} x {abs(y1 - y0) + 1}"
    at = view.point(*end) + QPointF(14, 14)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    font = painter.font()
    font.setPixelSize(12)
    painter.setFont(font)
    room = QRectF(painter.fontMetrics().boundingRect(says)).adjusted(-5, -2, 5, 2)
    room.moveTopLeft(at)
    room.moveRight(min(room.right(), view.width() - 2.0))
    room.moveBottom(min(room.bottom(), view.height() - 2.0))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(20, 16, 14, 200))
    painter.drawRoundedRect(room, 4, 4)
    painter.setPen(QColor(248, 244, 236))
    painter.drawText(room, Qt.AlignmentFlag.AlignCenter, says)
    painter.restore()
