"""Pair sets: tiles, and which of them may lie side by side; made by hand, or read off maps or off pixels."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field, model_serializer, model_validator

from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

MOST_TILES = 1024
Side = Literal["north", "east", "south", "west"]
SIDES: tuple[Side, ...] = ("north", "east", "south", "west")
_Row = Annotated[str, Field(max_length=MOST_TILES, pattern="^[x-]*$")]
_Rows = Annotated[tuple[_Row, ...], Field(max_length=MOST_TILES)]


@dataclass(frozen=True)
class PairTile:
    """A tile of a pair set, and how it is turned; no tile stands for a bare cell."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    tile: TileRef | None
    orientation: Annotated[int, Field(ge=0, le=7)] = 0

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler, always=("tile",))


@dataclass(frozen=True)
class PairSet:
    """Tiles and which may lie side by side.

    `east` has a row for each tile and in it a sign for each: x where the second may lie east of the first. `south`
    tells the same of what lies below.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Annotated[str, Field(min_length=1, max_length=80)]
    tiles: Annotated[tuple[PairTile, ...], Field(max_length=MOST_TILES)] = ()
    east: _Rows = field(default=())
    south: _Rows = field(default=())

    @model_validator(mode="after")
    def _whole(self) -> "PairSet":
        count = len(self.tiles)
        for rows in (self.east, self.south):
            if len(rows) != count or any(len(row) != count for row in rows):
                raise ValueError("a pair set has a row for each of its tiles, and in it a sign for each")
        if len(set(self.tiles)) != count:
            raise ValueError("a pair set has each tile once")
        return self

    @property
    def allowed(self) -> NDArray[np.bool_]:
        """Whether the second may lie north, east, south and west of the first, (4, K, K) bool.

        Returns
        -------
        allowed : (4, K, K) bool
        """
        count = len(self.tiles)
        east, south = (
            np.array([[sign == "x" for sign in row] for row in rows], dtype=bool).reshape(count, count)
            for rows in (self.east, self.south)
        )
        return np.array([south.T, east, south, east.T])

    @property
    def pairs(self) -> int:
        """How many pairs may lie side by side, those one above the other included."""
        return sum(row.count("x") for rows in (self.east, self.south) for row in rows)

    def with_pair(self, one: int, side: Side, other: int, may: bool) -> "PairSet":
        """The set with the tile `other` allowed on a side of the tile `one`, or not."""
        east, south = self._signs()
        rows = east if side in ("east", "west") else south
        rows[(one, other) if side in ("east", "south") else (other, one)] = may
        return self._of(east, south)

    def with_tiles_added(self, tiles: Iterable[PairTile]) -> "PairSet":
        """The set with further tiles, beside which nothing may lie yet."""
        new = [one for one in dict.fromkeys(tiles) if one not in self.tiles]
        pad = ((0, len(new)), (0, len(new)))
        east, south = (np.pad(rows, pad) for rows in self._signs())
        return replace(self, tiles=(*self.tiles, *new))._of(east, south)

    def without(self, number: int) -> "PairSet":
        """The set without one of its tiles."""
        east, south = (np.delete(np.delete(rows, number, 0), number, 1) for rows in self._signs())
        return replace(self, tiles=self.tiles[:number] + self.tiles[number + 1 :])._of(east, south)

    def with_pairs(self, east: NDArray[np.bool_], south: NDArray[np.bool_], *, also: bool = False) -> "PairSet":
        """The set with other pairs, or with these as well.

        Parameters
        ----------
        east, south : (K, K) bool
        """
        old = self._signs()
        return self._of(east | old[0], south | old[1]) if also else self._of(east, south)

    def with_tiles(self, exchanged: Callable[[TileRef], TileRef]) -> "PairSet":
        """The set with its tiles exchanged; of two that become one both may lie beside what either could."""
        tiles = [one if one.tile is None else replace(one, tile=exchanged(one.tile)) for one in self.tiles]
        names = {one: place for place, one in enumerate(dict.fromkeys(tiles))}
        into = np.zeros((len(names), len(tiles)), dtype=np.int64)
        into[[names[one] for one in tiles], np.arange(len(tiles))] = 1
        east, south = (into @ rows.astype(np.int64) @ into.T > 0 for rows in self._signs())
        return replace(self, tiles=tuple(names))._of(east, south)

    def _signs(self) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        allowed = self.allowed
        return allowed[1].copy(), allowed[2].copy()

    def _of(self, east: NDArray[np.bool_], south: NDArray[np.bool_]) -> "PairSet":
        rows = [tuple("".join("x" if one else "-" for one in row) for row in signs.tolist()) for signs in (east, south)]
        return replace(self, east=rows[0], south=rows[1])
