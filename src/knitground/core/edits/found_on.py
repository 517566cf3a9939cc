"""What was found on sheets and is not taken into the project yet: it is of use while those are cut as they were."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from knitground.core.project.model import Project
from knitground.core.sheet.cut import Cut
from knitground.core.tiles.tile import TileRef


@dataclass(frozen=True)
class FoundOn:
    """The cuts that something was found on, by (sheet, cut)."""

    cuts: Mapping[tuple[str, str], Cut]

    @classmethod
    def of(cls, project: Project, refs: Iterable[TileRef]) -> "FoundOn":
        """The cuts of tiles.

        Parameters
        ----------
        project : Project
        refs : iterable of TileRef
        """
        keys = {(ref.sheet, ref.cut) for ref in refs}
        return cls({key: cut for key, cut in project.cuts.items() if key in keys})

    def holds(self, project: Project) -> bool:
        """Whether all of them are there and cut as they were; how their tiles stand, or which count, may be other."""
        now = project.cuts
        return all(key in now and _grid_of(now[key]) == _grid_of(cut) for key, cut in self.cuts.items())


def _grid_of(cut: Cut) -> Cut:
    return replace(cut, left_out=(), taken_in=(), anchor=None, offset_x=0, offset_y=0, shape="square", foot=None)
