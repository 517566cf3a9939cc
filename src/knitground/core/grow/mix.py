"""Mixes: weighted groups of tiles that stand in for one another."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from graphlib import CycleError, TopologicalSorter
from typing import Annotated, Any

from pydantic import ConfigDict, Field, model_serializer, model_validator

from knitground.core.tiles.tile import TileRef
from knitground.core.written import only_what_is_said

MOST_DEEP = 8
"""How many mixes may lie in one another."""

Weight = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]


@dataclass(frozen=True)
class MixPart:
    """A tile of a mix, how often it comes, relative to the others, and how it is turned; no tile leaves a cell bare.

    Instead of a tile there may be another `mix`, or a `swatch` of the tray: a block, or a turned tile.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    tile: TileRef | None
    weight: Weight = 1.0
    orientation: Annotated[int, Field(ge=0, le=7)] = 0
    mix: Annotated[str, Field(max_length=80)] = ""
    swatch: Annotated[str, Field(max_length=80)] = ""

    @model_validator(mode="after")
    def _one_thing(self) -> "MixPart":
        if (self.tile is not None) + bool(self.mix) + bool(self.swatch) > 1:
            raise ValueError("a part of a mix is a tile, a mix or a swatch")
        return self

    @property
    def bare(self) -> bool:
        """Whether it leaves its cell bare."""
        return self.tile is None and not self.mix and not self.swatch

    def same(self, other: "MixPart") -> bool:
        """Whether another part lays the same."""
        return (self.tile, self.mix, self.swatch) == (other.tile, other.mix, other.swatch)

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


def leaves(mix: Mix, mixes: Sequence[Mix]) -> list[tuple[MixPart, float]]:
    """The tiles, bare cells and swatches of a mix and of the mixes in it, each with its share of the whole weight.

    A mix that is not there, that is in itself, or that lies too deep counts for nothing.
    """
    known = {one.id: one for one in mixes}
    inside: dict[str, list[tuple[MixPart, float]]] = {}

    def within(one: Mix, above: tuple[str, ...]) -> list[tuple[MixPart, float]]:
        found: list[tuple[MixPart, float]] = []
        for part in one.parts:
            if not part.mix:
                found.append((part, part.weight))
            elif part.mix in known and part.mix not in above and len(above) < MOST_DEEP:
                if part.mix not in inside:
                    inside[part.mix] = _gathered(within(known[part.mix], (*above, part.mix)))
                found += [(leaf, share * part.weight) for leaf, share in inside[part.mix]]
        return found

    return within(mix, (mix.id,))


def _gathered(parts: Sequence[tuple[MixPart, float]]) -> list[tuple[MixPart, float]]:
    """Each part once, with its share of one."""
    total = sum(weight for _, weight in parts)
    shares: dict[MixPart, float] = {}
    for part, weight in parts:
        plain = replace(part, weight=1.0)
        shares[plain] = shares.get(plain, 0.0) + (weight / total if total > 0 else 0.0)
    return list(shares.items())


def problem_of_mixes(mixes: Sequence[Mix]) -> str:
    """Why some mixes can't be as they are, as the end of a sentence; nothing if all is well."""
    known = {one.id: one for one in mixes}
    depth: dict[str, int] = {}
    graph = {one.id: [part.mix for part in one.parts if part.mix] for one in mixes}
    for named in graph.values():
        for inner in named:
            if inner not in known:
                return f"a mix names the mix “{inner}”, which is not there"
    try:
        for mix_id in TopologicalSorter(graph).static_order():
            depth[mix_id] = 1 + max((depth[inner] for inner in graph[mix_id]), default=0)
    except CycleError:
        return "a mix is in itself"
    return "mixes lie too deep in one another" if max(depth.values(), default=0) > MOST_DEEP else ""


def holds(mix_id: str, inner: str, mixes: Sequence[Mix]) -> bool:
    """Whether a mix is another one, or has it in it."""
    known = {one.id: one for one in mixes}
    waiting, seen = [mix_id], set[str]()
    while waiting:
        one = waiting.pop()
        if one == inner:
            return True
        if one not in seen and one in known:
            seen.add(one)
            waiting += [part.mix for part in known[one].parts if part.mix]
    return False


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
    return f"{often}, some {round(share * cells):,} on this ground" if cells else often
