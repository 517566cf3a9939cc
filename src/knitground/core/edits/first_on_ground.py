"""What can be laid first on a new ground."""

from knitground.core.edits.fitting import misfit
from knitground.core.edits.numbered import floors_among, numbered_runs
from knitground.core.ground.ground import Ground
from knitground.core.grow.mix import leaves
from knitground.core.project.document import Document
from knitground.core.project.model import Project

_MOST = 3


def told_of_new_ground(document: Document, ground: Ground, stage: str, sheet_id: str) -> tuple[str, bool]:
    """What is said of a ground that was just made.

    Parameters
    ----------
    document : Document
    ground : Ground
    stage : str
        Where it was made.
    sheet_id : str
        The sheet at hand; empty if there is none.

    Returns
    -------
    sentence : str
        The mixes that can fill it, and where it is painted if that is not here; empty if there is nothing to say.
    mixes : bool
        Whether the sentence speaks of images that are to be mixed first.
    """
    project, here = document.project, stage == "ground"
    fitting = [one.name for one in project.mixes if _fills(project, ground, one.id)]
    if not fitting and sheet_id and floors_among(document, sheet_id, numbered_runs(document, sheet_id).values()):
        return "A new ground: images that are numbered may be mixed to fill it.", True
    if not fitting:
        return "" if here else "A new ground: it is painted in the Ground stage.", False
    names = [f"“{name}”" for name in fitting[:_MOST]]
    said = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"
    return f"A new ground: fill it with {said}, or paint it{'' if here else ' in the Ground stage'}.", False


def _fills(project: Project, ground: Ground, mix_id: str) -> bool:
    """Whether a mix holds tiles, leaves no cell bare, and each of its tiles is as large as a cell of a ground."""
    mix = next(one for one in project.mixes if one.id == mix_id)
    tiles = [part.tile for part, _ in leaves(mix, project.mixes)]
    return bool(tiles) and all(
        tile is not None
        and (cut := project.cuts.get((tile.sheet, tile.cut))) is not None
        and cut.outline == ground.outline
        and misfit(project, ground, tile) is None
        for tile in tiles
    )
