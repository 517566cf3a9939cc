"""Findings that can be mended at once, each as one step that can be undone."""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import NamedTuple

from knitground.core.check.check import Finding
from knitground.core.check.shapes import blocks_as, joined_shapes
from knitground.core.edits.notes import note, notes_of, reshape
from knitground.core.errors import BadRequest
from knitground.core.project.document import Document
from knitground.core.sheet.cut import tile_size
from knitground.core.tiles.faults import Size, levelled, snapped_to_borders, uneven, without_slivers
from knitground.core.tiles.notes import Collision, TileNotes
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
    cuts = document.project.cuts

    def changed(ref: TileRef, kind: str, before: Collision) -> Collision:
        cut = cuts.get((ref.sheet, ref.cut))
        if cut is None or kind != finding.shape_kind:
            return before
        return change(ref, before, tile_size(cut, ref.column, ref.row))

    count = reshape(document, map(TileRef.parse, finding.tiles), changed)
    if not count:
        raise BadRequest(_DONE)
    return count


def _snap(document: Document, finding: Finding) -> int:
    return _reshape(document, finding, lambda ref, shape, size: snapped_to_borders(shape, size))


def _thin_out(document: Document, finding: Finding) -> int:
    return _reshape(document, finding, lambda ref, shape, size: without_slivers(shape))


def _level(document: Document, finding: Finding) -> int:
    project = document.project
    sheet = next((one for one in project.sheets if one.id == finding.subject), None)
    heights = uneven(joined_shapes(project, sheet, finding.shape_kind)) if sheet is not None else {}
    return _reshape(document, finding, lambda ref, shape, size: levelled(shape, size, heights.get(ref, {})))


def _as_most(document: Document, finding: Finding) -> int:
    """Lets tiles block as most of those do that stand in for them."""
    sets = [one for one in document.project.join_sets if one.id == finding.subject]
    changes: dict[TileRef, TileNotes] = {}
    for join_set, ref in ((one, TileRef.parse(text)) for one in sets for text in finding.tiles):
        alike = [one for one, labels in join_set.labels.items() if labels == join_set.labels.get(ref)]
        votes = Counter(blocks_as(document.project.tiles, one) for one in alike)
        if len(votes) > 1:
            most = votes.most_common(1)[0][0]
            like = next(one for one in alike if blocks_as(document.project.tiles, one) == most)
            changes |= dict.fromkeys(alike, notes_of(document, like))
    if not changes:
        raise BadRequest(_DONE)
    note(
        document, "blocking of variants", changes,
        lambda ref, notes: replace(
            notes, collision=changes[ref].collision, shapes=changes[ref].shapes, walkable=changes[ref].walkable
        ),
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
