"""Which sets, mixes, swatches, things and animations name which tiles."""

from collections.abc import Collection, Iterator
from typing import NamedTuple

from knitground.core.project.model import Project
from knitground.core.tiles.tile import TileRef


class Naming(NamedTuple):
    """What names tiles: what it is called, which tiles, and whether it can lay a tile turned instead of another."""

    name: str
    refs: Collection[TileRef]
    turns: bool = False


def users(project: Project, refs: Collection[TileRef]) -> dict[str, int]:
    """How many of some tiles each set, mix or animation names, by what it is called."""
    wanted = set(refs)
    found: dict[str, int] = {}
    for one in _naming(project):
        if count := len(wanted.intersection(one.refs)):
            found[one.name] = found.get(one.name, 0) + count
    return found


def named_tiles(project: Project) -> set[TileRef]:
    """Tiles that a set, a mix or an animation names."""
    return {ref for one in _naming(project) for ref in one.refs}


def named_as_drawn(project: Project) -> dict[TileRef, str]:
    """Tiles that something names which can't hold an orientation, and what that is called."""
    return {ref: one.name for one in _naming(project) if not one.turns for ref in one.refs}


def _naming(project: Project) -> Iterator[Naming]:
    for join_set in project.join_sets:
        yield Naming(f"join set {join_set.name}", join_set.labels.keys(), turns=True)
    for stitch_set in project.stitch_sets:
        yield Naming(f"stitches {stitch_set.name}", stitch_set.refs)
    for mix in project.mixes:
        yield Naming(f"mix {mix.name}", {part.tile for part in mix.parts if part.tile}, turns=True)
    for pair_set in project.pair_sets:
        yield Naming(f"pairs {pair_set.name}", {one.tile for one in pair_set.tiles if one.tile})
    for recipe in project.recipes:
        yield Naming(f"recipe {recipe.name}", recipe.tiles)
    for swatch in project.swatches:
        yield Naming(f"swatch {swatch.name}", swatch.tiles)
    for ground in project.grounds:
        for layer in ground.layers:
            yield Naming(f"things on {layer.name} of {ground.name}", layer.sprites)
    yield Naming("animations", {frame.tile for notes in project.tiles.values() for frame in notes.frames})
