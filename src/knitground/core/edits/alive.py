"""Recipes that stay alive on their layers: what was changed by hand there, and letting it grow again."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from knitground.core.errors import BadRequest
from knitground.core.grid.plane import Plane
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import by_id
from knitground.core.grow.recipe import Recipe
from knitground.core.layers.layer import Planes
from knitground.core.project.by_hand import hand_key, hands_of
from knitground.core.project.document import Document
from knitground.core.project.model import replaced


def put_hands(document: Document, ground_id: str, hands: Mapping[str, Planes]) -> None:
    """Exchanges the masks of a ground's layers; those that are given without planes are dropped."""
    planes = dict(document.state.planes[ground_id])
    if all(planes.get(name) == held or (not held and name not in planes) for name, held in hands.items()):
        return
    planes |= {name: held for name, held in hands.items() if held}
    for name in [name for name, held in hands.items() if not held]:
        planes.pop(name, None)
    document.define("let it grow again", document.project, planes={**document.state.planes, ground_id: planes})


def without_hands(document: Document, recipe: Recipe) -> dict[str, Planes]:
    """The masks of the layers that a recipe keeps alive, to be dropped."""
    there = hands_of(document.state.planes.get(recipe.ground, {}))
    return {hand_key(layer_id): {} for layer_id in recipe.layers if hand_key(layer_id) in there}


def let_go(document: Document, recipe: Recipe) -> None:
    """Keeps a recipe without its being alive; what lies there stays, and is all alike from now on."""
    with document.step(f"let go of {recipe.name}"):
        put_hands(document, recipe.ground, without_hands(document, recipe))
        kept = replaced(document.project.recipes, replace(recipe, alive=False))
        document.define("recipe", replace(document.project, recipes=kept))


def changed_by_hand(document: Document, recipe: Recipe) -> int:
    """How many places stay as they were changed by hand on the layers that a recipe keeps alive."""
    planes = document.state.planes.get(recipe.ground, {})
    masks = [mask for layer_id in recipe.layers for mask in planes.get(hand_key(layer_id), {}).values()]
    return sum(int(np.count_nonzero(np.asarray(mask))) for mask in masks)


def forget_hands(document: Document, recipe: Recipe, within: Shape | None = None) -> None:
    """Takes away the marks of what was changed by hand, so that the recipe grows there again.

    Parameters
    ----------
    within : Shape, optional
        Only at these cells; everywhere if not given.

    Raises
    ------
    BadRequest
        If nothing there was changed by hand.
    """
    ground, after = by_id(document.project.grounds, recipe.ground), dict[str, Planes]()
    planes = document.state.planes[recipe.ground]
    for layer_id in recipe.layers:
        masks = planes.get(hand_key(layer_id), {})
        specs = ground.layer(layer_id).specs if masks else {}
        found = {}
        for name, mask in masks.items():
            rect, shape = ground.board.round_cells(specs[name].on, within) if within else (None, None)
            old = mask.read(rect) if rect is not None else np.asarray(mask)
            new = np.zeros_like(old) if shape is None else np.where(shape, 0, old)
            found[name] = Plane.of(new.astype(np.uint8)) if rect is None else mask.written(rect, new)
        if any(found[name] != masks[name] for name in masks):
            after[hand_key(layer_id)] = found
    if not after:
        raise BadRequest("Nothing there was changed by hand; all of it grows with the recipe.")
    put_hands(document, recipe.ground, after)


def check_alone(document: Document, recipe: Recipe) -> None:
    """Raises BadRequest where another recipe keeps one of the recipe's layers alive already."""
    ground = by_id(document.project.grounds, recipe.ground)
    for other in document.project.recipes:
        both = set(other.layers) & set(recipe.layers)
        if other.alive and other.id != recipe.id and other.ground == recipe.ground and both:
            names = [layer.name for layer in ground.layers if layer.id in both]
            raise BadRequest(f"“{names[0]}” is kept alive by “{other.name}”; let that go, or work on another layer.")
