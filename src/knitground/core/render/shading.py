"""Shades: multiplying what lies below by colours that are painted on corners and blended between them, or on cells.

Within a cell the colours of its four corners are blended by fixed shares, the same for every cell of a ground; so all
cells of a view are one product of matrices, laid out as their boxes stand. A shade on cells is one that all of a cell
takes whole.
"""

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.board import On
from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.layers.items import ShadeItems
from knitground.core.layers.layer import Layer
from knitground.core.render.layout import boxes_inside, grids_of, layout_of
from knitground.core.render.pixels import Pixels
from knitground.core.render.sprites import tint_of

_CORNERS = ((0, 0), (0, 1), (1, 0), (1, 1))
_PLACES: Mapping[On, tuple[tuple[int, int], ...]] = {"corners": _CORNERS, "cells": ((0, 0),)}
Colours = NDArray[np.float32]


def shade(
    canvas: Pixels, layer: Layer, items: ShadeItems, small: Projection, area: PixelRect, left: Colours | None = None
) -> None:
    """Multiplies what lies on a canvas by the colours of a shade layer.

    Parameters
    ----------
    canvas : (height, width, 4) uint8
        The pixels of `area`, premultiplied.
    small : Projection
        At the scale of the pixels.
    left : (height, width, 3) float32, optional
        How much of the shade lights leave; all of it if not given.
    """
    cells = small.cells_in(area)
    if cells.is_empty:
        return
    numbers = small.board.around(items.numbers, items.on, _PLACES[items.on], cells)
    if not any(part.any() for part in numbers):
        return
    colours = _colours(numbers, (cells.top, cells.left), tinted(items, layer), small, area)
    multiply(canvas, colours, layer.opacity, left)


def tinted(items: ShadeItems, layer: Layer) -> ShadeItems:
    """A shade in the tint of its layer; where there is no shade, there is nothing to be tinted."""
    if tint_of(layer) == (255, 255, 255):
        return items
    colours = (items.colours * (np.array(tint_of(layer)) / 255)).astype(np.float32)
    colours[0] = 1
    return replace(items, colours=colours)


def multiply(canvas: Pixels, colours: Colours, opacity: float, left: Colours | None = None) -> None:
    """Multiplies premultiplied pixels by colours, (H, W, 3) in [0, 1], as a layer's opacity and lights say.

    Parameters
    ----------
    canvas : (H, W, 4) uint8
        Changed in place.
    colours : (H, W, 3) float32
        May be changed.
    opacity : float
    left : (H, W, 3) float32, optional
        How much of the shade lights leave.
    """
    if opacity != 1:
        colours = np.asarray(1 + (colours - 1) * np.float32(opacity), dtype=np.float32)
    if left is not None:
        colours = np.asarray(1 + (colours - 1) * left, dtype=np.float32)
    np.multiply(canvas[..., :3], colours, out=colours)
    colours += 0.5
    canvas[..., :3] = colours


def blended(items: ShadeItems, small: Projection, ys: Any, xs: Any) -> Colours | None:
    """Colours of a shade layer at flat places, (H, W, 3), blended between corners; None where there are none.

    Parameters
    ----------
    ys, xs : (H, W) float64
        Flat places.

    Returns
    -------
    colours : (H, W, 3) float32, or None
    """
    if items.on == "cells":
        return _by_cell(items, small, ys, xs)
    top, left = int(np.floor(ys.min())), int(np.floor(xs.min()))
    bottom, right = int(np.floor(ys.max())) + 2, int(np.floor(xs.max())) + 2
    rows, columns = np.arange(top, bottom + 1), np.arange(left, right + 1)
    numbers, there = small.board.flat_patch(items.numbers, "corners", rows, columns)
    if not numbers.any():
        return None
    corners = items.colours[np.where(there, numbers, 0)]
    y, x = np.floor(ys).astype(np.intp), np.floor(xs).astype(np.intp)
    down, across = (ys - y)[..., None].astype(np.float32), (xs - x)[..., None].astype(np.float32)
    y, x = y - top, x - left
    upper = corners[y, x] * (1 - across) + corners[y, x + 1] * across
    lower = corners[y + 1, x] * (1 - across) + corners[y + 1, x + 1] * across
    return np.asarray(upper * (1 - down) + lower * down, dtype=np.float32)


def _by_cell(items: ShadeItems, small: Projection, ys: Any, xs: Any) -> Colours | None:
    board = small.board
    rows, columns = board.stored("cells", np.floor(ys).astype(np.intp), np.floor(xs).astype(np.intp))
    there = (rows >= 0) & (rows < board.height) & (columns >= 0) & (columns < board.width)
    if not there.any():
        return None
    top, left = int(rows[there].min()), int(columns[there].min())
    part = np.asarray(items.numbers[top : int(rows[there].max()) + 1, left : int(columns[there].max()) + 1])
    numbers = np.where(there, part[np.where(there, rows - top, 0), np.where(there, columns - left, 0)], 0)
    found: Colours = items.colours[numbers]
    return found if numbers.any() else None


def _colours(
    numbers: list[NDArray[np.uint8]], first: tuple[int, int], items: ShadeItems, small: Projection, area: PixelRect
) -> Colours:
    """The colours of an area, (height, width, 3), white beside the cells."""
    width, height, (across, down) = small.tile_width, small.tile_height, small.pitch
    room = area.grown(width, height, 2 * across - width, 2 * down - height)
    layout = layout_of(small, area)
    corners = np.stack([part[layout.down, layout.across] for part in numbers], axis=1)
    # What white lacks, so that boxes can be added up: each pixel lies in one cell.
    lacking = (items.colours - 1)[corners].transpose(0, 2, 1) @ _shares(small, items.on, *first)
    result = np.ones((3, room.height, room.width), dtype=np.float32)
    for grid in grids_of(small, area):
        boxes = np.zeros((*grid.shape, 3, height, width), dtype=np.float32)
        boxes[grid.rows, grid.columns] = lacking[grid.mine].reshape(-1, 3, height, width)
        rows, columns = boxes_inside(grid, small, room)
        part = boxes[rows, columns].transpose(2, 0, 3, 1, 4)
        high, wide = part.shape[1], part.shape[3]
        x, y = grid.left + columns.start * across - room.x, grid.top + rows.start * down - room.y
        below = result[:, y : y + high * down, x : x + wide * across].reshape(3, high, down, wide, across)
        below[:, :, :height, :, :width] += part
    return result.transpose(1, 2, 0)[area.y - room.y :, area.x - room.x :][: area.height, : area.width].copy()


@lru_cache(maxsize=32)
def _shares(small: Projection, on: On, row: int, column: int) -> NDArray[np.float32]:
    """How much each corner of a cell, or it itself, counts at each pixel of its box, (4 or 1, h * w); not beside it."""
    box = small.box(row, column)
    ys, xs = np.broadcast_arrays(
        *small.place((box.x + np.arange(box.width) + 0.5)[None, :], (box.y + np.arange(box.height) + 0.5)[:, None])
    )
    flat_y, flat_x = small.board.flat("cells", row, column)
    down, across = ys - flat_y, xs - flat_x
    inside = (down >= 0) & (down < 1) & (across >= 0) & (across < 1)
    if on == "cells":
        whole: NDArray[np.float32] = inside.astype(np.float32).reshape(1, -1)
        return whole
    shares = [inside * (down if y else 1 - down) * (across if x else 1 - across) for y, x in _CORNERS]
    return np.stack(shares).astype(np.float32).reshape(4, -1)
