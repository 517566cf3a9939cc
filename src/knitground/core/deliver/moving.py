"""Moving pictures of a ground, or of a piece of it: GIF (89a), animated PNG and animated WebP.

A frame for every moment at which something changes, each shown for as long as it lasts; the whole is as long as it
takes until all animations begin anew together, or as long as asked if that is sooner.
"""

import io
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, NamedTuple

import numpy as np
from PIL import Image
from pydantic import Field

from knitground.core.deliver.exporter import File, Order
from knitground.core.deliver.pictures import Background, Scale, backed, check_scale, enlarged
from knitground.core.errors import BadRequest
from knitground.core.grid.projection import PixelRect
from knitground.core.project.playing import Playing, playing
from knitground.core.render.compositor import render
from knitground.core.render.lights import STEP_MS, Lights, strength
from knitground.core.render.pixels import Pixels, straight
from knitground.core.render.scene import scene_of, without_gaps

_MOST_PIXELS = 2**28
_SHORTEST_MS = 20
_GIF_STEP_MS = 10
_MOST_COLOURS = 255


@dataclass(frozen=True)
class MovingOptions:
    """What can be chosen of moving pictures; the piece is given in pixels of the ground."""

    seconds: Annotated[
        float, Field(title="Seconds", description="how long it is at the most", ge=0.1, le=120, allow_inf_nan=False)
    ] = 6.0
    scale: Scale = 1
    left: Annotated[int, Field(title="Left", description="where the piece begins", ge=0, le=2**24)] = 0
    top: Annotated[int, Field(title="Top", description="where the piece begins", ge=0, le=2**24)] = 0
    width: Annotated[
        int, Field(title="Width", description="of the piece in pixels; 0 for all that there is", ge=0, le=2**24)
    ] = 0
    height: Annotated[
        int, Field(title="Height", description="of the piece in pixels; 0 for all that there is", ge=0, le=2**24)
    ] = 0
    background: Background = "ground"


class Frame(NamedTuple):
    """A picture, (H, W, 4) uint8 with straight alpha, and for how long it shows."""

    pixels: Pixels
    ms: int


def make_gif(order: Order) -> Iterator[File]:
    """A GIF; up to 255 colours are kept as they are, more are brought down to the nearest."""
    yield File(order.name("", ".gif"), _gif(_frames(order)))


def make_apng(order: Order) -> Iterator[File]:
    """An animated PNG."""
    yield File(order.name("", ".png"), _saved(_frames(order), "PNG"))


def make_webp(order: Order) -> Iterator[File]:
    """An animated WebP without losses."""
    yield File(order.name("", ".webp"), _saved(_frames(order), "WEBP", lossless=True, exact=True, method=3))


def _frames(order: Order) -> list[Frame]:
    said: MovingOptions = order.options
    check_scale(order, said.scale)
    ground = order.derived.knitted(order.ground_id).ground
    whole = PixelRect(0, 0, *ground.projection.size)
    wide, high = said.width or whole.width, said.height or whole.height
    piece = PixelRect(said.left, said.top, wide, high).inside(whole)
    if piece.is_empty:
        raise BadRequest(
            f"The piece begins at {said.left}, {said.top}, off “{ground.name}”, which has {whole.width} x "
            f"{whole.height} pixels; choose one that lies on it."
        )
    moved, lights = playing(order.derived), order.derived.lights(ground)
    moments = _moments(moved, lights, round(said.seconds * 1000))
    if len(moments) * piece.width * piece.height * said.scale**2 > _MOST_PIXELS:
        raise BadRequest(
            f"This would be {len(moments)} pictures of {piece.width * said.scale} x {piece.height * said.scale} "
            "pixels, more than there is room for; choose a smaller piece, or fewer seconds."
        )
    frames: list[Frame] = []
    for done, (begin, end) in enumerate(pairwise(moments)):
        pixels = enlarged(backed(_at(order, begin, piece, moved, lights, said.background), said.background), said.scale)
        if frames and np.array_equal(frames[-1].pixels, pixels):
            frames[-1] = frames[-1]._replace(ms=frames[-1].ms + end - begin)
        else:
            frames.append(Frame(pixels, end - begin))
        order.progress(0.8 * (done + 1) / len(moments))
    return frames


def _at(
    order: Order, ms: int, piece: PixelRect, moved: Playing, lights: Lights | None, background: str
) -> Pixels:  # fmt: skip
    """The piece at a moment."""
    knitted = order.derived.knitted(order.ground_id)
    shown = moved.exchange_at(ms)
    atlas = order.derived.atlas(knitted.ground)
    scene = scene_of(
        knitted,
        atlas,
        exchange=lambda codes, cells: without_gaps(shown(codes, cells)),
        frames=moved.shown_apart(ms),
        lights=lights,
    )
    levels = {lamp.name: strength(lamp, ms) for lamp in lights.lamps} if lights is not None else None
    scene = scene._replace(levels=levels, background=None if background == "clear" else scene.background)
    return straight(render(scene, piece))


def _moments(moved: Playing, lights: Lights | None, longest: int) -> list[int]:
    """When something changes, from 0, and the end last."""
    rounds = {sum(frame.ms for frame in frames): [frame.ms for frame in frames] for frames in moved.frames.values()}
    flickers = lights is not None and any(lamp.light.flicker for lamp in lights.lamps)
    end = longest if flickers else min(longest, math.lcm(*rounds)) if rounds else min(longest, 1000)
    changes = {0}
    for frames in (begun for ref in moved.frames for begun in moved.begun(ref)):
        at = 0
        for number in range(2 * end // _SHORTEST_MS + 1):
            at += frames[number % len(frames)].ms
            if at >= end:
                break
            changes.add(at)
    if flickers:
        changes.update(range(0, end, STEP_MS))
    kept: list[int] = []
    for at in sorted(changes):
        if not kept or at - kept[-1] >= _SHORTEST_MS:
            kept.append(at)
    return [*kept, end]


def _saved(frames: Sequence[Frame], kind: str, **more: object) -> bytes:
    first, *rest = [Image.fromarray(frame.pixels) for frame in frames]
    out = io.BytesIO()
    first.save(
        out, kind, save_all=True, append_images=rest, duration=[frame.ms for frame in frames], loop=0, **more
    )  # fmt: skip
    return out.getvalue()


def _gif(frames: Sequence[Frame]) -> bytes:
    """Pillow would give each frame a palette of its own, and lose colours; all share one here."""
    seen = np.unique(np.concatenate([_packed(frame.pixels) for frame in frames]))
    seen = seen[seen >= 0]
    colours = np.stack([seen >> 16, seen >> 8 & 255, seen & 255], axis=1).astype(np.uint8)
    if len(colours) > _MOST_COLOURS:
        colours = _fewer(colours)
    known = nearest(colours)
    palette = [0, 0, 0, *colours.reshape(-1).tolist()]
    images = []
    for frame in frames:
        image = Image.fromarray(known(_packed(frame.pixels)).reshape(frame.pixels.shape[:2]), "P")
        image.putpalette(palette)
        images.append(image)
    ends = np.round(np.cumsum([frame.ms for frame in frames]) / _GIF_STEP_MS).astype(int)
    lasts = np.maximum(np.diff(ends, prepend=0), 2) * _GIF_STEP_MS
    out = io.BytesIO()
    images[0].save(
        out, "GIF", save_all=True, append_images=images[1:], duration=lasts.tolist(), loop=0, transparency=0,
        disposal=2, optimize=False,
    )  # fmt: skip
    return out.getvalue()


def _packed(pixels: Pixels) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """Each pixel's colour as one number; -1 where it is more clear than not."""
    flat = pixels.reshape(-1, 4).astype(np.int64)
    return np.where(flat[:, 3] < 128, -1, flat[:, 0] << 16 | flat[:, 1] << 8 | flat[:, 2])


def _fewer(colours: Pixels) -> Pixels:
    """Up to 255 colours that stand for many, (N, 3) uint8, by median cut."""
    picture = Image.fromarray(colours[None, :, :])
    found = picture.quantize(_MOST_COLOURS, Image.Quantize.MEDIANCUT).getpalette()
    return np.array(found, dtype=np.uint8).reshape(-1, 3)[:_MOST_COLOURS]


def nearest(colours: Pixels) -> Callable[[np.ndarray[tuple[int], np.dtype[np.int64]]], Pixels]:
    """A function that gives the number of the nearest of (N, 3) colours, from 1, for packed ones; 0 for -1.

    Parameters
    ----------
    colours : (N, 3) uint8

    Returns
    -------
    number : callable
        From (M,) int64, packed as 0xrrggbb, to (M,) uint8.
    """
    from scipy.spatial import KDTree

    tree = KDTree(colours.astype(np.float64)) if len(colours) else None

    def number(packed: np.ndarray[tuple[int], np.dtype[np.int64]]) -> Pixels:
        each, where = np.unique(packed, return_inverse=True)
        if tree is None:
            return np.zeros(len(packed), dtype=np.uint8)
        _, found = tree.query(np.stack([each >> 16 & 255, each >> 8 & 255, each & 255], axis=1).astype(np.float64))
        return np.where(each < 0, 0, np.asarray(found) + 1).astype(np.uint8)[where]

    return number
