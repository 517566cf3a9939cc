"""Sets of a project that share a terrain, of whichever sheets, as one."""

from contextlib import suppress

from knitground.core.edits.finding import Proposed
from knitground.core.edits.grounds import is_laid
from knitground.core.edits.joining import Known, as_one, cut_of, most_met, shared_by, with_first
from knitground.core.edits.removing import remove_join_set
from knitground.core.edits.things import put
from knitground.core.errors import BadRequest
from knitground.core.ground.ground import by_id
from knitground.core.joins.sets import JoinSet
from knitground.core.joins.shared import looks_of
from knitground.core.project.derived import Derived
from knitground.core.project.model import Project
from knitground.core.sheet.isometric import on_foot


def sharing(derived: Derived, set_id: str) -> tuple[Known, list[JoinSet]]:
    """A set with all that lies on what it lies on, and the sets that this would be taken of.

    Parameters
    ----------
    derived : Derived
    set_id : str
        Of the set that keeps its numbers.
    """
    project = derived.document.project
    mine = by_id(project.join_sets, set_id)
    others = [one for one in project.join_sets if one is not mine and _known(one, derived)]
    joined, of = _look(mine, derived), list[JoinSet]()
    found = bool(_known(mine, derived))
    while found:
        found = False
        for other in others:
            look = _look(other, derived)
            same = shared_by(joined, look, project.cuts) if other not in of else {}
            if same:
                joined, found = as_one(joined, look, same), True
                of.append(other)
    return joined, of


def join_sharing(derived: Derived, set_id: str) -> list[str]:
    """Takes the tiles of all sets that share a terrain into one, as one step; returns the names of these.

    Of those only such stay sets of their own as something is knit from, or looks at. Where nothing is of the one, what
    it shares comes first.
    """
    document = derived.document
    (joined, _), of = sharing(derived, set_id)
    if not of:
        return []
    made = joined.join_set
    if not is_laid(document.project, set_id, "join_sets") and not _is_looked_at(document.project, set_id):
        made = with_first(made, most_met(made))
    with document.step(f"join {len(of) + 1} sets"):
        put(document, "join sets", "join_sets", made)
        for one in of:
            with suppress(BadRequest):  # a layer is knit from it, or stitches look at it
                remove_join_set(document, one.id)
    return [one.name for one in of]


def _is_looked_at(project: Project, set_id: str) -> bool:
    """Whether stitches look at what is painted by a set."""
    return any(view.sees == "painted" and view.of == set_id for one in project.stitch_sets for view in one.views)


def _known(join_set: JoinSet, derived: Derived) -> bool:
    """Whether a set has tiles on a sheet that is there."""
    return bool(join_set.labels) and cut_of(join_set) in derived.document.project.cuts


def _look(join_set: JoinSet, derived: Derived) -> Known:
    """A set with what its terrains look like on their sheet."""
    if not _known(join_set, derived):
        return Proposed(join_set, 1.0, 1.0), {}
    cut = derived.document.project.cuts[cut_of(join_set)]
    tiles = {}
    for ref, row in join_set.labels.items():
        pixels = derived.tile(ref) if len(set(row)) == 1 and (ref.sheet, ref.cut) == cut_of(join_set) else None
        if pixels is not None:
            tiles[ref] = on_foot(pixels, cut)
    return Proposed(join_set, 1.0, 1.0), looks_of(join_set, tiles, cut.shape)
