"""The cut on the picture: its grid, what is left over, and handles that drag its numbers."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen

from knitground.app.canvas.sheet_view import OUTLINE, SheetMode, SheetView
from knitground.app.theme.colours import theme
from knitground.core.project.operations import set_cut
from knitground.core.sheet.cut import LARGEST_OFFSET, LARGEST_TILE, Cut, tile_rect

_GRAB = 14
_APART = 11


class CutMode(SheetMode):
    """Three handles: the first tile's corner (margin), its far corner (size), and the next tile (spacing)."""

    def __init__(self) -> None:
        self.picks_colour: Callable[[int, int], object] | None = None
        self._held: str | None = None
        self._over: str | None = None
        self._start: tuple[QPointF, Cut] | None = None

    def paint(self, painter: QPainter, view: SheetView) -> None:
        if view.cut is None or view.grid is None:
            return
        self._paint_left_over(painter, view)
        view.draw_lines(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme().colour("thread"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(view.tile_on_widget(0, 0))
        handles = self._handles(view)
        for name, place in handles.items():
            lively = name in (self._held, self._over)
            painter.setPen(QPen(OUTLINE, 2))
            painter.setBrush(theme().colour("thread" if lively else "panel"))
            painter.drawEllipse(place, 7, 7)
        # The number goes over all handles, so that none hides it.
        lively_one = self._held or self._over
        if lively_one in handles:
            self._paint_label(painter, handles[lively_one], _says(lively_one, view.cut))

    def press(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self.picks_colour is not None:
            self.picks_colour(int(point.x()), int(point.y()))
            return
        self._held = self._handle_at(view, view.to_widget(point.x(), point.y()))
        if self._held and view.cut:
            self._start = point, view.cut
            view.session.document.begin(f"drag {self._held}")

    def drag(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._held is None or self._start is None or view.sheet is None:
            return
        start, cut = self._start
        moved = point - start
        changed = _dragged(self._held, cut, round(moved.x()), round(moved.y()), view.content_size())
        if changed != view.cut:
            set_cut(view.session.document, view.sheet.id, changed)

    def release(self, view: SheetView, point: QPointF, event: QMouseEvent) -> None:
        if self._held is not None:
            self._held = self._start = None
            view.session.document.commit()

    def hover(self, view: SheetView, point: QPointF | None) -> None:
        self._over = self._handle_at(view, view.to_widget(point.x(), point.y())) if point is not None else None
        pointing = self._over is not None
        if self.picks_colour is not None:
            view.setCursor(Qt.CursorShape.CrossCursor)
        else:
            view.setCursor(Qt.CursorShape.SizeAllCursor if pointing else Qt.CursorShape.ArrowCursor)

    def key(self, view: SheetView, event: QKeyEvent) -> bool:
        if event.key() == Qt.Key.Key_Escape and self._held is not None:
            self._held = self._start = None
            view.session.document.roll_back()
            return True
        return False

    def _handles(self, view: SheetView) -> dict[str, QPointF]:
        """Where the handles are on the widget; each a little off its corner, so that none hides another."""
        cut, grid = view.cut, view.grid
        if cut is None or grid is None:
            return {}
        left, top, width, height = tile_rect(cut, 0, 0)
        away = QPointF(_APART, _APART)
        handles = {
            "margin": view.to_widget(left, top) - away,
            "size": view.to_widget(left + width, top + height) - away * 0.8,
        }
        if grid.columns > 1 or grid.rows > 1:
            next_x = left + (cut.pitch_x if grid.columns > 1 else 0)
            next_y = top + (cut.pitch_y if grid.rows > 1 else 0)
            handles["spacing"] = view.to_widget(next_x, next_y) + away * 0.8
        return handles

    def _handle_at(self, view: SheetView, place: QPointF) -> str | None:
        if self.picks_colour is not None:
            return None
        near = {name: (spot - place).manhattanLength() for name, spot in self._handles(view).items()}
        name = min(near, key=lambda one: near[one], default=None)
        return name if name and near[name] <= _GRAB else None

    def _paint_left_over(self, painter: QPainter, view: SheetView) -> None:
        """Hatches the pixels at the right and bottom that belong to no tile."""
        grid = view.grid
        width, height = view.content_size()
        over = [
            QRectF(width - grid.left_over_x, 0, grid.left_over_x, height),
            QRectF(0, height - grid.left_over_y, width - grid.left_over_x, grid.left_over_y),
        ]
        colour = theme().colour("warning")
        for rect in over:
            if rect.width() > 0 and rect.height() > 0:
                shown = view.rect_on_widget(rect.x(), rect.y(), rect.width(), rect.height())
                painter.fillRect(shown, theme().colour("warning", 70))
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour)
                painter.setBrush(Qt.BrushStyle.BDiagPattern)
                painter.drawRect(shown)

    def _paint_label(self, painter: QPainter, place: QPointF, text: str) -> None:
        metrics = painter.fontMetrics()
        rect = QRectF(place.x() + 14, place.y() + 8, metrics.horizontalAdvance(text) + 16, 24)
        painter.setPen(QPen(theme().colour("line"), 1))
        painter.setBrush(theme().colour("panel"))
        painter.drawRoundedRect(rect, 5, 5)
        painter.setPen(QColor(theme().ink))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)


def _dragged(handle: str, cut: Cut, x: int, y: int, size: tuple[int, int]) -> Cut:
    """The cut after a handle moved by some pixels, held to what fits the picture."""
    if handle == "margin":
        return replace(
            cut,
            margin_x=_held(cut.margin_x + x, 0, min(LARGEST_OFFSET, size[0] - cut.tile_width)),
            margin_y=_held(cut.margin_y + y, 0, min(LARGEST_OFFSET, size[1] - cut.tile_height)),
        )
    if handle == "size":
        return replace(
            cut,
            tile_width=_held(cut.tile_width + x, 1, min(LARGEST_TILE, size[0] - cut.margin_x)),
            tile_height=_held(cut.tile_height + y, 1, min(LARGEST_TILE, size[1] - cut.margin_y)),
        )
    return replace(
        cut,
        spacing_x=_held(cut.spacing_x + x, 0, LARGEST_OFFSET),
        spacing_y=_held(cut.spacing_y + y, 0, LARGEST_OFFSET),
    )


def _held(value: int, low: int, high: int) -> int:
    return max(low, min(value, max(low, high)))


def _says(handle: str, cut: Cut) -> str:
    numbers = {
        "margin": (cut.margin_x, cut.margin_y),
        "size": (cut.tile_width, cut.tile_height),
        "spacing": (cut.spacing_x, cut.spacing_y),
    }[handle]
    return f"{handle} {numbers[0]}, {numbers[1]}"
