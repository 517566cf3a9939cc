"""A ground whose layers move at different speeds, drawn strip by strip while somebody walks."""

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QPainter

from knitground.app.canvas.chunks import Chunks, Detail
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.layer import Layer
from knitground.core.render.compositor import render
from knitground.core.render.pixels import Pixels
from knitground.core.render.scale import Scale
from knitground.core.render.scrolled import scrolled_by, strips

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_MULTIPLY = QPainter.CompositionMode.CompositionMode_Multiply
_OVER = QPainter.CompositionMode.CompositionMode_SourceOver


class Strips:
    """Layers that move alike are kept as images together, so that scrolling draws images alone."""

    def __init__(self, session: "Session", view: "GroundView") -> None:
        self._session, self._view = session, view
        self._kept: dict[tuple[str, ...], Chunks] = {}

    def forget(self) -> None:
        """Something changed: all is drawn anew."""
        self._kept.clear()

    def draw(self, painter: QPainter, seen: PixelRect, detail: Detail, camera: PixelRect) -> bool:
        """Draws what is seen while the game shows a part of the ground; False where some is still to be done."""
        knitted, complete = self._view.knitted, True
        if knitted is None:
            return True
        wanted = strips(knitted.ground.shown())
        size = knitted.ground.projection.size
        background = self._session.derived.scene(knitted).background
        if background is not None:
            painter.fillRect(self._view.rect_on_widget(0, 0, *size), QColor(background))
        for strip in wanted:
            chunks = self._kept.setdefault(tuple(layer.id for layer in strip), Chunks())
            across, down = scrolled_by(strip[0], camera.x, camera.y)
            mine = seen._replace(x=seen.x - across, y=seen.y - down).inside(PixelRect(0, 0, *size))
            if mine.is_empty:
                continue

            def place(area: QRectF, across: int = across, down: int = down) -> QRectF:
                return self._view.rect_on_widget(area.x() + across, area.y() + down, area.width(), area.height())

            def made(area: PixelRect, scale: Scale, strip: tuple[Layer, ...] = strip) -> Pixels:
                return self._made(knitted, strip, area, scale)

            painter.setCompositionMode(_MULTIPLY if strip[0].shades_below else _OVER)
            complete = chunks.draw(painter, place, mine, size, detail, made) and complete
        painter.setCompositionMode(_OVER)
        return complete

    def _made(self, knitted: Any, strip: tuple[Layer, ...], area: PixelRect, scale: Scale) -> Pixels:
        """Pixels of a strip alone; of a shade what it makes of white."""
        scene = self._session.derived.scene(knitted, strip)
        return render(scene._replace(background="#ffffff") if strip[0].shades_below else scene, area, scale)
