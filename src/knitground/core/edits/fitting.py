"""Tiles that are of another size than the cells: noticing it, and the two ways to mend it."""

from dataclasses import replace

from knitground.core.edits.things import put
from knitground.core.ground.ground import Ground, by_id
from knitground.core.project.document import Document
from knitground.core.project.model import Project, replaced
from knitground.core.sheet.cut import tile_size
from knitground.core.tiles.tile import TileRef


def misfit(project: Project, ground: Ground, ref: TileRef) -> tuple[int, int] | None:
    """The size of a tile that is of another size than a ground's cells, if nothing says that this is meant."""
    cut = project.cuts.get((ref.sheet, ref.cut))
    if cut is None or cut.anchor is not None or cut.pieces:
        return None
    size = tile_size(cut, ref.column, ref.row)
    return None if size == (ground.tile_width, ground.tile_height) else size


def fit_cells(document: Document, ground_id: str, ref: TileRef) -> None:
    """Makes a ground's cells as large as a tile; things keep their cells."""
    project = document.project
    ground = by_id(project.grounds, ground_id)
    width, height = tile_size(project.cuts[ref.sheet, ref.cut], ref.column, ref.row)
    across, down = width / ground.tile_width, height / ground.tile_height
    layers = tuple(layer.stretched(across, down) for layer in ground.layers)
    put(document, "size of cells", "grounds", replace(ground, tile_width=width, tile_height=height, layers=layers))


def fit_tile(document: Document, ref: TileRef) -> None:
    """Lets the tiles of a cut stand on their cells with the middle of their lower border, whatever their size."""
    project = document.project
    sheet = by_id(project.sheets, ref.sheet)
    cuts = tuple(replace(cut, anchor="bottom") if cut.id == ref.cut else cut for cut in sheet.cuts)
    document.define(
        "let tiles stand on their cells",
        replace(project, sheets=replaced(project.sheets, replace(sheet, cuts=cuts))),
    )
