"""Running a recipe over a ground, and keeping it."""

from collections.abc import Callable, Mapping
from contextlib import nullcontext, suppress
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from knitground.core.chance import seed_for
from knitground.core.edits.alive import check_alone, put_hands, without_hands
from knitground.core.edits.filling import Wanted, filled_planes
from knitground.core.edits.painting import patched
from knitground.core.edits.regions import region, shown_codes
from knitground.core.edits.things import put
from knitground.core.errors import BadRecipe
from knitground.core.grid.board import On
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground, by_id
from knitground.core.grow.places import Places, closed, places_of
from knitground.core.grow.recipe import Recipe
from knitground.core.grow.region import mask_of
from knitground.core.grow.steps.step import LEFT, Canvas, Marks, Step
from knitground.core.grow.thrown import Throw, blocks_thrown, throw_of, thrown
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.by_hand import hand_key, masked, no_hands
from knitground.core.project.derived import Derived
from knitground.core.project.document import Document
from knitground.core.sheet.picture import brightness

Progress = Callable[[float], None]
Grown = dict[str, Planes]
"""Planes by layer."""
Mask = NDArray[np.bool_]


class After(NamedTuple):
    """What lies on the layers that a recipe changed, after one of its steps; the step's number."""

    step: int
    planes: Grown


def grow(
    derived: Derived, recipe: Recipe, grown: Grown | None = None, *, progress: Progress = lambda share: None
) -> None:
    """Lays a recipe on its ground and keeps it with the project, as one step.

    Parameters
    ----------
    grown : mapping, optional
        What `grown_planes` gave for it; worked out if not given.

    Raises
    ------
    BadRecipe
        As `grown_planes`.
    """
    document = derived.document
    hands = hands_for(derived, recipe)
    planes = grown_planes(derived, recipe, progress=progress) if grown is None else grown
    with document.step(f"grow {recipe.name}") if document.gesture is None else nullcontext():
        put(document, "recipe", "recipes", recipe)
        put_hands(document, recipe.ground, hands)
        document.put_planes("grow", recipe.ground, planes, by_hand=False)


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
    after = steps_after(derived, recipe, within, progress=progress)
    return after[-1].planes if after else dict(_start(derived, recipe, hands_for(derived, recipe)))


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
    run, laid, found = _Run(derived, ground), dict(before), list[After]()
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
    steps = [(index, step) for index, step in enumerate(recipe.steps) if step.on]
    for number, (index, step) in enumerate(steps):

        def part(share: float, number: int = number) -> None:
            progress((number + share) / len(steps))

        if step.layer not in laid:
            raise BadRecipe("The recipe's layer is not on this ground; choose another layer for its step.")
        layer, now = ground.layer(step.layer), laid[step.layer]
        grown = run.planes_after(step, layer, laid, step.seed(recipe.seed, index), part)
        kept = grown if within is None else _only_in(within, ground, layer, before[step.layer], grown)
        kept = _held(kept, before[step.layer], hands.get(hand_key(step.layer), {}))
        laid[step.layer] = changed[step.layer] = {**now, **kept}
        found.append(After(index, dict(changed)))
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


class _Run:
    """A ground on which steps run, and what is worked out once for all of them."""

    def __init__(self, derived: Derived, ground: Ground) -> None:
        self._derived, self._ground = derived, ground
        self._places: dict[On, Places] = {}

    def planes_after(
        self, step: Step, layer: Layer, laid: Mapping[str, Planes], seed: int, progress: Progress
    ) -> dict[str, Plane]:
        """The planes of a layer that a step changes, after it."""
        _check(step, layer)
        board, planes = self._ground.board, laid[layer.id]
        if step.set_id is not None:
            cells = self._cells(step, laid)
            return filled_planes(
                self._derived, self._ground.id, layer.id, self._set(step.set_id), seed,
                Wanted(cells, held=bool(getattr(step, "held", False))), planes=planes, progress=progress,
            )  # fmt: skip
        if not (layer.takes_areas and layer.takes_runs) and not layer.holds_tiles:
            painted = [name for name, spec in layer.specs.items() if not spec.codes]
            return {name: self._after(step, layer, name, laid, seed, progress) for name in painted}
        after = self._after(step, layer, layer.area_plane, laid, seed, progress)
        if layer.holds_tiles:
            return {layer.area_plane: after}
        # A layer of areas and runs is painted as a brush would.
        result, name = dict(planes), layer.area_plane
        values, old = np.asarray(after), np.asarray(planes[name])
        for terrain in np.unique(values[values != old]).tolist():
            shape = Shape(CellRect(0, 0, *values.shape), (values == terrain) & (values != old))
            patches = layer.patches(board, result, {name: shape}, lambda rect, number=terrain: number)  # type: ignore[misc]
            result |= patched(result, patches)
        return result

    def _after(
        self, step: Step, layer: Layer, name: str, laid: Mapping[str, Planes], seed: int, progress: Progress
    ) -> Plane:
        """One plane of a layer after a step."""
        board, on = self._ground.board, layer.specs[name].on
        before = np.asarray(laid[layer.id][name])
        places = self._on(on)
        height, width = places.height, places.width
        may = self._may(step, on, laid)
        canvas = Canvas(
            before[:height, :width], places, may, board.spacing, (board.wraps_y, board.wraps_x), seed,
            _Tools(self._derived, places, self._ground, laid), layer.holds_tiles, progress,
        )  # fmt: skip
        marks = np.where(may, step.marks(canvas), LEFT)
        if step.over is not None:
            marks = np.where(canvas.values == step.over, marks, LEFT)
        after = np.where(marks == LEFT, canvas.values, marks).astype(before.dtype)
        return Plane.of(closed(after, before.shape))

    def _on(self, on: On) -> Places:
        if on not in self._places:
            self._places[on] = places_of(self._ground.board, on)
        return self._places[on]

    def _may(self, step: Step, on: On, laid: Mapping[str, Planes]) -> Mask:
        """Where a step may lay something on places of a kind."""
        places, cells = self._on(on), self._cells(step, laid)
        if cells is None:
            return np.ones((places.height, places.width), dtype=bool)
        if on == "cells":
            return cells
        rect, mask = self._ground.board.round_cells(on, Shape(self._ground.board.whole, cells))
        found = np.zeros(self._ground.board.shape(on), dtype=bool)
        found[rect.rows, rect.columns] = mask
        return found[: places.height, : places.width]

    def _cells(self, step: Step, laid: Mapping[str, Planes]) -> Mask | None:
        """The cells of a step's region, (height, width) bool; none for all of the ground."""
        cells = None if step.where is None else region(self._derived, self._ground, step.where, laid, self._on("cells"))
        if step.cells is None:
            return cells
        own = mask_of(step.cells, self._ground.height, self._ground.width)
        return own if cells is None else own & cells

    def _set(self, wanted: str) -> str:
        project = self._derived.document.project
        if wanted not in {one.id for one in project.join_sets} | {one.id for one in project.pair_sets}:
            raise BadRecipe("A step fills with a join set or pairs that are not there; choose some for it.")
        return wanted


class _Tools:
    """What steps ask of the project (see `knitground.core.grow.steps.step.Tools`)."""

    def __init__(self, derived: Derived, places: Places, ground: Ground, laid: Mapping[str, Planes]) -> None:
        self._derived, self._places = derived, places
        self._ground, self._laid = ground, laid

    def mix(self, mix_id: str, canvas: Canvas, at: Mask | None = None) -> Marks:
        return thrown(self._throw(mix_id), canvas.seed, self._ground.board, self._ground.board.whole, canvas.may, at)

    def shown(self, layer_id: str) -> Marks:
        if layer_id not in self._laid:
            raise BadRecipe("A step takes the tiles of a layer that is not on this ground; choose another one for it.")
        return shown_codes(self._derived, self._ground, self._ground.layer(layer_id), self._laid)

    def brightness(self, sheet_id: str, height: int, width: int) -> NDArray[np.float32]:
        """How bright a picture is, (height, width) float32.

        Parameters
        ----------
        sheet_id : str
        height, width : int
        """
        state = self._derived.document.state
        sheet = next((one for one in state.project.sheets if one.id == sheet_id), None)
        if sheet is None:
            raise BadRecipe("A step reads a picture that is not there; choose a sheet for it.")
        picture = state.pictures[sheet.id].cleared(sheet)
        return brightness(picture, height, width)

    def unlike(self, mix_id: str, canvas: Canvas) -> Marks:
        throw, board = self._throw(mix_id), self._ground.board
        single = [number for number in range(len(throw.pieces)) if number not in throw.blocks]
        if len(single) < 2:
            return self.mix(mix_id, canvas)
        # Compiled code is slow to import, and not needed until something is laid so.
        from knitground.core.grow.unlike import unlike

        shares = np.array([throw.weights[number] for number in single])
        chosen = unlike(canvas.places.sides, shares, canvas.chance("unlike").ravel())
        codes = np.array([throw.pieces[number][0].code for number in single], dtype=np.int32)
        whole = blocks_thrown(throw, canvas.seed, board, board.whole, canvas.may)
        return np.where(whole > 0, whole, codes[chosen].reshape(canvas.shape))

    def _throw(self, mix_id: str) -> Throw:
        project = self._derived.document.project
        mix = next((one for one in project.mixes if one.id == mix_id), None)
        if mix is None or not mix.parts:
            raise BadRecipe("A step lays a mix that is not there, or has no tiles; choose one for it.")
        return throw_of(mix, project, self._derived.code)


def _check(step: Step, layer: Layer) -> None:
    """Refuses steps that can't work on a layer."""
    if layer.locked:
        raise BadRecipe(f"“{layer.name}” is locked; unlock it, or let the step work on another layer.")
    if layer.holds_tiles and not step.takes_tiles:
        raise BadRecipe(
            f"“{layer.name}” holds single tiles, and “{step.title}” lays terrain; choose a terrain or stitched layer."
        )
    if not layer.holds_tiles and not layer.takes_areas and not (layer.takes_runs and step.takes_runs):
        raise BadRecipe(f"“{layer.name}” takes no areas, and “{step.title}” lays some; choose another layer.")
    if not layer.holds_tiles and not step.takes_areas:
        raise BadRecipe(f"“{step.title}” lays tiles, and “{layer.name}” holds terrains; choose a layer of tiles.")


def seed_of_throw(recipe_seed: int, number: int) -> int:
    """The seed of one of several throws that are shown side by side; the first is the recipe's own."""
    return recipe_seed if number == 0 else seed_for(recipe_seed, f"throw {number}") % 1_000_000
