"""Animated tiles on the ground: drawn over the kept pieces of it, cell by cell, as they look now."""

import numpy as np
from PySide6.QtCore import QPoint, QRect, QRectF
from PySide6.QtGui import QPainter

from knitground.app.clock import Clock
from knitground.app.theme.colours import theme
from knitground.app.widgets import image_of
from knitground.core.ground.knitted import Knitted
from knitground.core.ground.window import Window
from knitground.core.project.derived import visible_layers
from knitground.core.render.atlas import Atlas
from knitground.core.render.compose import compose, compose_whole, grown

MOST_CELLS = 6000


class Moving:
    """Draws what moves in a window of a ground."""

    def __init__(self, clock: Clock) -> None:
        self._clock = clock

    def paint(self, painter: QPainter, knitted: Knitted, atlas: Atlas, seen: Window, level: int, place) -> None:
        """Draws all animated cells that are seen; `place` says where a window of cells lies on the widget."""
        moved = self._clock.playing
        if moved is None or not moved.frames or seen.is_empty or seen.height * seen.width > MOST_CELLS * 16:
            return
        shown = visible_layers(knitted.ground)
        layers = [knitted.codes(layer, seen) for layer in shown]
        spots = np.zeros((seen.height, seen.width), dtype=bool)
        for codes in layers:
            spots |= moved.moves(codes)
        cells = np.argwhere(spots)[:MOST_CELLS]
        if not len(cells):
            return
        if any(atlas.reach):
            self._paint_reaching(painter, knitted, atlas, cells + np.array([seen.top, seen.left]), level, place)
            return
        rows, columns = cells.T
        now = [moved.codes_at(codes[rows, columns][None], self._clock.ms) for codes in layers]
        image = image_of(compose(now, atlas, level), premultiplied=True)
        wide, high = image.width() // len(cells), image.height()
        for number, (row, column) in enumerate(cells.tolist()):
            target = place(Window(seen.top + row, seen.left + column, 1, 1))
            self._draw(painter, target, image, QRect(number * wide, 0, wide, high))

    def _paint_reaching(self, painter: QPainter, knitted: Knitted, atlas: Atlas, cells, level: int, place) -> None:
        """Where tiles reach beyond their cells, what lies round an animated one is drawn anew with it."""
        ground, moved = knitted.ground, self._clock.playing
        whole = Window(0, 0, ground.height, ground.width)
        shown = visible_layers(ground)

        def now(layer: str, window: Window):
            return moved.codes_at(knitted.codes(layer, window), self._clock.ms)

        for row, column in cells.tolist():
            reach = atlas.reach
            # What reaches out of a cell is seen where something that reaches into it would come from, the other way.
            around = grown(Window(row, column, 1, 1), type(reach)(reach.right, reach.bottom, reach.left, reach.top))
            window = around.clipped(ground.height, ground.width)
            image = image_of(compose_whole(now, shown, atlas, whole, window, level), premultiplied=True)
            self._draw(painter, place(window), image, QRect(QPoint(0, 0), image.size()))

    def _draw(self, painter: QPainter, target: QRectF, image, part: QRect) -> None:
        """Covers what was drawn of a cell before, with the ground's own backdrop where the cell is transparent."""
        painter.fillRect(target, theme().colour("panel"))
        painter.drawImage(target, image, QRectF(part))
