"""Stitches that lay onto a layer, or look at one, that a ground does not have; layers that look at one another."""

from collections.abc import Iterator

from knitground.core.check.check import DefinitionCheck, Facts, Finding
from knitground.core.ground.following import problem_following
from knitground.core.ground.ground import Ground
from knitground.core.layers.layer import Layer
from knitground.core.stitches.rules import StitchSet


def _find(facts: Facts, ground: Ground) -> Iterator[Finding]:
    sets = {one.id: one for one in facts.stitch_sets}
    tables = {layer.id: facts.ready(sets[layer.set_id]) for layer in _stitched(ground) if layer.set_id in sets}
    problem = problem_following(ground.layers, tables)
    if problem:
        yield Finding("circle", "ground", f"{ground.name}: {problem}", ground.id)
    shown = {
        (follows.layer, layer.shown_part)
        for layer in ground.layers
        for follows in layer.follows(ground.layers, tables.get(layer.id)).values()
    }
    for layer in _stitched(ground):
        stitch_set = sets.get(layer.set_id or "")
        if stitch_set is not None:
            yield from _lacking(ground, layer, stitch_set, shown, set(layer.follows(ground.layers, tables[layer.id])))


def _lacking(
    ground: Ground, layer: Layer, stitch_set: StitchSet, shown: set[tuple[str, str]], seen: set[str]
) -> Iterator[Finding]:
    onto = {piece.onto for piece in stitch_set.pieces if piece.onto}
    for part in stitch_set.parts:
        if part in onto and (layer.id, part) not in shown:
            yield Finding(
                "nowhere to lay", "ground",
                f"{ground.name}: no layer shows what {layer.name} lays as “{part}”", ground.id, layer.id,
                mend=f"Add the layer “{part}” with the plus at the ground's right edge.",
            )  # fmt: skip
    looked = {chart.of for stitch in stitch_set.stitches for chart in stitch.charts}
    for view in stitch_set.views:
        if view.name in looked and view.sees != "laid" and view.name not in seen:
            yield Finding(
                "nothing to see", "ground",
                f"{ground.name}: {layer.name} finds no layer to look at as “{view.name}”", ground.id, layer.id,
                mend="Choose it in the stage of stitches, or add such a layer.",
            )  # fmt: skip


def _stitched(ground: Ground) -> list[Layer]:
    return [layer for layer in ground.layers if layer.knits and layer.takes_terrains_of == "stitch_sets"]


CHECK = DefinitionCheck(
    "views",
    lambda facts: facts.grounds,
    lambda facts, ground: (ground, *facts.stitch_sets),
    lambda *of: tuple(_find(*of)),
)
