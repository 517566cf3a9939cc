"""Drawing the sprites of one layer, or of several that are stacked by depth, on a clear sheet."""

from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.layers.layer import PLAIN_TINT, Layer
from knitground.core.render.atlas import Atlas, Ids, Stand
from knitground.core.render.layout import Grid, Layout, boxes_inside
from knitground.core.render.pixels import Pixels, modulated, over


def tint_of(layer: Layer) -> tuple[int, int, int]:
    """The colour that a layer is multiplied by."""
    return tuple(int(layer.tint[at : at + 2], 16) for at in (1, 3, 5))  # type: ignore[return-value]


def is_plain(layer: Layer) -> bool:
    """Whether a layer's pixels are shown as they are."""
    return layer.opacity == 1 and layer.tint == PLAIN_TINT


def reaching_into(area: PixelRect, small: Projection, atlas: Atlas) -> PixelRect:
    """Where boxes lie whose sprites reach into an area."""
    left, top, right, bottom = _reach(small, atlas)
    return area.grown(right, bottom, left, top)


def _reach(small: Projection, atlas: Atlas) -> tuple[int, int, int, int]:
    """How far sprites reach beyond their boxes at a scale: to the left, upwards, to the right, downwards."""
    across, down = small.tile_width / atlas.tile_width, small.tile_height / atlas.tile_height
    left, top, right, bottom = atlas.overhang
    if not any(atlas.overhang):
        return 0, 0, 0, 0
    return int(left * across) + 1, int(top * down) + 1, int(right * across) + 1, int(bottom * down) + 1


class Row(NamedTuple):
    """Sprites of one size that stand alike against boxes side by side.

    Attributes
    ----------
    spots : (N,) int
        In which of the boxes of a strip they stand.
    sprites : (N, h, w, 4) uint8
    stand : Stand
    whole : bool
        Whether each of their pixels is either clear or opaque.
    """

    spots: NDArray[np.intp]
    sprites: Pixels
    stand: Stand
    whole: bool


class SpriteSheet:
    """A clear sheet with room round it, so that sprites at its borders need not be cut."""

    def __init__(self, area: PixelRect, small: Projection, atlas: Atlas) -> None:
        self.of = area
        self.size, self.pitch = (small.tile_height, small.tile_width), small.pitch
        left, top, right, bottom = _reach(small, atlas)
        # Boxes may stand out on all sides, and so may what overhangs and the gap behind a box.
        across, down = (2 * pitch - side for pitch, side in zip(small.pitch, self.size[::-1], strict=True))
        self.area = area.grown(
            small.tile_width + left + right, small.tile_height + top + bottom,
            across + small.tile_width + left + right, top + bottom + down,
        )  # fmt: skip
        self.pixels = np.zeros((self.area.height, self.area.width, 4), dtype=np.uint8)
        self.words = self.pixels.view(np.uint32)[..., 0]
        self.atlas = atlas
        self.scale = small.tile_width / atlas.tile_width, small.tile_height / atlas.tile_height
        self.empty = True
        self.whole = True

    def inside(self, area: PixelRect) -> Pixels:
        """The pixels of an area."""
        return self.pixels[area.y - self.area.y :, area.x - self.area.x :][: area.height, : area.width]

    def dense(self, ids: Ids, left: int, top: int) -> None:
        """Draws sprites that fill their boxes, for cells side by side in both directions.

        Parameters
        ----------
        ids : (rows, columns) int
            Places in the atlas.
        left, top : int
            Where the first box begins, in pixels of the scale.
        """
        height, width = self.size
        page = self.atlas.page(int(self.atlas.pages[0]), self.size)
        rows, columns = ids.shape
        across, down = self.pitch
        part = self.words[top - self.area.y :, left - self.area.x :][: rows * down, : columns * across]
        tiles = page.view(np.uint32)[..., 0][self.atlas.slots[ids]].swapaxes(1, 2)
        boxes = part.reshape(rows, down, columns, across)[:, :height, :, :width]
        if self.empty:
            boxes[:] = tiles
        elif self.scale == (1, 1):
            # Boxes of diamonds overlap, but never where anything is drawn.
            np.copyto(boxes, tiles, where=tiles != 0)
        else:
            above, below = (np.ascontiguousarray(one).view(np.uint8).reshape(*one.shape, 4) for one in (tiles, boxes))
            boxes[:] = over(above, below).view(np.uint32)[..., 0]
        self._drew(ids)

    def rows(self, ids: Ids, layout: Layout, paint: Layer | None) -> list[list[Row]]:
        """The sprites of a layer, for each strip those that can be drawn at once.

        Parameters
        ----------
        ids : (N,) int32
            Of the cells of the layout.
        layout : Layout
        paint : Layer, optional
            Whose opacity and tint they take.
        """
        found: list[list[Row]] = [[] for _ in layout.strips]
        spots = np.flatnonzero(ids)
        if not spots.size:
            return found
        mine = ids[spots]
        kinds, whole = self.atlas.kinds[mine], self.atlas.whole[mine]
        bounds = np.searchsorted(spots, layout.starts).tolist()
        spots -= np.repeat(layout.starts[:-1], np.diff(bounds))
        present = np.unique(kinds).tolist()
        art, places = {}, np.zeros(len(mine), dtype=np.intp)
        for kind in present:
            some = kinds == kind
            # Each sprite once: those far larger than their cells would fill the memory.
            distinct, places[some] = np.unique(mine[some], return_inverse=True)
            art[kind] = self._painted(distinct, self.atlas.stands[kind], paint)
        opaque = paint is None or paint.opacity == 1
        for strip, (first, last) in enumerate(pairwise(bounds)):
            for part in self._at_once(kinds[first:last], present):
                some = first + part
                kind, at = int(kinds[some[0]]), int(places[some[0]])
                sprites = art[kind][at : at + 1] if len(some) == 1 else art[kind][places[some]]
                row = Row(spots[some], sprites, self.atlas.stands[kind], opaque and whole[some].all())
                found[strip].append(row)
        return found

    def _at_once(self, kinds: NDArray[np.int32], present: list[int]) -> Iterable[NDArray[np.intp]]:
        """Which sprites of a strip can be drawn at once."""
        if not len(kinds):
            return []
        here = present if len(present) == 1 else np.unique(kinds).tolist()
        stands = [self.atlas.stands[kind] for kind in here]
        # Those that may overlap their neighbours each have their turn.
        if any(self._wide(one) for one in stands) or (len(stands) > 1 and any(self._leans(one) for one in stands)):
            return [np.array([number]) for number in range(len(kinds))]
        return [np.arange(len(kinds))] if len(here) == 1 else [np.flatnonzero(kinds == kind) for kind in here]

    def _wide(self, stand: Stand) -> bool:
        return self.atlas.sprite_size(stand.page, self.size)[1] > self.size[1]

    def _leans(self, stand: Stand) -> bool:
        """Whether sprites reach beyond the sides of their boxes."""
        left = stand.left * self.scale[0] // 1
        return left < 0 or left + self.atlas.sprite_size(stand.page, self.size)[1] > self.size[1]

    def _painted(self, ids: Ids, stand: Stand, paint: Layer | None) -> Pixels:
        sprites = self.atlas.page(stand.page, self.size)[self.atlas.slots[ids]]
        if paint is None or is_plain(paint):
            return sprites
        return modulated(sprites, paint.opacity, tint_of(paint))

    def strip(self, rows: Sequence[Row], strip: Strip) -> None:
        """Draws the sprites of cells that stand side by side, over what lies there."""
        for row in rows:
            self._draw(row, strip)

    def _draw(self, row: Row, strip: Strip) -> None:
        """Draws sprites of one size that stand alike against their boxes."""
        spots, sprites, stand, whole = row
        self.empty, self.whole = False, self.whole and whole
        height, width = sprites.shape[1:3]
        x = strip.left + int(stand.left * self.scale[0] // 1) - self.area.x
        y = strip.top + int(stand.top * self.scale[1] // 1) - self.area.y
        if y < 0 or y + height > self.pixels.shape[0]:
            return  # so far above or below that nothing of it shows
        pitch = self.pitch[0]
        count = int(spots[-1]) + 1
        if x >= 0 and width <= pitch and x + count * pitch <= self.pixels.shape[1]:
            boxes = self.words[y : y + height, x : x + count * pitch].reshape(height, count, pitch)[..., :width]
            self._lay(boxes, spots, sprites, whole)
            return
        for place, sprite in zip((x + spots * pitch).tolist(), sprites, strict=True):
            if place >= 0 and place + width <= self.pixels.shape[1]:
                box = self.words[y : y + height, place : place + width][:, None]
                self._lay(box, np.zeros(1, dtype=np.intp), sprite[None], whole)

    def _lay(self, boxes: NDArray[np.uint32], spots: NDArray[np.intp], sprites: Pixels, whole: bool) -> None:
        """Lays sprites over some of the boxes that stand side by side, (height, N, width)."""
        art = sprites.view(np.uint32)[..., 0].swapaxes(0, 1)
        every = len(spots) == boxes.shape[1]
        below = boxes if every else boxes[:, spots]
        if whole:
            if every:
                np.copyto(boxes, art, where=art != 0)
            else:
                boxes[:, spots] = np.where(art != 0, art, below)
            return
        theirs = np.ascontiguousarray(below).view(np.uint8).reshape(*below.shape, 4)
        laid = over(sprites.swapaxes(0, 1), theirs)
        boxes[:, spots] = np.ascontiguousarray(laid).view(np.uint32)[..., 0]

    def _drew(self, ids: Ids) -> None:
        self.empty = self.empty and not ids.any()
        self.whole = self.whole and bool(self.atlas.whole[ids].all())


def draw_flat(sheet: SpriteSheet, ids: Ids, grids: Sequence[Grid], small: Projection) -> None:
    """Draws diamonds or hexagons that keep to their cells: all strips of a phase at once.

    Parameters
    ----------
    sheet : SpriteSheet
    ids : (N,) int32
        Of the cells of a layout.
    grids : sequence of Grid
        Of that layout.
    small : Projection
    """
    for grid in grids:
        boxes = np.zeros(grid.shape, dtype=np.int32)
        boxes[grid.rows, grid.columns] = ids[grid.mine]
        # Boxes that lie wholly outside were never going to show.
        rows, columns = boxes_inside(grid, small, sheet.area)
        part = boxes[rows, columns]
        if part.any():
            across, down = small.pitch
            sheet.dense(part, grid.left + columns.start * across, grid.top + rows.start * down)
