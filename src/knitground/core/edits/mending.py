"""Findings that can be mended at once, each as one step that can be undone."""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import NamedTuple

from knitground.core.check.check import Finding
from knitground.core.check.feet import FLOOR
from knitground.core.check.frames import LAID_APART, frames_laid
from knitground.core.check.look_alikes import FORGOTTEN, STRAY, odd_ones
from knitground.core.check.shapes import blocks_as, joined_shapes
from knitground.core.check.upright import TILES
from knitground.core.edits.layers import lay_below
from knitground.core.edits.notes import note, notes_of, reshape
from knitground.core.edits.relaying import part_layer
from knitground.core.edits.sets import label_tiles
from knitground.core.errors import BadRequest
from knitground.core.joins.sets import PLACES
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
        Does it to the document, where the finding tells; gives how many changed.
    what : (str, str)
        What changes, one and several of them.
    """

    title: str
    act: Callable[[Document, Finding], int]
    what: tuple[str, str] = ("tile", "tiles")


def mend_of(finding: Finding) -> Mend | None:
    """How a finding can be mended at once; most can't."""
    return MENDS.get(finding.kind)


def mend(document: Document, finding: Finding) -> int:
    """Mends a finding, as one step; how many tiles, or what else it is, changed.

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


def _as_look_alikes(document: Document, finding: Finding) -> int:
    """Lets tiles block as those do that look most like them; shapes only go to tiles of the same size."""
    project = document.project
    sheet = next((one for one in project.sheets if one.id == finding.subject), None)
    if sheet is None:
        raise BadRequest(_DONE)
    odd = odd_ones(sheet, document.state.pictures[sheet.id].cleared(sheet), project.tiles, project.blocks)
    like = {ref: odd[ref] for ref in map(TileRef.parse, finding.tiles) if ref in odd}
    sizes = {ref: tile_size(project.cuts[ref.sheet, ref.cut], ref.column, ref.row) for ref in {*like, *like.values()}}
    like = {ref: other for ref, other in like.items() if sizes[ref] == sizes[other]}
    if not like:
        raise BadRequest(_DONE)

    if finding.kind == STRAY and any(project.blocks.hold(notes_of(document, ref)) for ref in like):
        raise BadRequest("A tag or a property lets them block; take that off, or change what blocks.")

    def changed(ref: TileRef, notes: TileNotes) -> TileNotes:
        other = notes_of(document, like[ref])
        # What blocks by a tag does so as a whole.
        by_rule = other.collision == "none" and project.blocks.hold(other)
        return replace(notes, collision="whole" if by_rule else other.collision, walkable=other.walkable)

    note(document, "blocking as look-alikes", like, changed)
    return len(like)


def _lay_below(document: Document, finding: Finding) -> int:
    """Lets a floor be drawn as a whole, below what stands on it."""
    ground = next((one for one in document.project.grounds if one.id == finding.subject), None)
    if ground is None or not any(one.id == finding.layer and one.stands_in_depth for one in ground.layers):
        raise BadRequest(_DONE)
    lay_below(document, ground.id, str(finding.layer))
    return 1


def _stand_apart(document: Document, finding: Finding) -> int:
    """Puts what stands upright on a floor on a layer that hides what is behind it."""
    ground = next((one for one in document.project.grounds if one.id == finding.subject), None)
    layer = next((one for one in ground.layers if one.id == finding.layer), None) if ground is not None else None
    if ground is None or layer is None or layer.stands_in_depth:
        raise BadRequest(_DONE)
    part_layer(document, ground.id, layer.id, [TileRef.parse(name) for name in finding.tiles])
    return 1


def _frames_only(document: Document, finding: Finding) -> int:
    """Takes frames out of a set whose tiles play them."""
    join_set = next((one for one in document.project.join_sets if one.id == finding.subject), None)
    found = frames_laid(join_set, document.project.tiles) if join_set is not None else []
    if join_set is None or not found:
        raise BadRequest(_DONE)
    nothing = (0,) * len(PLACES[join_set.kind])
    label_tiles(document, join_set.id, dict.fromkeys(found, nothing), "take frames out")
    return len(found)


_TO_BORDERS = Mend("Snap these shapes to the borders of their tiles", _snap)
MENDS: Mapping[str, Mend] = MappingProxyType({
    "gap between shapes": _TO_BORDERS,
    "shape sticks out": _TO_BORDERS,
    "step between shapes": Mend("Level these shapes with most of their neighbours", _level),
    "sliver": Mend("Take these slivers out", _thin_out),
    FORGOTTEN: Mend("Let them block as those do that look like them", _as_look_alikes),
    STRAY: Mend("Let them not block, as those that look like them", _as_look_alikes),
    FLOOR: Mend("Draw this layer as a whole, below what stands", _lay_below, ("layer", "layers")),
    TILES: Mend("Put what stands there on a layer of its own", _stand_apart, ("layer", "layers")),
    LAID_APART: Mend("Show these as frames only", _frames_only),
    "variants block differently": Mend("Let them block as most of their variants do", _as_most),
})  # fmt: skip
