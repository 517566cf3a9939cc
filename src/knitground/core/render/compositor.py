"""Draw items to pixels: the one place where layers are laid over one another.

The window, deliveries, thumbnails and the overview all ask for a rectangle of pixels of a scene at a scale. Layers are
drawn one after another, each on a clear sheet of its own that is then laid over the others; neighbouring layers that
are stacked by depth are drawn together, strip by strip from the back to the front.
"""

from collections.abc import Callable, Iterator, Sequence
from itertools import groupby
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect, Projection, Strip
from knitground.core.grid.rect import CellRect
from knitground.core.grid.square import SquareProjection
from knitground.core.layers.items import ShadeItems, TileItems
from knitground.core.layers.layer import PLAIN_TINT, Layer
from knitground.core.render.atlas import Atlas, Ids
from knitground.core.render.pixels import Pixels, lay, modulated, over, straight
from knitground.core.render.scene import Drawn, Scene

MOST_PIXELS = 2**28
_BAND_PIXELS = 2**22
_SAMPLES = 2


class Scale(NamedTuple):
    """How closely a ground is looked at.

    Attributes
    ----------
    level : int
        Tiles are 1 / 2**level of their size, but at least one pixel.
    cells : int
        Above 1: a pixel stands for so many cells on a side.
    """

    level: int = 0
    cells: int = 1


def smallest_level(projection: Projection) -> int:
    """The level at which a tile is about one pixel large."""
    return max(projection.tile_width, projection.tile_height).bit_length() - 1


def pixels_per(projection: Projection, scale: Scale) -> tuple[float, float]:
    """How many pixels of the ground, across and down, one pixel stands for."""
    small = projection.reduced(scale.level)
    return (
        projection.tile_width / small.tile_width * scale.cells,
        projection.tile_height / small.tile_height * scale.cells,
    )


def render(
    scene: Scene,
    area: PixelRect,
    scale: Scale = Scale(),
    *,
    below: Pixels | None = None,
) -> Pixels:
    """Pixels of a part of a scene.

    Parameters
    ----------
    scene : Scene
    area : PixelRect
        In pixels of the scale.
    scale : Scale
    below : (height, width, 4) uint8, optional
        What lies below the lowest layer; nothing if not given.

    Returns
    -------
    pixels : (height, width, 4) uint8
        RGBA, premultiplied alpha.
    """
    if scale.cells > 1:
        return _from_afar(scene, area, scale)
    small = scene.projection.reduced(scale.level)
    canvas = np.zeros((area.height, area.width, 4), dtype=np.uint8) if below is None else below.copy()
    for group in _groups(scene.layers):
        if group[0].items.verb == "shade":
            _shade(canvas, group[0], small, area)
        else:
            _lay_group(canvas, group, scene, small, area)
    return canvas


def picture(scene: Scene, name: str, progress: Callable[[float], None] = lambda share: None) -> Pixels:
    """The whole of a scene in full size.

    Parameters
    ----------
    name : str
        Of the ground, for messages.
    progress : callable, optional
        Told the share that is done; may raise to stop.

    Returns
    -------
    pixels : (height, width, 4) uint8
        RGBA, straight alpha.

    Raises
    ------
    BadRequest
        If the picture would be too large to hold.
    """
    width, height = scene.projection.size
    if height * width > MOST_PIXELS:
        raise BadRequest(
            f"{name} would be a picture of {width} x {height} pixels, and {MOST_PIXELS >> 20} megapixels is the "
            "most; deliver it as JSON instead, or make the ground smaller."
        )
    whole = np.empty((height, width, 4), dtype=np.uint8)
    band = max(1, _BAND_PIXELS // width)
    for top in range(0, height, band):
        part = PixelRect(0, top, width, min(band, height - top))
        whole[top : part.bottom] = straight(render(scene, part))
        progress(part.bottom / height)
    return whole


def _groups(layers: Sequence[Drawn]) -> Iterator[list[Drawn]]:
    """Layers that are drawn together: neighbours that are stacked by depth, all others alone."""

    def key(numbered: tuple[int, Drawn]) -> Any:
        number, drawn = numbered
        together = drawn.layer.stacking == "depth" and drawn.items.verb == "tiles"
        return "depth" if together else number

    for _, group in groupby(enumerate(layers), key):
        yield [drawn for _, drawn in group]


def _tint(layer: Layer) -> tuple[int, int, int]:
    return tuple(int(layer.tint[at : at + 2], 16) for at in (1, 3, 5))  # type: ignore[return-value]


def _plain(layer: Layer) -> bool:
    """Whether a layer's pixels are shown as they are."""
    return layer.opacity == 1 and layer.tint == PLAIN_TINT


def _moved(area: PixelRect, layer: Layer, scene: Scene, small: Projection) -> PixelRect:
    """The part of a layer that shows in an area, given how far the layer is moved."""
    across = layer.offset_x * small.tile_width // scene.projection.tile_width
    down = layer.offset_y * small.tile_height // scene.projection.tile_height
    return area._replace(x=area.x - across, y=area.y - down)


def _lay_group(canvas: Pixels, group: list[Drawn], scene: Scene, small: Projection, area: PixelRect) -> None:
    if len(group) > 1:
        _draw_together(canvas, group, scene, small, area)
        return
    layer, items = group[0]
    if layer.opacity == 0:
        return
    assert isinstance(items, TileItems)  # the other verbs are dealt with before
    sheet, whole = _draw_alone(items, scene.atlas, small, _moved(area, layer, scene, small))
    if sheet is None:
        return
    if not _plain(layer):
        sheet, whole = modulated(sheet, layer.opacity, _tint(layer)), layer.opacity == 1 and whole
    lay(sheet, canvas, whole=whole)


class _Sheet:
    """A clear sheet with room round it, so that sprites at its borders need not be cut."""

    def __init__(self, area: PixelRect, small: Projection, atlas: Atlas) -> None:
        self.size = small.tile_height, small.tile_width
        across = small.tile_width / atlas.tile_width
        down = small.tile_height / atlas.tile_height
        far = atlas.overhang
        self.reach = tuple(int(side * by) + 1 for side, by in zip(far, (across, down, across, down), strict=True))
        left, top, right, bottom = self.reach
        # Boxes may stand out on all sides, and so may what overhangs.
        self.area = area.grown(
            small.tile_width + left + right, small.tile_height + top + bottom,
            2 * small.tile_width + left + right, small.tile_height + top + bottom,
        )  # fmt: skip
        self.pixels = np.zeros((self.area.height, self.area.width, 4), dtype=np.uint8)
        self.atlas = atlas
        self.scale = across, down
        self.empty = True
        self.whole = True

    def seen(self, area: PixelRect) -> PixelRect:
        """Where boxes lie whose sprites reach into an area."""
        left, top, right, bottom = self.reach
        return area.grown(right, bottom, left, top)

    def inside(self, area: PixelRect) -> Pixels:
        """The pixels of an area."""
        return self.pixels[area.y - self.area.y :, area.x - self.area.x :][: area.height, : area.width]

    def dense(self, ids: Ids, left: int, top: int) -> None:
        """Draws sprites that fill their boxes, for cells side by side in both directions; nothing lies there yet."""
        height, width = self.size
        page = self.atlas.page(int(self.atlas.pages[0]), self.size)
        rows, columns = ids.shape
        part = self.pixels[top - self.area.y :, left - self.area.x :][: rows * height, : columns * width]
        tiles = page[self.atlas.slots[ids]].swapaxes(1, 2)
        part.reshape(rows, height, columns, width, 4)[:] = tiles
        self._drew(ids)

    def strip(self, ids: Ids, strip: Strip, paint: Layer | None) -> None:
        """Draws the sprites of cells that stand side by side, over what lies there."""
        spots = np.flatnonzero(ids)
        if not spots.size:
            return
        mine = ids[spots]
        self._drew(mine)
        kinds = np.stack([self.atlas.pages[mine], self.atlas.lefts[mine], self.atlas.tops[mine]])
        widths = np.array([self.atlas.sprite_size(int(page), self.size)[1] for page in kinds[0]])
        first, which = np.unique(kinds, axis=1, return_inverse=True)
        lefts = np.floor(kinds[1] * self.scale[0])
        beside = (lefts < 0) | (lefts + widths > self.size[1])
        if (widths > self.size[1]).any() or (first.shape[1] > 1 and beside.any()):
            # They may overlap their neighbours, so that each has its turn.
            for number in range(len(spots)):
                self._draw(mine[number : number + 1], spots[number : number + 1], kinds[:, number], strip, paint)
            return
        for number in range(first.shape[1]):
            some = which.ravel() == number
            self._draw(mine[some], spots[some], first[:, number], strip, paint)

    def _draw(
        self, ids: Ids, spots: NDArray[np.intp], kind: NDArray[np.int32], strip: Strip, paint: Layer | None
    ) -> None:
        """Draws sprites of one size that stand alike against their boxes."""
        page, left, top = (int(number) for number in kind)
        sprites = self.atlas.page(page, self.size)[self.atlas.slots[ids]]
        whole = bool(self.atlas.whole[ids].all())
        if paint is not None and not _plain(paint):
            sprites, whole = modulated(sprites, paint.opacity, _tint(paint)), whole and paint.opacity == 1
        height, width = sprites.shape[1:3]
        x = strip.left + int(left * self.scale[0] // 1) - self.area.x
        y = strip.top + int(top * self.scale[1] // 1) - self.area.y
        if y < 0 or y + height > self.pixels.shape[0]:
            return  # so far above or below that nothing of it shows
        pitch = self.size[1]
        xs = x + spots * pitch
        fit = (xs >= 0) & (xs + width <= self.pixels.shape[1])
        if not fit.all():
            sprites, xs = sprites[fit], xs[fit]
        if not len(xs):
            return
        words, art = self.pixels.view(np.uint32)[..., 0], np.ascontiguousarray(sprites).view(np.uint32)[..., 0]
        columns = xs[:, None] + np.arange(width)
        rows = np.arange(y, y + height)[:, None]
        target = words[rows, columns[:, None, :]] if len(xs) > 1 else words[y : y + height, xs[0] : xs[0] + width][None]
        if whole:
            laid = np.where(art != 0, art, target)
        else:
            below = np.ascontiguousarray(target).view(np.uint8).reshape(*target.shape, 4)
            laid = over(sprites, below).view(np.uint32)[..., 0]
        if len(xs) > 1:
            words[rows, columns[:, None, :]] = laid
        else:
            words[y : y + height, xs[0] : xs[0] + width] = laid[0]

    def _drew(self, ids: Ids) -> None:
        self.empty = self.empty and not ids.any()
        self.whole = self.whole and bool(self.atlas.whole[ids].all())


def _draw_alone(items: TileItems, atlas: Atlas, small: Projection, area: PixelRect) -> tuple[Pixels | None, bool]:
    """A layer's pixels on a clear sheet, None where there are none; and whether none is half transparent."""
    sheet = _Sheet(area, small, atlas)
    dense = isinstance(small, SquareProjection)
    if dense:
        cells = small.cells_in(area)
        ids = atlas.ids(items.codes(cells)) if not cells.is_empty else np.zeros((0, 0), dtype=np.int32)
        filling = np.where(atlas.fits[ids], ids, 0)
        if filling.any():
            sheet.dense(filling, cells.left * small.tile_width, cells.top * small.tile_height)
    # On square grids only what does not fill its box is left; it may reach in from further off.
    cells = small.cells_in(sheet.seen(area))
    if not cells.is_empty and not (dense and atlas.all_fit):
        ids = atlas.ids(items.codes(cells))
        ids = np.where(atlas.fits[ids], 0, ids) if dense else ids
        if ids.any():
            for strip in small.strips(sheet.seen(area)):
                sheet.strip(ids[strip.rows - cells.top, strip.columns - cells.left], strip, None)
    return (None if sheet.empty else np.ascontiguousarray(sheet.inside(area))), sheet.whole


def _draw_together(canvas: Pixels, group: list[Drawn], scene: Scene, small: Projection, area: PixelRect) -> None:
    """Draws layers cell by cell from the back to the front, and lays the whole over the canvas."""
    sheet = _Sheet(area, small, scene.atlas)
    laid: list[tuple[Layer, Ids, CellRect, list[Strip]]] = []
    for layer, items in group:
        part = _moved(area, layer, scene, small)
        cells = small.cells_in(sheet.seen(part))
        if not cells.is_empty and layer.opacity > 0:
            assert isinstance(items, TileItems)  # nothing else is grouped
            across, down = area.x - part.x, area.y - part.y
            strips = [
                one._replace(left=one.left + across, top=one.top + down) for one in small.strips(sheet.seen(part))
            ]
            laid.append((layer, scene.atlas.ids(items.codes(cells)), cells, strips))
    order = sorted(
        ((strip.top, number, strip) for number, (_, _, _, strips) in enumerate(laid) for strip in strips),
        key=lambda one: one[:2],
    )
    for _, number, strip in order:
        layer, ids, cells, _ = laid[number]
        sheet.strip(ids[strip.rows - cells.top, strip.columns - cells.left], strip, layer)
    if not sheet.empty:
        lay(np.ascontiguousarray(sheet.inside(area)), canvas, whole=sheet.whole and all(_plain(d.layer) for d in group))


def _shade(canvas: Pixels, drawn: Drawn, small: Projection, area: PixelRect) -> None:
    """Multiplies what lies on the canvas by the colours of a shade layer."""
    items = drawn.items
    assert isinstance(items, ShadeItems)  # by its verb
    xs, ys = np.arange(area.x, area.right) + 0.5, np.arange(area.y, area.bottom) + 0.5
    places = small.place(xs[None, :], ys[:, None])
    colours = _blended(items, small, *places)
    if colours is None:
        return
    tint = np.array(_tint(drawn.layer), dtype=np.float32) / 255
    factors = 1 + (colours * tint - 1) * drawn.layer.opacity
    canvas[..., :3] = (canvas[..., :3] * factors + 0.5).astype(np.uint8)


def _blended(items: ShadeItems, small: Projection, ys: Any, xs: Any) -> NDArray[np.float32] | None:
    """Colours of a shade layer at flat places, (H, W, 3), blended between corners; None where there are none."""
    top, left = int(np.floor(ys.min())), int(np.floor(xs.min()))
    bottom, right = int(np.floor(ys.max())) + 2, int(np.floor(xs.max())) + 2
    rows, columns = np.arange(top, bottom + 1), np.arange(left, right + 1)
    numbers, there = small.board.flat_patch(items.numbers, "corners", rows, columns)
    if not numbers.any():
        return None
    corners = items.colours[np.where(there, numbers, 0)]
    y, x = np.floor(ys).astype(np.intp), np.floor(xs).astype(np.intp)
    down, right_share = (ys - y)[..., None].astype(np.float32), (xs - x)[..., None].astype(np.float32)
    y, x = y - top, x - left
    upper = corners[y, x] * (1 - right_share) + corners[y, x + 1] * right_share
    lower = corners[y + 1, x] * (1 - right_share) + corners[y + 1, x + 1] * right_share
    return np.asarray(upper * (1 - down) + lower * down, dtype=np.float32)


def _from_afar(scene: Scene, area: PixelRect, scale: Scale) -> Pixels:
    """A part of a scene of which each pixel stands for several cells: the mean of a few places spread over it."""
    across, down = pixels_per(scene.projection, scale)
    samples = (np.arange(_SAMPLES) + 0.5) / _SAMPLES
    xs = ((area.x + np.arange(area.width))[:, None] + samples).ravel() * across
    ys = ((area.y + np.arange(area.height))[:, None] + samples).ravel() * down
    result = np.zeros((len(ys), len(xs), 4), dtype=np.uint8)
    for drawn in scene.layers:
        flat_y, flat_x = np.broadcast_arrays(
            *scene.projection.place(xs[None, :] - drawn.layer.offset_x, ys[:, None] - drawn.layer.offset_y)
        )
        _AFAR[drawn.items.verb](result, drawn, scene, flat_y, flat_x)
    size = area.height, _SAMPLES, area.width, _SAMPLES, 4
    mean = result.reshape(size).sum(axis=(1, 3), dtype=np.uint16)
    return np.asarray((mean + _SAMPLES) // _SAMPLES**2, dtype=np.uint8)


def _tiles_from_afar(canvas: Pixels, drawn: Drawn, scene: Scene, ys: Any, xs: Any) -> None:
    rows, columns = scene.projection.board.stored("cells", np.floor(ys).astype(np.intp), np.floor(xs).astype(np.intp))
    board = scene.projection.board
    there = (rows >= 0) & (rows < board.height) & (columns >= 0) & (columns < board.width)
    if not there.any() or drawn.layer.opacity == 0:
        return
    top, left = int(rows[there].min()), int(columns[there].min())
    cells = CellRect(top, left, int(rows[there].max()) - top + 1, int(columns[there].max()) - left + 1)
    assert isinstance(drawn.items, TileItems)  # by its verb
    codes = drawn.items.codes(cells)
    picked = codes[np.where(there, rows - top, 0), np.where(there, columns - left, 0)]
    colours = scene.atlas.means[scene.atlas.ids(np.where(there, picked, 0).astype(np.int32))]
    if not _plain(drawn.layer):
        colours = modulated(colours, drawn.layer.opacity, _tint(drawn.layer))
    canvas[:] = over(colours, canvas)


def _shade_from_afar(canvas: Pixels, drawn: Drawn, scene: Scene, ys: Any, xs: Any) -> None:
    assert isinstance(drawn.items, ShadeItems)  # by its verb
    colours = _blended(drawn.items, scene.projection, ys, xs)
    if colours is not None:
        tint = np.array(_tint(drawn.layer), dtype=np.float32) / 255
        canvas[..., :3] = (canvas[..., :3] * (1 + (colours * tint - 1) * drawn.layer.opacity) + 0.5).astype(np.uint8)


_AFAR = {"tiles": _tiles_from_afar, "shade": _shade_from_afar}
