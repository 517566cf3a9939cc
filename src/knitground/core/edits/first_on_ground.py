"""What can be laid first on a new ground."""

from knitground.core.edits.fitting import misfit
from knitground.core.ground.ground import Ground
from knitground.core.grow.mix import leaves
from knitground.core.project.model import Project

_MOST = 3


def told_of_new_ground(project: Project, ground: Ground, stage: str) -> str:
    """What is said of a ground that was just made: the mixes that can fill it, and where it is painted if not here."""
    fitting = [one.name for one in project.mixes if _fills(project, ground, one.id)]
    here = stage == "ground"
    if not fitting:
        return "" if here else "A new ground: it is painted in the Ground stage."
    names = [f"“{name}”" for name in fitting[:_MOST]]
    said = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"
    return f"A new ground: fill it with {said}, or paint it{'' if here else ' in the Ground stage'}."


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
