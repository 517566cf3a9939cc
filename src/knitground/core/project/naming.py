"""Which sets, mixes, swatches, things and animations name which tiles."""

from collections import defaultdict
from collections.abc import Collection

from knitground.core.project.model import Project
from knitground.core.tiles.tile import TileRef


def users(project: Project, refs: Collection[TileRef]) -> dict[str, int]:
    """How many of some tiles each set, mix or animation names, by what it is called."""
    wanted = set(refs)
    found: dict[str, int] = defaultdict(int)
    for join_set in project.join_sets:
        found[f"join set {join_set.name}"] += len(wanted & set(join_set.labels))
    for stitch_set in project.stitch_sets:
        found[f"stitches {stitch_set.name}"] += len(wanted & stitch_set.refs)
    for mix in project.mixes:
        found[f"mix {mix.name}"] += len(wanted & {part.tile for part in mix.parts if part.tile})
    for pair_set in project.pair_sets:
        found[f"pairs {pair_set.name}"] += len(wanted & {one.tile for one in pair_set.tiles if one.tile})
    for recipe in project.recipes:
        found[f"recipe {recipe.name}"] += len(wanted & recipe.tiles)
    for swatch in project.swatches:
        found[f"swatch {swatch.name}"] += len(wanted & set(swatch.tiles))
    for ground in project.grounds:
        for layer in ground.layers:
            found[f"things on {layer.name} of {ground.name}"] += len(wanted & set(layer.sprites))
    frames = {frame.tile for notes in project.tiles.values() for frame in notes.frames}
    found["animations"] += len(wanted & frames)
    return {name: count for name, count in found.items() if count}


def named_tiles(project: Project) -> set[TileRef]:
    """Tiles that a set, a mix or an animation names; none of these can hold an orientation."""
    named = {ref for join_set in project.join_sets for ref in join_set.labels}
    named |= {ref for stitch_set in project.stitch_sets for ref in stitch_set.refs}
    named |= {part.tile for mix in project.mixes for part in mix.parts if part.tile}
    named |= {one.tile for pair_set in project.pair_sets for one in pair_set.tiles if one.tile}
    named |= {ref for recipe in project.recipes for ref in recipe.tiles}
    named |= {ref for swatch in project.swatches for ref in swatch.tiles}
    named |= {ref for ground in project.grounds for layer in ground.layers for ref in layer.sprites}
    return named | {frame.tile for notes in project.tiles.values() for frame in notes.frames}
