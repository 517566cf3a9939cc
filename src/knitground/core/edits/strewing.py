"""What a mix strews on prop layers: sprites, and things that are kept on the tray."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import chance, choose, seed_for
from knitground.core.edits.placing import next_number
from knitground.core.errors import BadRecipe
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground
from knitground.core.ground.swatch import ClipThing
from knitground.core.grow.mix import Mix, MixPart, leaves
from knitground.core.layers.props import PropLayer
from knitground.core.layers.thing import MOST_THINGS, Thing
from knitground.core.project.model import Project
from knitground.core.tiles.tile import MIRRORED

_SPREAD = 0.6
"""Within how much of its cell a thing stands, the middle being in the middle."""
_QUARTER = 90.0


def strewn(
    project: Project, ground: Ground, layer: PropLayer, mix: Mix, there: NDArray[np.bool_], seed: int, recipe: str,
    within: Shape | None = None,
) -> PropLayer:  # fmt: skip
    """A prop layer after a mix is strewn on some cells; what the same recipe strewed there before is taken away.

    Parameters
    ----------
    there : (H, W) bool
    recipe : str
        The id of the recipe, which the things bear.
    within : Shape, optional
        The cells outside which nothing is changed.

    Raises
    ------
    BadRecipe
        If the mix holds nothing that can be strewn, or the layer would hold too many things.
    """
    parts = [(_carried(part, project), weight) for part, weight in leaves(mix, project.mixes) if weight > 0]
    if not any(carried for carried, _ in parts):
        raise BadRecipe(f"“{mix.name}” has no tile and no thing to strew; put some in.")
    mask = there.copy()
    if within is not None:
        inside = np.zeros_like(mask)
        inside[within.window.rows, within.window.columns] = within.mask
        mask &= inside
    rows, columns = np.nonzero(mask)
    which = choose([weight for _, weight in parts], chance(seed_for(seed, "part"), rows, columns))
    down, across = (0.5 + _SPREAD * (chance(seed_for(seed, name), rows, columns) - 0.5) for name in ("down", "across"))
    ys, xs = ground.board.flat("cells", rows, columns)
    found: list[Thing] = []
    for part, y, x in zip(which.tolist(), (ys + down).tolist(), (xs + across).tolist(), strict=True):
        found += _placed(ground, parts[part][0], y, x)
    kept = layer.things
    if len(kept) + len(found) > MOST_THINGS:
        raise BadRecipe(f"A layer holds {MOST_THINGS} things at most, and this would strew {len(found)}: strew fewer.")
    number = next_number(kept)
    named = (replace(thing, id=str(number + place), grown=recipe) for place, thing in enumerate(found))
    return replace(layer, things=(*kept, *named))


def without_strewn(ground: Ground, layer: PropLayer, recipe: str, within: Shape | None = None) -> PropLayer:
    """A prop layer without what a recipe strewed on it, in some cells or everywhere."""

    def goes(thing: Thing) -> bool:
        if thing.grown != recipe:
            return False
        if within is None:
            return True
        cell = ground.board.cell_at(*ground.projection.place(thing.x, thing.y))
        if cell is None or not within.window.holds(*cell):
            return False
        return bool(within.mask[cell[0] - within.window.top, cell[1] - within.window.left])

    kept = tuple(thing for thing in layer.things if not goes(thing))
    return layer if len(kept) == len(layer.things) else replace(layer, things=kept)


def _carried(part: MixPart, project: Project) -> Sequence[ClipThing]:
    """What falls for a part of a mix, about the place where it falls; nothing for a bare cell."""
    if part.tile is not None:
        sprite = Thing(
            "new", 0.0, 0.0, "sprite", part.tile, turn=_QUARTER * (part.orientation & 3),
            mirrored=bool(part.orientation & MIRRORED),
        )  # fmt: skip
        return (ClipThing("", 0.0, 0.0, sprite),)
    swatch = next((one for one in project.swatches if one.id == part.swatch), None)
    if swatch is None:
        return ()
    if swatch.tile is not None:
        return _carried(MixPart(swatch.tile, orientation=swatch.orientation), project)
    things = swatch.clip.things if swatch.clip is not None else ()
    if not things:
        return ()
    down, across = (sum(getattr(one, name) for one in things) / len(things) for name in ("down", "across"))
    return tuple(replace(one, layer="", down=one.down - down, across=one.across - across) for one in things)


def _placed(ground: Ground, carried: Sequence[ClipThing], y: float, x: float) -> list[Thing]:
    found = []
    for one in carried:
        place_x, place_y = ground.projection.point(y + one.down, x + one.across)
        found.append(replace(one.thing, x=round(float(place_x), 2), y=round(float(place_y), 2)))
    return found
