"""Lights: what a thing may give off, so that the shade round it becomes brighter."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import ConfigDict, Field, model_serializer

from knitground.core.sheet.picture import Colour
from knitground.core.written import only_what_is_said

FARTHEST_REACH = 2048
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


@dataclass(frozen=True)
class Light:
    """How a thing shines.

    `reach` is in pixels; `softness` is the share of it over which the light fades, and `flicker` the share of its
    brightness that comes and goes. With `shadows`, what stops sight keeps it off.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    colour: Colour = "#ffd9a0"
    reach: Annotated[float, Field(ge=1, le=FARTHEST_REACH, allow_inf_nan=False)] = 96.0
    softness: Share = 0.8
    flicker: Share = 0.0
    shadows: bool = True

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)
