"""What a thing is: a sprite, a point or a shape that is placed freely on a ground, and kinds of such things.

A thing lies at a point of the ground's picture, in pixels from its left top corner. A sprite stands there with the
middle of its lower border; the corners of lines and polygons are told from there, boxes and rounds lie about it.
Turning, scaling and mirroring go about that point.
"""

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import ConfigDict, Field, model_serializer, model_validator

from knitground.core.layers.light import Light
from knitground.core.sheet.picture import Colour
from knitground.core.tiles.notes import LONGEST_NAME, MOST_POINTS, Property, Tag
from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

FARTHEST = 2**20
LARGEST_SCALE = 16.0
MOST_THINGS = 100_000
_ROUND_CORNERS = 24

Form = Literal["sprite", "point", "box", "round", "line", "polygon"]
Pixel = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST, allow_inf_nan=False)]
Length = Annotated[float, Field(ge=0, le=FARTHEST, allow_inf_nan=False)]
Properties = Mapping[Annotated[str, Field(min_length=1, max_length=LONGEST_NAME)], Property]
Identity = Annotated[str, Field(min_length=1, max_length=80)]

CORNERS_AT_LEAST: Mapping[Form, int] = {"line": 2, "polygon": 3}


class Corner(NamedTuple):
    """A corner of a line or polygon, in pixels from where the thing lies."""

    x: Pixel
    y: Pixel


@dataclass(frozen=True)
class ThingKind:
    """What things of a kind share: a name, a colour, and properties that hold for all that do not set their own."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: Identity
    name: Annotated[str, Field(min_length=1, max_length=80)]
    colour: Colour = "#3f7f8f"
    properties: Properties = field(default_factory=dict)

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


@dataclass(frozen=True)
class Thing:
    """Something placed freely; `turn` is in degrees, clockwise.

    `grown` names the recipe that strewed it, which takes it away when it grows anew; what is changed by hand stays.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: Identity
    x: Pixel
    y: Pixel
    form: Form = "sprite"
    tile: TileRef | None = None
    width: Length = 0.0
    height: Length = 0.0
    points: Annotated[tuple[Corner, ...], Field(max_length=MOST_POINTS)] = ()
    turn: Annotated[float, Field(ge=0, lt=360, allow_inf_nan=False)] = 0.0
    scale: Annotated[float, Field(gt=0, le=LARGEST_SCALE, allow_inf_nan=False)] = 1.0
    mirrored: bool = False
    name: Annotated[str, Field(max_length=80)] = ""
    kind: Annotated[str, Field(max_length=80)] = ""
    tags: tuple[Tag, ...] = ()
    properties: Properties = field(default_factory=dict)
    grown: Annotated[str, Field(max_length=80)] = ""
    light: Light | None = None

    @model_validator(mode="after")
    def _whole(self) -> "Thing":
        if self.form == "sprite" and self.tile is None:
            raise ValueError("a sprite needs a tile")
        if len(self.points) < CORNERS_AT_LEAST.get(self.form, 0):
            raise ValueError(f"a {self.form} needs {CORNERS_AT_LEAST[self.form]} points or more")
        return self

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


def properties_of(thing: Thing, kinds: Iterable[ThingKind]) -> dict[str, Property]:
    """What holds for a thing: the properties of its kind, and over them its own."""
    of_kind = next((kind.properties for kind in kinds if kind.id == thing.kind), {})
    return {**of_kind, **thing.properties}


def outline(thing: Thing, size: tuple[int, int] = (0, 0)) -> list[tuple[float, float]]:
    """The corners of a thing on the ground, in pixels; one for a point.

    Parameters
    ----------
    thing : Thing
    size : (int, int)
        Width and height of its tile, if it is a sprite.
    """
    return [_placed(thing, x, y) for x, y in _corners(thing, size)]


def is_near(thing: Thing, x: float, y: float, within: float, size: tuple[int, int] = (0, 0)) -> bool:
    """Whether a place lies on a thing, or so many pixels beside it.

    Parameters
    ----------
    thing : Thing
    x, y, within : float
        In pixels of the ground.
    size : (int, int)
        Width and height of its tile, if it is a sprite.
    """
    corners = outline(thing, size)
    if len(corners) == 1:
        return math.dist(corners[0], (x, y)) <= 2 * within
    sides = list(zip(corners, corners[1:] + corners[:1], strict=True))
    if thing.form == "line":
        sides = sides[:-1]
    if any(_apart(x, y, *side) <= within for side in sides):
        return True
    return thing.form != "line" and _holds(corners, x, y)


def reach(thing: Thing, size: tuple[int, int] = (0, 0)) -> float:
    """How far a thing reaches at the most from where it lies, in pixels."""
    if thing.form == "sprite":
        return (size[0] / 2 + size[1]) * thing.scale
    if thing.points:
        return max(abs(point.x) + abs(point.y) for point in thing.points) * thing.scale
    return (thing.width + thing.height) * thing.scale


def shifted(thing: Thing, across: float, down: float) -> Thing:
    """A thing so many pixels further; not so far that no file could hold it."""
    x, y = (min(max(value, -FARTHEST), FARTHEST) for value in (thing.x + across, thing.y + down))
    return replace(thing, x=x, y=y)


def _corners(thing: Thing, size: tuple[int, int]) -> list[tuple[float, float]]:
    """The corners about where a thing lies, before it is turned."""
    if thing.form == "sprite":
        wide, high = size
        return [(-wide / 2, -high), (wide / 2, -high), (wide / 2, 0), (-wide / 2, 0)]
    across, down = thing.width / 2, thing.height / 2
    if thing.form == "box":
        return [(-across, -down), (across, -down), (across, down), (-across, down)]
    if thing.form == "round":
        turns = [2 * math.pi * part / _ROUND_CORNERS for part in range(_ROUND_CORNERS)]
        return [(across * math.cos(turn), down * math.sin(turn)) for turn in turns]
    return [(point.x, point.y) for point in thing.points] if thing.points else [(0.0, 0.0)]


def _placed(thing: Thing, x: float, y: float) -> tuple[float, float]:
    turn = math.radians(thing.turn)
    x, y = (-x if thing.mirrored else x) * thing.scale, y * thing.scale
    return (
        thing.x + x * math.cos(turn) - y * math.sin(turn),
        thing.y + x * math.sin(turn) + y * math.cos(turn),
    )


def _apart(x: float, y: float, start: tuple[float, float], end: tuple[float, float]) -> float:
    """How far a place is from a line between two others."""
    across, down = end[0] - start[0], end[1] - start[1]
    long = across * across + down * down
    along = ((x - start[0]) * across + (y - start[1]) * down) / long if long else 0.0
    along = min(max(along, 0.0), 1.0)
    return math.hypot(x - start[0] - along * across, y - start[1] - along * down)


def _holds(corners: list[tuple[float, float]], x: float, y: float) -> bool:
    """Whether a place lies in a polygon: by how often a ray from it crosses the border."""
    inside = False
    for (x0, y0), (x1, y1) in zip(corners, corners[1:] + corners[:1], strict=True):
        if (y0 > y) != (y1 > y) and x < x0 + (y - y0) / (y1 - y0) * (x1 - x0):
            inside = not inside
    return inside
