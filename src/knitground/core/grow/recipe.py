"""Recipes: ordered procedural steps with a seed."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Annotated

from pydantic import ConfigDict, Field

from knitground.core.grow.steps import FiledStep
from knitground.core.tiles.tile import TileRef

MOST_STEPS = 64


@dataclass(frozen=True)
class Recipe:
    """Steps in order, and the seed they share.

    One that is `alive` grows on its layers from bare each time, and what was changed by hand on them stays on top.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    ground: str
    seed: Annotated[int, Field(ge=0, le=2**32 - 1)] = 1
    steps: Annotated[tuple[FiledStep, ...], Field(max_length=MOST_STEPS)] = ()
    alive: bool = False

    @property
    def layers(self) -> tuple[str, ...]:
        """The layers that its steps work on."""
        return tuple(dict.fromkeys(step.layer for step in self.steps))

    @property
    def tiles(self) -> set[TileRef]:
        """The tiles that its steps name."""
        return {step.where.tile for step in self.steps if step.where is not None and step.where.tile is not None}

    def with_tiles(self, exchanged: Callable[[TileRef], TileRef]) -> "Recipe":
        """The recipe with the tiles that it names exchanged."""
        return replace(self, steps=tuple(step.with_tiles(exchanged) for step in self.steps))
