"""What a join set is: terrains, and the terrain that each tile shows at its corners, its edges, both, or all over."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from knitground.core.errors import BadRequest
from knitground.core.sheet.picture import Colour
from knitground.core.tiles.tile import TileRef

MOST_TERRAINS = 32
CORNERS = ("north-west", "north-east", "south-east", "south-west")
EDGES = ("north", "east", "south", "west")

MIDDLE = 8
"""The place of the middle among the labels of a cell set."""

JoinKind = Literal["corner", "edge", "full", "cell"]
PLACES: dict[JoinKind, tuple[str, ...]] = {
    "corner": CORNERS, "edge": EDGES, "full": CORNERS + EDGES, "cell": (*CORNERS, *EDGES, "middle"),
}  # fmt: skip
Label = Annotated[int, Field(ge=0, le=MOST_TERRAINS)]
Labels = tuple[int, ...]
FiledLabels = Annotated[tuple[Label, ...], Field(min_length=4, max_length=9)]


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
    """Tiles labelled at four, eight or nine places with the number of a terrain, from 1.

    Corner labels go round from the north-west, edge labels from the north, both clockwise; a full set has the four
    corners before the four edges. Where `bare` is set, 0 says that nothing lies there, and tiles may border on
    nothing; else a tile with a 0 is not finished, and is not laid. `turns` lets tiles be laid in quarter turns,
    `mirrors_x` mirrored left to right and `mirrors_y` top to bottom, for combinations that no tile shows as drawn.

    In a cell set the ninth label, the middle, is what the tile is; the others say what lies in the eight cells round
    it. 0 there stands for nothing, or for the terrain `ground`, and so does any terrain that no tile shows beside that
    middle. A corner counts only where the tile goes on over both edges beside it.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: str
    kind: JoinKind
    terrains: Terrains
    bare: bool = False
    labels: Mapping[TileRef, FiledLabels] = field(default_factory=dict)
    turns: bool = False
    mirrors_x: bool = False
    mirrors_y: bool = False
    ground: Label = 0

    @property
    def places(self) -> tuple[str, ...]:
        """Names of the labelled places, in the order of the labels."""
        return PLACES[self.kind]

    @property
    def blank(self) -> Labels:
        """The labels of a tile that has none."""
        return (0,) * len(self.places)

    @property
    def numbers(self) -> range:
        """What may lie at a place: the terrains, and 0 where tiles may border on nothing."""
        return range(0 if self.bare or self.kind == "cell" else 1, len(self.terrains) + 1)


def finished(join_set: JoinSet) -> dict[TileRef, Labels]:
    """The labels of the tiles that can be laid: those with all of them, or any where tiles may border on nothing.

    Of a cell set those with a middle, in the form in which combinations are compared.
    """
    if join_set.kind == "cell":
        corners = any(any(labels[:4]) for labels in join_set.labels.values())
        return {
            ref: formed(labels, join_set.ground, corners=corners)
            for ref, labels in join_set.labels.items()
            if labels[MIDDLE]
        }
    return {ref: labels for ref, labels in join_set.labels.items() if join_set.bare or all(labels)}


def formed(labels: Labels, ground: int, *, corners: bool = True) -> Labels:
    """The labels of a cell tile as they count: a corner only where the tile goes on over both edges beside it.

    Parameters
    ----------
    labels : nine ints
    ground : int
        What 0 round the middle stands for.
    corners : bool
        Whether corners count at all.
    """
    middle = labels[MIDDLE]
    edges = [edge or ground for edge in labels[4:8]]
    goes_on = [corners and edges[place - 1] == edges[place] == middle for place in range(4)]
    return (*((corner or ground) if on else 0 for corner, on in zip(labels[:4], goes_on, strict=True)), *edges, middle)


def with_label(join_set: JoinSet, ref: TileRef, place: int, terrain: int) -> Mapping[TileRef, Labels]:
    """The set's labels after one is painted; a tile without any label left is no part of the set.

    Parameters
    ----------
    place : int
        Index into `JoinSet.places`.
    terrain : int
        Number of the terrain, 0 to take the label away.
    """
    row = list(join_set.labels.get(ref, join_set.blank))
    row[place] = terrain
    return with_labels(join_set, {ref: tuple(row)})


def with_labels(join_set: JoinSet, new: Mapping[TileRef, Labels]) -> Mapping[TileRef, Labels]:
    """The set's labels after whole tiles are labelled anew; one that gets only zeros is no part of the set.

    Raises
    ------
    BadRequest
        If labels are those of a set of another kind, or of terrains that the set does not have.
    """
    for row in new.values():
        if len(row) != len(join_set.places) or max(row) > len(join_set.terrains):
            raise BadRequest(
                f"“{join_set.name}” has other places or terrains than what it is to take; choose that anew."
            )
    labels = {**join_set.labels, **new}
    return {ref: row for ref, row in labels.items() if any(row)}


def letters(join_set: JoinSet, labels: Labels) -> str:
    """A combination as the letters of its terrains, a dot for nothing: corners, then edges, then the middle."""
    signs = [join_set.terrains[number - 1].letter if number else "·" for number in labels]
    return " / ".join(" ".join(part) for part in (signs[:4], signs[4:8], signs[8:]) if part)
