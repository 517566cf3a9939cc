"""Running a recipe over a ground, and keeping it."""

from collections.abc import Callable, Mapping, Sequence
from contextlib import nullcontext, suppress
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import seed_for
from knitground.core.edits.alive import check_alone, put_hands, without_hands
from knitground.core.edits.running import Run
from knitground.core.edits.strewing import without_strewn
from knitground.core.edits.things import put
from knitground.core.errors import BadRecipe
from knitground.core.grid.plane import Plane
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground, by_id
from knitground.core.grow.recipe import Recipe
from knitground.core.layers.layer import Layer, Planes
from knitground.core.layers.props import PropLayer, as_props
from knitground.core.project.by_hand import hand_key, masked, no_hands
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.project.model import State

Progress = Callable[[float], None]
Grown = dict[str, Planes]
"""Planes by layer."""
Mask = NDArray[np.bool_]


class After(NamedTuple):
    """What lies on the layers that a recipe changed, after one of its steps; the step's number.

    `props` are the prop layers with what was strewn on them.
    """

    step: int
    planes: Grown
    props: tuple[PropLayer, ...] = ()


def grow(
    derived: Derived, recipe: Recipe, grown: After | None = None, *, progress: Progress = lambda share: None
) -> None:
    """Lays a recipe on its ground and keeps it with the project, as one step.

    Parameters
    ----------
    grown : After, optional
        What `grown_after` gave for it; worked out if not given.

    Raises
    ------
    BadRecipe
        As `grown_planes`.
    """
    document = derived.document
    hands = hands_for(derived, recipe)
    after = grown_after(derived, recipe, progress=progress) if grown is None else grown
    with document.step(f"grow {recipe.name}") if document.gesture is None else nullcontext():
        put(document, "recipe", "recipes", recipe)
        put_hands(document, recipe.ground, hands)
        document.put_planes("grow", recipe.ground, after.planes, by_hand=False)
        if after.props:
            ground = with_props(by_id(document.project.grounds, recipe.ground), after.props)
            put(document, "grow", "grounds", ground)


def go_to_step(document: Document, ground_id: str, below: State, after: Sequence[After], until: int | None) -> None:
    """Shows what lay on a ground after a step of a recipe that is tried there, as a part of that gesture.

    Parameters
    ----------
    below : State
        As it was before anything was tried.
    after : sequence of After
        What lay there after each step.
    until : int, optional
        The number of the last step that shows; none for all.
    """
    shown = [one for one in after if until is None or one.step <= until]
    planes = {layer: below.planes[ground_id][layer] for one in after for layer in one.planes}
    strewn = {layer.id for one in after for layer in one.props}
    props = [layer for layer in by_id(below.project.grounds, ground_id).layers if layer.id in strewn]
    if shown:
        planes |= shown[-1].planes
        props += shown[-1].props
    document.seal(False)
    try:
        document.put_planes("grow", ground_id, planes, by_hand=False)
        if props:
            put(document, "grow", "grounds", with_props(by_id(document.project.grounds, ground_id), props))
    finally:
        document.seal()


def with_props(ground: Ground, props: Sequence[Layer]) -> Ground:
    """A ground with some of its prop layers exchanged for changed ones."""
    changed = {layer.id: layer for layer in props}
    return replace(ground, layers=tuple(changed.get(layer.id, layer) for layer in ground.layers))


def remove_recipe(document: Document, recipe_id: str) -> None:
    """Takes a recipe out; what it laid stays."""
    project = document.project
    gone = by_id(project.recipes, recipe_id)
    with document.step("remove recipe"):
        put_hands(document, gone.ground, without_hands(document, gone))
        document.define(
            "remove recipe", replace(project, recipes=tuple(one for one in project.recipes if one is not gone))
        )


def grown_planes(
    derived: Derived, recipe: Recipe, within: Shape | None = None, *, progress: Progress = lambda share: None
) -> Grown:
    """The planes of the layers that a recipe changes, after it; a pure function of a state and the recipe's seed.

    Parameters
    ----------
    within : Shape, optional
        The cells in which it grows; all of the ground if not given.

    Raises
    ------
    BadRecipe
        If a step's layer is not on the ground, or can't take what the step lays.
    """
    return grown_after(derived, recipe, within, progress=progress).planes


def grown_after(
    derived: Derived, recipe: Recipe, within: Shape | None = None, *, progress: Progress = lambda share: None
) -> After:
    """What lies on the changed layers after all steps; raises as `grown_planes`."""
    after = steps_after(derived, recipe, within, progress=progress)
    if after:
        return after[-1]
    return After(-1, dict(_start(derived, recipe, hands_for(derived, recipe))))


def steps_after(
    derived: Derived, recipe: Recipe, within: Shape | None = None, *, progress: Progress = lambda share: None
) -> list[After]:
    """What lies on the changed layers after each step that is switched on."""
    return _steps_after(derived, recipe, hands_for(derived, recipe), within, progress)


def _steps_after(
    derived: Derived, recipe: Recipe, hands: Mapping[str, Planes], within: Shape | None, progress: Progress
) -> list[After]:
    ground = by_id(derived.document.project.grounds, recipe.ground)
    before = derived.document.state.planes[recipe.ground]
    run, laid, found = Run(derived, ground), dict(before), list[After]()
    changed: Grown = dict(_start(derived, recipe, hands))
    if within is not None:
        for name, start in changed.items():
            only = _only_in(
                within,
                ground,
                ground.layer(name),
                before[name],
                {one: start[one] for one in masked(ground.layer(name))},
            )
            changed[name] = {**start, **only}
    laid |= changed
    props = {
        layer.id: without_strewn(ground, own, recipe.id, within)
        for layer in ground.layers
        if layer.id in recipe.layers and (own := as_props(layer)) is not None
    }
    steps = [(index, step) for index, step in enumerate(recipe.steps) if step.on]
    for number, (index, step) in enumerate(steps):

        def part(share: float, number: int = number) -> None:
            progress((number + share) / len(steps))

        if step.layer not in laid:
            raise BadRecipe("The recipe's layer is not on this ground; choose another layer for its step.")
        layer, now, seed = ground.layer(step.layer), laid[step.layer], step.seed(recipe.seed, index)
        if step.layer in props:
            props[step.layer] = run.strewn(step, props[step.layer], laid, seed, recipe.id, within, part)
            found.append(After(index, dict(changed), tuple(props.values())))
            continue
        grown = run.planes_after(step, layer, laid, hands.get(hand_key(layer.id), {}), seed, part)
        kept = grown if within is None else _only_in(within, ground, layer, before[step.layer], grown)
        kept = _held(kept, before[step.layer], hands.get(hand_key(step.layer), {}))
        laid[step.layer] = changed[step.layer] = {**now, **kept}
        found.append(After(index, dict(changed), tuple(props.values())))
        part(1.0)
    return found


def _start(derived: Derived, recipe: Recipe, hands: Mapping[str, Planes]) -> Grown:
    """What lies on the layers of a recipe that is alive before its first step: what was laid by hand, else nothing."""
    project, found = derived.document.project, dict[str, Planes]()
    ground = by_id(project.grounds, recipe.ground)
    for layer in ground.layers:
        masks = hands.get(hand_key(layer.id), {})
        if masks and layer.id in recipe.layers:
            now = derived.document.state.planes[ground.id][layer.id]
            found[layer.id] = {**now, **_held(layer.blank(ground.board, project), now, masks)}
    return found


def _held(after: Mapping[str, Plane], now: Planes, masks: Planes) -> dict[str, Plane]:
    """Planes with what was changed by hand as it is now."""
    return {
        name: Plane.of(np.where(np.asarray(masks[name]) > 0, np.asarray(now[name]), np.asarray(plane)))
        if name in masks
        else plane
        for name, plane in after.items()
    }


def hands_for(derived: Derived, recipe: Recipe) -> dict[str, dict[str, Plane]]:
    """The masks of the layers that a recipe keeps alive: what was changed by hand, and stays when it grows anew.

    On layers that it keeps alive from now on, that is all that is painted there and was not laid by the recipe itself
    as it is kept with the project.
    """
    document = derived.document
    ground, planes = by_id(document.project.grounds, recipe.ground), document.state.planes[recipe.ground]
    if not recipe.alive:
        return {}
    check_alone(document, recipe)
    mine = [layer for layer in ground.layers if layer.id in recipe.layers and masked(layer)]
    found = {hand_key(layer.id): dict(planes[hand_key(layer.id)]) for layer in mine if hand_key(layer.id) in planes}
    fresh = [layer for layer in mine if hand_key(layer.id) not in planes]
    if not fresh:
        return found
    kept = next((one for one in document.project.recipes if one.id == recipe.id), None)
    laid: Grown = {}
    if kept is not None and kept.steps:
        bare = {hand_key(layer.id): no_hands(layer, ground.board) for layer in fresh}
        with suppress(BadRecipe):
            after = _steps_after(derived, replace(kept, alive=True), bare, None, lambda share: None)
            laid = after[-1].planes if after else {}
    for layer in fresh:
        blank, now = layer.blank(ground.board, document.project), planes[layer.id]
        found[hand_key(layer.id)] = {
            name: Plane.of(_differs(now[name], blank[name]) & _differs(now[name], laid.get(layer.id, blank)[name]))
            for name in masked(layer)
        }
    return found


def _differs(one: Plane, other: Plane) -> NDArray[np.uint8]:
    differs: NDArray[np.uint8] = (np.asarray(one) != np.asarray(other)).astype(np.uint8)
    return differs


def _only_in(within: Shape, ground: Ground, layer: Layer, before: Planes, after: Planes) -> dict[str, Plane]:
    """Planes as they were, and as they are afterwards only at some cells."""
    found = {}
    for name, plane in after.items():
        rect, mask = ground.board.round_cells(layer.specs[name].on, within)
        found[name] = before[name].written(rect, np.where(mask, plane.read(rect), before[name].read(rect)))
    return found


def seed_of_throw(recipe_seed: int, number: int) -> int:
    """The seed of one of several throws that are shown side by side; the first is the recipe's own."""
    return recipe_seed if number == 0 else seed_for(recipe_seed, f"throw {number}") % 1_000_000
