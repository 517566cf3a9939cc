"""Routes: what a figure is told to do, step by step, and where that leads it; a route has always the same end."""

import math
import re
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby
from typing import Annotated, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from knitground.core.errors import BadRequest, readable
from knitground.core.ground.ground import Ground
from knitground.core.walk.motion import TICKS, Spot

Way = Literal["N", "NE", "E", "SE", "S", "SW", "W", "NW", ""]
WAYS: dict[Way, tuple[int, int]] = {
    "N": (0, -1), "NE": (1, -1), "E": (1, 0), "SE": (1, 1), "S": (0, 1), "SW": (-1, 1), "W": (-1, 0), "NW": (-1, -1),
    "": (0, 0),
}  # fmt: skip
CELLS_A_SECOND = 5.0
MOST_LEGS = 10_000
MOST_TICKS = TICKS * 600


class Leg(BaseModel):
    """A direction that is held for so many steps; none to stand still."""

    model_config = ConfigDict(extra="forbid", frozen=True, defer_build=True)

    way: Way
    ticks: Annotated[int, Field(ge=1, le=MOST_TICKS)]


class Route(BaseModel):
    """Where a figure begins, in pixels of the ground, and what it does then."""

    model_config = ConfigDict(extra="forbid", frozen=True, defer_build=True)

    x: Annotated[float, Field(ge=-(2**20), le=2**20, allow_inf_nan=False)]
    y: Annotated[float, Field(ge=-(2**20), le=2**20, allow_inf_nan=False)]
    legs: Annotated[tuple[Leg, ...], Field(max_length=MOST_LEGS)] = ()


@dataclass(frozen=True)
class KeptRoute:
    """A route that was walked once, and where it led then, in pixels of its ground."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Annotated[str, Field(min_length=1, max_length=80)]
    ground: str
    route: Route
    end_x: Annotated[float, Field(ge=-(2**20), le=2**20, allow_inf_nan=False)]
    end_y: Annotated[float, Field(ge=-(2**20), le=2**20, allow_inf_nan=False)]


class Stopped(NamedTuple):
    """What a figure ran into: on which leg, counted from 0, and where its foot touched it."""

    leg: int
    at: Spot


class Journey(NamedTuple):
    """Where a route led, and all that it ran into, the first of each leg."""

    end: Spot
    stopped: tuple[Stopped, ...]


def speed(ground: Ground) -> float:
    """How many pixels a figure goes in a step."""
    return CELLS_A_SECOND * max(ground.tile_width, ground.tile_height) / TICKS


def step_of(way: Way, length: float) -> tuple[float, float]:
    """How far across and down a step in a direction leads; slantwise it is no longer than straight on."""
    across, down = WAYS[way]
    share = length / math.hypot(across, down) if across or down else 0.0
    return across * share, down * share


def legs_of(text: str, ground: Ground) -> tuple[Leg, ...]:
    """The legs that a text names: directions and cells, as in "E 10 S 4"; a figure that is free goes just so far.

    Raises
    ------
    BadRequest
        If it is no such text.
    """
    words = text.split()
    if not words or len(words) % 2 or len(words) > 2 * MOST_LEGS:
        raise BadRequest(f"“{readable(text)}” is no route; write directions and cells, as in E 10 S 4.")
    legs = []
    for way, cells in zip(words[::2], words[1::2], strict=True):
        if way.upper() not in WAYS or not way or not re.fullmatch(r"\d{1,5}(\.\d{1,3})?", cells):
            raise BadRequest(f"“{readable(way)} {readable(cells)}” is no part of a route; write one such as NE 2.5.")
        across, down = WAYS[way.upper()]  # type: ignore[index]
        far = math.hypot(across * ground.tile_width, down * ground.tile_height) * float(cells)
        ticks = max(1, round(far / speed(ground)))
        if ticks > MOST_TICKS:
            raise BadRequest(f"“{readable(way)} {readable(cells)}” goes too far; split it in several parts.")
        legs.append(Leg(way=way.upper(), ticks=ticks))  # type: ignore[arg-type]
    return tuple(legs)


def route_of(data: bytes, name: str) -> Route:
    """A route that was recorded, from the bytes of its file; raises BadRequest where it is none."""
    try:
        return Route.model_validate_json(data)
    except ValidationError:
        raise BadRequest(f"{name} holds no route; record one in the window, or write one as “E 10 S 4”.") from None


def legs_held(ways: Iterable[Way]) -> tuple[Leg, ...]:
    """The legs of a route, given the way that was held in each step."""
    return tuple(Leg(way=way, ticks=len(list(same))) for way, same in groupby(ways))
