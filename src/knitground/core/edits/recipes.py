"""What is done to a recipe as a list: new ones, and steps added, moved, copied and switched."""

from dataclasses import fields, replace
from typing import Any

from knitground.core.errors import BadRecipe
from knitground.core.grid.rect import CellRect
from knitground.core.ground.ground import Ground, by_id
from knitground.core.grow.recipe import MOST_STEPS, Recipe
from knitground.core.grow.steps.noise import NoiseStep
from knitground.core.grow.steps.step import Step
from knitground.core.layers.layer import Layer
from knitground.core.project.model import Project, fresh_id


def suits(step: Step | type[Step], layer: Layer) -> bool:
    """Whether a step can work on a layer."""
    if layer.places_things:
        return step.takes_things
    if layer.holds_tiles:
        return step.takes_tiles
    areas = layer.takes_areas and step.takes_areas and bool(layer.takes_terrains_of)
    return areas or (layer.takes_runs and step.takes_runs)


def new_recipe(project: Project, ground: Ground, layer_id: str | None, name: str = "Weathering") -> Recipe | None:
    """A recipe of one step of noise, on the layer at hand or the first that takes it; None where none does."""
    layers = [layer for layer in ground.layers if suits(NoiseStep, layer)]
    if not layers:
        return None
    layer = next((one for one in layers if one.id == layer_id), layers[0])
    count = len(layer.terrains(project))
    step = NoiseStep(layer.id, min(2, max(1, count)))
    return Recipe(fresh_id(name, project.recipes), name, ground.id, 1, (step,))


def first_step(
    kind: type[Step], project: Project, ground: Ground, layer_id: str | None, selected: CellRect | None = None
) -> Step:
    """A step of a kind as it begins: on the layer at hand if it suits, with the first mix or set that there is.

    What is selected is the example of a step that takes one.

    Raises
    ------
    BadRecipe
        If no layer of the ground suits, or what the step lays is not there yet.
    """
    layers = [layer for layer in ground.layers if suits(kind, layer)]
    if not layers:
        lays = (
            "tiles: add a tile layer" if kind.takes_tiles and not kind.takes_areas else "terrain: add a terrain layer"
        )
        raise BadRecipe(f"“{kind.title}” lays {lays} to the ground first.")
    names = {field.name for field in fields(kind)}
    if "mix" in names and project.mixes:
        # Where there is a mix it is meant, whatever layer is at hand.
        layers = [one for one in layers if one.holds_tiles or one.places_things] or layers
    layer = next((one for one in layers if one.id == layer_id), layers[-1] if kind.takes_tiles else layers[0])
    more: dict[str, Any] = {}
    if "mix" in names and project.mixes:
        more["mix"] = project.mixes[0].id
    elif "mix" in names and (layer.holds_tiles or layer.places_things):
        raise BadRecipe(f"“{kind.title}” lays a mix, and there is none yet: click tiles on the sheet to make one.")
    if "join_set" in names:
        own = next((one for one in project.join_sets if one.id == layer.set_id), None)
        sets = [one.id for one in project.join_sets]
        sets += [one.id for one in project.pair_sets] if layer.holds_tiles else []
        if own is None and not sets:
            raise BadRecipe(f"“{kind.title}” lays a join set or pairs of tiles; there are none yet, make some first.")
        more["join_set"] = own.id if own is not None else sets[0]
    if "sheet" in names:
        if not project.sheets:
            raise BadRecipe(f"“{kind.title}” reads a sheet, and there is none yet; drop a picture on the window.")
        more["sheet"] = project.sheets[-1].id
    if "reads" in names:
        knit = [one.id for one in ground.layers if one.knits and one.id != layer.id]
        if not knit:
            raise BadRecipe(
                f"“{kind.title}” takes the tiles of a layer that lays some; add a terrain or stitched layer."
            )
        more["reads"] = knit[-1]
    if "columns" in names and selected is not None:
        more |= {"top": selected.top, "left": selected.left, "rows": max(2, selected.height),
                 "columns": max(2, selected.width)}  # fmt: skip
    terrain = min(2, max(1, len(layer.terrains(project))))
    if kind.lays_ground and layer.erased(project) != terrain:
        more["elsewhere"] = layer.erased(project)
    return kind(layer.id, terrain, **more)


def moved(recipe: Recipe, step: int, to: int) -> Recipe:
    """The recipe with a step at another place."""
    steps = list(recipe.steps)
    steps.insert(to, steps.pop(step))
    return replace(recipe, steps=tuple(steps))


def copied(recipe: Recipe, step: int) -> Recipe:
    """The recipe with a step once more behind it."""
    if len(recipe.steps) >= MOST_STEPS:
        raise BadRecipe(f"A recipe has at most {MOST_STEPS} steps; take one out first.")
    steps = recipe.steps
    return replace(recipe, steps=(*steps[: step + 1], steps[step], *steps[step + 1 :]))


def switched(recipe: Recipe, step: int) -> Recipe:
    """The recipe with a step switched on or off."""
    steps = list(recipe.steps)
    steps[step] = replace(steps[step], on=not steps[step].on)
    return replace(recipe, steps=tuple(steps))


def on_ground(project: Project, recipe: Recipe, ground: Ground) -> Recipe:
    """A recipe of another ground as a new one for this ground: its layers are those that suit best here.

    That is one of the same kind that is knit from the same set; of several the one of the same name, or else the first.

    Raises
    ------
    BadRecipe
        If there is none for one of its layers.
    """
    home = by_id(project.grounds, recipe.ground)
    wanted = dict.fromkeys(layer_id for step in recipe.steps for layer_id in step.layers)
    there = {layer_id: _like(home.layer(layer_id), ground) for layer_id in wanted if _has(home, layer_id)}
    lacking = [home.layer(layer_id).name for layer_id, found in there.items() if found is None]
    if lacking:
        raise BadRecipe(f"“{ground.name}” has no layer like “{lacking[0]}”, which “{recipe.name}” needs; add one.")
    names = {old: new for old, new in there.items() if new is not None}
    steps = tuple(step.with_layers(names) for step in recipe.steps)
    return replace(recipe, id=fresh_id(recipe.name, project.recipes), ground=ground.id, steps=steps)


def _has(ground: Ground, layer_id: str) -> bool:
    return any(layer.id == layer_id for layer in ground.layers)


def _like(layer: Layer, ground: Ground) -> str | None:
    """The layer of a ground that can stand in for one of another."""
    same = [one for one in ground.layers if one.kind == layer.kind and one.set_id == layer.set_id]
    named = [one for one in same if one.name == layer.name]
    return next((one.id for one in (*named, *same)), None)
