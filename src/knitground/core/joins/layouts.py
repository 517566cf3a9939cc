"""Arrangements: which labels the tiles of a block of cells bear, so that a sheet laid out in a known way is
labelled in one go.

In an arrangement terrain 1 lies inside, and 0 is whatever lies outside. It is laid over a block with two terrains of
a set in place of these; tiles that bear nothing but the outside keep no label where the outside is nothing.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from itertools import product
from typing import Annotated

import numpy as np
from pydantic import ConfigDict, Field

from knitground.core.joins.coverage import is_formed
from knitground.core.joins.lattice import POINTS, doubled, labels_of
from knitground.core.joins.proof import proof_corners
from knitground.core.joins.sets import FiledLabels, JoinKind, Labels
from knitground.core.tiles.tile import TileRef

Place = Annotated[str, Field(pattern=r"^[0-9]+,[0-9]+$")]


@dataclass(frozen=True)
class Arrangement:
    """Labels for a block of cells.

    Attributes
    ----------
    tiles : mapping of "column,row" to labels
        Counted from the block's first cell; numbers name the arrangement's own terrains from 1, 0 being the outside.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    id: str
    name: Annotated[str, Field(min_length=1, max_length=80)]
    kind: JoinKind
    tiles: Mapping[Place, FiledLabels]

    @property
    def size(self) -> tuple[int, int]:
        """Columns and rows of the block."""
        spots = [_spot(place) for place in self.tiles]
        return 1 + max(column for column, _ in spots), 1 + max(row for _, row in spots)

    @property
    def terrains(self) -> int:
        """How many terrains it names, the outside not counted."""
        return max(max(labels) for labels in self.tiles.values())


def arranged(arrangement: Arrangement, first: TileRef, inside: list[int], outside: int) -> dict[TileRef, Labels]:
    """The labels that an arrangement gives to a block of tiles.

    Parameters
    ----------
    first : TileRef
        The tile at the block's top left.
    inside : list of int
        Numbers of the terrains for those that the arrangement names, in order.
    outside : int
        Number of the terrain outside, 0 for nothing.
    """
    numbers = [outside, *inside]
    return {
        first._replace(column=first.column + column, row=first.row + row): tuple(numbers[label] for label in labels)
        for place, labels in arrangement.tiles.items()
        for column, row in [_spot(place)]
    }


def learned(name: str, arrangement_id: str, kind: JoinKind, labels: Mapping[TileRef, Labels]) -> Arrangement:
    """The arrangement of a labelled block, to be laid over the next sheet.

    Parameters
    ----------
    labels : mapping of TileRef to labels
        Tiles of one cut. The terrain of the lowest number counts as the outside.
    """
    numbers = sorted({number for row in labels.values() for number in row})
    left, top = min(ref.column for ref in labels), min(ref.row for ref in labels)
    tiles = {
        f"{ref.column - left},{ref.row - top}": tuple(numbers.index(number) for number in row)
        for ref, row in sorted(labels.items(), key=lambda item: (item[0].row, item[0].column))
    }
    return Arrangement(arrangement_id, name, kind, tiles)


@cache
def known_arrangements() -> tuple[Arrangement, ...]:
    """The arrangements that sheets commonly come in."""
    return (
        Arrangement("corners-joined", "16 corners, 4 x 4, joined on the sheet", "corner", _joined_corners()),
        Arrangement(
            "corners-counted", "16 corners, 4 x 4, counted from the north-west", "corner", _counted("corner", 4)
        ),
        Arrangement("patch-and-nooks", "A patch of 3 x 3 and four inner corners", "corner", _patch_and_nooks()),
        Arrangement("edges-box", "16 edges, 4 x 4, box and ends", "edge", _edge_box()),
        Arrangement("edges-counted", "16 edges, 4 x 4, counted from the north", "edge", _counted("edge", 4)),
        Arrangement("full-counted", "47 corners and edges, 8 x 6, counted", "full", _counted("full", 8)),
        Arrangement("full-blocks", "47 corners and edges, 11 x 5, lines, patch and the rest", "full", _full_blocks()),
        Arrangement("cells-counted", "47 cells, 8 x 6, counted", "cell", _as_cells(_counted("full", 8))),
        Arrangement("cells-blocks", "47 cells, 11 x 5, lines, patch and the rest", "cell", _as_cells(_full_blocks())),
        Arrangement("cells-box", "16 cells, 4 x 4, box and ends", "cell", _as_cells(_edge_box())),
        Arrangement("cells-few", "16 cells, 4 x 4, counted from the north", "cell", _as_cells(_counted("edge", 4))),
    )


def _spot(place: str) -> tuple[int, int]:
    column, row = place.split(",")
    return int(column), int(row)


def _joined_corners() -> dict[str, Labels]:
    """The smallest wrapping ground with all corners, just as it lies."""
    lattice = doubled({"corners": proof_corners([0, 1])})
    found = labels_of(lattice, "corner")
    return {f"{column},{row}": tuple(found[row, column].tolist()) for row, column in product(range(4), repeat=2)}


def _counted(kind: JoinKind, columns: int) -> dict[str, Labels]:
    """All combinations in the order of the binary numbers that their labels make, the first place counting one."""
    every = sorted((row[::-1] for row in product((0, 1), repeat=len(POINTS[kind]))), key=lambda row: row[::-1])
    kept = [row for row in every if kind != "full" or is_formed(row)]
    return {f"{number % columns},{number // columns}": row for number, row in enumerate(kept)}


def _as_cells(tiles: dict[str, Labels]) -> dict[str, Labels]:
    """The same for cell tiles, round whose middle corners and edges go together as areas and runs do."""
    return {place: (*(0,) * (8 - len(labels)), *labels, 1) for place, labels in tiles.items()}


def _patch_and_nooks() -> dict[str, Labels]:
    patch, hole = np.zeros((4, 4), dtype=np.uint8), np.ones((3, 3), dtype=np.uint8)
    patch[1:3, 1:3], hole[1, 1] = 1, 0
    tiles = {}
    for lattice, left in ((patch, 0), (hole, 3)):
        found = labels_of(doubled({"corners": lattice}), "corner")
        for row, column in product(range(found.shape[0]), range(found.shape[1])):
            tiles[f"{left + column},{row}"] = tuple(found[row, column].tolist())
    return tiles


_RUN = ((0, 1), (1, 1), (1, 0), (0, 0))
"""Beginning, middle and end of a run, and what stands alone: whether it goes on before and behind."""


def _edge_box() -> dict[str, Labels]:
    return {
        f"{column},{row}": (north, east, south, west)
        for row, (north, south) in enumerate(_RUN)
        for column, (west, east) in enumerate(_RUN)
    }


def _full_blocks() -> dict[str, Labels]:
    """Lines as in the box of edges, then a patch with its middle, then all the rest in counting order."""
    tiles: dict[str, Labels] = {place: (0, 0, 0, 0, *edges) for place, edges in _edge_box().items()}
    for row, (north, south) in enumerate(_RUN[:3]):
        for column, (west, east) in enumerate(_RUN[:3]):
            corners = (north * west, north * east, south * east, south * west)
            tiles[f"{4 + column},{row}"] = (*corners, north, east, south, west)
    rest = [labels for labels in _counted("full", 8).values() if labels not in tiles.values()]
    free: Callable[[int, int], bool] = lambda column, row: column >= 7 or row >= 3  # noqa: E731
    spots = [(column, row) for row, column in product(range(5), range(4, 11)) if free(column, row)]
    tiles.update({f"{column},{row}": labels for (column, row), labels in zip(spots, rest, strict=False)})
    return tiles
