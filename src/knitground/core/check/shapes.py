"""Collision shapes that are nearly right: gaps and steps between neighbours, slivers; variants that block otherwise."""

from collections.abc import Iterator, Mapping
from itertools import combinations_with_replacement
from typing import Any

from knitground.core.check.check import DefinitionCheck, Facts, Finding, many
from knitground.core.joins.sets import JoinSet
from knitground.core.sheet.cut import tile_size
from knitground.core.sheet.picture import Sheet
from knitground.core.tiles.faults import NEAR, Size, gap_between, reaches, slivers, sticks_out, tops
from knitground.core.tiles.notes import PLAIN, Collision
from knitground.core.tiles.tile import TileRef

_SNAP = "The command “Snap shapes to the borders of their tiles…” shows what it would mend."
_MOST = 400
"""Of sheets with more shapes than this not every pair is compared."""

Shapes = dict[TileRef, tuple[Collision, Size]]


def _shapes(facts: Facts, sheet: Sheet) -> Shapes:
    cuts = {cut.id: cut for cut in sheet.cuts}
    return {
        ref: (notes.collision, tile_size(cuts[ref.cut], ref.column, ref.row))
        for ref, notes in facts.tiles.items()
        if ref.sheet == sheet.id and ref.cut in cuts and notes.collision != "none"
    }


def _find(facts: Facts, sheet: Sheet) -> Iterator[Finding]:
    shapes = _shapes(facts, sheet)
    # Only of tiles that belong to a set it is known that they lie side by side.
    named = {ref for one in facts.join_sets for ref in one.labels} | {r for one in facts.stitch_sets for r in one.refs}
    joined = {ref: one for ref, one in shapes.items() if ref in named}
    for kind, sentence, wrong in (
        ("gap between shapes", "{count} a gap of up to {near:g} px to what lies beside", _gaps(joined)),
        ("step between shapes", "{count} up to {near:g} px higher or lower than what lies beside", _steps(joined)),
        ("shape sticks out", "{count} beyond the tile by less than {near:g} px",
         {ref for ref, one in shapes.items() if sticks_out(*one)}),
        ("sliver", "{count} too thin or small to be meant", {ref for ref, one in shapes.items() if slivers(one[0])}),
    ):  # fmt: skip
        if wrong:
            verb = {"gap between shapes": ("leaves", "leave"), "step between shapes": ("is", "are"),
                    "shape sticks out": ("sticks out", "stick out"), "sliver": ("is", "are")}[kind]  # fmt: skip
            count = f"{many(len(wrong), 'shape', 'shapes')} {verb[len(wrong) > 1]}"
            says = f"{sheet.id}: {sentence.format(count=count, near=NEAR)}"
            mend = _SNAP if kind != "sliver" else "Trace it anew, or take it out."
            yield Finding(
                kind, "sheet", says, sheet.id, count=len(wrong), tiles=tuple(map(str, sorted(wrong))), mend=mend
            )


def _gaps(shapes: Shapes) -> set[TileRef]:
    """Tiles whose shapes end just before a border at which another one's goes on."""
    near = {ref: list(reaches(*one)) for ref, one in list(shapes.items())[:_MOST]}
    wrong = set()
    for one, other in combinations_with_replacement(near, 2):
        if any(gap_between(a, b) > 0 for a in near[one] for b in near[other]):
            wrong |= {ref for ref in (one, other) if any(reached.away > 0 for reached in near[ref])}
    return wrong


def _steps(shapes: Shapes) -> set[TileRef]:
    """Tiles whose ground is a little higher or lower at a border than that of another one, which most share."""
    heights: dict[tuple[str, float], set[TileRef]] = {}
    for ref, one in shapes.items():
        for side, top in tops(*one).items():
            heights.setdefault((side, top), set()).add(ref)
    wrong: set[TileRef] = set()
    for (_, top), refs in heights.items():
        for (_, other), more in heights.items():
            if 0 < abs(top - other) <= NEAR and len(refs) <= len(more):
                wrong |= refs
    return wrong


def _depends(facts: Facts, sheet: Sheet) -> tuple[Any, ...]:
    return sheet, facts.tiles, facts.join_sets, facts.stitch_sets


CHECK = DefinitionCheck("shapes", lambda facts: facts.sheets, _depends, lambda *of: tuple(_find(*of)))


def _find_variants(facts: Facts, join_set: JoinSet) -> Iterator[Finding]:
    """Tiles that stand in for one another, and of which some block and some do not."""
    by_labels: dict[tuple[int, ...], list[TileRef]] = {}
    for ref, labels in join_set.labels.items():
        by_labels.setdefault(tuple(labels), []).append(ref)
    differ = [refs for refs in by_labels.values() if len({_blocks(facts.tiles, ref) for ref in refs}) > 1]
    if differ:
        few = [min(refs, key=lambda ref: sum(_blocks(facts.tiles, ref) == _blocks(facts.tiles, one) for one in refs))
               for refs in differ]  # fmt: skip
        says = f"{join_set.name}: of {many(len(differ), 'tile', 'tiles')} the variants block differently"
        yield Finding(
            "variants block differently", "joins", says, join_set.id, count=len(differ),
            tiles=tuple(map(str, few)), mend="Copy the collision shape of one to the others, or say why not by a tag.",
        )  # fmt: skip


def _blocks(tiles: Mapping[TileRef, Any], ref: TileRef) -> tuple[Collision, bool]:
    notes = tiles.get(ref, PLAIN)
    return notes.collision, notes.walkable


VARIANTS = DefinitionCheck(
    "variants", lambda facts: facts.join_sets, lambda facts, one: (one, facts.tiles),
    lambda *of: tuple(_find_variants(*of)),
)  # fmt: skip
