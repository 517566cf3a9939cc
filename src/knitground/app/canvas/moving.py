"""Animated tiles on the ground: drawn over the kept pieces of it, cell by cell, as they look now."""

from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter
from scipy import ndimage

from knitground.app.clock import Clock
from knitground.app.theme.colours import theme
from knitground.app.widgets import image_of
from knitground.core.ground.knitted import Knitted
from knitground.core.ground.window import Window
from knitground.core.project.derived import visible_layers
from knitground.core.render.atlas import Atlas, Reach
from knitground.core.render.compose import compose, compose_whole, grown
from knitground.core.tiles.tile import NUMBER_MASK

MOST_CELLS = 6000
_LARGEST_VIEW = 100_000


class _Piece(NamedTuple):
    """Some cells as they look now, on a part of an image."""

    window: Window
    image: QImage
    part: QRectF


class Moving:
    """Draws what moves in a window of a ground."""

    def __init__(self, clock: Clock) -> None:
        self._clock = clock
        self._key: tuple[Any, ...] = ()
        self._pieces: list[_Piece] = []

    def forget(self) -> None:
        """Something changed: what was drawn is no longer true."""
        self._key = ()

    def paint(
        self,
        painter: QPainter,
        knitted: Knitted,
        atlas: Atlas,
        seen: Window,
        level: int,
        place: Callable[[Window], QRectF],
    ) -> None:
        """Draws all animated cells that are seen; `place` says where a window of cells lies on the widget."""
        moved = self._clock.playing
        if moved is None or not moved.frames or seen.is_empty or seen.height * seen.width > _LARGEST_VIEW:
            return
        key = knitted, atlas, seen, level, moved.moment(self._clock.ms)
        if key != self._key:
            self._pieces = list(self._made(knitted, atlas, seen, level))
            self._key = key
        for piece in self._pieces:
            target = place(piece.window)
            # What was drawn before is covered, with the ground's own backdrop where the cell is transparent.
            painter.fillRect(target, theme().colour("panel"))
            painter.drawImage(target, piece.image, piece.part)

    def _made(self, knitted: Knitted, atlas: Atlas, seen: Window, level: int) -> Iterator[_Piece]:
        """Animated cells: those by themselves all at once, those with larger tiles about them one by one."""
        ground, moved = knitted.ground, self._clock.playing
        around = grown(seen, atlas.reach).clipped(ground.height, ground.width)
        layers = [knitted.codes(layer, around) for layer in visible_layers(ground)]
        spots = np.zeros((around.height, around.width), dtype=bool)
        large = spots.copy()
        for codes in layers:
            spots |= moved.moves(codes)
            large |= np.isin(codes & NUMBER_MASK, atlas.large) & (codes > 0)
        near = _dilated(large, atlas.reach)
        alone = np.argwhere(spots & ~near)[:MOST_CELLS]
        if len(alone):
            yield from self._alone(layers, atlas, alone, around, level)
        for row, column in np.argwhere(spots & near)[:MOST_CELLS].tolist():
            yield self._together(knitted, atlas, around.top + row, around.left + column, level)

    def _alone(
        self, layers: list[NDArray[np.int32]], atlas: Atlas, cells: NDArray[np.intp], around: Window, level: int
    ) -> Iterator[_Piece]:
        rows, columns = cells.T
        now = [self._clock.playing.codes_at(codes[rows, columns][None], self._clock.ms) for codes in layers]
        image = image_of(compose(now, atlas, level), premultiplied=True)
        wide, high = image.width() // len(cells), image.height()
        for number, (row, column) in enumerate(cells.tolist()):
            window = Window(around.top + row, around.left + column, 1, 1)
            yield _Piece(window, image, QRectF(number * wide, 0, wide, high))

    def _together(self, knitted: Knitted, atlas: Atlas, row: int, column: int, level: int) -> _Piece:
        """A cell with all round it that its tiles may reach."""
        ground, moved = knitted.ground, self._clock.playing
        whole = Window(0, 0, ground.height, ground.width)
        # What reaches out of a cell is seen where something that reaches into it would come from, the other way.
        left, top, right, bottom = atlas.reach
        window = grown(Window(row, column, 1, 1), Reach(right, bottom, left, top)).clipped(ground.height, ground.width)

        def now(layer: str, part: Window) -> NDArray[np.int32]:
            return moved.codes_at(knitted.codes(layer, part), self._clock.ms)

        pixels = compose_whole(now, visible_layers(ground), atlas, whole, window, level)
        image = image_of(pixels, premultiplied=True)
        return _Piece(window, image, QRectF(image.rect()))


def _dilated(large: NDArray[np.bool_], reach: Reach) -> NDArray[np.bool_]:
    """Cells that a large tile may reach, whichever way."""
    if not large.any():
        return large
    size = 2 * max(reach.top, reach.bottom) + 1, 2 * max(reach.left, reach.right) + 1
    return np.asarray(ndimage.maximum_filter(large, size=size), dtype=bool)
