"""Findings that can be mended at once, each as one step that can be undone."""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import NamedTuple

from knitground.core.check.check import Finding
from knitground.core.check.shapes import joined_shapes
from knitground.core.edits.notes import note, notes_of, set_collision
from knitground.core.errors import BadRequest
from knitground.core.project.document import Document
from knitground.core.sheet.cut import tile_size
from knitground.core.tiles.faults import Size, levelled, snapped_to_borders, uneven, without_slivers
from knitground.core.tiles.notes import Collision
from knitground.core.tiles.tile import TileRef

_DONE = "Nothing is left to mend there."


class Mend(NamedTuple):
    """A way to mend a kind of finding.

    Attributes
    ----------
    title : str
        What it does.
    act : callable
        Does it to the document, where the finding tells; gives how many tiles changed.
    """

    title: str
    act: Callable[[Document, Finding], int]


def mend_of(finding: Finding) -> Mend | None:
    """How a finding can be mended at once; most can't."""
    return MENDS.get(finding.kind)


def mend(document: Document, finding: Finding) -> int:
    """Mends a finding, as one step; how many tiles changed.

    Raises
    ------
    BadRequest
        If it can't be mended, or nothing is left of it.
    """
    way = mend_of(finding)
    if way is None:
        raise BadRequest(finding.mend or "This has to be mended by hand.")
    return way.act(document, finding)


def _reshape(document: Document, finding: Finding, change: Callable[[TileRef, Collision, Size], Collision]) -> int:
    """Gives the tiles of a finding other shapes, where that changes anything."""
    shapes = {}
    for ref in map(TileRef.parse, finding.tiles):
        cut, before = document.project.cuts.get((ref.sheet, ref.cut)), notes_of(document, ref).collision
        if cut is not None:
            after = change(ref, before, tile_size(cut, ref.column, ref.row))
            if after != before:
                shapes[ref] = after
    if not shapes:
        raise BadRequest(_DONE)
    set_collision(document, shapes)
    return len(shapes)


def _snap(document: Document, finding: Finding) -> int:
    return _reshape(document, finding, lambda ref, shape, size: snapped_to_borders(shape, size))


def _thin_out(document: Document, finding: Finding) -> int:
    return _reshape(document, finding, lambda ref, shape, size: without_slivers(shape))


def _level(document: Document, finding: Finding) -> int:
    project = document.project
    sheet = next((one for one in project.sheets if one.id == finding.subject), None)
    heights = uneven(joined_shapes(project, sheet)) if sheet is not None else {}
    return _reshape(document, finding, lambda ref, shape, size: levelled(shape, size, heights.get(ref, {})))


def _as_most(document: Document, finding: Finding) -> int:
    """Lets tiles block as most of those do that stand in for them."""
    sets = [one for one in document.project.join_sets if one.id == finding.subject]
    changes: dict[TileRef, tuple[Collision, bool]] = {}
    for join_set, ref in ((one, TileRef.parse(text)) for one in sets for text in finding.tiles):
        alike = [one for one, labels in join_set.labels.items() if labels == join_set.labels.get(ref)]
        votes = Counter((notes_of(document, one).collision, notes_of(document, one).walkable) for one in alike)
        if len(votes) > 1:
            changes |= dict.fromkeys(alike, votes.most_common(1)[0][0])
    if not changes:
        raise BadRequest(_DONE)
    note(
        document, "blocking of variants", changes,
        lambda ref, notes: replace(notes, collision=changes[ref][0], walkable=changes[ref][1]),
    )  # fmt: skip
    return len(changes)


_TO_BORDERS = Mend("Snap these shapes to the borders of their tiles", _snap)
MENDS: Mapping[str, Mend] = MappingProxyType({
    "gap between shapes": _TO_BORDERS,
    "shape sticks out": _TO_BORDERS,
    "step between shapes": Mend("Level these shapes with most of their neighbours", _level),
    "sliver": Mend("Take these slivers out", _thin_out),
    "variants block differently": Mend("Let them block as most of their variants do", _as_most),
})  # fmt: skip
