"""The cell that tiles are shown to stand on: one of the ground, or the one that a first ground would have."""

from collections.abc import Iterable
from typing import NamedTuple

from knitground.app.ground.usual_cell import usual_cell, usual_grid
from knitground.app.session import Session
from knitground.core.grid import GRIDS, Outline
from knitground.core.sheet.cut import Cut, tile_size
from knitground.core.tiles.tile import TileRef
from knitground.core.walk.whole import whole_of


class Cell(NamedTuple):
    """A cell that tiles stand on: its width and height in pixels, and what part of its box it is."""

    width: int
    height: int
    outline: Outline


def cell_under(session: Session, cut: Cut | None) -> Cell:
    """The cell that the tiles of a cut are shown on; of what is drawn for cells of another shape that is its foot."""
    ground = session.ground
    if ground is not None:
        cell = Cell(ground.tile_width, ground.tile_height, ground.outline)
    else:
        grid = usual_grid(session)
        cell = Cell(*usual_cell(session, grid), GRIDS[grid].outline)
    if cut is not None and cut.shape != "square" and cell.outline != cut.outline:
        return Cell(*cut.footprint, cut.outline)
    return cell


def blocked_whole(session: Session, refs: Iterable[TileRef]) -> dict[TileRef, list[tuple[float, float]]]:
    """What of each tile blocks where all of it does: its corners in the pixels of the tile's picture."""
    found, known = {}, {}
    for ref in refs:
        cut = session.document.project.cuts.get((ref.sheet, ref.cut))
        if cut is not None:
            key = ref.sheet, ref.cut, tile_size(cut, ref.column, ref.row)
            if key not in known:
                width, height, outline = cell_under(session, cut)
                known[key] = whole_of(cut, key[2], (width, height), outline)
            found[ref] = known[key]
    return found
