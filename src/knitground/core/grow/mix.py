"""Mixes: weighted groups of tiles that stand in for one another."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field, model_serializer

from knitground.core.chance import chance, choose
from knitground.core.errors import BadRecipe
from knitground.core.grid.rect import CellRect
from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

Weight = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]


@dataclass(frozen=True)
class MixPart:
    """A tile of a mix, how often it comes, relative to the others, and how it is turned; no tile leaves a cell bare."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    tile: TileRef | None
    weight: Weight = 1.0
    orientation: Annotated[int, Field(ge=0, le=7)] = 0

    @model_serializer(mode="wrap")
    def _written(self, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        return only_what_is_said(self, handler, always=("tile", "weight"))


@dataclass(frozen=True)
class Mix:
    """Tiles to fill with by weighted chance."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    parts: tuple[MixPart, ...] = ()


def coded(mix: Mix, code: Callable[[TileRef | None, int], int]) -> tuple[list[int], list[float]]:
    """The cell codes of the parts of a mix, given how a tile in an orientation is coded, and their weights."""
    turns = [part.orientation if part.tile is not None else 0 for part in mix.parts]
    codes = [code(part.tile, turn) for part, turn in zip(mix.parts, turns, strict=True)]
    return codes, [part.weight for part in mix.parts]


def share_told(mix: Mix, part: int, cells: int) -> str:
    """How often a part of a mix comes, in words: its share, and what that means on so many cells."""
    total = sum(one.weight for one in mix.parts)
    share = mix.parts[part].weight / total if total > 0 else 0.0
    if share <= 0:
        return "never"
    often = (
        "in every cell"
        if share == 1
        else f"about 1 in {1 / share:.0f} cells"
        if share <= 0.4
        else f"{share:.0%} of cells"
    )
    return f"{often}, some {round(share * cells)} on this ground" if cells else often


def weighed(mix: Mix, part: int, weight: float) -> Mix:
    """A mix with another weight for one of its parts."""
    parts = list(mix.parts)
    parts[part] = replace(parts[part], weight=weight)
    return replace(mix, parts=tuple(parts))


def throw_mix(codes: Sequence[int], weights: Sequence[float], seed: int, window: CellRect) -> NDArray[np.int32]:
    """A throw of a mix over a window.

    Parameters
    ----------
    codes : sequence of int
        The cell code of each part.
    weights : sequence of float
    seed : int
        The same seed throws the same, cell by cell, whatever the window.
    window : CellRect

    Returns
    -------
    codes : (height, width) int32

    Raises
    ------
    BadRecipe
        If no part can be chosen.
    """
    numbers = chance(seed, np.arange(window.top, window.bottom)[:, None], np.arange(window.left, window.right))
    try:
        return np.asarray(codes, dtype=np.int32)[choose(weights, numbers)]
    except ValueError:
        raise BadRecipe("The mix has no tile to lay; give at least one tile a weight above zero.") from None
