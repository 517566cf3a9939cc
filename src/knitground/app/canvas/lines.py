"""Lines that stand out on any art: dark ones, and lighter ones amid these."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from knitground.app.theme.colours import theme

DARK = QColor(20, 16, 14)
CHOSEN = QColor(140, 186, 232)
"""Lighter than what the themes mark the focus with: art is of any colour, and as dark in either theme."""
_TINT = 60
_MOST_FRAMED = 1000


def draw_line_twice(
    painter: QPainter, colour: QColor, draw: Callable[[], object], style: Qt.PenStyle = Qt.PenStyle.SolidLine
) -> None:
    """Draws a line so that it stands out on any art: dark and wide first, then in its colour and style."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for line, width, how in ((DARK, 4, Qt.PenStyle.SolidLine), (colour, 2, style)):
        painter.setPen(QPen(line, width, how, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        draw()


def draw_chosen(painter: QPainter, rects: Sequence[QRectF]) -> None:
    """Marks what is chosen: each rectangle tinted and framed.

    Parameters
    ----------
    painter : QPainter
    rects : sequence of QRectF
        On the widget.
    """
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme().colour("focus", _TINT))
    painter.drawRects(list(rects))
    if len(rects) <= _MOST_FRAMED:
        draw_line_twice(painter, CHOSEN, lambda: painter.drawRects(list(rects)))
        return
    # Lines of one pixel are drawn a hundred times as fast as wider ones.
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, by in ((DARK, 0), (CHOSEN, 1)):
        painter.setPen(QPen(colour, 1))
        painter.translate(by, by)
        painter.drawRects(list(rects))
        painter.translate(-by, -by)


def draw_band(painter: QPainter, rect: QRectF) -> None:
    """The rectangle that is being dragged, to choose what it touches."""
    painter.fillRect(rect, theme().colour("focus", _TINT // 2))
    draw_line_twice(painter, CHOSEN, lambda: painter.drawRect(rect), Qt.PenStyle.DashLine)
