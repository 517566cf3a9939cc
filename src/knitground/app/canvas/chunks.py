"""Pieces of a ground as images, kept for drawing again.

A chunk is a square of pixels at one scale. Chunks are worked out as they come into view, as many as are likely to be
done within a budget of time for each frame; until then a coarser one stands in. An edit redraws only its rectangle
inside the chunks.
"""

import math
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPoint, QRect, QRectF
from PySide6.QtGui import QImage, QPainter

from knitground.app.widgets import image_of
from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.render.scale import Scale, pixels_per, smallest_level

CHUNK_PIXELS = 128
MOST_CELLS = 128
LEAST_PIXELS, MOST_ROWS = 16, 16
BUDGET_SECONDS, BARE_SECONDS = 0.011, 0.04
"""For each frame; the second for a ground that comes up alone, as a slow frame is better than one that is bare."""
_LATEST_COUNTS, _QUICKER_COUNTS = 0.3, 0.8
MOST_BYTES = 2**28

Render = Callable[[PixelRect, Scale], NDArray[np.uint8]]
"""Pixels of a rectangle at a scale (see `knitground.core.render.compositor.render`)."""


class Detail(NamedTuple):
    """How closely a ground is looked at: the scale, how many pixels of the ground one stands for, pixels per chunk."""

    scale: Scale
    across: float
    down: float
    side: int

    def on_ground(self, area: PixelRect) -> QRectF:
        """A rectangle of the scale's pixels in those of the ground."""
        return QRectF(area.x * self.across, area.y * self.down, area.width * self.across, area.height * self.down)

    def reduced(self, area: PixelRect) -> PixelRect:
        """The pixels of the scale that a rectangle of the ground's touches."""
        left, top = math.floor(area.x / self.across), math.floor(area.y / self.down)
        right, bottom = math.ceil(area.right / self.across), math.ceil(area.bottom / self.down)
        return PixelRect(left, top, right - left, bottom - top)


def detail_for(zoom: float, projection: Projection) -> Detail:
    """The level of detail for a zoom; from 1 on always the tiles as they are."""
    level = max(0, round(-math.log2(zoom))) if zoom < 1 else 0
    smallest = smallest_level(projection)
    scale, side = Scale(level), CHUNK_PIXELS
    if projection.overlapping:
        # Each row of such cells is drawn by itself, so a chunk had better not show many.
        side = min(side, max(LEAST_PIXELS, MOST_ROWS * projection.reduced(level).tile_height))
    if level > smallest:
        scale = Scale(smallest, 2 ** (level - smallest))
        side = max(1, min(CHUNK_PIXELS, MOST_CELLS // scale.cells))
    return Detail(scale, *pixels_per(projection, scale), side)


class Chunks:
    """The images of one ground; until all that is seen of it was there once, each frame may take so many seconds."""

    def __init__(self, first: float = BUDGET_SECONDS) -> None:
        self._first = first
        self._images: OrderedDict[tuple[Detail, int, int], QImage] = OrderedDict()
        self._details: set[Detail] = set()
        self._costs: dict[Detail, float] = {}
        self._bytes = 0
        self._stale: set[tuple[Detail, int, int]] = set()
        self._waits, self._comes_up = False, True
        self.covered = False
        """Whether all that was seen at last was there, if only as it was before a change."""

    def renew(self) -> None:
        """Lets everything be drawn anew as there is time for it; until then it shows as it was.

        The next time it is drawn as it was, so that what else a change brings along is done before.
        """
        self._stale = set(self._images)
        self._waits = True

    def clear(self) -> None:
        """Forgets everything."""
        self._images.clear()
        self._details.clear()
        self._stale.clear()
        self._waits, self._comes_up = False, True
        self._bytes = 0

    def touched(self, area: PixelRect, detail: Detail, render: Render) -> None:
        """Redraws pixels of the ground in the chunks of the detail in use, and drops them from all others."""
        parts: dict[tuple[Detail, int, int], PixelRect] = {}
        for key in list(self._images):
            part = key[0].reduced(area).inside(_area(key))
            if part.is_empty:
                continue
            if key[0] != detail or detail.scale.cells > 1:
                self._drop(key)
            else:
                parts[key] = part
        if not parts:
            return
        # What lies over several chunks is drawn once for all of them.
        left, top = min(part.x for part in parts.values()), min(part.y for part in parts.values())
        right, bottom = max(part.right for part in parts.values()), max(part.bottom for part in parts.values())
        whole = PixelRect(left, top, right - left, bottom - top)
        pixels = image_of(render(whole, detail.scale), premultiplied=True)
        for key, part in parts.items():
            self._patch(key, part, pixels, whole)

    def draw(
        self,
        painter: QPainter,
        target: Callable[[QRectF], QRectF],
        seen: PixelRect,
        size: tuple[int, int],
        detail: Detail,
        render: Render,
    ) -> bool:
        """Draws what is seen of a ground.

        Parameters
        ----------
        target : callable
            Where on the widget a rectangle of the ground's pixels lies.
        seen : PixelRect
            The pixels of the ground in view.
        size : (int, int)
            Width and height of the ground in pixels.

        Returns
        -------
        complete : bool
            Whether everything could be drawn in the time; else draw again soon.
        """
        began, complete, fresh = time.perf_counter(), True, 0
        whole = detail.reduced(PixelRect(0, 0, *size))
        keys = list(_keys(detail, detail.reduced(seen).inside(whole)))
        self.covered = all(key in self._images for key in keys)
        waits, self._waits = self._waits and self.covered, False
        budget = self._first if self._comes_up else BUDGET_SECONDS
        for key in keys:
            image = self._images.get(key)
            if image is None or key in self._stale:
                # At least one chunk is made per frame, so that every view gets done in the end.
                late = fresh and time.perf_counter() - began + self._costs[detail] > budget
                if waits or late:
                    complete = False
                    if image is not None:
                        painter.drawImage(target(detail.on_ground(_area(key))), image)
                        continue
                    self._draw_coarser(painter, target, detail.on_ground(_area(key).inside(whole)), detail)
                    continue
                image = self._make(key, render)
                fresh += 1
            else:
                self._images.move_to_end(key)
            painter.drawImage(target(detail.on_ground(_area(key))), image)
        self._comes_up = self._comes_up and not complete
        return complete

    def make_ahead(self, seen: PixelRect, size: tuple[int, int], detail: Detail, render: Render) -> bool:
        """Makes one of the chunks that lie just beyond what is seen; False if there was none to make."""
        whole = detail.reduced(PixelRect(0, 0, *size))
        near = detail.reduced(seen).grown(*[detail.side] * 4).inside(whole)
        missing = next((key for key in _keys(detail, near) if key not in self._images), None)
        if missing is not None:
            self._make(missing, render)
        return missing is not None

    def _make(self, key: tuple[Detail, int, int], render: Render) -> QImage:
        began = time.perf_counter()
        image = image_of(render(_area(key), key[0].scale), premultiplied=True)
        cost = time.perf_counter() - began
        if key in self._images:
            self._drop(key)
        usual = self._costs.get(key[0], cost)
        # A slow one may have waited for something that is there from now on.
        self._costs[key[0]] = usual + (_LATEST_COUNTS if cost > usual else _QUICKER_COUNTS) * (cost - usual)
        self._images[key] = image
        self._details.add(key[0])
        self._bytes += image.sizeInBytes()
        while self._bytes > MOST_BYTES and len(self._images) > 1:
            self._drop(next(iter(self._images)))
        return image

    def _patch(self, key: tuple[Detail, int, int], part: PixelRect, pixels: QImage, drawn: PixelRect) -> None:
        image, mine = self._images[key], _area(key)
        painter = QPainter(image)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
        source = QRect(part.x - drawn.x, part.y - drawn.y, part.width, part.height)
        painter.drawImage(QPoint(part.x - mine.x, part.y - mine.y), pixels, source)
        painter.end()

    def _draw_coarser(
        self, painter: QPainter, target: Callable[[QRectF], QRectF], wanted: QRectF, detail: Detail
    ) -> None:
        """Draws a part of a coarser chunk in place of one that is not made yet."""
        for coarser in sorted(self._details, key=lambda one: one.across):
            if coarser.across <= detail.across:
                continue
            x, y = wanted.x() / coarser.across, wanted.y() / coarser.down
            key = (coarser, int(y // coarser.side), int(x // coarser.side))
            image = self._images.get(key)
            if image is not None:
                held = _area(key)
                source = QRectF(x - held.x, y - held.y, wanted.width() / coarser.across, wanted.height() / coarser.down)
                painter.drawImage(target(wanted), image, source)
                return

    def _drop(self, key: tuple[Detail, int, int]) -> None:
        self._bytes -= self._images.pop(key).sizeInBytes()
        self._stale.discard(key)


def _keys(detail: Detail, part: PixelRect) -> Iterator[tuple[Detail, int, int]]:
    """The chunks over a part, row by row."""
    if part.is_empty:
        return
    for row in range(part.y // detail.side, -(-part.bottom // detail.side)):
        for column in range(part.x // detail.side, -(-part.right // detail.side)):
            yield detail, row, column


def _area(key: tuple[Detail, int, int]) -> PixelRect:
    side = key[0].side
    return PixelRect(key[2] * side, key[1] * side, side, side)
