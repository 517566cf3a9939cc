"""Snapping collision shapes to the borders of their tiles, so that no hairline stays between neighbours."""

from knitground.core.edits.notes import reshape
from knitground.core.errors import BadRequest
from knitground.core.project.document import Document
from knitground.core.sheet.cut import tile_size
from knitground.core.tiles.faults import snapped_to_borders
from knitground.core.tiles.notes import Collision
from knitground.core.tiles.tile import TileRef

NONE_SNAPS = "All shapes of this sheet lie well on the borders of their tiles, or well inside."
Changes = dict[tuple[TileRef, str], tuple[Collision, Collision]]


def would_snap(document: Document, sheet_id: str) -> Changes:
    """The shapes of a sheet that snapping would change, by tile and kind: as they are, and as they would be."""
    found = {}
    for ref, notes in document.project.tiles.items():
        cut = document.project.cuts.get((ref.sheet, ref.cut))
        if ref.sheet == sheet_id and cut is not None:
            for kind, before in notes.all_shapes().items():
                after = snapped_to_borders(before, tile_size(cut, ref.column, ref.row))
                if after != before:
                    found[ref, kind] = before, after
    return found


def snap_shapes(document: Document, sheet_id: str) -> int:
    """Snaps them, as one step; returns how many shapes changed.

    Raises
    ------
    BadRequest
        If none would.
    """
    changes = would_snap(document, sheet_id)
    if not changes:
        raise BadRequest(NONE_SNAPS)
    reshape(
        document, {ref for ref, _ in changes},
        lambda ref, kind, shape: changes[ref, kind][1] if (ref, kind) in changes else shape,
    )  # fmt: skip
    return len(changes)
