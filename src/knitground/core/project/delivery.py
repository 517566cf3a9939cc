"""A delivery: what leaves the project again and again, in which format, and where to."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, model_serializer

from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Name
from knitground.core.written import only_what_is_said

MOST_DELIVERIES = 100
USUAL_PATTERN = "{ground}"

Option = (
    bool
    | Annotated[int, Field(ge=-(2**31), lt=2**31)]
    | Annotated[float, Field(allow_inf_nan=False)]
    | Annotated[str, Field(max_length=1000)]
)
Options = Mapping[Annotated[str, Field(max_length=80)], Option]
UnitOf = Literal["pixels", "cells"]
When = Literal["asked", "save", "change"]


@dataclass(frozen=True)
class Delivery:
    """A kept delivery.

    It holds all grounds if it names none, by their ids, and of each the layers that show if it names none, by their
    names. Files go into `folder`, seen from the project's, under names made of the pattern. It is run when asked, on
    every save, or a second after the last change. With `unit_of` "pixels" a unit of the game is `unit` pixels; with
    "cells" a cell is `unit` units wide. What else there is to say is up to the format.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: Annotated[str, Field(min_length=1, max_length=80)]
    name: Name
    format: Annotated[str, Field(max_length=40)]
    grounds: tuple[str, ...] = ()
    layers: Annotated[tuple[str, ...], Field(max_length=1000)] = ()
    folder: Annotated[str, Field(max_length=1000)] = "delivered"
    pattern: Annotated[str, Field(max_length=200)] = USUAL_PATTERN
    when: When = "asked"
    unit: Annotated[float, Field(gt=0, le=2**20, allow_inf_nan=False)] = 1.0
    unit_of: UnitOf = "pixels"
    options: Options = field(default_factory=dict)

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    def per_unit(self, ground: Ground) -> float:
        """How many pixels of a ground a unit of the game is."""
        return self.unit if self.unit_of == "pixels" else ground.tile_width / self.unit
