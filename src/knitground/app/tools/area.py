"""Rectangles: seen while they are dragged, laid when the button goes up."""

from contextlib import suppress

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from knitground.app.theme.colours import theme
from knitground.app.tools import Pointer, Tool
from knitground.app.tools.laying import areas, lay, rounds, values
from knitground.app.tools.preview import draw_tiles
from knitground.core.errors import BadRequest, KnitGroundError
from knitground.core.ground.layers import TileLayer


class Area(Tool):
    """Lays a rectangle; on edges a run once round."""

    name, title, icon, key = "area", "Area", "area", "A"
    tip = "Area: drag a rectangle, right button erases it"

    def __init__(self, session) -> None:
        super().__init__(session)
        self._start: Pointer | None = None
        self._end: Pointer | None = None
        self._erase = False

    def press(self, at: Pointer, *, erase: bool = False) -> None:
        if self.session.layer is None:
            raise BadRequest("This ground has no layer yet; add one with the plus at the right.")
        self._start = self._end = at
        self._erase = erase

    def drag(self, at: Pointer) -> None:
        self._end = at

    def release(self, at: Pointer) -> None:
        if self._start is None:
            return
        layer, start = self.session.layer, self._start
        self._start = None
        document = self.session.document
        document.begin("erase area" if self._erase else "area")
        try:
            for one, other in rounds(self.session, start, at):
                lay(self.session, layer, areas(self.session, layer, one, other), "area", erase=self._erase)
        finally:
            document.commit()

    def leave(self) -> None:
        self._start = None

    def paint(self, painter: QPainter, view) -> None:
        layer = self.session.layer
        if self._start is None or layer is None:
            return
        shapes = areas(self.session, layer, self._start, self._end)
        if isinstance(layer, TileLayer) and not self._erase:
            shape = shapes["cells"]
            # Where nothing is chosen to lay, that is said when the button goes up.
            with suppress(KnitGroundError):
                draw_tiles(painter, view, self.session, shape, lambda w: values(self.session, layer, w, erase=False))
        frame = QRectF(view.cells_rect(next(iter(shapes.values())).window)) if shapes else QRectF()
        for shape in shapes.values():
            frame = frame.united(view.cells_rect(shape.window))
        if "corners" in shapes:
            cell = view.cells_rect(shapes["corners"].window._replace(height=1, width=1))
            frame = frame.translated(-cell.width() / 2, -cell.height() / 2)
        for line, width in ((QColor(20, 16, 14), 4), (theme().colour("thread"), 2)):
            painter.setPen(QPen(line, width, Qt.PenStyle.SolidLine))
            painter.drawRect(frame)
