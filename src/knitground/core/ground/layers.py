"""What a ground and its layers are.

A layer's definition says what kind it is; its *planes* are the arrays that hold what was painted: tiles, or
terrains on corners or edges, or the marks of a plan; and for derived layers the tiles that are pinned.
"""

from dataclasses import dataclass
from typing import Annotated, Literal, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from knitground.core.joins.lattice import PLANES
from knitground.core.joins.sets import JoinKind
from knitground.core.sheet.cut import TileSide

LARGEST_GROUND = 4096
PINS = "pins"
CODED = ("cells", PINS)
"""Planes that hold cell codes."""

Side = Annotated[int, Field(ge=1, le=LARGEST_GROUND)]
Name = Annotated[str, Field(min_length=1, max_length=80)]
T = TypeVar("T")
Planes = dict[str, NDArray[np.generic]]


@dataclass(frozen=True)
class TileLayer:
    """Tiles laid one by one."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Name
    kind: Literal["tiles"] = "tiles"
    visible: bool = True


@dataclass(frozen=True)
class TerrainLayer:
    """Terrains painted on corners or edges; its tiles are knit from a join set."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Name
    join_set: str
    joins: JoinKind
    kind: Literal["terrain"] = "terrain"
    visible: bool = True


@dataclass(frozen=True)
class StitchedLayer:
    """A plan of marks; its tiles are laid by a stitch set."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Name
    stitch_set: str
    kind: Literal["stitched"] = "stitched"
    visible: bool = True


Layer = Annotated[TileLayer | TerrainLayer | StitchedLayer, Field(discriminator="kind")]


@dataclass(frozen=True)
class Ground:
    """A map: a square grid of cells and layers over it, the lowest first."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Name
    width: Side
    height: Side
    tile_width: TileSide
    tile_height: TileSide
    layers: tuple[Layer, ...] = ()
    grid: Literal["square"] = "square"
    wraps_x: bool = False
    wraps_y: bool = False

    def layer(self, layer_id: str) -> TileLayer | TerrainLayer | StitchedLayer:
        """The layer with this id; KeyError if there is none."""
        return next_by_id(self.layers, layer_id)


def next_by_id(things: tuple[T, ...], wanted: str) -> T:
    """The thing with this id; KeyError if there is none."""
    for thing in things:
        if getattr(thing, "id", None) == wanted:
            return thing
    raise KeyError(wanted)


def plane_shapes(
    layer: TileLayer | TerrainLayer | StitchedLayer, height: int, width: int
) -> dict[str, tuple[int, int]]:
    """Names and shapes of the planes that every layer like this has on a ground of this size.

    A derived layer has one more, `PINS`, the size of the ground, from its first pin on.
    """
    if isinstance(layer, TileLayer):
        return {"cells": (height, width)}
    if isinstance(layer, StitchedLayer):
        return {"plan": (height, width)}
    shapes = {"corners": (height + 1, width + 1), "across": (height + 1, width), "along": (height, width + 1)}
    return {name: shapes[name] for name in PLANES[layer.joins]}


def plane_type(plane: str) -> type[np.int32] | type[np.uint8]:
    """The dtype of a plane: cell codes in int32, terrains and marks in uint8."""
    return np.int32 if plane in CODED else np.uint8


def blank_planes(
    layer: TileLayer | TerrainLayer | StitchedLayer, height: int, width: int, *, filling: int = 0
) -> Planes:
    """New planes of a layer, all bare or filled with one number."""
    shapes = plane_shapes(layer, height, width)
    return {name: np.full(shape, filling, dtype=plane_type(name)) for name, shape in shapes.items()}
