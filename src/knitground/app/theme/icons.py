"""Icons, drawn in one line weight on a grid of 20 units; each is a few strokes."""

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QIconEngine, QPainter, QPainterPath, QPen, QPixmap

from knitground.app.theme.colours import theme

_Stroke = list[tuple[float, float]]
_STROKES: dict[str, list[_Stroke]] = {
    # a needle with its thread
    "draw": [[(16, 3), (6, 13)], [(6, 13), (4, 16), (7, 14)], [(13, 9), (15, 12), (11, 14), (13, 17)]],
    # a thread cut in two
    "erase": [[(3, 10), (7, 10)], [(13, 10), (17, 10)], [(8, 15), (12, 5)]],
    # corners of a cloth
    "area": [[(4, 8), (4, 4), (8, 4)], [(12, 4), (16, 4), (16, 8)], [(16, 12), (16, 16), (12, 16)], [(8, 16), (4, 16), (4, 12)]],
    # a region filled with rows of knitting
    "fill": [[(3, 6), (6, 9), (9, 6), (12, 9), (15, 6), (17, 8)], [(3, 11), (6, 14), (9, 11), (12, 14), (15, 11), (17, 13)]],
    # a hook that takes a loop
    "pick": [[(15, 3), (8, 12)], [(8, 12), (6, 15), (9, 17), (12, 15)]],
    # snippets of thread that fall about
    "spray": [[(4, 5), (7, 4)], [(12, 3), (14, 6)], [(9, 9), (11, 8)], [(3, 12), (5, 14)], [(15, 11), (17, 10)], [(9, 15), (12, 16)]],
    "form_box": [[(4, 5), (16, 5), (16, 15), (4, 15), (4, 5)], [(4, 8), (16, 8)], [(4, 12), (16, 12)]],
    "form_frame": [[(4, 5), (16, 5), (16, 15), (4, 15), (4, 5)]],
    "form_round": [[(10, 4), (14, 6), (16, 10), (14, 14), (10, 16), (6, 14), (4, 10), (6, 6), (10, 4)], [(5, 8), (15, 8)], [(5, 12), (15, 12)]],
    "form_ring": [[(10, 4), (14, 6), (16, 10), (14, 14), (10, 16), (6, 14), (4, 10), (6, 6), (10, 4)]],
    "form_line": [[(4, 15), (16, 5)]],
    # the same stitch in several places
    "alike": [[(3, 5), (5, 8), (7, 5)], [(12, 4), (14, 7), (16, 4)], [(7, 13), (9, 16), (11, 13)]],
    # a basted seam round a piece of cloth
    "select": [[(4, 4), (7, 4)], [(10, 4), (13, 4)], [(16, 4), (16, 7)], [(16, 10), (16, 13)], [(16, 16), (13, 16)], [(10, 16), (7, 16)], [(4, 16), (4, 13)], [(4, 10), (4, 7)]],
    # a patch with its stitches
    "block": [[(5, 5), (15, 5), (15, 15), (5, 15), (5, 5)], [(3, 8), (7, 8)], [(13, 12), (17, 12)], [(8, 13), (8, 17)], [(12, 3), (12, 7)]],
    "way_box": [[(4, 6), (16, 6), (16, 14), (4, 14), (4, 6)]],
    "way_lasso": [[(6, 14), (4, 10), (6, 6), (11, 4), (15, 6), (16, 10), (12, 13), (8, 13), (6, 17)]],
    "way_touching": [[(3, 6), (6, 9), (9, 6), (12, 9)], [(6, 12), (9, 15), (12, 12), (15, 15)]],
    "way_alike": [[(3, 5), (5, 8), (7, 5)], [(12, 4), (14, 7), (16, 4)], [(7, 13), (9, 16), (11, 13)]],
    "way_tagged": [[(3, 6), (10, 6), (16, 10), (10, 14), (3, 14), (3, 6)], [(5, 8), (7, 11), (9, 8)]],
    # several layers of cloth
    "across": [[(10, 3), (17, 7), (10, 11), (3, 7), (10, 3)], [(3, 10), (10, 14), (17, 10)], [(3, 13), (10, 17), (17, 13)]],
    # the same stitch upright, and fallen about
    "turning_as_it_is": [[(3, 7), (5, 12), (8, 7)], [(12, 7), (14, 12), (17, 7)]],
    "turning_mirrored": [[(3, 8), (5, 12), (8, 8), (8, 5)], [(12, 5), (12, 8), (15, 12), (17, 8)]],
    "turning_turned": [[(3, 4), (5, 8), (8, 4)], [(17, 4), (13, 6), (17, 9)], [(4, 17), (7, 13), (9, 17)], [(12, 12), (16, 14), (12, 17)]],
    # a stitch and its images over a fold
    "symmetry_none": [[(3, 6), (6, 14), (9, 6)], [(14, 3), (14, 6)], [(14, 9), (14, 12)], [(14, 15), (14, 17)]],
    "symmetry_across": [[(3, 7), (5, 13), (8, 7)], [(17, 7), (15, 13), (12, 7)], [(10, 3), (10, 6)], [(10, 9), (10, 12)], [(10, 15), (10, 17)]],
    "symmetry_down": [[(6, 3), (10, 8), (14, 3)], [(6, 17), (10, 12), (14, 17)], [(3, 10), (6, 10)], [(9, 10), (12, 10)], [(15, 10), (17, 10)]],
    "symmetry_both": [[(3, 3), (5, 7), (8, 3)], [(17, 3), (15, 7), (12, 3)], [(3, 17), (5, 13), (8, 17)], [(17, 17), (15, 13), (12, 17)]],
    "symmetry_turned": [[(7, 3), (10, 7), (13, 3)], [(17, 7), (13, 10), (17, 13)], [(13, 17), (10, 13), (7, 17)], [(3, 13), (7, 10), (3, 7)]],
    "symmetry_wrapping": [[(4, 4), (16, 4), (16, 16), (4, 16), (4, 4)], [(13, 8), (18, 10), (13, 12)], [(2, 8), (7, 10), (2, 12)]],
    # a pin over a field, half of one, a dot, and none
    "snap_cell": [[(4, 4), (16, 4), (16, 16), (4, 16), (4, 4)], [(7, 10), (13, 10)], [(10, 7), (10, 13)]],
    "snap_half": [[(4, 4), (16, 4), (16, 16), (4, 16), (4, 4)], [(10, 4), (10, 16)], [(7, 10), (13, 10)]],
    "snap_pixel": [[(4, 4), (6, 4)], [(14, 4), (16, 4)], [(4, 16), (6, 16)], [(14, 16), (16, 16)], [(7, 10), (13, 10)], [(10, 7), (10, 13)]],
    "snap_free": [[(4, 13), (7, 8), (11, 12), (16, 6)], [(13, 10), (19, 2)]],
    "undo": [[(5, 8), (12, 8), (15, 11), (15, 13), (12, 16), (8, 16)], [(8, 5), (5, 8), (8, 11)]],
    "redo": [[(15, 8), (8, 8), (5, 11), (5, 13), (8, 16), (12, 16)], [(12, 5), (15, 8), (12, 11)]],
    "grid": [[(3, 7), (17, 7)], [(3, 13), (17, 13)], [(7, 3), (7, 17)], [(13, 3), (13, 17)]],
    # a ball of wool that rolls away from its end
    "throw": [
        [(12, 2), (15, 3), (17, 5), (18, 8), (17, 11), (15, 13), (12, 14), (9, 13), (7, 11), (6, 8), (7, 5), (9, 3), (12, 2)],
        [(7, 10), (9, 7), (12, 5), (16, 4)], [(9, 13), (11, 9), (14, 7), (18, 7)],
        [(12, 14), (9, 17), (6, 17), (5, 15), (3, 15), (2, 17)],
    ],
    "plus": [[(10, 4), (10, 16)], [(4, 10), (16, 10)]],
    "minus": [[(4, 10), (16, 10)]],
    "up": [[(5, 12), (10, 7), (15, 12)]],
    "down": [[(5, 8), (10, 13), (15, 8)]],
    # a thread along the borders of cells
    "run": [[(3, 15), (8, 15), (8, 8), (13, 8), (13, 4), (17, 4)]],
    "pin": [[(10, 11), (10, 17)], [(7, 4), (13, 4), (12, 8), (14, 11), (6, 11), (8, 8), (7, 4)]],
    # a shape and its image on either side of a fold
    "mirror_x": [[(10, 3), (10, 17)], [(7, 6), (7, 14), (3, 14), (7, 6)], [(13, 6), (13, 14), (17, 14), (13, 6)]],
    "mirror_y": [[(3, 10), (17, 10)], [(6, 7), (14, 7), (14, 3), (6, 7)], [(6, 13), (14, 13), (14, 17), (6, 13)]],
    "turn": [[(5, 14), (4, 10), (6, 6), (10, 4), (14, 6), (16, 9)], [(16, 4), (16, 9), (11, 9)]],
    "show": [[(3, 10), (6, 6), (10, 5), (14, 6), (17, 10), (14, 14), (10, 15), (6, 14), (3, 10)], [(9, 10), (11, 10)]],
    "hide": [[(3, 9), (7, 13), (13, 13), (17, 9)], [(10, 14), (10, 17)], [(6, 13), (4, 16)], [(14, 13), (16, 16)]],
    "drop": [[(10, 3), (10, 13)], [(6, 9), (10, 13), (14, 9)], [(3, 13), (3, 17), (17, 17), (17, 13)]],
    "onward_small": [[(8, 5), (13, 10), (8, 15)]],
    "more": [[(4, 6), (16, 6)], [(4, 10), (16, 10)], [(4, 14), (11, 14)]],
    "back": [[(17, 10), (4, 10)], [(8, 6), (4, 10), (8, 14)]],
    "onward": [[(3, 10), (16, 10)], [(12, 6), (16, 10), (12, 14)]],
    "close": [[(5, 5), (15, 15)], [(15, 5), (5, 15)]],
}  # fmt: skip


class _Engine(QIconEngine):
    """Draws strokes in the ink of the theme in use, so that icons follow a change of scheme."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._name = name

    def paint(self, painter: QPainter, rect: QRect, mode: QIcon.Mode, state: QIcon.State) -> None:
        colour = theme().colour("quiet" if mode == QIcon.Mode.Disabled else "ink")
        if state == QIcon.State.On:
            colour = theme().colour("on_thread")
        draw_icon(painter, self._name, QRectF(rect), colour)

    def pixmap(self, size: QSize, mode: QIcon.Mode, state: QIcon.State) -> QPixmap:
        image = QPixmap(size)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        self.paint(painter, image.rect(), mode, state)
        painter.end()
        return image

    def clone(self) -> "_Engine":
        return _Engine(self._name)


def icon(name: str) -> QIcon:
    """An icon by its name."""
    return QIcon(_Engine(name))


def draw_icon(painter: QPainter, name: str, rect: QRectF, colour: QColor) -> None:
    """Draws an icon into a rectangle."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(rect.topLeft())
    painter.scale(rect.width() / 20, rect.height() / 20)
    painter.setPen(QPen(colour, 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    for stroke in _STROKES[name]:
        path = QPainterPath(QPointF(*stroke[0]))
        for point in stroke[1:]:
            path.lineTo(*point)
        painter.drawPath(path)
    painter.restore()


def app_icon(size: int = 256) -> QPixmap:
    """The program's mark: two half-stitches of different threads that meet over four tiles."""
    image = QPixmap(size, size)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(size / 64, size / 64)
    painter.setPen(Qt.PenStyle.NoPen)
    for left, top, colour in ((4, 4, "#46516a"), (33, 4, "#64933f"), (4, 33, "#c2ac8a"), (33, 33, "#68493c")):
        painter.setBrush(QColor(colour))
        painter.drawRoundedRect(QRectF(left, top, 27, 27), 5, 5)
    for width, colours in ((13, ("#2B2622", "#2B2622")), (8, ("#F8F4EC", "#E8836B"))):
        for colour, start, end in zip(
            colours, (QPointF(14, 14), QPointF(50, 14)), (QPointF(50, 50), QPointF(14, 50)), strict=True
        ):
            painter.setPen(QPen(QColor(colour), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(start, end)
    painter.end()
    return image
