"""What a stitch is.

A stitched layer holds a plan: a mark in each cell. A stitch looks at the eight neighbours of a cell with a certain
mark and says of each whether it must bear the same mark (V), another (-), or whichever (.); the first stitch
of the set that matches lays its tile. Off the map the plan goes on as at the border.
"""

from dataclasses import dataclass
from typing import Annotated

from pydantic import ConfigDict, Field

from knitground.core.joins.sets import MOST_TERRAINS, Terrains
from knitground.core.tiles.tile import TileRef

SAME, OTHER, ANY = "V", "-", "."
NEIGHBOURS = ((-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1))
"""Row and column steps to the neighbours, in reading order, as a chart writes them."""

Chart = Annotated[str, Field(pattern=r"^[V.\-]{8}$")]
Mark = Annotated[int, Field(ge=1, le=MOST_TERRAINS)]


@dataclass(frozen=True)
class Stitch:
    """A rule: cells with this mark whose neighbours fit the chart get this tile (none: are left empty)."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    mark: Mark
    chart: Chart
    tile: TileRef | None = None


@dataclass(frozen=True)
class StitchSet:
    """Marks to plan with, and an ordered list of rules."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    marks: Terrains
    stitches: tuple[Stitch, ...] = ()


def turned(chart: str, turns: int) -> str:
    """The chart after quarter turns clockwise."""
    ring = (0, 1, 2, 4, 7, 6, 5, 3)
    cells = list(chart)
    for place, target in enumerate(ring):
        cells[ring[(place + 2 * turns) % 8]] = chart[target]
    return "".join(cells)
