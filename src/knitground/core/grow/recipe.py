"""Recipes: ordered procedural steps with a seed, run over arrays of terrains."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from knitground.core.chance import seed_for
from knitground.core.grow.noise import Progress, wrapping_noise
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


def step_seed(recipe: Recipe, index: int) -> int:
    """The seed of a step of a recipe."""
    return seed_for(recipe.seed, f"step {index}")


def noise_laid(
    step: NoiseStep,
    plane: NDArray[np.uint8],
    period: tuple[int, int],
    spacing: tuple[float, float],
    seed: int,
    *,
    progress: Progress = lambda share: None,
) -> NDArray[np.uint8]:
    """A plane after a step; the one given stays as it is.

    Parameters
    ----------
    step : NoiseStep
    plane : (H, W) uint8
        Terrains or marks.
    period : (int, int)
        Rows and columns after which a ground that goes round repeats; planes of points and edges hold more.
    spacing : (float, float)
        Rows and columns of the plane per cell on the screen, so that patches come out round on every grid.
    seed : int
        Of the step: see `step_seed`.
    progress : callable, optional

    Returns
    -------
    plane : (H, W) uint8
    """
    height, width = period
    noise = wrapping_noise(
        height, width, scale=(step.scale * spacing[0], step.scale * spacing[1]), octaves=step.octaves, seed=seed,
        progress=progress,
    )  # fmt: skip
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
