"""What a ground (map) is: a board of cells on a grid, and layers over it."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Annotated, Any, Literal, TypeVar

from pydantic import ConfigDict, Field, model_serializer

from knitground.core.grid import GRIDS, GridKind, Outline
from knitground.core.grid.board import Board
from knitground.core.grid.projection import Projection
from knitground.core.layers import FiledLayer
from knitground.core.layers.layer import Layer, Name
from knitground.core.sheet.cut import OUTLINES, TileShape, TileSide
from knitground.core.sheet.picture import Colour
from knitground.core.tiles.notes import LONGEST_NAME, Property, Tag
from knitground.core.written import only_what_is_said

LARGEST_GROUND = 4096

Side = Annotated[int, Field(ge=1, le=LARGEST_GROUND)]
T = TypeVar("T")


@dataclass(frozen=True)
class Neighbour:
    """The map beside another, and how many cells further down or right along the border it begins."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    ground: str
    shift: Annotated[int, Field(ge=-LARGEST_GROUND, le=LARGEST_GROUND)] = 0

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


@dataclass(frozen=True)
class Ground:
    """A map: its grid, its size in cells, the size of a cell's tile in pixels, and its layers, the lowest first."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Name
    width: Side
    height: Side
    tile_width: TileSide
    tile_height: TileSide
    layers: tuple[FiledLayer, ...] = ()
    grid: GridKind = "square"
    wraps_x: bool = False
    wraps_y: bool = False
    background: Colour | None = None
    tags: tuple[Tag, ...] = ()
    properties: Mapping[Annotated[str, Field(min_length=1, max_length=LONGEST_NAME)], Property] = field(
        default_factory=dict
    )

    east: Neighbour | None = None
    south: Neighbour | None = None

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler, always=("layers", "grid", "wraps_x", "wraps_y"))

    @cached_property
    def board(self) -> Board:
        """Its cells."""
        return GRIDS[self.grid].board(self.height, self.width, self.wraps_y, self.wraps_x)

    @cached_property
    def projection(self) -> Projection:
        """Where its cells lie on the screen."""
        return GRIDS[self.grid].projection(self.board, self.tile_width, self.tile_height)

    @property
    def isometric(self) -> bool:
        """Whether its cells are diamonds."""
        return self.outline == "diamond"

    @property
    def overdrawn(self) -> int:
        """By how many pixels flat tiles may reach over its cells (`overdrawn`)."""
        return overdrawn(self.tile_height)

    @property
    def outline(self) -> Outline:
        """What part of its box a cell is."""
        return GRIDS[self.grid].outline

    def bordering(self, side: Literal["east", "south"], neighbour: Neighbour | None) -> "Ground":
        """The ground with another one, or none, at a side."""
        return replace(self, east=neighbour) if side == "east" else replace(self, south=neighbour)

    def apart_from(self, other: str, side: Literal["east", "south"]) -> "Ground":
        """The ground with nothing at a side if another one lies there."""
        named = self.east if side == "east" else self.south
        return self.bordering(side, None) if named is not None and named.ground == other else self

    def layer(self, layer_id: str) -> Layer:
        """The layer with this id; KeyError if there is none."""
        return by_id(self.layers, layer_id)

    def shown(self) -> tuple[Layer, ...]:
        """The layers that show, the lowest first."""
        return tuple(layer for layer in self.layers if layer.visible)


def overdrawn(tile_height: int) -> int:
    """By how many pixels flat tiles may reach over their cells, as floors are drawn; what does so more stands."""
    return tile_height // 4


def grid_of_tiles(shape: TileShape) -> GridKind:
    """The grid of a ground that tiles of a shape lie on."""
    return next(kind for kind, grid in GRIDS.items() if grid.outline == OUTLINES[shape])


def by_id(things: Iterable[T], wanted: str) -> T:
    """The thing with this id; KeyError if there is none."""
    for thing in things:
        if getattr(thing, "id", None) == wanted:
            return thing
    raise KeyError(wanted)
