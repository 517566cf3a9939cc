"""Collision shapes that are nearly right: gaps and steps between neighbours, slivers; variants that block otherwise."""

from collections.abc import Iterator, Mapping
from itertools import combinations_with_replacement
from typing import Any, Protocol

from knitground.core.check.check import DefinitionCheck, Facts, Finding, many
from knitground.core.joins.sets import JoinSet
from knitground.core.sheet.cut import tile_size
from knitground.core.sheet.picture import Sheet
from knitground.core.stitches.rules import StitchSet
from knitground.core.tiles.faults import NEAR, Size, gap_between, reaches, sticks_out, uneven, without_slivers
from knitground.core.tiles.notes import PLAIN, Collision, TileNotes
from knitground.core.tiles.shape_kinds import FEET, ShapeKind
from knitground.core.tiles.tile import TileRef

_SNAP = "The command “Snap shapes to the borders of their tiles…” shows what it would mend."
_MEND = {
    "gap between shapes": _SNAP,
    "shape sticks out": _SNAP,
    "step between shapes": "Bring both to one height.",
    "sliver": "Trace it anew, or take it out.",
}
_MOST = 400
"""Of sheets with more shapes than this not every pair is compared."""

Shapes = dict[TileRef, tuple[Collision, Size]]


class Shaped(Protocol):
    """Who knows of tiles and sets: a project, or what checks may ask."""

    @property
    def tiles(self) -> Mapping[TileRef, TileNotes]: ...

    @property
    def join_sets(self) -> tuple[JoinSet, ...]: ...

    @property
    def stitch_sets(self) -> tuple[StitchSet, ...]: ...


def joined_shapes(facts: Shaped, sheet: Sheet, kind: str = FEET) -> Shapes:
    """The shapes of a kind of a sheet's tiles that are known to lie side by side, for they belong to a set."""
    named = {ref for one in facts.join_sets for ref in one.labels} | {r for one in facts.stitch_sets for r in one.refs}
    return {ref: one for ref, one in _shapes(facts, sheet, kind).items() if ref in named}


def _shapes(facts: Shaped, sheet: Sheet, kind: str) -> Shapes:
    cuts = {cut.id: cut for cut in sheet.cuts}
    return {
        ref: (shape, tile_size(cuts[ref.cut], ref.column, ref.row))
        for ref, notes in facts.tiles.items()
        if ref.sheet == sheet.id and ref.cut in cuts and (shape := notes.shape(kind)) != "none"
    }


def _find(facts: Facts, sheet: Sheet) -> Iterator[Finding]:
    for kind in facts.shape_kinds:
        yield from _find_of(facts, sheet, kind)


def _find_of(facts: Facts, sheet: Sheet, of: ShapeKind) -> Iterator[Finding]:
    """Findings about the shapes of one kind."""
    shapes = _shapes(facts, sheet, of.id)
    joined = joined_shapes(facts, sheet, of.id)
    named = "" if of.id == FEET else f" ({of.name.lower()})"
    for kind, sentence, wrong in (
        ("gap between shapes", "{count} a gap of up to {near:g} px to what lies beside", _gaps(joined)),
        ("step between shapes", "{count} up to {near:g} px higher or lower than what lies beside", set(uneven(joined))),
        ("shape sticks out", "{count} beyond the tile by less than {near:g} px",
         {ref for ref, one in shapes.items() if sticks_out(*one)}),
        ("sliver", "{count} too thin or small to be meant",
         {ref for ref, one in shapes.items() if without_slivers(one[0]) != one[0]}),
    ):  # fmt: skip
        if wrong:
            verb = {"gap between shapes": ("leaves", "leave"), "step between shapes": ("is", "are"),
                    "shape sticks out": ("sticks out", "stick out"), "sliver": ("is", "are")}[kind]  # fmt: skip
            count = f"{many(len(wrong), 'shape', 'shapes')} {verb[len(wrong) > 1]}"
            says = f"{sheet.id}: {sentence.format(count=count, near=NEAR)}{named}"
            yield Finding(
                kind, "sheet", says, sheet.id, count=len(wrong), tiles=tuple(map(str, sorted(wrong))),
                mend=_MEND[kind], shape_kind=of.id,
            )  # fmt: skip


def _gaps(shapes: Shapes) -> set[TileRef]:
    """Tiles whose shapes end just before a border at which another one's goes on."""
    near = {ref: list(reaches(*one)) for ref, one in list(shapes.items())[:_MOST]}
    wrong = set()
    for one, other in combinations_with_replacement(near, 2):
        if any(gap_between(a, b) > 0 for a in near[one] for b in near[other]):
            wrong |= {ref for ref in (one, other) if any(reached.away > 0 for reached in near[ref])}
    return wrong


def _depends(facts: Facts, sheet: Sheet) -> tuple[Any, ...]:
    return sheet, facts.tiles, facts.join_sets, facts.stitch_sets, facts.shape_kinds


CHECK = DefinitionCheck("shapes", lambda facts: facts.sheets, _depends, lambda *of: tuple(_find(*of)))


def _find_variants(facts: Facts, join_set: JoinSet) -> Iterator[Finding]:
    """Tiles that stand in for one another, and of which some block and some do not."""
    by_labels: dict[tuple[int, ...], list[TileRef]] = {}
    for ref, labels in join_set.labels.items():
        by_labels.setdefault(tuple(labels), []).append(ref)
    differ = [refs for refs in by_labels.values() if len({blocks_as(facts.tiles, ref) for ref in refs}) > 1]
    if differ:
        alike = {ref: blocks_as(facts.tiles, ref) for refs in differ for ref in refs}
        few = [min(refs, key=lambda ref: sum(alike[ref] == alike[one] for one in refs)) for refs in differ]
        says = f"{join_set.name}: of {many(len(differ), 'tile', 'tiles')} the variants block differently"
        yield Finding(
            "variants block differently", "joins", says, join_set.id, count=len(differ),
            tiles=tuple(map(str, few)), mend="Copy the collision shape of one to the others, or say why not by a tag.",
        )  # fmt: skip


def blocks_as(tiles: Mapping[TileRef, TileNotes], ref: TileRef) -> tuple[Any, ...]:
    """What a tile blocks, to be compared with what others do."""
    notes = tiles.get(ref, PLAIN)
    return notes.walkable, *notes.all_shapes().items()


VARIANTS = DefinitionCheck(
    "variants", lambda facts: facts.join_sets, lambda facts, one: (one, facts.tiles),
    lambda *of: tuple(_find_variants(*of)),
)  # fmt: skip
