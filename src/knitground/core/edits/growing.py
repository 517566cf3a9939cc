"""Running a recipe over a ground, and keeping it."""

from collections.abc import Callable, Mapping
from contextlib import nullcontext

import numpy as np
from numpy.typing import NDArray

from knitground.core.edits.painting import patched
from knitground.core.edits.things import put
from knitground.core.errors import BadRecipe
from knitground.core.grid.board import Board
from knitground.core.grid.plane import Plane
from knitground.core.grid.rect import CellRect
from knitground.core.grid.shapes import Shape
from knitground.core.ground.ground import Ground, by_id
from knitground.core.grow.recipe import NoiseStep, Recipe, noise_laid, step_seed
from knitground.core.layers.layer import Layer, Planes
from knitground.core.project.document import Document
from knitground.core.project.model import State

Progress = Callable[[float], None]
Grown = dict[str, Planes]
"""Planes by layer."""


def grow(
    document: Document, recipe: Recipe, grown: Grown | None = None, *, progress: Progress = lambda share: None
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
    planes = grown_planes(document.state, recipe, progress=progress) if grown is None else grown
    with document.step(f"grow {recipe.name}") if document.gesture is None else nullcontext():
        put(document, "recipe", "recipes", recipe)
        document.put_planes("grow", recipe.ground, planes)


def grown_planes(
    state: State, recipe: Recipe, within: Shape | None = None, *, progress: Progress = lambda share: None
) -> Grown:
    """The planes of the layers that a recipe changes, after it; a pure function of a state and the recipe's seed.

    Parameters
    ----------
    within : Shape, optional
        The cells in which it grows; all of the ground if not given.

    Raises
    ------
    BadRecipe
        If a step's layer is not on the ground, or takes no terrain.
    """
    ground = by_id(state.project.grounds, recipe.ground)
    laid: Grown = {}
    for index, step in enumerate(recipe.steps):

        def part(share: float, index: int = index) -> None:
            progress((index + share) / len(recipe.steps))

        if step.layer not in state.planes[recipe.ground]:
            raise BadRecipe("The recipe's layer is not on this ground; choose another layer for its step.")
        layer = ground.layer(step.layer)
        planes = laid.get(step.layer, state.planes[recipe.ground][step.layer])
        grown = run_step(step, layer, ground.board, planes, step_seed(recipe, index), part)
        laid[step.layer] = {**planes, **(grown if within is None else _only_in(within, ground, layer, planes, grown))}
    return laid


def _only_in(within: Shape, ground: Ground, layer: Layer, before: Planes, after: Planes) -> dict[str, Plane]:
    """Planes as they were, and as they are afterwards only at some cells."""
    found = {}
    for name, plane in after.items():
        rect, mask = ground.board.round_cells(layer.specs[name].on, within)
        found[name] = before[name].written(rect, np.where(mask, plane.read(rect), before[name].read(rect)))
    return found


def run_step(
    step: NoiseStep, layer: Layer, board: Board, planes: Planes, seed: int, progress: Progress = lambda share: None
) -> dict[str, Plane]:
    """The planes of a layer that a step changes, after it."""
    if layer.holds_tiles:
        raise BadRecipe("Noise lays terrain, and this layer holds single tiles; choose a terrain or stitched layer.")
    painted = [name for name, spec in layer.specs.items() if not spec.codes]
    if layer.takes_areas and layer.takes_runs:
        return _areas(step, layer, board, planes, seed, progress)
    found = {}
    for number, name in enumerate(painted):

        def part(share: float, number: int = number) -> None:
            progress((number + share) / len(painted))

        found[name] = Plane.of(_laid(step, board, np.asarray(planes[name]), seed, part))
    return found


def _laid(step: NoiseStep, board: Board, plane: NDArray[np.uint8], seed: int, progress: Progress) -> NDArray[np.uint8]:
    return noise_laid(step, plane, (board.height, board.width), board.spacing, seed, progress=progress)


def _areas(
    step: NoiseStep, layer: Layer, board: Board, planes: Mapping[str, Plane], seed: int, progress: Progress
) -> dict[str, Plane]:
    """Noise on a layer of areas and runs: its areas are painted as a brush would."""
    name = layer.area_plane
    before = np.asarray(planes[name])
    after = _laid(step, board, before, seed, progress)
    result = dict(planes)
    for terrain in np.unique(after[after != before]).tolist():
        shape = Shape(CellRect(0, 0, *after.shape), (after == terrain) & (after != before))
        patches = layer.patches(board, result, {name: shape}, lambda rect, number=terrain: number)  # type: ignore[misc]
        result |= patched(result, patches)
    return result
