"""What the shape of a stitch set alone cannot say: that its names resolve and its numbers fit."""

from collections import Counter
from collections.abc import Iterator

from knitground.core.project.model import Project
from knitground.core.stitches.compiled import MOST_NAMED
from knitground.core.stitches.rules import StitchSet, View


def problem_of_stitches(stitch_set: StitchSet, project: Project) -> str:
    """What is impossible about a stitch set, as a sentence without its end; nothing if all is well."""
    return next(_problems(stitch_set, project), "")


def seen_names(view: View, project: Project) -> tuple[str, ...]:
    """What the numbers of a view stand for, from 1; nothing where its set is not there."""
    if view.sees != "painted":
        return tuple(sign.name for sign in view.signs)
    terrains = {one.id: one.terrains for one in project.join_sets} | {one.id: one.marks for one in project.stitch_sets}
    return tuple(terrain.name for terrain in terrains.get(view.of, ()))


def _problems(stitch_set: StitchSet, project: Project) -> Iterator[str]:
    stitches = stitch_set.stitches
    for what, names in (
        ("stitches with the id", [stitch.id for stitch in stitches]),
        ("views called", [view.name for view in stitch_set.views]),
        ("parts called", list(stitch_set.parts)),
    ):
        name, count = Counter(names).most_common(1)[0] if names else ("", 0)
        if count > 1:
            yield f"has {count} {what} “{name}”; let each be called otherwise"
    mixes = {mix.id for mix in project.mixes}
    kinds = {kind.id for kind in project.thing_kinds}
    for piece in stitch_set.pieces:
        if piece.onto and piece.onto not in stitch_set.parts:
            yield f"lays onto “{piece.onto}”, which is none of its parts"
        if piece.thing and piece.thing not in kinds:
            yield f"lays things of the kind “{piece.thing}”, which is not there"
        if piece.mix and piece.mix not in mixes:
            yield f"lays the mix “{piece.mix}”, which is not there"
    for piece in stitch_set.otherwise.values():
        if piece.rows or piece.onto or piece.down or piece.across:
            yield "lays a block otherwise, where only a tile or a mix of the layer itself can be"
    for view in stitch_set.views:
        if view.sees == "laid" and view.of and view.of not in stitch_set.parts:
            yield f"looks at what is laid on “{view.of}”, which is none of its parts"
        known = {one.id for one in project.join_sets} | {one.id for one in project.stitch_sets}
        if view.sees == "painted" and view.of not in known:
            yield f"looks at what is painted by the set “{view.of}”, which is not there"
    if max(stitch_set.otherwise, default=0) > len(stitch_set.marks):
        yield "lays something otherwise for a mark that is not there"
    yield from _chart_problems(stitch_set, project)


def _chart_problems(stitch_set: StitchSet, project: Project) -> Iterator[str]:
    most = {"": len(stitch_set.marks)}
    most |= {view.name: len(seen_names(view, project)) for view in stitch_set.views}
    named: dict[str, set[int]] = {name: set() for name in most}
    for number, stitch in enumerate(stitch_set.stitches, start=1):
        for chart in stitch.charts:
            if chart.of not in most:
                yield f"looks at “{chart.of}” in stitch {number}, which is none of its views"
                continue
            named[chart.of] |= chart.numbers
            if max(chart.numbers, default=0) > most[chart.of]:
                yield f"names in stitch {number} something that “{chart.of or 'the plan'}” has not"
    for view in stitch_set.views:
        if view.sees == "painted" and len(named[view.name]) > MOST_NAMED:
            yield (
                f"names {len(named[view.name])} terrains of “{view.name}” in its charts, and {MOST_NAMED} are the most"
            )
