"""What is not laid yet, drawn over the ground: tiles, tints, outlines."""

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from knitground.app.canvas.chunks import detail_for
from knitground.app.canvas.lines import DARK, draw_line_twice
from knitground.app.known import known
from knitground.app.theme.colours import theme
from knitground.app.widgets import image_of
from knitground.core.edits.foresee import After, Foreseen, foresee
from knitground.core.edits.painting import Covered, Hand, Spot, on_points, values_of
from knitground.core.errors import KnitGroundError
from knitground.core.grid.board import On
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.items import TileItems
from knitground.core.layers.layer import Layer, Values
from knitground.core.render.compositor import render
from knitground.core.render.scene import Drawn, Scene, scene_of

if TYPE_CHECKING:
    from knitground.app.canvas.ground_view import GroundView
    from knitground.app.session import Session

_MOST_CELLS = 40_000
_MOST_OUTLINED, _BEYOND_VIEW, _MOST_PIECES = 20_000, 2, 600
_PALE = 0.75


class _Asked:
    """What was asked for last, so that it is not worked out again for every frame."""

    def __init__(self) -> None:
        self._known: tuple[object, ...] = ()

    def differs(self, *known: object) -> bool:
        """Whether something else is asked for now; it counts as asked from then on."""
        same = len(known) == len(self._known) and all(map(_same, known, self._known))
        self._known = known
        return not same


def _same(one: object, other: object) -> bool:
    return one is other or (isinstance(one, str | int | float | tuple | Hand) and one == other)


class Preview:
    """What a gesture would change, drawn as it would land; worked out again only where something else is asked."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._last = _Asked()
        self._found: Foreseen | None = None

    def draw(
        self,
        painter: QPainter,
        view: "GroundView",
        gestures: Callable[[], Sequence[Covered]],
        *about: object,
        erase: bool = False,
    ) -> bool:
        """Draws the tiles that would lie in view, and tints the cells that would be bare; whether that can be told.

        Parameters
        ----------
        gestures : callable
            What would be covered, one shape after another; asked only when needed.
        about : object
            What that depends on, besides what is in hand.
        """
        session, ground, layer = self._session, self._session.ground, self._session.layer
        seen = view.cells_in_view()
        if ground is None or layer is None or seen.height * seen.width > _MOST_CELLS:
            return False
        found = self._foreseen(view, seen, gestures, about, erase)
        if found is None:
            return layer.holds_tiles or layer.knits
        atlas, detail = session.derived.atlas(ground), detail_for(view.zoom, ground.projection)
        room = ground.projection.bounds(found.cells).grown(*atlas.overhang)
        area = detail.reduced(room._replace(x=room.x + layer.offset_x, y=room.y + layer.offset_y))
        scene = self._scene(view, layer, found)
        painter.save()
        painter.setOpacity(_PALE)
        image = image_of(render(scene, area, detail.scale), premultiplied=True)
        with view.moved_with(None):
            painter.drawImage(view.on_widget(detail.on_ground(area)), image)
        painter.restore()
        bare = Shape(found.cells, found.changed & (found.codes <= 0))
        if bare.mask.any():
            draw_cover(painter, view, "cells", bare, theme().colour("thread"))
        return True

    def _scene(self, view: "GroundView", layer: Layer, found: Foreseen) -> Scene:
        """The ground as it would be, with all that lies above; of a hidden layer only itself."""
        knitted, atlas = known(view.knitted), self._session.derived.atlas(known(self._session.ground))
        if layer.visible:
            return scene_of(
                _Patched(knitted, layer.id, found), atlas, lights=self._session.derived.lights(knitted.ground)
            )
        laid = np.where(found.changed, np.maximum(found.codes, 0), 0)
        items = TileItems(lambda cells: _part(laid, found.cells, cells))
        return Scene(knitted.ground.projection, (Drawn(layer, items),), atlas)

    def _foreseen(
        self,
        view: "GroundView",
        seen: CellRect,
        gestures: Callable[[], Sequence[Covered]],
        about: tuple[object, ...],
        erase: bool,
    ) -> Foreseen | None:
        session, ground, layer, knitted = self._session, self._session.ground, self._session.layer, view.knitted
        if ground is None or layer is None or knitted is None:
            return None
        if self._last.differs(session.document.state, ground, layer.id, session.hand, erase, seen, *about):
            self._found = None
            # Where nothing is chosen to lay, or not here, that is said on the click.
            with suppress(KnitGroundError):
                project, palette, hand = session.document.project, session.document.palette, session.hand

                def values(turn: int) -> Values:
                    return values_of(project, palette, ground.board, layer, hand.turned(turn), erase=erase)

                self._found = foresee(knitted, layer.id, gestures(), values, seen)
        return self._found


class _Patched:
    """A ground with other tiles in some cells of one layer, to be drawn."""

    def __init__(self, knitted: Knitted, layer_id: str, found: Foreseen) -> None:
        self.ground, self.planes = knitted.ground, knitted.planes
        self._knitted, self._layer_id, self._found = knitted, layer_id, found

    def codes(self, layer_id: str, rect: CellRect) -> NDArray[np.int32]:
        """Cell codes of a rectangle of a layer, (height, width) int32.

        Parameters
        ----------
        layer_id : str
        rect : CellRect
            Inside the ground.
        """
        codes, found = self._knitted.codes(layer_id, rect), self._found
        if layer_id != self._layer_id:
            return codes
        changed = _part(found.changed.astype(np.int32), found.cells, rect) > 0
        return np.where(changed, np.maximum(_part(found.codes, found.cells, rect), 0), codes).astype(np.int32)


class AfterView:
    """The part of a ground in view as it would be with other planes; worked out again only where something changed."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._last = _Asked()
        self._image: QImage | None = None

    def draw(
        self,
        painter: QPainter,
        view: "GroundView",
        changed: Callable[[], Mapping[str, Mapping[str, Plane]]],
        ground: Callable[[], Ground],
        *about: object,
    ) -> None:
        """Draws it over the ground.

        Parameters
        ----------
        changed : callable
            The planes that would be others, by layer; asked only when needed.
        ground : callable
            The ground with the things that it would have.
        about : object
            What they depend on.
        """
        knitted = view.knitted
        if knitted is None:
            return
        with view.moved_with(None):
            self._draw(painter, view, knitted, changed, ground, *about)

    def _draw(
        self,
        painter: QPainter,
        view: "GroundView",
        knitted: Knitted,
        changed: Callable[[], Mapping[str, Mapping[str, Plane]]],
        ground: Callable[[], Ground],
        *about: object,
    ) -> None:
        session = self._session
        area, detail = view.seen_pixels(), detail_for(view.zoom, knitted.ground.projection)
        if self._last.differs(session.document.state, area, view.zoom, *about):
            self._image = None
            # Where it can't be done, that is said when it is tried.
            with suppress(KnitGroundError):
                scene = scene_of(
                    After(knitted, changed(), ground()), session.derived.atlas(knitted.ground),
                    lights=session.derived.lights(knitted.ground),
                )  # fmt: skip
                self._image = image_of(render(scene, detail.reduced(area), detail.scale), premultiplied=True)
        if self._image is not None:
            painter.save()
            painter.setOpacity(_PALE)
            room = detail.on_ground(detail.reduced(area))
            painter.drawImage(view.on_widget(room), self._image)
            painter.restore()


def _part(codes: NDArray[np.int32], there: CellRect, wanted: CellRect) -> NDArray[np.int32]:
    """Cell codes of a rectangle out of those of another; nothing beyond it."""
    found = np.zeros((wanted.height, wanted.width), dtype=np.int32)
    both = wanted.inside(there)
    if not both.is_empty:
        inner = both._replace(top=both.top - wanted.top, left=both.left - wanted.left)
        outer = both._replace(top=both.top - there.top, left=both.left - there.left)
        found[inner.rows, inner.columns] = codes[outer.rows, outer.columns]
    return found


def draw_cover(painter: QPainter, view: "GroundView", on: On, shape: Shape, colour: QColor) -> None:
    """Tints what a shape covers: cells, or the cells' worth of room round points."""
    tint = QColor(colour)
    tint.setAlpha(120)
    mask, window, step = _seen_of(view, shape)
    if step > 1 and _is_straight(view):
        _tint_coarsely(painter, view, mask[::step, ::step], window, step, tint)
        return
    painter.setPen(Qt.PenStyle.NoPen)
    painter.fillPath(outline_path(view, on, shape), tint)


def _seen_of(view: "GroundView", shape: Shape) -> tuple[NDArray[np.bool_], CellRect, int]:
    """The part of a shape in view, where it lies, and how many cells at once are told apart there."""
    seen = shape.window.inside(view.cells_in_view().grown(_BEYOND_VIEW))
    mask = shape.mask[seen.top - shape.window.top :, seen.left - shape.window.left :][: seen.height, : seen.width]
    return mask, seen, max(1, round((mask.size / _MOST_OUTLINED) ** 0.5))


def _is_straight(view: "GroundView") -> bool:
    """Whether rows and columns of the ground are straight lines on the widget."""
    ground = known(view.knitted).ground
    return ground.projection.straight and ground.board.stagger == (1, 1)


def _tint_coarsely(
    painter: QPainter, view: "GroundView", some: NDArray[np.bool_], window: CellRect, step: int, tint: QColor
) -> None:
    """Tints cells that are too small to be told apart, as a picture in which a pixel stands for some rows and columns.

    Ragged regions have so many borders that going along them would be felt.
    """
    pixels = np.zeros((*some.shape, 4), dtype=np.uint8)
    pixels[some] = tint.getRgb()
    origin, across, down = view.point(0, 0), view.point(0, 1), view.point(1, 0)
    painter.save()
    painter.setTransform(
        QTransform(
            across.x() - origin.x(), across.y() - origin.y(), down.x() - origin.x(), down.y() - origin.y(),
            origin.x(), origin.y(),
        ),
        combine=True,
    )  # fmt: skip
    painter.setClipRect(QRectF(window.left, window.top, window.width, window.height))
    room = QRectF(window.left, window.top, some.shape[1] * step, some.shape[0] * step)
    painter.drawImage(room, image_of(pixels))
    painter.restore()


def outline_path(view: "GroundView", on: On, shape: Shape) -> QPainterPath:
    """The cells of a shape in view as one path on the widget, run by run; points count as the cell about them."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    knitted = view.knitted
    if knitted is None or shape.window.is_empty:
        return path
    board, (mask, seen, step) = knitted.ground.board, _seen_of(view, shape)
    if step > 1:
        _add_coarsely(path, view, mask, seen, step)
        return path
    back = 0.5 if on == "corners" else 0.0
    rows, columns = np.nonzero(mask)
    ys, xs = board.flat(on, rows + seen.top, columns + seen.left)
    order = np.lexsort((xs, ys))
    ys, xs = ys[order], xs[order]
    breaks = np.flatnonzero((np.diff(ys) != 0) | (np.diff(xs) != 1)) + 1
    starts, ends = np.concatenate([[0], breaks]), np.concatenate([breaks, [len(ys)]])
    for first, last in zip(starts.tolist(), ends.tolist(), strict=True) if len(ys) else ():
        y, x = float(ys[first]) - back, float(xs[first]) - back
        path.addPolygon(view.outline(y, x, y + 1, x + last - first))
    return path


def _add_coarsely(path: QPainterPath, view: "GroundView", mask: NDArray[np.bool_], window: CellRect, step: int) -> None:
    """Adds cells that are too small to be told apart, so many rows and columns at once.

    Parameters
    ----------
    mask : (H, W) bool
    window : CellRect
        Where the mask lies.
    step : int
    """
    straight = _is_straight(view)
    some = np.pad(mask[::step, ::step], ((0, 0), (1, 1))).astype(np.int8)
    edges = np.diff(some, axis=1)
    (rows, starts), (_, ends) = np.nonzero(edges == 1), np.nonzero(edges == -1)
    for row, first, last in zip(rows.tolist(), starts.tolist(), ends.tolist(), strict=True):
        top, left = window.top + row * step, window.left + first * step
        cells = CellRect(top, left, step, (last - first) * step).inside(window)
        if straight:
            path.addPolygon(view.outline(cells.top, cells.left, cells.bottom, cells.right))
        else:
            path.addRect(view.cells_rect(cells))


def draw_outline(painter: QPainter, colour: QColor, outline: QPainterPath) -> None:
    """Draws an outline so that it stands out on any art, also one of thousands of pieces."""
    if outline.elementCount() <= _MOST_PIECES:
        draw_line_twice(painter, colour, lambda: painter.drawPath(outline))
        return
    # Lines of one pixel are drawn a hundred times as fast as wider ones.
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(DARK, 1))
    for across, down in ((-1, 0), (1, 0), (0, -1), (0, 1)):
        painter.drawPath(outline.translated(across, down))
    painter.setPen(QPen(colour, 1))
    painter.drawPath(outline)


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
