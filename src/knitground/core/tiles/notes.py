"""What the artist says of a tile, beyond where it lies: how often it comes, what it is, what blocks, how it moves."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal, NamedTuple

import numpy as np
from pydantic import ConfigDict, Field, StrictBool, StrictFloat, StrictInt, StrictStr, model_serializer, model_validator

from knitground.core.errors import BadRequest
from knitground.core.sheet.cut import LARGEST_TILE
from knitground.core.tiles.shape_kinds import FEET
from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

SHORTEST_MS, LONGEST_MS = 10, 60_000
MOST_FRAMES = 256
LONGEST_NAME = 60
MOST_POINTS = 256

PropertyKind = Literal["text", "whole", "number", "yes-no", "colour"]
Tag = Annotated[str, Field(min_length=1, max_length=LONGEST_NAME, pattern=r"^[^,\s](?:[^,]*[^,\s])?$")]
Coordinate = Annotated[float, Field(ge=-LARGEST_TILE, le=LARGEST_TILE, allow_inf_nan=False)]
Value = bool | int | float | str

_PYTHON: dict[PropertyKind, type | tuple[type, ...]] = {
    "text": str, "whole": int, "number": (int, float), "yes-no": bool, "colour": str,
}  # fmt: skip
_PLAIN: dict[PropertyKind, Value] = {"text": "", "whole": 0, "number": 0.0, "yes-no": False, "colour": "#ffffff"}


class Point(NamedTuple):
    """A point of a tile, in pixels from its left top corner; halves are allowed."""

    x: Coordinate
    y: Coordinate


Polygon = Annotated[tuple[Point, ...], Field(min_length=3, max_length=MOST_POINTS)]
Collision = Literal["none", "whole"] | Annotated[tuple[Polygon, ...], Field(min_length=1, max_length=64)]


@dataclass(frozen=True)
class Property:
    """A value with the kind that it is of."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    kind: PropertyKind
    value: StrictBool | StrictInt | StrictFloat | StrictStr

    @model_validator(mode="after")
    def _fits(self) -> "Property":
        wrong = isinstance(self.value, bool) != (self.kind == "yes-no") or not isinstance(
            self.value, _PYTHON[self.kind]
        )
        if wrong or (self.kind == "colour" and not _is_colour(str(self.value))):
            raise ValueError(f"{self.value!r} is no {self.kind}")
        return self


@dataclass(frozen=True)
class Frame:
    """A picture of an animation, and how long it shows."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    tile: TileRef
    ms: Annotated[int, Field(ge=SHORTEST_MS, le=LONGEST_MS)] = 120


@dataclass(frozen=True)
class TileNotes:
    """What is said of a tile; one of which nothing is said weighs 1, can be walked on and stands still.

    `collision` is what stops feet; `shapes` holds the shapes of other kinds, by their ids. Where an animation is
    played `apart`, each cell and each thing begins with a frame of its own.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    weight: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = 1.0
    tags: tuple[Tag, ...] = ()
    properties: Mapping[Annotated[str, Field(min_length=1, max_length=LONGEST_NAME)], Property] = field(
        default_factory=dict
    )
    walkable: bool = True
    collision: Collision = "none"
    shapes: Mapping[Annotated[str, Field(min_length=1, max_length=80)], Collision] = field(default_factory=dict)
    frames: Annotated[tuple[Frame, ...], Field(max_length=MOST_FRAMES)] = ()
    apart: bool = False

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    def shape(self, kind: str = FEET) -> Collision:
        """Its shape of a kind."""
        return self.collision if kind == FEET else self.shapes.get(kind, "none")

    def with_shape(self, kind: str, collision: Collision) -> "TileNotes":
        """The same with another shape of a kind."""
        if kind == FEET:
            return replace(self, collision=collision)
        others = {name: shape for name, shape in self.shapes.items() if name != kind}
        kept = others if collision == "none" else {**others, kind: collision}
        return replace(self, shapes=dict(sorted(kept.items())))

    def all_shapes(self) -> dict[str, Collision]:
        """All shapes that it has, by their kinds."""
        feet: dict[str, Collision] = {} if self.collision == "none" else {FEET: self.collision}
        return {**feet, **self.shapes}


PLAIN = TileNotes()


def property_of(kind: PropertyKind, text: str) -> Property:
    """A property of what was typed.

    Raises
    ------
    BadRequest
        If the text is no such value.
    """
    text = text.strip()
    try:
        if kind == "whole":
            return Property(kind, int(text))
        if kind == "number":
            value = float(text.replace(",", "."))
            if not abs(value) < float("inf"):
                raise ValueError
            return Property(kind, value)
    except ValueError:
        raise BadRequest(f"“{text}” is no {'whole ' if kind == 'whole' else ''}number; write one such as 12.") from None
    if kind == "yes-no":
        if text.lower() not in ("yes", "no"):
            raise BadRequest(f"“{text}” is neither yes nor no; write one of them.")
        return Property(kind, text.lower() == "yes")
    if kind == "colour" and not _is_colour(text.lower()):
        raise BadRequest(f"“{text}” is no colour; write it as #ff8800.")
    return Property(kind, text.lower() if kind == "colour" else text)


def as_typed(one: Property) -> str:
    """A property as one would type it."""
    return ("no", "yes")[bool(one.value)] if one.kind == "yes-no" else str(one.value)


def plain_property(kind: PropertyKind) -> Property:
    """What a new property of a kind holds."""
    return Property(kind, _PLAIN[kind])


def frame_at(frames: tuple[Frame, ...], ms: int) -> int:
    """Which frame shows after so many milliseconds, going round."""
    return frames_at(frames, ms)[0]


def frames_at(frames: tuple[Frame, ...], ms: int) -> list[int]:
    """Which frame shows then of an animation that began with the first frame, with the second, and so on."""
    ends = np.cumsum([frame.ms for frame in frames])
    begun = np.concatenate([[0], ends[:-1]])
    return [int(number) for number in np.searchsorted(ends, (ms + begun) % ends[-1], side="right")]


def _is_colour(text: str) -> bool:
    return len(text) == 7 and text[0] == "#" and all(digit in "0123456789abcdef" for digit in text[1:])
