"""Recipes: ordered procedural steps with a seed."""

from dataclasses import dataclass
from typing import Annotated

from pydantic import ConfigDict, Field

from knitground.core.grow.steps import FiledStep

MOST_STEPS = 64


@dataclass(frozen=True)
class Recipe:
    """Steps in order, and the seed they share."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    ground: str
    seed: Annotated[int, Field(ge=0, le=2**32 - 1)] = 1
    steps: Annotated[tuple[FiledStep, ...], Field(max_length=MOST_STEPS)] = ()
