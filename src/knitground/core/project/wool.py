"""What stitch sets are made ready from: the tiles and mixes of a project."""

from collections.abc import Sequence

from knitground.core.grow.thrown import singles_of
from knitground.core.project.document import Document
from knitground.core.stitches.rules import TileSign, View
from knitground.core.tiles.notes import PLAIN, TileNotes
from knitground.core.tiles.tile import TileRef


class ProjectWool:
    """The tiles and mixes of a document, as `knitground.core.stitches.compiled` asks for them."""

    def __init__(self, document: Document) -> None:
        self._document = document

    def code(self, ref: TileRef | None, orientation: int = 0) -> int:
        """The cell code of a tile."""
        return self._document.palette.code(ref, orientation)

    def parts_of(self, mix_id: str) -> Sequence[tuple[TileRef | None, int, float]]:
        """The tiles of a mix, how they are turned, and their weights; none where there is no such mix.

        Blocks in it are left out: a stitch lays blocks as pieces of their own.
        """
        project = self._document.project
        found = next((mix for mix in project.mixes if mix.id == mix_id), None)
        return singles_of(found, project) if found else []

    def signed(self, view: View) -> dict[int, frozenset[int]]:
        """The numbers of a view's signs that a tile bears, by its palette number; those that bear none are left out."""
        notes = self._document.project.tiles
        known = {*notes, *(ref for sign in view.signs for ref in sign.tiles)} if view.signs else set()
        found: dict[int, frozenset[int]] = {}
        for ref in known:
            note = notes.get(ref, PLAIN)
            borne = frozenset(number for number, sign in enumerate(view.signs, start=1) if bears(ref, note, sign))
            if borne:
                found[self._document.palette.number(ref)] = borne
        return found


def bears(ref: TileRef, notes: TileNotes, sign: TileSign) -> bool:
    """Whether a tile is one of those that a sign names."""
    return (
        ref in sign.tiles
        or any(tag in notes.tags for tag in sign.tags)
        or any(notes.properties.get(name) == value for name, value in sign.properties.items())
    )
