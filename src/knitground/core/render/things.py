"""Drawing things: sprites that stand anywhere, turned by any angle, scaled and mirrored.

Only the pixels that show are looked up, each where it comes from on its tile (nearest neighbour), so that a thing of
any size costs what is seen of it. Things are found by how far they reach from where they stand.
"""

import math
from collections.abc import Collection
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.grid.projection import PixelRect, Projection
from knitground.core.layers.items import ThingItems
from knitground.core.layers.layer import Layer
from knitground.core.layers.thing import Thing
from knitground.core.render.atlas import Atlas
from knitground.core.render.pixels import Pixels, modulated, over
from knitground.core.render.sprites import is_plain, tint_of
from knitground.core.tiles.tile import TileRef

_HALF = 0.5
_KEPT = "things"
_MOST_KEPT = 2**16
"""Pixels of a turned sprite that is kept; larger ones are looked up as far as they show."""


class Placed(NamedTuple):
    """Where the sprites of a layer stand, in the order in which they are drawn.

    Attributes
    ----------
    things : tuple of Thing
        Those that are sprites.
    x, y, reach : (N,) float64
        In pixels of the ground.
    """

    things: tuple[Thing, ...]
    x: NDArray[np.float64]
    y: NDArray[np.float64]
    reach: NDArray[np.float64]


def placed(items: ThingItems, atlas: Atlas) -> Placed:
    """The sprites among things, and how far each reaches; worked out once for the same things and sheets."""
    found: Placed = atlas.kept((_KEPT, items.by_foot), items.things, lambda: _placed(items, atlas))
    return found


def _placed(items: ThingItems, atlas: Atlas) -> Placed:
    sprites = [thing for thing in items.things if thing.tile is not None]
    numbers = np.array([(thing.x, thing.y, thing.scale) for thing in sprites], dtype=np.float64).reshape(-1, 3)
    sizes = {ref: atlas.tile_at(ref, 0) for ref in {thing.tile for thing in sprites} if ref is not None}
    far = {ref: 0.0 if tile is None else math.hypot(tile.shape[1] / 2, tile.shape[0]) for ref, tile in sizes.items()}
    reach = np.array([far[thing.tile] for thing in sprites if thing.tile is not None], dtype=np.float64)
    if items.by_foot:
        order = np.argsort(numbers[:, 1], kind="stable")
        sprites, numbers, reach = [sprites[number] for number in order.tolist()], numbers[order], reach[order]
    x, y, scale = numbers.T
    return Placed(tuple(sprites), x, y, reach * scale + 1)


def within(all_placed: Placed, area: PixelRect) -> NDArray[np.intp]:
    """Which sprites may show in an area, in the order in which they are drawn.

    Parameters
    ----------
    all_placed : Placed
        (N,) numbers of each.
    area : PixelRect
        In pixels of the ground in full size.

    Returns
    -------
    numbers : (M,) intp
    """
    x, y, reach = all_placed.x, all_placed.y, all_placed.reach
    return np.flatnonzero(
        (x + reach > area.x) & (x - reach < area.right) & (y + reach > area.y) & (y - reach < area.bottom)
    )


def lay_things(
    canvas: Pixels, layer: Layer, items: ThingItems, atlas: Atlas, small: Projection, area: PixelRect
) -> None:
    """Draws the sprites of a layer over what lies on a canvas.

    Parameters
    ----------
    canvas : (H, W, 4) uint8
        Premultiplied; is drawn on.
    layer : Layer
    items : ThingItems
    atlas : Atlas
    small : Projection
        Of the scale.
    area : PixelRect
        Where the canvas lies, in pixels of the scale.
    """
    if layer.opacity == 0:
        return
    every = placed(items, atlas)
    numbers = within(every, in_full(area, small, atlas))
    plain = is_plain(layer)
    sheet = canvas if plain else np.zeros_like(canvas)
    for number in numbers.tolist():
        lay_thing(sheet, every.things[number], atlas, small, area)
    if not plain and numbers.size:
        canvas[:] = over(modulated(sheet, layer.opacity, tint_of(layer)), canvas)


def reached_by(items: ThingItems, tiles: Collection[TileRef], atlas: Atlas, area: PixelRect) -> list[PixelRect]:
    """How far the sprites that show some tiles may reach, of those that may show in an area of the ground's pixels."""
    every = placed(items, atlas)
    found = []
    for number in within(every, area).tolist():
        if every.things[number].tile in tiles:
            x, y, far = float(every.x[number]), float(every.y[number]), float(every.reach[number])
            left, top, side = math.floor(x - far), math.floor(y - far), math.ceil(2 * far) + 1
            found.append(PixelRect(left, top, side, side))
    return found


def foot_of(thing: Thing, atlas: Atlas, small: Projection) -> float:
    """How far down a thing's foot is, in pixels of a scale."""
    return thing.y * small.tile_height / atlas.tile_height


def lay_thing(
    canvas: Pixels, thing: Thing, atlas: Atlas, small: Projection, area: PixelRect, paint: Layer | None = None
) -> bool:
    """Draws one sprite over what lies on a canvas; returns whether anything of it shows.

    Parameters
    ----------
    canvas : (height, width, 4) uint8
        The pixels of `area`, premultiplied.
    thing : Thing
    atlas : Atlas
        For cells of the ground's size.
    small : Projection
        At the scale of the pixels.
    area : PixelRect
    paint : Layer, optional
        Whose opacity and tint it takes.
    """
    level = max(0, round(math.log2(max(1, atlas.tile_width // max(1, small.tile_width)))))
    art = None if thing.tile is None else atlas.tile_at(thing.tile, level)
    if art is None:
        return False
    across, down = small.tile_width / atlas.tile_width, small.tile_height / atlas.tile_height
    box = _box_of(art, thing)
    # The grid of pixels begins with the sprite itself, so that one that is not turned keeps all of its own.
    left = math.floor(thing.x * across - area.x + box.first_x + _HALF)
    top = math.floor(thing.y * down - area.y + box.first_y + _HALF)
    shown = PixelRect(0, 0, box.width, box.height).inside(PixelRect(-left, -top, canvas.shape[1], canvas.shape[0]))
    if shown.is_empty:
        return False
    part, whole = _part(art, thing, box, shown, atlas, level)
    if paint is not None and not is_plain(paint):
        part, whole = modulated(part, paint.opacity, tint_of(paint)), whole and paint.opacity == 1
    below = canvas[top + shown.y : top + shown.bottom, left + shown.x : left + shown.right]
    if whole:
        mine = part.view(np.uint32)[..., 0]
        np.copyto(below.view(np.uint32)[..., 0], mine, where=mine != 0)
    else:
        below[:] = over(part, below)
    return True


class _Box(NamedTuple):
    """Where a turned sprite begins, seen from where it stands, and how many pixels it takes."""

    first_x: float
    first_y: float
    width: int
    height: int


def _box_of(tile: Pixels, thing: Thing) -> _Box:
    high, wide = tile.shape[:2]
    if thing.turn == 0 and thing.scale == 1:
        return _Box(-wide / 2, -high, wide, high)
    cos, sin = _turn(thing)
    corners = [(u * cos - v * sin, u * sin + v * cos) for u in (-wide / 2, wide / 2) for v in (-high, 0)]
    first_x, first_y = min(corner[0] for corner in corners), min(corner[1] for corner in corners)
    width, height = max(corner[0] for corner in corners) - first_x, max(corner[1] for corner in corners) - first_y
    return _Box(first_x, first_y, max(1, math.ceil(width - 1e-6)), max(1, math.ceil(height - 1e-6)))


def _turn(thing: Thing) -> tuple[float, float]:
    turn = math.radians(thing.turn)
    return math.cos(turn) * thing.scale, math.sin(turn) * thing.scale


def _part(tile: Pixels, thing: Thing, box: _Box, shown: PixelRect, atlas: Atlas, level: int) -> tuple[Pixels, bool]:
    """What shows of a sprite, (h, w, 4) uint8, and whether each pixel is either clear or opaque."""
    if box.width * box.height > _MOST_KEPT:
        return _looked_up(tile, thing, box, shown), False
    key = level, thing.turn, thing.scale, thing.mirrored

    def make() -> tuple[Pixels, bool]:
        whole = PixelRect(0, 0, box.width, box.height)
        pixels = np.ascontiguousarray(_looked_up(tile, thing, box, whole))
        return pixels, bool(np.isin(pixels[..., 3], (0, 255)).all())

    pixels, solid = atlas.turned(thing.tile, key, make)
    return pixels[shown.y : shown.bottom, shown.x : shown.right], solid


def _looked_up(tile: Pixels, thing: Thing, box: _Box, shown: PixelRect) -> Pixels:
    """Some pixels of a sprite as it stands, each from where it lies on its tile."""
    high, wide = tile.shape[:2]
    if thing.turn == 0 and thing.scale == 1:
        upright = tile[:, ::-1] if thing.mirrored else tile
        return upright[shown.y : shown.bottom, shown.x : shown.right]
    cos, sin = _turn(thing)
    across = (np.arange(shown.x, shown.right) + _HALF + box.first_x)[None, :]
    down = (np.arange(shown.y, shown.bottom) + _HALF + box.first_y)[:, None]
    square = thing.scale * thing.scale
    u = (across * cos + down * sin) / square + 1e-6
    v = (down * cos - across * sin) / square - 1e-6
    columns = np.floor((-u if thing.mirrored else u) + wide / 2).astype(np.intp)
    rows = np.floor(v + high).astype(np.intp)
    inside = (columns >= 0) & (columns < wide) & (rows >= 0) & (rows < high)
    found = tile[np.where(inside, rows, 0), np.where(inside, columns, 0)]
    return np.where(inside[..., None], found, np.uint8(0))


def in_full(area: PixelRect, small: Projection, atlas: Atlas) -> PixelRect:
    """An area of a scale in pixels of the ground in full size."""
    across, down = atlas.tile_width / small.tile_width, atlas.tile_height / small.tile_height
    left, top = math.floor(area.x * across), math.floor(area.y * down)
    return PixelRect(left, top, math.ceil(area.right * across) - left, math.ceil(area.bottom * down) - top)


def things_from_afar(canvas: Pixels, layer: Layer, items: ThingItems, atlas: Atlas, xs: Any, ys: Any) -> None:
    """Draws each sprite as a dot of its colours where its middle is.

    Parameters
    ----------
    canvas : (H, W, 4) uint8
    xs : (W,) float64
        Where the columns of the canvas lie, in pixels of the ground; evenly spaced.
    ys : (H,) float64
        The same of its rows.
    """
    if layer.opacity == 0 or len(xs) < 2 or len(ys) < 2:
        return
    every = placed(items, atlas)
    column = np.round((every.x + layer.offset_x - xs[0]) / (xs[1] - xs[0])).astype(np.intp)
    row = np.round((every.y + layer.offset_y - every.reach / 2 - ys[0]) / (ys[1] - ys[0])).astype(np.intp)
    there = np.flatnonzero((column >= 0) & (column < canvas.shape[1]) & (row >= 0) & (row < canvas.shape[0]))
    for number in there.tolist():
        ref = every.things[number].tile
        colour = atlas.mean_of(ref) if ref is not None else None
        if colour is not None:
            dot = modulated(colour[None, None], layer.opacity, tint_of(layer))[0, 0]
            spot = canvas[row[number], column[number]]
            spot[:] = over(dot, spot)
