"""What a join set is: terrains, and the terrain that each tile shows at its corners or edges."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from knitground.core.sheet.picture import Colour
from knitground.core.tiles.tile import TileRef

MOST_TERRAINS = 32
CORNERS = ("north-west", "north-east", "south-east", "south-west")
EDGES = ("north", "east", "south", "west")

JoinKind = Literal["corner", "edge"]
Label = Annotated[int, Field(ge=0, le=MOST_TERRAINS)]
Labels = tuple[Label, Label, Label, Label]


@dataclass(frozen=True)
class Terrain:
    """Something a ground can be covered with, known by a colour and a letter."""

    __pydantic_config__ = ConfigDict(extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=60)]
    letter: Annotated[str, Field(min_length=1, max_length=1)]
    colour: Colour


Terrains = Annotated[tuple[Terrain, ...], Field(max_length=MOST_TERRAINS)]


@dataclass(frozen=True)
class JoinSet:
    """Tiles labelled at four places with the number of a terrain, from 1.

    Corner labels go round from the north-west, edge labels from the north, both clockwise. Where `bare` is set,
    0 says that nothing lies there, and tiles may border on nothing; else a tile with a 0 is not finished, and is
    not laid.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    kind: JoinKind
    terrains: Terrains
    bare: bool = False
    labels: Mapping[TileRef, Labels] = field(default_factory=dict)

    @property
    def places(self) -> tuple[str, str, str, str]:
        """Names of the four labelled places, in the order of the labels."""
        return CORNERS if self.kind == "corner" else EDGES


def finished(join_set: JoinSet) -> dict[TileRef, Labels]:
    """The labels of the tiles that can be laid: those with all four, or any where tiles may border on nothing."""
    return {ref: labels for ref, labels in join_set.labels.items() if join_set.bare or all(labels)}


def with_label(join_set: JoinSet, ref: TileRef, place: int, terrain: int) -> Mapping[TileRef, Labels]:
    """The set's labels after one is painted; a tile without any label left is no part of the set.

    Parameters
    ----------
    place : int
        Index into `JoinSet.places`.
    terrain : int
        Number of the terrain, 0 to take the label away.
    """
    row = list(join_set.labels.get(ref, (0, 0, 0, 0)))
    row[place] = terrain
    labels = dict(join_set.labels)
    if any(row):
        labels[ref] = (row[0], row[1], row[2], row[3])
    else:
        labels.pop(ref, None)
    return labels
