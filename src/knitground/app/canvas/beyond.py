"""What is seen beyond the borders of a ground: itself again where it goes round, or the maps that lie beside it."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

from knitground.app.canvas.chunks import Chunks, Detail, Render, detail_for
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.beside import Beside, maps_beside
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.project.document import Change
from knitground.core.render.compositor import render
from knitground.core.render.scale import Scale

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_DIMMED = 0.4


class Beyond:
    """Draws round a ground what goes on there; the pictures of maps beside it are kept in chunks as its own are."""

    def __init__(self, session: "Session", view: "GroundView") -> None:
        self._session, self._view = session, view
        self._chunks: dict[str, Chunks] = {}

    def forget(self) -> None:
        """Drops what is kept, as another ground is shown."""
        self._chunks.clear()

    def changed(self, change: Change) -> None:
        """Takes note of an edit."""
        derived = self._session.derived
        for ground_id, chunks in self._chunks.items():
            if change.defined or any(reached.ground == ground_id for reached in derived.reached):
                chunks.renew()

    def draw_beside(self, painter: QPainter, ground: Ground) -> bool:
        """Draws the maps beside a ground, dimmed; whether all of them could be drawn in the time."""
        complete, beside = True, maps_beside(self._session.document.project.grounds, ground)
        for gone in self._chunks.keys() - {one.ground.id for one in beside}:
            del self._chunks[gone]
        painter.save()
        painter.setOpacity(_DIMMED)
        for one in beside:
            complete = self._draw_map(painter, ground, one) and complete
        painter.restore()
        return complete

    def draw_again(self, painter: QPainter, knitted: Knitted, chunks: Chunks) -> bool:
        """Draws a ground once more beyond each border at which it goes round."""
        ground, complete = knitted.ground, True
        detail = detail_for(self._view.zoom, ground.projection)
        for [spot] in ground.board.rounds((0.0, 0.0)):
            far = _away(ground, spot)
            if far != (0, 0):
                complete = self._draw(painter, ground, far, chunks, detail, self._view.rendered) and complete
        return complete

    def _draw_map(self, painter: QPainter, ground: Ground, beside: Beside) -> bool:
        other = beside.ground
        x, y = ground.projection.point(*ground.board.flat("cells", beside.down, beside.across))
        own_x, own_y = other.projection.point(*other.board.flat("cells", 0, 0))
        chunks = self._chunks.setdefault(other.id, Chunks())
        knitted = self._session.derived.knitted(other.id)

        def rendered(area: PixelRect, scale: Scale) -> "NDArray[np.uint8]":
            """Pixels of the map, (height, width, 4) uint8.

            Parameters
            ----------
            area : PixelRect
            scale : Scale
            """
            return render(self._session.derived.scene(knitted), area, scale)

        detail = detail_for(self._view.zoom, other.projection)
        return self._draw(painter, other, (round(x - own_x), round(y - own_y)), chunks, detail, rendered)

    def _draw(
        self, painter: QPainter, ground: Ground, far: tuple[int, int], chunks: Chunks, detail: Detail, rendered: Render
    ) -> bool:
        """Draws the part of a ground in view that is moved so many pixels."""
        size = ground.projection.size
        seen = self._view.visible_content().translated(-far[0], -far[1]).toAlignedRect()
        part = PixelRect(seen.x(), seen.y(), seen.width(), seen.height()).inside(PixelRect(0, 0, *size))
        if part.is_empty:
            return True

        def on_widget(area: QRectF) -> QRectF:
            moved = area.translated(QPointF(*far))
            return self._view.rect_on_widget(moved.x(), moved.y(), moved.width(), moved.height())

        return chunks.draw(painter, on_widget, part, size, detail, rendered)


def _away(ground: Ground, spot: tuple[float, float]) -> tuple[int, int]:
    """How many pixels a flat place lies from the first one."""
    (x, y), (far_x, far_y) = ground.projection.point(0, 0), ground.projection.point(*spot)
    return round(far_x - x), round(far_y - y)
