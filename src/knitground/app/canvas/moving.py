"""Animated tiles of a ground, drawn over its chunks as they look at the moment.

Small squares of pixels that hold something animated are drawn anew, whole, whenever a frame changes; so tiles that
reach beyond their cells, shades and layers above come out right by themselves. Animations go round, so what a view
showed at a moment is kept until something else changes.
"""

import time
from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

from knitground.app.canvas.chunks import Detail
from knitground.app.clock import Clock
from knitground.app.widgets import image_of
from knitground.core.grid.projection import PixelRect
from knitground.core.grid.rect import CellRect
from knitground.core.ground.knitted import Knitted
from knitground.core.layers.layer import Layer
from knitground.core.project.playing import Playing
from knitground.core.render.atlas import Atlas
from knitground.core.render.compositor import render
from knitground.core.render.lights import Lights
from knitground.core.render.scene import scene_of
from knitground.core.render.scrolled import scrolled
from knitground.core.render.things import reached_by

_SQUARE = 32
_LARGEST_VIEW = 100_000
_MOST_BYTES = 2**26
_LONGEST = 0.3
"""How long a moment may take to be drawn first, in seconds; squares that would take longer stand still."""


class _Piece(NamedTuple):
    """Some pixels of the ground as they look now."""

    place: QRectF
    image: QImage


class Moving:
    """Draws what moves in a part of a ground."""

    def __init__(self, clock: Clock) -> None:
        self._clock = clock
        self._key: tuple[Any, ...] = ()
        self._areas: list[PixelRect] = []
        self._moments: OrderedDict[tuple[int, ...], list[_Piece]] = OrderedDict()

    def moves_in(self, area: PixelRect) -> bool:
        """Whether something animated was seen in an area, in pixels of the scale, when it was painted last."""
        return any(not one.inside(area).is_empty for one in self._areas)

    def forget(self) -> None:
        """Something changed: what was drawn is no longer true."""
        self._key = ()
        self._moments.clear()

    def paint(
        self,
        painter: QPainter,
        knitted: Knitted,
        atlas: Atlas,
        seen: PixelRect,
        detail: Detail,
        place: Callable[[QRectF], QRectF],
        backdrop: Callable[[QPainter, QRectF], None],
        lights: Lights | None = None,
        camera: PixelRect | None = None,
    ) -> None:
        """Draws all animated cells that are seen.

        Parameters
        ----------
        seen : PixelRect
            The pixels of the ground in view.
        place : callable
            Where on the widget a rectangle of the ground's pixels lies.
        backdrop : callable
            Draws what lies behind the ground on a part of the widget.
        lights : Lights, optional
            Those of the ground.
        camera : PixelRect, optional
            What the game shows, where layers move with it at speeds of their own.
        """
        moved = self._clock.playing
        if moved is None or not moved.frames or seen.is_empty:
            self.forget()
            self._areas = []
            return
        shown = knitted.ground.shown()
        if camera is not None:
            shown = tuple(scrolled(layer, camera.x, camera.y) for layer in shown)
        key = knitted, atlas, seen, detail, moved, lights, camera
        if key != self._key:
            self.forget()
            self._areas = list(_squares(shown, knitted, atlas, seen, detail, moved))
            self._key = key
        for piece in self._pieces_at(moved.moment(self._clock.ms), shown, knitted, atlas, detail, moved, lights):
            target = place(piece.place)
            # What was drawn before is covered, with the ground's own backdrop where the cell is transparent.
            backdrop(painter, target)
            painter.drawImage(target, piece.image)

    def _pieces_at(
        self, moment: tuple[int, ...], shown: Sequence[Layer], knitted: Knitted, atlas: Atlas, detail: Detail,
        moved: Playing, lights: Lights | None,
    ) -> list[_Piece]:  # fmt: skip
        if moment in self._moments:
            self._moments.move_to_end(moment)
            return self._moments[moment]
        pieces = self._moments[moment] = list(self._made(shown, knitted, atlas, detail, moved, lights))
        room = sum(piece.image.sizeInBytes() for piece in pieces)
        while len(self._moments) > 1 and len(self._moments) * room > _MOST_BYTES:
            self._moments.popitem(last=False)
        return pieces

    def _made(
        self, shown: Sequence[Layer], knitted: Knitted, atlas: Atlas, detail: Detail, moved: Playing,
        lights: Lights | None,
    ) -> Iterator[_Piece]:  # fmt: skip
        ms = self._clock.ms
        scene = scene_of(
            knitted, atlas, shown, exchange=moved.exchange_at(ms), frames=moved.shown_apart(ms), lights=lights
        )._replace(background=knitted.ground.background)
        began = time.thread_time()  # what other programs take meanwhile does not count
        for number, area in enumerate(self._areas):
            if number and time.thread_time() - began > _LONGEST:
                del self._areas[number:]
                self._moments.clear()  # or what stands still now would move at those
                return
            image = image_of(render(scene, area, detail.scale), premultiplied=True)
            yield _Piece(detail.on_ground(area), image)


def _moving_on(
    layer: Layer, knitted: Knitted, atlas: Atlas, cells: CellRect, seen: PixelRect, moved: Playing
) -> Iterator[PixelRect]:
    """What the animated tiles and sprites of a layer may reach."""
    if layer.places_things:
        if moved.frames.keys() & set(layer.sprites):
            items = layer.drawn(knitted.planes[layer.id], lambda rect: np.zeros(rect[2:], dtype=np.int32))
            area = seen._replace(x=seen.x - layer.offset_x, y=seen.y - layer.offset_y)
            yield from reached_by(items, moved.frames.keys(), atlas, area)
    elif layer.knits or layer.holds_tiles:
        for row, column in np.argwhere(moved.moves(knitted.codes(layer.id, cells))).tolist():
            yield knitted.ground.projection.box(cells.top + row, cells.left + column).grown(*atlas.overhang)


def _squares(
    shown: Sequence[Layer], knitted: Knitted, atlas: Atlas, seen: PixelRect, detail: Detail, moved: Playing
) -> Iterator[PixelRect]:
    """The parts of the view that hold something animated, in the pixels of the scale; squares side by side as one."""
    ground, far = knitted.ground, atlas.overhang
    cells = ground.projection.cells_in(seen.grown(far.right, far.bottom, far.left, far.top))
    if cells.is_empty or cells.height * cells.width > _LARGEST_VIEW:
        return
    spots: set[tuple[int, int]] = set()
    for layer in shown:
        for box in _moving_on(layer, knitted, atlas, cells, seen, moved):
            box = box._replace(x=box.x + layer.offset_x, y=box.y + layer.offset_y)
            part = detail.reduced(box.inside(seen))
            if not part.is_empty:
                spots |= {
                    (y, x)
                    for y in range(part.y // _SQUARE, -(-part.bottom // _SQUARE))
                    for x in range(part.x // _SQUARE, -(-part.right // _SQUARE))
                }
    for x, end, y, bottom in _joined(spots):
        yield PixelRect(x * _SQUARE, y * _SQUARE, (end - x) * _SQUARE, (bottom - y) * _SQUARE)


def _joined(spots: set[tuple[int, int]]) -> Iterator[tuple[int, int, int, int]]:
    """Rectangles (left, right, top, bottom) that squares (row, column) make: runs in rows, equal ones below as one."""
    rows: dict[int, list[int]] = {}
    for y, x in sorted(spots):
        rows.setdefault(y, []).append(x)
    tops: dict[tuple[int, int], int] = {}
    for y in range(min(rows, default=0), max(rows, default=0) + 2):
        runs = _runs(rows.get(y, []))
        for run in sorted(tops.keys() - set(runs)):
            yield *run, tops.pop(run), y
        tops |= {run: y for run in runs if run not in tops}


def _runs(columns: list[int]) -> list[tuple[int, int]]:
    """Where columns, from the left, that lie side by side begin and end."""
    runs: list[tuple[int, int]] = []
    for x in columns:
        if runs and runs[-1][1] == x:
            runs[-1] = runs[-1][0], x + 1
        else:
            runs.append((x, x + 1))
    return runs
