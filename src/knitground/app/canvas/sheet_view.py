"""A sheet, large and sharp, with its cut; what the pointer does on it is up to the mode of the stage."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from knitground.app.canvas.pixel_view import ZOOMS, PixelView
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_checker, image_of
from knitground.core.sheet.cut import Cut, CutGrid, tile_at, tile_rect
from knitground.core.sheet.picture import Sheet
from knitground.core.tiles.tile import TileRef

OUTLINE = QColor(22, 17, 15)


class SheetMode:
    """What a stage does on the sheet; tiles begin at least so many pixels large."""

    smallest_tile = 1

    def paint(self, painter: QPainter, view: "SheetView") -> None:
        """Draws the stage's marks over the sheet."""

    def press(self, view: "SheetView", point: QPointF, event: QMouseEvent) -> None:
        """The button went down at a point of the picture."""

    def drag(self, view: "SheetView", point: QPointF, event: QMouseEvent) -> None:
        """The pointer moved with the button down."""

    def release(self, view: "SheetView", point: QPointF, event: QMouseEvent) -> None:
        """The button went up."""

    def hover(self, view: "SheetView", point: QPointF | None) -> None:
        """The pointer moved freely, or left."""

    def key(self, view: "SheetView", event: QKeyEvent) -> bool:
        """A key went down; whether it was used."""
        return False


class SheetView(PixelView):
    """Shows the sheet that is chosen in the session."""

    def __init__(self, session: Session, mode: SheetMode) -> None:
        super().__init__()
        self.setAccessibleName("Sheet")
        self.session = session
        self.mode = mode
        self._shown: str | None = None
        self._made_from: object = None
        self._image = QImage()
        self._revealed: TileRef | None = None
        session.defined.connect(self._refresh)
        session.chosen.connect(self._refresh)
        session.opened.connect(self._refresh)

    @property
    def sheet(self) -> Sheet | None:
        """The sheet that is shown."""
        sheets = self.session.document.project.sheets
        return next((sheet for sheet in sheets if sheet.id == self.session.sheet_id), None)

    @property
    def cut(self) -> Cut | None:
        """The cut at hand."""
        return self.sheet.cuts[0] if self.sheet and self.sheet.cuts else None

    @property
    def grid(self) -> CutGrid | None:
        """Columns and rows of the cut, if it fits."""
        sheet, cut = self.sheet, self.cut
        return self.session.derived.grids().get((sheet.id, cut.id)) if sheet and cut else None

    def content_size(self) -> tuple[int, int]:
        if self.sheet is None:
            return 1, 1
        height, width = self.session.document.state.pictures[self.sheet.id].pixels.shape[:2]
        return width, height

    def place_first(self) -> None:
        """As wide as it goes; where a stage paints on tiles, they are large enough to hit."""
        tile = min(self.cut.tile_width, self.cut.tile_height) if self.cut else 16
        wanted = -(-self.mode.smallest_tile // tile)
        self.fit_width(at_least=next((zoom for zoom in ZOOMS if zoom >= wanted), 1))

    def ref_at(self, point: QPointF) -> TileRef | None:
        """The tile under a point of the picture."""
        sheet, cut, grid = self.sheet, self.cut, self.grid
        if sheet is None or cut is None or grid is None:
            return None
        place = tile_at(cut, grid, point.x(), point.y())
        return TileRef(sheet.id, cut.id, *place) if place else None

    def tile_on_widget(self, column: int, row: int) -> QRectF:
        """Where a tile lies on the widget."""
        return self.rect_on_widget(*tile_rect(self.cut, column, row))

    def pressed(self, point: QPointF, event: QMouseEvent) -> None:
        self.session.attempt(lambda: self.mode.press(self, point, event))
        self.update()

    def dragged(self, point: QPointF, event: QMouseEvent) -> None:
        self.session.attempt(lambda: self.mode.drag(self, point, event))
        self.update()

    def released(self, point: QPointF, event: QMouseEvent) -> None:
        self.session.attempt(lambda: self.mode.release(self, point, event))
        self.update()

    def hovered(self, point: QPointF | None) -> None:
        self.mode.hover(self, point)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.mode.key(self, event):
            super().keyPressEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme().colour("well"))
        if self.sheet is None:
            return
        self.sharp(painter)
        whole = self.rect_on_widget(0, 0, *self.content_size())
        painter.save()
        painter.setClipRect(whole)
        draw_checker(painter, whole.intersected(QRectF(self.rect())), 8)
        painter.drawImage(whole, self._image)
        painter.restore()
        self.mode.paint(painter, self)

    def draw_lines(self, painter: QPainter) -> None:
        """The borders of all tiles."""
        cut, grid = self.cut, self.grid
        if cut is None or grid is None or min(cut.pitch_x, cut.pitch_y) * self.zoom < 4:
            return
        rects = [
            self.tile_on_widget(column, row)
            for row in range(grid.rows)
            for column in range(grid.columns)
        ]  # fmt: skip
        seen = QRectF(self.rect())
        rects = [rect for rect in rects if rect.intersects(seen)]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(0, 0, 0, 90), 1))
        painter.drawRects(rects)
        painter.setPen(QPen(QColor(255, 255, 255, 120), 1, Qt.PenStyle.DotLine))
        painter.drawRects(rects)

    def draw_frame(self, painter: QPainter, ref: TileRef, colour: str = "focus") -> None:
        """A frame round one tile of this sheet."""
        if self.sheet is None or self.cut is None or (ref.sheet, ref.cut) != (self.sheet.id, self.cut.id):
            return
        rect = self.tile_on_widget(ref.column, ref.row)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line, width in ((OUTLINE, 5), (theme().colour(colour), 3)):
            painter.setPen(
                QPen(line, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap, Qt.PenJoinStyle.MiterJoin)
            )
            painter.drawRect(rect)

    def reveal(self, ref: TileRef) -> None:
        """Moves a tile of this sheet into view, if it is not."""
        sheet, cut = self.sheet, self.cut
        if sheet is None or cut is None or (ref.sheet, ref.cut) != (sheet.id, cut.id) or not self.isVisible():
            return
        self.bring_into_view(self.tile_on_widget(ref.column, ref.row))

    def _refresh(self, *_: object) -> None:
        sheet = self.sheet
        if sheet is not None:
            pixels = self.session.document.state.pictures[sheet.id].keyed(sheet.keys)
            if self._made_from is not pixels:
                self._made_from = pixels
                self._image = image_of(pixels)
        identity = sheet.id if sheet else None
        if (identity, self.session.document) != self._shown:
            self._shown = (identity, self.session.document)
            self.replace_content()
        if self.session.tile != self._revealed:
            self._revealed = self.session.tile
            if self._revealed is not None:
                self.reveal(self._revealed)
        self.update()
