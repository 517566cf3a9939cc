"""Recipes: ordered procedural steps with a seed, run over the planes of a ground."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from knitground.core.chance import seed_for
from knitground.core.errors import BadRecipe
from knitground.core.ground.full import full_patches
from knitground.core.ground.layers import CODED, Planes
from knitground.core.ground.shapes import Shape
from knitground.core.ground.window import Window
from knitground.core.grow.noise import Progress, wrapping_noise
from knitground.core.joins.lattice import PLANES
from knitground.core.joins.sets import MOST_TERRAINS

TerrainNumber = Annotated[int, Field(ge=0, le=MOST_TERRAINS)]


@dataclass(frozen=True)
class NoiseStep:
    """Lays a terrain (or a mark) where wrapping noise is highest.

    `amount` is the share of the layer to cover; `over` says which terrain it may cover (none: every one);
    `elsewhere` is laid on the rest (none: the rest stays as it was).
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    layer: str
    terrain: TerrainNumber
    scale: Annotated[float, Field(ge=2, le=4096)] = 12.0
    amount: Annotated[float, Field(ge=0, le=1)] = 0.4
    octaves: Annotated[int, Field(ge=1, le=6)] = 3
    over: TerrainNumber | None = None
    elsewhere: TerrainNumber | None = None
    kind: Literal["noise"] = "noise"


@dataclass(frozen=True)
class Recipe:
    """Steps in order, and the seed they share."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    ground: str
    seed: Annotated[int, Field(ge=0, le=2**32 - 1)] = 1
    steps: tuple[NoiseStep, ...] = ()


def with_terrains(step: NoiseStep, numbers: Sequence[int]) -> NoiseStep:
    """A step after terrains got other numbers."""
    over, elsewhere = (None if one is None else numbers[one] for one in (step.over, step.elsewhere))
    return replace(step, terrain=numbers[step.terrain], over=over, elsewhere=elsewhere)


def run_step(step: NoiseStep, planes: Planes, seed: int, *, progress: Progress = lambda share: None) -> Planes:
    """The planes of a layer after a step; the ones given stay as they are.

    Parameters
    ----------
    step : NoiseStep
    planes : mapping of name to (H, W) uint8
        Of a terrain or stitched layer.
    seed : int
        Of the step: see `step_seed`.
    progress : callable, optional

    Raises
    ------
    BadRecipe
        If the layer holds neither terrains nor marks.
    """
    if "cells" in planes:
        raise BadRecipe("Noise lays terrain, and this layer holds single tiles; choose a terrain or stitched layer.")
    painted = {name: np.asarray(plane, dtype=np.uint8) for name, plane in planes.items() if name not in CODED}
    if len(painted) == len(PLANES["full"]):
        return _lay_areas(step, painted, seed, progress)
    laid: Planes = {}
    for number, (name, plane) in enumerate(painted.items()):
        share = len(painted)

        def part(done: float, number: int = number, share: int = share) -> None:
            progress((number + done) / share)

        laid[name] = _lay(step, name, plane, seed, part)
    return laid


def step_seed(recipe: Recipe, index: int) -> int:
    """The seed of a step of a recipe."""
    return seed_for(recipe.seed, f"step {index}")


def _lay_areas(step: NoiseStep, planes: Mapping[str, NDArray[np.uint8]], seed: int, progress: Progress) -> Planes:
    """Noise on a layer of areas and runs: its areas are painted as a brush would."""
    laid = dict(planes)
    corners = _lay(step, "corners", planes["corners"], seed, progress)
    whole = Window(0, 0, *corners.shape)
    for terrain in np.unique(corners[corners != planes["corners"]]).tolist():
        shape = Shape(whole, (corners == terrain) & (corners != planes["corners"]))
        laid = {name: values for name, (_, values) in full_patches(laid, {"corners": shape}, terrain).items()}
    return {name: np.asarray(plane) for name, plane in laid.items()}


def _lay(step: NoiseStep, name: str, plane: NDArray[np.uint8], seed: int, progress: Progress) -> NDArray[np.uint8]:
    height, width = _period(name, plane.shape[0], plane.shape[1])
    noise = wrapping_noise(height, width, scale=step.scale, octaves=step.octaves, seed=seed, progress=progress)
    high = np.zeros(noise.shape, dtype=bool)
    if step.amount > 0:
        level = np.quantile(noise, 1 - step.amount) if step.amount < 1 else -np.inf
        high = noise >= level
    high = np.pad(high, ((0, plane.shape[0] - height), (0, plane.shape[1] - width)), mode="wrap")
    laid = plane.copy()
    may = np.ones(plane.shape, dtype=bool) if step.over is None else plane == step.over
    if step.elsewhere is not None:
        laid[may & ~high] = step.elsewhere
    laid[may & high] = step.terrain
    return laid


def _period(name: str, rows: int, columns: int) -> tuple[int, int]:
    """Rows and columns after which a plane repeats where the ground wraps: lattices hold their seam twice."""
    return rows - (name in ("corners", "across")), columns - (name in ("corners", "along"))
