"""A view of a ground: where its flat places and cells lie on the widget."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPolygonF

from knitground.app.canvas.pixel_view import PixelView
from knitground.core.edits.painting import Spot
from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.grid.rect import CellRect
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.layer import Layer

_RING_POINTS = 48


class FlatView(PixelView):
    """Base of the view of a ground: from the widget to its places, and from those to the widget."""

    def __init__(self) -> None:
        super().__init__()
        self._shift = QPointF()

    @property
    def knitted(self) -> Knitted | None:
        """The ground that is shown."""
        raise NotImplementedError

    @property
    def worked_on(self) -> Layer | None:
        """The layer that gestures work on."""
        raise NotImplementedError

    @contextmanager
    def moved_with(self, layer: Layer | None) -> Iterator[None]:
        """What is drawn meanwhile lies where a layer shows it; with None where the ground itself does."""
        origin, shift = self.origin, self._shift
        self._shift = _shift_of(layer)
        self.origin = origin + (self._shift - shift) * self.zoom
        try:
            yield
        finally:
            self.origin, self._shift = origin, shift

    def content_size(self) -> tuple[int, int]:
        knitted = self.knitted
        return (1, 1) if knitted is None else knitted.ground.projection.size

    def spot_at(self, point: QPointF) -> Spot:
        """The flat place of the ground at a point of the content, as the layer that is worked on shows it."""
        knitted = self.knitted
        if knitted is None:
            return -1.0, -1.0
        point = point - _shift_of(self.worked_on)
        y, x = knitted.ground.projection.place(point.x(), point.y())
        return float(y), float(x)

    def content_at(self, y: float, x: float) -> QPointF:
        """The point of the content where the layer that is worked on shows a flat place of the ground."""
        knitted = self.knitted
        place = QPointF() if knitted is None else QPointF(*knitted.ground.projection.point(y, x))
        return place + _shift_of(self.worked_on)

    def on_widget(self, area: QRectF) -> QRectF:
        """A rectangle of the content on the widget."""
        return self.rect_on_widget(area.x(), area.y(), area.width(), area.height())

    def cells_rect(self, cells: CellRect) -> QRectF:
        """The smallest rectangle on the widget that holds the boxes of some cells."""
        knitted = self.knitted
        return QRectF() if knitted is None else self.rect_on_widget(*knitted.ground.projection.bounds(cells))

    def cell_on_widget(self) -> QRectF:
        """How large the box of a cell is on the widget."""
        return self.cells_rect(CellRect(0, 0, 1, 1))

    def point(self, y: float, x: float) -> QPointF:
        """Where a flat place of the ground lies on the widget."""
        knitted = self.knitted
        return QPointF() if knitted is None else self.to_widget(*knitted.ground.projection.point(y, x))

    def outline(self, top: float, left: float, bottom: float, right: float) -> QPolygonF:
        """A flat rectangle of the ground on the widget."""
        return self._polygon(lambda projection: projection.outline(top, left, bottom, right))

    def ring(self, y: float, x: float, radius: float) -> QPolygonF:
        """A round of flat places on the widget: a circle on a square ground, an ellipse on others."""
        turns = np.linspace(0, 2 * np.pi, _RING_POINTS, endpoint=False)
        return self._polygon(lambda projection: projection.ring(y, x, turns, radius))

    def _polygon(self, corners: Callable[[Projection], list[tuple[float, float]]]) -> QPolygonF:
        knitted = self.knitted
        spots = [] if knitted is None else corners(knitted.ground.projection)
        return QPolygonF([self.to_widget(*spot) for spot in spots])

    def cells_in_view(self) -> CellRect:
        """The cells in view."""
        knitted = self.knitted
        return CellRect(0, 0, 0, 0) if knitted is None else knitted.ground.projection.cells_in(self.seen_pixels())

    def seen_pixels(self) -> PixelRect:
        """The pixels of the ground in view."""
        area = self.visible_content()
        left, top = int(area.left() // 1), int(area.top() // 1)
        right, bottom = int(-(-area.right() // 1)), int(-(-area.bottom() // 1))
        return PixelRect(left, top, right - left, bottom - top).inside(PixelRect(0, 0, *self.content_size()))


def _shift_of(layer: Layer | None) -> QPointF:
    return QPointF() if layer is None else QPointF(layer.offset_x, layer.offset_y)
