"""A shade along those borders of a view beyond which its content goes on."""

from PySide6.QtCore import QRectF
from PySide6.QtGui import QLinearGradient, QPainter

from knitground.app.canvas.pixel_view import PixelView
from knitground.app.theme.colours import theme

_WIDE = 14
_DARK = 110


def draw_edges(painter: QPainter, view: PixelView) -> None:
    """Shades the borders beyond which there is more to see."""
    whole = view.rect_on_widget(0, 0, *view.content_size())
    room = QRectF(view.rect())
    for beyond, strip in (
        (room.left() - whole.left(), QRectF(room.left(), room.top(), _WIDE, room.height())),
        (whole.right() - room.right(), QRectF(room.right(), room.top(), -_WIDE, room.height())),
        (room.top() - whole.top(), QRectF(room.left(), room.top(), room.width(), _WIDE)),
        (whole.bottom() - room.bottom(), QRectF(room.left(), room.bottom(), room.width(), -_WIDE)),
    ):
        if beyond >= 1:
            upright = abs(strip.height()) > abs(strip.width())
            shade = QLinearGradient(strip.topLeft(), strip.topRight() if upright else strip.bottomLeft())
            shade.setColorAt(0, theme().colour("ink", _DARK))
            shade.setColorAt(1, theme().colour("ink", 0))
            painter.fillRect(strip.normalized().intersected(whole), shade)
