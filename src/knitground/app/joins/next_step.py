"""What a join set is, in a line, and what comes next for it."""

from knitground.app.allowed import NO_SHEET
from knitground.core.edits.grounds import is_laid
from knitground.core.edits.set_search import NO_HEXAGONS
from knitground.core.joins.sets import JoinSet
from knitground.core.project.model import Project
from knitground.core.sheet.picture import Sheet


def why_no_set(sheet: Sheet | None) -> str:
    """Why no set can be made of the tiles of a sheet; nothing if one may be."""
    return NO_HEXAGONS if sheet is not None and sheet.cuts and all(cut.is_hexagon for cut in sheet.cuts) else ""


def why_no_search(sheet: Sheet | None) -> str:
    """Why no sets can be found on a sheet; nothing if they may be."""
    return NO_SHEET if sheet is None else why_no_set(sheet)


def next_step(project: Project, join_set: JoinSet | None, chosen: int, sheet: Sheet | None) -> str:
    """What stands under the name of a set.

    Parameters
    ----------
    project : Project
    join_set : JoinSet, optional
    chosen : int
        How many cells of the sheet are chosen.
    sheet : Sheet, optional
        The one that is shown.
    """
    if join_set is None and sheet is not None and any(cut.is_hexagon for cut in sheet.cuts):
        return NO_HEXAGONS
    if join_set is None and sheet is None:
        return "Sets say which tiles of a sheet meet: add a sprite sheet first."
    if join_set is None:
        return "Say what meets what: make a set, then paint its terrains on the tiles' corners or edges."
    if not join_set.labels:
        where = {
            "corner": "corners", "edge": "edges", "full": "corners and edges",
            "cell": "middles (what they are), and over the edges and corners where that goes on,",
        }[join_set.kind]  # fmt: skip
        return (
            f"Drag over the tiles' {where} to label them; Shift labels a whole tile, Ctrl chooses cells, the right "
            "button takes off."
        )
    cells = f", {chosen} cells chosen" if chosen else ""
    unused = "" if is_laid(project, join_set.id, "join_sets") else ", on no ground yet: “Paint with it” takes it there"
    return f"{join_set.kind} joins of {len(join_set.labels)} tiles{cells}{unused}"
