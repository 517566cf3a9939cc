"""A sheet, large and sharp, with its cut; what the pointer does on it is up to the mode of the stage."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from knitground.app.canvas.edges import draw_edges
from knitground.app.canvas.faces import Face, cell_outlines, face_of
from knitground.app.canvas.lines import DARK
from knitground.app.canvas.pixel_view import ZOOMS, PixelView
from knitground.app.choices import SHOWN_ON_SHEETS
from knitground.app.guard import guarded
from knitground.app.known import known
from knitground.app.session import Session
from knitground.app.theme.colours import theme
from knitground.app.widgets import draw_backdrop, fitted, image_of
from knitground.core.project.document import Document
from knitground.core.sheet.cut import Cut, CutGrid, region_of, tile_at, tile_rect, tile_rects
from knitground.core.sheet.picture import Sheet
from knitground.core.sheet.slices import Slices
from knitground.core.sheet.stepping import place_beside
from knitground.core.tiles.tile import TileRef

_LINES = (QColor(0, 0, 0, 90), Qt.PenStyle.SolidLine), (QColor(255, 255, 255, 120), Qt.PenStyle.DotLine)

_TOLERABLE = 0.6
"""The share of the size that tiles should have, from which on they can still be hit."""
_ROWS, _ALL = 3, 2**31
"""How many rows of tiles had better be seen in a low strip."""


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

    keeps_middle = False  # cards come and go below it

    def __init__(self, session: Session, mode: SheetMode) -> None:
        super().__init__()
        self.setAccessibleName("Sheet")
        self.session = session
        self.mode = mode
        self._shown: tuple[str | None, Document] | None = None
        self._left: dict[str, tuple[float, QPointF]] = {}
        """Where each sheet was looked at when another took its place."""
        self._made_from: object = None
        self._image = QImage()
        self._lines: dict[str, tuple[object, object, list[QRectF]]] = {}
        self._chosen: tuple[object, object, NDArray[np.intp]] = None, None, np.zeros((0, 4), dtype=np.intp)
        self._revealed: TileRef | None = None
        session.defined.connect(self._refresh)
        session.on_choice(self._refresh, *SHOWN_ON_SHEETS)
        session.opened.connect(self._refresh)
        session.clock.ticked.connect(self._on_tick)
        self._refresh()

    @property
    def sheet(self) -> Sheet | None:
        """The sheet that is shown."""
        sheets = self.session.document.project.sheets
        return next((sheet for sheet in sheets if sheet.id == self.session.choices.sheet_id), None)

    @property
    def cut(self) -> Cut | None:
        """The cut at hand."""
        cuts = self.sheet.cuts if self.sheet else ()
        return next((cut for cut in cuts if cut.id == self.session.choices.cut_id), cuts[0] if cuts else None)

    @property
    def slices(self) -> Slices | None:
        """The tiles of the cut, if it fits."""
        sheet, cut = self.sheet, self.cut
        return self.session.derived.sliced().get((sheet.id, cut.id)) if sheet and cut else None

    @property
    def all_slices(self) -> list[Slices]:
        """The tiles of all cuts of the sheet that fit; those on a small part come before those under them."""
        sheet, sliced = self.sheet, self.session.derived.sliced()
        found = [sliced[sheet.id, cut.id] for cut in sheet.cuts if (sheet.id, cut.id) in sliced] if sheet else []
        size = self.content_size()

        def extent(slices: Slices) -> tuple[int, bool]:
            region = region_of(slices.cut, *size)
            return region.width * region.height, slices.cut is not self.cut

        return sorted(found, key=extent)

    @property
    def image(self) -> QImage:
        """The picture, with what counts as transparent made so."""
        return self._image

    @property
    def grid(self) -> CutGrid | None:
        """Columns and rows of the cut, if it fits."""
        return self.slices.grid if self.slices else None

    def content_size(self) -> tuple[int, int]:
        if self.sheet is None:
            return 1, 1
        height, width = self.session.document.state.pictures[self.sheet.id].pixels.shape[:2]
        return width, height

    def place_first(self) -> None:
        """As wide as it goes, or as all single pictures are seen; large enough to hit where a stage paints."""
        tile = min(self.cut.tile_width, self.cut.tile_height) if self.cut and not self.cut.pieces else 16
        wanted = -(-self.mode.smallest_tile // tile)
        least = next((zoom for zoom in ZOOMS if zoom >= wanted), 1)
        # Tiles that are a little smaller are better than some that can't be seen.
        smaller = max((zoom for zoom in ZOOMS if zoom < least), default=least)
        fits = self.content_size()[0] * smaller <= self.width() - 4
        single = bool(self.sheet and self.sheet.images) or bool(self.cut and self.cut.pieces)
        rows = _ALL if single else _ROWS * self.cut.pitch_y if self.cut else 0
        least = smaller if fits and tile * smaller >= _TOLERABLE * self.mode.smallest_tile else least
        self.fit_width(at_least=max(least, 1) if single else least, high=min(rows, self.content_size()[1]))

    def cell_at(self, point: QPointF) -> TileRef | None:
        """The cell under a point of the picture, be it a tile or not."""
        for slices in self.all_slices:
            place = tile_at(slices.cut, slices.grid, point.x(), point.y())
            if place:
                return TileRef(known(self.sheet).id, slices.cut.id, *place)
        return None

    def ref_at(self, point: QPointF) -> TileRef | None:
        """The tile under a point of the picture."""
        ref = self.cell_at(point)
        return ref if ref and self.session.derived.usable([ref]) else None

    def tiles(self) -> list[TileRef]:
        """All tiles of the sheet, cut by cut in reading order."""
        return [
            TileRef(known(self.sheet).id, slices.cut.id, *cell)
            for slices in sorted(self.all_slices, key=lambda one: known(self.sheet).cuts.index(one.cut))
            for cell in slices.cells()
        ]

    def tiles_in(self, start: QPointF, end: QPointF) -> list[TileRef]:
        """The tiles that a rectangle of the picture touches."""
        band = QRectF(start, end).normalized().adjusted(0, 0, 0.01, 0.01)
        return [
            TileRef(known(self.sheet).id, slices.cut.id, *cell)
            for slices in self.all_slices
            for cell in self._cells_in(slices, band).tolist()
            if band.intersects(QRectF(*tile_rect(slices.cut, *cell)))
        ]

    def rect_of(self, ref: TileRef) -> QRectF | None:
        """Where a cell lies on the widget; None where it lies on none of this sheet's cuts."""
        return self.rects_of([ref]).get(ref)

    def rects_of(self, refs: Iterable[TileRef], *, in_view: bool = False) -> dict[TileRef, QRectF]:
        """Where cells of this sheet lie on the widget; with `in_view` only those in view."""
        cuts = {slices.cut.id: slices for slices in self.all_slices}
        name, room, found = known(self.sheet).id, QRectF(self.rect()), {}
        for ref in refs:
            slices = cuts.get(ref.cut) if ref.sheet == name else None
            if slices is not None and ref.column < slices.grid.columns and ref.row < slices.grid.rows:
                rect = self.rect_on_widget(*tile_rect(slices.cut, ref.column, ref.row))
                if not in_view or rect.intersects(room):
                    found[ref] = rect
        return found

    def show_tiles(self, refs: Iterable[TileRef]) -> None:
        """Brings tiles of this sheet into view; where all are, nothing moves."""
        whole = QRectF()
        for rect in self.rects_of(refs).values():
            whole = whole.united(rect)
        if not QRectF(self.rect()).contains(whole):
            on_sheet = QRectF(self.to_content(whole.topLeft()), self.to_content(whole.bottomRight()))
            self.fit_part(on_sheet)

    def bounds_of(self, slices: Slices) -> QRectF:
        """Where all that a cut lies on is on the widget."""
        if slices.cut.region:
            return self.rect_on_widget(*slices.cut.region)
        return self.rect_on_widget(0, 0, *self.content_size())

    def tile_on_widget(self, column: int, row: int) -> QRectF:
        """Where a tile of the cut at hand lies on the widget."""
        return self.rect_on_widget(*tile_rect(known(self.cut), column, row))

    def pressed(self, point: QPointF, event: QMouseEvent) -> None:
        self._moved_by_hand = True  # where one works nothing is fitted in anew
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

    def beside(self, point: QPointF, step: tuple[int, int], *, far: bool) -> QPointF:
        if self.cut is None:
            return point
        place = place_beside(self.cut, self.content_size(), (point.x(), point.y()), step[::-1], whole=far)
        return QPointF(*place)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.mode.key(self, event):
            super().keyPressEvent(event)
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme().colour("well"))
        if self.sheet is None:
            return
        self.sharp(painter)
        whole = self.rect_on_widget(0, 0, *self.content_size())
        painter.save()
        painter.setClipRect(whole)
        draw_backdrop(painter, whole.intersected(QRectF(self.rect())), self.session.choices.backdrop)
        painter.drawImage(whole, self._image)
        self._draw_moving(painter)
        draw_edges(painter, self)
        painter.restore()
        self.mode.paint(painter, self)

    def _draw_moving(self, painter: QPainter) -> None:
        """Draws animated tiles of this sheet as they look now."""
        moved = self.session.clock.playing
        for ref, now in (moved.shown(self.session.clock.ms) if moved and moved.frames else {}).items():
            rect = self.rect_of(ref) if ref != now and ref.sheet == known(self.sheet).id else None
            tile = self.session.derived.tile(now) if rect is not None and rect.intersects(QRectF(self.rect())) else None
            if tile is not None:
                draw_backdrop(painter, known(rect), self.session.choices.backdrop)
                painter.drawImage(fitted(QSize(tile.shape[1], tile.shape[0]), known(rect)), image_of(tile))

    def draw_lines(self, painter: QPainter) -> None:
        """The borders of all tiles; of those that are not square, of the cells that they are drawn for."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for slices in self.all_slices:
            cut = slices.cut
            if not cut.pieces and min(cut.pitch_x, cut.pitch_y) * self.zoom < 4:
                continue
            rects = self._rects_in_view(slices)
            cells = cell_outlines(rects, cut) if cut.shape != "square" else []
            for colour, style in _LINES:
                painter.setPen(QPen(colour, 1, style))
                painter.drawRects([] if cells else rects)
                for cell in cells:
                    painter.drawPolygon(cell)

    def _rects_in_view(self, slices: Slices) -> list[QRectF]:
        """Where those tiles of a cut lie that are in view; kept while the view stays where it is."""
        seen = (self.origin, self.zoom, self.size())
        of, before, rects = self._lines.get(slices.cut.id, (None, None, []))
        if of is not slices or before != seen:
            rects = self._in_view(tile_rects(slices.cut, self._cells_in(slices, self.visible_content())))
            self._lines[slices.cut.id] = slices, seen, rects
        return rects

    def _in_view(self, rects: NDArray[np.intp]) -> list[QRectF]:
        """Those of some rectangles of the picture, (N, 4), that are in view, on the widget."""
        begin = rects[:, :2] * self.zoom + (self.origin.x(), self.origin.y())
        size = rects[:, 2:] * self.zoom
        seen = ((begin < (self.width(), self.height())) & (begin + size > 0)).all(axis=1)
        return [QRectF(*one) for one in np.hstack([begin, size])[seen].tolist()]

    def faces_of(self, refs: Iterable[TileRef]) -> dict[TileRef, Face]:
        """The faces of those of some tiles that are on this sheet and in view."""
        cuts = {cut.id: cut for cut in self.sheet.cuts} if self.sheet is not None else {}
        return {ref: face_of(rect, cuts.get(ref.cut)) for ref, rect in self.rects_of(refs, in_view=True).items()}

    def face_of(self, ref: TileRef, rect: QRectF) -> Face:
        """The face of a tile that lies in a rectangle of the widget."""
        return face_of(rect, self.session.document.project.cuts.get((ref.sheet, ref.cut)))

    def chosen_in_view(self) -> list[QRectF]:
        """Where those of the chosen tiles lie that are on this sheet and in view."""
        chosen, every = self.session.choices.selection, self.all_slices
        if self._chosen[0] is not chosen or self._chosen[1] != every:
            parts = [np.zeros((0, 4), dtype=np.intp)]
            for slices in every:
                of = known(self.sheet).id, slices.cut.id
                mine = [(ref.column, ref.row) for ref in chosen if (ref.sheet, ref.cut) == of]
                cells = np.array(mine, dtype=np.intp).reshape(-1, 2)
                parts.append(tile_rects(slices.cut, cells[(cells < slices.grid[:2]).all(axis=1)]))
            self._chosen = chosen, every, np.concatenate(parts)
        return self._in_view(self._chosen[2])

    def _cells_in(self, slices: Slices, room: QRectF) -> NDArray[np.intp]:
        """Columns and rows, (N, 2), of the tiles of a cut that a rectangle of the picture may touch."""
        cut, held = slices.cut, slices.held
        if cut.pieces:
            return np.argwhere(held[:1, : slices.grid.columns])[:, ::-1]
        left, top, _, _ = tile_rect(cut, 0, 0)
        rows = _places(room.top() - top, room.bottom() - top, cut.pitch_y)
        columns = _places(room.left() - left, room.right() - left, cut.pitch_x)
        cells: NDArray[np.intp] = np.argwhere(held[rows, columns])[:, ::-1] + (columns.start, rows.start)
        return cells

    def draw_frame(self, painter: QPainter, ref: TileRef, colour: str = "focus") -> None:
        """A frame round one tile of this sheet."""
        rect = self.rect_of(ref) if self.sheet else None
        if rect is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line, width in ((DARK, 5), (theme().colour(colour), 3)):
            painter.setPen(
                QPen(line, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap, Qt.PenJoinStyle.MiterJoin)
            )
            painter.drawRect(rect)

    def reveal(self, ref: TileRef) -> None:
        """Moves a tile of this sheet into view, if it is not."""
        rect = self.rect_of(ref) if self.sheet and self.isVisible() else None
        if rect is not None:
            self.bring_into_view(rect)

    def _on_tick(self) -> None:
        if (
            self.isVisible()
            and self.sheet
            and any(ref.sheet == self.sheet.id for ref in known(self.session.clock.playing).frames)
        ):
            self.update()

    def _refresh(self, *_: object) -> None:
        sheet = self.sheet
        if sheet is not None:
            pixels = self.session.document.state.pictures[sheet.id].cleared(sheet)
            if self._made_from is not pixels:
                self._made_from = pixels
                self._image = image_of(pixels)
        identity = sheet.id if sheet else None
        if (identity, self.session.document) != self._shown:
            self._leave()
            self._shown = (identity, self.session.document)
            self.replace_content()
            if identity in self._left:
                self.return_to(self._left[identity])
        if self.session.choices.tile != self._revealed:
            self._revealed = self.session.choices.tile
            if self._revealed is not None:
                self.reveal(self._revealed)
        self.update()

    def _leave(self) -> None:
        """Keeps in mind where the sheet was looked at, if it was moved or zoomed."""
        name, document = self._shown or (None, None)
        if document is not self.session.document:
            self._left = {}
        elif name is not None and self._moved_by_hand:
            self._left[name] = self.place


def _places(low: float, high: float, pitch: int) -> slice:
    """The columns or rows that a stretch may touch."""
    return slice(max(0, int(low // pitch)), max(0, int(high // pitch) + 1))
