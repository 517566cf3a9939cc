"""Tiles that are not laid yet, drawn over the ground."""

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QPainter

from knitground.app.session import Session
from knitground.app.widgets import image_of
from knitground.core.ground.shapes import Shape
from knitground.core.ground.window import Window
from knitground.core.render.compose import compose

_MOST_CELLS = 40_000


def draw_tiles(painter: QPainter, view, session: Session, shape: Shape, codes: NDArray[np.generic] | int) -> None:
    """Draws cell codes where a shape is set, as far as they are in view."""
    window, mask = shape
    if window.is_empty:
        return
    ground = session.ground
    area = view.visible_content()
    seen = Window(
        int(area.top() // ground.tile_height), int(area.left() // ground.tile_width),
        int(area.height() // ground.tile_height) + 2, int(area.width() // ground.tile_width) + 2,
    )  # fmt: skip
    top, left = max(seen.top, window.top), max(seen.left, window.left)
    bottom, right = min(seen.bottom, window.bottom), min(seen.right, window.right)
    part = Window(top, left, bottom - top, right - left)
    if part.is_empty or part.height * part.width > _MOST_CELLS:
        return
    inner = (slice(top - window.top, bottom - window.top), slice(left - window.left, right - window.left))
    laid = np.broadcast_to(np.asarray(codes, dtype=np.int32), mask.shape)[inner]
    shown = np.where(mask[inner], laid, 0).astype(np.int32)
    atlas = session.derived.atlas(ground.tile_width, ground.tile_height)
    painter.drawImage(view.cells_rect(part), image_of(compose([shown], atlas), premultiplied=True))


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
