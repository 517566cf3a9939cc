"""Mixes: weighted groups of tiles that stand in for one another."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import ConfigDict, Field

from knitground.core.chance import chance, choose
from knitground.core.errors import BadRecipe
from knitground.core.grid.rect import CellRect
from knitground.core.tiles.tile import TileRef

Weight = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]


@dataclass(frozen=True)
class MixPart:
    """A tile of a mix and how often it comes, relative to the others; no tile leaves the cell bare."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    tile: TileRef | None
    weight: Weight = 1.0


@dataclass(frozen=True)
class Mix:
    """Tiles to fill with by weighted chance."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    parts: tuple[MixPart, ...] = ()


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
