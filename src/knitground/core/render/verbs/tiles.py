"""Tiles: one in each cell."""

from collections.abc import Iterator
from functools import partial
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.grid.rect import CellRect
from knitground.core.grid.square import SquareProjection
from knitground.core.layers.items import TileItems
from knitground.core.layers.layer import Layer
from knitground.core.render.atlas import Atlas, Overhang
from knitground.core.render.large import large_from_afar
from knitground.core.render.layout import grids_of, layout_of
from knitground.core.render.pixels import Pixels, lay, modulated, over
from knitground.core.render.scene import Drawn, Scene
from knitground.core.render.sprites import SpriteSheet, draw_flat, is_plain, reaching_into, tint_of
from knitground.core.render.upper_face import tops
from knitground.core.render.verbs.verb import Piece, Samples, View

_NOTHING = np.zeros((0, 0), dtype=np.int32)
_MOST_REACH = 8


class Tiles:
    """How they become pixels."""

    shades = False

    def lay(self, canvas: Pixels, drawn: Drawn, view: View, part: PixelRect) -> None:
        layer = drawn.layer
        sheet, whole = _alone(_items(drawn), view.scene.atlas, view.small, part)
        if sheet is None:
            return
        if not is_plain(layer):
            sheet, whole = modulated(sheet, layer.opacity, tint_of(layer)), layer.opacity == 1 and whole
        lay(sheet, canvas, whole=whole)

    def pieces(self, sheet: SpriteSheet, drawn: Drawn, view: View, part: PixelRect) -> Iterator[Piece]:
        atlas = view.scene.atlas
        layout = layout_of(view.small, reaching_into(part, view.small, atlas))
        if layout.cells.is_empty:
            return
        ids = atlas.ids(_items(drawn).codes(layout.cells))[layout.down, layout.across]
        if not ids.any():
            return
        across, down = sheet.of.x - part.x, sheet.of.y - part.y
        for strip, rows in zip(layout.strips, sheet.rows(ids, layout, drawn.layer), strict=True):
            if not rows:
                continue
            moved = strip._replace(left=strip.left + across, top=strip.top + down)
            # How far a layer is moved up is how high it lies: what comes before what goes by where its cells are.
            yield strip.top, partial(sheet.strip, rows, moved)

    def lay_from_afar(self, canvas: Pixels, drawn: Drawn, samples: Samples) -> None:
        scene, layer, (across, down) = samples.scene, drawn.layer, samples.aside
        x, y = samples.xs - layer.offset_x, samples.ys - layer.offset_y
        cells = _seen(scene, x, y, samples.aside)
        codes = _items(drawn).codes(cells) if not cells.is_empty else _NOTHING
        if not codes.any():
            return
        large = scene.atlas.is_large(codes)
        sheet = _dots(codes if large is None else np.where(large, 0, codes), cells, scene, *samples.flat(drawn))
        if large is not None:
            large_from_afar(sheet, np.where(large, codes, 0), cells, scene, x - across, y - down)
        if not is_plain(layer):
            sheet = modulated(sheet, layer.opacity, tint_of(layer))
        canvas[:] = over(sheet, canvas)

    def before(self, drawn: Drawn, scene: Scene, foot: float, height: int) -> Drawn | None:
        layer = drawn.layer
        if layer.stands == "over":
            return drawn
        if layer.stands != "under" and (layer.stands == "foot" or layer.stacking == "depth"):
            return Drawn(layer, _lower(_items(drawn), layer, scene, foot, height))
        return None


def _items(drawn: Drawn) -> TileItems:
    return cast(TileItems, drawn.items)


def _alone(items: TileItems, atlas: Atlas, small: Projection, area: PixelRect) -> tuple[Pixels | None, bool]:
    """A layer's pixels on a clear sheet, None where there are none; and whether none is half transparent."""
    seen = reaching_into(area, small, atlas)
    cells = small.cells_in(seen)
    codes = items.codes(cells) if not cells.is_empty else _NOTHING
    if not codes.any():
        return None, True
    sheet, ids = SpriteSheet(area, small, atlas), atlas.ids(codes)
    if isinstance(small, SquareProjection):
        inner = small.cells_in(area)
        filling = ids[inner.top - cells.top :, inner.left - cells.left :][: inner.height, : inner.width]
        if not atlas.all_fit:
            filling = np.where(atlas.fits[filling], filling, 0)
        if filling.any():
            sheet.dense(filling, inner.left * small.tile_width, inner.top * small.tile_height)
        # What does not fill its box is left; it may reach in from further off.
        ids = _NOTHING if atlas.all_fit else np.where(atlas.fits[ids], 0, ids)
    if ids.any():
        layout = layout_of(small, seen)
        mine = ids[layout.down, layout.across]
        if (atlas.flat[mine] & atlas.fits[mine]).all():
            draw_flat(sheet, mine, grids_of(small, seen), small)
        else:
            for strip, rows in zip(layout.strips, sheet.rows(mine, layout, None), strict=True):
                sheet.strip(rows, strip)
    return (None if sheet.empty else np.ascontiguousarray(sheet.inside(area))), sheet.whole


def _seen(scene: Scene, xs: Any, ys: Any, aside: tuple[float, float]) -> CellRect:
    """The cells whose tiles may reach samples, or places a little to the left and above of them."""
    # Each cell more round about costs as much as one that is seen: what reaches in from further off is left out.
    most = _MOST_REACH * scene.projection.tile_width, _MOST_REACH * scene.projection.tile_height
    reach = Overhang(*(min(one, most[number % 2]) for number, one in enumerate(scene.atlas.overhang)))
    if scene.atlas.all_fit:
        aside = (0, 0)
    left, top = int(xs[0] - aside[0]) - reach.right, int(ys[0] - aside[1]) - reach.bottom
    right, bottom = int(xs[-1]) + 1 + reach.left, int(ys[-1]) + 1 + reach.top
    return scene.projection.cells_in(PixelRect(left, top, right - left, bottom - top))


def _dots(codes: NDArray[np.int32], cells: CellRect, scene: Scene, ys: Any, xs: Any) -> Pixels:
    """The mean colours of the tiles of the cells at samples."""
    rows, columns = scene.projection.board.stored("cells", np.floor(ys).astype(np.intp), np.floor(xs).astype(np.intp))
    rows, columns = rows - cells.top, columns - cells.left
    there = (rows >= 0) & (rows < cells.height) & (columns >= 0) & (columns < cells.width)
    picked = codes[np.where(there, rows, 0), np.where(there, columns, 0)]
    # First the sprites, which may come only now, then their colours.
    ids = scene.atlas.ids(np.where(there, picked, 0).astype(np.int32))
    return np.asarray(scene.atlas.means[ids])


def _lower(items: TileItems, layer: Layer, scene: Scene, foot: float, height: int) -> TileItems:
    """The tiles of a layer whose foot is lower on the screen than a figure's.

    Where cells have slanted sides, a figure stands on what lies flat in its cell or is flat on top, however far down
    that reaches.
    """
    projection, atlas = scene.projection, scene.atlas

    def codes(cells: CellRect) -> NDArray[np.int32]:
        """Cell codes of a rectangle.

        Parameters
        ----------
        cells : CellRect

        Returns
        -------
        codes : (height, width) int32
        """
        found = items.codes(cells).copy()
        for row in range(cells.height):
            for column in range(cells.width):
                bottom = projection.corner(cells.top + row, cells.left + column)[1] + projection.tile_height
                if bottom + layer.moved_down <= foot:
                    found[row, column] = 0
        if atlas.outline != "box":
            found[tops(atlas, found) - layer.offset_y <= height] = 0
        return found

    return TileItems(codes)
