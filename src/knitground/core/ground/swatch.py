"""Swatches: kept pieces of grounds and single tiles, each with a name and a place on the tray."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any

from pydantic import ConfigDict, Field, model_serializer, model_validator

from knitground.core.grid.board import On
from knitground.core.ground.ground import LARGEST_GROUND
from knitground.core.grow.thrown import TileCell
from knitground.core.layers.thing import FARTHEST, MOST_THINGS, Thing
from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

TRAY_COLUMNS, TRAY_ROWS = 8, 64

_Row = Annotated[str, Field(max_length=40 * LARGEST_GROUND)]
_Rows = Annotated[tuple[_Row, ...], Field(max_length=LARGEST_GROUND + 1)]


@dataclass(frozen=True)
class ClipPlane:
    """What a piece holds of a plane: rows of words, a dash where nothing belongs to it."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    on: On
    codes: bool
    rows: _Rows


@dataclass(frozen=True)
class ClipPiece:
    """What was lifted off one layer."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    layer: str
    planes: Mapping[str, ClipPlane]


@dataclass(frozen=True)
class ClipThing:
    """A thing that was lifted off a layer, and how many flat rows and columns from the block's first cell it stands."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    layer: str
    down: Annotated[float, Field(ge=-FARTHEST, le=FARTHEST, allow_inf_nan=False)]
    across: Annotated[float, Field(ge=-FARTHEST, le=FARTHEST, allow_inf_nan=False)]
    thing: Thing


@dataclass(frozen=True)
class Clip:
    """A block as it is written: cells as rows of x and dashes, the tiles that it names, its pieces, its things."""

    __pydantic_config__ = ConfigDict(extra="forbid", defer_build=True)

    cells: _Rows
    tiles: tuple[TileRef, ...]
    pieces: tuple[ClipPiece, ...]
    things: Annotated[tuple[ClipThing, ...], Field(max_length=MOST_THINGS)] = ()

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)


def tile_word(word: str) -> tuple[int, int]:
    """The number of a tile in a clip and its orientation, as a word says them; raises ValueError where it can't be."""
    number, _, turn = word.partition(".")
    found = int(number), int(turn or 0)
    if found[0] < 0 or not 0 <= found[1] <= 7:
        raise ValueError(word)
    return found


@dataclass(frozen=True)
class Swatch:
    """A block or a single tile that is kept; `x` and `y` are its column and row on the tray."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: Annotated[str, Field(min_length=1, max_length=80)]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    x: Annotated[int, Field(ge=0, lt=TRAY_COLUMNS)]
    y: Annotated[int, Field(ge=0, lt=TRAY_ROWS)]
    clip: Clip | None = None
    tile: TileRef | None = None
    orientation: Annotated[int, Field(ge=0, le=7)] = 0

    @model_validator(mode="after")
    def _one_of_both(self) -> "Swatch":
        if (self.clip is None) == (self.tile is None):
            raise ValueError("a swatch holds either a block or a tile")
        return self

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler)

    @cached_property
    def tile_cells(self) -> tuple[TileCell, ...]:
        """Its single tiles by where they lie, as mixes throw them; none where it holds no layer of single tiles."""
        if self.tile is not None:
            return (TileCell(0, 0, self.tile, self.orientation),)
        planes = [plane for piece in (self.clip.pieces if self.clip else ()) for plane in piece.planes.values()]
        coded = next((plane for plane in planes if plane.codes and plane.on == "cells"), None)
        if coded is None or self.clip is None:
            return ()
        found, tiles = [], self.clip.tiles
        for down, line in enumerate(coded.rows):
            for across, word in enumerate(line.split(" ")):
                number, turn = tile_word(word) if word != "-" else (0, 0)
                if 0 < number <= len(tiles):
                    found.append(TileCell(down, across, tiles[number - 1], turn))
        return tuple(found)

    @property
    def tiles(self) -> tuple[TileRef, ...]:
        """The tiles that it names."""
        if self.clip is None:
            return (self.tile,) if self.tile is not None else ()
        shown = (one.thing.tile for one in self.clip.things if one.thing.tile is not None)
        return tuple(dict.fromkeys((*self.clip.tiles, *shown)))
