"""Finding tiles by what is said of them: tags, properties, the names of their sheets and images."""

from collections.abc import Mapping, Sequence

from knitground.core.project.model import Project
from knitground.core.sheet.slices import Slices
from knitground.core.tiles.notes import PLAIN, as_typed
from knitground.core.tiles.tile import TileRef


def find_tiles(
    project: Project, sliced: Mapping[tuple[str, str], Slices], text: str, most: int = 400
) -> tuple[TileRef, ...]:
    """The tiles of which some word begins with each of those that are asked for, sheet by sheet.

    Parameters
    ----------
    text : str
        Words with spaces between; upper and lower case count alike. Without any, no tile is found.
    most : int
        No more than so many.
    """
    wanted = text.casefold().split()
    found: list[TileRef] = []
    for sheet in project.sheets if wanted else ():
        for cut in sheet.cuts:
            slices = sliced.get((sheet.id, cut.id))
            for place in slices.cells() if slices else ():
                ref = TileRef(sheet.id, cut.id, *place)
                if _begins(wanted, _words(project, ref)):
                    found.append(ref)
                    if len(found) == most:
                        return tuple(found)
    return tuple(found)


def tags_of(project: Project) -> tuple[str, ...]:
    """All tags that tiles have, in the order of the alphabet."""
    return tuple(sorted({tag for notes in project.tiles.values() for tag in notes.tags}))


def _words(project: Project, ref: TileRef) -> list[str]:
    notes = project.tiles.get(ref, PLAIN)
    said = [ref.sheet, ref.cut, *notes.tags]
    said += [part for name, one in notes.properties.items() for part in (name, as_typed(one))]
    split = [part for word in said for part in word.replace("-", " ").replace("_", " ").split()]
    return [word.casefold() for word in (*said, *split)]


def _begins(wanted: Sequence[str], words: Sequence[str]) -> bool:
    return all(any(word.startswith(start) for word in words) for start in wanted)
