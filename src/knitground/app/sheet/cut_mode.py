"""The cut on the picture: its grid, what is left over, and handles that drag its numbers."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen

from knitground.app.canvas.lines import DARK
from knitground.app.canvas.sheet_view import SheetMode, SheetView
from knitground.app.first_guess import told_of_part
from knitground.app.jobs import Job
from knitground.app.known import known, with_id
from knitground.app.theme.colours import theme
from knitground.core.edits.captions import written_tiles
from knitground.core.edits.cuts import PartCut, add_part, cut_of_part, toggle_cell
from knitground.core.edits.sheets import set_cut
from knitground.core.sheet.cut import LARGEST_OFFSET, LARGEST_TILE, Cut, Rect, grid_of, region_of, tile_rect
from knitground.core.sheet.slices import left_over

_GRAB = 14
_APART = 11
_NEAR = 32
_MOST_READ = 1 << 22
"""On pictures of more pixels, writing is not looked for whenever a part was drawn: it would take seconds."""
_STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class CutMode(SheetMode):
    """Handles: the first tile's corner (margin), its far corner (size), the next tile (spacing), the part's corners.

    A click on a cell leaves it out or takes it in. The arrow keys nudge the handle that was touched last. Of a
    collection there is nothing to cut or to leave out: its images are chosen, as on any sheet.
    """

    def __init__(self, choosing: SheetMode) -> None:
        self._choosing = choosing
        self.picks_colour: Callable[[int, int, bool], object] | None = None
        self.draws_part = False
        self.chosen = "margin"
        self._held: str | None = None
        self._over: str | None = None
        self._pressed: QPointF | None = None
        self._start: tuple[QPointF, Cut] | None = None
        self._band: tuple[QPointF, QPointF] | None = None

    def paint(self, painter: QPainter, view: SheetView) -> None:
        if self._chooses(view):
            self._choosing.paint(painter, view)
            return
        self._paint_other_parts(painter, view)
        if view.cut is not None and view.grid is not None:
            self._paint_left_over(painter, view)
            view.draw_lines(painter)
            self._paint_left_out(painter, view)
            self._paint_handles(painter, view)
        if self._band is not None:
            painter.setPen(QPen(theme().colour("thread"), 2, Qt.PenStyle.DashLine))
            painter.setBrush(theme().colour("thread", 40))
            painter.drawRect(QRectF(*(view.to_widget(spot.x(), spot.y()) for spot in self._band)).normalized())

    def press(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self.picks_colour is not None:
            more = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self.picks_colour(int(point.x()), int(point.y()), more)
            return
        if self._chooses(view):
            self._choosing.press(view, point, event)
            _follow(view)
            return
        if self.draws_part:
            self._band = point, point
            return
        self._held = self._handle_at(view, view.to_widget(point.x(), point.y()))
        self._pressed = None if self._held else point
        if self._held and view.cut:
            self.chosen = self._held
            self._start = point, view.cut
            view.session.document.begin(f"drag {self._held}")

    def drag(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._chooses(view):
            self._choosing.drag(view, point, event)
            _follow(view)
            return
        if self._band is not None:
            self._band = self._band[0], point
        if self._held is None or self._start is None or view.sheet is None:
            return
        start, cut = self._start
        moved = point - start
        changed = moved_by(self._held, cut, round(moved.x()), round(moved.y()), view.content_size())
        if changed != view.cut:
            set_cut(view.session.document, view.sheet.id, changed)

    def release(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._chooses(view):
            self._choosing.release(view, point, event)
            return
        if self._band is not None:
            self._add_part(view, QRectF(self._band[0], point).normalized())
        elif self._held is not None:
            self._held = self._start = None
            view.session.document.commit()
        elif self._pressed is not None:
            self._click(view, point)
        self._pressed = None

    def hover(self, view: SheetView, point: QPointF | None) -> None:
        if self._chooses(view):
            self._choosing.hover(view, point)
            return
        self._over = self._handle_at(view, view.to_widget(point.x(), point.y())) if point is not None else None
        crossed = self.picks_colour is not None or self.draws_part
        pointing = Qt.CursorShape.SizeAllCursor if self._over is not None else Qt.CursorShape.ArrowCursor
        view.setCursor(Qt.CursorShape.CrossCursor if crossed else pointing)

    def key(self, view: SheetView, event: QKeyEvent) -> bool:
        if self._chooses(view):
            used = self._choosing.key(view, event)
            _follow(view)
            return used
        if event.key() == Qt.Key.Key_Escape:
            if self._held is not None:
                self._held = self._start = None
                view.session.document.roll_back()
            self.draws_part, self._band, self.picks_colour = False, None, None
            view.session.choose()
            return True
        step = _STEPS.get(Qt.Key(event.key()))
        if step is not None and view.cut is not None and not view.cut.pieces and view.sheet is not None:
            changed = moved_by(self.chosen, view.cut, *step, view.content_size())
            set_cut(view.session.document, view.sheet.id, changed)
            return True
        if event.key() == Qt.Key.Key_H:
            names = list(self.handles(view))
            if names:
                place = names.index(self.chosen) if self.chosen in names else -1
                self.chosen = names[(place + 1) % len(names)]
            return True
        return False

    def _chooses(self, view: SheetView) -> bool:
        """Whether images are chosen, as no colour is being picked on them."""
        return view.sheet is not None and bool(view.sheet.images) and self.picks_colour is None

    def _click(self, view: SheetView, point: QPointF) -> None:
        """Takes another part in hand, or leaves a cell out or takes it in."""
        ref = view.cell_at(point)
        if ref is None:
            return
        if ref.cut != known(view.cut).id:
            view.session.choose(cut_id=ref.cut)
            return
        now = toggle_cell(view.session.document, ref)
        view.session.say(f"Cell {ref.column}, {ref.row} is {'a' if now else 'no'} tile now.")

    def _add_part(self, view: SheetView, band: QRectF) -> None:
        self._band, self.draws_part = None, False
        width, height = view.content_size()
        left, top = max(0, round(band.left())), max(0, round(band.top()))
        right, bottom = min(width, round(band.right())), min(height, round(band.bottom()))
        region = Rect(left, top, max(0, right - left), max(0, bottom - top))
        session, sheet = view.session, known(view.sheet)
        document, pixels = session.document, session.document.state.pictures[sheet.id].cleared(sheet)

        def work(report: Callable[[float], None]) -> tuple[PartCut, int]:
            found = cut_of_part(sheet, pixels, region)
            if found.doubted or pixels.shape[0] * pixels.shape[1] > _MOST_READ:
                return found, 0
            return found, sum(map(len, written_tiles(pixels, (*sheet.cuts, found.cut)).values()))

        def add(found: tuple[PartCut, int]) -> None:
            (cut, doubted), written = found
            if with_id(document.project.sheets, sheet.id) is None or document is not session.document:
                return
            made = add_part(document, sheet.id, cut)
            if session.choices.sheet_id == sheet.id:
                session.choose(cut_id=made)
            grid = grid_of(cut, pixels.shape[1], pixels.shape[0])
            session.say(*told_of_part(made, cut, (grid.columns, grid.rows), written, doubted=doubted))

        session.run(Job("Cutting the part", work), add)
        session.choose()

    def handles(self, view: SheetView) -> dict[str, QPointF]:
        """Where the handles are on the widget; each a little off its corner, so that none hides another."""
        cut, grid = view.cut, view.grid
        if cut is None or grid is None:
            return {}
        handles = {}
        away = QPointF(_APART, _APART)
        if cut.region is not None:
            x, y, width, height = cut.region
            handles["part"] = view.to_widget(x, y) - away * 2.4
            handles["part size"] = view.to_widget(x + width, y + height) + away
        if cut.pieces:
            return {name: _in_view(view, place) for name, place in handles.items()}
        left, top, width, height = tile_rect(cut, 0, 0)
        handles["margin"] = view.to_widget(left, top) - away
        handles["size"] = view.to_widget(left + width, top + height) - away * 0.8
        if grid.columns > 1 or grid.rows > 1:
            next_x = left + (cut.pitch_x if grid.columns > 1 else 0)
            next_y = top + (cut.pitch_y if grid.rows > 1 else 0)
            handles["spacing"] = view.to_widget(next_x, next_y) + away * 0.8
        return {name: _in_view(view, place) for name, place in handles.items()}

    def _handle_at(self, view: SheetView, place: QPointF) -> str | None:
        if self.picks_colour is not None or self.draws_part:
            return None
        near = {name: (spot - place).manhattanLength() for name, spot in self.handles(view).items()}
        name = min(near, key=lambda one: near[one], default=None)
        return name if name and near[name] <= _GRAB else None

    def _paint_handles(self, painter: QPainter, view: SheetView) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        handles = self.handles(view)
        if "size" in handles:
            painter.setPen(QPen(theme().colour("thread"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(view.tile_on_widget(0, 0))
        for name, place in handles.items():
            lively = name in (self._held, self._over)
            painter.setPen(QPen(DARK, 2))
            painter.setBrush(theme().colour("thread" if lively or name == self.chosen else "panel"))
            if name.startswith("part"):
                painter.drawRect(QRectF(place.x() - 6, place.y() - 6, 12, 12))
            else:
                painter.drawEllipse(place, 7, 7)
        # The number goes over all handles, so that none hides it.
        lively_one = self._held or self._over
        if lively_one in handles:
            _paint_label(painter, handles[lively_one], _says(lively_one, known(view.cut)))

    def _paint_other_parts(self, painter: QPainter, view: SheetView) -> None:
        """Frames the parts of the picture that have cuts of their own."""
        for slices in view.all_slices:
            if slices.cut.region is not None:
                mine = slices.cut is view.cut
                style = Qt.PenStyle.SolidLine if mine else Qt.PenStyle.DashLine
                painter.setPen(QPen(theme().colour("thread" if mine else "focus"), 2, style))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(view.bounds_of(slices).adjusted(-2, -2, 2, 2))

    def _paint_left_over(self, painter: QPainter, view: SheetView) -> None:
        """Hatches the pixels at the right and bottom that belong to no tile."""
        part, over = region_of(known(view.cut), *view.content_size()), left_over(known(view.slices))
        right, bottom = part.x + part.width, part.y + part.height
        if over.right:
            _hatch(painter, view.rect_on_widget(right - over.right, part.y, over.right, part.height), "warning")
        if over.bottom:
            wide = part.width - over.right
            _hatch(painter, view.rect_on_widget(part.x, bottom - over.bottom, wide, over.bottom), "warning")

    def _paint_left_out(self, painter: QPainter, view: SheetView) -> None:
        """Hatches cells that hold something and are no tiles."""
        slices = known(view.slices)
        for column, row in slices.cut.left_out:
            if column < slices.grid.columns and row < slices.grid.rows:
                _hatch(painter, view.tile_on_widget(column, row), "quiet")


def moved_by(handle: str, cut: Cut, x: int, y: int, size: tuple[int, int]) -> Cut:
    """The cut after a handle moved by some pixels, held to what fits the picture."""
    part = region_of(cut, *size)
    if handle == "part":
        left, top = _held(part.x + x, 0, part.x + part.width - 4), _held(part.y + y, 0, part.y + part.height - 4)
        region = Rect(left, top, part.x + part.width - left, part.y + part.height - top)
        return replace(cut, region=region)
    if handle == "part size":
        width, height = _held(part.width + x, 4, size[0] - part.x), _held(part.height + y, 4, size[1] - part.y)
        return replace(cut, region=part._replace(width=width, height=height))
    if handle == "margin":
        return replace(
            cut,
            margin_x=_held(cut.margin_x + x, 0, min(LARGEST_OFFSET, part.width - cut.tile_width)),
            margin_y=_held(cut.margin_y + y, 0, min(LARGEST_OFFSET, part.height - cut.tile_height)),
        )
    if handle == "size":
        return replace(
            cut,
            tile_width=_held(cut.tile_width + x, 1, min(LARGEST_TILE, part.width - cut.margin_x)),
            tile_height=_held(cut.tile_height + y, 1, min(LARGEST_TILE, part.height - cut.margin_y)),
        )
    return replace(
        cut,
        spacing_x=_held(cut.spacing_x + x, 0, LARGEST_OFFSET),
        spacing_y=_held(cut.spacing_y + y, 0, LARGEST_OFFSET),
    )


def _follow(view: SheetView) -> None:
    """Takes the cut of the tile at hand in hand too: it is what the card is about."""
    tile = view.session.choices.tile
    if tile is not None and view.sheet is not None and tile.sheet == view.sheet.id:
        view.session.choose(cut_id=tile.cut)


def _in_view(view: SheetView, place: QPointF) -> QPointF:
    """Where a handle just beyond the border of the view can still be taken hold of; others stay where they are."""
    room = QRectF(view.rect())
    if not room.adjusted(-_NEAR, -_NEAR, _NEAR, _NEAR).contains(place):
        return place
    inner = room.adjusted(8, 8, -8, -8)
    return QPointF(
        min(max(place.x(), inner.left()), inner.right()), min(max(place.y(), inner.top()), inner.bottom())
    )  # fmt: skip


def _held(value: int, low: int, high: int) -> int:
    return max(low, min(value, max(low, high)))


def _says(handle: str, cut: Cut) -> str:
    numbers = {
        "margin": (cut.margin_x, cut.margin_y),
        "size": (cut.tile_width, cut.tile_height),
        "spacing": (cut.spacing_x, cut.spacing_y),
    }
    if cut.region is not None:
        numbers |= {"part": cut.region[:2], "part size": cut.region[2:]}
    return f"{handle} {numbers[handle][0]}, {numbers[handle][1]}"


def _hatch(painter: QPainter, rect: QRectF, colour: str) -> None:
    painter.fillRect(rect, theme().colour(colour, 70))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme().colour(colour))
    painter.setBrush(Qt.BrushStyle.BDiagPattern)
    painter.drawRect(rect)


def _paint_label(painter: QPainter, place: QPointF, text: str) -> None:
    metrics = painter.fontMetrics()
    rect = QRectF(place.x() + 14, place.y() + 8, metrics.horizontalAdvance(text) + 16, 24)
    painter.setPen(QPen(theme().colour("line"), 1))
    painter.setBrush(theme().colour("panel"))
    painter.drawRoundedRect(rect, 5, 5)
    painter.setPen(QColor(theme().ink))
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
