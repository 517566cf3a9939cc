"""Small pictures of what a ground would look like: after each step of a recipe, and for several throws."""

import math
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.growing import After, grown_after, seed_of_throw, with_props
from knitground.core.grid.projection import PixelRect
from knitground.core.ground.ground import by_id
from knitground.core.grow.learning import Used
from knitground.core.grow.recipe import Recipe
from knitground.core.layers.layer import Layer
from knitground.core.project.derived import Derived
from knitground.core.render.scale import Scale, pixels_per, smallest_level

Pixels = NDArray[np.uint8]
Progress = Callable[[float], None]
_TOLD = 3


def picture_with(derived: Derived, ground_id: str, after: After, side: int, part: PixelRect | None = None) -> Pixels:
    """A ground as it would be, (h, w, 4) uint8 premultiplied, at most about so many pixels on its longer side.

    Parameters
    ----------
    part : PixelRect, optional
        What of the ground to show, in its pixels; else all of it.
    """
    ground = by_id(derived.document.project.grounds, ground_id)
    shown = derived.with_planes(ground_id, after.planes, with_props(ground, after.props))
    projection = shown.knitted(ground_id).ground.projection
    part = part or PixelRect(0, 0, *projection.size)
    level = max(0, math.ceil(math.log2(max(part.width, part.height) / side)))
    smallest = smallest_level(projection)
    scale = Scale(level) if level <= smallest else Scale(smallest, 2 ** (level - smallest))
    across, down = pixels_per(projection, scale)
    left, top = int(part.x / across), int(part.y / down)
    area = PixelRect(left, top, math.ceil(part.width / across), math.ceil(part.height / down))
    return shown.pixels(ground_id, area, scale)


def pictures_after(
    derived: Derived,
    recipe: Recipe,
    after: list[After],
    side: int,
    progress: Progress = lambda share: None,
    part: PixelRect | None = None,
) -> list[Pixels]:
    """A small picture of the ground as it is, or of a part of it, and one after each step that ran."""
    derived, found = derived.at_this_moment(), list[Pixels]()
    for number, one in enumerate([After(-1, {}), *after]):
        found.append(picture_with(derived, recipe.ground, one, side, part))
        progress((number + 1) / (len(after) + 1))
    return found


def throws(derived: Derived, recipe: Recipe, count: int, side: int) -> Iterator[tuple[int, Pixels]]:
    """Several throws of a recipe, one after the other: the seed of each and a small picture."""
    derived = derived.at_this_moment()
    for number in range(count):
        seed = seed_of_throw(recipe.seed, number)
        after = grown_after(derived, replace(recipe, seed=seed))
        yield seed, picture_with(derived, recipe.ground, after, side)


def told_after(derived: Derived, recipe: Recipe, after: list[After]) -> dict[int, str]:
    """What is to be said of steps after they ran, by their numbers: what of an example was left out, or overused."""
    ground = by_id(derived.document.project.grounds, recipe.ground)
    laid, found = dict(derived.document.state.planes[recipe.ground]), dict[int, str]()
    for one in after:
        step = recipe.steps[one.step]
        layer = ground.layer(step.layer)
        now = one.planes.get(step.layer, {})
        if layer.area_plane in now:
            used = step.used(np.asarray(laid[step.layer][layer.area_plane]), np.asarray(now[layer.area_plane]))
            if used:
                found[one.step] = _used_said(derived, layer, used)
        laid |= one.planes
    return found


def _used_said(derived: Derived, layer: Layer, used: list[Used]) -> str:
    terrains = layer.terrains(derived.sets)

    def name(code: int) -> str:
        if layer.holds_tiles:
            return derived.tile_name(code) if code else "bare cells"
        return terrains[code - 1].name if 0 < code <= len(terrains) else "nothing"

    unused = [name(one.code) for one in used if one.got == 0]
    parts = [f"not used: {', '.join(unused[:_TOLD])}{' …' if len(unused) > _TOLD else ''}"] if unused else []
    for one in [one for one in used if one.got][:_TOLD]:
        parts.append(f"{name(one.code)} {one.got:.0%} instead of {one.wanted:.0%}")
    return f"Of the piece {'; '.join(parts)}."
