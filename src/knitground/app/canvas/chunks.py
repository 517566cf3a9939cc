"""Pieces of a ground as images, kept for drawing again.

A chunk is a square of cells at one level of detail. Chunks are worked out as they come into view, within a budget of
time for each frame; until then a coarser one stands in. An edit redraws only its window inside the chunks.
"""

import math
import time
from collections import OrderedDict
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPoint, QRectF
from PySide6.QtGui import QImage, QPainter

from knitground.app.widgets import image_of
from knitground.core.ground.window import Window

CHUNK_PIXELS = 256
MOST_CELLS = 256
BUDGET_SECONDS = 0.007
MOST_BYTES = 2**28

Render = Callable[[Window, int, int], NDArray[np.uint8]]
"""Pixels of a window of cells, given the level and the step (see `Derived.pixels`)."""


class Detail(NamedTuple):
    """How closely a ground is looked at: tiles reduced to 1 / 2**level, one pixel per `step` cells, cells per chunk."""

    level: int
    step: int
    cells: int


def detail_for(zoom: float, tile_width: int, tile_height: int) -> Detail:
    """The level of detail for a zoom; from 1 on always the tiles as they are."""
    level = max(0, round(-math.log2(zoom))) if zoom < 1 else 0
    smallest = max(tile_width, tile_height).bit_length() - 1
    if level > smallest:
        step = 2 ** (level - smallest)
        return Detail(smallest, step, max(step, min(step * CHUNK_PIXELS // 2, MOST_CELLS)))
    side = max(1, tile_width >> level, tile_height >> level)
    return Detail(level, 1, max(1, CHUNK_PIXELS // side))


class Chunks:
    """The images of one ground."""

    def __init__(self) -> None:
        self._images: OrderedDict[tuple[Detail, int, int], QImage] = OrderedDict()
        self._details: set[Detail] = set()
        self._bytes = 0

    def clear(self) -> None:
        """Forgets everything."""
        self._images.clear()
        self._bytes = 0

    def touched(self, window: Window, detail: Detail, render: Render) -> None:
        """Redraws a window of cells in the chunks of the detail in use, and drops it from all others."""
        for key in [key for key in self._images if _overlap(key, window)]:
            if key[0] != detail or detail.step > 1:
                self._drop(key)
                continue
            part = _window(key)
            top, left = max(part.top, window.top), max(part.left, window.left)
            bottom, right = min(part.bottom, window.bottom), min(part.right, window.right)
            self._patch(key, Window(top, left, bottom - top, right - left), render)

    def draw(
        self,
        painter: QPainter,
        target: Callable[[Window], QRectF],
        seen: Window,
        size: tuple[int, int],
        detail: Detail,
        render: Render,
    ) -> bool:
        """Draws what is seen of a ground.

        Parameters
        ----------
        target : callable
            Where on the widget a window of cells lies.
        seen : Window
            The cells in view.
        size : (int, int)
            Rows and columns of the ground.

        Returns
        -------
        complete : bool
            Whether everything could be drawn in the time; else draw again soon.
        """
        began, complete, fresh = time.perf_counter(), True, 0
        side = detail.cells
        for row in range(seen.top // side, -(-seen.bottom // side)):
            for column in range(seen.left // side, -(-seen.right // side)):
                key = (detail, row, column)
                window = _window(key).clipped(*size)
                image = self._images.get(key)
                if image is None:
                    # At least one chunk is made per frame, so that every view gets done in the end.
                    if fresh and time.perf_counter() - began > BUDGET_SECONDS:
                        complete = False
                        self._draw_coarser(painter, target, window, detail)
                        continue
                    image = self._make(key, window, render)
                    fresh += 1
                else:
                    self._images.move_to_end(key)
                painter.drawImage(_reach(target, window, image, detail), image)
        return complete

    def _make(self, key: tuple[Detail, int, int], window: Window, render: Render) -> QImage:
        image = image_of(render(window, key[0].level, key[0].step), premultiplied=True)
        self._images[key] = image
        self._details.add(key[0])
        self._bytes += image.sizeInBytes()
        while self._bytes > MOST_BYTES and len(self._images) > 1:
            self._drop(next(iter(self._images)))
        return image

    def _patch(self, key: tuple[Detail, int, int], window: Window, render: Render) -> None:
        if window.is_empty:
            return
        image, whole = self._images[key], _window(key)
        pixels = image_of(render(window, key[0].level, 1), premultiplied=True)
        wide, high = pixels.width() // window.width, pixels.height() // window.height
        painter = QPainter(image)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
        painter.drawImage(QPoint((window.left - whole.left) * wide, (window.top - whole.top) * high), pixels)
        painter.end()

    def _draw_coarser(
        self, painter: QPainter, target: Callable[[Window], QRectF], window: Window, detail: Detail
    ) -> None:
        """Draws a part of a coarser chunk in place of one that is not made yet."""
        for coarser in self._details:
            if coarser.cells <= detail.cells:
                continue
            key = (coarser, window.top // coarser.cells, window.left // coarser.cells)
            image = self._images.get(key)
            if image is not None:
                held = _window(key)
                scale = 1 / coarser.step if coarser.step > 1 else CHUNK_PIXELS / coarser.cells
                left, top = (window.left - held.left) * scale, (window.top - held.top) * scale
                source = QRectF(left, top, window.width * scale, window.height * scale)
                painter.drawImage(target(window), image, source)
                return

    def _drop(self, key: tuple[Detail, int, int]) -> None:
        self._bytes -= self._images.pop(key).sizeInBytes()


def _window(key: tuple[Detail, int, int]) -> Window:
    side = key[0].cells
    return Window(key[1] * side, key[2] * side, side, side)


def _overlap(key: tuple[Detail, int, int], window: Window) -> bool:
    held = _window(key)
    return (
        held.top < window.bottom and window.top < held.bottom and held.left < window.right and window.left < held.right
    )


def _reach(target: Callable[[Window], QRectF], window: Window, image: QImage, detail: Detail) -> QRectF:
    """Where a chunk's image goes: for whole steps it may reach a little beyond the ground's last cells."""
    if detail.step == 1:
        return target(window)
    return target(window._replace(height=image.height() * detail.step, width=image.width() * detail.step))
