"""Which cells a new ground had best have, for the tiles at hand."""

from itertools import islice

from knitground.app.known import with_id
from knitground.app.session import Session
from knitground.core.grid import GRIDS, GridKind
from knitground.core.ground.ground import grid_of_tiles
from knitground.core.sheet.cut import OUTLINES, Cut
from knitground.core.sheet.isometric import usual_extent, usual_foot
from knitground.core.sheet.slices import Slices

_USUAL = (16, 16)
_LOOKED_AT = 64


def usual_grid(session: Session) -> GridKind:
    """The one that the tiles at hand are drawn for, or most images of the collection at hand."""
    at_hand, foot = _at_hand(session), usual_foot(_images(session))
    if at_hand is not None and at_hand.cut.shape != "square":
        return grid_of_tiles(at_hand.cut.shape)
    return grid_of_tiles(foot.shape) if foot is not None else "square"


def usual_cell(session: Session, grid: GridKind) -> tuple[int, int]:
    """The size of a cell: of the tiles at hand, or of the first grid that has some.

    Of tiles that are drawn for such cells it is their foot; on hexagons otherwise what most of the art takes, as tiles
    may have room above it.
    """
    at_hand, known, outline = _at_hand(session), session.derived.sliced().values(), GRIDS[grid].outline
    foot = usual_foot(_images(session))
    if foot is not None and OUTLINES[foot.shape] == outline:
        return foot.cell
    if at_hand is not None and at_hand.cut.outline == outline != "box":
        return at_hand.cut.footprint
    grids = [one for one in known if one.held.any() and not one.cut.pieces and one.cut.anchor is None]
    best = at_hand if at_hand is not None else grids[0] if grids else None
    if outline in ("pointed", "lying") and best is not None:
        extent = usual_extent(best.cell(*cell) for cell in islice(best.cells(), _LOOKED_AT))
        return extent or _USUAL
    if not grids:
        return _USUAL
    cut = (at_hand if at_hand in grids else grids[0]).cut
    return cut.tile_width, cut.tile_height


def _images(session: Session) -> tuple[Cut, ...]:
    """Those of the collection at hand."""
    sheet = with_id(session.document.project.sheets, session.choices.sheet_id)
    return sheet.cuts if sheet is not None and sheet.images else ()


def _at_hand(session: Session) -> Slices | None:
    """The tiles of the cut of which one is in hand; with none in hand those that are looked at, if not square."""
    tile, sliced = session.choices.tile, session.derived.sliced()
    if tile is not None:
        return sliced.get((tile.sheet, tile.cut))
    sheet = with_id(session.document.project.sheets, session.choices.sheet_id)
    if sheet is None or sheet.images or not sheet.cuts:
        return None
    cut = with_id(sheet.cuts, session.choices.cut_id) or sheet.cuts[0]
    return sliced.get((sheet.id, cut.id)) if cut.shape != "square" else None
