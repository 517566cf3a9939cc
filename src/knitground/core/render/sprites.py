"""Drawing the sprites of one layer, or of several that are stacked by depth, on a clear sheet."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.layers.layer import PLAIN_TINT, Layer
from knitground.core.render.atlas import Atlas, Ids, Stand
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


class SpriteSheet:
    """A clear sheet with room round it, so that sprites at its borders need not be cut."""

    def __init__(self, area: PixelRect, small: Projection, atlas: Atlas) -> None:
        self.size = small.tile_height, small.tile_width
        left, top, right, bottom = _reach(small, atlas)
        # Boxes may stand out on all sides, and so may what overhangs.
        self.area = area.grown(
            small.tile_width + left + right, small.tile_height + top + bottom,
            2 * small.tile_width + left + right, small.tile_height + top + bottom,
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
        """Draws sprites that fill their boxes, for cells side by side in both directions."""
        height, width = self.size
        page = self.atlas.page(int(self.atlas.pages[0]), self.size)
        rows, columns = ids.shape
        part = self.words[top - self.area.y :, left - self.area.x :][: rows * height, : columns * width]
        tiles = page.view(np.uint32)[..., 0][self.atlas.slots[ids]].swapaxes(1, 2)
        boxes = part.reshape(rows, height, columns, width)
        if self.empty:
            boxes[:] = tiles
        elif self.scale == (1, 1):
            # Boxes of diamonds overlap, but never where anything is drawn.
            np.copyto(boxes, tiles, where=tiles != 0)
        else:
            above, below = (np.ascontiguousarray(one).view(np.uint8).reshape(*one.shape, 4) for one in (tiles, boxes))
            boxes[:] = over(above, below).view(np.uint32)[..., 0]
        self._drew(ids)

    def strip(self, ids: Ids, strip: Strip, paint: Layer | None) -> None:
        """Draws the sprites of cells that stand side by side, over what lies there."""
        spots = np.flatnonzero(ids)
        if not spots.size:
            return
        mine = ids[spots]
        kinds = self.atlas.kinds[mine]
        present = np.unique(kinds).tolist() if (kinds != kinds[0]).any() else [int(kinds[0])]
        stands = [self.atlas.stands[kind] for kind in present]
        # Those that may overlap their neighbours each have their turn.
        if any(self._wide(one) for one in stands) or (len(stands) > 1 and any(self._leans(one) for one in stands)):
            for number, kind in enumerate(kinds.tolist()):
                here = slice(number, number + 1)
                self._draw(mine[here], spots[here], self.atlas.stands[kind], strip, paint)
            return
        for kind, stand in zip(present, stands, strict=True):
            some = kinds == kind if len(present) > 1 else slice(None)
            self._draw(mine[some], spots[some], stand, strip, paint)

    def _wide(self, stand: Stand) -> bool:
        return self.atlas.sprite_size(stand.page, self.size)[1] > self.size[1]

    def _leans(self, stand: Stand) -> bool:
        """Whether sprites reach beyond the sides of their boxes."""
        left = stand.left * self.scale[0] // 1
        return left < 0 or left + self.atlas.sprite_size(stand.page, self.size)[1] > self.size[1]

    def _draw(self, ids: Ids, spots: NDArray[np.intp], stand: Stand, strip: Strip, paint: Layer | None) -> None:
        """Draws sprites of one size that stand alike against their boxes."""
        sprites = self.atlas.page(stand.page, self.size)[self.atlas.slots[ids]]
        whole = bool(self.atlas.whole[ids].all())
        if paint is not None and not is_plain(paint):
            sprites, whole = modulated(sprites, paint.opacity, tint_of(paint)), whole and paint.opacity == 1
        self.empty, self.whole = False, self.whole and whole
        height, width = sprites.shape[1:3]
        x = strip.left + int(stand.left * self.scale[0] // 1) - self.area.x
        y = strip.top + int(stand.top * self.scale[1] // 1) - self.area.y
        if y < 0 or y + height > self.pixels.shape[0]:
            return  # so far above or below that nothing of it shows
        pitch = self.size[1]
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


def draw_flat(sheet: SpriteSheet, strips: Sequence[Strip], rows: Sequence[Ids], small: Projection) -> None:
    """Draws diamonds that keep to their cells: every other strip at once, as their boxes stand in a grid."""
    for parity in (0, 1):
        mine = [(strip, row) for strip, row in zip(strips, rows, strict=True) if _half(strip, small) % 2 == parity]
        mine = [(strip, row) for strip, row in mine if row.any()]
        if not mine:
            continue
        left = min(strip.left for strip, _ in mine)
        right = max(strip.left + len(row) * small.tile_width for strip, row in mine)
        top, bottom = mine[0][0].top, mine[-1][0].top + small.tile_height
        size = (bottom - top) // small.tile_height, (right - left) // small.tile_width
        grid = np.zeros(size, dtype=np.int32)
        for strip, row in mine:
            start = (strip.left - left) // small.tile_width
            grid[(strip.top - top) // small.tile_height, start : start + len(row)] = row
        # Boxes that lie wholly outside were never going to show.
        first_row, first_column = (
            max(0, -(-(sheet.area.y - top) // small.tile_height)),
            max(0, -(-(sheet.area.x - left) // small.tile_width)),
        )
        last_row = (sheet.area.bottom - top) // small.tile_height
        last_column = (sheet.area.right - left) // small.tile_width
        part = grid[first_row:last_row, first_column:last_column]
        if part.any():
            sheet.dense(part, left + first_column * small.tile_width, top + first_row * small.tile_height)


def _half(strip: Strip, small: Projection) -> int:
    """The number of a strip, counted in halves of a tile from the top."""
    return strip.top * 2 // small.tile_height
