"""Taking sets and terrains out, with all that refers to them."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from knitground.core.edits.stitching import with_numbers
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import Ground, by_id
from knitground.core.grow.recipe import Recipe
from knitground.core.joins.sets import MOST_TERRAINS, JoinSet
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.by_hand import hands_of
from knitground.core.project.document import Document
from knitground.core.project.model import replaced
from knitground.core.stitches.rules import StitchSet


def remove_join_set(document: Document, set_id: str) -> None:
    """Takes a join set out.

    Raises
    ------
    BadRequest
        If a layer is knit from it.
    """
    project = document.project
    for ground in project.grounds:
        for layer in ground.layers:
            if _lays_by(layer, by_id(project.join_sets, set_id)):
                raise BadRequest(f"“{layer.name}” of “{ground.name}” is knit from this set; remove or bake that layer.")
    for stitch_set in project.stitch_sets:
        if any(view.sees == "painted" and view.of == set_id for view in stitch_set.views):
            raise BadRequest(
                f"The stitches “{stitch_set.name}” look at what is painted by this set; take that view out."
            )
    kept = tuple(one for one in project.join_sets if one.id != set_id)
    document.define("remove join set", replace(project, join_sets=kept))


def remove_terrain(document: Document, set_id: str, number: int) -> None:
    """Takes a terrain out of a join set: its labels go, and where it was painted lies the terrain before it."""
    project = document.project
    join_set = by_id(project.join_sets, set_id)
    terrains = tuple(one for place, one in enumerate(join_set.terrains, start=1) if place != number)
    if not terrains:
        raise BadRequest(f"“{join_set.name}” needs a terrain; remove the whole set instead.")
    instead = 0 if 0 in join_set.numbers else max(1, number - 1)
    moved = np.arange(MOST_TERRAINS + 1, dtype=np.uint8)
    moved[number + 1 :] -= 1
    moved[number] = instead
    shifted = {
        ref: tuple(0 if label == number else int(moved[label]) for label in row) for ref, row in join_set.labels.items()
    }
    ground = 0 if join_set.ground == number else int(moved[join_set.ground])
    labels = {ref: row for ref, row in shifted.items() if any(row)}
    changed = replace(join_set, terrains=terrains, labels=labels, ground=ground)
    numbers = moved.tolist()
    after = _renumbered(document, lambda layer: _lays_by(layer, join_set), numbers)
    sets = replaced(project.join_sets, changed)
    stitch_sets = tuple(_unseen(one, set_id, number, numbers) for one in project.stitch_sets)
    document.define(
        "remove terrain",
        replace(project, join_sets=sets, stitch_sets=stitch_sets, recipes=after.recipes, grounds=after.grounds),
        planes=after.planes,
    )


def _unseen(stitch_set: StitchSet, set_id: str, number: int, numbers: list[int]) -> StitchSet:
    """A stitch set whose charts do not name a terrain that is taken out."""
    kept = {one: int(to) for one, to in enumerate(numbers) if one != number}
    for view in stitch_set.views:
        if view.sees == "painted" and view.of == set_id:
            stitch_set = with_numbers(stitch_set, view.name, kept)
    return stitch_set


def remove_stitch_set(document: Document, set_id: str) -> None:
    """Takes a stitch set out.

    Raises
    ------
    BadRequest
        If a layer is laid by it, or another set looks at its plan.
    """
    project = document.project
    for ground in project.grounds:
        for layer in ground.layers:
            if layer.stitched_by == set_id:
                raise BadRequest(f"“{layer.name}” of “{ground.name}” is laid by this set; remove or bake that layer.")
    for one in project.stitch_sets:
        if any(view.sees == "painted" and view.of == set_id for view in one.views):
            raise BadRequest(f"The stitches “{one.name}” look at the plan of this set; take that view out.")
    document.define(
        "remove stitch set",
        replace(project, stitch_sets=tuple(one for one in project.stitch_sets if one.id != set_id)),
    )


def remove_mark(document: Document, set_id: str, number: int) -> None:
    """Takes a mark out of a stitch set: no chart names it any more, and where it was planned lies none.

    Raises
    ------
    BadRequest
        If it is the only one.
    """
    project = document.project
    stitch_set = by_id(project.stitch_sets, set_id)
    marks = tuple(mark for place, mark in enumerate(stitch_set.marks, start=1) if place != number)
    if not marks:
        raise BadRequest(f"“{stitch_set.name}” needs a mark to plan with; remove the whole set instead.")
    numbers = [one - (one > number) if one != number else 0 for one in range(MOST_TERRAINS + 1)]
    kept = {one: to for one, to in enumerate(numbers) if one != number}
    otherwise = {kept[mark]: piece for mark, piece in stitch_set.otherwise.items() if mark != number}
    changed = replace(with_numbers(stitch_set, "", kept), marks=marks, otherwise=otherwise)
    sets = tuple(_unseen(one, set_id, number, numbers) for one in replaced(project.stitch_sets, changed))
    after = _renumbered(
        document, lambda layer: layer.takes_terrains_of == "stitch_sets" and layer.set_id == set_id, numbers
    )
    document.define(
        "remove mark",
        replace(project, stitch_sets=sets, recipes=after.recipes, grounds=after.grounds),
        planes=after.planes,
    )


class _Renumbered(NamedTuple):
    """What speaks of painted numbers, after some of them got others."""

    planes: dict[str, dict[str, Planes]]
    grounds: tuple[Ground, ...]
    recipes: tuple[Recipe, ...]


def _renumbered(document: Document, lays: Callable[[Layer], bool], numbers: Sequence[int]) -> _Renumbered:
    """The planes of layers that a set lays with other numbers, and all layers and recipes that speak of theirs."""
    project, planes = document.project, document.state.planes
    mine = {ground.id: {layer.id for layer in ground.layers if lays(layer)} for ground in project.grounds}
    return _Renumbered(
        {
            ground.id: {
                layer.id: layer.renumbered(planes[ground.id][layer.id], numbers)
                if layer.id in mine[ground.id]
                else planes[ground.id][layer.id]
                for layer in ground.layers
            }
            | hands_of(planes[ground.id])
            for ground in project.grounds
        },
        tuple(
            replace(ground, layers=tuple(layer.with_numbers(mine[ground.id], numbers) for layer in ground.layers))
            for ground in project.grounds
        ),
        tuple(
            replace(recipe, steps=tuple(one.with_terrains(numbers, mine[recipe.ground]) for one in recipe.steps))
            for recipe in project.recipes
        ),
    )


def _lays_by(layer: Layer, join_set: JoinSet) -> bool:
    """Whether a layer is knit from a join set (a stitch set may bear the same id)."""
    return layer.set_id == join_set.id and layer.takes_terrains_of == "join_sets"
