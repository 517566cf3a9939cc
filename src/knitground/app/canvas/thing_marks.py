"""Things over the ground: points and shapes, which no picture shows, the frames of chosen ones, and what is in hand."""

from collections.abc import Callable, Iterable, Sequence
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from knitground.app.canvas.lines import DARK
from knitground.app.theme.colours import theme
from knitground.app.widgets import image_of
from knitground.core.edits.placing import Sizes, bounds
from knitground.core.grid.projection import PixelRect
from knitground.core.layers.layer import Layer
from knitground.core.layers.props import as_props
from knitground.core.layers.thing import Thing, ThingKind, outline
from knitground.core.render.things import lay_thing

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_PLAIN = "#2f7f8f"
_VEIL = 40
_POINT = 6
KNOB = 5
_OUT = 18


def draw_shapes(painter: QPainter, view: "GroundView", layers: Iterable[Layer], kinds: Sequence[ThingKind]) -> None:
    """Draws the points and shapes of prop layers, with their names."""
    colours = {kind.id: kind.colour for kind in kinds}
    seen = QRectF(view.rect())
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for layer in filter(None, map(as_props, layers)):
        with view.moved_with(layer):
            paths = [(thing, _path(view, thing)) for thing in layer.things if thing.form != "sprite"]
        for thing, path in paths:
            if QPolygonF(path).boundingRect().adjusted(-80, -20, 80, 20).intersects(seen):
                names = thing.name or next((kind.name for kind in kinds if kind.id == thing.kind), "")
                _draw_shape(painter, path, thing, QColor(colours.get(thing.kind, _PLAIN)), names)
    painter.restore()


def draw_things(painter: QPainter, view: "GroundView", session: "Session", things: Sequence[Thing]) -> None:
    """Draws sprites as they would stand, pale; shapes as outlines."""
    ground, sizes = session.ground, session.sizes()
    sprites = [thing for thing in things if thing.tile is not None]
    if ground is None:
        return
    if sprites:
        left, top, right, bottom = bounds(sprites, sizes)
        whole = PixelRect(int(left) - 2, int(top) - 2, int(right - left) + 5, int(bottom - top) + 5)
        seen = view.visible_content()
        area = whole.inside(
            PixelRect(int(seen.left()) - 1, int(seen.top()) - 1, int(seen.width()) + 3, int(seen.height()) + 3)
        )
        if not area.is_empty and area.width * area.height < 1 << 23:
            canvas, atlas = np.zeros((area.height, area.width, 4), dtype=np.uint8), session.derived.atlas(ground)
            for thing in sprites:
                lay_thing(canvas, thing, atlas, ground.projection, area)
            painter.save()
            painter.setOpacity(0.75)
            painter.drawImage(view.rect_on_widget(*area), image_of(canvas, premultiplied=True))
            painter.restore()
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for thing in things:
        if thing.tile is None:
            _draw_shape(painter, _path(view, thing), thing, theme().colour("thread"), "")
    painter.restore()


def draw_frames(painter: QPainter, view: "GroundView", things: Iterable[Thing], sizes: Sizes) -> None:
    """Draws a frame round each of some things."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for thing in things:
        path = _path(view, thing, sizes(thing.tile))
        if len(path) == 1:
            path = [path[0] + QPointF(*far) for far in ((-9, -9), (9, -9), (9, 9), (-9, 9))]
        twice(painter, lambda path=path, thing=thing: _trace(painter, path, thing))  # type: ignore[misc]
        if thing.light is not None:
            _draw_reach(painter, view, thing, thing.light.reach)
    painter.restore()


def _draw_reach(painter: QPainter, view: "GroundView", thing: Thing, reach: float) -> None:
    """How far a light reaches."""
    ground = view.knitted.ground if view.knitted is not None else None
    squash = ground.tile_height / ground.tile_width if ground is not None and ground.isometric else 1.0
    for pen in (QPen(DARK, 2), QPen(theme().colour("thread"), 1, Qt.PenStyle.DashLine)):
        painter.setPen(pen)
        painter.drawEllipse(view.to_widget(thing.x, thing.y), reach * view.zoom, reach * squash * view.zoom)


def knobs(view: "GroundView", thing: Thing, sizes: Sizes) -> dict[str, QPointF]:
    """Where one takes hold of a thing to turn or scale it, or to move its corners, on the widget."""
    path = _path(view, thing, sizes(thing.tile))
    if thing.form == "point":
        return {}
    if thing.points:
        return {f"corner {number}": path[number] for number in range(len(path))}
    if thing.form == "round":
        box = QPolygonF(path).boundingRect()
        corners = [box.topLeft(), box.topRight(), box.bottomRight(), box.bottomLeft()]
    else:
        corners = [path[number] for number in range(4)]
    # Turned things keep their knobs at the same corners; upright ones have the turning knob above them.
    top, middle = (corners[0] + corners[1]) / 2, sum(corners, QPointF()) / 4
    away = top - middle
    long = max(1.0, float(np.hypot(away.x(), away.y())))
    return {"turn": top + away * (_OUT / long), "scale": corners[2]}


def draw_knobs(painter: QPainter, spots: Iterable[QPointF]) -> None:
    """Draws what one takes hold of."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for spot in spots:
        painter.setPen(QPen(DARK, 1.5))
        painter.setBrush(theme().colour("thread"))
        painter.drawEllipse(spot, KNOB, KNOB)
    painter.restore()


def twice(painter: QPainter, draw: Callable[[], object]) -> None:
    """Draws a line dark and broad, then bright and thin, so that it shows on any art."""
    painter.setPen(QPen(DARK, 3))
    draw()
    painter.setPen(QPen(theme().colour("thread"), 1.5))
    draw()


def _path(view: "GroundView", thing: Thing, size: tuple[int, int] = (0, 0)) -> list[QPointF]:
    return [view.to_widget(x, y) for x, y in outline(thing, size)]


def _draw_shape(painter: QPainter, path: list[QPointF], thing: Thing, colour: QColor, name: str) -> None:
    veil = QColor(colour)
    veil.setAlpha(_VEIL)
    for pen in (QPen(DARK, 3.5), QPen(colour, 2)):
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if thing.form == "point" and thing.light is not None:
            painter.setBrush(QColor(thing.light.colour))
            painter.drawEllipse(path[0], _POINT, _POINT)
        elif thing.form == "point":
            spot = path[0]
            for across, down in ((1, 1), (1, -1)):
                far = QPointF(across * _POINT, down * _POINT)
                painter.drawLine(spot - far, spot + far)
        else:
            if thing.form != "line" and pen.widthF() < 3:
                painter.setBrush(veil)
            _trace(painter, path, thing)
    if name:
        _draw_name(painter, QPolygonF(path).boundingRect(), name)


def _trace(painter: QPainter, path: list[QPointF], thing: Thing) -> None:
    if thing.form == "line":
        painter.drawPolyline(path)
    else:
        painter.drawPolygon(path)


def _draw_name(painter: QPainter, box: QRectF, name: str) -> None:
    font = painter.font()
    font.setPixelSize(11)
    painter.setFont(font)
    room = painter.fontMetrics().boundingRect(name).adjusted(-3, -1, 3, 1)
    label = QRectF(0, 0, room.width(), room.height())
    label.moveCenter(QPointF(box.center().x(), box.top() - room.height() / 2 - 8))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(20, 16, 14, 190))
    painter.drawRoundedRect(label, 3, 3)
    painter.setPen(QColor(248, 244, 236))
    painter.drawText(label, Qt.AlignmentFlag.AlignCenter, name)
