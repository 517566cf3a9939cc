"""Lights that flicker: the ground round each as it is darkest, and what the light adds, more of it and less.

What a light adds grows evenly with its strength, so that two pictures of what it reaches do for all moments.
"""

from collections import OrderedDict
from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QApplication

from knitground.app.canvas.chunks import Detail
from knitground.app.clock import Clock
from knitground.app.widgets import image_of
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.knitted import Knitted
from knitground.core.render.atlas import Atlas
from knitground.core.render.compositor import render
from knitground.core.render.lights import Lamp, Lights, dimmest, strength
from knitground.core.render.scene import scene_of

_LARGEST = 2**20
"""Pixels of the largest light that flickers on the screen; a larger one shines evenly there."""
_MOST_BYTES = 2**27


class _Glow(NamedTuple):
    """What a light reaches, as it is darkest, and what the light adds to it at its brightest."""

    place: QRectF
    low: QImage
    more: QImage


class Glows:
    """Draws what flickers in a part of a ground."""

    def __init__(self, clock: Clock, moves_in: Callable[[PixelRect], bool]) -> None:
        self._clock, self._moves_in = clock, moves_in
        self._kept: OrderedDict[tuple[Any, ...], _Glow] = OrderedDict()

    def forget(self) -> None:
        """Something changed: what was drawn is no longer true."""
        self._kept.clear()

    def paint(
        self, painter: QPainter, knitted: Knitted, atlas: Atlas, lights: Lights | None, seen: PixelRect, detail: Detail,
        place: Callable[[QRectF], QRectF], backdrop: Callable[[QPainter, QRectF], None],
    ) -> None:  # fmt: skip
        """Draws all that is seen of it; see `Moving.paint`."""
        # While something is painted, what lies there changes too often for pictures to be kept of it.
        if lights is None or QApplication.mouseButtons() != Qt.MouseButton.NoButton:
            self._clock.flicker(False)
            return
        found, whole = [], PixelRect(0, 0, *knitted.ground.projection.size)
        for lamp in [one for one in lights.lamps if one.light.flicker]:
            room = lights.room(lamp).inside(whole)
            area = detail.reduced(room)
            if not room.inside(seen).is_empty and area.width * area.height <= _LARGEST:
                found.append((lamp, self._glow(knitted, atlas, lights, lamp, area, detail)))
        self._clock.flicker(bool(found))
        for _, glow in found:
            target = place(glow.place)
            backdrop(painter, target)
            painter.drawImage(target, glow.low)
        painter.save()
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Plus)
        for lamp, glow in found:
            dim = 1 - lamp.light.flicker
            painter.setOpacity((strength(lamp, self._clock.ms) - dim) / lamp.light.flicker)
            painter.drawImage(place(glow.place), glow.more)
        painter.restore()

    def _glow(
        self, knitted: Knitted, atlas: Atlas, lights: Lights, lamp: Lamp, area: PixelRect, detail: Detail
    ) -> _Glow:
        moved, ms = self._clock.playing, self._clock.ms
        # Where nothing is animated the two pictures do for good.
        key = lamp, detail, area, moved.moment(ms) if moved is not None and self._moves_in(area) else ()
        if key in self._kept:
            self._kept.move_to_end(key)
            return self._kept[key]
        frames = moved.shown_apart(ms) if moved is not None else None
        scene = scene_of(
            knitted, atlas, exchange=moved.exchange_at(ms) if moved is not None else None, frames=frames, lights=lights
        )
        dark = dimmest(lights.lamps)
        low = render(scene._replace(levels=dark), area, detail.scale)
        high = render(scene._replace(levels={**dark, lamp.name: 1.0}), area, detail.scale)
        more = np.maximum(high, low) - low
        more[..., 3] = 255
        glow = self._kept[key] = _Glow(
            detail.on_ground(area), image_of(low, premultiplied=True), image_of(more, premultiplied=True)
        )
        while len(self._kept) > 1 and len(self._kept) * 2 * glow.low.sizeInBytes() > _MOST_BYTES:
            self._kept.popitem(last=False)
        return glow
