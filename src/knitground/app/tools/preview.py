"""What is not laid yet, drawn over the ground: tiles, tints, outlines."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from knitground.app.theme.colours import theme
from knitground.app.widgets import image_of
from knitground.core.edits.painting import Hand, Spot, on_points, values_of
from knitground.core.grid.board import On
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.layer import Layer
from knitground.core.render.compositor import render
from knitground.core.render.scene import scene_of

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_MOST_CELLS = 40_000
_MOST_OUTLINED = 3000
DARK = QColor(20, 16, 14)


def draw_tiles(painter: QPainter, view: "GroundView", session: "Session", shapes: Mapping[str, Shape]) -> None:
    """Draws the tiles that would be laid where shapes are set, as far as they are in view."""
    ground, layer = session.ground, session.layer
    if ground is None or layer is None or not layer.holds_tiles:
        return
    values = values_of(session.document.project, session.document.palette, layer, session.hand, erase=False)
    for shape in shapes.values():
        part = view.cells_in_view().inside(shape.window)
        if part.is_empty or part.height * part.width > _MOST_CELLS:
            continue
        codes = _codes(shape, part, values)
        atlas = session.derived.atlas(ground)
        blank = Plane.full((ground.height, ground.width), np.int32)
        shown = Knitted(ground, {layer.id: {layer.area_plane: blank.written(part, codes)}}, {}, 0)
        left, top, right, bottom = atlas.overhang
        area = ground.projection.bounds(part).grown(left, top, right, bottom)
        drawn = render(scene_of(shown, atlas, [layer]), area)
        painter.drawImage(view.rect_on_widget(*area), image_of(drawn, premultiplied=True))


def _codes(shape: Shape, part: CellRect, values: Callable[[CellRect], Any]) -> np.ndarray:
    inside = part._replace(top=part.top - shape.window.top, left=part.left - shape.window.left)
    return np.where(shape.mask[inside.rows, inside.columns], values(part), 0).astype(np.int32)


def draw_cover(painter: QPainter, view: "GroundView", on: On, shape: Shape, colour: QColor) -> None:
    """Tints what a shape covers: cells, or the cells' worth of room round points."""
    path = outline_path(view, on, shape)
    painter.setPen(Qt.PenStyle.NoPen)
    tint = QColor(colour)
    tint.setAlpha(120)
    painter.fillPath(path, tint)


def outline_path(view: "GroundView", on: On, shape: Shape) -> QPainterPath:
    """The cells of a shape as one path on the widget, run by run; points count as the cell about them."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    knitted = view.knitted
    if knitted is None or shape.window.is_empty:
        return path
    board = knitted.ground.board
    back = 0.5 if on == "corners" else 0.0
    rows, columns = np.nonzero(shape.mask)
    ys, xs = board.flat(on, rows + shape.window.top, columns + shape.window.left)
    order = np.lexsort((xs, ys))
    ys, xs = ys[order], xs[order]
    breaks = np.flatnonzero((np.diff(ys) != 0) | (np.diff(xs) != 1)) + 1
    starts, ends = np.concatenate([[0], breaks]), np.concatenate([breaks, [len(ys)]])
    for first, last in list(zip(starts.tolist(), ends.tolist(), strict=True))[:_MOST_OUTLINED]:
        y, x = float(ys[first]) - back, float(xs[first]) - back
        path.addPolygon(view.outline(y, x, y + 1, x + last - first))
    return path


def draw_line_twice(painter: QPainter, colour: QColor, draw: Callable[[], object]) -> None:
    """Draws a line so that it stands out on any art: dark and wide first, then in its colour."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for line, width in ((DARK, 4), (colour, 2)):
        painter.setPen(QPen(line, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        draw()


def hand_colour(session: "Session", layer: Layer) -> QColor:
    """The colour of what is in hand on a layer."""
    terrains = session.terrains_of(layer)
    if not terrains:
        return theme().colour("thread")
    return QColor(terrains[min(session.choices.terrain, len(terrains)) - 1].colour)


def draw_brush(painter: QPainter, view: "GroundView", layer: Layer, hand: Hand, at: Spot, colour: QColor) -> None:
    """What a brush would reach: a cell, a point, or a round of them."""
    points = on_points(layer, hand)
    runs = layer.lays_runs(hand.runs)
    shift = 0.5 if points else 0.0
    y, x = (float(np.floor(place + shift)) for place in at)
    reach = 0 if runs else hand.radius
    middle = 0.0 if points else 0.5
    if reach:
        polygon = view.ring(y + middle, x + middle, reach + 0.5)
        draw_line_twice(painter, colour, lambda: painter.drawPolygon(polygon))
    elif points:
        centre = view.point(y, x)
        size = max(3.0, view.cell_on_widget().height() / 3)
        draw_line_twice(painter, colour, lambda: _cross(painter, centre, size))
    else:
        polygon = view.outline(y, x, y + 1, x + 1)
        draw_line_twice(painter, colour, lambda: painter.drawPolygon(polygon))


def _cross(painter: QPainter, centre: QPointF, reach: float) -> None:
    painter.drawLine(centre - QPointF(reach, 0), centre + QPointF(reach, 0))
    painter.drawLine(centre - QPointF(0, reach), centre + QPointF(0, reach))


def polygon_of(points: list[tuple[float, float]]) -> QPolygonF:
    """A polygon of Qt."""
    return QPolygonF([QPointF(x, y) for x, y in points])
