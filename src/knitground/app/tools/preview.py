"""Tiles that are not laid yet, drawn over the ground."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QPainter

from knitground.app.session import Session
from knitground.app.widgets import image_of
from knitground.core.ground.shapes import Shape
from knitground.core.ground.window import Window
from knitground.core.render.compose import compose_whole

_MOST_CELLS = 40_000

CodesOf = Callable[[Window], NDArray[np.generic] | int]
"""Cell codes, or one for all, of a window."""


def draw_tiles(painter: QPainter, view, session: Session, shape: Shape, codes_of: CodesOf) -> None:
    """Draws what would be laid where a shape is set, as far as it is in view."""
    ground, area = session.ground, view.visible_content()
    top, left = int(area.top() // ground.tile_height), int(area.left() // ground.tile_width)
    height, width = int(area.height() // ground.tile_height) + 2, int(area.width() // ground.tile_width) + 2
    part = Window(top, left, height, width).inside(shape.window)
    if part.is_empty or part.height * part.width > _MOST_CELLS:
        return
    inside = part._replace(top=part.top - shape.window.top, left=part.left - shape.window.left)
    mask = shape.mask[inside.rows, inside.columns]
    shown = np.where(mask, codes_of(part), 0).astype(np.int32)
    atlas = session.derived.atlas(ground.tile_width, ground.tile_height)
    # Room round it for tiles that reach beyond their cells.
    left, top, right, bottom = atlas.reach
    padded = np.pad(shown, ((top, bottom), (left, right)))
    whole = Window(0, 0, *padded.shape)
    drawn = compose_whole(lambda _, window: padded[window.rows, window.columns], ["shown"], atlas, whole, whole)
    target = Window(part.top - top, part.left - left, *padded.shape)
    painter.drawImage(view.cells_rect(target), image_of(drawn, premultiplied=True))


def draw_cover(painter: QPainter, view, shape: Shape, colour: QColor, offset: float) -> None:
    """Tints what a shape covers; `offset` moves it by a part of a cell."""
    window, mask = shape
    if window.is_empty:
        return
    pixels = np.zeros((*mask.shape, 4), dtype=np.uint8)
    pixels[mask] = (colour.red(), colour.green(), colour.blue(), 120)
    rect = view.cells_rect(window)
    cell = view.cells_rect(window._replace(height=1, width=1))
    painter.drawImage(rect.translated(cell.width() * offset, cell.height() * offset), image_of(pixels))
