"""What a tile is called in sentences."""

from collections.abc import Sequence

from knitground.core.sheet.picture import Sheet
from knitground.core.tiles.tile import TileRef


def called(sheets: Sequence[Sheet], ref: TileRef) -> str:
    """The name of a tile: that of its image where it has one of its own, else its sheet and place.

    Parameters
    ----------
    sheets : sequence of Sheet
        Those of the project.
    ref : TileRef
    """
    if any(sheet.id == ref.sheet and sheet.images for sheet in sheets):
        return ref.cut
    return f"{ref.sheet} {ref.column}, {ref.row}"
